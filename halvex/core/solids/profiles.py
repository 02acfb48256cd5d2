"""Bevel profiles: how far the edge has risen at a given distance from the outline.

A profile is a curve from (0, 0), on the outline, to (1, 1), on the face, in shares of the bevel's width
and height. It never runs backwards; where it stands upright two points share a distance. It knows
nothing of letters; `bevel.py` lays it over a roof. To add one, write a function that returns a Curve and
name it in PROFILES.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from halvex.core.piece.form import Bevel

Array = NDArray[np.float64]

FINEST_STEPS = 48
# Greatest distance in px of the picture between a curved profile and its facets.
PROFILE_TOLERANCE_PX = 0.05


@dataclass(frozen=True)
class Curve:
    """A profile as straight pieces: points (k, 2) as (distance, rise), and the direction of the true
    curve at the start and the end of each piece, `leave` and `arrive` (k - 1, 2), of any length."""

    points: Array
    leave: Array
    arrive: Array


def _polygon(*points: tuple[float, float]) -> Curve:
    corners = np.array(points, float)
    along = np.diff(corners, axis=0)
    return Curve(corners, along, along)


def _smooth(points: Array, directions: Array) -> Curve:
    return Curve(points, directions[:-1], directions[1:])


def _joined(first: Curve, second: Curve) -> Curve:
    return Curve(
        np.vstack([first.points, second.points[1:]]),
        np.vstack([first.leave, second.leave]),
        np.vstack([first.arrive, second.arrive]),
    )


def _scaled(curve: Curve, size: float, at: tuple[float, float]) -> Curve:
    return Curve(curve.points * size + at, curve.leave, curve.arrive)


def _angles(steps: int) -> Array:
    return np.linspace(0.0, math.pi / 2, steps + 1)


def chamfer() -> Curve:
    """Flat."""
    return _polygon((0, 0), (1, 1))


def ovolo(steps: int) -> Curve:
    """Convex quarter round: leaves the return tangentially and meets the face flat.

    >>> ovolo(2).points.round(3).tolist()
    [[0.0, 0.0], [0.293, 0.707], [1.0, 1.0]]
    """
    a = _angles(steps)
    points = np.column_stack([1.0 - np.cos(a), np.sin(a)])
    points[-1] = 1.0
    return _smooth(points, np.column_stack([np.sin(a), np.cos(a)]))


def cavetto(steps: int) -> Curve:
    """Concave quarter round: a hollow that leaves the return square and meets the face upright."""
    a = _angles(steps)
    points = np.column_stack([np.sin(a), 1.0 - np.cos(a)])
    points[-1] = 1.0
    return _smooth(points, np.column_stack([np.cos(a), np.sin(a)]))


def cyma(steps: int) -> Curve:
    """S-curve: a hollow below, a round above, each over half of width and height."""
    half = max(steps // 2, 2)
    return _joined(_scaled(cavetto(half), 0.5, (0.0, 0.0)), _scaled(ovolo(half), 0.5, (0.5, 0.5)))


def bead(steps: int) -> Curve:
    """Half round, parted from the face by an upright quirk."""
    a = np.linspace(0.0, math.pi, 2 * steps + 1)
    points = np.column_stack([0.5 - 0.5 * np.cos(a), np.sin(a)])
    points[0], points[-1] = (0.0, 0.0), (1.0, 0.0)
    return _joined(_smooth(points, np.column_stack([0.5 * np.sin(a), np.cos(a)])), _polygon((1, 0), (1, 1)))


def step(count: int) -> Curve:
    """`count` ledges with upright risers, the last riser meeting the face."""
    corners: list[tuple[float, float]] = [(0.0, 0.0)]
    for k in range(1, count + 1):
        corners += [(k / count, (k - 1) / count), (k / count, k / count)]
    return _polygon(*corners)


def free(points: tuple[tuple[float, float], ...], steps: int) -> Curve:
    """A smooth curve through the given points between (0, 0) and (1, 1), without overshoot.

    Slopes are those of a monotone cubic (Fritsch & Carlson, SIAM J. Numer. Anal. 17(2), 1980).
    """
    knots = np.array([(0.0, 0.0), *sorted(points), (1.0, 1.0)])
    x, y = knots.T
    secant = np.diff(y) / np.diff(x)
    slope = np.concatenate(
        [
            [secant[0]],
            np.where(secant[:-1] * secant[1:] > 0, (secant[:-1] + secant[1:]) / 2, 0.0),
            [secant[-1]],
        ]
    )
    for i, s in enumerate(secant):
        if s == 0.0:
            slope[i] = slope[i + 1] = 0.0
            continue
        a, b = slope[i] / s, slope[i + 1] / s
        if a * a + b * b > 9.0:
            slope[i], slope[i + 1] = 3.0 * s * a / math.hypot(a, b), 3.0 * s * b / math.hypot(a, b)
    found, directions = [], []
    pieces = max(steps // len(secant), 3)
    for i in range(len(secant)):
        u = np.linspace(0.0, 1.0, pieces + 1)[0 if i == 0 else 1 :]
        width = x[i + 1] - x[i]
        rise = (
            (2 * u**3 - 3 * u**2 + 1) * y[i]
            + (u**3 - 2 * u**2 + u) * width * slope[i]
            + (3 * u**2 - 2 * u**3) * y[i + 1]
            + (u**3 - u**2) * width * slope[i + 1]
        )
        along = (
            (6 * u**2 - 6 * u) * (y[i] - y[i + 1]) / width
            + (3 * u**2 - 4 * u + 1) * slope[i]
            + (3 * u**2 - 2 * u) * slope[i + 1]
        )
        found.append(np.column_stack([x[i] + u * width, np.clip(rise, 0.0, 1.0)]))
        directions.append(np.column_stack([np.ones_like(u), along]))
    return _smooth(np.vstack(found), np.vstack(directions))


PROFILES: dict[str, Callable[[Bevel, int], Curve]] = {
    "chamfer": lambda bevel, steps: chamfer(),
    "ovolo": lambda bevel, steps: ovolo(steps),
    "cavetto": lambda bevel, steps: cavetto(steps),
    "cyma": lambda bevel, steps: cyma(steps),
    "bead": lambda bevel, steps: bead(steps),
    "step": lambda bevel, steps: step(bevel.steps),
    "curve": lambda bevel, steps: free(bevel.curve, 2 * steps),
}


def profile_curve(bevel: Bevel, radius_px: float) -> Curve:
    """The bevel's profile, fine enough for a picture in which it measures `radius_px`."""
    return PROFILES[bevel.profile](bevel, steps_for(radius_px))


def steps_for(radius_px: float) -> int:
    """Facets over a quarter round of this radius so that none is off by more than the tolerance.

    The sagitta of a facet of angle a is r(1 - cos(a/2)). Rounded up to an even number.
    """
    if radius_px <= PROFILE_TOLERANCE_PX:
        return 2
    angle = 2.0 * math.acos(1.0 - PROFILE_TOLERANCE_PX / radius_px)
    return min(2 * math.ceil(math.pi / 2 / angle / 2), FINEST_STEPS)
