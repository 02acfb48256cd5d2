"""Bevel profiles: how far the edge has risen at a given distance from the outline.

A profile maps t in [0, 1] (0 at the outline, 1 where the bevel meets the face) to a rise in [0, 1],
and says in which direction its curve runs there. It knows nothing of letters; `body.py` lays it over
a roof. To add one, write the two functions and name it in PROFILES.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

FINEST_STEPS = 48
# Greatest distance in px of the picture between a curved profile and its facets.
PROFILE_TOLERANCE_PX = 0.05


@dataclass(frozen=True)
class Profile:
    """`rise(t)`; `tangent(t)` as (inwards, upwards) of any length; `levels(n)`: n + 1 values of t from 0 to 1."""

    rise: Callable[[Array], Array]
    tangent: Callable[[Array], tuple[Array, Array]]
    levels: Callable[[int], Array]
    curved: bool


def _chamfer_tangent(t: Array) -> tuple[Array, Array]:
    return np.ones_like(t), np.ones_like(t)


def ovolo(t: Array) -> Array:
    """Convex quarter round, the carpenter's ovolo.

    rise = sqrt(1 - (1 - t)²), so the edge leaves the return tangentially and meets the face flat.

    >>> ovolo(np.array([0.0, 1.0]))
    array([0., 1.])
    """
    return np.sqrt(np.maximum(1.0 - (1.0 - t) ** 2, 0.0))


def _ovolo_tangent(t: Array) -> tuple[Array, Array]:
    return ovolo(t), 1.0 - t


def _equal_angles(n: int) -> Array:
    levels = 1.0 - np.cos(np.linspace(0.0, math.pi / 2, n + 1))
    levels[-1] = 1.0
    return levels


PROFILES: dict[str, Profile] = {
    "chamfer": Profile(lambda t: t, _chamfer_tangent, lambda n: np.array([0.0, 1.0]), curved=False),
    "ovolo": Profile(ovolo, _ovolo_tangent, _equal_angles, curved=True),
}


def steps_for(radius_px: float) -> int:
    """Facets over a quarter round of this radius so that none is off by more than the tolerance.

    The sagitta of a facet of angle a is r(1 - cos(a/2)). Rounded up to an even number.
    """
    if radius_px <= PROFILE_TOLERANCE_PX:
        return 2
    angle = 2.0 * math.acos(1.0 - PROFILE_TOLERANCE_PX / radius_px)
    return min(2 * math.ceil(math.pi / 2 / angle / 2), FINEST_STEPS)
