"""Evening out counted photons: each place takes the mean over as many of them, however wide that is.

Density by the nearest neighbours has the same noise everywhere and is sharp where photons are dense (Jensen,
EGWR 1996); here widths are levels of a pyramid and what lies between two of them.
"""

import math

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import helper, kernel
from halvex.core.optics.vectors import F

# Photons that a mean is over: a relative error of about a thirteenth.
ENOUGH = F(170.0)
# How many texels count in a mean at the finest level, 4 π σ² of its weights; a level up, four times more.
TEXELS_OF_FINEST = F(5.5)
LEVELS = 8
# Weights that halve an image: a Gaussian's, nearly, so that levels show no blocks.
WEIGHTS = np.array([1, 3, 3, 1], np.float32) / 8

Array = NDArray[np.float32]


def smoothed(sums: Array) -> Array:
    """Sums of photons (rows, columns, values + 1), the last being how many, evened out (rows, columns,
    values)."""
    levels = [sums]
    while min(levels[-1].shape[:2]) > 2 and len(levels) < LEVELS:
        levels.append(_halved(levels[-1]))
    rows, columns, values = sums.shape
    out = np.empty((rows, columns, values - 1), np.float32)
    ends = np.cumsum([level.size for level in levels])
    begins = np.concatenate([[0], ends[:-1]])
    shapes = np.array([(*level.shape[:2], begin) for level, begin in zip(levels, begins, strict=True)])
    _smooth(np.concatenate([level.reshape(-1) for level in levels]), shapes, out)
    return out


def _halved(image: Array) -> Array:
    """Means of twice as many rows and columns; beyond its edges an image is as at them."""
    for axis in (0, 1):
        half = (image.shape[axis] + 1) // 2
        around = [(0, 0)] * 3
        around[axis] = (1, 2 * half - image.shape[axis] + 1)
        wide = np.moveaxis(np.pad(image, around, "edge"), axis, 0)
        mean = np.zeros((half, *wide.shape[1:]), np.float32)
        for k, weight in enumerate(WEIGHTS):
            mean += weight * wide[k : k + 2 * half : 2]
        image = np.moveaxis(mean, 0, axis)
    return image


@helper
def _at(pyramid, shapes, level, values, y, x, value):
    """A value at texel (y, x) of the finest level, found in another, between its four nearest."""
    part = F(1.0) / F(1 << level)
    rows, columns, begin = shapes[level, 0], shapes[level, 1], shapes[level, 2]
    y = min(max((y + F(0.5)) * part - F(0.5), F(0.0)), F(rows - 1))
    x = min(max((x + F(0.5)) * part - F(0.5), F(0.0)), F(columns - 1))
    row, column = min(int(y), rows - 2), min(int(x), columns - 2)
    y, x = y - F(row), x - F(column)
    at = begin + (row * columns + column) * values + value
    below = at + columns * values
    upper = pyramid[at] * (F(1.0) - x) + pyramid[at + values] * x
    lower = pyramid[below] * (F(1.0) - x) + pyramid[below + values] * x
    return upper * (F(1.0) - y) + lower * y


@kernel
def _smooth(pyramid, shapes, out):
    """Fill out (rows, columns, values): each texel from the two levels between which there are photons
    enough. shapes (levels, 3): rows, columns and where in the pyramid (n,) each level begins."""
    rows, columns, values = out.shape
    last = shapes.shape[0] - 1
    for row in range(rows):
        for column in range(columns):
            y, x, level, texels = F(row), F(column), 0, TEXELS_OF_FINEST
            photons, before = _at(pyramid, shapes, 0, values + 1, y, x, values) * texels, F(0.0)
            while photons < ENOUGH and level < last:
                level += 1
                texels *= F(4.0)
                before = max(photons, F(0.01) * ENOUGH)
                photons = _at(pyramid, shapes, level, values + 1, y, x, values) * texels
            share = F(1.0)
            if level > 0 and photons > ENOUGH:
                share = math.log(ENOUGH / before) / math.log(photons / before)
            for value in range(values):
                mean = _at(pyramid, shapes, level, values + 1, y, x, value)
                if share < F(1.0):
                    finer = _at(pyramid, shapes, level - 1, values + 1, y, x, value)
                    mean = share * mean + (F(1.0) - share) * finer
                out[row, column, value] = mean
