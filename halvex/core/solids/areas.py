"""Areas: outlines made from outlines, before any body: joined, offset, hollowed to rims, cut.

All are in em of the letter they belong to, ink on the left. Mitred and rounded offsets are read off roofs,
so a rim's edge lies exactly where a bevel of that width would end.
"""

import math
from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from halvex.core.lettering.flattening import GREATEST_FACET_TURN_DEG
from halvex.core.lettering.outlines import (
    GRID_EM,
    SMALLEST_RING_EM2,
    Outline,
    cleaned,
    coarsened,
    outline_of,
    polygon_of,
    rings_of,
    signed_area,
)
from halvex.core.memory import kept
from halvex.core.piece.form import Holes, Kerf, Rim
from halvex.core.solids.bevel import make_lid
from halvex.core.solids.faults import SolidError
from halvex.core.solids.mesh import rings_along
from halvex.core.solids.roof import MOST_EDGES, Corner, OutlineKey
from halvex.core.solids.slope import Slope, inset_slope, outset_slope
from halvex.core.stopping import stop_if_overtaken

Array = NDArray[np.float64]
Rings = tuple[Array, ...]

# Facets of round joins and holes turn by no more than those of flattened curves.
# Points of letters that become one, before they do.
MOST_JOINED_POINTS = 4 * MOST_EDGES
# Corners of all cuts of a block together.
MOST_CUT_POINTS = 20_000
ROUND_QUARTER_FACETS = math.ceil(90 / GREATEST_FACET_TURN_DEG)


def joined(parts: list[tuple[Outline, float, float]], name: str) -> Outline:
    """Outlines moved by (x, y) em as one, overlaps resolved."""
    return _joined(tuple((OutlineKey(outline), x, y) for outline, x, y in parts), name)


@kept
def _joined(parts: tuple[tuple[OutlineKey, float, float], ...], name: str) -> Outline:
    shapes = [polygon_of([ring + (x, y) for ring in key.outline.rings]) for key, x, y in parts]
    if sum(shapely.get_num_coordinates(shapes)) > MOST_JOINED_POINTS:
        raise SolidError(
            "so many letters overlap that they cannot become one; let them stay single, or set fewer"
        )
    return outline_of(coarsened(rings_of(shapely.union_all(shapes, grid_size=GRID_EM)), MOST_EDGES), name)


def offset(outline: Outline, distance: float, corner: Corner) -> Outline:
    """The outline moved outwards by `distance` em (negative: inwards; it may vanish). Raises SolidError."""
    return _offset(OutlineKey(outline), distance, corner)


@kept
def _offset(key: OutlineKey, distance: float, corner: Corner) -> Outline:
    if distance == 0.0:
        return key.outline
    if distance < 0.0:
        slope = inset_slope(key, corner)
        rings = _foot(replace(slope, height=slope.height + distance, inset=False))
    else:
        rings = _foot(outset_slope(key, corner, distance))
    return outline_of(rings, key.outline.name)


def _foot(slope: Slope) -> Rings:
    """The rings on which a slope has height 0, higher ground on the left."""
    lid = make_lid(slope, None)
    # Not rounded to any grid: sides that run at one distance stay parallel to the last digit, as
    # their roofs need.
    rings = (cleaned(lid.positions[ring, :2]) for ring in rings_along(lid.rim) if len(ring) > 2)
    return tuple(ring for ring in rings if len(ring) > 2 and abs(signed_area(ring)) > SMALLEST_RING_EM2)


def rim_of(outline: Outline, rim: Rim, size: float, corner: Corner) -> Outline:
    """The outline as a rim, at `size` px per em. Raises SolidError."""
    width = rim.width / size
    outwards = {"inside": 0.0, "centred": width / 2, "outside": width}[rim.side]
    outer, inner = offset(outline, outwards, corner), offset(outline, outwards - width, corner)
    # Where a stroke is thinner than the rim there is no inner edge: it stays whole.
    return outline_of(outer.rings + tuple(ring[::-1] for ring in inner.rings), outline.name)


