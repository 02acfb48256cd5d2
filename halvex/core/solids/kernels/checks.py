"""One look over a roof's triangles: what its acceptance and its mending need to know."""

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def inspect(nodes, triangles, face, normals, offsets, corners):
    """(sum of plan areas, least plan area, worst distance of a node from its face's plane, least height of a
    triangle over its longest side in plan, shortest extent of an edge between inner nodes).

    nodes (k, 3); triangles (m, 3); face (m,); normals (E, 2); offsets (E,); the first `corners`
    nodes are the outline's.
    """
    total, least, off_plane, flattest, shortest = 0.0, 1e300, 0.0, 1e300, 1e300
    for i in range(len(triangles)):
        e = face[i]
        longest = 0.0
        for side in range(3):
            p, q = triangles[i, side], triangles[i, (side + 1) % 3]
            dx, dy = nodes[q, 0] - nodes[p, 0], nodes[q, 1] - nodes[p, 1]
            longest = max(longest, np.sqrt(dx * dx + dy * dy))
            if p >= corners and q >= corners:
                shortest = min(shortest, max(abs(dx), abs(dy), abs(nodes[q, 2] - nodes[p, 2])))
            off_plane = max(
                off_plane,
                abs(normals[e, 0] * nodes[p, 0] + normals[e, 1] * nodes[p, 1] - offsets[e] - nodes[p, 2]),
            )
        a, b, c = triangles[i, 0], triangles[i, 1], triangles[i, 2]
        area = 0.5 * (
            (nodes[b, 0] - nodes[a, 0]) * (nodes[c, 1] - nodes[a, 1])
            - (nodes[b, 1] - nodes[a, 1]) * (nodes[c, 0] - nodes[a, 0])
        )
        total += area
        least = min(least, area)
        flattest = min(flattest, area / max(longest, 1e-300))
    return total, least, off_plane, flattest, shortest
