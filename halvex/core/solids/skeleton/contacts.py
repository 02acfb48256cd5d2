"""When do the rings next touch, and what touches what then?

Two things can happen: an instance loses its length (its ends meet), or a reflex vertex runs into an
instance elsewhere. Everything that happens at one time is gathered into clusters of vertices, and
into splits (an instance, a vertex that lies on it), for the surgery to resolve together.
"""

from typing import NamedTuple

import numpy as np

from halvex.core.solids.skeleton.state import (
    CANDIDATES,
    DUES,
    NEVER,
    OVERFLOW,
    inlined,
    is_reflex,
    position,
    step,
    uncounted,
)

SAME_TIME = 1e-9


@uncounted
def collapse_time(w, u, t):
    """When the instance that starts at u has no length, NEVER if it grows."""
    v = w.next[u]
    e = w.right[u]
    dx, dy = w.n[e, 1], -w.n[e, 0]
    ux, uy = position(w, u, t)
    vx, vy = position(w, v, t)
    length = dx * (vx - ux) + dy * (vy - uy)
    rate = dx * (w.vel[v, 0] - w.vel[u, 0]) + dy * (w.vel[v, 1] - w.vel[u, 1])
    if rate > -1e-13:
        return NEVER
    return t + max(length, 0.0) / -rate


@uncounted
def _time_to_boundary(w, v, t):
    """Upper bound of the life of v: when its path leaves the original polygon."""
    x, y = position(w, v, t)
    vx, vy = w.vel[v, 0], w.vel[v, 1]
    first = NEVER
    for i in range(len(w.polygon)):
        ax, ay, bx, by = w.polygon[i, 0], w.polygon[i, 1], w.polygon[i, 2], w.polygon[i, 3]
        ex, ey = bx - ax, by - ay
        den = vx * ey - vy * ex
        if den == 0.0:
            continue
        s = ((ax - x) * ey - (ay - y) * ex) / den
        u = ((ax - x) * vy - (ay - y) * vx) / den
        if -1e-6 <= u <= 1.0 + 1e-6 and 1e-7 < s < first:
            first = s
    return t + first


@step
def find_candidates(w, v, t, eps):
    """List, in order of time, the edges whose lines the reflex vertex v will reach."""
    w.cand_at[v] = w.tally[CANDIDATES]
    w.cand_end[v] = w.tally[CANDIDATES]
    if not is_reflex(w, v):
        return
    latest = _time_to_boundary(w, v, t)
    x, y = position(w, v, t)
    edges = len(w.c)
    times = np.empty(edges)
    found = np.empty(edges, np.int32)
    k = 0
    for e in range(edges):
        if e == w.left[v] or e == w.right[v]:
            continue
        closing = 1.0 - (w.n[e, 0] * w.vel[v, 0] + w.n[e, 1] * w.vel[v, 1])
        if closing < 1e-12:
            continue
        ahead = w.n[e, 0] * x + w.n[e, 1] * y - w.c[e] - t
        if ahead < -eps:
            continue
        when = t + max(ahead, 0.0) / closing
        if when <= latest + SAME_TIME:
            times[k], found[k] = when, e
            k += 1
    start = w.tally[CANDIDATES]
    if start + k > len(w.cand_t):
        w.tally[OVERFLOW] = 1
        return
    order = np.argsort(times[:k])
    for i in range(k):
        w.cand_t[start + i] = times[order[i]]
        w.cand_edge[start + i] = found[order[i]]
    w.cand_end[v] = start + k
    w.tally[CANDIDATES] = start + k


@uncounted
def hit_on_edge(w, v, e, t, eps, inside_only):
    """The live instance of edge e that v lies on at time t: (start vertex u or -1, along, length)."""
    x, y = position(w, v, t)
    speed = np.hypot(w.vel[v, 0], w.vel[v, 1])
    tol = eps * (1.0 + 0.1 * speed)
    if abs(w.n[e, 0] * x + w.n[e, 1] * y - w.c[e] - t) > tol:
        return -1, 0.0, 0.0
    dx, dy = w.n[e, 1], -w.n[e, 0]
    margin = tol if inside_only else -tol
    u = w.head[e]
    while u >= 0:
        if w.alive[u] and u != v and w.next[u] != v:
            ux, uy = position(w, u, t)
            ox, oy = position(w, w.next[u], t)
            length = dx * (ox - ux) + dy * (oy - uy)
            along = dx * (x - ux) + dy * (y - uy)
            if margin <= along <= length - margin:
                return u, along, length
        u = w.same[u]
    return -1, 0.0, 0.0


@inlined
def due(w, v):
    """When vertex v has something to do: its instance collapses, or it reaches its next candidate."""
    at = w.cand_at[v]
    if at < w.cand_end[v] and w.cand_t[at] < w.collapse[v]:
        return w.cand_t[at]
    return w.collapse[v]


