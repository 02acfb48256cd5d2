"""Beads: some hundred points that stand for all that glows. Drafts light what is near with them."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

# Of one body and material.
MOST_BEADS = 256
# Beads of so many of their sides about each other are one where they are far away.
GROUP_SIDES = 8.0
# How many times a group's reach lies between it and what it begins to be one bead for.
FAR = 1.2
# Of what a body shows of its surface from a direction, by the mean square of how its normals lie along it: so
# many times the root shows it as a sphere and a tube do, within 2 %, a quarter of it in the mean (Cauchy).
SHOWN = 0.44
# The same for the light of a core: 3/16 of the surface across a tube, less by the fourth power of the sine
# towards its ends, two fifths of what shines evenly in all.
SHOWN_OF_CORE = 0.75


# Rows of `Beads.rows`, of each bead and group: its place in the world; what of its area, px², faces one way,
# as a vector; how normals lie in the rest of it, the means of x², y², z², 2yz, 2zx and 2xy of them, and
# how large that is; how much of its light is even, and how much comes from its middle; one over the length of
# that vector; px², the least squared distance at which it is a point; px², how far on the mean square the
# beads of a group lie from its place; one over the squared distance from which on it stands for its beads,
# entirely from twice as much on; and its radiance, as `light_beads` fills it in.
PLACE, OUTWARD, NORMALS, AROUND, EVEN, MIDDLE, TURNED, NEAR, WIDE, OVER_FAR, LIGHT = 0, 3, 6, *range(12, 20)
ROWS = LIGHT + 3
# Of a bead, which stands for itself everywhere.
ANYWHERE = 1e12


class Beads(NamedTuple):
    """Beads (b,) and after them groups of them (g,), which are beads too: rows (ROWS, b + g), as above. Of
    each bead the instance and triangle (b,) whose light it has. The beads of group k are first[k] to
    first[k + 1] - 1 (g + 1,)."""

    rows: NDArray[np.float32]
    instance: NDArray[np.int32]
    triangle: NDArray[np.int32]
    first: NDArray[np.int32]


class Gathered(NamedTuple):
    """Beads (b,) of one body, in its frame: their place (b, 3), vector area (b, 3), area (b,) and its second
    moments (b, 3, 3), the sums of n nᵀ dA; the number of a triangle of theirs (b,); how wide they are."""

    place: Array
    vector: Array
    area: Array
    moments: Array
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
    outer = vector[:, :, None] * vector[:, None, :] / weights[:, None, None]
    moments = _sums(outer.reshape(-1, 9), number, len(cubes)).reshape(-1, 3, 3)
    return Gathered(place, _sums(vector, number, len(cubes)), total, moments, largest, side)


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


class PlacedBeads(NamedTuple):
    """Beads (b,) in the world, as in `Gathered`; of each how wide it is, its core (optics/material.py), and
    the instance that it belongs to."""

    place: Array
    vector: Array
    area: Array
    moments: Array
    side: Array
    core: Array
    instance: NDArray[np.int64]
    triangle: NDArray[np.int64]

    def taken(self, rows: NDArray[np.int64]) -> "PlacedBeads":
        """Those rows of all of it."""
        return PlacedBeads(
            self.place[rows],
            self.vector[rows],
            self.area[rows],
            self.moments[rows],
            self.side[rows],
            self.core[rows],
            self.instance[rows],
            self.triangle[rows],
        )


def no_beads() -> PlacedBeads:
    """The beads of nothing."""
    rows, none, numbers = np.zeros((0, 3)), np.zeros(0), np.zeros(0, np.int64)
    return PlacedBeads(rows, rows, none, np.zeros((0, 3, 3)), none, none, numbers, numbers)


def grouped(placed: PlacedBeads) -> Beads:
    """Beads and their groups."""
    count, group = len(placed.place), np.zeros(0, np.int64)
    if count:
        cubes = _cubes(placed.place, GROUP_SIDES * float(np.median(placed.side)))
        _, group = np.unique(cubes, return_inverse=True)
        order = np.argsort(group, kind="stable")
        placed, group = placed.taken(order), group[order]
    groups = int(group[-1]) + 1 if count else 0
    place, area, side = placed.place, placed.area, placed.side
    whole = _sums(area, group, groups)
    share = area / np.maximum(whole, 1e-12)[group]
    middle = _sums(place * share[:, None], group, groups)
    away = np.linalg.norm(place - middle[group], axis=1)
    reach, wide = np.zeros(groups), _sums(away**2 * share, group, groups)
    np.maximum.at(reach, group, away + side / 2)
    outward = np.vstack([placed.vector, _sums(placed.vector, group, groups)])
    flat = placed.moments.reshape(count, 9)
    moments = np.vstack([flat, _sums(flat, group, groups)]).reshape(-1, 3, 3)
    around, normals = _around(outward, np.concatenate([area, whole]), moments)
    core = np.concatenate([placed.core, _sums(placed.core * share, group, groups)])
    rows = np.zeros((ROWS, count + groups), np.float32)
    rows[PLACE : PLACE + 3] = np.vstack([place, middle]).T
    rows[OUTWARD : OUTWARD + 3] = outward.T
    rows[NORMALS : NORMALS + 6] = normals.T
    rows[AROUND] = around
    # Of what shines from its middle alone there are two fifths (optics/scattering.py, `shining`).
    rows[EVEN], rows[MIDDLE] = (1 - core) / (1 - 0.6 * core), core / (1 - 0.6 * core)
    rows[TURNED] = 1 / np.maximum(np.linalg.norm(outward, axis=1), 1e-12)
    rows[NEAR] = np.concatenate([(side / 2) ** 2, reach**2])
    rows[WIDE, count:] = wide
    rows[OVER_FAR, :count] = ANYWHERE
    rows[OVER_FAR, count:] = 1 / np.maximum((FAR * reach) ** 2, 1e-12)
    return Beads(
        rows,
        placed.instance.astype(np.int32),
        placed.triangle.astype(np.int32),
        np.searchsorted(group, np.arange(groups + 1)).astype(np.int32),
    )


def _around(outward: Array, area: Array, moments: Array) -> tuple[Array, Array]:
    """What of an area (n,) with moments (n, 3, 3) does not all face `outward` (n, 3), and how its normals lie
    (n, 6), as in `Beads.rows`."""
    turned = np.linalg.norm(outward, axis=1)
    left = np.maximum(area - turned, 0.0)
    facing = outward[:, :, None] * outward[:, None, :] / np.maximum(turned, 1e-12)[:, None, None]
    rest = (moments - facing) / np.maximum(left, 1e-12)[:, None, None]
    diagonal = rest[:, [0, 1, 2], [0, 1, 2]]
    return left, np.hstack([diagonal, 2 * rest[:, [1, 2, 0], [2, 0, 1]]])
