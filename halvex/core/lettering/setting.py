"""Setting: a block becomes placed outlines on the canvas, whether of words, of a shape or of drawn strokes.

Set words stand with the middle of their ink on the block's place, so that turning and changing
the words keep the lettering where it was put.
"""

from dataclasses import dataclass

import numpy as np

from halvex.core.lettering.outlines import Outline, Points, flattening_tolerance, glyph_outline
from halvex.core.lettering.shapes import shape_outline
from halvex.core.lettering.shaping import shape_line
from halvex.core.lettering.strokes import stroke_line, strokes_outline
from halvex.core.lettering.typefaces import LetteringError, font_files
from halvex.core.piece.model import Block, Lettering, Shape, Strokes


@dataclass(frozen=True)
class PlacedOutline:
    """An outline in em, the size it is set at (px per em) and its origin in px from the block's place."""

    outline: Outline
    size: float
    x: float
    y: float


@dataclass(frozen=True)
class SetBlock:
    """A set block: its letters, and the box of their ink (left, bottom, right, top) in px about the place.

    `lines` are drawn centre lines: points (n, 2) in px about the place, and whether each is closed.
    """

    letters: tuple[PlacedOutline, ...]
    box: tuple[float, float, float, float]
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
    letters = []
    for number, words in enumerate(block.words.split("\n")):
        line = shape_line(words, typeface=block.typeface, axes=dict(axes), tracking=block.tracking / 1000)
        for glyph in line.glyphs:
            outline = glyph_outline(glyph.file, glyph.gid, axes, tolerance, words[glyph.cluster])
            if outline.rings:
                x = (glyph.x - shift * line.advance) * block.size
                letters.append(PlacedOutline(outline, block.size, x, glyph.y * block.size - number * line_height))
    if not letters:
        raise LetteringError("words", "these words have no ink in this typeface; type at least one letter")
    return _centred(letters)


def _centred(letters: list[PlacedOutline]) -> SetBlock:
    corners = np.array(
        [
            [
                *(np.min([ring.min(axis=0) for ring in letter.outline.rings], axis=0) * letter.size + (letter.x, letter.y)),
                *(np.max([ring.max(axis=0) for ring in letter.outline.rings], axis=0) * letter.size + (letter.x, letter.y)),
            ]
            for letter in letters
        ]
    )
    left, bottom = corners[:, 0].min(), corners[:, 1].min()
    right, top = corners[:, 2].max(), corners[:, 3].max()
    cx, cy = (left + right) / 2, (bottom + top) / 2
    moved = tuple(PlacedOutline(letter.outline, letter.size, letter.x - cx, letter.y - cy) for letter in letters)
    return SetBlock(moved, (float(left - cx), float(bottom - cy), float(right - cx), float(top - cy)))
