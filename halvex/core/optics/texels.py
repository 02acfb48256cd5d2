"""Texels: pictures as pyramids, each level half as large as that before it, and the colour of a footprint.

Texels are premultiplied light. Those of pictures of 8 bits are kept in 8 bits as sRGB encodes them; those of
more, and of light brighter than white, in 16 bits as square roots of shares of the picture's brightest.
A footprint is looked up between the two levels whose texels are nearest to its size (trilinear filtering,
Williams, Pyramidal Parametrics, 1983).
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import helper, kernel
from halvex.core.optics.colour import LINEAR_OF_BYTES, linear_to_srgb
from halvex.core.optics.vectors import F, along4, floorf, mix4

# Linear light of the 256 encoded values, and the encoded values of 4,096 equal steps of linear light.
LINEAR = LINEAR_OF_BYTES.astype(np.float32)
_STEPS = 4095
ENCODED = np.round(linear_to_srgb(np.arange(_STEPS + 1) / _STEPS) * 255).astype(np.uint8)
DEEPEST = F(65535.0)
TILED, MIRRORED, HELD, CLEAR = range(4)
EDGES = ("tiled", "mirrored", "held", "clear")


class Pyramid(NamedTuple):
    """A picture: the texels (n, 4), uint8 or uint16, of its levels end to end, the largest first; the sizes
    (width, height) of these; how bright the greatest value is."""

    texels: np.ndarray
    sizes: tuple[tuple[int, int], ...]
    brightest: float = 1.0


class Texels(NamedTuple):
    """Pyramids end to end: eight (n, 4) uint8 and deep (m, 4) uint16; levels (L, 3): where each begins, its
    width and height; pictures (P, 3): first level, how many, whether they are deep; brightest (P,)."""

    eight: np.ndarray
    deep: np.ndarray
    levels: np.ndarray
    pictures: np.ndarray
    brightest: np.ndarray


@dataclass(frozen=True, eq=False)
class Means:
    """What pictures are on the whole: their numbers by name, and the mean premultiplied linear light and
    opacity (P, 4) of each."""

    numbers: Mapping[str, int]
    light: NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Pictures:
    """Pictures: what they are on the whole, and their pyramids as the kernels read them."""

    means: Means
    texels: Texels

    @classmethod
    def of(cls, pyramids: Mapping[str, Pyramid]) -> "Pictures":
        whole = tuple(pyramids.values())
        light = np.array([mean_texel(pyramid) for pyramid in whole]).reshape(-1, 4)
        return cls(Means({name: n for n, name in enumerate(pyramids)}, light), pack_texels(whole))


def sizes_of(width: int, height: int) -> tuple[tuple[int, int], ...]:
    """The sizes of the levels of a picture of this size."""
    sizes = [(width, height)]
    while sizes[-1] != (1, 1):
        sizes.append(((sizes[-1][0] + 1) // 2, (sizes[-1][1] + 1) // 2))
    return tuple(sizes)


@kernel
def _halve(level, found, linear, encoded):
    """Fill the level (ceil h/2, ceil w/2, 4) after one of 8 bits with means of 2 × 2 texels in linear
    light. An odd edge is taken twice."""
    height, width = level.shape[0], level.shape[1]
    for y in range(found.shape[0]):
        y0, y1 = 2 * y, min(2 * y + 1, height - 1)
        for x in range(found.shape[1]):
            x0, x1 = 2 * x, min(2 * x + 1, width - 1)
            for c in range(3):
                total = (
                    linear[level[y0, x0, c]]
                    + linear[level[y0, x1, c]]
                    + linear[level[y1, x0, c]]
                    + linear[level[y1, x1, c]]
                )
                found[y, x, c] = encoded[int(total * F(0.25 * _STEPS) + F(0.5))]
            opacity = int(level[y0, x0, 3]) + level[y0, x1, 3] + level[y1, x0, 3] + level[y1, x1, 3]
            found[y, x, 3] = (opacity + 2) // 4


def _halved_deep(level: NDArray[np.uint16]) -> NDArray[np.uint16]:
    """The same for square roots in 16 bits."""
    edge = ((0, level.shape[0] & 1), (0, level.shape[1] & 1), (0, 0))
    light = np.pad(level, edge, "edge").astype(np.float32)
    light[..., :3] *= light[..., :3] / DEEPEST
    mean = light.reshape(light.shape[0] // 2, 2, light.shape[1] // 2, 2, 4).mean(axis=(1, 3))
    mean[..., :3] = np.sqrt(mean[..., :3] * DEEPEST)
    return np.asarray(np.round(mean), np.uint16)


def _levels(texels: np.ndarray, sizes: tuple[tuple[int, int], ...]) -> list[np.ndarray]:
    """Views (h, w, 4) of the levels of a pyramid."""
    ends = np.cumsum([width * height for width, height in sizes])
    return [
        texels[end - width * height : end].reshape(height, width, 4)
        for end, (width, height) in zip(ends.tolist(), sizes, strict=True)
    ]


def pyramid_of_eight(texels: NDArray[np.uint8]) -> Pyramid:
    """The pyramid of a picture (h, w, 4) of premultiplied, encoded colours and opacities."""
    sizes = sizes_of(texels.shape[1], texels.shape[0])
    whole = np.empty((sum(width * height for width, height in sizes), 4), np.uint8)
    levels = _levels(whole, sizes)
    levels[0][:] = texels
    for level, halved in pairwise(levels):
        _halve(level, halved, LINEAR, ENCODED)
    return Pyramid(whole, sizes)


def pyramid_of_light(light: NDArray[np.float32]) -> Pyramid:
    """The pyramid of a picture (h, w, 4) of premultiplied linear light, which may be brighter than 1, and
    opacities."""
    brightest = max(float(light[..., :3].max(initial=0.0)), 1.0)
    sizes = sizes_of(light.shape[1], light.shape[0])
    whole = np.empty((sum(width * height for width, height in sizes), 4), np.uint16)
    levels = _levels(whole, sizes)
    levels[0][..., :3] = np.round(np.sqrt(np.clip(light[..., :3] / brightest, 0, 1)) * DEEPEST)
    levels[0][..., 3] = np.round(np.clip(light[..., 3], 0, 1) * DEEPEST)
    for level, halved in pairwise(levels):
        halved[:] = _halved_deep(level)
    return Pyramid(whole, sizes, brightest)


def mean_texel(pyramid: Pyramid) -> NDArray[np.float64]:
    """Premultiplied linear light and opacity (4,) of a whole picture."""
    return np.asarray(light_of(pyramid, pyramid.texels[-1]), float)


def light_of(pyramid: Pyramid, texels: np.ndarray) -> NDArray[np.float32]:
    """Premultiplied linear light and opacity (..., 4) of texels of a pyramid."""
    found = np.empty(texels.shape, np.float32)
    if texels.dtype == np.uint8:
        found[..., :3], found[..., 3] = LINEAR[texels[..., :3]], texels[..., 3] / 255
        return found
    share = texels / DEEPEST
    found[..., :3], found[..., 3] = share[..., :3] ** 2 * pyramid.brightest, share[..., 3]
    return found


def levels_of(pyramid: Pyramid) -> list[np.ndarray]:
    """Views (h, w, 4) of a pyramid's levels, the largest first."""
    return _levels(pyramid.texels, pyramid.sizes)


