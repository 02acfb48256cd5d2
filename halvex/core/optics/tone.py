"""Tone curves: how bright light is shown, and what light is shown as a given colour.

neutral: the Khronos PBR Neutral tone mapper (Khronos Group, 2024): base colours are reproduced as given,
only highlights are compressed and drawn towards white.
rich: an S on luminance (a power with a shoulder), and the same power on the proportions of red, green and
blue, so that shades deepen in colour as they darken; what then does not fit the display is drawn towards the
grey of its own luminance by as little as it takes, so that gold stays gold up to its highlight.
plain: light as it is, clipped.
"""

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import helper, kernel
from halvex.core.optics.colour import hex_to_linear
from halvex.core.optics.vectors import F

Curve = Literal["neutral", "rich", "plain"]
NEUTRAL, RICH, PLAIN = range(3)
CURVES: dict[Curve, int] = {"neutral": NEUTRAL, "rich": RICH, "plain": PLAIN}

START_COMPRESSION = 0.8 - 0.04
DESATURATION = 0.15
BRIGHTEST_BACKDROP = 0.995
# So much white may be mixed into a colour that is picked, linear: 7 of 100 as it is seen.
MIXED_IN = F(0.006)

# rich: y = k x^a / (x^a + c), through middle grey (0.18 is shown as 0.18) and reaching 1 at WHITEST.
STEEPNESS, MIDDLE_GREY, WHITEST = 1.25, 0.18, 4.0
_GREY_POWER, _WHITE_POWER = MIDDLE_GREY**STEEPNESS, WHITEST**STEEPNESS
SHOULDER = _GREY_POWER * _WHITE_POWER * (1 - MIDDLE_GREY) / (MIDDLE_GREY * _WHITE_POWER - _GREY_POWER)
SCALE = (_WHITE_POWER + SHOULDER) / _WHITE_POWER
# What is no more than this is not divided by: light as dim is black.
DIMMEST = 1e-20
# Luminance of linear sRGB (IEC 61966-2-1).
RED_LUMINANCE, GREEN_LUMINANCE, BLUE_LUMINANCE = 0.2126, 0.7152, 0.0722
LUMINANCE = np.array([RED_LUMINANCE, GREEN_LUMINANCE, BLUE_LUMINANCE])


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


def light_shown_as(colour: str, exposure_stops: float, curve: Curve = "neutral") -> NDArray[np.float64]:
    """Linear light (3,) that is shown as the colour #rrggbb at an exposure: the inverse of `to_display`
    (finish/tone.py).

    Colours brighter than BRIGHTEST_BACKDROP would take endless light; they are taken as that bright.
    """
    return light_that_shows(hex_to_linear(colour), curve) / 2.0**exposure_stops


def light_that_shows(shown: NDArray[np.float64], curve: Curve) -> NDArray[np.float64]:
    """Linear light (3,) that a tone curve shows as `shown` (3,), linear."""
    r, g, b = shown.astype(np.float32)
    return np.array(_light_shown(r, g, b, CURVES[curve]), float)


@kernel
def _light_shown(r, g, b, curve):
    return light_shown(r, g, b, curve)


@helper
def light_shown(r, g, b, curve):
    """Linear light (rgb) that one of the CURVES shows as a colour, or as near to it as it can."""
    r, g, b = (
        min(r, F(BRIGHTEST_BACKDROP)),
        min(g, F(BRIGHTEST_BACKDROP)),
        min(b, F(BRIGHTEST_BACKDROP)),
    )
    if curve == NEUTRAL:
        return _neutral_unmapped(r, g, b)
    if curve == RICH:
        return _rich_unmapped(r, g, b)
    return r, g, b


@helper
def _unpressed(peak):
    """(the light that `_neutral` presses down to a peak, how much white it mixes in)."""
    d = F(1.0 - START_COMPRESSION)
    light = d * d / (F(1.0) - peak) - d + F(START_COMPRESSION)
    return light, F(1.0) - F(1.0) / (F(DESATURATION) * (light - peak) + F(1.0))


