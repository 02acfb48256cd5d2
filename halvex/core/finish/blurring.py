"""Gaussian blurs at any radius, wide ones on a reduced picture.

What lies beyond the picture counts as its edge.
"""

import math
from collections.abc import Sequence
from concurrent.futures import Executor

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.tone import BAND_ROWS
from halvex.core.kernels import kernel
from halvex.core.optics.vectors import F
from halvex.core.render.work import run_bands

Array = NDArray[np.float32]

# A reduced picture has at least so many px per standard deviation.
LEAST_SIGMA_PX = 3.0
# Weights end where so many standard deviations off less than 1e-3 is left.
REACH = 3.3
# Narrower than this a blur changes nothing one could see.
NARROWEST_PX = 0.15


@kernel
def _reduce(plane, k, out, y0, y1):
    """Fill rows y0..y1-1 of out with means of k × k px; those over the edge count as the edge."""
    h, w, share = plane.shape[0], plane.shape[1], F(1.0 / (k * k))
    for y in range(y0, y1):
        for x in range(out.shape[1]):
            for c in range(out.shape[2]):
                total = F(0.0)
                for j in range(k):
                    row = min(y * k + j, h - 1)
                    for i in range(k):
                        total += plane[row, min(x * k + i, w - 1), c]
                out[y, x, c] = total * share


@kernel
def _blur_down(plane, weights, out, y0, y1):
    h, reach = plane.shape[0], weights.shape[0] - 1
    for y in range(y0, y1):
        for i in range(plane.shape[1]):
            out[y, i] = weights[0] * plane[y, i]
        for j in range(1, reach + 1):
            above, below, weight = max(y - j, 0), min(y + j, h - 1), weights[j]
            for i in range(plane.shape[1]):
                out[y, i] += weight * (plane[above, i] + plane[below, i])


@kernel
def _blur_across(plane, channels, weights, line, out, y0, y1):
    """`line` is room for a row with its edges continued (w + 2 · reach · channels,)."""
    wide, reach = plane.shape[1], weights.shape[0] - 1
    edge = reach * channels
    for y in range(y0, y1):
        for i in range(edge):
            line[i] = plane[y, i % channels]
            line[edge + wide + i] = plane[y, wide - channels + i % channels]
        for i in range(wide):
            line[edge + i] = plane[y, i]
        for i in range(wide):
            out[y, i] = weights[0] * line[edge + i]
        for j in range(1, reach + 1):
            weight, step = weights[j], j * channels
            for i in range(wide):
                out[y, i] += weight * (line[edge + i - step] + line[edge + i + step])


@kernel
def _add_enlarged(small, k, out, y0, y1):
    """Add a picture reduced by k to rows y0..y1-1 of out, interpolated between its px."""
    last_y, last_x, inverse = small.shape[0] - 1, small.shape[1] - 1, F(1.0 / k)
    for y in range(y0, y1):
        v = min(max((F(y) + F(0.5)) * inverse - F(0.5), F(0.0)), F(last_y))
        j = min(int(v), max(last_y - 1, 0))
        b = v - F(j)
        below = min(j + 1, last_y)
        for x in range(out.shape[1]):
            u = min(max((F(x) + F(0.5)) * inverse - F(0.5), F(0.0)), F(last_x))
            i = min(int(u), max(last_x - 1, 0))
            a = u - F(i)
            beside = min(i + 1, last_x)
            for c in range(out.shape[2]):
                upper = small[j, i, c] + a * (small[j, beside, c] - small[j, i, c])
                lower = small[below, i, c] + a * (small[below, beside, c] - small[below, i, c])
                out[y, x, c] += upper + b * (lower - upper)


def _weights(sigma: float) -> Array:
    """Half of a Gaussian (reach + 1,), from its middle, that adds up to 1 with its other half."""
    reach = max(math.ceil(REACH * sigma), 1)
    half = np.exp(-0.5 * (np.arange(reach + 1) / sigma) ** 2)
    return np.asarray(half / (half[0] + 2 * half[1:].sum()), np.float32)


def _blurred_as_it_is(plane: Array, sigma: float, pool: Executor) -> Array:
    h, w, channels = plane.shape
    weights = _weights(sigma)
    flat = np.ascontiguousarray(plane).reshape(h, w * channels)
    down, out = np.empty_like(flat), np.empty_like(flat)

    def across(y0: int, y1: int) -> None:
        line = np.empty(w * channels + 2 * (len(weights) - 1) * channels, np.float32)
        _blur_across(down, channels, weights, line, out, y0, y1)

    run_bands(pool, lambda y0, y1: _blur_down(flat, weights, down, y0, y1), BAND_ROWS, h)
    run_bands(pool, across, BAND_ROWS, h)
    return out.reshape(h, w, channels)


def _reduced(plane: Array, k: int, pool: Executor) -> Array:
    if k == 1:
        return plane
    out = np.empty((-(-plane.shape[0] // k), -(-plane.shape[1] // k), plane.shape[2]), np.float32)
    run_bands(pool, lambda y0, y1: _reduce(plane, k, out, y0, y1), BAND_ROWS, len(out))
    return out


def _enlarged(small: Array, k: int, shape: tuple[int, ...], pool: Executor) -> Array:
    if k == 1:
        return small
    out = np.zeros(shape, np.float32)
    run_bands(pool, lambda y0, y1: _add_enlarged(small, k, out, y0, y1), BAND_ROWS, shape[0])
    return out


def _factor(sigma: float) -> int:
    """By how much a picture may be reduced before it is blurred."""
    return max(int(sigma / LEAST_SIGMA_PX), 1)


def spread(plane: Array, parts: Sequence[tuple[float, float]], pool: Executor) -> Array:
    """The sum of Gaussians (standard deviation in px, weight) of a picture (h, w, n), in a new one."""
    wide = [(sigma, weight) for sigma, weight in parts if sigma > NARROWEST_PX]
    still = sum(weight for sigma, weight in parts if sigma <= NARROWEST_PX)
    if not wide:
        return plane * np.float32(still)
    k = _factor(min(sigma for sigma, _ in wide))
    # Means of k × k px, and lines between them, blur by themselves: (k² - 1) / 12 and k² / 6.
    own = (k * k - 1) / 12 + (k * k / 6 if k > 1 else 0.0)
    base = _reduced(plane, k, pool)
    if len(wide) == 1:
        sigma, weight = wide[0]
        total = _blurred_as_it_is(base, math.sqrt(max(sigma**2 - own, 1e-4)) / k, pool) * np.float32(weight)
    else:
        total = np.zeros_like(base)
        for sigma, weight in wide:
            inner = math.sqrt(max(sigma**2 - own, 1e-4)) / k
            total += np.float32(weight) * spread(base, [(inner, 1.0)], pool)
    found = _enlarged(total, k, plane.shape, pool)
    return found + plane * np.float32(still) if still else found


def blurred(plane: Array, sigma: float, pool: Executor) -> Array:
    """A picture (h, w, n) blurred by a Gaussian of so many px."""
    return spread(plane, [(sigma, 1.0)], pool)
