"""Reading an SVG file: elements become the parts of a mark, in the order they are painted.

A file is data: nothing in it is run, fetched or looked up outside it; entities are refused. What is
not supported is listed by name, never dropped in silence.
"""

import hashlib
import itertools
from collections.abc import Iterator
from dataclasses import dataclass, replace
from xml.etree.ElementTree import Element, ParseError

import cssselect2
import numpy as np
from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import fromstring
from fontTools.misc.transform import Identity, Transform
from pydantic import ValidationError

from halvex.core.lettering.marks import part_outline, path_contours
from halvex.core.lettering.svg.basic_shapes import SHAPES, path_of
from halvex.core.lettering.svg.centring import ReadMark, centred
from halvex.core.lettering.svg.clipping import ClipError, Drawing, clip_of
from halvex.core.lettering.svg.elements import linked_id, tag_of
from halvex.core.lettering.svg.gradients import Box, first_colour, gradient_of
from halvex.core.lettering.svg.measures import (
    PHYSICAL_UNITS,
    diagonal,
    fit_of,
    length_of,
    numbers_of,
    transform_of,
    unit_of,
)
from halvex.core.lettering.svg.patterns import PatternError, drawn_tile, laid, tile_of
from halvex.core.lettering.svg.style import INITIAL, OWN, Paint, Rules, Style, paint_of, share_of
from halvex.core.lettering.typefaces import LetteringError
from halvex.core.piece.gradient import Gradient
from halvex.core.piece.mark import LONGEST_PATH, MOST_CLIPS, MOST_PARTS, Clip, LineStyle, MarkPart
from halvex.core.piece.material import Plastic
from halvex.core.piece.picture import Picture
from halvex.core.piece.source import Layered

LARGEST_SVG_BYTES = 1_000_000
# Characters of clip paths, each as often as a part is cut to it.
LONGEST_CLIPS = 500_000
MOST_ELEMENTS = 20_000
# Of all tiles of patterns, as often as a part is drawn in one.
MOST_TILE_TEXELS = 50_000_000
PATTERN_NAME = "pattern"
UNDER_TILES = "#ffffff"
# Selectors times elements.
MOST_MATCHES = 2_000_000
DEEPEST = 48
# A viewport without a size of its own (CSS 2.2, 10.3.2).
USUAL_SIZE = (300.0, 150.0)
_SILENT = {
    "defs",
    "symbol",
    "title",
    "desc",
    "metadata",
    "style",
    "linearGradient",
    "radialGradient",
    "pattern",
    "clipPath",
    "mask",
    "filter",
    "marker",
    "view",
}
_NAMES = {
    "text": "text (turn it into paths first)",
    "image": "a picture",
    "foreignObject": "foreign content",
    "script": "a script",
    "audio": "sound",
    "video": "a film",
    "animate": "animation",
    "animateTransform": "animation",
    "animateMotion": "animation",
    "set": "animation",
}


def read_svg(data: bytes, ppi: float = 96.0) -> ReadMark:
    """Read a file for a canvas of `ppi`. Sizes in mm, in or pt keep their true size on it. Raises
    LetteringError."""
    if len(data) > LARGEST_SVG_BYTES:
        raise LetteringError(
            "file", f"the drawing is over {LARGEST_SVG_BYTES // 10**6} MB; simplify it first"
        )
    try:
        root = fromstring(data)
    except DefusedXmlException:
        raise LetteringError(
            "file", "the drawing defines entities or refers to other files; save it as plain SVG"
        ) from None
    except (ParseError, ValueError, LookupError) as fault:
        raise LetteringError("file", f"this is no SVG drawing ({fault}); take an .svg file") from None
    if tag_of(root) != "svg":
        raise LetteringError("file", "this is no SVG drawing; take an .svg file")
    if sum(1 for _ in itertools.islice(root.iter(), MOST_ELEMENTS + 1)) > MOST_ELEMENTS:
        raise LetteringError("file", f"the drawing has over {MOST_ELEMENTS} elements; simplify it first")
    reader = _Reader(root)
    parts = reader.parts(ppi)
    if not parts:
        more = f"; it holds {', '.join(reader.left_out)}" if reader.left_out else ""
        raise LetteringError("file", f"the drawing has no areas or lines{more}")
    return replace(centred(parts, tuple(reader.left_out)), pictures=reader.pictures)


