"""Lines of points: evenly spaced, and evened out."""

import math

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def spaced(line: Array, count: int) -> tuple[Array, float]:
    """`count` points evenly spaced along a polyline (n, d), and the line's length."""
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])
    at = np.linspace(0.0, along[-1], count)
    return np.column_stack([np.interp(at, along, column) for column in line.T]), float(along[-1])


def evened(line: Array, *, deviation: float, closed: bool, most: int) -> Array:
    """A line of evenly spaced points smoothed by a Gaussian of `deviation` steps, an open one's ends kept.

    Repeated (1, 2, 1) / 4 averaging of k passes is a Gaussian of deviation √(k / 2); at the most
    `most` passes are made.
    """
    line = line.copy()
    for _ in range(min(math.ceil(2.0 * deviation**2), most)):
        if closed:
            line = (np.roll(line, 1, axis=0) + 2.0 * line + np.roll(line, -1, axis=0)) / 4.0
        elif len(line) > 2:
            line[1:-1] = (line[:-2] + 2.0 * line[1:-1] + line[2:]) / 4.0
    return line
