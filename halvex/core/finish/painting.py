"""Colours and pictures laid over a plate by an opacity, as the W3C recommendation Compositing and Blending
Level 1 says; mixing is in linear light, blend modes are functions of encoded values."""

from functools import lru_cache, partial

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.encoding import looked_up
from halvex.core.finish.layering import colours_over_canvas
from halvex.core.finish.plate import Plate
from halvex.core.finish.tone import in_bands
from halvex.core.kernels import helper, kernel
from halvex.core.optics.blending import (
    BLENDS,
    HUE,
    NORMAL,
    blended,
    blended_channel,
    decoded,
    encoded,
)
from halvex.core.optics.colour import hex_to_linear
from halvex.core.optics.vectors import F, row3
from halvex.core.piece.layer import Blend
from halvex.core.piece.source import Layered

Array = NDArray[np.float32]


# Entries of a table of what a blend mode makes of a channel below one colour: lines between them are near
# enough, as it is all but straight where it is dark.
TABLE_STEPS = 1 << 12


@helper
def lay_over(light, alpha, y, x, colour, above, mode):
    """Lay a colour (rgb) over a px by an opacity over 0; alpha is (h, w), or OPAQUE."""
    mixed = blended(mode, (light[y, x, 0], light[y, x, 1], light[y, x, 2]), colour)
    _lay_mixed(light, alpha, y, x, colour, mixed, above)


@helper
def _lay_mixed(light, alpha, y, x, colour, mixed, above):
    """The same, where the blend mode makes `mixed` (rgb) of the colour and what is below it."""
    below = alpha[y, x] if alpha.shape[0] > 0 else F(1.0)
    whole = above + below * (F(1.0) - above)
    for c in range(3):
        under, source = light[y, x, c], colour[c]
        source += below * (mixed[c] - source)
        light[y, x, c] = (above * source + (F(1.0) - above) * below * under) / whole
    if alpha.shape[0] > 0:
        alpha[y, x] = whole


@kernel
def _lay(light, alpha, colour, opacity, strength, mode, y0, y1):
    """Lay a colour (3,) over rows y0..y1-1 by an opacity (h, w), at a strength."""
    shown = colour[0], colour[1], colour[2]
    for y in range(y0, y1):
        for x in range(light.shape[1]):
            above = strength * opacity[y, x]
            if above > F(0.0):
                lay_over(light, alpha, y, x, shown, above, mode)


@kernel
def _lay_by_table(light, alpha, colour, table, opacity, strength, y0, y1):
    """The same, of a blend mode that changes each channel by itself, by a table (3, TABLE_STEPS + 2)."""
    shown = colour[0], colour[1], colour[2]
    for y in range(y0, y1):
        for x in range(light.shape[1]):
            above = strength * opacity[y, x]
            if above > F(0.0):
                mixed = (
                    looked_up(table[0], light[y, x, 0]),
                    looked_up(table[1], light[y, x, 1]),
                    looked_up(table[2], light[y, x, 2]),
                )
                _lay_mixed(light, alpha, y, x, shown, mixed, above)


@kernel
def _fill_blend_table(mode, colour, table):
    for c in range(3):
        above = encoded(colour[c])
        for i in range(table.shape[1]):
            below = encoded(min(F(i) / F(table.shape[1] - 2), F(1.0)))
            table[c, i] = decoded(blended_channel(mode, below, above))


@lru_cache(maxsize=32)
def _blend_table(mode: int, colour: str) -> Array:
    table = np.empty((3, TABLE_STEPS + 2), np.float32)
    _fill_blend_table(mode, hex_to_linear(colour).astype(np.float32), table)
    return table


@kernel
def _lay_over_opaque(light, colour, opacity, strength, y0, y1):
    """The same of a picture without alpha, without a blend mode."""
    r, g, b = colour[0], colour[1], colour[2]
    for y in range(y0, y1):
        for x in range(light.shape[1]):
            above = strength * opacity[y, x]
            if above > F(0.0):
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
def _lay_image(light, alpha, image, opacity, strength, mode, y0, y1):
    """Lay the colours of an image (h, w, 3) over rows y0..y1-1 by an opacity (h, w), at a strength."""
    for y in range(y0, y1):
        for x in range(light.shape[1]):
            above = strength * opacity[y, x]
            if above > F(0.0):
                lay_over(light, alpha, y, x, row3(image[y], x), above, mode)


def lay_colour(
    plate: Plate, colour: str | Layered, opacity: Array, blend: Blend = "normal", strength: float = 1.0
) -> None:
    """Lay a colour, or layers over one, over a displayed picture by an opacity (h, w) and a strength."""
    light, alpha, mode, by = plate.light, plate.alpha_or_opaque, BLENDS.index(blend), F(strength)
    if isinstance(colour, Layered):
        image = colours_over_canvas(plate, colour)
        work = partial(_lay_image, light, alpha, image, opacity, by, mode)
        in_bands(plate.pool, work, len(light))
        return
    shown = hex_to_linear(colour).astype(np.float32)
    if plate.alpha is None and mode == NORMAL:
        work = partial(_lay_over_opaque, light, shown, opacity, by)
    elif NORMAL < mode < HUE:
        work = partial(_lay_by_table, light, alpha, shown, _blend_table(mode, colour), opacity, by)
    else:
        work = partial(_lay, light, alpha, shown, opacity, by, mode)
    in_bands(plate.pool, work, len(light))


def mix_in(plate: Plate, other: Array, share: Array, strength: float = 1.0) -> None:
    """Mix another picture (h, w, 3) into the plate's, by a share (h, w) or EVERYWHERE."""
    in_bands(plate.pool, partial(_mix, plate.light, other, share, F(strength)), len(plate.light))
