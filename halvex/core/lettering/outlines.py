"""Outlines: a glyph's curves, flattened once and freed of overlaps.

An outline is a set of rings in em units, outer rings counter-clockwise and holes clockwise, so that
the ink is always on the left.
"""

import hashlib
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
import uharfbuzz as hb
from numpy.typing import NDArray

from halvex.core.lettering.flattening import FlatteningPen
from halvex.core.lettering.lines import meet_oftener_than
from halvex.core.lettering.typefaces import FontFile, LetteringError
from halvex.core.memory import kept
from halvex.core.stopping import stop_if_overtaken

Points = NDArray[np.float64]

# Vertices are rounded to 2^-24 em so that outlines that should touch do touch.
GRID_EM = 2.0**-24
SHORTEST_EDGE_EM = 1e-6
SMALLEST_RING_EM2 = 1e-7
# A vertex nearer than this to the chord of its neighbours makes no turn.
STRAIGHT_EM = 1e-7
# How far touching rings are moved apart: far less than a px of any picture.
PARTED_EM = 2e-5
# What geometry raises on input that it cannot cope with.
GEOMETRY_FAULTS = (shapely.errors.ShapelyError, ArithmeticError, LookupError, ValueError)
# An outline of too many points is drawn coarser, by steps between these, in shares of its size.
FINEST_COARSENING_EM, COARSEST_EM = 2e-5, 0.021
# The share of its ink that it must keep, and of which it may gain as much: holes are dropped, too.
LEAST_KEPT = 0.95
# Contours of fewer points need no look at how often they may cross: a thousand times a thousand
# edges, at the worst.
SIMPLE_POINTS = 1000
# Pairs of edges whose boxes meet; edges that follow each other are such pairs, too.
MOST_MEETINGS = 200_000
# Areas that contours part the plane into, and those times points: what takes about a second.
MOST_CELLS, MOST_WINDING_STEPS = 10_000, 100_000_000
# Rings of one outline; simplifying and tidying more takes seconds.
MOST_RINGS = 4096


class TooIntricateError(ValueError):
    """Contours that cross each other too often to be filled."""


@dataclass(frozen=True)
class Outline:
    """Rings of shape (n, 2) in em, ink on the left; `digest` names it for caches, `name` for people."""

    rings: tuple[Points, ...]
    digest: str
    name: str = ""

    @property
    def area(self) -> float:
        """Ink area in em²."""
        return sum(signed_area(ring) for ring in self.rings)


def outline_of(rings: tuple[Points, ...], name: str = "") -> Outline:
    """Rings as an outline named by their content."""
    content = hashlib.sha256()
    for ring in rings:
        content.update(len(ring).to_bytes(4, "little") + np.ascontiguousarray(ring, np.float64).tobytes())
    return Outline(rings, content.hexdigest()[:32], name)


def flattening_tolerance(size: float, px_scale: float = 1.0) -> float:
    """Tolerance in em so that no facet is off by more than 0.05 px of the picture.

    `size` is px of the canvas per em, `px_scale` px of the picture per px of the canvas. Rounded down
    to a power of two, so that a small change of size keeps the cached outlines.
    """
    wanted = min(max(0.05 / max(size * px_scale, 1e-6), 2e-5), 2e-3)
    return float(2.0 ** math.floor(math.log2(wanted)))


@kept
def glyph_outline(
    file: FontFile, gid: int, axes: tuple[tuple[str, float], ...], tolerance: float, name: str = ""
) -> Outline:
    """The outline of a glyph in em, flattened to `tolerance` em, overlaps resolved by nonzero fill;
    `name` is what it is called.

    A glyph without ink (a space) has no rings. Raises LetteringError for one of too many points.
    """
    pen = FlatteningPen(1.0 / file.upem, tolerance)
    funcs = hb.DrawFuncs()
    funcs.set_move_to_func(lambda x, y, p: p.move_to(x, y))
    funcs.set_line_to_func(lambda x, y, p: p.line_to(x, y))
    funcs.set_quadratic_to_func(lambda x1, y1, x2, y2, p: p.quadratic_to(x1, y1, x2, y2))
    funcs.set_cubic_to_func(lambda x1, y1, x2, y2, x3, y3, p: p.cubic_to(x1, y1, x2, y2, x3, y3))
    funcs.set_close_path_func(lambda p: p.close())
    file.font(dict(axes)).draw_glyph(gid, funcs, pen)
    if pen.overfull:
        raise LetteringError(
            "words",
            f"“{name or gid}” of this typeface is too intricate to be drawn; take another letter or typeface",
        )
    contours = [np.array([(z.real, z.imag) for z in contour]) for contour in pen.contours if len(contour) > 2]
    settings = ",".join(f"{tag}={value:g}" for tag, value in axes)
    try:
        rings = fill_nonzero(contours)
    except TooIntricateError as fault:
        raise LetteringError("words", f"“{name or gid}” of this typeface cannot be filled: {fault}") from None
    return Outline(rings, f"{file.key}:{gid}:{settings}:{tolerance:.3g}", name)


