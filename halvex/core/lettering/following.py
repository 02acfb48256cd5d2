"""Following: where a point of a line of words comes to stand, on a straight line, an arc or a curve.

A stand takes a distance along the line from its start, the line's length, the share of it that is
left of the anchor (0 left, 1/2 centre, 1 right) and how far the line is below the first one, all in
px; it gives the point as x + iy and the line's direction there in degrees.
"""

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from halvex.core.lettering.typefaces import LetteringError

Stand = Callable[[float, float, float, float], tuple[complex, float]]


def straight(at: float, length: float, shift: float, below: float) -> tuple[complex, float]:
    return complex(at - shift * length, -below), 0.0


def arc(longest: float, bend: float) -> Stand:
    """Concentric arcs about one centre: the longest line would span `bend` degrees on the first one.

    >>> point, angle = arc(math.pi * 100, 180)(0.0, math.pi * 100, 0.5, 0.0)
    >>> round(point.real), round(point.imag), round(angle)
    (-100, -100, 90)
    """
    radius = longest / math.radians(bend)

    def stand(at: float, length: float, shift: float, below: float) -> tuple[complex, float]:
        own = radius - below
        if own * radius <= 0.0:
            raise LetteringError(
                "along", "a lower line does not fit inside this arc; bend it less, or set fewer lines"
            )
        # The anchor of left-aligned lines is the longest line's left end, of right-aligned its right end.
        turn = (at + (shift - 0.5) * longest - shift * length) / own
        return complex(own * math.sin(turn), own * math.cos(turn) - radius), -math.degrees(turn)

    return stand


def curve(points: NDArray[np.float64], closed: bool) -> Stand:
    """A drawn line (n, 2) in px; words longer than it go on straight, around a closed one they go
    round again."""
    line = np.vstack([points, points[:1]]) if closed else points
    steps = np.diff(line, axis=0)
    lengths = np.hypot(*steps.T)
    along = np.concatenate([[0.0], np.cumsum(lengths)])
    directions = steps / np.maximum(lengths, 1e-12)[:, None]
    total = float(along[-1])

    def stand(at: float, length: float, shift: float, below: float) -> tuple[complex, float]:
        place = at + shift * (total - length)
        place = place % total if closed else place
        edge = int(np.clip(np.searchsorted(along, place, side="right") - 1, 0, len(steps) - 1))
        way = directions[edge]
        x, y = line[edge] + (place - along[edge]) * way + below * np.array([way[1], -way[0]])
        return complex(x, y), math.degrees(math.atan2(way[1], way[0]))

    return stand
