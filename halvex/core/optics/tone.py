"""Exposure and tone mapping: linear light to display values, keeping colours below 0.8 as they are.

The curve is the Khronos PBR Neutral tone mapper (Khronos Group, 2024): base colours are reproduced
as given, only highlights are compressed and drawn towards white.
"""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import helper, kernel
from halvex.core.optics.colour import hex_to_linear, linear_to_srgb
from halvex.core.optics.vectors import F

START_COMPRESSION = 0.8 - 0.04
DESATURATION = 0.15
# Entries of the encoding table: finer than a 16-bit step of sRGB everywhere.
ENCODING_STEPS = 1 << 16
BRIGHTEST_BACKDROP = 0.995
BRIGHTEST = F(1e15)

Array = NDArray[np.float32]


def pbr_neutral(linear: NDArray[np.float64]) -> NDArray[np.float64]:
    """Display-linear values in [0, 1] of linear light (..., 3); the published function, for
    reference and checks."""
    low = linear.min(axis=-1, keepdims=True)
    offset = np.where(low < 0.08, low - 6.25 * low * low, 0.04)
    colour = linear - offset
    peak = colour.max(axis=-1, keepdims=True)
    d = 1.0 - START_COMPRESSION
    pressed = 1.0 - d * d / (np.maximum(peak, START_COMPRESSION) + d - START_COMPRESSION)
    scaled = colour * (pressed / np.maximum(peak, 1e-6))
    g = 1.0 - 1.0 / (DESATURATION * (peak - pressed) + 1.0)
    return np.where(peak < START_COMPRESSION, colour, scaled * (1.0 - g) + pressed * g)


def light_shown_as(colour: str, exposure_stops: float) -> NDArray[np.float64]:
    """Linear light (3,) that is shown as the colour #rrggbb at an exposure: the inverse of `to_display`.

    Colours brighter than BRIGHTEST_BACKDROP would take endless light; they are taken as that bright.
    """
    shown = np.minimum(hex_to_linear(colour), BRIGHTEST_BACKDROP)
    peak = shown.max()
    if peak > START_COMPRESSION:
        d = 1.0 - START_COMPRESSION
        unpressed = d * d / (1.0 - peak) - d + START_COMPRESSION
        g = 1.0 - 1.0 / (DESATURATION * (unpressed - peak) + 1.0)
        shown = np.maximum((shown - peak * g) / (1.0 - g), 0.0) * (unpressed / peak)
    low = shown.min()
    offset = np.sqrt(low / 6.25) - low if low < 0.04 else 0.04
    return np.asarray((shown + offset) / 2.0**exposure_stops)


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
    """The table's entry for a value from 0 to 1."""
    return table[np.uintp(np.int32(value * F(ENCODING_STEPS) + F(0.5)))]


@kernel
def _develop(picture, gain, table, out):
    for y in range(picture.shape[0]):
        for x in range(picture.shape[1]):
            r, g, b = (
                _exposed(picture[y, x, 0], gain),
                _exposed(picture[y, x, 1], gain),
                _exposed(picture[y, x, 2], gain),
            )
            low = min(r, min(g, b))
            offset = low - F(6.25) * low * low if low < F(0.08) else F(0.04)
            r, g, b = r - offset, g - offset, b - offset
            peak = max(r, max(g, b))
            if peak >= F(START_COMPRESSION):
                d = F(1.0 - START_COMPRESSION)
                pressed = F(1.0) - d * d / (peak + d - F(START_COMPRESSION))
                w = F(1.0) / (F(DESATURATION) * (peak - pressed) + F(1.0))
                k, white = pressed / peak * w, pressed * (F(1.0) - w)
                r, g, b = r * k + white, g * k + white, b * k + white
            out[y, x, 0], out[y, x, 1], out[y, x, 2] = (
                _encoded(table, r),
                _encoded(table, g),
                _encoded(table, b),
            )


def to_display(linear: Array, exposure_stops: float) -> Array:
    """sRGB-encoded values in [0, 1] of linear light (h, w, 3) at an exposure."""
    out = np.empty(linear.shape, np.float32)
    _develop(np.ascontiguousarray(linear, np.float32), F(2.0**exposure_stops), _encoding(), out)
    return out


def to_bytes(linear: Array, exposure_stops: float) -> NDArray[np.uint8]:
    """8-bit sRGB (h, w, 3) of linear light at an exposure."""
    out = np.empty(linear.shape, np.uint8)
    _develop(np.ascontiguousarray(linear, np.float32), F(2.0**exposure_stops), _encoding_in_bytes(), out)
    return out
