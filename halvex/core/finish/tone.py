"""Exposure, tone mapping and encoding: linear light to display values by a tone curve (optics/tone.py)."""

import math
from collections.abc import Callable
from concurrent.futures import Executor
from typing import Any

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.encoding import encoded_by, encoding_in_bytes, tables
from halvex.core.kernels import helper, kernel
from halvex.core.optics.tone import CURVES, NEUTRAL, Curve, tone_mapped
from halvex.core.optics.vectors import F
from halvex.core.render.work import run_bands, thread_count
from halvex.core.room import room

BRIGHTEST = F(1e15)
# Rows that one thread takes at a time, about, and the fewest.
BAND_ROWS, LEAST_BAND_ROWS = 64, 16
# Of no more rows, reduced pictures as a rule, another thread takes longer to wake than it would save.
ROWS_ALONE = 96

Array = NDArray[np.float32]


@helper
def _exposed(light, gain):
    """Light at an exposure, clamped to 0..BRIGHTEST; NaN counts as 0."""
    light *= gain
    return min(light, BRIGHTEST) if light > F(0.0) else F(0.0)


@helper
def _map_row(row, gain, curve, lines):
    """Fill lines (3, w) with what a tone curve shows of a row of light (w, 3), linear. In short loops over
    lines several px are computed at once."""
    first, second, third = lines[0], lines[1], lines[2]
    for x in range(first.shape[0]):
        first[x] = _exposed(row[x, 0], gain)
        second[x] = _exposed(row[x, 1], gain)
        third[x] = _exposed(row[x, 2], gain)
    if curve == NEUTRAL:
        for x in range(first.shape[0]):
            first[x], second[x], third[x] = tone_mapped(first[x], second[x], third[x], NEUTRAL)
    else:
        for x in range(first.shape[0]):
            first[x], second[x], third[x] = tone_mapped(first[x], second[x], third[x], curve)


@kernel
def _develop(picture, gain, curve, table, lines, out):
    for y in range(picture.shape[0]):
        _map_row(picture[y], gain, curve, lines)
        for x in range(picture.shape[1]):
            for c in range(3):
                out[y, x, c] = encoded_by(table, lines[c, x])


@kernel
def _map(picture, gain, curve, lines, out, y0, y1):
    for y in range(y0, y1):
        _map_row(picture[y], gain, curve, lines)
        for x in range(picture.shape[1]):
            for c in range(3):
                out[y, x, c] = lines[c, x]


@kernel
def _encode(shown, table, out, y0, y1):
    for y in range(y0, y1):
        for x in range(shown.shape[1]):
            for c in range(3):
                out[y, x, c] = encoded_by(table, shown[y, x, c])


def in_bands(pool: Executor, work: Callable[[int, int], None], rows: int) -> None:
    """Work on bands of rows, on all threads of the pool where there is enough for it."""
    if rows <= ROWS_ALONE:
        work(0, rows)
        return
    # As many for each thread, so that all end at once.
    threads = thread_count()
    bands = threads * max(math.ceil(rows / (threads * BAND_ROWS)), 1)
    run_bands(pool, work, max(math.ceil(rows / bands), LEAST_BAND_ROWS), rows)


def mapped(linear: Array, exposure_stops: float, curve: Curve, pool: Executor) -> Array:
    """What is displayed of linear light (h, w, 3) at an exposure, still linear, 0 to 1."""
    out, gain, number = room(linear.shape), F(2.0**exposure_stops), CURVES[curve]

    def band(y0: int, y1: int) -> None:
        _map(linear, gain, number, _lines_for(linear), out, y0, y1)

    in_bands(pool, band, len(linear))
    return out


def encoded_display(shown: Array, pool: Executor) -> Array:
    """sRGB-encoded values in [0, 1] of what is displayed (h, w, 3), linear."""
    out, table = room(shown.shape), tables().encoding
    in_bands(pool, lambda y0, y1: _encode(shown, table, out, y0, y1), len(shown))
    return out


def encoded_bytes(shown: Array, pool: Executor) -> NDArray[np.uint8]:
    """The same with 8 bits a channel."""
    out, table = np.empty(shown.shape, np.uint8), encoding_in_bytes()
    in_bands(pool, lambda y0, y1: _encode(shown, table, out, y0, y1), len(shown))
    return out


def to_display(linear: Array, exposure_stops: float, curve: Curve = "neutral") -> Array:
    """sRGB-encoded values in [0, 1] of linear light (h, w, 3) at an exposure."""
    out = np.empty(linear.shape, np.float32)
    _show(linear, exposure_stops, curve, tables().encoding, out)
    return out


def to_bytes(linear: Array, exposure_stops: float, curve: Curve = "neutral") -> NDArray[np.uint8]:
    """8-bit sRGB (h, w, 3) of linear light at an exposure."""
    out = np.empty(linear.shape, np.uint8)
    _show(linear, exposure_stops, curve, encoding_in_bytes(), out)
    return out


def _show(linear: Array, exposure_stops: float, curve: Curve, table: NDArray[Any], out: NDArray[Any]) -> None:
    light = np.ascontiguousarray(linear, np.float32)
    _develop(light, F(2.0**exposure_stops), CURVES[curve], table, _lines_for(light), out)


def _lines_for(linear: Array) -> Array:
    return np.empty((3, linear.shape[1]), np.float32)