@uncounted
def expect(w, v):
    """Put the due time of v on the heap."""
    t = due(w, v)
    if t >= NEVER:
        return
    i = w.tally[DUES]
    if i >= len(w.due_t):
        w.tally[OVERFLOW] = 1
        return
    w.tally[DUES] = i + 1
    while i > 0:
        up = (i - 1) // 2
        if w.due_t[up] <= t:
            break
        w.due_t[i], w.due_v[i] = w.due_t[up], w.due_v[up]
        i = up
    w.due_t[i], w.due_v[i] = t, v


@uncounted
def _drop_first(w):
    n = w.tally[DUES] - 1
    w.tally[DUES] = n
    t, v = w.due_t[n], w.due_v[n]
    i = 0
    while 2 * i + 1 < n:
        low = 2 * i + 1
        if low + 1 < n and w.due_t[low + 1] < w.due_t[low]:
            low += 1
        if w.due_t[low] >= t:
            break
        w.due_t[i], w.due_v[i] = w.due_t[low], w.due_v[low]
        i = low
    w.due_t[i], w.due_v[i] = t, v


@uncounted
def next_time(w, eps):
    """The earliest time at which something happens; candidates that hit nothing are dropped for good."""
    while w.tally[DUES] > 0:
        t, v = w.due_t[0], w.due_v[0]
        if not w.alive[v] or t != due(w, v):
            _drop_first(w)
            continue
        if w.collapse[v] <= t:
            return t
        at = w.cand_at[v]
        u, _, _ = hit_on_edge(w, v, w.cand_edge[at], t, eps, t <= w.t0[v] + SAME_TIME)
        if u >= 0:
            return t
        w.cand_at[v] = at + 1
        _drop_first(w)
        expect(w, v)
    return NEVER


@inlined
def root(parent, v):
    while parent[v] != v:
        parent[v] = parent[parent[v]]
        v = parent[v]
    return v


class Touching(NamedTuple):
    """What touches at one time: clusters of vertices, as a forest of unions, and splits."""

    parent: np.ndarray  # (V,) towards the root of its cluster
    involved: np.ndarray  # (V,) 1 for those in a cluster
    place: np.ndarray  # (V, 2) where the cluster of each root is
    slowest: np.ndarray  # (V,) the least squared speed in the cluster of each root
    node: np.ndarray  # (V,) the node that the cluster of each root ends at, -1 for none yet
    split_u: np.ndarray  # (S,) an instance that is split
    split_v: np.ndarray  # (S,) the vertex that lies on it
    splits: np.ndarray  # (1,) how many there are


@step
def nothing_touching(vertices, most_splits):
    return Touching(
        np.arange(vertices),
        np.zeros(vertices, np.uint8),
        np.empty((vertices, 2)),
        np.empty(vertices),
        np.empty(vertices, np.int64),
        np.empty(most_splits, np.int64),
        np.empty(most_splits, np.int64),
        np.zeros(1, np.int64),
    )


@uncounted
def unite(touching, v, u):
    """Let u join the cluster of v."""
    touching.involved[v] = 1
    touching.involved[u] = 1
    touching.parent[root(touching.parent, u)] = root(touching.parent, v)


@uncounted
def _gather_ends(w, active, t, eps, touching):
    """Unite the two ends of every instance that has no length."""
    for v in active:
        if w.collapse[v] > t + SAME_TIME:
            continue
        o = w.next[v]
        vx, vy = position(w, v, t)
        ox, oy = position(w, o, t)
        if w.collapse[v] <= t or (vx - ox) ** 2 + (vy - oy) ** 2 < eps * eps:
            unite(touching, v, o)


@uncounted
def gather(w, active, t, eps, touching):
    """Unite the vertices that meet at time t, and list the splits."""
    _gather_ends(w, active, t, eps, touching)
    splits = 0
    for v in active:
        at = w.cand_at[v]
        while at < w.cand_end[v] and w.cand_t[at] <= t + SAME_TIME:
            fresh = w.cand_t[at] <= w.t0[v] + SAME_TIME
            u, along, length = hit_on_edge(w, v, w.cand_edge[at], t, eps, fresh)
            at += 1
            if u < 0:
                continue
            tol = eps * (1.0 + 0.1 * np.hypot(w.vel[v, 0], w.vel[v, 1]))
            touching.involved[v] = 1
            if along <= tol:
                unite(touching, v, u)
            elif along >= length - tol:
                unite(touching, v, w.next[u])
            elif splits < len(touching.split_u):
                touching.split_u[splits], touching.split_v[splits] = u, v
                splits += 1
            else:
                w.tally[OVERFLOW] = 1
    touching.splits[0] = splits