def pack_texels(pyramids: tuple[Pyramid, ...]) -> Texels:
    """Pyramids in order as the kernels read them; a single one is not copied."""
    levels: list[tuple[int, int, int]] = []
    pictures: list[tuple[int, int, bool]] = []
    sheets: tuple[list[np.ndarray], list[np.ndarray]] = ([], [])
    begins = [0, 0]
    for pyramid in pyramids:
        deep = pyramid.texels.dtype == np.uint16
        pictures.append((len(levels), len(pyramid.sizes), deep))
        sheets[deep].append(pyramid.texels)
        for width, height in pyramid.sizes:
            levels.append((begins[deep], width, height))
            begins[deep] += width * height
    eight, deep_ones = (
        sheet[0] if len(sheet) == 1 else np.concatenate([np.zeros((0, 4), kind), *sheet])
        for sheet, kind in zip(sheets, (np.uint8, np.uint16), strict=True)
    )
    return Texels(
        eight,
        deep_ones,
        np.array(levels, np.int64).reshape(-1, 3),
        np.array(pictures, np.int64).reshape(-1, 3),
        np.array([pyramid.brightest for pyramid in pyramids], np.float32),
    )


NO_PICTURES = Pictures.of({})


@helper
def _within(x, size, edges):
    """A place on a side of `size` texels, brought near it where the picture comes again."""
    if edges == TILED:
        return x - F(size) * floorf(x / F(size))
    if edges == MIRRORED:
        return x - F(2 * size) * floorf(x / F(2 * size))
    return min(max(x, F(-1.0)), F(size) + F(1.0))


