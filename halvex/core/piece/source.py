"""Sources: what gives a colour over a surface. A colour of a material is one colour throughout, or a base
colour with layers over it: gradients, patterns and pictures."""

from collections.abc import Iterable, Iterator
from typing import Annotated, TypeVar

from pydantic import AfterValidator, Discriminator, Tag

from halvex.core.piece.fields import plain
from halvex.core.piece.gradient import Gradient
from halvex.core.piece.mesh import Mesh
from halvex.core.piece.part import Colour, Part
from halvex.core.piece.pattern import Pattern
from halvex.core.piece.picture import Picture
from halvex.core.piece.tile import Tile

P = TypeVar("P", bound=Part)

MOST_LAYERS = 8
# Layers without a kind are of this.
DEFAULT_LAYER = "gradient"


def _kind_of_layer(value: object) -> str | None:
    kind = value.get("kind", DEFAULT_LAYER) if isinstance(value, dict) else getattr(value, "kind", None)
    return kind if isinstance(kind, str) else None


AnyLayer = Gradient | Pattern | Picture | Tile | Mesh
Layer = Annotated[
    Annotated[Gradient, Tag("gradient")]
    | Annotated[Pattern, Tag("pattern")]
    | Annotated[Picture, Tag("picture")]
    | Annotated[Tile, Tag("tile")]
    | Annotated[Mesh, Tag("mesh")],
    Discriminator(
        _kind_of_layer,
        custom_error_type="layer_kind",
        custom_error_message="a layer is of the kind gradient, pattern, picture, tile or mesh",
    ),
]


def _check_count(layers: tuple[AnyLayer, ...]) -> tuple[AnyLayer, ...]:
    if len(layers) > MOST_LAYERS:
        raise ValueError(f"there can be {MOST_LAYERS} layers at most; take some away")
    return layers


# The lowest first. One that masks is not shown: the layer above shows as far as it is light.
Layers = Annotated[tuple[Layer, ...], AfterValidator(_check_count)]


class Layered(Part):
    """A base colour and the layers over it."""

    base: Colour = plain("#ffffff", label="Base")
    layers: Layers = (Gradient(),)


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
    for part in parts_in(value, Picture):
        yield part.picture


# Most of what a part holds are numbers and names.
_HOLDING = (Part, dict, list, tuple)


def parts_in(value: object, kind: type[P] | tuple[type[P], ...]) -> Iterator[P]:
    """The parts of a kind, or of several, within a part of the document, or several."""
    # Without recursion, and past what holds no parts: pieces of many materials are searched at each edit.
    left = [value]
    while left:
        held = left.pop()
        if isinstance(held, kind):
            yield held
            continue
        within: Iterable[object] = ()
        if isinstance(held, Part):
            within = vars(held).values()
        elif isinstance(held, dict):
            within = held.values()
        elif isinstance(held, list | tuple):
            within = held
        left.extend([each for each in within if isinstance(each, _HOLDING)][::-1])
