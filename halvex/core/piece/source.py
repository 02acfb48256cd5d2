"""Sources: what gives a colour over a surface. A colour of a material is one colour throughout, or a base
colour with layers over it: gradients, patterns and pictures."""

from collections.abc import Iterator
from typing import Annotated

from pydantic import Discriminator, Tag, field_validator

from halvex.core.piece.fields import plain
from halvex.core.piece.gradient import Gradient
from halvex.core.piece.part import Colour, Part
from halvex.core.piece.pattern import Pattern
from halvex.core.piece.picture import Picture

MOST_LAYERS = 8
# Layers without a kind are of this.
DEFAULT_LAYER = "gradient"


def _kind_of_layer(value: object) -> str | None:
    kind = value.get("kind", DEFAULT_LAYER) if isinstance(value, dict) else getattr(value, "kind", None)
    return kind if isinstance(kind, str) else None


AnyLayer = Gradient | Pattern | Picture
Layer = Annotated[
    Annotated[Gradient, Tag("gradient")]
    | Annotated[Pattern, Tag("pattern")]
    | Annotated[Picture, Tag("picture")],
    Discriminator(
        _kind_of_layer,
        custom_error_type="layer_kind",
        custom_error_message="a layer is of the kind gradient, pattern or picture",
    ),
]


class Layered(Part):
    """A base colour and the layers over it, the lowest first."""

    base: Colour = plain("#ffffff", label="Base")
    layers: tuple[Layer, ...] = (Gradient(),)

    @field_validator("layers")
    @classmethod
    def _check_layers(cls, layers: tuple[AnyLayer, ...]) -> tuple[AnyLayer, ...]:
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


def layers_of(source: str | Layered) -> tuple[AnyLayer, ...]:
    """The layers of a source, the lowest first."""
    return source.layers if isinstance(source, Layered) else ()


def pictures_in(value: object) -> tuple[str, ...]:
    """The names of the pictures in a part of the document, or in several, each once, in order."""
    return tuple(dict.fromkeys(_pictures_in(value)))


def _pictures_in(value: object) -> Iterator[str]:
    if isinstance(value, Picture):
        yield value.picture
    elif isinstance(value, Part):
        for _, held in value:
            yield from _pictures_in(held)
    elif isinstance(value, dict):
        for held in value.values():
            yield from _pictures_in(held)
    elif isinstance(value, list | tuple):
        for held in value:
            yield from _pictures_in(held)