def plate_outline(
    parts: list[tuple[Outline, float, float]], distance: float, corner: Corner, *, close_holes: bool
) -> Outline:
    """The outline at `distance` em around all parts, merged where they meet."""
    spread = [(offset(outline, distance, corner), x, y) for outline, x, y in parts]
    whole = joined(spread, "the plate")
    if not close_holes:
        return whole
    return outline_of(tuple(ring for ring in whole.rings if signed_area(ring) > 0), "the plate")


def cutting_tools(
    kerfs: tuple[Kerf, ...], holes: Holes | None, box: tuple[float, float, float, float]
) -> shapely.Geometry:
    """The area in px that kerfs and the holes within a box take away. Raises SolidError for more
    than can be cut in seconds."""
    shapes = []
    for kerf in kerfs:
        stop_if_overtaken()
        shapes.append(kerf_shape(kerf))
    if holes and holes.count:
        shapes.append(hole_shapes(holes, box))
    tools = shapely.union_all(shapes)
    if shapely.get_num_coordinates(tools) > MOST_CUT_POINTS:
        raise SolidError("the kerf cuts are too many and too jagged; make them fewer or smoother")
    return tools


def kerf_shape(kerf: Kerf) -> shapely.Geometry:
    """The area in px that a kerf takes away."""
    line = np.array([(p.x, p.y) for p in kerf.points])
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    if along[-1] <= 0.0:
        return shapely.Polygon()
    # A crack needs a vertex every so often; a clean cut only its own.
    count = max(int(along[-1] / max(2.0 * kerf.jagged, 1.0)), 2) if kerf.jagged else 0
    at = np.unique(np.concatenate([along, np.linspace(0.0, along[-1], min(count, 400)) if count else along]))
    middle = np.column_stack([np.interp(at, along, line[:, k]) for k in range(2)])
    tangent = (
        np.gradient(middle, at, axis=0) if len(at) > 2 else np.repeat(np.diff(middle, axis=0), 2, axis=0)
    )
    tangent /= np.maximum(np.hypot(*tangent.T)[:, None], 1e-12)
    across = np.column_stack([-tangent[:, 1], tangent[:, 0]])
    half = kerf.width / 2 * (1.0 + (kerf.end_width / 100 - 1.0) * at / along[-1])
    random = np.random.default_rng(kerf.seed)
    if kerf.jagged:
        middle = middle + across * random.uniform(-kerf.jagged, kerf.jagged, (len(at), 1)) / 2
        half = np.maximum(half * random.uniform(0.6, 1.4, len(at)), 0.0)
    half = np.maximum(half, 1e-4)
    pieces = [
        shapely.convex_hull(
            shapely.multipoints(
                np.vstack(
                    [middle[i : i + 2] + side * across[i : i + 2] * half[i : i + 2, None] for side in (1, -1)]
                )
            )
        )
        for i in range(len(at) - 1)
    ]
    return shapely.union_all(pieces)


def hole_shapes(holes: Holes, box: tuple[float, float, float, float]) -> shapely.Geometry:
    """The discs in px that are bored within a box (left, bottom, right, top), none touching another."""
    random = np.random.default_rng(holes.seed)
    left, bottom, right, top = box
    placed: list[tuple[float, float, float]] = []
    # A try that would touch a hole already bored is let go; so the holes never merge.
    for _ in range(20 * holes.count):
        if len(placed) == holes.count:
            break
        x, y = random.uniform(left, right), random.uniform(bottom, top)
        radius = holes.radius * (1.0 + holes.variety / 100 * random.uniform(-1.0, 1.0))
        if all(math.hypot(x - a, y - b) > 1.2 * (radius + r) for a, b, r in placed):
            placed.append((x, y, radius))
    return shapely.union_all(
        [shapely.Point(x, y).buffer(r, quad_segs=ROUND_QUARTER_FACETS) for x, y, r in placed]
    )


def cut(outline: Outline, tools: shapely.Geometry, *, size: float, x: float, y: float) -> Outline | None:
    """An outline set at (x, y) px and `size` px per em less the tools (px); None where nothing is left."""
    if tools.is_empty:
        return outline
    local = shapely.transform(tools, lambda points: (points - (x, y)) / size)
    ink = polygon_of(outline.rings)
    if not shapely.intersects(ink, local):
        return outline
    rings = rings_of(shapely.difference(ink, local, grid_size=GRID_EM))
    return outline_of(rings, outline.name) if rings else None
