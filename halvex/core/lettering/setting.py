"""Setting: a block becomes placed outlines on the canvas, whether of words, of a shape or of drawn strokes.

Set words stand with the middle of their ink on the block's place, so that turning and changing
the words keep the lettering where it was put.
"""

import cmath
import math
from dataclasses import dataclass, replace

import numpy as np

from halvex.core.lettering.outlines import Outline, Points, flattening_tolerance, glyph_outline, turned
from halvex.core.lettering.shapes import shape_outline
from halvex.core.lettering.shaping import Glyph, Line, shape_line
from halvex.core.lettering.strokes import stroke_line, strokes_outline
from halvex.core.lettering.typefaces import LetteringError, font_files
from halvex.core.piece.model import Block, Lettering, LetterSetting, Shape, Strokes

PLAIN = LetterSetting()
Box = tuple[float, float, float, float]


@dataclass(frozen=True)
class PlacedOutline:
    """An outline in em, the size it is set at (px per em) and its origin in px from the block's place.

    `letter` is the number of its character in the words, -1 where there are none.
    """

    outline: Outline
    size: float
    x: float
    y: float
    letter: int = -1

    @property
    def box(self) -> Box:
        """left, bottom, right, top in px from the block's place."""
        points = np.vstack(self.outline.rings) * self.size + (self.x, self.y)
        (left, bottom), (right, top) = points.min(axis=0).tolist(), points.max(axis=0).tolist()
        return left, bottom, right, top


@dataclass(frozen=True)
class SetBlock:
    """A set block: its letters, and the box of their ink (left, bottom, right, top) in px about the place.

    `lines` are drawn centre lines: points (n, 2) in px about the place, and whether each is closed.
    """

    letters: tuple[PlacedOutline, ...]
    box: Box
    lines: tuple[tuple[Points, bool], ...] = ()


def set_block(block: Block, *, px_scale: float = 1.0) -> SetBlock:
    """Set a block. Raises LetteringError where there is nothing to set."""
    if isinstance(block, Shape):
        size = max(block.width, block.height)
        outline = shape_outline(block, flattening_tolerance(size, px_scale))
        half_w, half_h = block.width / 2, block.height / 2
        return SetBlock((PlacedOutline(outline, size, 0.0, 0.0),), (-half_w, -half_h, half_w, half_h))
    if isinstance(block, Strokes):
        return _set_strokes(block, px_scale)
    assert isinstance(block, Lettering)
    return _set_words(block, px_scale)


def _set_strokes(block: Strokes, px_scale: float) -> SetBlock:
    lines = tuple(stroke_line(stroke, px_scale) for stroke in block.strokes)
    outline, size = strokes_outline(lines, block.width)
    corners = np.vstack(outline.rings) * size
    low, high = corners.min(axis=0).tolist(), corners.max(axis=0).tolist()
    return SetBlock((PlacedOutline(outline, size, 0.0, 0.0),), (low[0], low[1], high[0], high[1]), lines)


def _set_words(block: Lettering, px_scale: float) -> SetBlock:
    if not block.words.strip():
        raise LetteringError("words", "there are no words to set; type at least one letter")
    axes = tuple(sorted(block.axes.items()))
    metrics = font_files(block.typeface)[0].metrics
    line_height = (metrics.ascender - metrics.descender + metrics.line_gap) * block.leading * block.size
    tolerance = flattening_tolerance(block.size, px_scale)
    shift = {"left": 0.0, "centre": 0.5, "right": 1.0}[block.align]
    letters: list[PlacedOutline] = []
    start = 0
    for number, words in enumerate(block.words.split("\n")):
        line = shape_line(words, typeface=block.typeface, axes=dict(axes), tracking=block.tracking / 1000, features=block.features, language=block.language)
        marks, advance = _spaced(line, block.letters, start)
        for mark in marks:
            glyph = mark.glyph
            outline = glyph_outline(glyph.file, glyph.gid, axes, tolerance, words[glyph.cluster])
            if outline.rings:
                x, y = (mark.x - shift * advance) * block.size, mark.y * block.size - number * line_height
                letters.append(PlacedOutline(outline, block.size * mark.scale, x, y, mark.letter))
        start += len(words) + 1
    letters = _turned_letters(letters, block.letters)
    if not letters:
        raise LetteringError("words", "these words have no ink in this typeface; type at least one letter")
    return _centred(letters)


@dataclass(frozen=True)
class _Mark:
    """A glyph of a line whose letters have sizes of their own: its scale and its origin in em from the line's start."""

    glyph: Glyph
    letter: int
    scale: float
    x: float
    y: float


def _spaced(line: Line, settings: dict[int, LetterSetting], start: int) -> tuple[list[_Mark], float]:
    """The glyphs of a line, kerned, sized and shifted one by one, and the advance of all in em; `start` is its first character's number.

    Glyphs of one letter (a base and its accents) keep together about the letter's own origin.
    """
    marks: list[_Mark] = []
    added, before, origin = 0.0, -1, 0.0
    for glyph in line.glyphs:
        letter = start + glyph.cluster
        setting = settings.get(letter, PLAIN)
        scale = setting.size / 100
        if letter != before:
            if before >= 0:
                # Right-to-left words run against the glyphs: the pair belongs to the letter that is read first.
                added += settings.get(min(before, letter), PLAIN).kern / 1000
            origin, before = glyph.x, letter
        marks.append(_Mark(glyph, letter, scale, origin + added + (glyph.x - origin) * scale, glyph.y * scale + setting.shift / 1000))
        if glyph is line.glyphs[-1] or start + line.glyphs[len(marks)].cluster != letter:
            wide = sum(mark.glyph.advance for mark in marks if mark.letter == letter)
            added += wide * (scale - 1.0)
    return marks, line.advance + added


def _turned_letters(letters: list[PlacedOutline], settings: dict[int, LetterSetting]) -> list[PlacedOutline]:
    """Letters that are turned, each about the middle of its ink."""
    middles: dict[int, tuple[float, float]] = {}
    for at, setting in settings.items():
        boxes = [letter.box for letter in letters if letter.letter == at]
        if setting.turn and boxes:
            left, bottom, right, top = np.array(boxes).T
            middles[at] = float(left.min() + right.max()) / 2, float(bottom.min() + top.max()) / 2
    return [_turned_about(letter, settings[letter.letter].turn, *middles[letter.letter]) if letter.letter in middles else letter for letter in letters]


def _turned_about(letter: PlacedOutline, degrees: float, x: float, y: float) -> PlacedOutline:
    origin = complex(x, y) + complex(letter.x - x, letter.y - y) * cmath.exp(1j * math.radians(degrees))
    return replace(letter, outline=turned(letter.outline, degrees), x=origin.real, y=origin.imag)


def _centred(letters: list[PlacedOutline]) -> SetBlock:
    lefts, bottoms, rights, tops = np.array([letter.box for letter in letters]).T
    left, bottom, right, top = lefts.min(), bottoms.min(), rights.max(), tops.max()
    cx, cy = (left + right) / 2, (bottom + top) / 2
    moved = tuple(replace(letter, x=letter.x - cx, y=letter.y - cy) for letter in letters)
    return SetBlock(moved, (float(left - cx), float(bottom - cy), float(right - cx), float(top - cy)))
