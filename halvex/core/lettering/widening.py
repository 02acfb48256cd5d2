"""Widening: lines of a width become areas, as SVG 2 says (caps, joins, mitre limit, dashes).

GEOS buffers do the work. It ends a mitre that is over its limit somewhere else than SVG, which
bevels it; so a line with such a corner is bevelled all along and given back the tips of the others.
"""

import math

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.ops import substring

from halvex.core.lettering.lines import check_crossings, meet_oftener_than
from halvex.core.piece.mark import LineStyle

Array = NDArray[np.float64]
Contour = tuple[Array, bool]

# Facets of round joins and of a line's own bends: its outer side is drawn larger than the line itself.
LINE_TURN_DEG = 4.0
# Bends gentler than this are of a flattened curve, whatever the join.
SMOOTH_TURN_DEG = 2 * LINE_TURN_DEG
QUARTER_FACETS = math.ceil(90 / LINE_TURN_DEG)
# Points closer than this share of the line's width are one.
SAME_POINT_SHARE = 1e-9
# Dashes of one contour, and the points that are looked at to cut them out.
MOST_DASHES, MOST_DASH_STEPS = 2000, 4_000_000
# Pairs of dashes that may overlap: wide dashes of lines that cross make a lattice of so many holes.
MOST_OVERLAPS = 20_000
CAPS = {"butt": "flat", "round": "round", "square": "square"}


def widened(contours: tuple[Contour, ...], line: LineStyle) -> shapely.Geometry:
    """The area of lines drawn along contours, in the contours' own units. Raises ValueError for too
    many dashes, dashes that overlap too often, and lines that cross too often."""
    whole = [
        (_without_repeats(points, SAME_POINT_SHARE * line.width, closed=closed), closed)
        for points, closed in contours
    ]
    check_crossings(whole)
    areas: list[shapely.Geometry] = []
    for own, closed in whole:
        runs = _dashed(own, closed, line) if any(line.dashes) else [(own, closed)]
        areas += [_area(run, around and len(run) > 2, line) for run, around in runs]
    if any(line.dashes) and meet_oftener_than(MOST_OVERLAPS, np.array(areas, object)):
        raise ValueError("its dashes overlap too often; make the line thinner or the dashes longer")
    return shapely.union_all(areas) if areas else shapely.Polygon()


def _without_repeats(points: Array, nearness: float, *, closed: bool) -> Array:
    steps = np.hypot(*np.diff(points, axis=0).T) if len(points) > 1 else np.zeros(0)
    own = points[np.append(True, steps > nearness)]
    return own[:-1] if closed and len(own) > 1 and math.dist(own[0], own[-1]) <= nearness else own


def _dashed(points: Array, closed: bool, line: LineStyle) -> list[Contour]:
    """The dashes of a contour, each an open run of points."""
    run = np.vstack([points, points[:1]]) if closed else points
    if len(run) < 2:
        return [(run, False)]
    whole = shapely.LineString(run)
    pattern = list(line.dashes) * (2 if len(line.dashes) % 2 else 1)
    period = sum(pattern)
    count = whole.length / period * len(pattern) / 2
    if count > MOST_DASHES or count * len(run) > MOST_DASH_STEPS:
        raise ValueError("the dashes are too short for so long a line; make them longer")
    at = -(line.dash_offset % period)
    found: list[Contour] = []
    while at < whole.length:
        for number, length in enumerate(pattern):
            start, end = max(at, 0.0), min(at + length, whole.length)
            if number % 2 == 0 and end >= start and at + length >= 0.0 and at < whole.length:
                found.append((shapely.get_coordinates(substring(whole, start, end)), False))
            at += length
    return found


def _area(points: Array, closed: bool, line: LineStyle) -> shapely.Geometry:
    """The area of one run of points without repeats."""
    half = line.width / 2
    if len(points) < 2 or not np.ptp(points, axis=0).any():
        # A line of no length shows its caps alone; SVG draws them upright.
        dot = shapely.Point(points[0])
        return (
            shapely.Polygon()
            if line.cap == "butt"
            else shapely.buffer(dot, half, quad_segs=QUARTER_FACETS, cap_style=CAPS[line.cap])
        )
    run = shapely.LinearRing(points) if closed else shapely.LineString(points)
    options = {"quad_segs": QUARTER_FACETS, "cap_style": CAPS[line.cap]}
    if line.join == "round":
        return shapely.buffer(run, half, join_style="round", **options)
    corners, before, after = _corners(points, closed)
    turn = np.arctan2(
        before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0], np.einsum("ij,ij->i", before, after)
    )
    # A mitre is 1 / cos(turn / 2) line widths long (SVG 2, stroke-miterlimit).
    length = 1.0 / np.maximum(np.cos(turn / 2), 1e-12)
    mitred = np.abs(turn) < math.radians(SMOOTH_TURN_DEG)
    if line.join == "miter":
        mitred |= length <= line.miter_limit
    if mitred.all():
        return shapely.buffer(
            run, half, join_style="mitre", mitre_limit=float(length.max(initial=1.0)) + 1.0, **options
        )
    tips = _tips(corners[mitred], before[mitred], after[mitred], turn[mitred], length[mitred], half)
    return shapely.union_all([shapely.buffer(run, half, join_style="bevel", **options), *tips])


def _corners(points: Array, closed: bool) -> tuple[Array, Array, Array]:
    """Corners (n, 2) of a run and the unit directions (n, 2) in which it arrives and leaves."""
    steps = np.diff(np.vstack([points, points[:1]]) if closed else points, axis=0)
    ways = steps / np.hypot(*steps.T)[:, None]
    return (points, np.roll(ways, 1, axis=0), ways) if closed else (points[1:-1], ways[:-1], ways[1:])


def _tips(
    corners: Array, before: Array, after: Array, turn: Array, length: Array, half: float
) -> NDArray[np.object_]:
    """What mitres at corners add to a bevelled line."""
    outer = -np.copysign(half, turn)[:, None]
    a, b = (corners + outer * np.column_stack([-way[:, 1], way[:, 0]]) for way in (before, after))
    tip = corners + ((a + b) / 2 - corners) * length[:, None] ** 2
    bent = np.abs(turn) > 1e-6
    return np.asarray(shapely.polygons(np.stack([corners, a, tip, b], axis=1)[bent]))
