"""Re-node and re-trace: one local operation for everything that touches at one time.

Each touched instance is cut at the clusters on it into pieces. Pieces that run both ways between two
clusters are a ridge and vanish. Around each cluster the remaining pieces are paired, innermost wedge
first, and each pair is a new vertex. No list of cases: an edge that vanishes, a reflex vertex that
splits an edge, vertices that meet head-on and whole strokes that collapse are all the same.
"""

import math
from typing import NamedTuple

import numpy as np

from halvex.core.solids.skeleton.contacts import collapse_time, expect, find_candidates, root, unite
from halvex.core.solids.skeleton.state import (
    OVERFLOW,
    add_half_edge,
    add_node,
    add_vertex,
    end_vertex,
    inlined,
    position,
    step,
    uncounted,
)

MOST_OVERLAPS = 200


class Pieces(NamedTuple):
    """Pieces of the touched instances. An end is a cluster (its root) or a free vertex (-1 - v).

    Arrays of pieces (P,) but for the lists around clusters (V,), which end with -1.
    """

    tally: np.ndarray  # (1,) how many there are
    edge: np.ndarray  # the edge it lies on
    instance: np.ndarray  # the instance it was cut from
    a: np.ndarray  # where it starts
    b: np.ndarray  # where it ends
    leaving: np.ndarray  # (V,) the first piece that leaves the cluster
    next_leaving: np.ndarray  # the next one that leaves the same cluster
    arriving: np.ndarray  # (V,) the first piece that arrives at the cluster
    next_arriving: np.ndarray  # the next one that arrives at the same cluster
    gone: np.ndarray  # 1 for half of a ridge
    taken: np.ndarray  # 1 when it leaves as somebody's partner
    partner: np.ndarray  # the piece that leaves where it arrives, -1 at a free vertex
    start: np.ndarray  # the vertex it starts at, -1 if its edge runs straight through the cluster
    end: np.ndarray  # the vertex it ends at, -1 likewise
    through: np.ndarray  # the piece before it on the same edge, -1 for none
    on: np.ndarray  # (S,) the clusters on an instance
    along: np.ndarray  # (S,) and how far along it they are


@step
def no_pieces(clusters, room, most_splits):
    """Room for pieces, to be used again at every time."""
    return Pieces(
        np.zeros(1, np.int64),
        np.empty(room, np.int64),
        np.empty(room, np.int64),
        np.empty(room, np.int64),
        np.empty(room, np.int64),
        np.empty(clusters, np.int64),
        np.empty(room, np.int64),
        np.empty(clusters, np.int64),
        np.empty(room, np.int64),
        np.empty(room, np.uint8),
        np.empty(room, np.uint8),
        np.empty(room, np.int64),
        np.empty(room, np.int64),
        np.empty(room, np.int64),
        np.empty(room, np.int64),
        np.empty(most_splits, np.int64),
        np.empty(most_splits),
    )


@uncounted
def _splits_along(w, touching, pieces, u):
    """Find the clusters on the instance that starts at u, in order; returns how many."""
    e, on, along = w.right[u], pieces.on, pieces.along
    n = 0
    for i in range(touching.splits[0]):
        if touching.split_u[i] == u:
            r = root(touching.parent, touching.split_v[i])
            s = w.n[e, 1] * touching.place[r, 0] - w.n[e, 0] * touching.place[r, 1]
            j = n
            while j > 0 and along[j - 1] > s:
                along[j], on[j] = along[j - 1], on[j - 1]
                j -= 1
            along[j], on[j] = s, r
            n += 1
    return n


@inlined
def _put_piece(pieces, i, edge, instance, a, b):
    pieces.edge[i], pieces.instance[i], pieces.a[i], pieces.b[i] = edge, instance, a, b
    pieces.gone[i], pieces.taken[i] = 0, 0
    pieces.partner[i], pieces.start[i], pieces.end[i], pieces.through[i] = -1, -1, -1, -1


@uncounted
def _cut(w, active, touching, pieces):
    """Cut every touched instance into pieces between the clusters on it."""
    count = 0
    parent, involved = touching.parent, touching.involved
    for u in active:
        o = w.next[u]
        start = root(parent, u) if involved[u] else -1 - u
        end = root(parent, o) if involved[o] else -1 - o
        n = _splits_along(w, touching, pieces, u)
        if start < 0 and end < 0 and n == 0:
            continue
        here = start
        for i in range(n + 1):
            there = pieces.on[i] if i < n else end
            if there == here:
                continue
            if count >= len(pieces.a):
                w.tally[OVERFLOW] = 1
                break
            _put_piece(pieces, count, w.right[u], u, here, there)
            count += 1
            here = there
    pieces.tally[0] = count


@inlined
def _point(w, end, t, place):
    if end >= 0:
        return place[end, 0], place[end, 1]
    return position(w, -1 - end, t)