@helper
def _reached(peak, low):
    """How bright a colour of this peak and lowest channel can be shown. The brighter, the more white is mixed
    in: full red could only be shown as pink, so it is shown as the brightest red that there is."""
    least, most = F(START_COMPRESSION), peak
    if most * _unpressed(most)[1] <= low + MIXED_IN:
        return most
    for _ in range(12):
        middle = F(0.5) * (least + most)
        if middle * _unpressed(middle)[1] <= low + MIXED_IN:
            least = middle
        else:
            most = middle
    return least


@helper
def _neutral_unmapped(r, g, b):
    peak = max(r, max(g, b))
    if peak > F(START_COMPRESSION):
        full = peak
        peak = _reached(full, min(r, min(g, b)))
        r, g, b = r * peak / full, g * peak / full, b * peak / full
        unpressed, white = _unpressed(peak)
        k = unpressed / (peak * (F(1.0) - white))
        r, g, b = (
            max(r - peak * white, F(0.0)) * k,
            max(g - peak * white, F(0.0)) * k,
            max(b - peak * white, F(0.0)) * k,
        )
    low = min(r, min(g, b))
    offset = math.sqrt(low / F(6.25)) - low if low < F(0.04) else F(0.04)
    return r + offset, g + offset, b + offset


@helper
def _eased(ratio):
    return math.exp(math.log(max(ratio, F(1e-9))) / F(STEEPNESS))


@helper
def _rich_unmapped(r, g, b):
    y = F(RED_LUMINANCE) * r + F(GREEN_LUMINANCE) * g + F(BLUE_LUMINANCE) * b
    if y <= F(0.0):
        return F(0.0), F(0.0), F(0.0)
    light = math.exp(math.log(F(SHOULDER) * y / (F(SCALE) - y)) / F(STEEPNESS))
    r, g, b = _eased(r / y), _eased(g / y), _eased(b / y)
    k = light / (F(RED_LUMINANCE) * r + F(GREEN_LUMINANCE) * g + F(BLUE_LUMINANCE) * b)
    return r * k, g * k, b * k


@helper
def tone_mapped(r, g, b, curve):
    """Display-linear values in [0, 1] of one colour, by one of the CURVES."""
    if curve == NEUTRAL:
        return _neutral(r, g, b)
    if curve == RICH:
        return _rich(r, g, b)
    return min(r, F(1.0)), min(g, F(1.0)), min(b, F(1.0))


@helper
def _neutral(r, g, b):
    """`pbr_neutral` of one colour."""
    low = min(r, min(g, b))
    offset = low - F(6.25) * low * low if low < F(0.08) else F(0.04)
    r, g, b = r - offset, g - offset, b - offset
    peak = max(r, max(g, b))
    is_pressed = peak >= F(START_COMPRESSION)
    peak, d = max(peak, F(START_COMPRESSION)), F(1.0 - START_COMPRESSION)
    pressed = F(1.0) - d * d / (peak + d - F(START_COMPRESSION))
    desaturated = F(DESATURATION) * (peak - pressed)
    # Dividing takes longest.
    k = pressed / (peak * (desaturated + F(1.0)))
    white = k * peak * desaturated if is_pressed else F(0.0)
    k = k if is_pressed else F(1.0)
    return r * k + white, g * k + white, b * k + white


@helper
def _steepened(v):
    """What v to the power of STEEPNESS, 5/4, is: by roots, which are computed several at once."""
    return v * math.sqrt(math.sqrt(v))


@helper
def _rich(r, g, b):
    """What the rich curve shows of a colour. Without branches, several are computed at once."""
    y = F(RED_LUMINANCE) * r + F(GREEN_LUMINANCE) * g + F(BLUE_LUMINANCE) * b
    power = _steepened(y)
    shown = min(F(SCALE) * power / (power + F(SHOULDER)), F(1.0))
    r, g, b = _steepened(r), _steepened(g), _steepened(b)
    total = F(RED_LUMINANCE) * r + F(GREEN_LUMINANCE) * g + F(BLUE_LUMINANCE) * b
    k = shown / max(total, F(DIMMEST))
    r, g, b = r * k, g * k, b * k
    # Towards the grey of the same luminance, until the strongest channel fits.
    peak = max(r, max(g, b))
    grey = max(peak - F(1.0), F(0.0)) / max(peak - shown, F(DIMMEST))
    r, g, b = r + (shown - r) * grey, g + (shown - g) * grey, b + (shown - b) * grey
    return min(r, F(1.0)), min(g, F(1.0)), min(b, F(1.0))
