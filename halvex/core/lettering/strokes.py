"""Drawn strokes: points with handles become smooth lines, and lines of a width become outlines."""

import itertools
import math

import numpy as np
import shapely
from numpy.typing import NDArray

from halvex.core.lettering.flattening import GREATEST_FACET_TURN_DEG
from halvex.core.lettering.lines import check_crossings, evened, spaced
from halvex.core.lettering.outlines import Outline, outline_of, rings_of
from halvex.core.lettering.typefaces import LetteringError
from halvex.core.piece.block import Stroke, Strokes
from halvex.core.piece.form import RunPoint

Array = NDArray[np.float64]
Line = tuple[Array, bool]

# Points along a line are this far apart, in px of the picture; further where a line, or the lines of a
# block, would have too many.
SPACING_PX = 2.0
MOST_LINE_POINTS = 4000
MOST_BLOCK_POINTS = 6000
FEWEST_LINE_POINTS = 4
MOST_PASSES = 2000
RUN_POINTS = 8
# What a line may be moved by: far less than a px, and of one many thousand px long a hundred-thousandth.
UNSEEN_PX, UNSEEN_SHARE = 0.05, 1e-5


def stroke_lines(strokes: tuple[Stroke, ...], px_scale: float) -> tuple[Line, ...]:
    """The strokes of a block as points (n, 2) in px, evenly spaced, and whether they are closed (their first
    point then not repeated). Together they have about MOST_BLOCK_POINTS at most."""
    drawn = [_drawn(stroke) for stroke in strokes]
    counts = [_points_of(line, px_scale) for line in drawn]
    share = min(1.0, MOST_BLOCK_POINTS / sum(counts))
    return tuple(
        _evenly(stroke, line, max(round(count * share), FEWEST_LINE_POINTS))
        for stroke, line, count in zip(strokes, drawn, counts, strict=True)
    )


def stroke_line(stroke: Stroke, px_scale: float) -> Line:
    """A single stroke, as `stroke_lines` gives it."""
    (line,) = stroke_lines((stroke,), px_scale)
    return line


def _drawn(stroke: Stroke) -> Array:
    points = list(stroke.points) + ([stroke.points[0]] if stroke.closed else [])
    pieces = []
    for a, b in itertools.pairwise(points):
        p0, p3 = np.array([a.x, a.y]), np.array([b.x, b.y])
        p1, p2 = p0 + (a.out_x, a.out_y), p3 + (b.in_x, b.in_y)
        t = np.linspace(0.0, 1.0, 33)[:-1, None]
        pieces.append((1 - t) ** 3 * p0 + 3 * (1 - t) ** 2 * t * p1 + 3 * (1 - t) * t**2 * p2 + t**3 * p3)
    return np.vstack([*pieces, np.array([[points[-1].x, points[-1].y]])])


def _length(line: Array) -> float:
    return float(np.hypot(*np.diff(line, axis=0).T).sum())


def _points_of(line: Array, px_scale: float) -> int:
    return int(
        min(max(math.ceil(_length(line) * px_scale / SPACING_PX), FEWEST_LINE_POINTS), MOST_LINE_POINTS)
    )


def _evenly(stroke: Stroke, line: Array, count: int) -> Line:
    even, _ = spaced(line, count + 1)
    if stroke.closed:
        even = even[:-1]
    spacing = max(_length(line) / count, 1e-9)
    return evened(
        even, deviation=stroke.smoothing / spacing, closed=stroke.closed, most=MOST_PASSES
    ), stroke.closed


def run_along(drawn: Strokes, depth: float) -> tuple[RunPoint, ...]:
    """The points of a run that goes sideways as the first drawn stroke does from its start, and
    evenly back by `depth` px."""
    line, closed = stroke_line(drawn.strokes[0], 1.0)
    line = np.vstack([line, line[:1]]) if closed else line
    even, _ = spaced(line, RUN_POINTS + 1)
    sideways = np.round(even - even[0], 1)[1:]
    back = -depth * np.arange(1, RUN_POINTS + 1) / RUN_POINTS
    return tuple(
        RunPoint(x=x, y=y, z=round(z, 1)) for (x, y), z in zip(sideways.tolist(), back.tolist(), strict=True)
    )


def strokes_outline(lines: tuple[Line, ...], width: float) -> tuple[Outline, float]:
    """Lines `width` px wide, with round joins and ends, as one outline about the block's place, and
    its px per em. Raises LetteringError for lines that cross too often."""
    try:
        check_crossings(lines)
    except ValueError as fault:
        raise LetteringError("strokes", f"the drawn line: {fault}") from None
    size = max(max(float(np.abs(points).max()) for points, _ in lines) * 2.0, width, 1.0)
    facets = math.ceil(90.0 / GREATEST_FACET_TURN_DEG)
    shapes = [
        (shapely.linearrings if closed else shapely.linestrings)(points / size) for points, closed in lines
    ]
    area = shapely.union_all([shapely.buffer(shape, width / size / 2, quad_segs=facets) for shape in shapes])
    # Vertices of the drawn line that show nowhere would only slow the roof down.
    rings = rings_of(shapely.simplify(area, max(UNSEEN_PX / size, UNSEEN_SHARE)))
    return outline_of(rings, "the stroke"), size
