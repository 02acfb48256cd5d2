"""Re-node and re-trace: one local operation for everything that touches at one time.

Each touched instance is cut at the clusters on it into pieces. Pieces that run both ways between two
clusters are a ridge and vanish. Around each cluster the remaining pieces are paired, innermost wedge
first, and each pair is a new vertex. No list of cases: an edge that vanishes, a reflex vertex that
splits an edge, vertices that meet head-on and whole strokes that collapse are all the same.
"""

import math

import numpy as np
from numba import njit

from halvex.core.solids.skeleton.contacts import collapse_time, expect, find_candidates, root
from halvex.core.solids.skeleton.state import (
    OVERFLOW,
    add_half_edge,
    add_node,
    add_vertex,
    end_vertex,
    inlined,
    position,
    uncounted,
)

MOST_OVERLAPS = 200


@njit(cache=True, nogil=True)
def _cut(w, active, m, t, parent, involved, split_u, split_v, splits, place, piece_edge, piece_from, a, b):
    """Cut every touched instance into pieces between points; a point is a cluster (its root) or a
    free vertex (-1 - v)."""
    count = 0
    on = np.empty(splits + 2, np.int64)
    along = np.empty(splits + 2)
    for k in range(m):
        u = active[k]
        o = w.next[u]
        start = root(parent, u) if involved[u] else -1 - u
        end = root(parent, o) if involved[o] else -1 - o
        e = w.right[u]
        n = 0
        for i in range(splits):
            if split_u[i] == u:
                r = root(parent, split_v[i])
                s = w.n[e, 1] * place[r, 0] - w.n[e, 0] * place[r, 1]
                j = n
                while j > 0 and along[j - 1] > s:
                    along[j], on[j] = along[j - 1], on[j - 1]
                    j -= 1
                along[j], on[j] = s, r
                n += 1
        if start < 0 and end < 0 and n == 0:
            continue
        here = start
        for i in range(n + 1):
            there = on[i] if i < n else end
            if there == here:
                continue
            if count >= len(a):
                w.tally[OVERFLOW] = 1
                return count
            piece_edge[count], piece_from[count], a[count], b[count] = e, u, here, there
            count += 1
            here = there
    return count


@inlined
def _point(w, code, t, place):
    if code >= 0:
        return place[code, 0], place[code, 1]
    return position(w, -1 - code, t)


@njit(cache=True, nogil=True)
def _place_clusters(w, active, m, t, parent, involved, place):
    """A cluster stands where its slowest vertex is: the slower, the better its place is known."""
    slowest = np.full(len(parent), 1e300)
    for k in range(m):
        v = active[k]
        if involved[v]:
            r = root(parent, v)
            speed = w.vel[v, 0] ** 2 + w.vel[v, 1] ** 2
            if speed < slowest[r]:
                slowest[r] = speed
                place[r, 0], place[r, 1] = position(w, v, t)


@uncounted
def _list_leaving(count, a, first, following):
    """The pieces that leave each cluster, as lists in ascending order: first (clusters,), following
    (count,), -1 at the end."""
    for r in range(len(first)):
        first[r] = -1
    for i in range(count - 1, -1, -1):
        if a[i] >= 0:
            following[i] = first[a[i]]
            first[a[i]] = i


@uncounted
def _overlap(w, eps, count, piece_edge, a, b, first, following):
    """A piece that ends at a cluster and one that leaves back over it: (i, j), or (-1, -1)."""
    for i in range(count):
        if b[i] < 0:
            continue
        j = first[b[i]]
        while j >= 0:
            ei, ej = piece_edge[i], piece_edge[j]
            dot = w.n[ei, 0] * w.n[ej, 0] + w.n[ei, 1] * w.n[ej, 1]
            cross = w.n[ei, 0] * w.n[ej, 1] - w.n[ei, 1] * w.n[ej, 0]
            if i != j and a[i] != b[j] and dot < 0.0 and abs(cross) < eps:
                return i, j
            j = following[j]
    return -1, -1


@uncounted
def _resolve_overlap(w, t, eps, i, j, place, parent, involved, piece_from, a, b, split_u, split_v, splits):
    """Node the nearer far end of an overlapping pair onto the other's instance, or merge the two ends."""
    cx, cy = place[b[i], 0], place[b[i], 1]
    xx, xy = _point(w, a[i], t, place)
    yx, yy = _point(w, b[j], t, place)
    dx, dy = np.hypot(xx - cx, xy - cy), np.hypot(yx - cx, yy - cy)
    x = -1 - a[i] if a[i] < 0 else a[i]
    y = -1 - b[j] if b[j] < 0 else b[j]
    if abs(dx - dy) <= 2.0 * eps:
        involved[x] = 1
        involved[y] = 1
        parent[root(parent, y)] = root(parent, x)
        return splits
    if splits >= len(split_u):
        w.tally[OVERFLOW] = 1
        return splits
    if dx < dy:
        involved[x] = 1
        split_u[splits], split_v[splits] = piece_from[j], x
    else:
        involved[y] = 1
        split_u[splits], split_v[splits] = piece_from[i], y
    return splits + 1


