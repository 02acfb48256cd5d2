"""Lay a profile over a roof: cut its triangles at the profile's levels, lift them, shade them.

Between two levels (a band) a profile is straight. Every point on a cut is shared by the triangles that
meet there. Where the profile stands upright at a level (a step), the points of that level exist twice,
low and high, and small walls join them; so the surface stays closed whatever the profile.
"""

from typing import NamedTuple

import numpy as np
from numba import njit

from halvex.core.solids.skeleton.state import inlined, step, uncounted

# Heights this close to a level are on it: slivers far below a px would say nothing and shade badly.
SNAP_EM = 1e-7


class Facets(NamedTuple):
    """The faces of a roof, over one edge of the outline each.

    tracks (F, 6): unit direction along the edge; the start corner's place along it and the speed at which
    that moves with the height; the same of the end corner. turn (F, 4): inward directions at start and end;
    wall_turn (F, 4): the same for walls. arcs (F, 5): how far along the outline the edge begins and ends,
    whether the outline continues smoothly there, and the height at which the facet begins.
    """

    tracks: np.ndarray
    turn: np.ndarray
    wall_turn: np.ndarray
    arcs: np.ndarray


class Profile(NamedTuple):
    """A profile as bands, from the outline inwards.

    levels (b,) ascending from 0 in em; rise (b, 2) of each band at its ends, in shares of `tall`; tangents
    (b, 4) (inwards, upwards) at the bands' ends in shares of `width` and `tall`. The last band, above the
    last level, is the face.
    """

    levels: np.ndarray
    rise: np.ndarray
    tangents: np.ndarray
    width: float
    tall: float


class Laid(NamedTuple):
    """What a profile makes of a roof.

    triangles (t, 3), is_face (t,), normals (t, 3, 3); rim (r, 2): the edges at level 0 in the order of the
    roof's triangles, rim_inward (r, 4): inward directions at their ends; uv (t, 3, 2) in em: on the face the
    place, on the bevel (length along the outline, distance across); rim_u (r, 2): the lengths along at the
    ends of the rim's edges.
    """

    triangles: np.ndarray
    is_face: np.ndarray
    normals: np.ndarray
    rim: np.ndarray
    rim_inward: np.ndarray
    uv: np.ndarray
    rim_u: np.ndarray


class _Cut(NamedTuple):
    """A roof cut at a profile's levels: triangles (k, 3), the band and the face of each; per point the level
    that it is on or -1, its place, its height, and the number of its twin at the top of a step or -1."""

    triangles: np.ndarray
    band: np.ndarray
    face: np.ndarray
    on: np.ndarray
    xy: np.ndarray
    height: np.ndarray
    upper: np.ndarray


class _Over(NamedTuple):
    """What a profile does over facets, level by level: whether it steps up or down there (b,), how high it is
    below the step (b,), in shares of `tall`; and `_profile_lengths`."""

    facets: Facets
    profile: Profile
    stepped: np.ndarray
    below: np.ndarray
    lengths: np.ndarray


@step
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


@step
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


@step
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


@step
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


@step
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


@inlined
def _add_rim(facets, cut, e, p, q, laid, at):
    """The edge from p to q at the foot of the profile, which face e ends in."""
    laid.rim[at, 0], laid.rim[at, 1] = p, q
    for side, point in ((0, p), (1, q)):
        x, y, h = cut.xy[point, 0], cut.xy[point, 1], cut.height[point]
        inward = _inward(facets.tracks, facets.wall_turn, e, x, y, h)
        laid.rim_inward[at, 2 * side], laid.rim_inward[at, 2 * side + 1] = inward
        laid.rim_u[at, side] = _arc_length(facets.tracks, facets.arcs, e, x, y, h)


