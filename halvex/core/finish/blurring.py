"""Gaussian blurs at any radius, wide ones on a reduced picture.

What lies beyond the picture counts as its edge.
"""

import math
from collections.abc import Sequence
from concurrent.futures import Executor

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.tone import in_bands
from halvex.core.kernels import kernel
from halvex.core.optics.vectors import F

Array = NDArray[np.float32]

# A reduced picture has at least so many px per standard deviation: as a rule, and where nothing has an edge.
LEAST_SIGMA_PX, LEAST_SOFT_PX = 3.0, 1.5
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
def _enlarge(small, k, places, shares, line, out, y0, y1):
    """Fill rows y0..y1-1 of out with a picture reduced by k, interpolated between its px: of a column the px
    on its left (w,) and the share of that on its right. `line` is room for a row of the small picture."""
    last, channels, inverse = small.shape[0] - 1, small.shape[2], F(1.0 / k)
    for y in range(y0, y1):
        v = min(max((F(y) + F(0.5)) * inverse - F(0.5), F(0.0)), F(last))
        j = min(int(v), max(last - 1, 0))
        b, below = v - F(j), min(j + 1, last)
        for i in range(small.shape[1]):
            for c in range(channels):
                line[i, c] = small[j, i, c] + b * (small[below, i, c] - small[j, i, c])
        for x in range(out.shape[1]):
            i, a = places[x], shares[x]
            for c in range(channels):
                out[y, x, c] = line[i, c] + a * (line[i + 1, c] - line[i, c])


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

    in_bands(pool, lambda y0, y1: _blur_down(flat, weights, down, y0, y1), h)
    in_bands(pool, across, h)
    return out.reshape(h, w, channels)


def _reduced(plane: Array, k: int, pool: Executor) -> Array:
    if k == 1:
        return plane
    out = np.empty((-(-plane.shape[0] // k), -(-plane.shape[1] // k), plane.shape[2]), np.float32)
    in_bands(pool, lambda y0, y1: _reduce(plane, k, out, y0, y1), len(out))
    return out


def enlarged(small: Array, k: int, shape: tuple[int, ...], pool: Executor) -> Array:
    """A picture (h, w, n) of which this is one reduced by k."""
    if k == 1:
        return small
    out, last = np.empty(shape, np.float32), small.shape[1] - 1
    at = np.clip((np.arange(shape[1]) + 0.5) / k - 0.5, 0, last)
    places = np.minimum(at.astype(np.int32), max(last - 1, 0))
    shares = (at - places).astype(np.float32)

    def rows(y0: int, y1: int) -> None:
        # One px more than there are, for pictures of one column.
        line = np.zeros((last + 2, shape[2]), np.float32)
        _enlarge(small, k, places, shares, line, out, y0, y1)

    in_bands(pool, rows, shape[0])
    return out


def spread(
    plane: Array,
    parts: Sequence[tuple[float, float]],
    pool: Executor,
    *,
    least_sigma_px: float = LEAST_SIGMA_PX,
) -> Array:
    """The sum of Gaussians (standard deviation in px, weight) of a picture (h, w, n), in a new one. Fewer px
    for each standard deviation are quicker, and farther from the true Gaussian."""
    # Blurred by more than half of its own size a picture is even, and a reduced one has some px left.
    widest, largest = max(plane.shape[:2]) / 2, max(min(plane.shape[:2]) // 4, 1)
    wide = [(min(sigma, widest), weight) for sigma, weight in parts if sigma > NARROWEST_PX]
    still = sum(weight for sigma, weight in parts if sigma <= NARROWEST_PX)
    if not wide:
        return plane * np.float32(still)
    k = min(max(int(min(sigma for sigma, _ in wide) / least_sigma_px), 1), largest)
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
            total += np.float32(weight) * spread(base, [(inner, 1.0)], pool, least_sigma_px=least_sigma_px)
    found = enlarged(total, k, plane.shape, pool)
    return found + plane * np.float32(still) if still else found


def blurred(plane: Array, sigma: float, pool: Executor) -> Array:
    """A picture (h, w, n) blurred by a Gaussian of so many px."""
    return spread(plane, [(sigma, 1.0)], pool)
