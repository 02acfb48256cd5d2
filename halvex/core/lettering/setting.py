"""Setting: a lettering block becomes placed outlines on the canvas.

The set words stand with the middle of their ink on the block's place, so that turning and changing
the words keep the lettering where it was put.
"""

from dataclasses import dataclass

import numpy as np

from halvex.core.lettering.outlines import Outline, glyph_outline
from halvex.core.lettering.shaping import shape_line
from halvex.core.lettering.typefaces import LetteringError, font_files
from halvex.core.piece.model import Lettering


@dataclass(frozen=True)
class PlacedOutline:
    """An outline in em, the size it is set at (px per em) and its origin in px from the block's place."""

    outline: Outline
    size: float
    x: float
    y: float


@dataclass(frozen=True)
class SetBlock:
    """A set block: its letters, and the box of their ink (left, bottom, right, top) in px about the place."""

    letters: tuple[PlacedOutline, ...]
    box: tuple[float, float, float, float]


def flattening_tolerance(size: float, px_scale: float = 1.0) -> float:
    """Tolerance in em so that no facet is off by more than 0.05 px of the picture.

    `size` is px of the canvas per em, `px_scale` px of the picture per px of the canvas. Rounded down
    to a power of two, so that a small change of size keeps the cached outlines.
    """
    wanted = min(max(0.05 / max(size * px_scale, 1e-6), 2e-5), 2e-3)
    return float(2.0 ** np.floor(np.log2(wanted)))


def set_block(block: Lettering, *, px_scale: float = 1.0) -> SetBlock:
    """Set the words of a block. Raises LetteringError where there is nothing to set."""
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
            outline = glyph_outline(glyph.file, glyph.gid, axes, tolerance)
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
