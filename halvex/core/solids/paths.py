"""Paths in space: smooth curves through points, and frames that do not spin along them."""

import numpy as np
from numpy.typing import NDArray

from halvex.core.lettering.lines import spaced

Array = NDArray[np.float64]

SEGMENT_POINTS = 24
LEAST_POINTS = 33
MOST_RELAXATIONS = 600
NO_LENGTH = 1e-12
# A tube may bend a little less than its own radius allows before it folds.
RELAXED_SHARE = 1.15


def smooth_path(through: Array, *, leaving: Array | None = None) -> tuple[Array, float]:
    """A smooth curve through points (n, d): evenly spaced points (m, d) along it, and its length.

    Cubics with the tangents of a centripetal Catmull-Rom spline (Yuksel et al., Computer-Aided
    Design 43(7), 2011), which makes no loops of its own. `leaving` is the direction (d,) at the
    start, if it is given.
    """
    points = through[np.append(True, np.linalg.norm(np.diff(through, axis=0), axis=1) > 1e-9)]
    if len(points) < 2:
        points = np.vstack([points, points - np.eye(points.shape[1])[-1] * 1e-3])
    spans = np.linalg.norm(np.diff(points, axis=0), axis=1) ** 0.5
    secants = np.diff(points, axis=0) / spans[:, None]
    tangents = np.empty_like(points)
    if len(points) > 2:
        before, after = spans[:-1, None], spans[1:, None]
        tangents[1:-1] = (secants[:-1] * after + secants[1:] * before) / (before + after)
        tangents[-1] = 2.0 * secants[-1] - tangents[-2]
        tangents[0] = 2.0 * secants[0] - tangents[1]
    else:
        tangents[:] = secants
    if leaving is not None:
        tangents[0] = leaving * np.linalg.norm(secants[0])
    s = np.linspace(0.0, 1.0, SEGMENT_POINTS, endpoint=False)[:, None]
    pieces = [
        (1 + 2 * s) * (1 - s) ** 2 * p
        + s * (1 - s) ** 2 * span * m
        + s**2 * (3 - 2 * s) * q
        + s**2 * (s - 1) * span * n
        for p, q, m, n, span in zip(points, points[1:], tangents, tangents[1:], spans, strict=False)
    ]
    dense = np.vstack([*pieces, points[-1:]])
    return spaced(dense, max(len(dense), LEAST_POINTS))


def relaxed(line: Array, *, radius: float, closed: bool) -> Array:
    """A plane line (n, 2), about evenly spaced, smoothed where it bends tighter than `radius`, its
    ends kept."""
    line = line.copy()
    step = float(np.median(np.hypot(*np.diff(line, axis=0).T)))
    if len(line) < 4 or radius <= 0.0 or step <= 0.0:
        return line
    reach = max(min(round(radius / step), len(line)), 1)
    for _ in range(MOST_RELAXATIONS):
        before, after = np.roll(line, 1, axis=0), np.roll(line, -1, axis=0)
        u, v = line - before, after - line
        turn = np.abs(np.arctan2(u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0], np.einsum("ij,ij->i", u, v)))
        # The line's curvature, taken over a few steps so that the noise of one vertex is none.
        bend = turn / np.maximum((np.hypot(*u.T) + np.hypot(*v.T)) / 2, 1e-12)
        tight = bend > 1.0 / (RELAXED_SHARE * radius)
        if not closed:
            tight[[0, -1]] = False
        if not tight.any():
            break
        spread = _spread(tight, reach, closed)
        if not closed:
            spread[[0, -1]] = False
        line[spread] = ((before + 2.0 * line + after) / 4.0)[spread]
    return line


def _spread(marks: NDArray[np.bool_], reach: int, closed: bool) -> NDArray[np.bool_]:
    """Marks (n,) carried on to `reach` neighbours either way, reach at most n."""
    around = np.concatenate([marks[-reach:], marks, marks[:reach]]) if closed else np.pad(marks, reach)
    total = np.concatenate([[0], np.cumsum(around)])
    return np.asarray(total[2 * reach + 1 :] > total[: -2 * reach - 1])


def tangents_of(path: Array, *, closed: bool = False) -> Array:
    """Unit tangents (n, d) at the points of a path; a closed one repeats its first point at the end."""
    ends = (
        np.vstack([path[-2], path, path[1]])
        if closed
        else np.vstack([2 * path[0] - path[1], path, 2 * path[-1] - path[-2]])
    )
    along = ends[2:] - ends[:-2]
    for i in np.flatnonzero(np.linalg.norm(along, axis=1) < NO_LENGTH):
        # Where the path turns back on itself it arrives in one direction all the same, or in that
        # of the point before.
        arriving = path[i] - path[i - 1] if i else path[1] - path[0]
        along[i] = arriving if np.linalg.norm(arriving) >= NO_LENGTH else along[i - 1]
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
