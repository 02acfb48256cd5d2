"""Drive the wavefront from the polygon to nothing."""

import numpy as np
from numba import njit

from halvex.core.solids.skeleton.contacts import (
    collapse_time,
    expect,
    find_candidates,
    gather,
    next_time,
    nothing_touching,
    unite,
)
from halvex.core.solids.skeleton.state import NEVER, OVERFLOW, STEPS, VERTICES, add_node, add_vertex, step
from halvex.core.solids.skeleton.surgery import no_pieces, operate

TOUCHING_EM = 1e-9
OUT_OF_STEPS = 2


@step
def _start(w, ring_of, points, eps):
    """One vertex at each corner of the polygon; edge i runs from vertex i to the next of its ring."""
    count = len(points)
    for i in range(count):
        before = i - 1
        if i == 0 or ring_of[i - 1] != ring_of[i]:
            before = i
            while before + 1 < count and ring_of[before + 1] == ring_of[i]:
                before += 1
        node = add_node(w, points[i, 0], points[i, 1], 0.0)
        v = add_vertex(w, before, i, points[i, 0], points[i, 1], 0.0, node)
        w.prev[v] = before
        w.next[before] = v
    for v in range(count):
        w.collapse[v] = collapse_time(w, v, 0.0)
        find_candidates(w, v, 0.0, eps)
        expect(w, v)


@step
def _unite_shared_corners(w, fan_of, m, touching):
    """Rings that touch at a point share it: those corners are one cluster at time 0. Corners of one
    fan are not."""
    any_touch = False
    for i in range(m):
        for j in range(i + 1, m):
            if (
                fan_of[i] != fan_of[j]
                and abs(w.p[i, 0] - w.p[j, 0]) < TOUCHING_EM
                and abs(w.p[i, 1] - w.p[j, 1]) < TOUCHING_EM
            ):
                unite(touching, i, j)
                any_touch = True
    return any_touch


@njit(cache=True, nogil=True)
def shrink(w, ring_of, fan_of, points, eps, stop, most_steps):
    """Run all events, until stop (1,) is set from another thread or so many steps are done, which
    sets it to OUT_OF_STEPS.

    A step is one look at a vertex, or at an edge for a new vertex. Returns True when the wavefront
    vanished as it must; False asks for another tolerance.
    """
    room = len(w.t0)
    _start(w, ring_of, points, eps)
    active = np.empty(room, np.int64)
    m = len(points)
    for i in range(m):
        active[i] = i
    touching = nothing_touching(room, 4 * m + 16)
    # Each instance is one piece, and each split makes one more; splits are added where pieces overlap.
    splits = len(touching.split_u)
    pieces = no_pieces(room, 2 * room + 2 * splits + 8, splits + 2)
    born = np.empty(room, np.int64)
    if (
        _unite_shared_corners(w, fan_of, m, touching)
        and operate(w, active[:m], 0.0, eps, touching, pieces, born) < 0
    ):
        return False
    # Every corner looks at every edge for what it will reach.
    w.tally[STEPS] = m * m
    for _ in range(room):
        alive = 0
        for k in range(w.tally[VERTICES]):
            touching.parent[k] = k
            touching.involved[k] = 0
            if w.alive[k]:
                active[alive] = k
                alive += 1
        if alive == 0:
            return True
        w.tally[STEPS] += room
        if w.tally[STEPS] > most_steps:
            stop[0] = OUT_OF_STEPS
        if stop[0]:
            return False
        t = next_time(w, eps)
        if t >= NEVER:
            return False
        gather(w, active[:alive], t, eps, touching)
        if w.tally[OVERFLOW]:
            return False
        new = operate(w, active[:alive], t, eps, touching, pieces, born)
        if new < 0:
            return False
        w.tally[STEPS] += new * len(points)
    return False