@inlined
def _add_wall(facets, cut, e, p, q, across, laid, at):
    """The two triangles of a wall over the edge from p to q of face e; across: how far across the profile its
    foot and its top lie, and 1 where it faces outwards, -1 where it faces inwards."""
    foot, top, way = across
    up_p, up_q = cut.upper[p], cut.upper[q]
    u_p = _arc_length(facets.tracks, facets.arcs, e, cut.xy[p, 0], cut.xy[p, 1], cut.height[p])
    u_q = _arc_length(facets.tracks, facets.arcs, e, cut.xy[q, 0], cut.xy[q, 1], cut.height[q])
    px, py = _inward(facets.tracks, facets.turn, e, cut.xy[p, 0], cut.xy[p, 1], cut.height[p])
    qx, qy = _inward(facets.tracks, facets.turn, e, cut.xy[q, 0], cut.xy[q, 1], cut.height[q])
    laid.triangles[at, 0], laid.triangles[at, 1], laid.triangles[at, 2] = p, q, up_q
    laid.triangles[at + 1, 0], laid.triangles[at + 1, 1], laid.triangles[at + 1, 2] = p, up_q, up_p
    for k in range(2):
        for corner in range(3):
            at_q = corner == 1 if k == 1 else corner > 0
            at_top = corner == 2 or (k == 1 and corner == 1)
            laid.uv[at + k, corner, 0] = u_q if at_q else u_p
            laid.uv[at + k, corner, 1] = top if at_top else foot
            laid.normals[at + k, corner, 0] = -way * (qx if at_q else px)
            laid.normals[at + k, corner, 1] = -way * (qy if at_q else py)
            laid.normals[at + k, corner, 2] = 0.0


@inlined
def _shade_corner(over, cut, i, p, laid, at, corner):
    """The normal and the uv of point p of cut triangle i, below the face, as a corner of triangle `at`."""
    facets, profile, lengths = over.facets, over.profile, over.lengths
    levels, tangents = profile.levels, profile.tangents
    b, e = cut.band[i], cut.face[i]
    x, y, h = cut.xy[p, 0], cut.xy[p, 1], cut.height[p]
    laid.uv[at, corner, 0] = _arc_length(facets.tracks, facets.arcs, e, x, y, h)
    laid.uv[at, corner, 1] = lengths[b, 0] + lengths[b, 1] * (h - levels[b])
    share = min(max((h - levels[b]) / (levels[b + 1] - levels[b]), 0.0), 1.0)
    along = ((1.0 - share) * tangents[b, 0] + share * tangents[b, 2]) * profile.width
    up = ((1.0 - share) * tangents[b, 1] + share * tangents[b, 3]) * profile.tall
    nx, ny = _inward(facets.tracks, facets.turn, e, x, y, h)
    length = max(np.sqrt(along * along + up * up), 1e-30)
    laid.normals[at, corner, 0] = -nx * up / length
    laid.normals[at, corner, 1] = -ny * up / length
    laid.normals[at, corner, 2] = along / length


@uncounted
def _fill(cut, over, laid):
    """Fill what is laid; returns how many triangles and rim edges there are."""
    facets, profile = over.facets, over.profile
    bands = len(profile.levels)
    count, rims = 0, 0
    for i in range(len(cut.triangles)):
        b, e = cut.band[i], cut.face[i]
        for side in range(3):
            p, q = cut.triangles[i, side], cut.triangles[i, (side + 1) % 3]
            if cut.on[p] != b or cut.on[q] != b:
                continue
            if b == 0:
                _add_rim(facets, cut, e, p, q, laid, rims)
                rims += 1
            if over.stepped[b]:
                rise = profile.rise[b, 0] - over.below[b]
                foot = over.lengths[b, 0] - abs(rise) * profile.tall
                across = foot, over.lengths[b, 0], 1.0 if rise > 0.0 else -1.0
                _add_wall(facets, cut, e, p, q, across, laid, count)
                count += 2
        for corner in range(3):
            p = cut.triangles[i, corner]
            laid.triangles[count, corner] = cut.upper[p] if cut.on[p] == b and cut.upper[p] >= 0 else p
            if b < bands - 1:
                _shade_corner(over, cut, i, p, laid, count, corner)
                continue
            laid.uv[count, corner, 0], laid.uv[count, corner, 1] = cut.xy[p, 0], cut.xy[p, 1]
            laid.normals[count, corner, 0], laid.normals[count, corner, 1] = 0.0, 0.0
            laid.normals[count, corner, 2] = 1.0
        laid.is_face[count] = 1 if b == bands - 1 else 0
        count += 1
    return count, rims


@inlined
def _height_of(over, level, h):
    """How high, in shares of `tall`, the profile is over a point at height h of the roof, at the foot of the
    step where it lies on a level."""
    levels, rise = over.profile.levels, over.profile.rise
    if level >= 0:
        return over.below[level]
    b = min(max(np.searchsorted(levels, h, side="right") - 1, 0), len(levels) - 1)
    z = rise[b, 0]
    if b + 1 < len(levels):
        z += (rise[b, 1] - rise[b, 0]) * (h - levels[b]) / (levels[b + 1] - levels[b])
    return z


