"""Paints: the named colours of a piece. Wherever a colour stands, `paint:ID` stands for that of a paint.

A paint can be a tone of another: so many steps lighter or darker than it. Whoever edits a piece keeps the
colours of tones up to date (studio/palette.py); here they are as they are stored.
"""

from collections.abc import Iterable, Iterator, Mapping
from functools import lru_cache
from typing import TypeVar

from halvex.core.piece.fields import number, plain
from halvex.core.piece.part import PAINT_PREFIX, Ident, Part, PickedColour

MOST_PAINTS = 64
P = TypeVar("P", bound=Part)


class NamedPaint(Part):
    """A named colour. Held, it stays when all paints are shifted; as a tone `of` another it is `steps`
    lighter than that, or darker."""

    id: Ident = "paint"
    name: str = plain("Paint", label="Name")
    colour: PickedColour = plain("#c8402f", label="Colour", when={"of": (None,)})
    held: bool = plain(False, label="held", when={"of": (None,)})
    of: Ident | None = None
    steps: float = number(
        -2, label="Steps lighter", comfort=(-6, 6), step=0.5, ge=-20, le=20, when={"of": ...}
    )


def paint_of(colour: object) -> str | None:
    """The id of the paint that a colour refers to, if it does."""
    if isinstance(colour, str) and colour.startswith(PAINT_PREFIX):
        return colour.removeprefix(PAINT_PREFIX)
    return None


@lru_cache(maxsize=256)
def _colour_fields(kind: type[Part]) -> frozenset[str]:
    """The fields of a model that hold colours; text such as words can begin like a reference."""
    return frozenset(
        name
        for name, info in kind.model_fields.items()
        if PAINT_PREFIX in f"{info.metadata} {info.annotation}"
    )


def references_in(part: object, path: str = "") -> Iterator[tuple[str, str]]:
    """(pointer, id of the paint) of all colours in a part of the document that refer to one."""
    if isinstance(part, Part):
        colours = _colour_fields(type(part))
        for name, value in part:
            at = f"{path}/{type(part).model_fields[name].alias or name}"
            ident = paint_of(value) if name in colours else None
            if ident is not None:
                yield at, ident
            else:
                yield from references_in(value, at)
    elif isinstance(part, tuple | list | dict):
        for step, value in part.items() if isinstance(part, dict) else enumerate(part):
            yield from references_in(value, f"{path}/{step}")


def painted(part: P, colours: Mapping[str, str]) -> P:
    """A part of the document in which each reference is the colour #rrggbb of its paint, by id."""
    changed = {}
    names = _colour_fields(type(part))
    for name, value in part:
        ident = paint_of(value) if name in names else None
        other = colours.get(ident, value) if ident is not None else _painted(value, colours)
        if other is not value:
            changed[name] = other
    return part.model_copy(update=changed) if changed else part


def _painted(value: object, colours: Mapping[str, str]) -> object:
    if isinstance(value, Part):
        return painted(value, colours)
    if isinstance(value, tuple):
        inner = tuple(_painted(held, colours) for held in value)
        return inner if any(a is not b for a, b in zip(inner, value, strict=True)) else value
    if isinstance(value, dict):
        held = {key: _painted(inner, colours) for key, inner in value.items()}
        return held if any(held[key] is not value[key] for key in value) else value
    return value


def colours_of(paints: Iterable[NamedPaint]) -> dict[str, str]:
    """The colours #rrggbb of paints, by id."""
    return {paint.id: paint.colour for paint in paints}
