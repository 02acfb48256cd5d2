"""Washes: gradients, patterns and pictures laid over the canvas."""

from functools import partial

from halvex.core.finish.painting import lay_over
from halvex.core.finish.plate import Plate
from halvex.core.finish.tone import in_bands
from halvex.core.kernels import helper, kernel
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
    pack_sources,
)
from halvex.core.optics.vectors import F, scale
from halvex.core.piece.effects import Wash
from halvex.core.piece.source import Layered


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


@kernel
def _wash(light, alpha, own, sources, texels, frame, strength, y0, y1):
    """Lay all layers over rows y0..y1-1; frame is (px of the canvas per px, left, top, width, height) of the
    canvas."""
    width, left, top, canvas_width, canvas_height = frame
    half = F(0.5) * canvas_width, F(0.5) * canvas_height
    for row in range(y0, y1):
        y = half[1] - top - (F(row) + F(0.5)) * width
        for column in range(light.shape[1]):
            share = strength * (own[row, column] if own.shape[0] > 0 else F(1.0))
            if share <= F(0.0):
                continue
            x = left + (F(column) + F(0.5)) * width - half[0]
            shown = F(1.0)
            for number in range(sources.layers.shape[0]):
                layer = sources.layers[number]
                kind, mode = int(layer[KIND]), int(layer[BLEND])
                if kind == GRADIENT_LAYER:
                    r, g, b, a = _gradient(sources, layer, x, y, half, width)
                elif kind == PATTERN_LAYER:
                    r, g, b, a = _pattern(sources, layer, x, y, width)
                else:
                    r, g, b, a = picture_on_sheet(texels, layer, x, y, half, F(0.0), width)
                colour = scale((r, g, b), F(1.0) / a) if a > F(0.0) else (F(0.0), F(0.0), F(0.0))
                if layer[MASKS] > F(0.0):
                    shown *= left_by_mask(layer, colour, a)
                    continue
                above = a * layer[STRENGTH] * share * shown
                shown = F(1.0)
                if above > F(0.0):
                    colour = (min(colour[0], F(1.0)), min(colour[1], F(1.0)), min(colour[2], F(1.0)))
                    lay_over(light, alpha, row, column, colour, above, mode)


def lay_wash(plate: Plate, wash: Wash) -> None:
    """Lay a wash over a displayed picture, each layer by its own blend mode."""
    pictures, frame = plate.seen.effect_pictures, plate.frame
    stack = Layered(base="#000000", layers=wash.layers)
    sources = pack_sources([{MAIN: stack}], [Look(AS_IT_IS)], pictures.names)
    part = F(1 / frame.scale), F(frame.left), F(frame.top), F(frame.width), F(frame.height)
    work = partial(
        _wash,
        plate.light,
        plate.alpha_or_opaque,
        plate.share_of(wash.target),
        sources,
        pictures.texels,
        part,
        F(wash.strength / 100),
    )
    in_bands(plate.pool, work, len(plate.light))