def turned(outline: Outline, degrees: float) -> Outline:
    """The outline turned counter-clockwise about its origin."""
    angle = math.radians(degrees)
    turn = np.array([[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]])
    return Outline(
        tuple(ring @ turn for ring in outline.rings), f"{outline.digest}:turned {degrees:g}", outline.name
    )


def fill_nonzero(contours: list[Points]) -> tuple[Points, ...]:
    """Resolve overlapping contours by the nonzero rule into clean rings, ink on the left."""
    return _filled(contours, lambda winding: winding != 0)


def fill_even_odd(contours: list[Points]) -> tuple[Points, ...]:
    """Resolve overlapping contours by the even-odd rule into clean rings, ink on the left."""
    return _filled(contours, lambda winding: winding % 2 != 0)


def _filled(contours: list[Points], inked_at: Callable[[int], bool]) -> tuple[Points, ...]:
    lines = []
    for contour in contours:
        closed = np.round(np.vstack([contour, contour[:1]]) / GRID_EM) * GRID_EM
        if len(np.unique(closed, axis=0)) > 2:
            lines.append(closed)
    if not lines:
        return ()
    points = sum(len(line) for line in lines)
    if points > SIMPLE_POINTS:
        _check_meetings(lines)
    network = shapely.unary_union(
        shapely.multilinestrings([shapely.linestrings(line) for line in lines]), grid_size=GRID_EM
    )
    cells = shapely.get_parts(shapely.polygonize([network]))
    if len(cells) > MOST_CELLS or len(cells) * points > MOST_WINDING_STEPS:
        raise TooIntricateError(f"its {points} points enclose {len(cells)} areas; simplify it")
    stop_if_overtaken()
    inked = [cell for cell in cells if inked_at(_winding(shapely.point_on_surface(cell), lines))]
    return rings_of(shapely.union_all(inked, grid_size=GRID_EM)) if inked else ()


def coarsened(rings: tuple[Points, ...], most: int) -> tuple[Points, ...]:
    """The rings, drawn ever coarser until they have at most so many points. What is smaller than
    the coarseness is dropped.

    Raises TooIntricateError where that would change what is seen.
    """
    count = _points(rings)
    if count <= most:
        return rings
    area = polygon_of(rings)
    tolerance = FINEST_COARSENING_EM
    while tolerance <= COARSEST_EM:
        coarser = tuple(
            ring
            for ring in rings_of(shapely.simplify(area, tolerance))
            if abs(signed_area(ring)) > tolerance**2
        )
        left = sum(signed_area(ring) for ring in coarser)
        if not LEAST_KEPT * area.area <= left <= area.area / LEAST_KEPT:
            break
        if _points(coarser) <= most:
            return coarser
        tolerance *= 2.0
    raise TooIntricateError(f"it is too intricate: it has {count} points; simplify it")


def _points(rings: tuple[Points, ...]) -> int:
    return sum(len(ring) for ring in rings)


def _check_meetings(lines: list[Points]) -> None:
    """Raises TooIntricateError for polylines of which more edges may meet than can be resolved
    within a second or two."""
    edges = shapely.linestrings(np.concatenate([np.stack([line[:-1], line[1:]], axis=1) for line in lines]))
    if meet_oftener_than(MOST_MEETINGS, edges):
        raise TooIntricateError("its lines cross each other too often; simplify it")


def polygon_of(rings: Sequence[Points]) -> shapely.Geometry:
    """What rings enclose, a ring inside another taking away, as one shapely geometry with these
    points only."""
    return (
        shapely.build_area(shapely.multilinestrings([shapely.linearrings(ring) for ring in rings]))
        if rings
        else shapely.Polygon()
    )


