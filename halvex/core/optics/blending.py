"""Blend modes: the separable ones of the W3C recommendation Compositing and Blending Level 1.

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
) = range(len(BLENDS))


@helper
def encoded(v):
    """The sRGB value of linear light, both in 0 to 1."""
    if v <= F(0.0031308):
        return max(v, F(0.0)) * F(12.92)
    return F(1.055) * math.exp(math.log(min(v, F(1.0))) * F(1.0 / 2.4)) - F(0.055)


@helper
def decoded(v):
    """The linear light of an sRGB value, both in 0 to 1."""
    if v <= F(0.04045):
        return max(v, F(0.0)) / F(12.92)
    return math.exp(math.log((v + F(0.055)) / F(1.055)) * F(2.4))


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
    """B(Cb, Cs) of one channel by one of BLENDS, all in 0 to 1 and encoded."""
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
def laid_over(mode, below, above, opacity):
    """Linear light (rgb) of a colour over an opaque one, both linear, by a blend mode and an opacity."""
    if mode != NORMAL:
        above = (
            decoded(blended_channel(mode, encoded(below[0]), encoded(above[0]))),
            decoded(blended_channel(mode, encoded(below[1]), encoded(above[1]))),
            decoded(blended_channel(mode, encoded(below[2]), encoded(above[2]))),
        )
    return (
        below[0] + (above[0] - below[0]) * opacity,
        below[1] + (above[1] - below[1]) * opacity,
        below[2] + (above[2] - below[2]) * opacity,
    )
