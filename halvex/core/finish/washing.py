"""Washes: gradients, patterns and pictures laid over the canvas."""

from halvex.core.finish.layering import layer_on_canvas, packed, placing_of
from halvex.core.finish.painting import lay_over
from halvex.core.finish.plate import Plate
from halvex.core.kernels import kernel
from halvex.core.optics.sheets import left_by_mask
from halvex.core.optics.sources import BLEND, MASKS, STRENGTH
from halvex.core.optics.vectors import F
from halvex.core.piece.effects import Wash
from halvex.core.piece.source import Layered


@kernel
def _wash(light, alpha, own, sources, texels, placing, strength, y0, y1):
    """Lay all layers over rows y0..y1-1, each by its own blend mode."""
    for row in range(y0, y1):
        for column in range(light.shape[1] // 3):
            share = strength * (own[row, column] if own.shape[0] > 0 else F(1.0))
            if share <= F(0.0):
                continue
            shown = F(1.0)
            for number in range(sources.layers.shape[0]):
                layer = sources.layers[number]
                colour, a = layer_on_canvas(sources, texels, layer, row, column, placing)
                if layer[MASKS] > F(0.0):
                    shown *= left_by_mask(layer, colour, a)
                    continue
                above = a * layer[STRENGTH] * share * shown
                shown = F(1.0)
                if above > F(0.0):
                    lay_over(light, alpha, row, column, colour, above, int(layer[BLEND]))


def lay_wash(plate: Plate, wash: Wash) -> None:
    """Lay a wash over a displayed picture, each layer by its own blend mode."""
    own, strength, placing = plate.share_of(wash.target), F(wash.strength / 100), placing_of(plate)
    sources = packed(plate, Layered(base="#000000", layers=wash.layers))
    texels = plate.seen.effect_pictures.texels
    plate.by_rows(
        lambda light, alpha, *rows: _wash(light, alpha, own, sources, texels, placing, strength, *rows)
    )
