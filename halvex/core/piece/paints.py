"""Paints: the named colours of a piece. Wherever a colour stands, `paint:ID` stands for that of a paint.

A paint can be a tone of another: so many steps lighter or darker than it. Whoever edits a piece keeps the
colours of tones up to date (studio/palette.py); here they are as they are stored.
"""

from collections.abc import Iterable, Iterator, Mapping
from functools import lru_cache
from typing import Any, NamedTuple, TypeVar, get_args

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


class _Field(NamedTuple):
    """A field that holds a colour, or parts that may: its name, its step in a pointer, and which of both."""

    name: str
    step: str
    is_colour: bool


@lru_cache(maxsize=256)
def _fields_of(kind: type[Part]) -> tuple[_Field, ...]:
    """The fields of a model to look at. Numbers and text, which can begin like a reference, are none of them:
    a piece has thousands, and is checked at every edit."""
    found = []
    for name, info in kind.model_fields.items():
        is_colour = PAINT_PREFIX in f"{info.metadata} {info.annotation}"
        if is_colour or _may_hold_parts(info.annotation):
            found.append(_Field(name, info.alias or name, is_colour))
    return tuple(found)


def _may_hold_parts(annotation: Any) -> bool:
    if isinstance(annotation, type) and issubclass(annotation, Part):
        return True
    return any(_may_hold_parts(inner) for inner in get_args(annotation))


def references_in(part: object, path: str = "") -> Iterator[tuple[str, str]]:
    """(pointer, id of the paint) of all colours in a part of the document that refer to one."""
    if isinstance(part, Part):
        for field in _fields_of(type(part)):
            value, at = getattr(part, field.name), f"{path}/{field.step}"
            ident = paint_of(value) if field.is_colour else None
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
    for field in _fields_of(type(part)):
        value = getattr(part, field.name)
        ident = paint_of(value) if field.is_colour else None
        other = colours.get(ident, value) if ident is not None else _painted(value, colours)
        if other is not value:
            changed[field.name] = other
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
