"""The skeleton: the lines along which the planes of a roof meet, read back from its triangles."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Index = NDArray[np.int64]


def skeleton_arcs(
    triangles: NDArray[np.int32], face: NDArray[np.int32], height: Array
) -> tuple[Index, Index]:
    """The arcs between inner nodes, as (lower node, higher node): edges with another face on each side.

    Arcs that start on the outline itself are omitted: they are the corners', not the strokes'.
    """
    starts = triangles.ravel().astype(np.int64)
    ends = np.roll(triangles, -1, axis=1).ravel().astype(np.int64)
    faces = np.repeat(face, 3)
    key = np.minimum(starts, ends) * (len(height) + 1) + np.maximum(starts, ends)
    order = np.argsort(key, kind="stable")
    twin = key[order[:-1]] == key[order[1:]]
    first, second = order[:-1][twin], order[1:][twin]
    arcs = first[
        (faces[first] != faces[second]) & (height[starts[first]] > 0.0) & (height[ends[first]] > 0.0)
    ]
    a, b = starts[arcs], ends[arcs]
    swap = height[a] > height[b]
    return np.where(swap, b, a), np.where(swap, a, b)
