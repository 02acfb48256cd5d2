"""From arcs to faces: one polygon of the roof per edge, cut into triangles without losing a node."""

import math

import numpy as np
from numba import njit

from halvex.core.solids.skeleton.state import HALF_EDGES


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


@njit(cache=True, nogil=True)
def _corner(s, h, i, j, k):
    return (s[j] - s[i]) * (h[k] - h[i]) - (h[j] - h[i]) * (s[k] - s[i])


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
            best, best_i = -1.0, -1
            for i in range(count):
                a, b, c = left[(i - 1) % count], left[i], left[(i + 1) % count]
                area = _corner(s, h, a, b, c)
                if area <= 0.0:
                    continue
                ab = (s[b] - s[a]) ** 2 + (h[b] - h[a]) ** 2
                bc = (s[c] - s[b]) ** 2 + (h[c] - h[b]) ** 2
                ca = (s[a] - s[c]) ** 2 + (h[a] - h[c]) ** 2
                roundness = area / (ab + bc + ca)
                if roundness <= best:
                    continue
                clear = True
                for q in range(count):
                    p = left[q]
                    if p in (a, b, c):
                        continue
                    if (
                        _corner(s, h, a, b, p) >= 0.0
                        and _corner(s, h, b, c, p) >= 0.0
                        and _corner(s, h, c, a, p) >= 0.0
                    ):
                        clear = False
                        break
                if clear:
                    best, best_i = roundness, i
            if best_i < 0:
                # Only a face that noise has folded has no ear; the flattest corner does least harm.
                best_i = 0
                smallest = 1e300
                for i in range(count):
                    a, b, c = left[(i - 1) % count], left[i], left[(i + 1) % count]
                    if abs(_corner(s, h, a, b, c)) < smallest:
                        smallest, best_i = abs(_corner(s, h, a, b, c)), i
                if smallest > 1e-9:
                    return False, triangles, face
            a, b, c = left[(best_i - 1) % count], left[best_i], left[(best_i + 1) % count]
            triangles[m, 0], triangles[m, 1], triangles[m, 2] = ring[a], ring[b], ring[c]
            face[m] = e
            m += 1
            for i in range(best_i, count - 1):
                left[i] = left[i + 1]
            count -= 1
        triangles[m, 0], triangles[m, 1], triangles[m, 2] = ring[left[0]], ring[left[1]], ring[left[2]]
        face[m] = e
        m += 1
    return True, triangles[:m], face[:m]
