"""Corner normals of surfaces that have no formula: averaged where triangles meet smoothly, crisp
elsewhere."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def face_normals(positions: Array, triangles: NDArray[np.int32]) -> Array:
    """(m, 3) normals as long as twice the triangles' areas."""
    a, b, c = (positions[triangles[:, i]] for i in range(3))
    return np.asarray(np.cross(b - a, c - a))


def smooth_normals(positions: Array, triangles: NDArray[np.int32], crease_deg: float) -> NDArray[np.float32]:
    """Corner normals (m, 3, 3): at each corner the mean, by angle, of the triangles that turn from
    this one by less than the crease."""
    flat = face_normals(positions, triangles)
    unit = flat / np.maximum(np.linalg.norm(flat, axis=1, keepdims=True), 1e-30)
    corners = positions[triangles]
    to_next, to_last = np.roll(corners, -1, axis=1) - corners, np.roll(corners, 1, axis=1) - corners
    cosine = np.einsum("mij,mij->mi", to_next, to_last) / np.maximum(
        np.linalg.norm(to_next, axis=2) * np.linalg.norm(to_last, axis=2), 1e-30
    )
    weight = np.arccos(np.clip(cosine, -1.0, 1.0)).ravel()
    vertex = triangles.ravel()
    order = np.argsort(vertex, kind="stable")
    counts = np.bincount(vertex, minlength=len(positions))
    first = np.concatenate([[0], np.cumsum(counts)])[:-1]
    # Every pair of corners at one vertex.
    size = counts[vertex]
    mine = np.repeat(np.arange(len(vertex)), size)
    offset = np.arange(len(mine)) - np.repeat(np.cumsum(size) - size, size)
    other = order[first[vertex[mine]] + offset]
    smooth = np.einsum("ij,ij->i", unit[mine // 3], unit[other // 3]) > np.cos(np.radians(crease_deg))
    total = np.zeros((len(vertex), 3))
    np.add.at(total, mine[smooth], unit[other[smooth] // 3] * weight[other[smooth], None])
    total /= np.maximum(np.linalg.norm(total, axis=1, keepdims=True), 1e-30)
    return total.reshape(-1, 3, 3).astype(np.float32)
