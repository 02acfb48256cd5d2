"""Gaussian blurs at any radius, wide ones on a reduced picture.

What lies beyond the picture counts as its edge.
"""

import math
from collections.abc import Callable, Sequence
from concurrent.futures import Executor
from functools import lru_cache, partial

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.tone import flat, in_bands
from halvex.core.kernels import helper, wide_kernel
from halvex.core.optics.vectors import F
from halvex.core.room import room

Array = NDArray[np.float32]

# A reduced picture has at least so many px per standard deviation: as a rule, and where nothing has an edge.
LEAST_SIGMA_PX, LEAST_SOFT_PX = 3.0, 1.5
# Weights end where so many standard deviations off less than 1e-3 is left.
REACH = 3.3
# Narrower than this a blur changes nothing one could see.
NARROWEST_PX = 0.15


@wide_kernel
def _reduce(plane, channels, k, firsts, line, out, y0, y1):
    """Fill rows y0..y1-1 of out (h', w' · channels) with means of k × k px of a plane (h, w · channels).

    What is over the edge counts as the edge. `firsts` (w' · channels,) is where in a row the first px of each
    mean is; `line` is room for a row with its edge continued, (k · w' · channels,).
    """
    h, wide, share = plane.shape[0], plane.shape[1], F(1.0 / (k * k))
    for y in range(y0, y1):
        row, means = plane[y * k], out[y]
        for i in range(wide):
            line[i] = row[i]
        for j in range(1, k):
            row = plane[min(y * k + j, h - 1)]
            for i in range(wide):
                line[i] += row[i]
        for i in range(wide, line.shape[0]):
            line[i] = line[i - channels]
        for i in range(means.shape[0]):
            means[i] = line[firsts[i]]
        for j in range(1, k):
            beside = line[j * channels :]
            for i in range(means.shape[0]):
                means[i] += beside[firsts[i]]
        for i in range(means.shape[0]):
            means[i] *= share


@wide_kernel
def _blur_down(plane, weights, out, y0, y1):
    h, reach = plane.shape[0], weights.shape[0] - 1
    for y in range(y0, y1):
        for i in range(plane.shape[1]):
            out[y, i] = weights[0] * plane[y, i]
        for j in range(1, reach + 1):
            above, below, weight = max(y - j, 0), min(y + j, h - 1), weights[j]
            for i in range(plane.shape[1]):
                out[y, i] += weight * (plane[above, i] + plane[below, i])


@wide_kernel
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
        middle = line[edge:]
        for i in range(wide):
            out[y, i] = weights[0] * middle[i]
        for j in range(1, reach + 1):
            # Slices, as computed indices might be negative, for all a compiler knows.
            weight, left, right = weights[j], line[edge - j * channels :], line[edge + j * channels :]
            for i in range(wide):
                out[y, i] += weight * (left[i] + right[i])


@helper
def _widen(row, lefts, rights, shares, line):
    """Fill a line (w · channels,) with a row of a reduced picture, interpolated between its px: where in the
    row the px on the left and on the right are, and the share of the one on the right."""
    for i in range(line.shape[0]):
        left = row[lefts[i]]
        line[i] = left + shares[i] * (row[rights[i]] - left)


@helper
def _between_rows(small, k, y):
    """(the row of a picture reduced by k that lies above row y of the large one, the share of that below)."""
    last = small.shape[0] - 1
    v = min(max((F(y) + F(0.5)) / F(k) - F(0.5), F(0.0)), F(last))
    j = min(int(v), max(last - 1, 0))
    return j, v - F(j)


@wide_kernel
def _enlarge(small, k, lefts, rights, shares, lines, keep, share, out, y0, y1):
    """Give rows y0..y1-1 of out (h, w · channels) so large a share of a picture reduced by k, and keep so
    much of what they hold. `lines` is room for two rows of out."""
    above, below = lines[0], lines[1]
    at = -2
    for y in range(y0, y1):
        j, b = _between_rows(small, k, y)
        if j != at:
            if j == at + 1:
                above, below = below, above
            else:
                _widen(small[j], lefts, rights, shares, above)
            _widen(small[min(j + 1, small.shape[0] - 1)], lefts, rights, shares, below)
            at = j
        row = out[y]
        if keep == F(0.0):
            for i in range(row.shape[0]):
                row[i] = share * (above[i] + b * (below[i] - above[i]))
        else:
            for i in range(row.shape[0]):
                row[i] = keep * row[i] + share * (above[i] + b * (below[i] - above[i]))


