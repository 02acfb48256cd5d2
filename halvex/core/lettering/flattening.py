"""Flattening: curves become points, once, to a tolerance and to a greatest turn per facet.

The turn at a vertex then separates curves (small) from corners (large).
"""

import itertools
import math

# Facets of a flattened curve never turn by more than this; sharper vertices are corners.
GREATEST_FACET_TURN_DEG = 12.0
# No outline that a body could be made of has more points, or lies farther out in its own units.
MOST_POINTS = 20_000
FARTHEST = 1e9


class FlatteningPen:
    """Collects contours as flattened points x + iy, within `tolerance` of the curves and no facet
    turning by more than `turn` degrees; `closed` says which contours were closed.

    It takes MOST_POINTS points. What would need more, or has no finite place, sets `overfull`
    instead: pens are called from libraries that swallow exceptions.
    """

    def __init__(self, scale: float, tolerance: float, turn: float = GREATEST_FACET_TURN_DEG):
        self.scale = scale
        self.tolerance = tolerance
        self.turn = turn
        self.contours: list[list[complex]] = []
        self.closed: list[bool] = []
        self.overfull = False
        self._left = MOST_POINTS

    def _has_room(self, points: int, *places: float) -> bool:
        self._left -= points
        self.overfull = self.overfull or self._left < 0 or not all(abs(place) <= FARTHEST for place in places)
        return not self.overfull

    def move_to(self, x: float, y: float) -> None:
        if self._has_room(1, x, y):
            self.contours.append([complex(x, y) * self.scale])
            self.closed.append(False)

    def close(self) -> None:
        if self.closed:
            self.closed[-1] = True

    def line_to(self, x: float, y: float) -> None:
        if self._has_room(1, x, y):
            self.contours[-1].append(complex(x, y) * self.scale)

    def quadratic_to(self, x1: float, y1: float, x2: float, y2: float) -> None:
        if not self._has_room(0, x1, y1, x2, y2):
            return
        start, mid, end = self.contours[-1][-1], complex(x1, y1) * self.scale, complex(x2, y2) * self.scale
        self._curve(start, start + (mid - start) * 2 / 3, end + (mid - end) * 2 / 3, end)

    def cubic_to(self, x1: float, y1: float, x2: float, y2: float, x3: float, y3: float) -> None:
        if not self._has_room(0, x1, y1, x2, y2, x3, y3):
            return
        self._curve(
            self.contours[-1][-1],
            complex(x1, y1) * self.scale,
            complex(x2, y2) * self.scale,
            complex(x3, y3) * self.scale,
        )

    def _curve(self, p0: complex, p1: complex, p2: complex, p3: complex) -> None:
        bend = max(abs(p0 - 2 * p1 + p2), abs(p1 - 2 * p2 + p3))
        # Chord error of a cubic cut into n equal parameter steps is at most 6·bend/(8·n²).
        pieces = math.ceil(math.sqrt(0.75 * bend / self.tolerance))
        pieces = max(pieces, math.ceil(math.degrees(_total_turn(p0, p1, p2, p3)) / self.turn * 1.5), 1)
        if not self._has_room(pieces):
            return
        for i in range(1, pieces + 1):
            t = i / pieces
            s = 1 - t
            self.contours[-1].append(s**3 * p0 + 3 * s * s * t * p1 + 3 * s * t * t * p2 + t**3 * p3)


def _total_turn(*controls: complex) -> float:
    """Turning of the control polygon in radians, an upper bound of the curve's own."""
    legs = [b - a for a, b in itertools.pairwise(controls) if abs(b - a) > 1e-12]
    return sum(abs(_angle(b / a)) for a, b in itertools.pairwise(legs))


def _angle(z: complex) -> float:
    return math.atan2(z.imag, z.real)
