"""Gradients: how far along one a point is, and the colour there.

Linear, round and oval ones are measured as in CSS Images 4: a line is as long as the span is in its
direction from corner to corner, and a circle or an ellipse reaches its corners. The colours of a gradient
are worked out once, as means over RAMP equal cells, so that a footprint takes the mean over all it covers.
"""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import helper
from halvex.core.optics.colour import hex_to_linear, linear_to_srgb, srgb_to_linear
from halvex.core.optics.oklab import linear_to_oklab, oklab_to_linear
from halvex.core.optics.vectors import F, along4, floorf, mix4, row4, sub4
from halvex.core.piece.gradient import Gradient, Stop

RAMP = 2048
# Points a cell of the ramp is the mean of.
_WITHIN_CELL = 4
LINEAR, ROUND, OVAL, POLYGON, CONIC = range(5)
SHAPES = ("linear", "round", "oval", "polygon", "conic")
# A ramp is no shorter than this share of what it is laid over, were all its stops in one place.
_LEAST_LENGTH = 0.05
# Footprints are at most so wide (`WIDEST`), and ramps end so far past their stops.
WIDEST, _FARTHEST = F(4.0), F(8.0)
_TURN = F(2.0 * math.pi)


class Ramp(NamedTuple):
    """Colours of a gradient between its first and its last stop, as premultiplied linear light and opacity:
    means (RAMP, 4) float32 and their running sums (RAMP + 1, 4) float64, the last of which is the mean of
    all; begin and length in shares of the gradient."""

    means: NDArray[np.float32]
    sums: NDArray[np.float64]
    begin: float
    length: float


def ramp_of(gradient: Gradient) -> Ramp:
    """The colours of a gradient's stops, mixed as it says."""
    at = [stop.at / 100 for stop in gradient.stops]
    begin, length = at[0], at[-1] - at[0]
    if length < _LEAST_LENGTH:
        # All stops in one place: a ramp of some length has room for footprints on both sides of the break.
        begin, length = begin - _LEAST_LENGTH / 2, _LEAST_LENGTH
    # Of stops at one end the outermost has a cell, which holds its colour beyond.
    cell = length / RAMP
    if at[:1] == at[1:2]:
        begin, length = begin - cell, length + cell
    if at[-1:] == at[-2:-1]:
        length += cell
    places = begin + length * (np.arange(RAMP * _WITHIN_CELL) + 0.5) / (RAMP * _WITHIN_CELL)
    means = colours_at(gradient.stops, gradient.mix, places).reshape(RAMP, _WITHIN_CELL, 4).mean(axis=1)
    sums = np.vstack([np.zeros(4), np.cumsum(means, axis=0) / RAMP])
    return Ramp(means.astype(np.float32), sums, begin, length)


def colours_at(stops: tuple[Stop, ...], mix: str, places: NDArray[np.float64]) -> NDArray[np.float64]:
    """Premultiplied linear light and opacity (n, 4) at places (n,) of a gradient, in shares of it.

    Colours are mixed premultiplied in the space asked for (CSS Images 4, 3.4.2; CSS Color 4, 12.3).
    """
    at = np.array([stop.at / 100 for stop in stops])
    opacity = np.array([stop.opacity / 100 for stop in stops])
    colours = _into(mix, np.array([hex_to_linear(stop.colour) for stop in stops]))
    # Past stops of one place the last of them counts.
    after = np.searchsorted(at, places, side="right")
    low, high = np.clip(after - 1, 0, None), np.clip(after, None, len(stops) - 1)
    gap = at[high] - at[low]
    share = np.divide(places - at[low], gap, out=np.zeros_like(places), where=gap > 0)
    soft = 1 - np.array([stop.hardness / 100 for stop in stops])[low]
    share = np.where(
        soft > 0, np.clip((share - 0.5) / np.maximum(soft, 1e-9) + 0.5, 0, 1), (share >= 0.5).astype(float)
    )[:, None]
    alpha = opacity[low, None] * (1 - share) + opacity[high, None] * share
    mixed = (
        colours[low] * opacity[low, None] * (1 - share) + colours[high] * opacity[high, None] * share
    ) / np.maximum(alpha, 1e-9)
    return np.hstack([np.clip(_out_of(mix, mixed), 0, 1) * alpha, alpha])


