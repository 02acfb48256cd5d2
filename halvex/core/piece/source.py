"""Sources: what gives a colour over a surface. A colour of a material is one colour throughout, or a base
colour with gradients over it.

Places are in shares of the span that a gradient is laid over, and go along with the lettering.
"""

from itertools import pairwise
from typing import Annotated, Any, Literal, get_args

from pydantic import Discriminator, Tag, field_validator

from halvex.core.piece.fields import When, number, plain
from halvex.core.piece.part import Colour, Part

MOST_STOPS = 32
MOST_LAYERS = 8

# Separable modes of the W3C recommendation Compositing and Blending Level 1, in its order.
Blend = Literal[
    "normal",
    "multiply",
    "screen",
    "overlay",
    "darken",
    "lighten",
    "color-dodge",
    "color-burn",
    "hard-light",
    "soft-light",
    "difference",
    "exclusion",
]
Span = Literal["letter", "word", "block", "piece", "canvas", "depth", "run", "across"]
SPANS: tuple[Span, ...] = get_args(Span)
# Spans with a width and a height.
PLANES = SPANS[:5]


def _in_plane(**more: tuple[Any, ...]) -> When:
    return {"span": PLANES, **more}


class Stop(Part):
    """A colour at a place of a gradient. Hardness draws the change to the next stop together: at 100 it is a
    hard break half-way."""

    at: float = number(0, label="Place", unit="%", comfort=(0, 100), step=1, ge=-1000, le=1000)
    colour: Colour = plain("#ffffff", label="Colour")
    opacity: float = number(100, label="Opacity", unit="%", comfort=(0, 100), step=5, ge=0, le=100)
    hardness: float = number(0, label="Hardness", unit="%", comfort=(0, 100), step=5, ge=0, le=100)


class Gradient(Part):
    """Colours that change along a line, out from a point, around one, or along the body itself: over its
    depth, along its outline or tube, or across its bevel or around its tube."""

    kind: Literal["gradient"] = "gradient"
    span: Span = plain("block", label="Over")
    shape: Literal["linear", "round", "oval", "polygon", "conic"] = plain(
        "linear", label="Shape", when=_in_plane()
    )
    mix: Literal["oklab", "srgb", "linear"] = plain("oklab", label="Mixed in")
    blend: Blend = plain("normal", label="Blend mode")
    bearing: float = number(
        270,
        label="Bearing",
        unit="°",
        comfort=(0, 360),
        step=5,
        ge=-3600,
        le=3600,
        when=_in_plane(shape=("linear",)),
    )
    turn: float = number(
        0,
        label="Turn",
        unit="°",
        comfort=(0, 360),
        step=5,
        ge=-3600,
        le=3600,
        when=_in_plane(shape=("oval", "polygon", "conic")),
    )
    sides: int = number(6, label="Sides", comfort=(3, 12), ge=3, le=100, when=_in_plane(shape=("polygon",)))
    scale: float = number(
        100,
        label="Length",
        unit="%",
        comfort=(10, 300),
        step=5,
        ge=0.1,
        le=10_000,
        when={"shape": ("linear", "round", "oval", "polygon")},
    )
    x: float = number(
        0, label="Moved across", unit="%", comfort=(-100, 100), step=1, ge=-1000, le=1000, when=_in_plane()
    )
    y: float = number(
        0, label="Moved up", unit="%", comfort=(-100, 100), step=1, ge=-1000, le=1000, when=_in_plane()
    )
    strength: float = number(100, label="Strength", unit="%", comfort=(0, 100), step=5, ge=0, le=100)
    reversed: bool = plain(False, label="reversed")
    mirrored: bool = plain(False, label="mirrored")
    repeated: bool = plain(False, label="repeated")
    stops: tuple[Stop, ...] = (Stop(at=0, colour="#f6d98a"), Stop(at=100, colour="#8a4b1d"))

    @field_validator("stops")
    @classmethod
    def _check_stops(cls, stops: tuple[Stop, ...]) -> tuple[Stop, ...]:
        if not stops:
            raise ValueError("a gradient needs a stop at least; add one, or take the gradient away")
        if len(stops) > MOST_STOPS:
            raise ValueError(f"a gradient has {MOST_STOPS} stops at most; take some away")
        for before, after in pairwise(stops):
            if after.at < before.at:
                raise ValueError(
                    f"stops go from the first place to the last; the one at {after.at:g} % comes after "
                    f"{before.at:g} %: put them in order"
                )
        return stops


class Layered(Part):
    """A base colour and the gradients over it, the lowest first."""

    base: Colour = plain("#ffffff", label="Base")
    layers: tuple[Gradient, ...] = (Gradient(),)

    @field_validator("layers")
    @classmethod
    def _check_layers(cls, layers: tuple[Gradient, ...]) -> tuple[Gradient, ...]:
        if len(layers) > MOST_LAYERS:
            raise ValueError(f"a colour has {MOST_LAYERS} layers at most; take some away")
        return layers


LAYERED = "layered"


def _kind_of_source(value: object) -> str:
    return LAYERED if isinstance(value, dict | Layered) else "colour"


# One colour throughout, or layers over one.
ColourSource = Annotated[
    Annotated[Colour, Tag("colour")] | Annotated[Layered, Tag(LAYERED)], Discriminator(_kind_of_source)
]


def base_of(source: str | Layered) -> str:
    """The colour of a source that is the same everywhere, or lies below all others."""
    return source if isinstance(source, str) else source.base