@uncounted
def _place_clusters(w, active, t, touching):
    """A cluster stands where its slowest vertex is: the slower, the better its place is known."""
    for v in active:
        touching.slowest[root(touching.parent, v)] = 1e300
    for v in active:
        if touching.involved[v]:
            r = root(touching.parent, v)
            speed = w.vel[v, 0] ** 2 + w.vel[v, 1] ** 2
            if speed < touching.slowest[r]:
                touching.slowest[r] = speed
                touching.place[r, 0], touching.place[r, 1] = position(w, v, t)


@uncounted
def _list_leaving(pieces):
    """The pieces that leave each cluster, in ascending order."""
    for r in range(len(pieces.leaving)):
        pieces.leaving[r] = -1
    for i in range(pieces.tally[0] - 1, -1, -1):
        if pieces.a[i] >= 0:
            pieces.next_leaving[i] = pieces.leaving[pieces.a[i]]
            pieces.leaving[pieces.a[i]] = i


@uncounted
def _list_arriving(pieces):
    """The pieces that arrive at each cluster and are left, in ascending order."""
    for r in range(len(pieces.arriving)):
        pieces.arriving[r] = -1
    for i in range(pieces.tally[0] - 1, -1, -1):
        if pieces.b[i] >= 0 and not pieces.gone[i]:
            pieces.next_arriving[i] = pieces.arriving[pieces.b[i]]
            pieces.arriving[pieces.b[i]] = i


@uncounted
def _overlap(w, eps, pieces):
    """A piece that ends at a cluster and one that leaves back over it: (i, j), or (-1, -1)."""
    for i in range(pieces.tally[0]):
        if pieces.b[i] < 0:
            continue
        j = pieces.leaving[pieces.b[i]]
        while j >= 0:
            ei, ej = pieces.edge[i], pieces.edge[j]
            dot = w.n[ei, 0] * w.n[ej, 0] + w.n[ei, 1] * w.n[ej, 1]
            cross = w.n[ei, 0] * w.n[ej, 1] - w.n[ei, 1] * w.n[ej, 0]
            if i != j and pieces.a[i] != pieces.b[j] and dot < 0.0 and abs(cross) < eps:
                return i, j
            j = pieces.next_leaving[j]
    return -1, -1


@uncounted
def _resolve_overlap(w, t, eps, touching, pieces, i, j):
    """Node the nearer far end of an overlapping pair onto the other's instance, or merge the two ends."""
    a, b, place = pieces.a, pieces.b, touching.place
    cx, cy = place[b[i], 0], place[b[i], 1]
    xx, xy = _point(w, a[i], t, place)
    yx, yy = _point(w, b[j], t, place)
    dx, dy = np.hypot(xx - cx, xy - cy), np.hypot(yx - cx, yy - cy)
    x = -1 - a[i] if a[i] < 0 else a[i]
    y = -1 - b[j] if b[j] < 0 else b[j]
    if abs(dx - dy) <= 2.0 * eps:
        unite(touching, x, y)
        return
    at = touching.splits[0]
    if at >= len(touching.split_u):
        w.tally[OVERFLOW] = 1
        return
    nearer, over = (x, j) if dx < dy else (y, i)
    touching.involved[nearer] = 1
    touching.split_u[at], touching.split_v[at] = pieces.instance[over], nearer
    touching.splits[0] = at + 1


@uncounted
def _cut_until_nothing_overlaps(w, active, t, eps, touching, pieces):
    """Whether pieces were found of which none lies over another."""
    for _ in range(MOST_OVERLAPS):
        _place_clusters(w, active, t, touching)
        _cut(w, active, touching, pieces)
        _list_leaving(pieces)
        i, j = _overlap(w, eps, pieces)
        if i < 0:
            return True
        _resolve_overlap(w, t, eps, touching, pieces, i, j)
        if w.tally[OVERFLOW]:
            return False
    return False


@uncounted
def _end_clusters(w, active, t, touching):
    """All vertices of a cluster die at one node."""
    node_of = touching.node
    for v in active:
        node_of[root(touching.parent, v)] = -1
    for v in active:
        if touching.involved[v]:
            r = root(touching.parent, v)
            if node_of[r] < 0:
                node_of[r] = add_node(w, touching.place[r, 0], touching.place[r, 1], t)
            end_vertex(w, v, node_of[r])


@uncounted
def _draw_ridges(w, pieces, node_of):
    """Two pieces that run both ways between two clusters bound each other's face, and are gone."""
    a, b, gone = pieces.a, pieces.b, pieces.gone
    for i in range(pieces.tally[0]):
        if gone[i] or a[i] < 0 or b[i] < 0:
            continue
        j = pieces.leaving[b[i]]
        while j >= 0:
            if j > i and not gone[j] and b[j] == a[i]:
                gone[i] = 1
                gone[j] = 1
                add_half_edge(w, pieces.edge[i], node_of[b[i]], node_of[a[i]])
                add_half_edge(w, pieces.edge[j], node_of[a[i]], node_of[b[i]])
                break
            j = pieces.next_leaving[j]