def rings_of(area: shapely.Geometry) -> tuple[Points, ...]:
    """The rings of polygons, ink on the left, cleaned of points that make no edge and of specks."""
    check_rings(area)
    rings: list[Points] = []
    for polygon in shapely.get_parts(area):
        if polygon.geom_type != "Polygon" or polygon.is_empty:
            continue
        oriented = shapely.orient_polygons(polygon)
        rings += [shapely.get_coordinates(ring)[:-1] for ring in [oriented.exterior, *oriented.interiors]]
    _part_touching(rings)
    tidy = [cleaned(ring) for ring in rings]
    return tuple(ring for ring in tidy if len(ring) > 2 and abs(signed_area(ring)) > SMALLEST_RING_EM2)


def check_rings(area: shapely.Geometry) -> None:
    """Raises TooIntricateError for an area of more rings than become an outline within a second or two."""
    parts = shapely.get_parts(area)
    polygons = parts[shapely.get_type_id(parts) == shapely.GeometryType.POLYGON]
    count = len(polygons) + int(shapely.get_num_interior_rings(polygons).sum())
    if count > MOST_RINGS:
        raise TooIntricateError(f"it has {count} separate pieces and holes; simplify it")


def _part_touching(rings: list[Points]) -> None:
    """Rings that touch at a point would make a body that is pinched to nothing there: they are
    parted by a hair.

    Every corner but the first at one point moves into what its own ring encloses: a hole grows
    smaller, a part thinner.
    """
    seen: set[tuple[float, float]] = set()
    for ring in rings:
        way = 1.0 if signed_area(ring) > 0 else -1.0
        original = ring.copy()
        for i, (x, y) in enumerate(original.tolist()):
            if (x, y) not in seen:
                seen.add((x, y))
                continue
            u, v = original[i - 1] - (x, y), original[(i + 1) % len(ring)] - (x, y)
            u, v = u / max(math.hypot(*u), 1e-12), v / max(math.hypot(*v), 1e-12)
            middle = u + v
            turn = way * (v[0] * u[1] - v[1] * u[0])
            inward = middle if turn > 0 else -middle
            if math.hypot(*middle) < 1e-6:
                inward = way * np.array([-v[1], v[0]])
            ring[i] += inward / math.hypot(*inward) * PARTED_EM


def _winding(point: shapely.Point, lines: list[Points]) -> int:
    """Winding number of closed polylines about a point that is on none of them."""
    x, y = shapely.get_coordinates(point)[0]
    total = 0
    for line in lines:
        a, b = line[:-1], line[1:]
        side = (b[:, 0] - a[:, 0]) * (y - a[:, 1]) - (x - a[:, 0]) * (b[:, 1] - a[:, 1])
        total += int(np.sum((a[:, 1] <= y) & (b[:, 1] > y) & (side > 0))) - int(
            np.sum((a[:, 1] > y) & (b[:, 1] <= y) & (side < 0))
        )
    return total


def cleaned(ring: Points) -> Points:
    """Drop vertices that make no edge or no turn: too close, on the chord, or the tip of a spike."""
    around = np.concatenate([ring[-1:], ring, ring[:1]])
    u, v = around[1:-1] - around[:-2], around[2:] - around[1:-1]
    chords = np.maximum(np.hypot(*(u + v).T), SHORTEST_EDGE_EM / 2)
    bent = np.abs(u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]) / chords >= STRAIGHT_EM
    if (
        len(ring) > 2
        and bent.all()
        and (chords >= SHORTEST_EDGE_EM).all()
        and (np.hypot(*u.T) >= SHORTEST_EDGE_EM).all()
    ):
        # As a rule there is nothing to drop, and looking point by point takes longer than all the
        # rest of an outline.
        return ring
    points = list(ring)
    index = 0
    since_change = 0
    while len(points) > 2 and since_change <= len(points):
        count = len(points)
        index %= count
        before, here, after = points[index - 1], points[index], points[(index + 1) % count]
        u, v = here - before, after - here
        chord = after - before
        length = math.hypot(*chord)
        flat = length < SHORTEST_EDGE_EM or abs(u[0] * v[1] - u[1] * v[0]) / length < STRAIGHT_EM
        if math.hypot(*u) < SHORTEST_EDGE_EM or flat:
            points.pop(index)
            since_change = 0
            index -= 1
        else:
            index += 1
            since_change += 1
    return np.array(points).reshape(-1, 2)


def signed_area(ring: Points) -> float:
    """Area of a ring by Green's theorem, positive when counter-clockwise."""
    x, y = ring[:, 0], ring[:, 1]
    following = np.concatenate([ring[1:], ring[:1]])
    return 0.5 * float(np.dot(x, following[:, 1]) - np.dot(y, following[:, 0]))