@step
def _over(facets, profile):
    levels, rise = profile.levels, profile.rise
    stepped = np.zeros(len(levels), np.uint8)
    below = np.zeros(len(levels))
    for k in range(len(levels)):
        below[k] = rise[k - 1, 1] if k > 0 else 0.0
        if abs(rise[k, 0] - below[k]) > 1e-12:
            stepped[k] = 1
    return _Over(facets, profile, stepped, below, _profile_lengths(levels, rise, profile.tall))


@step
def _cut_roof(nodes, height, triangles, face, over):
    """(the roof cut at the profile's levels, how many points it has with the twins on top of steps)."""
    levels = over.profile.levels
    height = height.copy()
    on = _levels_of(height, levels)
    edge_of, first_cut, first_level, xy, h, on = _cut_edges(triangles, nodes, height, levels, on)
    cut, band, cut_face = _cut_triangles(triangles, face, height, levels, edge_of, first_cut, first_level)
    upper = np.full(len(xy), -1, np.int64)
    total = len(xy)
    for i in range(len(xy)):
        if on[i] >= 0 and over.stepped[on[i]]:
            upper[i] = total
            total += 1
    return _Cut(cut, band, cut_face, on, xy, h, upper), total


@step
def _heights(cut, over, total):
    """How high every point and every twin is, in shares of `tall`: (total,)."""
    z = np.empty(total)
    for i in range(len(cut.xy)):
        z[i] = _height_of(over, cut.on[i], cut.height[i])
        if cut.upper[i] >= 0:
            z[cut.upper[i]] = over.profile.rise[cut.on[i], 0]
    return z


@step
def _nothing_laid(triangles, rims):
    return Laid(
        np.empty((triangles, 3), np.int64),
        np.zeros(triangles, np.uint8),
        np.empty((triangles, 3, 3), np.float32),
        np.empty((rims, 2), np.int64),
        np.empty((rims, 4)),
        np.empty((triangles, 3, 2), np.float32),
        np.empty((rims, 2)),
    )


@step
def _used_points(triangles, rim, cut, z):
    """Positions (v, 3) of the points that triangles (t, 3) use, which they and the rim (r, 2) then number."""
    points = len(cut.xy)
    name = np.full(len(z), -1, np.int64)
    used = 0
    positions = np.empty((len(z), 3))
    for i in range(len(triangles)):
        for corner in range(3):
            v = triangles[i, corner]
            if name[v] < 0:
                name[v] = used
                positions[used, 2] = z[v]
                if v < points:
                    positions[used, 0], positions[used, 1] = cut.xy[v, 0], cut.xy[v, 1]
                used += 1
            triangles[i, corner] = name[v]
    for i in range(points):
        if cut.upper[i] >= 0 and name[cut.upper[i]] >= 0:
            twin = name[cut.upper[i]]
            positions[twin, 0], positions[twin, 1] = cut.xy[i, 0], cut.xy[i, 1]
    for i in range(len(rim)):
        rim[i, 0], rim[i, 1] = name[rim[i, 0]], name[rim[i, 1]]
    return positions[:used]


@njit(cache=True, nogil=True)
def lay(nodes, height, triangles, face, facets, profile):
    """A profile over a roof: nodes (k, 2), height (k,) in em; triangles (m, 3); face (m,).

    Returns positions (v, 3) and what is `Laid`.
    """
    over = _over(facets, profile)
    cut, total = _cut_roof(nodes, height, triangles, face, over)
    rim_count, wall_count = _edges_on_levels(cut.triangles, cut.band, cut.on, over.stepped)
    laid = _nothing_laid(len(cut.triangles) + wall_count, rim_count)
    count, rims = _fill(cut, over, laid)
    out, rim = laid.triangles[:count], laid.rim[:rims]
    positions = _used_points(out, rim, cut, _heights(cut, over, total) * profile.tall)
    return positions, Laid(
        out,
        laid.is_face[:count],
        laid.normals[:count],
        rim,
        laid.rim_inward[:rims],
        laid.uv[:count],
        laid.rim_u[:rims],
    )
