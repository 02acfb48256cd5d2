"""Exposure, tone mapping and encoding: linear light to display values by a tone curve (optics/tone.py)."""

from concurrent.futures import Executor
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import helper, kernel
from halvex.core.optics.colour import linear_to_srgb
from halvex.core.optics.tone import CURVES, Curve, tone_mapped
from halvex.core.optics.vectors import F
from halvex.core.render.work import run_bands

# Entries of the encoding table: finer than a 16-bit step of sRGB everywhere.
ENCODING_STEPS = 1 << 16
BRIGHTEST = F(1e15)
# Rows that one thread takes at a time.
BAND_ROWS = 64

Array = NDArray[np.float32]


@lru_cache(maxsize=1)
def _encoding() -> Array:
    return linear_to_srgb(np.arange(ENCODING_STEPS + 1) / ENCODING_STEPS).astype(np.float32)


@lru_cache(maxsize=1)
def _encoding_in_bytes() -> NDArray[np.uint8]:
    return (_encoding() * np.float32(255.0) + np.float32(0.5)).astype(np.uint8)


@helper
def _exposed(light, gain):
    """Light at an exposure, clamped to 0..BRIGHTEST; NaN counts as 0."""
    light *= gain
    return min(light, BRIGHTEST) if light > F(0.0) else F(0.0)


@helper
def _encoded(table, value):
    """The table's entry for a value from 0 to 1; what lies outside is taken as the nearer end, NaN as 0, as
    the table must not be read beside."""
    value = min(value, F(1.0)) if value > F(0.0) else F(0.0)
    return table[np.uintp(np.int32(value * F(ENCODING_STEPS) + F(0.5)))]


@kernel
def _develop(picture, gain, curve, table, out):
    for y in range(picture.shape[0]):
        for x in range(picture.shape[1]):
            r, g, b = (
                _exposed(picture[y, x, 0], gain),
                _exposed(picture[y, x, 1], gain),
                _exposed(picture[y, x, 2], gain),
            )
            r, g, b = tone_mapped(r, g, b, curve)
            out[y, x, 0], out[y, x, 1], out[y, x, 2] = (
                _encoded(table, r),
                _encoded(table, g),
                _encoded(table, b),
            )


@kernel
def _map(picture, gain, curve, out, y0, y1):
    for y in range(y0, y1):
        for x in range(picture.shape[1]):
            r, g, b = (
                _exposed(picture[y, x, 0], gain),
                _exposed(picture[y, x, 1], gain),
                _exposed(picture[y, x, 2], gain),
            )
            out[y, x, 0], out[y, x, 1], out[y, x, 2] = tone_mapped(r, g, b, curve)


@kernel
def _encode(shown, table, out, y0, y1):
    for y in range(y0, y1):
        for x in range(shown.shape[1]):
            for c in range(3):
                out[y, x, c] = _encoded(table, shown[y, x, c])


def mapped(linear: Array, exposure_stops: float, curve: Curve, pool: Executor) -> Array:
    """What is displayed of linear light (h, w, 3) at an exposure, still linear, 0 to 1."""
    out, gain, number = np.empty(linear.shape, np.float32), F(2.0**exposure_stops), CURVES[curve]
    run_bands(pool, lambda y0, y1: _map(linear, gain, number, out, y0, y1), BAND_ROWS, len(linear))
    return out


def encoded_display(shown: Array, pool: Executor) -> Array:
    """sRGB-encoded values in [0, 1] of what is displayed (h, w, 3), linear."""
    out, table = np.empty(shown.shape, np.float32), _encoding()
    run_bands(pool, lambda y0, y1: _encode(shown, table, out, y0, y1), BAND_ROWS, len(shown))
    return out


def encoded_bytes(shown: Array, pool: Executor) -> NDArray[np.uint8]:
    """The same with 8 bits a channel."""
    out, table = np.empty(shown.shape, np.uint8), _encoding_in_bytes()
    run_bands(pool, lambda y0, y1: _encode(shown, table, out, y0, y1), BAND_ROWS, len(shown))
    return out


def to_display(linear: Array, exposure_stops: float, curve: Curve = "neutral") -> Array:
    """sRGB-encoded values in [0, 1] of linear light (h, w, 3) at an exposure."""
    out = np.empty(linear.shape, np.float32)
    _show(linear, exposure_stops, curve, _encoding(), out)
    return out


def to_bytes(linear: Array, exposure_stops: float, curve: Curve = "neutral") -> NDArray[np.uint8]:
    """8-bit sRGB (h, w, 3) of linear light at an exposure."""
    out = np.empty(linear.shape, np.uint8)
    _show(linear, exposure_stops, curve, _encoding_in_bytes(), out)
    return out


def _show(linear: Array, exposure_stops: float, curve: Curve, table: NDArray[Any], out: NDArray[Any]) -> None:
    _develop(np.ascontiguousarray(linear, np.float32), F(2.0**exposure_stops), CURVES[curve], table, out)
