"""Sources packed for the kernels: the layers of each material's colour, and the colours of gradients."""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.memory import kept
from halvex.core.optics.blending import BLENDS
from halvex.core.optics.colour import hex_to_linear
from halvex.core.optics.gradients import SHAPES, Ramp, ramp_of
from halvex.core.piece.source import SPANS, Gradient, Layered

# Columns of a layer.
SPAN, SHAPE, COSINE, SINE, SIDES, SCALE, MOVED_X, MOVED_Y = range(8)
STRENGTH, BLEND, BEGIN, LENGTH, REVERSED, MIRRORED, REPEATED = range(8, 15)
LAYER_COLUMNS = 15

# Numbers of spans: up to PIECE they are boxes of the block, from DEPTH on they follow the body.
PIECE, DEPTH, RUN, ACROSS = (SPANS.index(span) for span in ("piece", "depth", "run", "across"))

# How a colour becomes a material's base.
AS_IT_IS, UNDER_COAT, SHINING, SHOWN = range(4)


class Look(NamedTuple):
    """How a material's colour becomes its base: as it is, under a coat, shining `by` so much, or as the light
    that a tone curve (`by`) shows as that colour."""

    how: int
    by: float = 1.0


class Sources(NamedTuple):
    """Per material first (M, 2): its first layer and how many it has; base (M, 3): what lies below them,
    linear; look (M, 2). Of all layers: layers (L, LAYER_COLUMNS), ramps (L · RAMP, 4) and sums
    (L · (RAMP + 1), 4) as in gradients.py."""

    first: np.ndarray
    base: np.ndarray
    look: np.ndarray
    layers: np.ndarray
    ramps: np.ndarray
    sums: np.ndarray


@kept
def _ramp(gradient: Gradient) -> Ramp:
    return ramp_of(gradient)


def pack_sources(sources: list[str | Layered], looks: list[Look]) -> Sources:
    """Pack the colours of materials in order."""
    first = np.zeros((len(sources), 2), np.int32)
    base = np.zeros((len(sources), 3), np.float32)
    rows: list[list[float]] = []
    ramps: list[Ramp] = []
    for number, source in enumerate(sources):
        first[number, 0] = len(rows)
        if isinstance(source, Layered):
            base[number] = hex_to_linear(source.base)
            first[number, 1] = len(source.layers)
            for layer in source.layers:
                ramp = _ramp(layer)
                ramps.append(ramp)
                rows.append(_row(layer, ramp))
    empty = np.zeros((0, 4))
    return Sources(
        first,
        base,
        np.array(looks, np.float32).reshape(-1, 2),
        np.array(rows, np.float32).reshape(-1, LAYER_COLUMNS),
        np.concatenate([empty, *(ramp.means for ramp in ramps)]).astype(np.float32),
        np.concatenate([empty, *(ramp.sums for ramp in ramps)]),
    )


def _row(layer: Gradient, ramp: Ramp) -> list[float]:
    angle = math.radians(layer.bearing if layer.shape == "linear" else layer.turn)
    return [
        SPANS.index(layer.span),
        SHAPES.index(layer.shape),
        math.cos(angle),
        math.sin(angle),
        layer.sides,
        layer.scale / 100,
        layer.x / 100,
        layer.y / 100,
        layer.strength / 100,
        BLENDS.index(layer.blend),
        ramp.begin,
        ramp.length,
        layer.reversed,
        layer.mirrored,
        layer.repeated,
    ]


def mean_colour(source: str | Layered) -> NDArray[np.float64]:
    """Linear sRGB (3,) of a colour, or about what a source's is on the whole, blend modes aside."""
    if isinstance(source, str):
        return hex_to_linear(source)
    colour = hex_to_linear(source.base)
    for layer in source.layers:
        mean = _ramp(layer).means.mean(axis=0) * layer.strength / 100
        colour = colour * (1 - mean[3]) + mean[:3]
    return np.asarray(colour)
