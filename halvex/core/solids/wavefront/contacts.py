"""When do the rings next touch, and what touches what then?

Two things can happen: an instance loses its length (its ends meet), or a reflex vertex runs into an
instance elsewhere. Everything that happens at one time is gathered into clusters of vertices, and
into splits (an instance, a vertex that lies on it), for the surgery to resolve together.
"""

import numpy as np
from numba import njit

from halvex.core.solids.wavefront.state import CANDIDATES, NEVER, OVERFLOW, is_reflex, position

SAME_TIME = 1e-9


@njit(cache=True)
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


@njit(cache=True)
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


@njit(cache=True)
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


@njit(cache=True)
def hit_on_edge(w, active, m, v, e, t, eps, inside_only):
    """The live instance of edge e that v lies on at time t: (start vertex u or -1, along, length)."""
    x, y = position(w, v, t)
    speed = np.hypot(w.vel[v, 0], w.vel[v, 1])
    tol = eps * (1.0 + 0.1 * speed)
    if abs(w.n[e, 0] * x + w.n[e, 1] * y - w.c[e] - t) > tol:
        return -1, 0.0, 0.0
    dx, dy = w.n[e, 1], -w.n[e, 0]
    for k in range(m):
        u = active[k]
        if w.right[u] != e:
            continue
        o = w.next[u]
        if u == v or o == v:
            continue
        ux, uy = position(w, u, t)
        ox, oy = position(w, o, t)
        length = dx * (ox - ux) + dy * (oy - uy)
        along = dx * (x - ux) + dy * (y - uy)
        margin = tol if inside_only else -tol
        if margin <= along <= length - margin:
            return u, along, length
    return -1, 0.0, 0.0


@njit(cache=True)
def next_time(w, active, m, eps):
    """The earliest time at which something happens; candidates that hit nothing are dropped for good."""
    while True:
        best, who, split = NEVER, -1, False
        for k in range(m):
            v = active[k]
            if w.collapse[v] < best:
                best, who, split = w.collapse[v], v, False
            at = w.cand_at[v]
            if at < w.cand_end[v] and w.cand_t[at] < best:
                best, who, split = w.cand_t[at], v, True
        if not split:
            return best
        at = w.cand_at[who]
        u, _, _ = hit_on_edge(w, active, m, who, w.cand_edge[at], best, eps, best <= w.t0[who] + SAME_TIME)
        if u >= 0:
            return best
        w.cand_at[who] = at + 1


@njit(cache=True)
def root(parent, v):
    while parent[v] != v:
        parent[v] = parent[parent[v]]
        v = parent[v]
    return v


@njit(cache=True)
def gather(w, active, m, t, eps, parent, involved, split_u, split_v):
    """Union the vertices that meet at time t and list the splits; returns the number of splits."""
    for k in range(m):
        v = active[k]
        if w.collapse[v] > t + SAME_TIME:
            continue
        o = w.next[v]
        vx, vy = position(w, v, t)
        ox, oy = position(w, o, t)
        if w.collapse[v] <= t or (vx - ox) ** 2 + (vy - oy) ** 2 < eps * eps:
            involved[v] = 1
            involved[o] = 1
            parent[root(parent, o)] = root(parent, v)
    splits = 0
    for k in range(m):
        v = active[k]
        at = w.cand_at[v]
        while at < w.cand_end[v] and w.cand_t[at] <= t + SAME_TIME:
            fresh = w.cand_t[at] <= w.t0[v] + SAME_TIME
            u, along, length = hit_on_edge(w, active, m, v, w.cand_edge[at], t, eps, fresh)
            if u >= 0:
                tol = eps * (1.0 + 0.1 * np.hypot(w.vel[v, 0], w.vel[v, 1]))
                o = w.next[u]
                involved[v] = 1
                if along <= tol:
                    involved[u] = 1
                    parent[root(parent, u)] = root(parent, v)
                elif along >= length - tol:
                    involved[o] = 1
                    parent[root(parent, o)] = root(parent, v)
                elif splits < len(split_u):
                    split_u[splits], split_v[splits] = u, v
                    splits += 1
                else:
                    w.tally[OVERFLOW] = 1
            at += 1
    return splits
