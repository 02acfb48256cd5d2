"""Marks: a part of an imported drawing, filled or drawn with a line, becomes an outline.

Lines are widened as SVG 2 says (caps, joins, mitre limit, dashes) in the part's own units, before its matrix.
"""

import math
from functools import lru_cache

import numpy as np
import shapely
from fontTools.svgLib.path.parser import parse_path
from numpy.typing import NDArray

from halvex.core.lettering.flattening import GREATEST_FACET_TURN_DEG, FlatteningPen
from halvex.core.lettering.outlines import Outline, fill_even_odd, fill_nonzero, flattening_tolerance, outline_of, polygon_of, rings_of, signed_area
from halvex.core.lettering.typefaces import LetteringError
from halvex.core.piece.mark import LineStyle, MarkPart

Array = NDArray[np.float64]
Matrix = tuple[float, float, float, float, float, float]
Contour = tuple[Array, bool]

# Facets of a widened line's round joins, and of its own bends: its outer side is drawn larger than the line itself.
LINE_TURN_DEG = 4.0
# Bends gentler than this are of a flattened curve, whatever the join.
SMOOTH_TURN_DEG = 2 * LINE_TURN_DEG
GRID_SHARE = 2.0**-20
MOST_POINTS, MOST_PATH_POINTS = 1000, 20_000
# An outline of more points is drawn coarser, by steps between these, in shares of its size.
FINEST_COARSENING_EM, COARSEST_EM = 2e-4, 0.02
# The share of its ink that it must keep.
LEAST_KEPT = 0.95


def part_outline(part: MarkPart, px_scale: float) -> tuple[Outline, float] | None:
    """The outline of a part about the middle of its mark, and its px per em; None where it has no area.

    `px_scale` is px of the picture per px of the mark. Raises LetteringError for one that is too intricate.
    """
    # To a power of two, so that a small change of size keeps what was made.
    finest = 2.0 ** math.floor(math.log2(max(px_scale, 1e-6)))
    try:
        return _outline(part.path, part.rule, part.line, part.matrix, finest, part.name)
    except shapely.errors.GEOSException:
        raise LetteringError("parts", f"{part.name or 'a part'} crosses itself too often to be filled; simplify the drawing first") from None


@lru_cache(maxsize=1024)
def _outline(path: str, rule: str, line: LineStyle | None, matrix: Matrix, px_scale: float, name: str) -> tuple[Outline, float] | None:
    a, b, c, d, _, _ = matrix
    scale = math.sqrt(abs(a * d - b * c)) or 1.0
    tolerance = 0.05 / (scale * px_scale)
    if line is None:
        contours = [placed(points, matrix) for points, _ in path_contours(path, tolerance) if len(points) > 2]
        size = _size(contours)
        rings = (fill_nonzero if rule == "nonzero" else fill_even_odd)([contour / size for contour in contours]) if contours else ()
    else:
        area = shapely.transform(widened(path_contours(path, tolerance, LINE_TURN_DEG), line), lambda points: placed(points, matrix))
        size = _size([shapely.get_coordinates(area)])
        tidy = shapely.transform(shapely.make_valid(area), lambda points: points / size)
        rings = rings_of(shapely.simplify(tidy, flattening_tolerance(size, px_scale) / 4)) if not area.is_empty else ()
    return (outline_of(_bounded(rings, name), name), size) if rings else None


def _bounded(rings: tuple[Array, ...], name: str) -> tuple[Array, ...]:
    """The rings, drawn ever coarser until they have so many points as bodies can be made of within seconds.

    What is smaller than the coarseness is dropped. Raises LetteringError where that would change what is seen.
    """
    if _points(rings) <= MOST_POINTS:
        return rings
    area = polygon_of(rings)
    tolerance = FINEST_COARSENING_EM
    while tolerance <= COARSEST_EM:
        coarser = tuple(ring for ring in rings_of(shapely.simplify(area, tolerance)) if abs(signed_area(ring)) > tolerance**2)
        if sum(signed_area(ring) for ring in coarser) < LEAST_KEPT * area.area:
            break
        if _points(coarser) <= MOST_POINTS:
            return coarser
        tolerance *= 2.0
    raise LetteringError("parts", f"{name or 'a part'} is too intricate: it has {_points(rings)} points; simplify the drawing first")


def _points(rings: tuple[Array, ...]) -> int:
    return sum(len(ring) for ring in rings)


def _size(contours: list[Array]) -> float:
    return max((float(np.abs(contour).max()) for contour in contours if len(contour)), default=0.5) * 2.0 or 1.0


def placed(points: Array, matrix: Matrix) -> Array:
    """Points (n, 2) of path data, y down, in px about the mark's middle, y up."""
    a, b, c, d, e, f = matrix
    return np.column_stack([a * points[:, 0] + c * points[:, 1] + e, -(b * points[:, 0] + d * points[:, 1] + f)])


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


