"""Paths in space: smooth curves through points, and frames that do not spin along them."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

SEGMENT_POINTS = 24
LEAST_POINTS = 33


def smooth_path(through: Array, *, closed: bool) -> tuple[Array, float]:
    """A smooth curve through points (n, d): evenly spaced points (m, d) along it, and its length.

    A centripetal Catmull-Rom spline (Yuksel et al., Computer-Aided Design 43(7), 2011): it makes no
    loops of its own. A closed curve ends where it begins.
    """
    points = through[np.append(True, np.linalg.norm(np.diff(through, axis=0), axis=1) > 1e-9)]
    if closed and len(points) > 2 and np.linalg.norm(points[0] - points[-1]) <= 1e-9:
        points = points[:-1]
    if len(points) < 2:
        points = np.vstack([points, points + np.eye(points.shape[1])[0] * 1e-3])
    if len(points) == 2 and not closed:
        dense = np.linspace(points[0], points[1], LEAST_POINTS)
        return dense, float(np.linalg.norm(points[1] - points[0]))
    if closed:
        knots = np.vstack([points[-1], points, points[0], points[1]])
    else:
        knots = np.vstack([2 * points[0] - points[1], points, 2 * points[-1] - points[-2]])
    pieces = []
    for p0, p1, p2, p3 in zip(knots, knots[1:], knots[2:], knots[3:], strict=False):
        t = np.cumsum([0.0, *(max(float(np.linalg.norm(b - a)), 1e-9) ** 0.5 for a, b in ((p0, p1), (p1, p2), (p2, p3)))])
        s = np.linspace(t[1], t[2], SEGMENT_POINTS, endpoint=False)[:, None]
        a1 = ((t[1] - s) * p0 + (s - t[0]) * p1) / (t[1] - t[0])
        a2 = ((t[2] - s) * p1 + (s - t[1]) * p2) / (t[2] - t[1])
        a3 = ((t[3] - s) * p2 + (s - t[2]) * p3) / (t[3] - t[2])
        b1 = ((t[2] - s) * a1 + (s - t[0]) * a2) / (t[2] - t[0])
        b2 = ((t[3] - s) * a2 + (s - t[1]) * a3) / (t[3] - t[1])
        pieces.append(((t[2] - s) * b1 + (s - t[1]) * b2) / (t[2] - t[1]))
    dense = np.vstack([*pieces, knots[-2][None]])
    return spaced(dense, max(len(dense), LEAST_POINTS))


def spaced(line: Array, count: int) -> tuple[Array, float]:
    """`count` points evenly spaced along a polyline, and the line's length."""
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])
    at = np.linspace(0.0, along[-1], count)
    return np.column_stack([np.interp(at, along, column) for column in line.T]), float(along[-1])


def tangents_of(path: Array, *, closed: bool = False) -> Array:
    """Unit tangents (n, d) at the points of a path; a closed one repeats its first point at the end."""
    ends = np.vstack([path[-2], path, path[1]]) if closed else np.vstack([2 * path[0] - path[1], path, 2 * path[-1] - path[-2]])
    along = ends[2:] - ends[:-2]
    return np.asarray(along / np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-12))


def frames_along(path: Array) -> Array:
    """Rotations (n, 3, 3) that carry the section at the start along a path without spin, the first one none.

    By double reflection (Wang, Jüttler, Zheng & Liu, ACM Trans. Graph. 27(1), 2008).
    """
    tangents = tangents_of(path)
    frames = np.empty((len(path), 3, 3))
    frames[0] = np.eye(3)
    for i in range(len(path) - 1):
        frames[i + 1] = _reflect_twice(frames[i], path[i + 1] - path[i], tangents[i], tangents[i + 1])
    return frames


def _reflect_twice(frame: Array, step: Array, tangent: Array, following: Array) -> Array:
    c1 = step @ step
    if c1 < 1e-24:
        return frame
    reflected = frame - np.outer(step, 2.0 / c1 * (step @ frame))
    across = tangent - 2.0 / c1 * (step @ tangent) * step
    v2 = following - across
    c2 = v2 @ v2
    if c2 < 1e-24:
        # The tangent did not turn: the second mirror is the first, and nothing turns.
        return frame
    return np.asarray(reflected - np.outer(v2, 2.0 / c2 * (v2 @ reflected)))


def turning(path: Array) -> float:
    """Total turning of a path in radians."""
    along = np.diff(path, axis=0)
    along /= np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-12)
    return float(np.arccos(np.clip(np.einsum("ij,ij->i", along[1:], along[:-1]), -1.0, 1.0)).sum())
