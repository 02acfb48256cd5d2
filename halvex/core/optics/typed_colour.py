"""Colours as a person types them, in notations of CSS Color 4: hex, names, rgb(), hsl(), hwb(), oklab() and
oklch().

What sRGB does not have is brought into it along its hue and lightness, by as little chroma as it takes.
"""

import math
import re

import numpy as np
from numpy.typing import NDArray
from tinycss2.color4 import Color, parse_color

from halvex.core.optics.colour import linear_to_srgb, srgb_to_linear
from halvex.core.optics.oklab import oklab_to_linear

_BARE_HEX = re.compile(r"[0-9a-fA-F]{6}|[0-9a-fA-F]{3}")
_SPACES = ("srgb", "hsl", "hwb", "oklab", "oklch")
# No colour of sRGB is this far from grey; bisections of chroma, to a 4,000th of it.
_FAR, _STEPS = 1.0, 12
# Linear light this far outside sRGB is rounding.
_ROUNDING = 1e-4


class ColourError(ValueError):
    """What was typed is no colour; the text says what to write."""


def typed_colour(text: str) -> str:
    """The colour #rrggbb that was typed. Raises ColourError.

    >>> typed_colour("oklch(0.628 0.2577 29.23)")
    '#ff0000'
    """
    cleaned = text.strip()[:80]
    colour = parse_color(f"#{cleaned}" if _BARE_HEX.fullmatch(cleaned) else cleaned)
    if not isinstance(colour, Color) or colour.space not in _SPACES:
        raise ColourError(
            f"“{cleaned[:40]}” is no colour; write #rrggbb, a name such as teal, rgb(), hsl() or oklch()"
        )
    if colour.alpha != 1:
        raise ColourError(f"“{cleaned[:40]}” lets light through; write the colour alone, opacity has a field")
    return _hex(_linear(colour))


def hex_of_oklch(lightness: float, chroma: float, hue: float) -> str:
    """The colour #rrggbb of OKLCh, hue in radians, or that of its hue and lightness which sRGB has."""
    return _hex(_into_srgb(lightness, chroma * math.cos(hue), chroma * math.sin(hue)))


def _hex(linear: NDArray[np.float64]) -> str:
    channels = np.round(linear_to_srgb(np.clip(linear, 0, 1)) * 255).astype(int)
    return "#" + "".join(f"{channel:02x}" for channel in channels)


def _linear(colour: Color) -> NDArray[np.float64]:
    """Linear sRGB (3,) of a colour."""
    first, second, third = (0.0 if value is None else float(value) for value in colour.coordinates)
    if colour.space == "oklab":
        return _into_srgb(first, second, third)
    if colour.space == "oklch":
        hue = math.radians(third % 360)
        return _into_srgb(first, second * math.cos(hue), second * math.sin(hue))
    return srgb_to_linear(np.clip(np.array(colour.to("srgb").coordinates, float), 0, 1))


def _into_srgb(lightness: float, a: float, b: float) -> NDArray[np.float64]:
    """The colour of OKLab, or of its hue and lightness that which sRGB has."""
    lightness, a, b = min(max(lightness, 0.0), 1.0), min(max(a, -_FAR), _FAR), min(max(b, -_FAR), _FAR)
    least, most = 0.0, 1.0
    if _is_within(oklab_to_linear([lightness, a, b])):
        return oklab_to_linear([lightness, a, b])
    for _ in range(_STEPS):
        middle = (least + most) / 2
        if _is_within(oklab_to_linear([lightness, a * middle, b * middle])):
            least = middle
        else:
            most = middle
    return oklab_to_linear([lightness, a * least, b * least])


def _is_within(linear: NDArray[np.float64]) -> bool:
    return bool((linear >= -_ROUNDING).all() and (linear <= 1 + _ROUNDING).all())
