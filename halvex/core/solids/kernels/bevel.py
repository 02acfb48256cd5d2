"""Lay a profile over a roof: cut its triangles at the profile's levels, lift them, shade them.

Between two levels (a band) a profile is straight. Every point on a cut is shared by the triangles that
meet there. Where the profile stands upright at a level (a step), the points of that level exist twice,
low and high, and small walls join them; so the surface stays closed whatever the profile.
"""

import numpy as np
from numba import njit

from halvex.core.solids.skeleton.state import inlined, uncounted

# Heights this close to a level are on it: slivers far below a px would say nothing and shade badly.
SNAP_EM = 1e-7


@njit(cache=True, nogil=True)
def _levels_of(height, levels):
    """Snap heights to levels closer than SNAP_EM; returns the level each node is on, or -1."""
    on = np.full(len(height), -1, np.int64)
    for i in range(len(height)):
        k = np.searchsorted(levels, height[i])
        for near in (k - 1, k):
            if 0 <= near < len(levels) and abs(height[i] - levels[near]) < SNAP_EM:
                on[i] = near
                height[i] = levels[near]
    return on


@njit(cache=True, nogil=True)
def _cut_edges(triangles, nodes, height, levels, on):
    """Number the cut points of every undirected edge: (edge_of (m, 3), first cut, first level,
    nodes, heights, levels)."""
    m, count = len(triangles), len(nodes)
    keys = np.empty(3 * m, np.int64)
    for i in range(m):
        for side in range(3):
            a, b = triangles[i, side], triangles[i, (side + 1) % 3]
            keys[3 * i + side] = np.int64(min(a, b)) * count + max(a, b)
    order = np.argsort(keys)
    edge_of = np.empty((m, 3), np.int64)
    first_cut, first_level = np.empty(3 * m, np.int64), np.empty(3 * m, np.int64)
    edges, total = 0, count
    lo_node, hi_node = np.empty(3 * m, np.int64), np.empty(3 * m, np.int64)
    for q in range(3 * m):
        k = order[q]
        if q == 0 or keys[k] != keys[order[q - 1]]:
            a, b = keys[k] // count, keys[k] % count
            if height[a] > height[b]:
                a, b = b, a
            low = np.searchsorted(levels, height[a], side="right")
            high = np.searchsorted(levels, height[b], side="left")
            first_cut[edges], first_level[edges] = total, low
            lo_node[edges], hi_node[edges] = a, b
            total += max(high - low, 0)
            edges += 1
        edge_of[k // 3, k % 3] = edges - 1
    out, out_height = np.empty((total, 2)), np.empty(total)
    out_on = np.full(total, -1, np.int64)
    out[:count] = nodes
    out_height[:count] = height
    out_on[:count] = on
    for e in range(edges):
        end = first_cut[e + 1] if e + 1 < edges else total
        a, b = lo_node[e], hi_node[e]
        for c in range(first_cut[e], end):
            level = first_level[e] + c - first_cut[e]
            share = (levels[level] - height[a]) / (height[b] - height[a])
            out[c, 0] = nodes[a, 0] + share * (nodes[b, 0] - nodes[a, 0])
            out[c, 1] = nodes[a, 1] + share * (nodes[b, 1] - nodes[a, 1])
            out_height[c] = levels[level]
            out_on[c] = level
    return edge_of, first_cut, first_level, out, out_height, out_on


@njit(cache=True, nogil=True)
def pieces_of(triangles, height, levels):
    """How many pieces the levels cut triangles into, at most: for each the bands that it reaches,
    and one more."""
    pieces = 0
    for i in range(len(triangles)):
        h0, h1, h2 = height[triangles[i, 0]], height[triangles[i, 1]], height[triangles[i, 2]]
        lo, hi = min(h0, h1, h2), max(h0, h1, h2)
        first = max(np.searchsorted(levels, lo, side="right") - 1, 0)
        pieces += max(np.searchsorted(levels, hi, side="left") - first, 0) + 1
    return pieces


@njit(cache=True, nogil=True)
def _edges_on_levels(cut, band, on, stepped):
    """(sides of triangles that lie on level 0, triangles of the walls on stepped levels)."""
    rims, walls = 0, 0
    for i in range(len(cut)):
        b = band[i]
        for side in range(3):
            if on[cut[i, side]] == b and on[cut[i, (side + 1) % 3]] == b:
                rims += 1 if b == 0 else 0
                walls += 2 if stepped[b] else 0
    return rims, walls


@njit(cache=True, nogil=True)
def _cut_triangles(triangles, face, height, levels, edge_of, first_cut, first_level):
    """Divide triangles into bands: triangles (k, 3), band (k,), face (k,). Band b lies between
    levels b and b + 1."""
    bands = len(levels)
    # What a band leaves of a triangle has at most five corners, so it makes at most three triangles.
    room = 3 * pieces_of(triangles, height, levels)
    out, out_band, out_face = (
        np.empty((room, 3), np.int64),
        np.empty(room, np.int64),
        np.empty(room, np.int64),
    )
    count = 0
    ring = np.empty(9, np.int64)
    for i in range(len(triangles)):
        h0, h1, h2 = height[triangles[i, 0]], height[triangles[i, 1]], height[triangles[i, 2]]
        lo, hi = min(h0, h1, h2), max(h0, h1, h2)
        first = max(np.searchsorted(levels, lo, side="right") - 1, 0)
        for b in range(first, bands):
            low = levels[b]
            high = levels[b + 1] if b + 1 < bands else 1e300
            if low >= hi and not (lo == hi and low <= lo):
                break
            if high <= lo:
                continue
            n = 0
            for side in range(3):
                p, q = triangles[i, side], triangles[i, (side + 1) % 3]
                hp, hq = height[p], height[q]
                if low <= hp <= high:
                    ring[n] = p
                    n += 1
                base = first_cut[edge_of[i, side]] - first_level[edge_of[i, side]]
                if hp < hq:
                    if hp < low < hq:
                        ring[n] = base + b
                        n += 1
                    if hp < high < hq:
                        ring[n] = base + b + 1
                        n += 1
                elif hp > hq:
                    if hq < high < hp:
                        ring[n] = base + b + 1
                        n += 1
                    if hq < low < hp:
                        ring[n] = base + b
                        n += 1
            for k in range(1, n - 1):
                out[count, 0], out[count, 1], out[count, 2] = ring[0], ring[k], ring[k + 1]
                out_band[count], out_face[count] = b, face[i]
                count += 1
    return out[:count], out_band[:count], out_face[:count]


@inlined
def _inward(tracks, turn, e, x, y, h):
    """Inward horizontal direction at a point of face e, turning along curves as the outline does.

    At height h a facet reaches from the track of its start corner to that of its end corner; the
    direction is interpolated between the two in proportion, which is exact on concentric arcs.
    """
    s = tracks[e, 0] * x + tracks[e, 1] * y
    a = tracks[e, 2] + tracks[e, 3] * h
    b = tracks[e, 4] + tracks[e, 5] * h
    u = 0.5
    if abs(b - a) > 1e-12:
        u = min(max((s - a) / (b - a), 0.0), 1.0)
    nx = (1.0 - u) * turn[e, 0] + u * turn[e, 2]
    ny = (1.0 - u) * turn[e, 1] + u * turn[e, 3]
    length = max(np.sqrt(nx * nx + ny * ny), 1e-12)
    return nx / length, ny / length


@inlined
def _arc_length(tracks, arcs, e, x, y, h):
    """How far along the outline a point of face e lies.

    At a corner of the outline the face ends where it ends; where the outline goes on smoothly, what the
    facet has lost or gained at this height is spread over it, so that facets of a curve meet.
    """
    begin, end, base = arcs[e, 0], arcs[e, 1], arcs[e, 4]
    if end <= begin:
        return begin
    soft_begin, soft_end = arcs[e, 2] != 0.0, arcs[e, 3] != 0.0
    place = tracks[e, 0] * x + tracks[e, 1] * y - tracks[e, 2]
    place -= tracks[e, 3] * (h if soft_begin else base)
    if h == base or not (soft_begin or soft_end):
        return begin + place
    gained = (h - base) * ((tracks[e, 5] if soft_end else 0.0) - (tracks[e, 3] if soft_begin else 0.0))
    length = end - begin
    if length + gained < 1e-12:
        return 0.5 * (begin + end)
    along = place * length / (length + gained)
    if soft_begin and soft_end:
        along = min(max(along, 0.0), length)
    return begin + along


@njit(cache=True, nogil=True)
def _profile_lengths(levels, rise, tall):
    """(b, 2): the length of the profile from the foot to the begin of each band, steps with it, and its
    length per height of the band."""
    lengths = np.zeros((len(levels), 2))
    for k in range(1, len(levels)):
        over, up = levels[k] - levels[k - 1], (rise[k - 1, 1] - rise[k - 1, 0]) * tall
        length = np.sqrt(over * over + up * up)
        lengths[k - 1, 1] = length / over
        lengths[k, 0] = lengths[k - 1, 0] + length + abs(rise[k, 0] - rise[k - 1, 1]) * tall
    return lengths


@uncounted
def _fill(
    cut,
    band,
    cut_face,
    on,
    xy,
    h,
    upper,
    stepped,
    below,
    tracks,
    turn,
    wall_turn,
    arcs,
    levels,
    rise,
    tangents,
    lengths,
    width,
    tall,
    out,
    is_face,
    normals,
    uv,
    rim,
    rim_inward,
    rim_u,
):
    """Fill triangles, normals, uv and rim; returns how many triangles and rim edges there are."""
    bands = len(levels)
    count, rims = 0, 0
    for i in range(len(cut)):
        b, e = band[i], cut_face[i]
        for side in range(3):
            p, q = cut[i, side], cut[i, (side + 1) % 3]
            if on[p] != b or on[q] != b:
                continue
            if b == 0:
                rim[rims, 0], rim[rims, 1] = p, q
                rim_inward[rims, 0], rim_inward[rims, 1] = _inward(
                    tracks, wall_turn, e, xy[p, 0], xy[p, 1], h[p]
                )
                rim_inward[rims, 2], rim_inward[rims, 3] = _inward(
                    tracks, wall_turn, e, xy[q, 0], xy[q, 1], h[q]
                )
                rim_u[rims, 0] = _arc_length(tracks, arcs, e, xy[p, 0], xy[p, 1], h[p])
                rim_u[rims, 1] = _arc_length(tracks, arcs, e, xy[q, 0], xy[q, 1], h[q])
                rims += 1
            if stepped[b]:
                step = abs(rise[b, 0] - below[b]) * tall
                u_p = _arc_length(tracks, arcs, e, xy[p, 0], xy[p, 1], h[p])
                u_q = _arc_length(tracks, arcs, e, xy[q, 0], xy[q, 1], h[q])
                uv[count, 0, 0], uv[count, 0, 1] = u_p, lengths[b, 0] - step
                uv[count, 1, 0], uv[count, 1, 1] = u_q, lengths[b, 0] - step
                uv[count, 2, 0], uv[count, 2, 1] = u_q, lengths[b, 0]
                uv[count + 1, 0, 0], uv[count + 1, 0, 1] = u_p, lengths[b, 0] - step
                uv[count + 1, 1, 0], uv[count + 1, 1, 1] = u_q, lengths[b, 0]
                uv[count + 1, 2, 0], uv[count + 1, 2, 1] = u_p, lengths[b, 0]
                way = 1.0 if rise[b, 0] > below[b] else -1.0
                px, py = _inward(tracks, turn, e, xy[p, 0], xy[p, 1], h[p])
                qx, qy = _inward(tracks, turn, e, xy[q, 0], xy[q, 1], h[q])
                out[count, 0], out[count, 1], out[count, 2] = p, q, upper[q]
                out[count + 1, 0], out[count + 1, 1], out[count + 1, 2] = p, upper[q], upper[p]
                for k in range(2):
                    for corner in range(3):
                        at_q = corner == 1 if k == 1 else corner > 0
                        normals[count + k, corner, 0] = -way * (qx if at_q else px)
                        normals[count + k, corner, 1] = -way * (qy if at_q else py)
                        normals[count + k, corner, 2] = 0.0
                count += 2
        for corner in range(3):
            p = cut[i, corner]
            out[count, corner] = upper[p] if on[p] == b and upper[p] >= 0 else p
            if b == bands - 1:
                uv[count, corner, 0], uv[count, corner, 1] = xy[p, 0], xy[p, 1]
                normals[count, corner, 0], normals[count, corner, 1], normals[count, corner, 2] = (
                    0.0,
                    0.0,
                    1.0,
                )
                continue
            uv[count, corner, 0] = _arc_length(tracks, arcs, e, xy[p, 0], xy[p, 1], h[p])
            uv[count, corner, 1] = lengths[b, 0] + lengths[b, 1] * (h[p] - levels[b])
            share = min(max((h[p] - levels[b]) / (levels[b + 1] - levels[b]), 0.0), 1.0)
            along = ((1.0 - share) * tangents[b, 0] + share * tangents[b, 2]) * width
            up = ((1.0 - share) * tangents[b, 1] + share * tangents[b, 3]) * tall
            nx, ny = _inward(tracks, turn, e, xy[p, 0], xy[p, 1], h[p])
            length = max(np.sqrt(along * along + up * up), 1e-30)
            normals[count, corner, 0] = -nx * up / length
            normals[count, corner, 1] = -ny * up / length
            normals[count, corner, 2] = along / length
        is_face[count] = 1 if b == bands - 1 else 0
        count += 1
    return count, rims


@njit(cache=True, nogil=True)
def lay(nodes, height, triangles, face, tracks, turn, wall_turn, arcs, levels, rise, tangents, width, tall):
    """A profile over a roof.

    nodes (k, 2), height (k,) in em; triangles (m, 3); face (m,); per face: tracks (F, 6) (unit direction
    along the edge; start corner's place and speed along it; end corner's), turn (F, 4) inward directions
    at start and end, wall_turn (F, 4) the same for walls; arcs (F, 5): how far along the outline it
    begins and ends, whether the outline goes on smoothly there, and the height it begins at.

    Profile: levels (b,) ascending from 0 in em; rise (b, 2) of each band at its ends, in shares of
    `tall`; tangents (b, 4) (inwards, upwards) at the bands' ends in shares of `width` and `tall`. The
    last band, above the last level, is the face.

    Returns positions (v, 3), triangles (t, 3), is_face (t,), normals (t, 3, 3), rim (r, 2) the edges at
    level 0 in the order of the roof's triangles, rim_inward (r, 4) inward directions at their ends,
    uv (t, 3, 2) in em: on the face the place, on the bevel (length along the outline, distance across);
    rim_u (r, 2): the lengths along at the ends of the rim's edges.
    """
    height = height.copy()
    on = _levels_of(height, levels)
    edge_of, first_cut, first_level, xy, h, on = _cut_edges(triangles, nodes, height, levels, on)
    cut, band, cut_face = _cut_triangles(triangles, face, height, levels, edge_of, first_cut, first_level)
    bands = len(levels)
    points = len(xy)
    stepped = np.zeros(bands, np.uint8)
    below = np.zeros(bands)
    steps_at = 0
    for k in range(bands):
        below[k] = rise[k - 1, 1] if k > 0 else 0.0
        if abs(rise[k, 0] - below[k]) > 1e-12:
            stepped[k] = 1
    upper = np.full(points, -1, np.int64)
    total = points
    for i in range(points):
        if on[i] >= 0 and stepped[on[i]]:
            upper[i] = total
            total += 1
            steps_at += 1
    z = np.empty(total)
    for i in range(points):
        if on[i] >= 0:
            z[i] = below[on[i]]
            if upper[i] >= 0:
                z[upper[i]] = rise[on[i], 0]
        else:
            b = min(max(np.searchsorted(levels, h[i], side="right") - 1, 0), bands - 1)
            z[i] = rise[b, 0]
            if b + 1 < bands:
                z[i] += (rise[b, 1] - rise[b, 0]) * (h[i] - levels[b]) / (levels[b + 1] - levels[b])

    rim_count, wall_count = _edges_on_levels(cut, band, on, stepped)
    room = len(cut) + wall_count
    out = np.empty((room, 3), np.int64)
    is_face = np.zeros(room, np.uint8)
    normals = np.empty((room, 3, 3), np.float32)
    rim = np.empty((rim_count, 2), np.int64)
    rim_inward = np.empty((rim_count, 4))
    rim_u = np.empty((rim_count, 2))
    uv = np.empty((room, 3, 2), np.float32)
    lengths = _profile_lengths(levels, rise, tall)
    count, rims = _fill(
        cut,
        band,
        cut_face,
        on,
        xy,
        h,
        upper,
        stepped,
        below,
        tracks,
        turn,
        wall_turn,
        arcs,
        levels,
        rise,
        tangents,
        lengths,
        width,
        tall,
        out,
        is_face,
        normals,
        uv,
        rim,
        rim_inward,
        rim_u,
    )
    name = np.full(total, -1, np.int64)
    used = 0
    positions = np.empty((total, 3))
    for i in range(count):
        for corner in range(3):
            v = out[i, corner]
            if name[v] < 0:
                name[v] = used
                p = v if v < points else 0
                positions[used, 2] = z[v] * tall
                if v < points:
                    positions[used, 0], positions[used, 1] = xy[p, 0], xy[p, 1]
                used += 1
            out[i, corner] = name[v]
    for i in range(points):
        if upper[i] >= 0 and name[upper[i]] >= 0:
            positions[name[upper[i]], 0], positions[name[upper[i]], 1] = xy[i, 0], xy[i, 1]
    for i in range(rims):
        rim[i, 0], rim[i, 1] = name[rim[i, 0]], name[rim[i, 1]]
    return (
        positions[:used],
        out[:count].astype(np.int32),
        is_face[:count],
        normals[:count],
        rim[:rims],
        rim_inward[:rims],
        uv[:count],
        rim_u[:rims],
    )
