"""Heaviness: how wide a typeface's stems are against the height of its capitals, measured on its
own letters."""

import numpy as np
import shapely

from halvex.core.assets import Typeface
from halvex.core.lettering.outlines import glyph_outline, polygon_of
from halvex.core.lettering.typefaces import opened
from halvex.core.memory import kept

# Upright stems stand alone in these; the first that the typeface has is measured,
# at levels clear of serifs, waists and the gaps of stencils as a rule: the median of them counts.
STEMMED = "lIiHn"
LEVELS = (0.25, 0.35, 0.42, 0.58, 0.65)
CAPITALS = "HIEO"
TOLERANCE_EM = 1e-3


@kept
def heaviness(typeface: Typeface) -> float:
    """Stem to capital height, as drawn at the typeface's default axes; 0 where it has none of the
    letters measured. Raises LetteringError.
    """
    stem = next((width for letter in STEMMED if (width := _stem(typeface, letter))), 0.0)
    height = next((tall for letter in CAPITALS if (tall := _height(typeface, letter))), 0.0)
    return round(stem / height, 3) if height else 0.0


def _area(typeface: Typeface, letter: str) -> shapely.Geometry:
    for file in opened(typeface):
        if ord(letter) in file.coverage:
            return polygon_of(glyph_outline(file, file.glyph(letter), (), TOLERANCE_EM, letter).rings)
    return shapely.Polygon()


def _stem(typeface: Typeface, letter: str) -> float:
    area = _area(typeface, letter)
    if area.is_empty:
        return 0.0
    left, bottom, right, top = area.bounds
    levels = [bottom + (top - bottom) * share for share in LEVELS]
    lines = shapely.linestrings([[(left - 1, level), (right + 1, level)] for level in levels])
    widths = [
        float(shapely.length(shapely.get_parts(cut)).max(initial=0.0))
        for cut in shapely.intersection(area, lines)
    ]
    return float(np.median(widths))


def _height(typeface: Typeface, letter: str) -> float:
    area = _area(typeface, letter)
    return 0.0 if area.is_empty else float(area.bounds[3] - area.bounds[1])
