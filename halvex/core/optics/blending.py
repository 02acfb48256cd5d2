"""Blend modes: those of the W3C recommendation Compositing and Blending Level 1.

They are functions of encoded sRGB, as on the web. What is mixed by opacity is mixed in linear light, so
that edges which cover a part of a pixel are as bright as that part.
"""

import math
from typing import get_args

from halvex.core.kernels import helper, routine
from halvex.core.optics.vectors import F
from halvex.core.piece.layer import Blend

BLENDS: tuple[str, ...] = get_args(Blend)
(
    NORMAL,
    MULTIPLY,
    SCREEN,
    OVERLAY,
    DARKEN,
    LIGHTEN,
    COLOR_DODGE,
    COLOR_BURN,
    HARD_LIGHT,
    SOFT_LIGHT,
    DIFFERENCE,
    EXCLUSION,
    HUE,
    SATURATION,
    COLOR,
    LUMINOSITY,
) = range(len(BLENDS))


@helper
def encoded(v):
    """The sRGB value of linear light, both in 0 to 1, to 7e-7; NaN counts as 0.

    Powers are sums of powers of a root, fitted over the curve to the least largest error: several are
    computed at once, and roots take longest.
    """
    v = min(v, F(1.0)) if v > F(0.0) else F(0.0)
    r = math.sqrt(math.sqrt(v))
    high = F(2.6290555) + r * (F(-2.9103165) + r * (F(2.1198804) + r * (F(-0.89666006) + r * F(0.16607534))))
    curved = F(-0.057013996) + r * (F(0.1000247) + r * (F(1.6244071) + r * (F(-1.7754522) + r * high)))
    return min(curved, F(1.0)) if v > F(0.0031308) else F(12.92) * v


@helper
def decoded(v):
    """The linear light of an sRGB value, both in 0 to 1, to 7e-7; NaN counts as 0."""
    v = min(v, F(1.0)) if v > F(0.0) else F(0.0)
    x = (v + F(0.055)) * F(1.0 / 1.055)
    r = math.sqrt(x)
    high = F(-2.295304) + r * (F(1.722452) + r * (F(-0.7438014) + r * F(0.139841)))
    curved = x * x * (F(0.02807655) + r * (F(1.429437) + r * (F(-1.265595) + r * (F(1.984894) + r * high))))
    return min(curved, F(1.0)) if v > F(0.04045) else v * F(1.0 / 12.92)


@helper
def _hard_light(below, above):
    if above <= F(0.5):
        return below * F(2.0) * above
    s = F(2.0) * above - F(1.0)
    return below + s - below * s


@helper
def _soft_light(below, above):
    if above <= F(0.5):
        return below - (F(1.0) - F(2.0) * above) * below * (F(1.0) - below)
    if below <= F(0.25):
        d = ((F(16.0) * below - F(12.0)) * below + F(4.0)) * below
    else:
        d = math.sqrt(below)
    return below + (F(2.0) * above - F(1.0)) * (d - below)


@helper
def _dodged(below, above):
    if below <= F(0.0):
        return F(0.0)
    return F(1.0) if above >= F(1.0) else min(below / (F(1.0) - above), F(1.0))


@routine
def blended_channel(mode, below, above):
    """B(Cb, Cs) of one channel by one of BLENDS that is separable, all in 0 to 1 and encoded."""
    if mode == MULTIPLY:
        return below * above
    if mode == SCREEN:
        return below + above - below * above
    if mode == OVERLAY:
        return _hard_light(above, below)
    if mode == DARKEN:
        return min(below, above)
    if mode == LIGHTEN:
        return max(below, above)
    if mode == COLOR_DODGE:
        return _dodged(below, above)
    if mode == COLOR_BURN:
        return F(1.0) - _dodged(F(1.0) - below, F(1.0) - above)
    if mode == HARD_LIGHT:
        return _hard_light(below, above)
    if mode == SOFT_LIGHT:
        return _soft_light(below, above)
    if mode == DIFFERENCE:
        return abs(below - above)
    if mode == EXCLUSION:
        return below + above - F(2.0) * below * above
    return above


@helper
def _luminosity(c):
    return F(0.3) * c[0] + F(0.59) * c[1] + F(0.11) * c[2]


@helper
def _chroma(c):
    return max(c[0], max(c[1], c[2])) - min(c[0], min(c[1], c[2]))


@helper
def _of_luminosity(c, light):
    """A colour of the luminosity `light`: SetLum, and ClipColor towards its grey."""
    by = light - _luminosity(c)
    r, g, b = c[0] + by, c[1] + by, c[2] + by
    low, high = min(r, min(g, b)), max(r, max(g, b))
    k = F(1.0)
    if low < F(0.0):
        k = light / (light - low)
    if high > F(1.0):
        k = min(k, (F(1.0) - light) / (high - light))
    return light + (r - light) * k, light + (g - light) * k, light + (b - light) * k


@helper
def _of_chroma(c, chroma):
    """SetSat: the least channel 0, the greatest `chroma`, the third between as it was."""
    low, own = min(c[0], min(c[1], c[2])), _chroma(c)
    k = chroma / own if own > F(0.0) else F(0.0)
    return (c[0] - low) * k, (c[1] - low) * k, (c[2] - low) * k


@routine
def _blended_colours(mode, below, above):
    """B(Cb, Cs) of colours (rgb) by a mode that is not separable, in 0 to 1 and encoded."""
    if mode == HUE:
        return _of_luminosity(_of_chroma(above, _chroma(below)), _luminosity(below))
    if mode == SATURATION:
        return _of_luminosity(_of_chroma(below, _chroma(above)), _luminosity(below))
    if mode == COLOR:
        return _of_luminosity(above, _luminosity(below))
    return _of_luminosity(below, _luminosity(above))


@routine
def blended(mode, below, above):
    """B(Cb, Cs) of colours (rgb) by one of BLENDS, all linear."""
    if mode == NORMAL:
        return above
    below = (encoded(below[0]), encoded(below[1]), encoded(below[2]))
    above = (encoded(above[0]), encoded(above[1]), encoded(above[2]))
    if mode >= HUE:
        r, g, b = _blended_colours(mode, below, above)
    else:
        r = blended_channel(mode, below[0], above[0])
        g = blended_channel(mode, below[1], above[1])
        b = blended_channel(mode, below[2], above[2])
    return decoded(r), decoded(g), decoded(b)


@helper
def laid_over(mode, below, above, opacity):
    """Linear light (rgb) of a colour over an opaque one, both linear, by a blend mode and an opacity."""
    if mode != NORMAL:
        above = blended(mode, below, above)
    return (
        below[0] + (above[0] - below[0]) * opacity,
        below[1] + (above[1] - below[1]) * opacity,
        below[2] + (above[2] - below[2]) * opacity,
    )
