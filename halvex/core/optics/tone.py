"""The tone curve: how bright light is shown, and what light is shown as a given colour.

It is the Khronos PBR Neutral tone mapper (Khronos Group, 2024): base colours are reproduced
as given, only highlights are compressed and drawn towards white.
"""

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import helper
from halvex.core.optics.colour import hex_to_linear
from halvex.core.optics.vectors import F

START_COMPRESSION = 0.8 - 0.04
DESATURATION = 0.15
BRIGHTEST_BACKDROP = 0.995


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
    """Linear light (3,) that is shown as the colour #rrggbb at an exposure: the inverse of `to_display`
    (finish/tone.py).

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


@helper
def tone_mapped(r, g, b):
    """`pbr_neutral` of one colour."""
    low = min(r, min(g, b))
    offset = low - F(6.25) * low * low if low < F(0.08) else F(0.04)
    r, g, b = r - offset, g - offset, b - offset
    peak = max(r, max(g, b))
    if peak < F(START_COMPRESSION):
        return r, g, b
    d = F(1.0 - START_COMPRESSION)
    pressed = F(1.0) - d * d / (peak + d - F(START_COMPRESSION))
    w = F(1.0) / (F(DESATURATION) * (peak - pressed) + F(1.0))
    k, white = pressed / peak * w, pressed * (F(1.0) - w)
    return r * k + white, g * k + white, b * k + white
