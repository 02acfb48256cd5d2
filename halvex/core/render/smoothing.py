"""Evening out counted photons: the fewer there are about a place, the wider the mean that it takes.

A mean's width is a level of a pyramid, or lies between two. From each level a third of what it differs from
the next one is taken away, which makes up for how wide means flatten peaks (Silverman, "Density estimation",
1986, §3.6: kernels of higher order).
"""

import math
from concurrent.futures import Executor

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import helper, kernel
from halvex.core.optics.vectors import F
from halvex.core.render.work import run_bands

# The level that places with a photon to a texel take; its mean is over about 140 texels.
LEVEL_OF_ONE = F(2.33)
# How many levels up a place with half as many takes. A half would make all noise a steady share of the light;
# this leaves more of it where light is faint, since there other light mostly hides it.
LEVELS_A_HALF = F(1.0 / 3.0)
# The level at which photons are counted for this: at finer ones noise in the count would change the width.
COUNTED = 3
# How much a level counts for itself, the next one being taken away: widths, squared, are four times apart.
PEAKS_KEPT = F(4.0 / 3.0)
LEVELS, BAND = 8, 32
# Weights that halve an image: a Gaussian's, nearly, so that levels show no blocks.
WEIGHTS = np.array([1, 3, 3, 1], np.float32) / 8

Array = NDArray[np.float32]


def smoothed(sums: Array, pool: Executor) -> Array:
    """Sums of photons (rows, columns, values + 1), the last being how many, evened out (rows, columns,
    values)."""
    levels = [sums]
    while min(levels[-1].shape[:2]) > 2 and len(levels) < LEVELS:
        rows, columns, values = levels[-1].shape
        levels.append(np.zeros(((rows + 1) // 2, (columns + 1) // 2, values), np.float32))
        _halve(levels[-2], levels[-1])
    rows, columns, values = sums.shape
    out = np.empty((rows, columns, values - 1), np.float32)
    ends = np.cumsum([level.size for level in levels])
    begins = np.concatenate([[0], ends[:-1]])
    shapes = np.array([(*level.shape[:2], begin) for level, begin in zip(levels, begins, strict=True)])
    pyramid = np.concatenate([level.reshape(-1) for level in levels])
    run_bands(pool, lambda first, end: _smooth(pyramid, shapes, first, end, out), BAND, rows)
    return out


@kernel
def _halve(image, half):
    """Add to half (rows, columns, values) the means of an image of twice as many rows and columns; beyond
    its edges that is as at them."""
    rows, columns, values = image.shape
    for row in range(half.shape[0]):
        for column in range(half.shape[1]):
            for i in range(4):
                y = min(max(2 * row + i - 1, 0), rows - 1)
                for j in range(4):
                    x = min(max(2 * column + j - 1, 0), columns - 1)
                    weight = WEIGHTS[i] * WEIGHTS[j]
                    for value in range(values):
                        half[row, column, value] += weight * image[y, x, value]


@helper
def _place(shapes, level, values, y, x):
    """Where texel (y, x) of the finest level lies in another: (number of the first of its four nearest values
    there, numbers from row to row, how far it is from their first row and column)."""
    part = F(1.0) / F(1 << level)
    rows, columns, begin = shapes[level, 0], shapes[level, 1], shapes[level, 2]
    y = min(max((F(y) + F(0.5)) * part - F(0.5), F(0.0)), F(rows - 1))
    x = min(max((F(x) + F(0.5)) * part - F(0.5), F(0.0)), F(columns - 1))
    row, column = min(int(y), rows - 2), min(int(x), columns - 2)
    return begin + (row * columns + column) * values, columns * values, y - F(row), x - F(column)


@helper
def _at(pyramid, at, values, place):
    """A value at a place, `at` being that of its first nearest texel; they are `values` apart."""
    _, down, y, x = place
    upper = pyramid[at] * (F(1.0) - x) + pyramid[at + values] * x
    lower = pyramid[at + down] * (F(1.0) - x) + pyramid[at + down + values] * x
    return upper * (F(1.0) - y) + lower * y


@kernel
def _smooth(pyramid, shapes, begin, end, out):
    """Fill rows begin..end - 1 of out (rows, columns, values), each texel by how many photons there are about
    it. shapes (levels, 3): rows, columns and where in the pyramid (n,) each level begins."""
    columns, values = out.shape[1], out.shape[2]
    each, last = values + 1, shapes.shape[0] - 1
    counted, most = min(COUNTED, last), max(last - 2, 0)
    for row in range(begin, end):
        for column in range(columns):
            place = _place(shapes, counted, each, row, column)
            photons = _at(pyramid, place[0] + values, each, place)
            level = LEVEL_OF_ONE - LEVELS_A_HALF * math.log2(max(photons, F(1e-6)))
            level = min(max(level, F(0.0)), F(most))
            low = min(int(level), most)
            share = level - F(low)
            first = _place(shapes, low, each, row, column)
            second = _place(shapes, min(low + 1, last), each, row, column)
            third = _place(shapes, min(low + 2, last), each, row, column)
            of_first = (F(1.0) - share) * PEAKS_KEPT
            of_third = share * (F(1.0) - PEAKS_KEPT)
            of_second = F(1.0) - of_first - of_third
            for value in range(values):
                light = of_first * _at(pyramid, first[0] + value, each, first)
                light += of_second * _at(pyramid, second[0] + value, each, second)
                light += of_third * _at(pyramid, third[0] + value, each, third)
                out[row, column, value] = max(light, F(0.0))
