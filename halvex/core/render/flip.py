"""FLIP: how far apart two pictures look to someone who flips between them.

Andersson, Nilsson, Akenine-Möller, Oskarsson, Åström & Fairchild, "FLIP: A Difference Evaluator for
Alternating Images", HPG 2020. Colours are compared as the eye blurs them, and edges and points besides. What
lies beyond a picture counts as its edge.
"""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import helper, kernel
from halvex.core.optics.blending import decoded
from halvex.core.optics.oklab import cube_root
from halvex.core.optics.vectors import F, dot

Array = NDArray[np.float32]

# A picture 3840 px and 0.7 m wide, seen from 0.7 m.
PX_PER_DEGREE = 0.7 * 3840 / 0.7 * math.pi / 180
# Contrast sensitivity of the achromatic, red-green and blue-yellow channels, as sums of Gaussians (a, b).
SENSITIVITY = (((1.0, 0.0047),), ((1.0, 0.0053),), ((34.1, 0.04), (13.5, 0.025)))
WIDEST_B = 0.04
# Width of the detector of edges and points, in degrees.
DETECTOR_DEGREES = 0.082
# How differences of colour and of features are spread over 0 to 1.
COLOUR_POWER, FEATURE_POWER = 0.7, 0.5
KNEE, AT_KNEE = 0.4, 0.95
# sRGB to XYZ, and the white of it.
TO_XYZ = np.array(
    [
        [10135552 / 24577794, 8788810 / 24577794, 4435075 / 24577794],
        [2613072 / 12288897, 8788810 / 12288897, 887015 / 12288897],
        [1425312 / 73733382, 8788810 / 73733382, 70074185 / 73733382],
    ]
)
_WHITE = TO_XYZ.sum(axis=1)
# To XYZ in shares of white, and back.
_TO_SHARES = tuple(tuple(F(v) for v in row) for row in TO_XYZ / _WHITE[:, np.newaxis])
_FROM_SHARES = tuple(tuple(F(v) for v in row) for row in np.linalg.inv(TO_XYZ / _WHITE[:, np.newaxis]))
# Below this, CIELAB's cube root is a straight line.
_DARK, _DARK_SLOPE, _DARK_AT_0 = F((6 / 29) ** 3), F((29 / 6) ** 2 / 3), F(4 / 29)


class _Filters(NamedTuple):
    """Weights of px in a line, from some before the middle to as many behind it. The eye's Gaussians (4, n):
    achromatic, red-green and the two of blue-yellow, and the share of the first of these two. The detector's
    (n,): a Gaussian, its slope and its bend."""

    eye: Array
    first: np.float32
    smooth: Array
    edge: Array
    point: Array


def _filters() -> _Filters:
    reach = math.ceil(3 * math.sqrt(WIDEST_B / (2 * math.pi**2)) * PX_PER_DEGREE)
    degrees = np.arange(-reach, reach + 1) / PX_PER_DEGREE
    lines, weights = [], []
    for channel in SENSITIVITY:
        for a, b in channel:
            line = np.exp(-(math.pi**2) * degrees**2 / b)
            lines.append(line / line.sum())
            weights.append(a * math.sqrt(math.pi / b) * line.sum() ** 2)
    sigma = 0.5 * DETECTOR_DEGREES * PX_PER_DEGREE
    x = np.arange(-math.ceil(3 * sigma), math.ceil(3 * sigma) + 1, dtype=float)
    gauss = np.exp(-(x**2) / (2 * sigma**2))
    return _Filters(
        np.array(lines, np.float32),
        np.float32(weights[2] / (weights[2] + weights[3])),
        np.asarray(gauss / gauss.sum(), np.float32),
        _evened(-x * gauss),
        _evened((x**2 / sigma**2 - 1) * gauss),
    )


def _evened(line: NDArray[np.float64]) -> Array:
    """A line whose positive weights are 1 together, and its negative ones -1."""
    return np.asarray(
        np.where(line > 0, line / line[line > 0].sum(), -line / line[line < 0].sum()), np.float32
    )


FILTERS = _filters()


@kernel
def _opponents(picture, out):
    """Fill out (3, h, w) with a picture (h, w, 3), encoded, in channels of opponent colours."""
    for y in range(picture.shape[0]):
        for x in range(picture.shape[1]):
            light = decoded(picture[y, x, 0]), decoded(picture[y, x, 1]), decoded(picture[y, x, 2])
            first, second, third = (
                dot(_TO_SHARES[0], light),
                dot(_TO_SHARES[1], light),
                dot(_TO_SHARES[2], light),
            )
            out[0, y, x] = F(116.0) * second - F(16.0)
            out[1, y, x] = F(500.0) * (first - second)
            out[2, y, x] = F(200.0) * (second - third)


@kernel
def _filter_down(plane, line, out):
    """Fill out (h, w) with each column of a plane weighed by a line (2 · reach + 1,) about each px."""
    last, reach = plane.shape[0] - 1, line.shape[0] // 2
    for y in range(plane.shape[0]):
        row = out[y]
        for x in range(row.shape[0]):
            row[x] = F(0.0)
        for j in range(line.shape[0]):
            from_row, weight = plane[min(max(y + j - reach, 0), last)], line[j]
            for x in range(row.shape[0]):
                row[x] += weight * from_row[x]


@kernel
def _filter_across(plane, line, padded, out):
    """The same along rows; `padded` is room for one continued by the line's reach at both ends."""
    w, reach = plane.shape[1], line.shape[0] // 2
    for y in range(plane.shape[0]):
        row = out[y]
        for x in range(reach):
            padded[x] = plane[y, 0]
            padded[reach + w + x] = plane[y, w - 1]
        for x in range(w):
            padded[reach + x] = plane[y, x]
            row[x] = F(0.0)
        for j in range(line.shape[0]):
            beside, weight = padded[j:], line[j]
            for x in range(w):
                row[x] += weight * beside[x]


