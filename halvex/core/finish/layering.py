"""What layers show over the canvas: of washes, and of the colours of other effects."""

from functools import partial

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.plate import Plate
from halvex.core.finish.tone import in_bands
from halvex.core.kernels import helper, kernel
from halvex.core.optics.blending import laid_over
from halvex.core.optics.colour import hex_to_linear
from halvex.core.optics.gradients import along_gradient
from halvex.core.optics.patterns import PATTERN, SIZE, cell_sides, pattern_at
from halvex.core.optics.sheets import gradient_along, left_by_mask, picture_on_sheet
from halvex.core.optics.sources import (
    AS_IT_IS,
    BLEND,
    COSINE,
    GRADIENT_LAYER,
    KIND,
    MAIN,
    MASKS,
    MOVED_X,
    MOVED_Y,
    OWN,
    PATTERN_LAYER,
    SCALE,
    SHAPE,
    SIDES,
    SINE,
    STRENGTH,
    Look,
    Sources,
    pack_sources,
)
from halvex.core.optics.vectors import F, scale
from halvex.core.piece.source import Layered
from halvex.core.room import room

Array = NDArray[np.float32]
# Px of the canvas per px of the picture, where its upper left is, and the canvas' width and height.
Placing = tuple[np.float32, np.float32, np.float32, np.float32, np.float32]


@helper
def _gradient(sources, layer, x, y, half, width):
    row = layer[OWN:]
    x, y = x - F(2.0) * half[0] * layer[MOVED_X], y - F(2.0) * half[1] * layer[MOVED_Y]
    t, per_px = along_gradient(
        int(row[SHAPE]), x, y, half[0], half[1], layer[COSINE], layer[SINE], row[SCALE], row[SIDES]
    )
    return gradient_along(sources, row, t, per_px, width)


@helper
def _pattern(sources, layer, x, y, width):
    row = layer[OWN:]
    long, high = cell_sides(int(row[PATTERN]))
    per_px = F(1.0) / row[SIZE]
    c, s = layer[COSINE] * per_px, layer[SINE] * per_px
    i = (x * c + y * s) / long - layer[MOVED_X]
    j = (y * c - x * s) / high - layer[MOVED_Y]
    q = (x * per_px - layer[MOVED_X], y * per_px - layer[MOVED_Y], F(0.0))
    return pattern_at(row, sources.paints, i, j, q, (0, 0, 0, 0), width * per_px)[0]


@helper
def layer_on_canvas(sources, texels, layer, row, column, placing):
    """(light (rgb), opacity) that a layer shows at a px of the picture; placing as in `placing_of`."""
    width, left, top, canvas_width, canvas_height = placing
    half = F(0.5) * canvas_width, F(0.5) * canvas_height
    x = left + (F(column) + F(0.5)) * width - half[0]
    y = half[1] - top - (F(row) + F(0.5)) * width
    kind = int(layer[KIND])
    if kind == GRADIENT_LAYER:
        r, g, b, a = _gradient(sources, layer, x, y, half, width)
    elif kind == PATTERN_LAYER:
        r, g, b, a = _pattern(sources, layer, x, y, width)
    else:
        r, g, b, a = picture_on_sheet(texels, layer, x, y, half, F(0.0), width)
    colour = scale((r, g, b), F(1.0) / a) if a > F(0.0) else (F(0.0), F(0.0), F(0.0))
    return (min(colour[0], F(1.0)), min(colour[1], F(1.0)), min(colour[2], F(1.0))), a


@kernel
def _fill(sources, texels, placing, out, y0, y1):
    """Lay all layers over the colours in rows y0..y1-1 of out (h, w, 3)."""
    for row in range(y0, y1):
        for column in range(out.shape[1]):
            shown = F(1.0)
            c = out[row, column, 0], out[row, column, 1], out[row, column, 2]
            for number in range(sources.layers.shape[0]):
                layer = sources.layers[number]
                colour, a = layer_on_canvas(sources, texels, layer, row, column, placing)
                if layer[MASKS] > F(0.0):
                    shown *= left_by_mask(layer, colour, a)
                    continue
                above = a * layer[STRENGTH] * shown
                shown = F(1.0)
                if above > F(0.0):
                    c = laid_over(int(layer[BLEND]), c, colour, above)
            out[row, column, 0], out[row, column, 1], out[row, column, 2] = c


def placing_of(plate: Plate) -> Placing:
    frame = plate.frame
    return F(1 / frame.scale), F(frame.left), F(frame.top), F(frame.width), F(frame.height)


def packed(plate: Plate, layers: Layered) -> Sources:
    """The layers of a source as kernels read them, the plate's pictures in them."""
    return pack_sources([{MAIN: layers}], [Look(AS_IT_IS)], plate.seen.effect_pictures.means.numbers)


def colours_over_canvas(plate: Plate, source: Layered) -> Array:
    """Linear light (h, w, 3) of a source's layers over its base, all laid over the canvas."""
    out = room((*plate.shape, 3))
    out[:] = hex_to_linear(source.base)
    texels = plate.seen.effect_pictures.texels
    in_bands(plate.pool, partial(_fill, packed(plate, source), texels, placing_of(plate), out), len(out))
    return out