@lru_cache(maxsize=64)
def _weights(sigma: float) -> Array:
    """Half of a Gaussian (reach + 1,), from its middle, that adds up to 1 with its other half."""
    reach = max(math.ceil(REACH * sigma), 1)
    half = np.exp(-0.5 * (np.arange(reach + 1) / sigma) ** 2)
    return np.asarray(half / (half[0] + 2 * half[1:].sum()), np.float32)


def _blurred_as_it_is(plane: Array, sigma: float, pool: Executor) -> Array:
    h, w, channels = plane.shape
    weights, rows = _weights(sigma), flat(np.ascontiguousarray(plane))
    down, out = room(rows.shape), room(rows.shape)

    def across(y0: int, y1: int) -> None:
        line = np.empty(w * channels + 2 * (len(weights) - 1) * channels, np.float32)
        _blur_across(down, channels, weights, line, out, y0, y1)

    in_bands(pool, lambda y0, y1: _blur_down(rows, weights, down, y0, y1), h)
    in_bands(pool, across, h)
    return out.reshape(h, w, channels)


class Reduction:
    """A picture (h, w, n) reduced by k, which is filled a band of rows at a time."""

    def __init__(self, plane: Array, k: int):
        h, w, channels = plane.shape
        self.picture = room((-(-h // k), -(-w // k), channels))
        self._plane, self._small, self._k = flat(np.ascontiguousarray(plane)), flat(self.picture), k
        self._channels, self._firsts = channels, _firsts(self.picture.shape[1], k, channels)

    def fill(self, y0: int, y1: int) -> None:
        """Fill its rows y0..y1-1."""
        line = np.empty(self._k * self._small.shape[1], np.float32)
        _reduce(self._plane, self._channels, self._k, self._firsts, line, self._small, y0, y1)


def reduced(plane: Array, pool: Executor, k: int) -> Array:
    """A picture (h, w, n) of the means of k × k px of this one."""
    if k == 1:
        return plane
    reduction = Reduction(plane, k)
    in_bands(pool, reduction.fill, len(reduction.picture))
    return reduction.picture


def in_row(columns: NDArray[np.signedinteger], channels: int) -> NDArray[np.uintp]:
    """Where in a row (w · channels,) all channels of these columns are. Without signs, as kernels look at
    each index that might be negative."""
    return (columns[:, np.newaxis] * channels + np.arange(channels)).ravel().astype(np.uintp)


@lru_cache(maxsize=64)
def _firsts(columns: int, k: int, channels: int) -> NDArray[np.uintp]:
    """Where in a row the first of k px of each column of a reduced picture is."""
    return in_row(np.arange(columns) * k, channels)


@lru_cache(maxsize=64)
def _between(
    width: int, columns: int, k: int, channels: int
) -> tuple[NDArray[np.uintp], NDArray[np.uintp], Array]:
    """For each px of a row (width · channels,), where in a row of a picture reduced by k the px on its left
    and on its right are, and the share of the one on the right."""
    at = np.clip((np.arange(width) + 0.5) / k - 0.5, 0, columns - 1)
    lefts = at.astype(np.int32)
    rights = np.minimum(lefts + 1, columns - 1)
    shares = np.repeat((at - lefts).astype(np.float32), channels)
    return in_row(lefts, channels), in_row(rights, channels), shares


class Enlarged:
    """A picture (h, w, n) of which there is one (h', w', n) reduced by k: enlarged where it is asked for."""

    def __init__(self, small: Array, k: int, shape: tuple[int, ...]):
        _, w, channels = shape
        self._small, self._k, self._between = flat(small), k, _between(w, small.shape[1], k, channels)

    def mix_into(self, out: Array, keep: float, share: float, y0: int, y1: int) -> None:
        """Give rows y0..y1-1 of a picture so large a share of this, and keep so much of what they hold."""
        rows = flat(out)
        lines = np.empty((2, rows.shape[1]), np.float32)
        _enlarge(self._small, self._k, *self._between, lines, F(keep), F(share), rows, y0, y1)


def enlarged(small: Array, k: int, shape: tuple[int, ...], pool: Executor) -> Array:
    """A picture (h, w, n) of which this is one reduced by k."""
    if k == 1:
        return small
    out, large = room(shape), Enlarged(small, k, shape)
    in_bands(pool, partial(large.mix_into, out, 0.0, 1.0), len(out))
    return out


class Spread:
    """The sum of Gaussians (standard deviation in px, weight) of a picture (h, w, n), of which the rows are
    made where they are asked for, given what it is reduced by a number. Fewer px for each standard deviation
    are quicker, and farther from the true Gaussian."""

    def __init__(
        self,
        shape: tuple[int, ...],
        reduced_by: Callable[[int], Array],
        parts: Sequence[tuple[float, float]],
        pool: Executor,
        *,
        least_sigma_px: float = LEAST_SIGMA_PX,
    ):
        small, k, self._still = _spread_small(shape, reduced_by, parts, pool, least_sigma_px)
        self._soft = None if small is None else Enlarged(small, k, shape)

    def fill(self, plane: Array, out: Array, y0: int, y1: int) -> None:
        """Fill rows y0..y1-1 of another picture, given the picture itself."""
        if self._soft is None:
            out[y0:y1] = np.float32(self._still) * plane[y0:y1]
            return
        self._soft.mix_into(out, 0.0, 1.0, y0, y1)
        if self._still:
            out[y0:y1] += np.float32(self._still) * plane[y0:y1]

    def mix_into(self, plane: Array, share: float, y0: int, y1: int) -> None:
        """Turn a share of rows y0..y1-1 of the picture into the sum, where they are."""
        keep = 1 - share + share * self._still
        if self._soft is None:
            plane[y0:y1] *= np.float32(keep)
        else:
            self._soft.mix_into(plane, keep, share, y0, y1)


def spread(plane: Array, parts: Sequence[tuple[float, float]], pool: Executor) -> Array:
    """The sum of Gaussians (standard deviation in px, weight) of a picture (h, w, n), in a new one."""
    small, k, still = _spread_small(plane.shape, partial(reduced, plane, pool), parts, pool, LEAST_SIGMA_PX)
    if small is None:
        return np.multiply(plane, np.float32(still), out=room(plane.shape))
    found = enlarged(small, k, plane.shape, pool)
    if still:
        _add(found, plane, still, pool)
    return found


def _add(out: Array, plane: Array, share: float, pool: Executor) -> None:
    """Add a share of a picture (h, w, n) to another."""

    def band(y0: int, y1: int) -> None:
        out[y0:y1] += np.float32(share) * plane[y0:y1]

    in_bands(pool, band, len(out))


def _spread_small(
    shape: tuple[int, ...],
    reduced_by: Callable[[int], Array],
    parts: Sequence[tuple[float, float]],
    pool: Executor,
    least_sigma_px: float,
) -> tuple[Array | None, int, float]:
    """(what the Gaussians make of a picture (h, w, n), reduced, or nothing if all are too narrow; by how much
    it is reduced; the share of the picture that stays as it is), given what the picture is reduced by k."""
    # Blurred by more than half of its own size a picture is even, and a reduced one has some px left.
    widest, largest = max(shape[:2]) / 2, max(min(shape[:2]) // 4, 1)
    wide = [(min(sigma, widest), weight) for sigma, weight in parts if sigma > NARROWEST_PX]
    still = sum(weight for sigma, weight in parts if sigma <= NARROWEST_PX)
    if not wide:
        return None, 1, still
    k = min(max(int(min(sigma for sigma, _ in wide) / least_sigma_px), 1), largest)
    # Means of k × k px, and lines between them, blur by themselves: (k² - 1) / 12 and k² / 6.
    own = (k * k - 1) / 12 + (k * k / 6 if k > 1 else 0.0)
    base = reduced_by(k)
    inner = [(math.sqrt(max(sigma**2 - own, 1e-4)) / k, weight) for sigma, weight in wide]
    if len(inner) == 1:
        sigma, weight = inner[0]
        only = _blurred_as_it_is(base, sigma, pool)
        only *= np.float32(weight)
        return only, k, still
    total = room(base.shape, zeroed=True)
    for sigma, weight in inner:
        found, by, _ = _spread_small(
            base.shape, partial(reduced, base, pool), [(sigma, weight)], pool, least_sigma_px
        )
        if found is None:
            _add(total, base, weight, pool)
        elif by == 1:
            total += found
        else:
            large = Enlarged(found, by, total.shape)
            in_bands(pool, partial(large.mix_into, total, 1.0, 1.0), len(total))
    return total, k, still


def blurred(plane: Array, sigma: float, pool: Executor) -> Array:
    """A picture (h, w, n) blurred by a Gaussian of so many px."""
    return spread(plane, [(sigma, 1.0)], pool)