def _into(mix: str, linear: NDArray[np.float64]) -> NDArray[np.float64]:
    return {"oklab": linear_to_oklab, "srgb": linear_to_srgb}.get(mix, np.asarray)(linear)


def _out_of(mix: str, mixed: NDArray[np.float64]) -> NDArray[np.float64]:
    return {"oklab": oklab_to_linear, "srgb": srgb_to_linear}.get(mix, np.asarray)(mixed)


@helper
def along_gradient(shape, x, y, half_width, half_height, c, s, scale, sides):
    """(share, by how much it changes per px) of a gradient at (x, y) px from its middle.

    c, s: cosine and sine of its bearing or turn; half_width, half_height: of the span in px; scale: its
    length as a multiple of what reaches the span's corners.
    """
    if shape == LINEAR:
        length = F(2.0) * (abs(half_width * c) + abs(half_height * s)) * scale
        length = max(length, F(1e-6))
        return (x * c + y * s) / length + F(0.5), F(1.0) / length
    u, v = x * c + y * s, y * c - x * s
    if shape == CONIC:
        turned = math.atan2(v, u) / _TURN
        r = math.sqrt(u * u + v * v)
        return turned - floorf(turned), F(1.0) / max(_TURN * r, F(1e-6))
    if shape == OVAL:
        root = F(math.sqrt(2.0)) * scale
        rx, ry = max(half_width * root, F(1e-6)), max(half_height * root, F(1e-6))
        share = math.sqrt(u * u / (rx * rx) + v * v / (ry * ry))
        return share, F(1.0) / min(rx, ry)
    reach = max(math.sqrt(half_width * half_width + half_height * half_height) * scale, F(1e-6))
    r = math.sqrt(u * u + v * v)
    if shape == POLYGON:
        sector = _TURN / sides
        angle = math.atan2(v, u)
        angle -= sector * floorf(angle / sector + F(0.5))
        r *= math.cos(angle)
    return r / reach, F(1.0) / reach


@helper
def _sums_to(sums, first, t):
    """The integrals of a ramp's four channels from 0 to t, in 0 to 1, in double precision."""
    x = t * RAMP
    i = min(max(int(x), 0), RAMP - 1)
    low, high = row4(sums, first + i), row4(sums, first + i + 1)
    return along4(low, sub4(high, low), x - i)


@helper
def _sums_beyond(sums, first, t, repeated):
    """The same for any t: past its ends a ramp holds its colours, or begins again."""
    if repeated:
        whole = floorf(t)
        return along4(_sums_to(sums, first, t - whole), row4(sums, first + RAMP), whole)
    inside = min(max(t, 0.0), 1.0)
    total = _sums_to(sums, first, inside)
    if t < 0.0:
        return along4(total, row4(sums, first + 1), t * RAMP)
    if t > 1.0:
        last = first + RAMP
        return along4(total, sub4(row4(sums, last), row4(sums, last - 1)), (t - 1.0) * RAMP)
    return total


@helper
def ramp_colour(ramps, sums, ramp, t, width, repeated):
    """Premultiplied linear light and opacity (r, g, b, a) of ramp number `ramp`, the mean over a width about
    t."""
    if repeated:
        t -= floorf(t)
    else:
        # Farther off it is all one colour, and sums would lose their digits.
        t = min(max(t, -_FARTHEST), F(1.0) + _FARTHEST)
    if width * F(RAMP) > F(1.0):
        low, high = float(t) - 0.5 * float(width), float(t) + 0.5 * float(width)
        first, share = ramp * (RAMP + 1), 1.0 / (high - low)
        total = sub4(_sums_beyond(sums, first, high, repeated), _sums_beyond(sums, first, low, repeated))
        return F(total[0] * share), F(total[1] * share), F(total[2] * share), F(total[3] * share)
    x = min(max(t * F(RAMP) - F(0.5), F(0.0)), F(RAMP - 1))
    i = min(int(x), RAMP - 2)
    row = ramp * RAMP + i
    return mix4(row4(ramps, row), row4(ramps, row + 1), x - F(i))