@inlined
def _clockwise(w, arriving, leaving):
    """The angle from where a piece on one edge came from to where one on another goes, 0 to 2π."""
    rx, ry = -w.n[arriving, 1], w.n[arriving, 0]
    dx, dy = w.n[leaving, 1], -w.n[leaving, 0]
    angle = math.atan2(-(rx * dy - ry * dx), rx * dx + ry * dy)
    return angle + 2.0 * math.pi if angle < 0.0 else angle


@uncounted
def _innermost(w, pieces, r):
    """The arriving and the leaving piece at a cluster with the smallest angle between them that have no
    partner yet; -1, -1 if there are none."""
    best, bi, bj = 1e300, -1, -1
    i = pieces.arriving[r]
    while i >= 0:
        j = pieces.leaving[r] if pieces.partner[i] < 0 else -1
        while j >= 0:
            angle = _clockwise(w, pieces.edge[i], pieces.edge[j])
            if angle < best and not pieces.gone[j] and not pieces.taken[j]:
                best, bi, bj = angle, i, j
            j = pieces.next_leaving[j]
        i = pieces.next_arriving[i]
    return bi, bj


@uncounted
def _pair(w, pieces):
    """Pair arriving with leaving pieces around each cluster, smallest clockwise angle first."""
    for r in range(len(pieces.arriving)):
        while pieces.arriving[r] >= 0:
            i, j = _innermost(w, pieces, r)
            if i < 0:
                break
            pieces.partner[i] = j
            pieces.taken[j] = 1


@uncounted
def _make_vertices(w, t, touching, pieces, born):
    """A vertex for each pair; returns how many are listed in `born`, -1 on failure."""
    made = 0
    for i in range(pieces.tally[0]):
        if pieces.gone[i]:
            continue
        if pieces.a[i] < 0:
            pieces.start[i] = -1 - pieces.a[i]
        r = pieces.b[i]
        if r < 0:
            pieces.end[i] = -1 - r
            continue
        j = pieces.partner[i]
        if j < 0:
            return -1
        if pieces.edge[i] == pieces.edge[j]:
            pieces.through[j] = i
            continue
        x, y = touching.place[r, 0], touching.place[r, 1]
        v = add_vertex(w, pieces.edge[i], pieces.edge[j], x, y, t, touching.node[r])
        if made >= len(born) or w.tally[OVERFLOW]:
            return -1
        born[made] = v
        made += 1
        pieces.end[i] = v
        pieces.start[j] = v
    return made


@uncounted
def _link(w, pieces):
    """Make neighbours of the two vertices at the ends of each run of pieces; False if a run has no start."""
    for i in range(pieces.tally[0]):
        if pieces.gone[i] or pieces.end[i] < 0:
            continue
        s = i
        for _ in range(pieces.tally[0]):
            if pieces.start[s] >= 0:
                break
            s = pieces.through[s]
            if s < 0:
                return False
        if pieces.start[s] < 0:
            return False
        w.next[pieces.start[s]] = pieces.end[i]
        w.prev[pieces.end[i]] = pieces.start[s]
    return True


@uncounted
def _end_here(w, v, t):
    """A vertex dies where it is; returns its last node."""
    node = w.node[v]
    if w.t0[v] < t:
        x, y = position(w, v, t)
        node = add_node(w, x, y, t)
    end_vertex(w, v, node)
    return node


@uncounted
def _finish_loops(w, t, born):
    """Rings of two vertices have no area left: they are a ridge. Rings of one vertex are nothing."""
    for v in born:
        if not w.alive[v]:
            continue
        o = w.next[v]
        if o == v:
            w.alive[v] = 0
        elif w.next[o] == v:
            a, b = _end_here(w, v, t), _end_here(w, np.int64(o), t)
            if a != b:
                add_half_edge(w, w.right[v], b, a)
                add_half_edge(w, w.right[o], a, b)


@step
def operate(w, active, t, eps, touching, pieces, born):
    """Resolve all contacts of time t.

    active (A,): the vertices that are alive; pieces: working memory. Returns the number of new vertices,
    listed in `born`; -1 on failure.
    """
    if not _cut_until_nothing_overlaps(w, active, t, eps, touching, pieces):
        return -1
    _end_clusters(w, active, t, touching)
    _draw_ridges(w, pieces, touching.node)
    _list_arriving(pieces)
    _pair(w, pieces)
    made = _make_vertices(w, t, touching, pieces, born)
    if made < 0 or not _link(w, pieces):
        return -1
    _finish_loops(w, t, born[:made])
    for v in born[:made]:
        if w.alive[v]:
            w.collapse[v] = collapse_time(w, v, t)
            w.collapse[w.prev[v]] = collapse_time(w, w.prev[v], t)
            find_candidates(w, v, t, eps)
            expect(w, v)
            expect(w, w.prev[v])
    return made