@lru_cache(maxsize=256)
def path_contours(path: str, tolerance: float, turn: float = GREATEST_FACET_TURN_DEG) -> tuple[Contour, ...]:
    """Path data as flattened contours of points (n, 2), and whether each was closed. Raises ValueError for what is no path."""
    pen = FlatteningPen(1.0, tolerance, turn)
    try:
        parse_path(path, _PathPen(pen))
    except (IndexError, KeyError, TypeError, AssertionError, NotImplementedError) as fault:
        raise ValueError(f"this is no path data ({fault})") from None
    contours = []
    for contour, closed in zip(pen.contours, pen.closed, strict=True):
        points = np.array([(z.real, z.imag) for z in contour])
        if not np.isfinite(points).all():
            raise ValueError("this path has points without a place")
        contours.append((points, closed))
    if sum(len(points) for points, _ in contours) > MOST_PATH_POINTS:
        raise ValueError(f"this path has over {MOST_PATH_POINTS} points; simplify it")
    return tuple(contours)


def widened(contours: tuple[Contour, ...], line: LineStyle) -> shapely.Geometry:
    """The area of lines drawn along contours, in the contours' own units."""
    pieces: list[shapely.Geometry] = []
    for points, closed in contours:
        kept = np.concatenate([[True], np.hypot(*np.diff(points, axis=0).T) > 1e-9 * line.width]) if len(points) > 1 else np.array([True])
        own = points[kept]
        if closed and len(own) > 1 and np.hypot(*(own[0] - own[-1])) <= 1e-9 * line.width:
            own = own[:-1]
        for run, around in _dashed(own, closed, line) if any(line.dashes) else [(own, closed)]:
            pieces += _run_pieces(run, around and len(run) > 2, line)
    # On a grid, so that bars and joins that share an edge leave no slit between them.
    return shapely.union_all(pieces, grid_size=line.width * GRID_SHARE) if pieces else shapely.Polygon()


def _dashed(points: Array, closed: bool, line: LineStyle) -> list[Contour]:
    """The dashes of a contour, each an open run of points."""
    run = np.vstack([points, points[:1]]) if closed else points
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(run, axis=0).T))])
    pattern = list(line.dashes) * (2 if len(line.dashes) % 2 else 1)
    period = sum(pattern)
    total = float(along[-1])
    if total / period > 2000:
        raise ValueError("the dashes are too short for so long a line")
    at = -(line.dash_offset % period)
    found: list[Contour] = []
    while at < total:
        for number, length in enumerate(pattern):
            start, end = max(at, 0.0), min(at + length, total)
            if number % 2 == 0 and end >= start and at + length >= 0.0 and at < total:
                inner = run[(along > start) & (along < end)]
                ends = [[np.interp(s, along, run[:, 0]), np.interp(s, along, run[:, 1])] for s in (start, end)]
                found.append((np.vstack([ends[:1], inner, ends[1:]]), False))
            at += length
    return found


def _run_pieces(points: Array, closed: bool, line: LineStyle) -> list[shapely.Geometry]:
    """What the area of one run is the union of: a bar per edge, a join per corner, a cap per end."""
    half = line.width / 2
    lengths = np.hypot(*np.diff(points, axis=0).T) if len(points) > 1 else np.zeros(0)
    if not len(lengths) or not lengths.any():
        # A line of no length shows its caps alone; SVG draws them upright.
        if line.cap == "round":
            return [_disc(points[0], half)]
        return [shapely.box(*(points[0] - half), *(points[0] + half))] if line.cap == "square" else []
    kept = np.concatenate([[True], lengths > 0])
    points = points[kept]
    ends = np.roll(points, -1, axis=0) if closed else points[1:]
    starts = points if closed else points[:-1]
    ways = ends - starts
    ways = ways / np.hypot(*ways.T)[:, None]
    sides = np.column_stack([-ways[:, 1], ways[:, 0]]) * half
    pieces = list(shapely.polygons(np.stack([starts + sides, ends + sides, ends - sides, starts - sides], axis=1)))
    for i in range(len(ways) if closed else len(ways) - 1):
        before, after = ways[i], ways[(i + 1) % len(ways)]
        pieces.append(_join(ends[i], before, after, half, line))
    if not closed:
        for point, way in ((points[0], -ways[0]), (points[-1], ways[-1])):
            if line.cap == "round":
                pieces.append(_disc(point, half))
            elif line.cap == "square":
                side = np.array([-way[1], way[0]]) * half
                pieces.append(shapely.Polygon([point + side, point + side + way * half, point - side + way * half, point - side]))
    return [piece for piece in pieces if piece is not None]


def _join(corner: Array, before: Array, after: Array, half: float, line: LineStyle) -> shapely.Geometry | None:
    turn = math.atan2(before[0] * after[1] - before[1] * after[0], float(before @ after))
    if abs(turn) < 1e-9:
        return None
    smooth = abs(turn) < math.radians(SMOOTH_TURN_DEG)
    if line.join == "round" and not smooth:
        return _disc(corner, half)
    outer = -math.copysign(half, turn)
    a, b = corner + outer * np.array([-before[1], before[0]]), corner + outer * np.array([-after[1], after[0]])
    # The mitre is 1 / sin(half the angle between the edges) line widths long (SVG 2, stroke-miterlimit).
    longest = 1.0 / max(math.cos(turn / 2), 1e-12)
    if smooth or (line.join == "miter" and longest <= line.miter_limit):
        tip = corner + ((a + b) / 2 - corner) * longest**2
        return shapely.Polygon([corner, a, tip, b])
    return shapely.Polygon([corner, a, b])


def _disc(middle: Array, radius: float) -> shapely.Geometry:
    return shapely.buffer(shapely.points(middle), radius, quad_segs=math.ceil(90 / LINE_TURN_DEG))