@uncounted
def _pair(w, count, piece_edge, b, gone, leaving, following, arriving, before, taken, partner):
    """Pair arriving with leaving pieces around each cluster, smallest clockwise angle first.

    leaving, following: the pieces that leave each cluster (`_list_leaving`); arriving (clusters,)
    and before (count,) are filled with those that arrive. partner[i] is the piece that leaves where
    piece i arrives; -1 where it ends at a free vertex. `taken` (count,) starts as 0.
    """
    for r in range(len(arriving)):
        arriving[r] = -1
    for i in range(count - 1, -1, -1):
        partner[i] = -1
        if b[i] >= 0 and not gone[i]:
            before[i] = arriving[b[i]]
            arriving[b[i]] = i
    for r in range(len(arriving)):
        while arriving[r] >= 0:
            best, bi, bj = 1e300, -1, -1
            i = arriving[r]
            while i >= 0:
                ei = piece_edge[i]
                rx, ry = -w.n[ei, 1], w.n[ei, 0]
                j = leaving[r] if partner[i] < 0 else -1
                while j >= 0:
                    ej = piece_edge[j]
                    dx, dy = w.n[ej, 1], -w.n[ej, 0]
                    angle = math.atan2(-(rx * dy - ry * dx), rx * dx + ry * dy)
                    if angle < 0.0:
                        angle += 2.0 * math.pi
                    if angle < best and not gone[j] and not taken[j]:
                        best, bi, bj = angle, i, j
                    j = following[j]
                i = before[i]
            if bi < 0:
                break
            partner[bi] = bj
            taken[bj] = 1


@njit(cache=True, nogil=True)
def _finish_loops(w, t, born, n_born):
    """Rings of two vertices have no area left: they are a ridge. Rings of one vertex are nothing."""
    for k in range(n_born):
        v = born[k]
        if not w.alive[v]:
            continue
        o = w.next[v]
        if o == v:
            w.alive[v] = 0
        elif w.next[o] == v:
            ends = np.empty(2, np.int64)
            for i in range(2):
                q = v if i == 0 else np.int64(o)
                node = w.node[q]
                if w.t0[q] < t:
                    x, y = position(w, q, t)
                    node = add_node(w, x, y, t)
                ends[i] = node
                end_vertex(w, q, node)
            if ends[0] != ends[1]:
                add_half_edge(w, w.right[v], ends[1], ends[0])
                add_half_edge(w, w.right[o], ends[0], ends[1])


@njit(cache=True, nogil=True)
def operate(w, active, m, t, eps, parent, involved, split_u, split_v, splits, place, born):
    """Resolve all contacts of time t. Returns the number of new vertices, listed in `born`; -1 on failure."""
    room = 2 * m + 2 * len(split_u) + 8
    piece_edge, piece_from = np.empty(room, np.int64), np.empty(room, np.int64)
    a, b = np.empty(room, np.int64), np.empty(room, np.int64)
    leaving, following = np.empty(len(parent), np.int64), np.empty(room, np.int64)
    count = 0
    for turn in range(MOST_OVERLAPS):
        _place_clusters(w, active, m, t, parent, involved, place)
        count = _cut(
            w, active, m, t, parent, involved, split_u, split_v, splits, place, piece_edge, piece_from, a, b
        )
        _list_leaving(count, a, leaving, following)
        i, j = _overlap(w, eps, count, piece_edge, a, b, leaving, following)
        if i < 0:
            break
        splits = _resolve_overlap(
            w, t, eps, i, j, place, parent, involved, piece_from, a, b, split_u, split_v, splits
        )
        if turn == MOST_OVERLAPS - 1 or w.tally[OVERFLOW]:
            return -1

    node_of = np.full(len(parent), -1, np.int64)
    for k in range(m):
        v = active[k]
        if involved[v]:
            r = root(parent, v)
            if node_of[r] < 0:
                node_of[r] = add_node(w, place[r, 0], place[r, 1], t)
            end_vertex(w, v, node_of[r])

    gone = np.zeros(count, np.uint8)
    for i in range(count):
        if gone[i] or a[i] < 0 or b[i] < 0:
            continue
        j = leaving[b[i]]
        while j >= 0:
            if j > i and not gone[j] and b[j] == a[i]:
                gone[i] = 1
                gone[j] = 1
                add_half_edge(w, piece_edge[i], node_of[b[i]], node_of[a[i]])
                add_half_edge(w, piece_edge[j], node_of[a[i]], node_of[b[i]])
                break
            j = following[j]

    partner = np.empty(count, np.int64)
    arriving, before = np.empty(len(parent), np.int64), np.empty(count, np.int64)
    _pair(
        w,
        count,
        piece_edge,
        b,
        gone,
        leaving,
        following,
        arriving,
        before,
        np.zeros(count, np.uint8),
        partner,
    )
    start, end = np.full(count, -1, np.int64), np.full(count, -1, np.int64)
    through = np.full(count, -1, np.int64)
    n_born = 0
    for i in range(count):
        if gone[i]:
            continue
        if a[i] < 0:
            start[i] = -1 - a[i]
        if b[i] < 0:
            end[i] = -1 - b[i]
            continue
        j = partner[i]
        if j < 0:
            return -1
        if piece_edge[i] == piece_edge[j]:
            through[j] = i
            continue
        r = b[i]
        v = add_vertex(w, piece_edge[i], piece_edge[j], place[r, 0], place[r, 1], t, node_of[r])
        if n_born >= len(born) or w.tally[OVERFLOW]:
            return -1
        born[n_born] = v
        n_born += 1
        end[i] = v
        start[j] = v
    for i in range(count):
        if gone[i] or end[i] < 0:
            continue
        s = i
        for _ in range(count):
            if start[s] >= 0:
                break
            s = through[s]
            if s < 0:
                return -1
        if start[s] < 0:
            return -1
        w.next[start[s]] = end[i]
        w.prev[end[i]] = start[s]
    _finish_loops(w, t, born, n_born)
    for k in range(n_born):
        v = born[k]
        if w.alive[v]:
            w.collapse[v] = collapse_time(w, v, t)
            w.collapse[w.prev[v]] = collapse_time(w, w.prev[v], t)
            find_candidates(w, v, t, eps)
            expect(w, v)
            expect(w, w.prev[v])
    return n_born
