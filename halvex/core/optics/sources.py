"""Sources packed for the kernels: the layers of each material's colours and numbers, and what they are made
of."""

import math
from collections.abc import Mapping, Sequence
from functools import lru_cache
from types import MappingProxyType
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.memory import kept
from halvex.core.optics.blending import BLENDS
from halvex.core.optics.colour import hex_to_linear, linear_to_srgb, luminance
from halvex.core.optics.gradients import SHAPES, Ramp, ramp_of
from halvex.core.optics.patterns import CRYSTALS, FIRST_PAINT, MEAN, PATTERN_COLUMNS, mean_paint, variants_of
from halvex.core.optics.texels import EDGES, NO_PICTURES, Means
from halvex.core.piece.embossing import Embossing
from halvex.core.piece.gradient import Gradient
from halvex.core.piece.layer import SPANS
from halvex.core.piece.mesh import Mesh
from halvex.core.piece.pattern import PATTERN_NAMES, Pattern
from halvex.core.piece.picture import Picture
from halvex.core.piece.source import AnyLayer, Layered, base_of
from halvex.core.piece.tile import Tile
from halvex.core.piece.varying import Varied, ends_of

# What of a material layers can make: its colour, the second of a texture or that of pearl; and by their tones
# its roughness, its relief, the bearing of its brush, the depth of a tint or the strength of a glow, and what
# is embossed.
MAIN, SECOND, ROUGHNESS, RELIEF, BEARING, AMOUNT, EMBOSSED = range(7)
SLOTS = 7
COLOURS = 2  # so many of them, the first, are colours
# Columns of a layer: of which kind it is, and what all kinds have; from OWN on those of its kind.
KIND, SPAN, COSINE, SINE, MOVED_X, MOVED_Y, STRENGTH, BLEND, MASKS = range(9)
OWN = 9
GRADIENT_LAYER, PATTERN_LAYER, PICTURE_LAYER = range(3)
# Own columns of a gradient; RAMP_NUMBER is that of its ramp among all.
SHAPE, SIDES, SCALE, BEGIN, LENGTH, REVERSED, MIRRORED, REPEATED, BY_KEY, TO_X, TO_Y, TO_Z = range(12)
RAMP_NUMBER = 12
GRADIENT_COLUMNS = 13
# Own columns of a picture.
TEXTURE, FIT, EDGE, PICTURE_SCALE = range(4)
LAYER_COLUMNS = OWN + max(GRADIENT_COLUMNS, PATTERN_COLUMNS)
FILLED, FITTED, NATURAL, STRETCHED = range(4)
FITS = ("fill", "fit", "natural", "stretch")

# Numbers of spans: up to PIECE they are boxes of the block, from DEPTH on they follow the body.
BLOCK, PIECE, DEPTH, RUN, ACROSS, FACING, SURFACE = (
    SPANS.index(span) for span in ("block", "piece", "depth", "run", "across", "facing", "surface")
)

# Columns of a material: what lies below the layers of its colours, three each; what its numbers are where
# layers are dark and light, two a slot; how its base comes of its colour, and by what (`Look`); whether more
# than its colour has layers; the first of the materials that are it at other roughnesses, and how many there
# are; what is embossed on it; and whether it takes uv or the tangent of a letter's surface.
BELOW = 0
ENDS = BELOW + 3 * COLOURS
HOW = ENDS + 2 * SLOTS
BY, VARIES, FIRST_LEVEL, LEVEL_COUNT = HOW + 1, HOW + 2, HOW + 3, HOW + 4
EMBOSSING = HOW + 5
NORMALS, HEIGHT, SOFTNESS, SLOPE, RIGHT_X, RIGHT_Y = range(EMBOSSING, EMBOSSING + 6)
USES_UV = EMBOSSING + 6
MATERIAL_COLUMNS = USES_UV + 1

# Spans along the surface itself.
_BY_UV = RUN, ACROSS, SURFACE

# How a colour becomes a material's base.
AS_IT_IS, UNDER_COAT, SHINING, SHOWN, ABSORBED = range(5)

# Rows of so many layers are kept: an edit changes few of them.
MOST_ROWS = 1_000

# What can make a colour or a number of a material.
Source = str | Layered | float | Varied | Embossing


