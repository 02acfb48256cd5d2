"""Lines of points: evenly spaced, evened out, and counted where they cross."""

import math
from collections.abc import Iterable

import numpy as np
import shapely
from numpy.typing import NDArray

Array = NDArray[np.float64]

# Places where lines of one outline may cross, and shapes that are looked at in one go.
MOST_CROSSINGS, AT_ONCE = 4096, 64


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


def check_crossings(lines: Iterable[tuple[Array, bool]]) -> None:
    """Raises ValueError for lines, points (n, 2) and whether they are closed, that cross each other and
    themselves over MOST_CROSSINGS times: widened, they would enclose as many areas."""
    runs = [np.vstack([points, points[:1]]) if closed else points for points, closed in lines]
    sides = [np.stack([run[:-1], run[1:]], axis=1) for run in runs if len(run) > 1]
    if not sides:
        return
    edges = shapely.linestrings(np.concatenate(sides))
    # Each crossing is found from both sides; each edge meets itself and those before and after it.
    if meet_oftener_than(2 * MOST_CROSSINGS + 3 * len(edges), edges, predicate="intersects"):
        raise ValueError(f"lines cross over {MOST_CROSSINGS} times; simplify them")


def meet_oftener_than(most: int, shapes: NDArray[np.object_], *, predicate: str | None = None) -> bool:
    """Whether more than `most` pairs of shapes meet, each with itself and from both sides: their boxes, or
    for a shapely `predicate` they themselves. It stops counting there."""
    tree, left = shapely.STRtree(shapes), most
    for first in range(0, len(shapes), AT_ONCE):
        left -= tree.query(shapes[first : first + AT_ONCE], predicate=predicate).shape[1]
        if left < 0:
            return True
    return False
