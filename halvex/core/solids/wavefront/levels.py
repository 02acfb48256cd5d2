"""Cut a roof's triangles at profile levels, sharing every cut point between neighbours."""

import numpy as np
from numba import njit


@njit(cache=True)
def cut_bands(triangles, face, height, levels, edge_of, cut_first, cut_low, nodes):
    """Divide each triangle into the bands between `levels`.

    triangles (m, 3); height (nodes,); edge_of (m, 3) undirected edge of each side; an edge's cut
    points are numbered nodes + cut_first[edge] + (level - cut_low[edge]). Returns triangles (k, 3),
    band (k,) (the band above levels[b] and below levels[b + 1], the last one open) and face (k,).
    """
    bands = len(levels)
    room = 4 * len(triangles) + 16
    for m in range(len(triangles)):
        lo = min(height[triangles[m, 0]], height[triangles[m, 1]], height[triangles[m, 2]])
        hi = max(height[triangles[m, 0]], height[triangles[m, 1]], height[triangles[m, 2]])
        for b in range(bands):
            if levels[b] < hi and (b + 1 == bands or levels[b + 1] > lo):
                room += 3
    out = np.empty((room, 3), np.int32)
    out_band = np.empty(room, np.int32)
    out_face = np.empty(room, np.int32)
    count = 0
    ring = np.empty(8, np.int64)
    for m in range(len(triangles)):
        lo = min(height[triangles[m, 0]], height[triangles[m, 1]], height[triangles[m, 2]])
        hi = max(height[triangles[m, 0]], height[triangles[m, 1]], height[triangles[m, 2]])
        for b in range(bands):
            low = levels[b]
            high = levels[b + 1] if b + 1 < bands else 1e300
            if not (low < hi and high > lo) and not (lo == hi and low <= lo < high):
                continue
            n = 0
            for side in range(3):
                i, j = triangles[m, side], triangles[m, (side + 1) % 3]
                hi_, hj = height[i], height[j]
                if low <= hi_ <= high:
                    ring[n] = i
                    n += 1
                edge = edge_of[m, side]
                first = nodes + cut_first[edge] - cut_low[edge]
                if hi_ < hj:
                    if hi_ < low < hj:
                        ring[n] = first + b
                        n += 1
                    if hi_ < high < hj:
                        ring[n] = first + b + 1
                        n += 1
                elif hi_ > hj:
                    if hj < high < hi_:
                        ring[n] = first + b + 1
                        n += 1
                    if hj < low < hi_:
                        ring[n] = first + b
                        n += 1
            for k in range(1, n - 1):
                out[count, 0], out[count, 1], out[count, 2] = ring[0], ring[k], ring[k + 1]
                out_band[count] = b
                out_face[count] = face[m]
                count += 1
    return out[:count], out_band[:count], out_face[:count]