@helper
def _root(v):
    return cube_root(v) if v > _DARK else v * _DARK_SLOPE + _DARK_AT_0


@helper
def _seen_colour(a, rg, by):
    """CIELAB of opponent channels, its hues less far apart where it is dark, as Hunt found."""
    second = (a + F(16.0)) * F(1.0 / 116.0)
    shares = second + rg * F(1.0 / 500.0), second, second - by * F(1.0 / 200.0)
    light = (
        min(max(dot(_FROM_SHARES[0], shares), F(0.0)), F(1.0)),
        min(max(dot(_FROM_SHARES[1], shares), F(0.0)), F(1.0)),
        min(max(dot(_FROM_SHARES[2], shares), F(0.0)), F(1.0)),
    )
    x, y, z = (
        _root(dot(_TO_SHARES[0], light)),
        _root(dot(_TO_SHARES[1], light)),
        _root(dot(_TO_SHARES[2], light)),
    )
    lightness = F(116.0) * y - F(16.0)
    hunt = F(0.01) * lightness
    return lightness, hunt * F(500.0) * (x - y), hunt * F(200.0) * (y - z)


@helper
def _colours_apart(one, other):
    """HyAB: by lightness, and by hue and chroma together."""
    a, b = one[1] - other[1], one[2] - other[2]
    return abs(one[0] - other[0]) + math.sqrt(a * a + b * b)


@kernel
def _see(channels, first, out):
    """Turn filtered channels (4, h, w) into the colours that are seen, out (3, h, w)."""
    for y in range(out.shape[1]):
        for x in range(out.shape[2]):
            by = first * channels[2, y, x] + (F(1.0) - first) * channels[3, y, x]
            out[0, y, x], out[1, y, x], out[2, y, x] = _seen_colour(channels[0, y, x], channels[1, y, x], by)


@helper
def _length(features, n, y, x):
    return math.sqrt(features[n, y, x] * features[n, y, x] + features[n + 1, y, x] * features[n + 1, y, x])


@kernel
def _mean_apart(one, other, one_features, other_features, most):
    """The mean FLIP of seen colours (3, h, w) and features (4, h, w): edges across and down, points the same.
    `most` is the greatest difference of colours, to the power that all are raised to."""
    total = 0.0
    for y in range(one.shape[1]):
        for x in range(one.shape[2]):
            apart = _colours_apart(
                (one[0, y, x], one[1, y, x], one[2, y, x]), (other[0, y, x], other[1, y, x], other[2, y, x])
            )
            colour = apart ** F(COLOUR_POWER)
            knee = F(KNEE) * most
            if colour < knee:
                colour *= F(AT_KNEE) / knee
            else:
                colour = F(AT_KNEE) + (colour - knee) / (most - knee) * F(1.0 - AT_KNEE)
            edges = abs(_length(one_features, 0, y, x) - _length(other_features, 0, y, x))
            points = abs(_length(one_features, 2, y, x) - _length(other_features, 2, y, x))
            feature = (max(edges, points) * F(math.sqrt(0.5))) ** F(FEATURE_POWER)
            total += colour ** (F(1.0) - min(feature, F(1.0)))
    return total / (one.shape[1] * one.shape[2])


@kernel
def _greatest_apart():
    """How far apart green and blue are seen, to the power that all differences are raised to."""
    green, blue = (F(0.0), F(1.0), F(0.0)), (F(0.0), F(0.0), F(1.0))
    return _colours_apart(_of_light(green), _of_light(blue)) ** F(COLOUR_POWER)


@helper
def _of_light(light):
    first, second, third = dot(_TO_SHARES[0], light), dot(_TO_SHARES[1], light), dot(_TO_SHARES[2], light)
    return _seen_colour(F(116.0) * second - F(16.0), F(500.0) * (first - second), F(200.0) * (second - third))


def mean_flip(one: Array, other: Array) -> float:
    """The mean FLIP, 0 to 1, of two pictures of one size (h, w, 3): sRGB values in [0, 1]."""
    seen, features = _looked_at(np.ascontiguousarray(one, np.float32))
    other_seen, other_features = _looked_at(np.ascontiguousarray(other, np.float32))
    return float(_mean_apart(seen, other_seen, features, other_features, F(_greatest_apart())))


def _looked_at(picture: Array) -> tuple[Array, Array]:
    """(the colours (3, h, w) that are seen of a picture, its features (4, h, w))."""
    h, w = picture.shape[:2]
    opponents, blurred = np.empty((3, h, w), np.float32), np.empty((4, h, w), np.float32)
    _opponents(picture, opponents)
    for channel, line, out in zip(opponents[[0, 1, 2, 2]], FILTERS.eye, blurred, strict=True):
        _filter(channel, line, line, out)
    seen, features = np.empty((3, h, w), np.float32), np.empty((4, h, w), np.float32)
    _see(blurred, FILTERS.first, seen)
    bright = (opponents[0] + 16) / 116
    smooth, edge, point = FILTERS.smooth, FILTERS.edge, FILTERS.point
    ways = ((edge, smooth), (smooth, edge), (point, smooth), (smooth, point))
    for (across, down), out in zip(ways, features, strict=True):
        _filter(bright, across, down, out)
    return seen, features


def _filter(plane: Array, across: Array, down: Array, out: Array) -> None:
    between = np.empty_like(plane)
    _filter_across(plane, across, np.empty(plane.shape[1] + len(across), np.float32), between)
    _filter_down(between, down, out)