@dataclass(frozen=True)
class _Here:
    """Where the reader is: the style of the element around, its matrix, the viewport's size, how
    deep it is and how opaque."""

    style: Style
    matrix: Transform
    width: float
    height: float
    depth: int = 0
    opacity: float = 1.0
    # The ids of the elements whose copies are being made.
    copied: tuple[str, ...] = ()
    clips: tuple[Clip, ...] = ()


class _Reader:
    def __init__(self, root: Element):
        self.left_out: dict[str, None] = {}
        # Tiles of patterns, by name.
        self.pictures: dict[str, bytes] = {}
        self._tile_texels_left = MOST_TILE_TEXELS
        self._root = cssselect2.ElementWrapper.from_xml_root(root)
        self._named = {element.get("id"): element for element in root.iter() if element.get("id")}
        sheets = ["".join(element.itertext()) for element in root.iter() if tag_of(element) == "style"]
        self._rules = Rules(sheets, self._leave_out)
        # Elements still to be looked at, each as often as it is copied, and style rules to be tried on them.
        self._elements_left, self._matches_left = MOST_ELEMENTS, MOST_MATCHES
        self._clip_characters_left = LONGEST_CLIPS
        self._wrapped = {wrapper.etree_element: wrapper for wrapper in self._root.iter_subtree()}

    def _leave_out(self, what: str) -> None:
        if len(self.left_out) < 99:
            self.left_out[what[:120]] = None

    def parts(self, ppi: float) -> list[MarkPart]:
        root = self._root.etree_element
        box = root.get("viewBox")
        wide, high = USUAL_SIZE
        try:
            if box and len(numbers_of(box)) == 4:
                wide, high = numbers_of(box)[2:]
            # One side alone gives the other by the ratio of the viewBox.
            width = length_of(root.get("width"), wide, 0.0)
            height = length_of(root.get("height"), high, width * high / wide if width and wide > 0 else high)
            width = width or (height * wide / high if high else 0.0)
            physical = (
                unit_of(root.get("width")) in PHYSICAL_UNITS or unit_of(root.get("height")) in PHYSICAL_UNITS
            )
            outer = Identity.scale(ppi / 96.0) if physical else Identity
            fit = fit_of(box, root.get("preserveAspectRatio"), width, height) if box else Identity
        except ValueError as fault:
            raise LetteringError("file", f"the drawing's size cannot be read: {fault}") from None
        if width <= 0 or height <= 0:
            raise LetteringError("file", "the drawing has no size; give its svg element a width and a height")
        inner = numbers_of(box)[2:] if box else (width, height)
        here = _Here({**INITIAL, **OWN}, outer.transform(fit), inner[0], inner[1])
        style = self._rules.style(self._root, here.style)
        found = (
            list(itertools.islice(self._inside(root, replace(here, style=style)), MOST_PARTS + 1))
            if style["display"] != "none"
            else []
        )
        if len(found) > MOST_PARTS:
            raise LetteringError(
                "file", f"the drawing has over {MOST_PARTS} parts; join paths of one colour first"
            )
        return found

    def _inside(self, element: Element, here: _Here) -> Iterator[MarkPart]:
        if here.depth > DEEPEST:
            raise LetteringError("file", f"the drawing is nested over {DEEPEST} deep; ungroup it first")
        for child in element:
            yield from self._element(child, replace(here, depth=here.depth + 1))

    def _spend(self) -> None:
        self._elements_left -= 1
        self._matches_left -= self._rules.count
        if self._elements_left < 0:
            raise LetteringError(
                "file",
                f"the drawing has over {MOST_ELEMENTS} elements, those of copies with them; "
                "simplify it first",
            )
        if self._matches_left < 0:
            raise LetteringError(
                "file",
                "the drawing has too many style rules for its elements; save it with presentation attributes",
            )

    def _element(self, element: Element, here: _Here) -> Iterator[MarkPart]:
        self._spend()
        tag = tag_of(element)
        if tag in _NAMES:
            self._leave_out(_NAMES[tag])
        if tag not in (*SHAPES, "g", "a", "svg", "use", "switch"):
            if tag and tag not in _SILENT and tag not in _NAMES:
                self._leave_out(f"<{tag}>")
            return
        style = self._rules.style(self._wrapped[element], here.style)
        if style["display"] == "none":
            return
        try:
            opacity = here.opacity * share_of(style["opacity"])
            matrix = here.matrix.transform(transform_of(style["transform"]))
        except ValueError as fault:
            self._leave_out(f"a part: {fault}")
            return
        self._look_at(style, opacity)
        here = self._clipped(replace(here, style=style, matrix=matrix, opacity=opacity))
        if tag in SHAPES:
            yield from self._shape(tag, element, here)
        elif tag == "use":
            yield from self._copy(element, here)
        elif tag == "switch":
            chosen = next(
                (
                    child
                    for child in element
                    if tag_of(child) and not (child.get("systemLanguage") or child.get("requiredExtensions"))
                ),
                None,
            )
            if chosen is not None:
                yield from self._element(chosen, here)
        elif tag == "svg":
            yield from self._viewport(element, here, element.get("width"), element.get("height"))
        else:
            yield from self._inside(element, here)

    def _clipped(self, here: _Here) -> _Here:
        """Where the reader is, cut to the clip path that the element there asks for."""
        asked = here.style["clip-path"]
        if asked in ("none", ""):
            return here
        drawing = Drawing(self._named, self._style_in_clip, self._clip_characters_left)
        try:
            if len(here.clips) >= MOST_CLIPS:
                raise ClipError(f"clipping over {MOST_CLIPS} deep")
            clip = clip_of(asked, drawing, here.matrix, (here.width, here.height), {**INITIAL, **OWN})
        except ClipError as fault:
            self._leave_out(str(fault))
            return here
        return replace(here, clips=(*here.clips, clip))

    def _style_in_clip(self, element: Element, parent: Style) -> Style:
        self._spend()
        return self._rules.style(self._wrapped[element], parent)

    def _look_at(self, style: Style, opacity: float) -> None:
        """List what a style asks for that is not supported."""
        if 0.0 < opacity < 1.0:
            self._leave_out("transparency")
        asked = {
            "mask": "masks",
            "filter": "filters",
            "marker-start": "markers",
            "marker-mid": "markers",
            "marker-end": "markers",
        }
        for name, what in asked.items():
            if style[name] not in ("none", ""):
                self._leave_out(what)
        if style["mix-blend-mode"] not in ("normal", ""):
            self._leave_out("blend modes")
        if style["vector-effect"] not in ("none", ""):
            self._leave_out("lines whose width does not scale")
        if style["transform-origin"] not in ("", "0 0", "0px 0px") and style["transform"]:
            self._leave_out("the origin of a transform")

    def _viewport(
        self, element: Element, here: _Here, wide: str | None, high: str | None
    ) -> Iterator[MarkPart]:
        """What stands inside an inner svg element or a used symbol."""
        try:
            width, height = length_of(wide, here.width, here.width), length_of(high, here.height, here.height)
            x, y = length_of(element.get("x"), here.width), length_of(element.get("y"), here.height)
            box = element.get("viewBox")
            matrix = here.matrix.translate(x, y)
            if box:
                matrix = matrix.transform(fit_of(box, element.get("preserveAspectRatio"), width, height))
                width, height = numbers_of(box)[2:]
        except ValueError as fault:
            self._leave_out(f"an inner drawing: {fault}")
            return
        yield from self._inside(element, replace(here, matrix=matrix, width=width, height=height))

    def _copy(self, element: Element, here: _Here) -> Iterator[MarkPart]:
        name = linked_id(element)
        target = self._named.get(name)
        if target is None:
            self._leave_out("a copy of what is not in the file")
            return
        if name in here.copied or len(here.copied) > DEEPEST:
            self._leave_out("a copy of itself")
            return
        try:
            x, y = length_of(element.get("x"), here.width), length_of(element.get("y"), here.height)
        except ValueError as fault:
            self._leave_out(f"a copy: {fault}")
            return
        inside = replace(
            here, matrix=here.matrix.translate(x, y), copied=(*here.copied, name), depth=here.depth + 1
        )
        if tag_of(target) in ("symbol", "svg"):
            style = self._rules.style(self._wrapped[target], inside.style)
            wide, high = (
                element.get("width") or target.get("width"),
                element.get("height") or target.get("height"),
            )
            yield from self._viewport(target, replace(inside, style=style), wide, high)
        else:
            yield from self._element(target, inside)

    def _shape(self, tag: str, element: Element, here: _Here) -> Iterator[MarkPart]:
        style = here.style
        name = (element.get("id") or tag)[:80]
        if style["visibility"] != "visible" or here.opacity == 0.0:
            return
        try:
            path = path_of(tag, element.attrib, here.width, here.height)
            if path is None:
                return
            if len(path) > LONGEST_PATH:
                raise ValueError(f"its path data is over {LONGEST_PATH} characters")
            path_contours(path, 1.0)
        except ValueError as fault:
            self._leave_out(f"{name}: {fault}")
            return
        filled = None if tag == "line" else self._fill(name, path, here)
        drawn = self._line(name, path, here)
        order = [drawn, filled] if style["paint-order"].split()[0] == "stroke" else [filled, drawn]
        yield from (part for part in order if part is not None)

    def _fill(self, name: str, path: str, here: _Here) -> MarkPart | None:
        paint = self._paint(name, here.style["fill"], here.style["fill-opacity"], here.style["color"])
        if paint is None:
            return None
        rule = "evenodd" if here.style["fill-rule"] == "evenodd" else "nonzero"
        try:
            return self._part(
                paint, MarkPart(name=name, path=path, rule=rule, matrix=tuple(here.matrix)), here
            )
        except ValidationError:
            self._leave_out(f"{name}: its transforms take it out of all bounds")
            return None

    def _line(self, name: str, path: str, here: _Here) -> MarkPart | None:
        style = here.style
        paint = self._paint(name, style["stroke"], style["stroke-opacity"], style["color"])
        if paint is None:
            return None
        whole = diagonal(here.width, here.height)
        try:
            width = length_of(style["stroke-width"], whole)
            dashes = (
                []
                if style["stroke-dasharray"] == "none"
                else [length_of(v, whole) for v in style["stroke-dasharray"].replace(",", " ").split()]
            )
            if width <= 0:
                return None
            join = style["stroke-linejoin"]
            if join not in ("miter", "round", "bevel"):
                self._leave_out(f"{join} joins")
                join = "miter"
            line = LineStyle(
                width=width,
                cap=style["stroke-linecap"],
                join=join,
                miter_limit=float(style["stroke-miterlimit"]),
                dashes=tuple(dashes) if sum(dashes) > 0 and min(dashes) >= 0 else (),
                dash_offset=length_of(style["stroke-dashoffset"], whole),
            )
            part = MarkPart(name=f"line of {name}"[:80], path=path, line=line, matrix=tuple(here.matrix))
            return self._part(paint, part, here)
        except (ValueError, ValidationError):
            self._leave_out(f"the line of {name}: its style cannot be read")
            return None

    def _paint(self, name: str, text: str, opacity: str, current: str) -> Paint | None:
        try:
            paint = paint_of(text, current)
            share = share_of(opacity) * (paint.opacity if paint else 1.0)
        except ValueError as fault:
            self._leave_out(f"{name}: {fault}")
            return None
        if paint is None or share == 0.0:
            return None
        if share < 1.0:
            self._leave_out("transparency")
        if paint.server and not self._server_of(paint):
            self._leave_out("a paint that is not in the file")
            return paint if paint.colour else None
        return paint

    def _server_of(self, paint: Paint) -> str:
        """The tag of the gradient or pattern that a paint refers to; empty where it refers to none."""
        server = self._named.get(paint.server)
        tag = tag_of(server) if server is not None else ""
        return tag if tag.endswith("Gradient") or tag == "pattern" else ""

    def _part(self, paint: Paint, part: MarkPart, here: _Here) -> MarkPart:
        """A part made of what it is painted with, cut to its clips."""
        self._clip_characters_left -= sum(len(shape.path) for clip in here.clips for shape in clip)
        clips = here.clips
        if self._clip_characters_left < 0:
            self._leave_out("clipping by paths that are too long")
            clips = ()
        part = part.model_copy(update={"clips": clips})
        colour: str | Layered = paint.colour
        kind = self._server_of(paint)
        if kind:
            server = self._named[paint.server]
            try:
                if kind == "pattern":
                    layer: Gradient | Picture = self._pattern(server, part, here)
                    # What shows where the tile is clear.
                    colour = colour or UNDER_TILES
                else:
                    colour = first_colour(server, self._named) or "#000000"
                    layer = self._gradient(server, part, here)
                colour = Layered(base=colour, layers=(layer,))
            except ValueError as fault:
                self._leave_out(f"a {'gradient' if kind.endswith('Gradient') else kind} ({fault!s:.60})")
        return part.model_copy(update={"material": _material(colour)})

    def _gradient(self, server: Element, part: MarkPart, here: _Here) -> Gradient:
        drawn, box = self._boxes(part)
        gradient = gradient_of(
            server,
            self._named,
            drawn=drawn,
            viewport=(here.width, here.height),
            matrix=Transform(*part.matrix),
            box=box,
            leave_out=self._leave_out,
        )
        if any(stop.opacity < 100 for stop in gradient.stops):
            self._leave_out("transparency")
        return gradient

    def _pattern(self, server: Element, part: MarkPart, here: _Here) -> Picture:
        name = server.get("id", "")
        if name in here.copied:
            raise PatternError("it is a pattern of itself")
        drawn, box = self._boxes(part)
        viewport, matrix = (here.width, here.height), Transform(*part.matrix)
        tile = tile_of(server, self._named, drawn=drawn, viewport=viewport, matrix=matrix)
        inside = _Here(
            self._rules.style(self._wrapped[tile.element], {**INITIAL, **OWN}),
            tile.contents,
            *tile.viewport,
            depth=here.depth + 1,
            copied=(*here.copied, name),
        )
        parts = list(itertools.islice(self._inside(tile.element, inside), MOST_PARTS + 1))
        self._tile_texels_left -= len(parts) * tile.width * tile.height
        if len(parts) > MOST_PARTS or self._tile_texels_left < 0:
            raise PatternError("its tile has too many parts")
        png, is_clear = drawn_tile(tile, parts)
        if any(isinstance(getattr(inner.material, "colour", ""), Layered) for inner in parts):
            self._leave_out("gradients and patterns within patterns")
        if is_clear:
            self._leave_out("transparency")
        picture = f"{PATTERN_NAME}-{hashlib.sha256(png).hexdigest()[:20]}"
        self.pictures[picture] = png
        return laid(tile, picture, box)

    def _boxes(self, part: MarkPart) -> tuple[Box, Box]:
        """(the box (left, top, right, bottom) of a part's path in its own units, y down; that (left, bottom,
        right, top) of the part in px of the mark, y up). Raises ValueError."""
        drawn = part_outline(part, 1.0)
        if drawn is None:
            raise ValueError("its part encloses nothing")
        box = np.concatenate([ring for ring in drawn[0].rings]) * drawn[1]
        points = np.concatenate([contour for contour, _ in path_contours(part.path, 1.0)])
        return (*points.min(axis=0), *points.max(axis=0)), (*box.min(axis=0), *box.max(axis=0))


def _material(colour: str | Layered) -> Plastic | None:
    return Plastic(colour=colour) if colour else None
