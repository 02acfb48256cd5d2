"""Sources packed for the kernels: the layers of each material's colour, and what they are made of."""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.memory import kept
from halvex.core.optics.blending import BLENDS
from halvex.core.optics.colour import hex_to_linear
from halvex.core.optics.gradients import SHAPES, Ramp, ramp_of
from halvex.core.optics.patterns import CRYSTALS, FIRST_PAINT, MEAN, PATTERN_COLUMNS, mean_paint, variants_of
from halvex.core.optics.texels import EDGES, NO_PICTURES, Pictures, mean_texel
from halvex.core.piece.gradient import Gradient
from halvex.core.piece.layer import SPANS
from halvex.core.piece.pattern import PATTERN_NAMES, Pattern
from halvex.core.piece.picture import Picture
from halvex.core.piece.source import AnyLayer, Layered, layers_of

# Columns of a layer: of which kind it is and its number among those, and what all kinds have.
KIND, NUMBER, SPAN, COSINE, SINE, MOVED_X, MOVED_Y, STRENGTH, BLEND = range(9)
LAYER_COLUMNS = 9
GRADIENT_LAYER, PATTERN_LAYER, PICTURE_LAYER = range(3)
# Columns of a gradient.
SHAPE, SIDES, SCALE, BEGIN, LENGTH, REVERSED, MIRRORED, REPEATED, BY_KEY, TO_X, TO_Y, TO_Z = range(12)
GRADIENT_COLUMNS = 12
# Columns of a picture.
TEXTURE, FIT, EDGE, PICTURE_SCALE = range(4)
PICTURE_COLUMNS = 4
FILLED, FITTED, NATURAL = range(3)
FITS = ("fill", "fit", "natural")

# Numbers of spans: up to PIECE they are boxes of the block, from DEPTH on they follow the body.
BLOCK, PIECE, DEPTH, RUN, ACROSS, FACING, SURFACE = (
    SPANS.index(span) for span in ("block", "piece", "depth", "run", "across", "facing", "surface")
)

# How a colour becomes a material's base.
AS_IT_IS, UNDER_COAT, SHINING, SHOWN = range(4)


class Look(NamedTuple):
    """How a material's colour becomes its base: as it is, under a coat, shining `by` so much, or as the light
    that a tone curve (`by`) shows as that colour."""

    how: int
    by: float = 1.0


class Sources(NamedTuple):
    """Per material first (M, 2): its first layer and how many it has; base (M, 3): what lies below them,
    linear; look (M, 2). Of all layers (L, LAYER_COLUMNS): gradients (G, GRADIENT_COLUMNS) with ramps
    (G · RAMP, 4) and sums (G · (RAMP + 1), 4) as in gradients.py; patterns (P, PATTERN_COLUMNS) with paints
    (n, 4), premultiplied; pictures (Q, PICTURE_COLUMNS)."""

    first: np.ndarray
    base: np.ndarray
    look: np.ndarray
    layers: np.ndarray
    gradients: np.ndarray
    ramps: np.ndarray
    sums: np.ndarray
    patterns: np.ndarray
    paints: np.ndarray
    pictures: np.ndarray


@kept
def _ramp(gradient: Gradient) -> Ramp:
    return ramp_of(gradient)


class _Packing:
    """Rows of all kinds of layers as they come."""

    def __init__(self, names: tuple[str, ...]) -> None:
        self.names = names
        self.layers: list[list[float]] = []
        self.gradients: list[list[float]] = []
        self.ramps: list[Ramp] = []
        self.patterns: list[NDArray[np.float32]] = []
        self.paints: list[NDArray[np.float32]] = []
        self.pictures: list[list[float]] = []

    def add(self, layer: AnyLayer) -> None:
        angle = math.radians(_angle(layer))
        kind, number = self._number(layer)
        self.layers.append(
            [
                kind,
                number,
                SPANS.index(layer.span),
                math.cos(angle),
                math.sin(angle),
                layer.x / 100,
                layer.y / 100,
                layer.strength / 100,
                BLENDS.index(layer.blend),
            ]
        )

    def _number(self, layer: AnyLayer) -> tuple[int, int]:
        match layer:
            case Gradient():
                ramp = _ramp(layer)
                self.ramps.append(ramp)
                self.gradients.append(_gradient_row(layer, ramp))
                return GRADIENT_LAYER, len(self.gradients) - 1
            case Pattern():
                row, paints = _pattern_row(layer)
                row = row.copy()
                row[FIRST_PAINT] = sum(len(others) for others in self.paints)
                self.patterns.append(row)
                self.paints.append(paints)
                return PATTERN_LAYER, len(self.patterns) - 1
            case Picture():
                texture = self.names.index(layer.picture)
                row_of = [texture, FITS.index(layer.fit), EDGES.index(layer.edges), layer.scale / 100]
                self.pictures.append(row_of)
                return PICTURE_LAYER, len(self.pictures) - 1


