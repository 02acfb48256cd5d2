"""Exposure, tone mapping and encoding: linear light to display values by a tone curve (optics/tone.py)."""

import math
from collections.abc import Callable
from concurrent.futures import Executor
from typing import Any

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import helper, wide_kernel
from halvex.core.optics.blending import decoded, encoded
from halvex.core.optics.tone import CURVES, NEUTRAL, PLAIN, RICH, Curve, tone_mapped
from halvex.core.optics.vectors import F
from halvex.core.render.work import run_bands, thread_count

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
def _map_row(row, gain, curve, shown):
    """Fill a line (3 · w,) with what a tone curve shows of a row of light, linear. For each curve by itself
    in a loop without branches, several px are computed at once."""
    if curve == NEUTRAL:
        _map_by(NEUTRAL, row, gain, shown)
    elif curve == RICH:
        _map_by(RICH, row, gain, shown)
    else:
        _map_by(PLAIN, row, gain, shown)


@helper
def _map_by(curve, row, gain, shown):
    for x in range(row.shape[0] // 3):
        r, g, b = 3 * x, 3 * x + 1, 3 * x + 2
        shown[r], shown[g], shown[b] = tone_mapped(
            _exposed(row[r], gain), _exposed(row[g], gain), _exposed(row[b], gain), curve
        )


@wide_kernel
def _develop(picture, gain, curve, step, line, out):
    """Fill out (h, 3 · w) with a picture as it is displayed, encoded; `line` is room for a row."""
    for y in range(picture.shape[0]):
        _map_row(picture[y], gain, curve, line)
        _encode_row(line, step, out[y])


@helper
def _encode_row(shown, step, out):
    """Fill a line (3 · w,) with sRGB values, of which 1 is so many steps; whole steps are rounded."""
    half = F(0.5) if step > F(1.0) else F(0.0)
    for i in range(shown.shape[0]):
        out[i] = step * encoded(shown[i]) + half


@wide_kernel
def _map(picture, gain, curve, out, y0, y1):
    """Fill rows y0..y1-1 of out (h, 3 · w), which is not the picture itself."""
    for y in range(y0, y1):
        _map_row(picture[y], gain, curve, out[y])


@wide_kernel
def _map_in_place(picture, gain, curve, y0, y1):
    for y in range(y0, y1):
        row = picture[y]
        _map_row(row, gain, curve, row)


@wide_kernel
def _encode(shown, step, out, y0, y1):
    for y in range(y0, y1):
        _encode_row(shown[y], step, out[y])


@wide_kernel
def _turn_code(image, to_light, y0, y1):
    for y in range(y0, y1):
        row = image[y]
        if to_light:
            for i in range(row.shape[0]):
                row[i] = decoded(row[i])
        else:
            for i in range(row.shape[0]):
                row[i] = encoded(row[i])


@wide_kernel
def _store(encodings, step, out, y0, y1):
    half = F(0.5) if step > F(1.0) else F(0.0)
    for y in range(y0, y1):
        row, stored = encodings[y], out[y]
        for i in range(row.shape[0]):
            stored[i] = step * row[i] + half


def in_bands(
    pool: Executor, work: Callable[[int, int], None], rows: int, *, band_rows: int = BAND_ROWS, step: int = 1
) -> None:
    """Work on bands of about so many rows, on all threads of the pool where there is enough for it; they
    begin at multiples of a step."""
    if rows <= ROWS_ALONE:
        work(0, rows)
        return
    # As many for each thread, so that all end at once.
    threads = thread_count()
    bands = threads * max(math.ceil(rows / (threads * band_rows)), 1)
    most = max(math.ceil(rows / bands), LEAST_BAND_ROWS)
    run_bands(pool, work, math.ceil(most / step) * step, rows)


def map_rows(linear: Array, out: Array, y0: int, y1: int, *, exposure_stops: float, curve: Curve) -> None:
    """Fill rows y0..y1-1 of out with what is displayed of linear light (h, 3 · w) at an exposure, still
    linear, 0 to 1; out may be the light itself."""
    gain = F(2.0**exposure_stops)
    if np.may_share_memory(linear, out):
        _map_in_place(out, gain, CURVES[curve], y0, y1)
    else:
        _map(linear, gain, CURVES[curve], out, y0, y1)


def encode_rows(shown: Array, out: NDArray[Any], y0: int, y1: int) -> None:
    """Fill rows y0..y1-1 of out with sRGB-encoded values of what is displayed (h, 3 · w), linear: as floats
    in [0, 1], or with 8 bits a channel."""
    _encode(shown, _step_of(out), out, y0, y1)


def turn_code(image: Array, y0: int, y1: int, *, to_light: bool) -> None:
    """Turn rows y0..y1-1 of what is displayed (h, 3 · w), linear, into sRGB values where they are, or these
    into light."""
    _turn_code(image, to_light, y0, y1)


def store_rows(encodings: Array, out: NDArray[Any], y0: int, y1: int) -> None:
    """Fill rows y0..y1-1 of out with sRGB values (h, 3 · w): as floats, or with 8 bits a channel."""
    _store(encodings, _step_of(out), out, y0, y1)


def to_display(linear: Array, exposure_stops: float, curve: Curve = "neutral") -> Array:
    """sRGB-encoded values in [0, 1] of linear light (h, w, 3) at an exposure."""
    out = np.empty(linear.shape, np.float32)
    _show(linear, exposure_stops, curve, out)
    return out


def to_bytes(linear: Array, exposure_stops: float, curve: Curve = "neutral") -> NDArray[np.uint8]:
    """8-bit sRGB (h, w, 3) of linear light at an exposure."""
    out = np.empty(linear.shape, np.uint8)
    _show(linear, exposure_stops, curve, out)
    return out


def _show(linear: Array, exposure_stops: float, curve: Curve, out: NDArray[Any]) -> None:
    light, pixels = flat(np.ascontiguousarray(linear, np.float32)), flat(out)
    line = np.empty(light.shape[1], np.float32)
    _develop(light, F(2.0**exposure_stops), CURVES[curve], _step_of(out), line, pixels)


def _step_of(out: NDArray[Any]) -> np.float32:
    return F(255.0 if out.dtype == np.uint8 else 1.0)


def flat(image: NDArray[Any]) -> NDArray[Any]:
    """An image (h, w, n) that lies in memory in one piece, as rows (h, n · w). Kernels that know how far it
    is from one px to the next work on several at once."""
    return image.reshape(len(image), -1)
