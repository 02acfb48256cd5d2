"""From arcs to faces: one polygon of the roof per edge, cut into triangles without losing a node."""

import math

import numpy as np
from numba import njit

from halvex.core.solids.skeleton.state import HALF_EDGES, inlined, uncounted


@njit(cache=True, nogil=True)
def chain_faces(w, start_node, end_node):
    """Chain each edge's half-edges into one cycle, from the base edge round.

    Returns (ok, first (E + 1,), nodes): face i is nodes[first[i]:first[i + 1]], the base edge first.
    """
    edges = len(w.c)
    total = w.tally[HALF_EDGES]
    first_he = np.zeros(edges + 1, np.int64)
    for k in range(total):
        first_he[w.he_face[k] + 1] += 1
    for i in range(edges):
        first_he[i + 1] += first_he[i]
    fill = first_he[:-1].copy()
    by_face = np.empty(total, np.int64)
    for k in range(total):
        by_face[fill[w.he_face[k]]] = k
        fill[w.he_face[k]] += 1
    used = np.zeros(total, np.uint8)
    first = np.zeros(edges + 1, np.int64)
    nodes = np.empty(total + 2 * edges, np.int64)
    n = 0
    for e in range(edges):
        first[e] = n
        nodes[n], nodes[n + 1] = start_node[e], end_node[e]
        n += 2
        here, before = end_node[e], start_node[e]
        for _ in range(first_he[e + 1] - first_he[e]):
            rx, ry = w.node_xy[before, 0] - w.node_xy[here, 0], w.node_xy[before, 1] - w.node_xy[here, 1]
            best, chosen = 1e300, -1
            for q in range(first_he[e], first_he[e + 1]):
                k = by_face[q]
                if used[q] or w.he_a[k] != here:
                    continue
                dx, dy = (
                    w.node_xy[w.he_b[k], 0] - w.node_xy[here, 0],
                    w.node_xy[w.he_b[k], 1] - w.node_xy[here, 1],
                )
                angle = math.atan2(-(rx * dy - ry * dx), rx * dx + ry * dy)
                if angle <= 0.0:
                    angle += 2.0 * math.pi
                if angle < best:
                    best, chosen = angle, q
            if chosen < 0:
                return False, first, nodes
            used[chosen] = 1
            before, here = here, w.he_b[by_face[chosen]]
            if here != start_node[e]:
                nodes[n] = here
                n += 1
        if here != start_node[e]:
            return False, first, nodes
    first[edges] = n
    return True, first, nodes[:n]


@inlined
def _corner(s, h, i, j, k):
    return (s[j] - s[i]) * (h[k] - h[i]) - (h[j] - h[i]) * (s[k] - s[i])


@inlined
def _roundness(s, h, a, b, c):
    """Area over squared sides of a corner's triangle; not above 0 where the corner is no ear."""
    area = _corner(s, h, a, b, c)
    if area <= 0.0:
        return area
    ab = (s[b] - s[a]) ** 2 + (h[b] - h[a]) ** 2
    bc = (s[c] - s[b]) ** 2 + (h[c] - h[b]) ** 2
    ca = (s[a] - s[c]) ** 2 + (h[a] - h[c]) ** 2
    return area / (ab + bc + ca)


@inlined
def _holds_another(s, h, left, a, b, c):
    """Whether a corner that is left lies in or on the triangle a, b, c."""
    for p in left:
        if p in (a, b, c):
            continue
        if _corner(s, h, a, b, p) >= 0.0 and _corner(s, h, b, c, p) >= 0.0 and _corner(s, h, c, a, p) >= 0.0:
            return True
    return False


@uncounted
def _roundest_ear(s, h, left):
    """The place of the roundest ear among the corners that are left; -1 where there is none."""
    count = len(left)
    best, best_i = -1.0, -1
    for i in range(count):
        a, b, c = left[(i - 1) % count], left[i], left[(i + 1) % count]
        roundness = _roundness(s, h, a, b, c)
        if roundness > max(best, 0.0) and not _holds_another(s, h, left, a, b, c):
            best, best_i = roundness, i
    return best_i


@uncounted
def _flattest_corner(s, h, left):
    """The place of the flattest of the corners that are left; -1 where none is as flat as rounding makes it.

    Only a face that noise has folded has no ear; its flattest corner does least harm.
    """
    count = len(left)
    best, smallest = -1, 1e-9
    for i in range(count):
        area = abs(_corner(s, h, left[(i - 1) % count], left[i], left[(i + 1) % count]))
        if area <= smallest and (best < 0 or area < smallest):
            best, smallest = i, area
    return best


@njit(cache=True, nogil=True)
def triangulate_faces(first, nodes, node_xy, node_t, n):
    """Cut faces into triangles by clipping the roundest ear first, in (along the edge, height).

    Returns (ok, triangles (m, 3) of node ids, face (m,)). Every node of a face stays a corner, so
    neighbouring faces meet without gaps.
    """
    edges = len(first) - 1
    total = 0
    for e in range(edges):
        total += max(first[e + 1] - first[e] - 2, 0)
    triangles = np.empty((total, 3), np.int32)
    face = np.empty(total, np.int32)
    m = 0
    for e in range(edges):
        count = first[e + 1] - first[e]
        if count < 3:
            return False, triangles, face
        ring = nodes[first[e] : first[e + 1]]
        s, h = np.empty(count), np.empty(count)
        for i in range(count):
            s[i] = n[e, 1] * node_xy[ring[i], 0] - n[e, 0] * node_xy[ring[i], 1]
            h[i] = node_t[ring[i]]
        left = np.arange(count)
        while count > 3:
            ear = _roundest_ear(s, h, left[:count])
            if ear < 0:
                ear = _flattest_corner(s, h, left[:count])
            if ear < 0:
                return False, triangles, face
            a, b, c = left[(ear - 1) % count], left[ear], left[(ear + 1) % count]
            triangles[m, 0], triangles[m, 1], triangles[m, 2] = ring[a], ring[b], ring[c]
            face[m] = e
            m += 1
            for i in range(ear, count - 1):
                left[i] = left[i + 1]
            count -= 1
        triangles[m, 0], triangles[m, 1], triangles[m, 2] = ring[left[0]], ring[left[1]], ring[left[2]]
        face[m] = e
        m += 1
    return True, triangles[:m], face[:m]
