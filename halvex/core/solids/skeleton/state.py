"""The moving rings: edges as lines, vertices as points with a birth, a velocity and two edges.

An edge i is the line n[i]·x = c[i] + t with inward unit normal n. An *instance* of it is a vertex u
with right[u] == i together with the next vertex: an edge that was split has several instances.
Vertices are never re-used, so an id says which part of the roof's arcs a vertex drew.
"""

from typing import NamedTuple

import numpy as np
from numba import njit

from halvex.core.inlining import Helper

VERTICES, NODES, HALF_EDGES, CANDIDATES = 0, 1, 2, 3
OVERFLOW, DUES, STEPS = 4, 5, 6

NEVER = 1e300

_OPTIONS = {"nogil": True, "error_model": "numpy", "_nrt": False, "forceinline": False}


def _alone(function):
    return njit(cache=True, nogil=True)(function)


def step(function):
    """Compile a part of a kernel that allocates arrays along with the kernel."""
    return Helper(function, {"nogil": True, "forceinline": False}, _alone)


def uncounted(function):
    """The same for one that allocates nothing, without reference counts.

    The wave is passed as some thirty arrays; counting references to each at every call took
    most of the time.
    """
    return Helper(function, _OPTIONS, _alone)


def inlined(function):
    """The same, compiled into its callers."""
    return Helper(function, {**_OPTIONS, "forceinline": True}, _alone)


REFLEX_CROSS = -1e-12


class Wave(NamedTuple):
    """All state. Arrays of edges (E), vertices (V), nodes (N), half-edges (H), split candidates (C)."""

    n: np.ndarray  # (E, 2) inward unit normals
    c: np.ndarray  # (E,) line offsets at t = 0
    p: np.ndarray  # (V, 2) position at birth
    t0: np.ndarray  # (V,) time of birth
    vel: np.ndarray  # (V, 2) velocity
    left: np.ndarray  # (V,) edge that ends here
    right: np.ndarray  # (V,) edge that starts here
    prev: np.ndarray  # (V,) neighbour at the far end of the left edge
    next: np.ndarray  # (V,) neighbour at the far end of the right edge
    node: np.ndarray  # (V,) node at birth
    alive: np.ndarray  # (V,) 0 or 1
    collapse: np.ndarray  # (V,) when the instance that starts here has no length
    cand_at: np.ndarray  # (V,) next split candidate
    cand_end: np.ndarray  # (V,) end of the split candidates
    node_xy: np.ndarray  # (N, 2)
    node_t: np.ndarray  # (N,)
    he_face: np.ndarray  # (H,) edge whose face the half-edge bounds
    he_a: np.ndarray  # (H,) start node
    he_b: np.ndarray  # (H,) end node
    cand_t: np.ndarray  # (C,) time of the split candidate
    cand_edge: np.ndarray  # (C,) edge it may split
    head: np.ndarray  # (E,) newest instance of each edge, -1 for none
    same: np.ndarray  # (V,) the next older instance of the same edge
    due_t: (
        np.ndarray
    )  # (D,) heap of times at which vertices are due, the earliest first; outdated ones are left in
    due_v: np.ndarray  # (D,) the vertex of each
    polygon: np.ndarray  # (E, 4) original edges x0 y0 x1 y1
    tally: np.ndarray  # (7,) vertices, nodes, half-edges, candidates, overflow flag, dues, steps


def new_wave(n, c, segments, room):
    """An empty wave for E edges, with room for `room`·E vertices and nodes and as many candidates
    as that takes."""
    edges = len(c)
    verts = room * edges + 64
    cands = max(verts * min(edges, 64 * room), 256)
    return Wave(
        n,
        c,
        np.empty((verts, 2)),
        np.empty(verts),
        np.empty((verts, 2)),
        *(np.empty(verts, np.int32) for _ in range(5)),
        np.zeros(verts, np.uint8),
        np.empty(verts),
        np.empty(verts, np.int32),
        np.empty(verts, np.int32),
        np.empty((verts, 2)),
        np.empty(verts),
        *(np.empty(4 * verts, np.int32) for _ in range(3)),
        np.empty(cands),
        np.empty(cands, np.int32),
        np.full(edges, -1, np.int32),
        np.empty(verts, np.int32),
        np.empty(8 * verts),
        np.empty(8 * verts, np.int32),
        segments,
        np.zeros(7, np.int64),
    )


@inlined
def position(w, v, t):
    s = t - w.t0[v]
    return w.p[v, 0] + w.vel[v, 0] * s, w.p[v, 1] + w.vel[v, 1] * s


@inlined
def add_node(w, x, y, t):
    i = w.tally[NODES]
    if i >= len(w.node_t):
        w.tally[OVERFLOW] = 1
        return 0
    w.node_xy[i, 0], w.node_xy[i, 1], w.node_t[i] = x, y, t
    w.tally[NODES] = i + 1
    return i


@inlined
def add_half_edge(w, face, a, b):
    i = w.tally[HALF_EDGES]
    if i >= len(w.he_face):
        w.tally[OVERFLOW] = 1
        return
    w.he_face[i], w.he_a[i], w.he_b[i] = face, a, b
    w.tally[HALF_EDGES] = i + 1


@uncounted
def end_vertex(w, v, node):
    """The vertex dies at a node: the arc it drew bounds the faces of both its edges."""
    w.alive[v] = 0
    if w.node[v] != node:
        add_half_edge(w, w.left[v], w.node[v], node)
        add_half_edge(w, w.right[v], node, w.node[v])


@uncounted
def add_vertex(w, left, right, x, y, t, node):
    """A new vertex between two edges. Its velocity keeps it on both moving lines."""
    v = w.tally[VERTICES]
    if v >= len(w.t0):
        w.tally[OVERFLOW] = 1
        return 0
    w.tally[VERTICES] = v + 1
    ax, ay = w.n[left, 0], w.n[left, 1]
    bx, by = w.n[right, 0], w.n[right, 1]
    dot = ax * bx + ay * by
    cross = ax * by - ay * bx
    if dot < -0.5 and cross != 0.0:
        w.vel[v, 0], w.vel[v, 1] = (by - ay) / cross, (ax - bx) / cross
    else:
        w.vel[v, 0], w.vel[v, 1] = (ax + bx) / max(1.0 + dot, 1e-12), (ay + by) / max(1.0 + dot, 1e-12)
    if abs(cross) > 1e-3:
        # The node is an average of what met there; the lines themselves say where the vertex is.
        ca, cb = w.c[left] + t, w.c[right] + t
        ix, iy = (ca * by - cb * ay) / cross, (ax * cb - bx * ca) / cross
        if (ix - x) ** 2 + (iy - y) ** 2 < 1e-12:
            x, y = ix, iy
    w.p[v, 0], w.p[v, 1], w.t0[v] = x, y, t
    w.left[v], w.right[v], w.node[v], w.alive[v] = left, right, node, 1
    w.collapse[v] = NEVER
    w.same[v] = w.head[right]
    w.head[right] = v
    w.cand_at[v] = 0
    w.cand_end[v] = 0
    return v


@inlined
def is_reflex(w, v):
    a, b = w.left[v], w.right[v]
    return w.n[a, 0] * w.n[b, 1] - w.n[a, 1] * w.n[b, 0] < REFLEX_CROSS
