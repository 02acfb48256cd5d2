"""Marks: a part of an imported drawing, filled or drawn with a line, becomes an outline.

Lines are widened (widening.py) in the part's own units, before its matrix.
"""

import math

import numpy as np
import shapely
from fontTools.svgLib.path.parser import parse_path
from numpy.typing import NDArray

from halvex.core.lettering.flattening import GREATEST_FACET_TURN_DEG, FlatteningPen
from halvex.core.lettering.flattening import MOST_POINTS as MOST_PATH_POINTS
from halvex.core.lettering.outlines import (
    Outline,
    check_rings,
    coarsened,
    fill_even_odd,
    fill_nonzero,
    flattening_tolerance,
    outline_of,
    polygon_of,
    rings_of,
)
from halvex.core.lettering.typefaces import LetteringError
from halvex.core.lettering.widening import LINE_TURN_DEG, Contour, widened
from halvex.core.memory import kept
from halvex.core.piece.mark import Clip, ClipShape, LineStyle, MarkPart, Matrix
from halvex.core.piece.part import SHORTEST_LENGTH_PX

Array = NDArray[np.float64]
MOST_POINTS = 1000
LEAST_TOLERANCE = 1e-12
_FILLS = {"nonzero": fill_nonzero, "evenodd": fill_even_odd}


def part_outline(part: MarkPart, px_scale: float) -> tuple[Outline, float] | None:
    """The outline of a part about the middle of its mark, and its px per em; None where it has no area.

    `px_scale` is px of the picture per px of the mark. Raises LetteringError for one that is too intricate.
    """
    # To a power of two, so that a small change of size keeps what was made.
    finest = 2.0 ** math.floor(math.log2(max(px_scale, 1e-6)))
    name = part.name or "a part"
    try:
        return _outline(part.path, part.rule, part.line, part.matrix, part.clips, finest, part.name)
    except LetteringError:
        raise
    except shapely.errors.GEOSException:
        raise LetteringError(
            "parts", f"{name} crosses itself too often to be filled; simplify the drawing first"
        ) from None
    except ValueError as fault:
        raise LetteringError("parts", f"{name}: {fault}") from None


@kept
def _outline(
    path: str,
    rule: str,
    line: LineStyle | None,
    matrix: Matrix,
    clips: tuple[Clip, ...],
    px_scale: float,
    name: str,
) -> tuple[Outline, float] | None:
    a, b, c, d, _, _ = matrix
    scale = max(math.hypot(a, b), math.hypot(c, d)) or 1.0
    tolerance = 0.05 / (scale * px_scale)
    if line is not None and line.width * scale < SHORTEST_LENGTH_PX:
        return None
    if line is None:
        contours = [placed(points, matrix) for points, _ in path_contours(path, tolerance) if len(points) > 2]
        size = _size(contours)
        if size < SHORTEST_LENGTH_PX:
            return None
        rings = _FILLS[rule]([contour / size for contour in contours]) if contours else ()
    else:
        area = shapely.transform(
            widened(path_contours(path, tolerance, LINE_TURN_DEG), line),
            lambda points: placed(points, matrix),
        )
        size = _size([shapely.get_coordinates(area)])
        tidy = shapely.transform(shapely.make_valid(area), lambda points: points / size)
        check_rings(tidy)
        rings = (
            rings_of(shapely.simplify(tidy, flattening_tolerance(size, px_scale) / 4))
            if not area.is_empty
            else ()
        )
    rings = _cut(rings, clips, size, px_scale)
    return (outline_of(coarsened(rings, MOST_POINTS), name), size) if rings else None


def _cut(
    rings: tuple[Array, ...], clips: tuple[Clip, ...], size: float, px_scale: float
) -> tuple[Array, ...]:
    """What of rings in shares of `size` px lies within all clips."""
    if not rings or not clips:
        return rings
    area = polygon_of(rings)
    for clip in clips:
        within = shapely.union_all([_clip_area(shape, size, px_scale) for shape in clip])
        area = shapely.intersection(area, within)
    check_rings(area)
    return rings_of(area)


def _clip_area(shape: ClipShape, size: float, px_scale: float) -> shapely.Geometry:
    a, b, c, d, _, _ = shape.matrix
    tolerance = 0.05 / ((max(math.hypot(a, b), math.hypot(c, d)) or 1.0) * px_scale)
    contours = [points for points, _ in path_contours(shape.path, tolerance) if len(points) > 2]
    return polygon_of(_FILLS[shape.rule]([placed(points, shape.matrix) / size for points in contours]))


def _size(contours: list[Array]) -> float:
    return (
        max((float(np.abs(contour).max()) for contour in contours if len(contour)), default=0.5) * 2.0 or 1.0
    )


def placed(points: Array, matrix: Matrix) -> Array:
    """Points (n, 2) of path data, y down, in px about the mark's middle, y up."""
    a, b, c, d, e, f = matrix
    return np.column_stack(
        [a * points[:, 0] + c * points[:, 1] + e, -(b * points[:, 0] + d * points[:, 1] + f)]
    )


class _PathPen:
    """What fontTools' reader of path data draws with, passed on to be flattened."""

    def __init__(self, pen: FlatteningPen):
        self._pen = pen

    def moveTo(self, to: tuple[float, float]) -> None:  # noqa: N802  (the pen protocol of fontTools)
        self._pen.move_to(*to)

    def lineTo(self, to: tuple[float, float]) -> None:  # noqa: N802
        self._pen.line_to(*to)

    def curveTo(self, one: tuple[float, float], two: tuple[float, float], to: tuple[float, float]) -> None:  # noqa: N802
        self._pen.cubic_to(*one, *two, *to)

    def qCurveTo(self, one: tuple[float, float], to: tuple[float, float]) -> None:  # noqa: N802
        self._pen.quadratic_to(*one, *to)

    def closePath(self) -> None:  # noqa: N802
        self._pen.close()

    def endPath(self) -> None:  # noqa: N802
        pass


@kept
def path_contours(path: str, tolerance: float, turn: float = GREATEST_FACET_TURN_DEG) -> tuple[Contour, ...]:
    """Path data as flattened contours of points (n, 2), and whether each was closed. Raises
    ValueError for what is no path."""
    pen = FlatteningPen(1.0, max(tolerance, LEAST_TOLERANCE), turn)
    try:
        parse_path(path, _PathPen(pen))
    except (IndexError, KeyError, TypeError, ArithmeticError, AssertionError, NotImplementedError) as fault:
        raise ValueError(f"this is no path data ({fault})") from None
    if pen.overfull:
        raise ValueError(f"this path needs over {MOST_PATH_POINTS} points, or lies too far out; simplify it")
    return tuple(
        (np.array([(z.real, z.imag) for z in contour]), closed)
        for contour, closed in zip(pen.contours, pen.closed, strict=True)
    )
