"""Colours and pictures laid over a plate by an opacity, as the W3C recommendation Compositing and Blending
Level 1 says; mixing is in linear light, blend modes are functions of encoded values."""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.layering import colours_over_canvas
from halvex.core.finish.plate import Plate
from halvex.core.finish.tables import looked_up
from halvex.core.kernels import helper, wide_kernel
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
# Light that differs by less is the same.
ALL_THE_SAME = 1e-6


@helper
def lay_over(light, alpha, y, x, colour, above, mode):
    """Lay a colour (rgb) over a px of light (h, 3 · w) by an opacity over 0; alpha is (h, w), or OPAQUE."""
    mixed = blended(mode, (light[y, 3 * x], light[y, 3 * x + 1], light[y, 3 * x + 2]), colour)
    below = alpha[y, x] if alpha.shape[0] > 0 else F(1.0)
    whole = above + below * (F(1.0) - above)
    for c in range(3):
        under, source = light[y, 3 * x + c], colour[c]
        source += below * (mixed[c] - source)
        light[y, 3 * x + c] = (above * source + (F(1.0) - above) * below * under) / whole
    if alpha.shape[0] > 0:
        alpha[y, x] = whole


@wide_kernel
def _lay(light, alpha, colour, opacity, strength, mode, y0, y1):
    """Lay a colour (3,) over rows y0..y1-1 by an opacity (h, w), at a strength."""
    shown = colour[0], colour[1], colour[2]
    for y in range(y0, y1):
        for x in range(opacity.shape[1]):
            above = strength * opacity[y, x]
            if above > F(0.0):
                lay_over(light, alpha, y, x, shown, above, mode)


@wide_kernel
def _fill_blend_table(mode, colour, table):
    for c in range(3):
        above = encoded(colour[c])
        for i in range(table.shape[1]):
            below = encoded(min(F(i) / F(table.shape[1] - 2), F(1.0)))
            table[c, i] = decoded(blended_channel(mode, below, above))


@lru_cache(maxsize=32)
def _blend_tables(mode: int, colour: str) -> Array:
    table = np.empty((3, TABLE_STEPS + 2), np.float32)
    _fill_blend_table(mode, hex_to_linear(colour).astype(np.float32), table)
    return table


@helper
def any_of(shares):
    """Whether any of a line of shares, from 0 on, is more than nothing: by their sum, as of sums, unlike of
    largest numbers, several parts are found at once."""
    total = F(0.0)
    for x in range(shares.shape[0]):
        total += shares[x]
    return total > F(0.0)


@helper
def mix_px(row, x, light, share):
    """Turn a share of a px of a row (3 · w,) into other light (rgb)."""
    row[3 * x] += share * (light[0] - row[3 * x])
    row[3 * x + 1] += share * (light[1] - row[3 * x + 1])
    row[3 * x + 2] += share * (light[2] - row[3 * x + 2])


@wide_kernel
def _lay_over_opaque(light, colour, opacity, strength, y0, y1):
    """The same of a picture without alpha, without a blend mode."""
    shown = colour[0], colour[1], colour[2]
    for y in range(y0, y1):
        row, own = light[y], opacity[y]
        for x in range(own.shape[0]):
            mix_px(row, x, shown, strength * own[x])


@wide_kernel
def _lay_by_table(light, tables, opacity, strength, y0, y1):
    """The same of one without alpha, by a blend mode that changes each channel by itself: what it makes of
    red, green and blue is in tables (3, TABLE_STEPS + 2)."""
    reds, greens, blues = tables[0], tables[1], tables[2]
    for y in range(y0, y1):
        row, own = light[y], opacity[y]
        if not any_of(own):
            continue
        for x in range(own.shape[0]):
            above, r, g, b = strength * own[x], 3 * x, 3 * x + 1, 3 * x + 2
            if above > F(0.0):
                row[r] += above * (looked_up(reds, row[r]) - row[r])
                row[g] += above * (looked_up(greens, row[g]) - row[g])
                row[b] += above * (looked_up(blues, row[b]) - row[b])


@wide_kernel
def _mix(light, other, share, strength, y0, y1):
    """Mix rows y0..y1-1 of light with those of another picture (h, w, 3), by a share (h, w), or (0, 0) for
    all."""
    for y in range(y0, y1):
        for x in range(other.shape[1]):
            k = strength * (share[y, x] if share.shape[0] > 0 else F(1.0))
            mix_px(light[y], x, row3(other[y], x), k)


@wide_kernel
def _lay_image(light, alpha, image, opacity, strength, mode, y0, y1):
    """Lay the colours of an image (h, w, 3) over rows y0..y1-1 by an opacity (h, w), at a strength."""
    for y in range(y0, y1):
        for x in range(opacity.shape[1]):
            above = strength * opacity[y, x]
            if above > F(0.0):
                lay_over(light, alpha, y, x, row3(image[y], x), above, mode)


def lay_colour(
    plate: Plate, colour: str | Layered, opacity: Array, blend: Blend = "normal", strength: float = 1.0
) -> None:
    """Lay a colour, or layers over one, over a displayed picture by an opacity (h, w) and a strength."""
    mode, by = BLENDS.index(blend), F(strength)
    if isinstance(colour, Layered):
        image = colours_over_canvas(plate, colour)
        plate.by_rows(lambda light, alpha, *rows: _lay_image(light, alpha, image, opacity, by, mode, *rows))
        return
    shown = hex_to_linear(colour).astype(np.float32)
    if plate.has_alpha or mode >= HUE:
        plate.by_rows(lambda light, alpha, *rows: _lay(light, alpha, shown, opacity, by, mode, *rows))
        return
    if mode != NORMAL:
        tables = _blend_tables(mode, colour)
        if np.ptp(tables, axis=1).max() > ALL_THE_SAME:
            plate.by_rows(lambda light, alpha, *rows: _lay_by_table(light, tables, opacity, by, *rows))
            return
        # White on screen, for one, is white over whatever it lies.
        shown = tables[:, 0].copy()
    plate.by_rows(lambda light, alpha, *rows: _lay_over_opaque(light, shown, opacity, by, *rows))


def mix_in(plate: Plate, other: Array, share: Array, strength: float = 1.0) -> None:
    """Mix another picture (h, w, 3) into the plate's, by a share (h, w) or EVERYWHERE."""
    plate.by_rows(lambda light, alpha, *rows: _mix(light, other, share, F(strength), *rows))
