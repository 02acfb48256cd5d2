"""Colours and pictures laid over a plate by an opacity, as the W3C recommendation Compositing and Blending
Level 1 says; mixing is in linear light, blend modes are functions of encoded values."""

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.layering import colours_over_canvas
from halvex.core.finish.plate import Plate
from halvex.core.finish.tone import in_bands
from halvex.core.kernels import helper, kernel
from halvex.core.optics.blending import BLENDS, NORMAL, blended
from halvex.core.optics.colour import hex_to_linear
from halvex.core.optics.vectors import F, row3
from halvex.core.piece.layer import Blend
from halvex.core.piece.source import Layered

Array = NDArray[np.float32]


@helper
def lay_over(light, alpha, y, x, colour, above, mode):
    """Lay a colour (rgb) over a px by an opacity over 0; alpha is (h, w), or OPAQUE."""
    below = alpha[y, x] if alpha.shape[0] > 0 else F(1.0)
    whole = above + below * (F(1.0) - above)
    mixed = blended(mode, (light[y, x, 0], light[y, x, 1], light[y, x, 2]), colour)
    for c in range(3):
        under, source = light[y, x, c], colour[c]
        source += below * (mixed[c] - source)
        light[y, x, c] = (above * source + (F(1.0) - above) * below * under) / whole
    if alpha.shape[0] > 0:
        alpha[y, x] = whole


@kernel
def _lay(light, alpha, colour, opacity, mode, y0, y1):
    """Lay a colour (3,) over rows y0..y1-1 by an opacity (h, w)."""
    shown = colour[0], colour[1], colour[2]
    for y in range(y0, y1):
        for x in range(light.shape[1]):
            if opacity[y, x] > F(0.0):
                lay_over(light, alpha, y, x, shown, opacity[y, x], mode)


@kernel
def _lay_over_opaque(light, colour, opacity, y0, y1):
    """The same of a picture without alpha, without a blend mode."""
    r, g, b = colour[0], colour[1], colour[2]
    for y in range(y0, y1):
        for x in range(light.shape[1]):
            above = opacity[y, x]
            light[y, x, 0] += above * (r - light[y, x, 0])
            light[y, x, 1] += above * (g - light[y, x, 1])
            light[y, x, 2] += above * (b - light[y, x, 2])


@kernel
def _mix(light, other, share, strength, y0, y1):
    """Mix rows y0..y1-1 of light with those of another picture, by a share (h, w), or (0, 0) for all."""
    for y in range(y0, y1):
        for x in range(light.shape[1]):
            k = strength * (share[y, x] if share.shape[0] > 0 else F(1.0))
            for c in range(3):
                light[y, x, c] += k * (other[y, x, c] - light[y, x, c])


@kernel
def _lay_image(light, alpha, image, opacity, mode, y0, y1):
    """Lay the colours of an image (h, w, 3) over rows y0..y1-1 by an opacity (h, w)."""
    for y in range(y0, y1):
        for x in range(light.shape[1]):
            if opacity[y, x] > F(0.0):
                lay_over(light, alpha, y, x, row3(image[y], x), opacity[y, x], mode)


def lay_colour(plate: Plate, colour: str | Layered, opacity: Array, blend: Blend = "normal") -> None:
    """Lay a colour, or layers over one, over a displayed picture by an opacity (h, w)."""
    light, alpha, mode = plate.light, plate.alpha_or_opaque, BLENDS.index(blend)
    if isinstance(colour, Layered):
        image = colours_over_canvas(plate, colour)
        in_bands(
            plate.pool,
            lambda y0, y1: _lay_image(light, alpha, image, opacity, mode, y0, y1),
            len(light),
        )
        return
    shown = hex_to_linear(colour).astype(np.float32)
    if plate.alpha is None and mode == NORMAL:
        in_bands(
            plate.pool,
            lambda y0, y1: _lay_over_opaque(light, shown, opacity, y0, y1),
            len(light),
        )
        return
    in_bands(
        plate.pool,
        lambda y0, y1: _lay(light, alpha, shown, opacity, mode, y0, y1),
        len(light),
    )


def mix_in(plate: Plate, other: Array, share: Array, strength: float = 1.0) -> None:
    """Mix another picture (h, w, 3) into the plate's, by a share (h, w) or EVERYWHERE."""
    light = plate.light
    in_bands(plate.pool, lambda y0, y1: _mix(light, other, share, F(strength), y0, y1), len(light))