@helper
def _onto(x, size, edges):
    """The number of the texel that stands at x, at most one beyond where `_within` may be."""
    if edges == TILED:
        return x + size if x < 0 else x - size if x >= size else x
    if edges == MIRRORED:
        x = -1 - x if x < 0 else x
        return x if x < size else max(2 * size - 1 - x, x - 2 * size)
    return min(max(x, 0), size - 1)


@helper
def _texel(texels, at):
    """Premultiplied linear light and opacity of a texel of 8 bits."""
    t = texels[at]
    return LINEAR[t[0]], LINEAR[t[1]], LINEAR[t[2]], F(t[3]) * F(1.0 / 255.0)


@helper
def _deep_texel(texels, at, by):
    """The same of one of 16 bits; `by` is how bright a whole one is."""
    t = texels[at]
    r, g, b = F(t[0]), F(t[1]), F(t[2])
    return r * r * by, g * g * by, b * b * by, F(t[3]) * F(1.0 / DEEPEST)


@helper
def _in_level(texels, picture, level, x, y, edges):
    """The colour between the four texels about (x, y), in texels of a level from its top left corner."""
    begin, width, height = texels.levels[level, 0], texels.levels[level, 1], texels.levels[level, 2]
    x, y = x - F(0.5), y - F(0.5)
    xf, yf = floorf(x), floorf(y)
    u, v = x - xf, y - yf
    left, right = _onto(int(xf), width, edges), _onto(int(xf) + 1, width, edges)
    above = begin + _onto(int(yf), height, edges) * width
    below = begin + _onto(int(yf) + 1, height, edges) * width
    if texels.pictures[picture, 2] == 0:
        t = texels.eight
        return mix4(
            mix4(_texel(t, above + left), _texel(t, above + right), u),
            mix4(_texel(t, below + left), _texel(t, below + right), u),
            v,
        )
    t, by = texels.deep, texels.brightest[picture] / (DEEPEST * DEEPEST)
    return mix4(
        mix4(_deep_texel(t, above + left, by), _deep_texel(t, above + right, by), u),
        mix4(_deep_texel(t, below + left, by), _deep_texel(t, below + right, by), u),
        v,
    )


@helper
def _inside(x, size, w):
    """The share of a footprint w wide about x that is on a side from 0 to `size`."""
    return min(max((min(x, size - x)) / w + F(0.5), F(0.0)), F(1.0))


@helper
def texel_colour(texels, picture, x, y, width, edges):
    """Premultiplied linear light and opacity of a picture at (x, y), in its px from its top left corner, the
    mean over about `width` px."""
    w = max(width, F(1.0))
    first, count = texels.pictures[picture, 0], texels.pictures[picture, 1]
    across, down = texels.levels[first, 1], texels.levels[first, 2]
    inside = F(1.0)
    if edges == CLEAR:
        inside = _inside(x, F(across), w) * _inside(y, F(down), w)
    # At once for all levels, whose sides are rounded up.
    x, y = _within(x, across, edges), _within(y, down, edges)
    place = min(F(math.log2(w)), F(count - 1)) if w > F(1.0) else F(0.0)
    low = min(int(place), count - 1)
    share = place - F(low)
    total = F(0.0), F(0.0), F(0.0), F(0.0)
    for step in range(2):
        weight = F(1.0) - share if step == 0 else share
        if weight > F(0.0):
            level = min(low + step, count - 1)
            by = F(1.0) / F(1 << level)
            total = along4(total, _in_level(texels, picture, first + level, x * by, y * by, edges), weight)
    return total[0] * inside, total[1] * inside, total[2] * inside, total[3] * inside
