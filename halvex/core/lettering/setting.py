"""Setting: a block becomes placed outlines on the canvas, whether of words, of a shape, of drawn
strokes or of a mark.

Set words stand with the middle of their ink on the block's place, so that turning and changing
the words keep the lettering where it was put. Words along a curve stand where the curve was drawn.
"""

from dataclasses import dataclass, replace
from functools import cached_property

from halvex.core.assets import SHIPPED, Assets, Typeface
from halvex.core.lettering.marks import part_outline
from halvex.core.lettering.outlines import GEOMETRY_FAULTS, Points, flattening_tolerance
from halvex.core.lettering.placed import Box, PlacedOutline, union
from halvex.core.lettering.shapes import shape_outline
from halvex.core.lettering.strokes import stroke_lines, strokes_outline
from halvex.core.lettering.typefaces import LetteringError
from halvex.core.lettering.words import set_words
from halvex.core.memory import kept
from halvex.core.piece.block import Block, Shape, Strokes
from halvex.core.piece.lettering import Lettering
from halvex.core.piece.mark import LARGEST_MARK_PX, Mark
from halvex.core.stopping import stop_if_overtaken


@dataclass(frozen=True, eq=False)
class SetBlock:
    """A set block, the same as another only if it is that one: its letters, and the box of their
    ink (left, bottom, right, top) in px about the place.

    `lines` are drawn centre lines: points (n, 2) in px about the place, and whether each is closed.
    """

    letters: tuple[PlacedOutline, ...]
    box: Box
    lines: tuple[tuple[Points, bool], ...] = ()

    @cached_property
    def letter_boxes(self) -> dict[int, Box]:
        """The box of each letter's ink, its accents with it, by the number of its character."""
        boxes: dict[int, list[Box]] = {}
        for letter in self.letters:
            boxes.setdefault(letter.letter, []).append(letter.box)
        return {letter: union(found) for letter, found in boxes.items()}


# The field that a block is set from, and what it is called.
FIELDS: dict[type[Block], tuple[str, str]] = {
    Lettering: ("words", "the lettering"),
    Shape: ("shape", "the shape"),
    Strokes: ("strokes", "the drawn line"),
    Mark: ("parts", "the mark"),
}
# What a block has besides what it is set from.
_BESIDES = {"id", "hidden", "guide", "locked", "group", "place", "form", "surface"}


def typeface_set_in(block: Block, assets: Assets) -> Typeface | None:
    """The typeface that a block of lettering names, if there is one of that name."""
    return assets.typefaces.get(block.typeface) if isinstance(block, Lettering) else None


class _Asked:
    """A block to be set, the same as another where all that it is set from is."""

    def __init__(self, block: Block, px_scale: float, assets: Assets):
        self.block, self.px_scale, self.assets = block, px_scale, assets
        typeface = typeface_set_in(block, assets)
        self.key = (type(block), block.model_dump_json(exclude=_BESIDES), px_scale, typeface)

    def __hash__(self) -> int:
        return hash(self.key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Asked) and other.key == self.key


def set_block(block: Block, *, px_scale: float = 1.0, assets: Assets = SHIPPED) -> SetBlock:
    """Set a block; kept, so that a moved block is not set anew. Raises LetteringError where there
    is nothing to set."""
    return _set(_Asked(block, px_scale, assets))


@kept
def _set(asked: _Asked) -> SetBlock:
    try:
        return _newly_set(asked.block, asked.px_scale, asked.assets)
    except LetteringError:
        raise
    except GEOMETRY_FAULTS as fault:
        field, what = FIELDS[type(asked.block)]
        raise LetteringError(
            field, f"{what} cannot be set ({type(fault).__name__}); change its size or its points"
        ) from fault


def _newly_set(block: Block, px_scale: float, assets: Assets) -> SetBlock:
    if isinstance(block, Shape):
        size = max(block.width, block.height)
        outline = shape_outline(block, flattening_tolerance(size, px_scale))
        half_w, half_h = block.width / 2, block.height / 2
        return SetBlock((PlacedOutline(outline, size, 0.0, 0.0),), (-half_w, -half_h, half_w, half_h))
    if isinstance(block, Strokes):
        return _set_strokes(block, px_scale)
    if isinstance(block, Mark):
        return _set_mark(block, px_scale)
    assert isinstance(block, Lettering)
    letters = set_words(block, px_scale, assets)
    return _boxed(letters) if block.along.kind == "curve" else _centred(letters)


def _set_strokes(block: Strokes, px_scale: float) -> SetBlock:
    lines = stroke_lines(block.strokes, px_scale)
    outline, size = strokes_outline(lines, block.width)
    return replace(_boxed([PlacedOutline(outline, size, 0.0, 0.0)]), lines=lines)


def _set_mark(block: Mark, px_scale: float) -> SetBlock:
    scale = block.scale / 100
    parts = []
    for number, part in enumerate(block.parts):
        stop_if_overtaken()
        drawn = None if part.hidden else part_outline(part, scale * px_scale)
        if drawn is not None:
            outline, size = drawn
            if size * scale > LARGEST_MARK_PX:
                raise LetteringError(
                    "scale",
                    f"{part.name or 'a part'} would be {size * scale:.3g} px large; make the mark smaller",
                )
            parts.append(
                PlacedOutline(outline, size * scale, 0.0, 0.0, number, part.material, part.depth, part.lift)
            )
    if not parts:
        raise LetteringError("parts", "no part of the mark is shown; show one of them")
    return _boxed(parts)


def _boxed(letters: list[PlacedOutline]) -> SetBlock:
    return SetBlock(tuple(letters), union([letter.box for letter in letters]))


def _centred(letters: list[PlacedOutline]) -> SetBlock:
    left, bottom, right, top = _boxed(letters).box
    cx, cy = (left + right) / 2, (bottom + top) / 2
    moved = tuple(replace(letter, x=letter.x - cx, y=letter.y - cy) for letter in letters)
    return SetBlock(moved, (left - cx, bottom - cy, right - cx, top - cy))