class Look(NamedTuple):
    """How a material's colour becomes its base: as it is; under a coat, which turns back `by` so much of the
    diffuse light below it; shining `by` so many times; as the light that a tone curve (`by`) shows as that
    colour; or as what is absorbed per px where the colour is left of white after `by` px."""

    how: int
    by: float = 1.0


class Sources(NamedTuple):
    """Per material and slot first (M, SLOTS, 2): its first layer and how many it has; per material rows
    (M, MATERIAL_COLUMNS); of all layers (L, LAYER_COLUMNS), their own columns last. Ramps (G · RAMP, 4) and
    sums (G · (RAMP + 1), 4) of gradients are as in gradients.py; paints (n, 4) of patterns are premultiplied.

    They are few and wide: each array more has to be handed over wherever a surface is looked at."""

    first: np.ndarray
    rows: np.ndarray
    layers: np.ndarray
    ramps: np.ndarray
    sums: np.ndarray
    paints: np.ndarray


@kept
def _ramp(gradient: Gradient) -> Ramp:
    return ramp_of(gradient)


class _Packing:
    """Rows of all kinds of layers as they come."""

    def __init__(self, pictures: Mapping[str, int]) -> None:
        self.pictures = pictures
        self.layers: list[list[float]] = []
        self.ramps: list[Ramp] = []
        self.paints: list[NDArray[np.float32]] = []

    def add(self, layer: AnyLayer) -> None:
        row = [*_layer_row(layer)]
        match layer:
            case Gradient():
                row[OWN + RAMP_NUMBER] = len(self.ramps)
                self.ramps.append(_ramp(layer))
            case Pattern():
                row[OWN + FIRST_PAINT] = sum(len(others) for others in self.paints)
                self.paints.append(_pattern_row(layer)[1])
            case Picture():
                row[OWN + TEXTURE] = self.pictures[layer.picture]
        self.layers.append(row)


@lru_cache(maxsize=MOST_ROWS)
def _layer_row(layer: AnyLayer) -> tuple[float, ...]:
    """The numbers (LAYER_COLUMNS,) of a layer; those of what it shares with others, its ramp, its first paint
    or its picture, are 0."""
    if isinstance(layer, Tile | Mesh):
        raise TypeError("these become pictures before sources are packed (scene/drawn.py)")
    angle = math.radians(_angle(layer))
    kind, own = _own_columns(layer)
    row = [
        kind,
        SPANS.index(layer.span),
        math.cos(angle),
        math.sin(angle),
        layer.x / 100,
        layer.y / 100,
        layer.strength / 100,
        BLENDS.index(layer.blend),
        layer.masks,
        *own,
    ]
    return (*row, *[0.0] * (LAYER_COLUMNS - len(row)))


def _own_columns(layer: Gradient | Pattern | Picture) -> tuple[int, list[float]]:
    """(the kind of a layer, its own columns)."""
    match layer:
        case Gradient():
            return GRADIENT_LAYER, [*_gradient_row(layer, _ramp(layer)), 0]
        case Pattern():
            return PATTERN_LAYER, _pattern_row(layer)[0].tolist()
        case Picture():
            return PICTURE_LAYER, [0, FITS.index(layer.fit), EDGES.index(layer.edges), layer.scale / 100]


def pack_sources(
    materials: Sequence[Mapping[int, Source]],
    looks: Sequence[Look],
    pictures: Mapping[str, int] = MappingProxyType({}),
    levels: Mapping[int, tuple[int, int]] | None = None,
) -> Sources:
    """Pack what makes the colours and numbers of materials, by slot, in order; `pictures` are the
    numbers of their texels by name, `levels` the first and the number of those that are a material at other
    roughnesses, by its number."""
    first = np.zeros((len(materials), SLOTS, 2), np.int32)
    rows = np.zeros((len(materials), MATERIAL_COLUMNS), np.float32)
    packing = _Packing(pictures)
    for number, (slots, look) in enumerate(zip(materials, looks, strict=True)):
        row, begin = rows[number], len(packing.layers)
        for slot, source in slots.items():
            layers = layers_in(source)
            first[number, slot] = len(packing.layers), len(layers)
            for layer in layers:
                packing.add(layer)
            match source:
                case str() | Layered():
                    row[BELOW + 3 * slot : BELOW + 3 * slot + 3] = hex_to_linear(base_of(source))
                case Embossing():
                    row[EMBOSSING:USES_UV] = _embossing_row(source)
                case _:
                    row[ENDS + 2 * slot : ENDS + 2 * slot + 2] = ends_of(source)
        row[HOW : BY + 1] = look
        row[VARIES] = bool(np.any(first[number, SECOND:, 1] > 0))
        own = packing.layers[begin:]
        row[USES_UV] = row[VARIES] or any(layer[SPAN] in _BY_UV for layer in own)
        row[FIRST_LEVEL : LEVEL_COUNT + 1] = (levels or {}).get(number, (0, 0))
    empty = np.zeros((0, 4))
    return Sources(
        first,
        rows,
        np.array(packing.layers, np.float32).reshape(-1, LAYER_COLUMNS),
        np.concatenate([empty, *(ramp.means for ramp in packing.ramps)]).astype(np.float32),
        np.concatenate([empty, *(ramp.sums for ramp in packing.ramps)]),
        np.concatenate([empty, *packing.paints]).astype(np.float32),
    )


