"""Beads: some hundred points that stand for all that glows. Drafts light what is near with them."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

# Of one body and material.
MOST_BEADS = 256
# Beads of so many of their sides about each other are one where they are far away.
GROUP_SIDES = 8.0
# How many times a group's reach lies between it and what it is one bead for.
FAR = 1.5
# A convex body shows a quarter of its surface, in the mean over all directions (Cauchy).
SHOWN = 0.25


class Beads(NamedTuple):
    """Beads (b,) and after them groups of them (g,), which are beads too: place (b + g, 3) in the world; what
    they show, in px²: `outward` (b + g, 3) to where they face and `around` (b + g,) to all sides; near
    (b + g,), px², the least squared distance at which they are points; light (b + g, 3), radiance, as
    `light_beads` fills it in.

    Of each bead the instance and triangle (b,) whose light it has. The beads of group k are first[k] to
    first[k + 1] - 1 (g + 1,); far (g,) is the squared distance from which on it stands for them.
    """

    place: NDArray[np.float32]
    outward: NDArray[np.float32]
    around: NDArray[np.float32]
    near: NDArray[np.float32]
    light: NDArray[np.float32]
    instance: NDArray[np.int32]
    triangle: NDArray[np.int32]
    first: NDArray[np.int32]
    far: NDArray[np.float32]


class Gathered(NamedTuple):
    """Beads (b,) of one body, in its frame: their place (b, 3), vector area (b, 3) and area (b,), the number
    of a triangle of theirs (b,), and how wide they are."""

    place: Array
    vector: Array
    area: Array
    triangle: NDArray[np.int64]
    side: float


def gather(corners: NDArray[np.float32], thickness: float) -> Gathered:
    """Beads of triangles (t, 3, 3) of a body that is about as thick: one for each cube of that side, or of a
    larger one."""
    own = corners.astype(np.float64)
    vector = 0.5 * np.cross(own[:, 1] - own[:, 0], own[:, 2] - own[:, 0])
    area, middle = np.linalg.norm(vector, axis=1), own.mean(axis=1)
    side = max(thickness, float(np.sqrt(area.sum() / MOST_BEADS)), 1e-6)
    cubes, number = np.unique(_cubes(middle, side), return_inverse=True)
    while len(cubes) > MOST_BEADS:
        side *= 1.5
        cubes, number = np.unique(_cubes(middle, side), return_inverse=True)
    total = _sums(area, number, len(cubes))
    # Of triangles without area the light does not count.
    weights = area + 1e-12
    place = _sums(middle * weights[:, None], number, len(cubes)) / _sums(weights, number, len(cubes))[:, None]
    largest = np.zeros(len(cubes), np.int64)
    order = np.argsort(area, kind="stable")
    largest[number[order]] = order
    return Gathered(place, _sums(vector, number, len(cubes)), total, largest, side)


def _cubes(places: Array, side: float) -> NDArray[np.int64]:
    """The number (n,) of the cube that each place (n, 3) lies in."""
    cell = np.floor((places - places.min(axis=0)) / side).astype(np.int64)
    across = cell.max(axis=0) + 1
    return np.asarray((cell[:, 0] * across[1] + cell[:, 1]) * across[2] + cell[:, 2])


def _sums(values: Array, number: NDArray[np.int64], count: int) -> Array:
    """The sums of values (n,) or (n, k) of each number."""
    if values.ndim == 1:
        return np.bincount(number, values, count).astype(np.float64)
    return np.column_stack([np.bincount(number, column, count) for column in values.T])


def grouped(
    place: Array,
    vector: Array,
    area: Array,
    side: Array,
    instance: NDArray[np.int64],
    triangle: NDArray[np.int64],
) -> Beads:
    """Beads and their groups, of beads (b,) in the world."""
    count = len(place)
    if not count:
        rows, none, numbers = np.zeros((0, 3), np.float32), np.zeros(0, np.float32), np.zeros(0, np.int32)
        return Beads(rows, rows, none, none, rows, numbers, numbers, np.zeros(1, np.int32), none)
    _, group = np.unique(_cubes(place, GROUP_SIDES * float(np.median(side))), return_inverse=True)
    order = np.argsort(group, kind="stable")
    place, vector, area, side, group = place[order], vector[order], area[order], side[order], group[order]
    groups = int(group[-1]) + 1
    whole = _sums(area, group, groups)
    middle = _sums(place * area[:, None], group, groups) / np.maximum(whole, 1e-12)[:, None]
    reach = np.zeros(groups)
    np.maximum.at(reach, group, np.linalg.norm(place - middle[group], axis=1) + side / 2)
    outward, both = np.vstack([vector, _sums(vector, group, groups)]), np.concatenate([area, whole])
    turned = np.linalg.norm(outward, axis=1)
    return Beads(
        np.vstack([place, middle]).astype(np.float32),
        outward.astype(np.float32),
        (SHOWN * np.maximum(both - turned, 0.0)).astype(np.float32),
        np.concatenate([(side / 2) ** 2, reach**2]).astype(np.float32),
        np.zeros((count + groups, 3), np.float32),
        instance[order].astype(np.int32),
        triangle[order].astype(np.int32),
        np.searchsorted(group, np.arange(groups + 1)).astype(np.int32),
        ((FAR * reach) ** 2).astype(np.float32),
    )