def pack_sources(sources: list[str | Layered], looks: list[Look], names: tuple[str, ...] = ()) -> Sources:
    """Pack the colours of materials in order; `names` are those of pictures in the order of their texels."""
    first = np.zeros((len(sources), 2), np.int32)
    base = np.zeros((len(sources), 3), np.float32)
    packing = _Packing(names)
    for number, source in enumerate(sources):
        first[number, 0] = len(packing.layers)
        if isinstance(source, Layered):
            base[number] = hex_to_linear(source.base)
            first[number, 1] = len(source.layers)
            for layer in source.layers:
                packing.add(layer)
    empty = np.zeros((0, 4))
    return Sources(
        first,
        base,
        np.array(looks, np.float32).reshape(-1, 2),
        _rows(packing.layers, LAYER_COLUMNS),
        _rows(packing.gradients, GRADIENT_COLUMNS),
        np.concatenate([empty, *(ramp.means for ramp in packing.ramps)]).astype(np.float32),
        np.concatenate([empty, *(ramp.sums for ramp in packing.ramps)]),
        _rows(packing.patterns, PATTERN_COLUMNS),
        np.concatenate([empty, *packing.paints]).astype(np.float32),
        _rows(packing.pictures, PICTURE_COLUMNS),
    )


def _rows(rows: list[list[float]] | list[NDArray[np.float32]], columns: int) -> NDArray[np.float32]:
    return np.array(rows, np.float32).reshape(-1, columns)


def _angle(layer: AnyLayer) -> float:
    match layer:
        case Gradient():
            return layer.bearing if layer.shape == "linear" else layer.turn
        case Pattern():
            return layer.bearing
        case Picture():
            return layer.turn


def _gradient_row(layer: Gradient, ramp: Ramp) -> list[float]:
    return [
        SHAPES.index(layer.shape),
        layer.sides,
        layer.scale / 100,
        ramp.begin,
        ramp.length,
        layer.reversed,
        layer.mirrored,
        layer.repeated,
        layer.towards == "key lamp",
        *_direction(layer.compass, layer.elevation),
    ]


def _direction(bearing_deg: float, elevation_deg: float) -> tuple[float, float, float]:
    """A unit vector by its bearing and its height over the face plane."""
    bearing, elevation = math.radians(bearing_deg), math.radians(elevation_deg)
    level = math.cos(elevation)
    return level * math.cos(bearing), level * math.sin(bearing), math.sin(elevation)


@kept
def _pattern_row(layer: Pattern) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """(numbers (PATTERN_COLUMNS,), paints (n · VARIANTS, 4)) of a pattern whose first paint is number 0."""
    opacity = np.array([paint.opacity / 100 for paint in layer.paints])[:, None]
    colours = np.array([hex_to_linear(paint.colour) for paint in layer.paints])
    paints = variants_of(
        np.hstack([colours * opacity, opacity]),
        math.radians(layer.hue_jitter),
        layer.tone_jitter / 100,
        layer.seed,
    ).astype(np.float32)
    row = np.zeros(PATTERN_COLUMNS, np.float32)
    row[:MEAN] = [
        PATTERN_NAMES.index(layer.pattern),
        layer.size,
        layer.fill / 100,
        layer.points,
        layer.place_jitter / 100,
        layer.size_jitter / 100,
        layer.turn_jitter / 100,
        math.tan(math.radians(layer.tilt)),
        math.radians(layer.phase),
        layer.seed,
        0,
        len(layer.paints),
    ]
    row[MEAN:] = mean_paint(row, paints)
    return row, paints


def is_tilting(source: str | Layered) -> bool:
    """Whether a layer of a colour tilts the surface."""
    return any(
        isinstance(layer, Pattern) and PATTERN_NAMES[CRYSTALS] == layer.pattern and layer.tilt > 0
        for layer in layers_of(source)
    )


def mean_colour(source: str | Layered, pictures: Pictures = NO_PICTURES) -> NDArray[np.float64]:
    """Linear sRGB (3,) of a colour, or about what a source's is on the whole, blend modes aside. Pictures
    that are not given do not count."""
    if isinstance(source, str):
        return hex_to_linear(source)
    colour = hex_to_linear(source.base)
    for layer in source.layers:
        mean = _mean_of(layer, pictures) * layer.strength / 100
        colour = colour * (1 - mean[3]) + mean[:3]
    return np.asarray(colour)


def _mean_of(layer: AnyLayer, pictures: Pictures) -> NDArray[np.float64]:
    """Premultiplied linear light and opacity (4,) of a layer on the whole."""
    match layer:
        case Gradient():
            return np.asarray(_ramp(layer).means.mean(axis=0), float)
        case Pattern():
            return np.asarray(_pattern_row(layer)[0][MEAN:], float)
        case Picture():
            if layer.picture not in pictures.names:
                return np.zeros(4)
            return mean_texel(pictures.pyramids[pictures.names.index(layer.picture)])
