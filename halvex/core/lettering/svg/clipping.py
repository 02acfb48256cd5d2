"""Clip paths of SVG files: the areas that parts are cut to (CSS Masking 1, 7)."""

import re
from collections.abc import Callable, Iterator, Mapping
from typing import NamedTuple
from xml.etree.ElementTree import Element

from fontTools.misc.transform import Transform

from halvex.core.lettering.svg.basic_shapes import SHAPES, path_of
from halvex.core.lettering.svg.elements import linked_id, tag_of
from halvex.core.lettering.svg.measures import length_of, transform_of
from halvex.core.lettering.svg.style import Style
from halvex.core.piece.mark import MOST_CLIP_SHAPES, Clip, ClipShape, Matrix

_REFERENCE = re.compile(r"""url\(\s*["']?#([^"')]+)["']?\s*\)""")


class ClipError(ValueError):
    """A clip path that cannot be shown, in words for the list of what is left out."""


class Drawing(NamedTuple):
    """What clip paths need of the file: elements by id, their styles under that of a parent, and how many
    characters of path data they may still add to the document."""

    named: Mapping[str | None, Element]
    style: Callable[[Element, Style], Style]
    characters_left: int


def clip_of(
    asked: str, drawing: Drawing, matrix: Transform, viewport: tuple[float, float], initial: Style
) -> Clip:
    """The shapes that a value of `clip-path` shows what lies within; `matrix` takes the units of the element
    that asks for it to px, and `viewport` is its size there. Raises ClipError."""
    found = _REFERENCE.fullmatch(asked.strip())
    target = drawing.named.get(found[1]) if found else None
    if target is None or tag_of(target) != "clipPath":
        raise ClipError("clipping by what is no clip path of the file")
    if target.get("clipPathUnits") == "objectBoundingBox":
        raise ClipError("clipping in shares of a part's box")
    style = drawing.style(target, initial)
    if style["clip-path"] not in ("none", ""):
        raise ClipError("a clip path that is clipped")
    try:
        matrix = matrix.transform(transform_of(style["transform"]))
        shapes = tuple(_shapes_in(target, drawing, matrix, viewport, style))
    except ValueError as fault:
        raise ClipError(f"clipping: {fault!s:.80}") from None
    if len(shapes) > MOST_CLIP_SHAPES:
        raise ClipError(f"clipping by over {MOST_CLIP_SHAPES} shapes")
    if sum(len(shape.path) for shape in shapes) > drawing.characters_left:
        raise ClipError("clipping by paths that are too long")
    return shapes


def _shapes_in(
    clip: Element, drawing: Drawing, matrix: Transform, viewport: tuple[float, float], parent: Style
) -> Iterator[ClipShape]:
    for child in clip:
        here, style = matrix, drawing.style(child, parent)
        if style["display"] == "none":
            continue
        here = here.transform(transform_of(style["transform"]))
        shape = child
        if tag_of(child) == "use":
            shape = drawing.named.get(linked_id(child), child)
            x, y = length_of(child.get("x"), viewport[0]), length_of(child.get("y"), viewport[1])
            style = drawing.style(shape, style)
            here = here.translate(x, y).transform(transform_of(style["transform"]))
        if tag_of(shape) not in SHAPES:
            if tag_of(shape) in ("text", "use"):
                raise ClipError("clipping by text or a copy of a group")
            continue
        path = path_of(tag_of(shape), shape.attrib, *viewport)
        if path and style["visibility"] == "visible":
            rule = "evenodd" if style["clip-rule"] == "evenodd" else "nonzero"
            placed: Matrix = tuple(here)
            yield ClipShape(path=path, rule=rule, matrix=placed)
