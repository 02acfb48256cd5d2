"""Exposure and tone mapping: linear light to display values, keeping colours below 0.8 as they are.

The curve is the Khronos PBR Neutral tone mapper (Khronos Group, 2024): base colours are reproduced
as given, only highlights are compressed and drawn towards white.
"""

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.colour import linear_to_srgb

START_COMPRESSION = 0.8 - 0.04
DESATURATION = 0.15

Array = NDArray[np.float32]


def pbr_neutral(linear: Array) -> Array:
    """Display-linear values in [0, 1] of linear light (..., 3)."""
    low = linear.min(axis=-1, keepdims=True)
    offset = np.where(low < 0.08, low - 6.25 * low * low, 0.04)
    colour = linear - offset
    peak = colour.max(axis=-1, keepdims=True)
    d = 1.0 - START_COMPRESSION
    pressed = 1.0 - d * d / (np.maximum(peak, START_COMPRESSION) + d - START_COMPRESSION)
    scaled = colour * (pressed / np.maximum(peak, 1e-6))
    g = 1.0 - 1.0 / (DESATURATION * (peak - pressed) + 1.0)
    return np.where(peak < START_COMPRESSION, colour, scaled * (1.0 - g) + pressed * g)


def to_display(linear: Array, exposure_stops: float) -> Array:
    """sRGB-encoded values in [0, 1] of linear light (..., 3) at an exposure."""
    light = np.maximum(linear, 0.0) * np.float32(2.0**exposure_stops)
    return linear_to_srgb(np.clip(pbr_neutral(light), 0.0, 1.0)).astype(np.float32)