def layers_in(source: Source) -> tuple[AnyLayer, ...]:
    """The layers of whatever makes a colour or a number, the lowest first."""
    return source.layers if isinstance(source, Layered | Varied | Embossing) else ()


def _embossing_row(embossing: Embossing) -> list[float]:
    # What a picture of normals calls the right is turned with it.
    shown = [layer for layer in embossing.layers if not layer.masks]
    turn = math.radians(_angle(shown[-1])) if shown and not isinstance(shown[-1], Gradient) else 0.0
    return [
        embossing.reads == "normals",
        embossing.height,
        embossing.softness,
        embossing.slope / 100,
        math.cos(turn),
        math.sin(turn),
    ]


def _angle(layer: AnyLayer) -> float:
    match layer:
        case Gradient():
            return layer.bearing if layer.shape == "linear" else layer.turn
        case Pattern() | Tile():
            return layer.bearing
        case Picture():
            return layer.turn
        case Mesh():
            return 0.0


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


def is_tilting(source: Source) -> bool:
    """Whether a layer of a colour tilts the surface."""
    return any(
        isinstance(layer, Pattern) and PATTERN_NAMES[CRYSTALS] == layer.pattern and layer.tilt > 0
        for layer in layers_in(source)
    )


def mean_colour(source: str | Layered, means: Means = NO_PICTURES.means) -> NDArray[np.float64]:
    """Linear sRGB (3,) of a colour, or about what a source's is on the whole, blend modes aside. Pictures
    that are not given do not count."""
    return _mean_over(hex_to_linear(base_of(source)), layers_in(source), means)


def mean_number(value: float | Varied, means: Means = NO_PICTURES.means) -> float:
    """A number, or about what it is on the whole where it differs from place to place."""
    dark, light = ends_of(value)
    if dark == light:
        return dark
    return dark + (light - dark) * _tone(_mean_over(np.zeros(3), layers_in(value), means))


def _mean_over(
    colour: NDArray[np.float64], layers: tuple[AnyLayer, ...], means: Means
) -> NDArray[np.float64]:
    # One by one: for so few numbers arrays take longer.
    found, shown = colour.tolist(), 1.0
    for layer in layers:
        mean, strength = _mean_of(layer, means), layer.strength / 100
        if layer.masks:
            shown *= 1 - strength * (1 - _tone(mean[:3]))
            continue
        *above, opacity = mean.tolist()
        by, shown = strength * shown, 1.0
        found = [a * (1 - opacity * by) + b * by for a, b in zip(found, above, strict=True)]
    return np.array(found)


def _tone(light: NDArray[np.float64]) -> float:
    return float(np.clip(linear_to_srgb(luminance(light)), 0, 1))


def _mean_of(layer: AnyLayer, means: Means) -> NDArray[np.float64]:
    """Premultiplied linear light and opacity (4,) of a layer on the whole."""
    match layer:
        case Gradient():
            return np.asarray(_ramp(layer).means.mean(axis=0), float)
        case Pattern():
            return np.asarray(_pattern_row(layer)[0][MEAN:], float)
        case Picture():
            if layer.picture not in means.numbers:
                return np.zeros(4)
            return means.light[means.numbers[layer.picture]]
        case Tile():
            # What a block's ink covers is known when it is drawn.
            return np.zeros(4)
        case Mesh():
            opacity = np.array([point.opacity / 100 for point in layer.points])[:, None]
            colours = np.array([hex_to_linear(point.colour) for point in layer.points])
            return np.asarray(np.hstack([colours * opacity, opacity]).mean(axis=0))
