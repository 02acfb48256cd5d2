"""Outlines of the letters' faces, and of whole letters and plates, as the camera sees them."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from halvex.core.memory import kept
from halvex.core.scene.camera import Camera, lettering_to_picture
from halvex.core.scene.instances import CORNERS, Instance
from halvex.core.solids import Mesh, PartOf
from halvex.core.solids.welding import welded
from halvex.core.stopping import stop_if_overtaken

Array = NDArray[np.float64]
Box = tuple[float, float, float, float]

# Points of a homogeneous weight under this lie behind the eye, or next to it.
LEAST_WEIGHT = 1e-3
# Where edges cross, their points are moved to a grid of so many px: to a power of two, they are exact on it.
GRID_PX = 2.0**-10
# Bodies that rise no more than this above each other stand side by side.
SAME_HEIGHT_PX = 0.5

# A border of more edges than the first, of which each may cross more others than the second, is divided.
SHORT_BORDER, MOST_CROSSINGS = 100, 8
# Of a long border about so many edges are asked, as all pairs may need more memory than there is.
MOST_ASKED = 500
# Pairs of a point and an edge that are looked at together.
MOST_AT_ONCE = 4_000_000
_OF_PLATES = (PartOf.PLATE, PartOf.SLAB)


@dataclass(frozen=True)
class FaceSeen:
    """The face of a body, or the bevel that leaves none, or all of a body, as the camera sees it: what it
    covers, in px of the picture from its upper left, the number of its block, and how high the body rises in
    the lettering, in px. What stands before it is not asked: see `Outlines.in_front`."""

    area: shapely.Geometry
    block: int
    height: float = 0.0


@kept
def _rim(mesh: Mesh) -> Array:
    """The edges of a body's face (n, 2, 3), from point to point, the face on their left. Where a bevel leaves
    no face, the bevel counts as one."""
    front = mesh.part == PartOf.FACE
    triangles = mesh.triangles[front if front.any() else mesh.part == PartOf.BEVEL]
    places, same = welded(mesh)
    return np.asarray(places[_border(same[triangles], len(places))])


def _border(corners: NDArray[np.int64], places: int) -> NDArray[np.int64]:
    """The edges (n, 2) of triangles (m, 3) of so many places, from place to place, the triangles on their
    left; one between two triangles is run through both ways, and left out."""
    ways = np.concatenate([corners[:, [0, 1]], corners[:, [1, 2]], corners[:, [2, 0]]])
    there, back = ways[:, 0] * places + ways[:, 1], np.sort(ways[:, 1] * places + ways[:, 0])
    # Several times as fast as numpy's isin, which hashes its numbers.
    order = np.argsort(there)
    found = np.searchsorted(back, there[order])
    twinned = np.empty(len(ways), bool)
    twinned[order] = back[np.minimum(found, len(back) - 1)] == there[order]
    return np.asarray(ways[~twinned])


def projected(places: Array, projection: Array) -> tuple[Array, Array]:
    """(x and y in px of the picture (n, 2), weight (n,)) of places (n, 3); only where the weight is at least
    LEAST_WEIGHT do they lie before the eye."""
    x, y, _, weight = projection @ np.column_stack([places, np.ones(len(places))]).T
    return np.column_stack([x, y]) / np.maximum(weight, LEAST_WEIGHT)[:, None], weight


class _Way:
    """A matrix (3 or 4, 4) that is the same as another of the same numbers."""

    def __init__(self, matrix: Array):
        self.matrix, self._numbers = matrix, matrix.tobytes()

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Way) and self._numbers == other._numbers

    def __hash__(self) -> int:
        return hash(self._numbers)


@kept
def _seen(mesh: Mesh, transform: _Way, projection: _Way) -> shapely.Geometry:
    """What a body's face covers in px of the picture; nothing where it is turned away."""
    nothing, rim = shapely.Polygon(), _rim(mesh)
    placed = rim.reshape(-1, 3) @ transform.matrix[:, :3].T + transform.matrix[:, 3]
    seen, weight = projected(placed, projection.matrix)
    if not len(rim) or weight.min() < LEAST_WEIGHT:
        return nothing
    ends = seen.reshape(-1, 2, 2)
    # With y down, what is on the left of its edges has a negative area where it faces the camera.
    if (ends[:, 0, 0] * ends[:, 1, 1] - ends[:, 1, 0] * ends[:, 0, 1]).sum() >= 0:
        return nothing
    edges = shapely.multilinestrings(list(ends))
    try:
        return shapely.build_area(edges)
    except shapely.errors.GEOSException:
        # Edges of a slanted ridge may cross by rounding.
        return shapely.build_area(shapely.union_all(edges, grid_size=GRID_PX))


@kept
def _silhouette(mesh: Mesh, transform: _Way, projection: _Way) -> shapely.Geometry:
    """What a body covers in px of the picture.

    Around any point, the border of all that faces the camera winds as often as facets lie before one another
    there: of what that border parts the plane into, it is what is wound around at all.
    """
    places, same = welded(mesh)
    placed = places @ transform.matrix[:, :3].T + transform.matrix[:, 3]
    seen, weight = projected(placed, projection.matrix)
    if weight.min() < LEAST_WEIGHT:
        return shapely.Polygon()
    corners = same[mesh.triangles]
    a, b, c = (seen[corners[:, n]] for n in range(3))
    # With y down, what faces the camera has a negative area.
    area = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    facing = corners[area < 0]
    parts = [_covered(seen[border]) for border in _tame_borders(facing, places, seen) if len(border)]
    return parts[0] if len(parts) == 1 else shapely.union_all(parts, grid_size=GRID_PX)


def _tame_borders(triangles: NDArray[np.int64], places: Array, seen: Array) -> list[NDArray[np.int64]]:
    """The borders (n, 2) of the parts that triangles (m, 3) are to be divided into, so that no border crosses
    itself more often than it is long: what is parted by all the crossings of a letter that is twisted several
    times takes half a minute."""
    parts, found = [_Part.of(triangles, places, seen)], []
    while parts:
        stop_if_overtaken()
        part = parts.pop()
        if part.is_tame:
            found.append(part.border)
            continue
        middles = places[part.triangles].mean(axis=1)
        divisions = []
        for axis in range(3):
            order, half = np.argsort(middles[:, axis], kind="stable"), len(middles) // 2
            divisions.append(
                [_Part.of(part.triangles[own], places, seen) for own in (order[:half], order[half:])]
            )
        parts.extend(min(divisions, key=lambda halves: sum(each.crossings for each in halves)))
    return found


class _Part(NamedTuple):
    """Triangles (m, 3), their border (n, 2), and about how many pairs of its edges may cross."""

    triangles: NDArray[np.int64]
    border: NDArray[np.int64]
    crossings: int

    @classmethod
    def of(cls, triangles: NDArray[np.int64], places: Array, seen: Array) -> "_Part":
        border = _border(triangles, len(places))
        if len(border) <= SHORT_BORDER:
            return cls(triangles, border, 0)
        edges = shapely.linestrings(seen[border])
        some = edges[:: max(len(edges) // MOST_ASKED, 1)]
        pairs = len(shapely.STRtree(edges).query(some)[0])
        return cls(triangles, border, pairs * len(edges) // (2 * len(some)))

    @property
    def is_tame(self) -> bool:
        return self.crossings <= MOST_CROSSINGS * len(self.border)


def _covered(ends: Array) -> shapely.Geometry:
    """What the edges (n, 2, 2) of a border, which close up, wind around at all."""
    # Lines of many edges are cut where they cross twice as fast as single edges.
    runs = shapely.line_merge(shapely.multilinestrings(list(ends)))
    lines = shapely.union_all(runs, grid_size=GRID_PX)
    cells = shapely.get_parts(shapely.polygonize(shapely.get_parts(lines)))
    if not len(cells):
        return shapely.Polygon()
    inside = shapely.get_coordinates(shapely.point_on_surface(cells))
    return shapely.coverage_union_all(cells[_windings(ends, inside) != 0])


def _windings(ends: Array, points: Array) -> NDArray[np.int64]:
    """How often edges (n, 2, 2), which close up, wind around each of the points (p, 2)."""
    left = np.column_stack([np.full(len(points), ends[:, :, 0].min() - 1.0), points[:, 1]])
    # All edges that a line from the point to the left may cross; those on the right do not count.
    of_point, of_edge = shapely.STRtree(shapely.linestrings(ends)).query(
        shapely.linestrings(np.stack([left, points], axis=1))
    )
    found = np.zeros(len(points), np.int64)
    for first in range(0, len(of_point), MOST_AT_ONCE):
        looked = slice(first, first + MOST_AT_ONCE)
        (x0, y0), (x1, y1) = (ends[of_edge[looked], end].T for end in (0, 1))
        x, y = points[of_point[looked]].T
        side = (x1 - x0) * (y - y0) - (x - x0) * (y1 - y0)
        # What winds once around a point runs down on the left of it.
        up, down = (y0 <= y) & (y1 > y) & (side < 0), (y1 <= y) & (y0 > y) & (side > 0)
        np.add.at(found, of_point[looked], down.astype(np.int64) - up)
    return found


@dataclass(frozen=True)
class Outlines:
    """Bodies as a camera sees them. frames (blocks, 3, 4) take blocks to the lettering, whose turn (3, 3) is
    that of the view."""

    instances: tuple[Instance, ...]
    frames: Array
    turn: Array
    camera: Camera

    @property
    def _projection(self) -> _Way:
        return _Way(lettering_to_picture(self.camera, self.turn.astype(np.float32)))

    def faces(self) -> tuple[FaceSeen, ...]:
        """The faces that are turned to the camera."""
        return self._seen_as(_seen, self.instances)

    def silhouettes(self, *, plates: bool) -> tuple[FaceSeen, ...]:
        """What letters cover, or the plates and slabs behind them, each body by itself."""
        own = [each for each in self.instances if bool(np.isin(each.body.part, _OF_PLATES).all()) == plates]
        return self._seen_as(_silhouette, own)

    def _seen_as(
        self, area_of: Callable[[Mesh, _Way, _Way], shapely.Geometry], instances: Sequence[Instance]
    ) -> tuple[FaceSeen, ...]:
        projection, heights = self._projection, self._heights
        seen = ((area_of(each.body, _Way(each.transform), projection), each) for each in instances)
        return tuple(
            FaceSeen(area, each.block, heights[id(each)]) for area, each in seen if not area.is_empty
        )

    def in_front(self, height: float, box: Box) -> shapely.Geometry:
        """What is covered, about a box in px of the picture, by bodies that rise higher in the lettering."""
        projection, heights, near = self._projection, self._heights, []
        about = shapely.box(*box)
        for each in self.instances:
            if heights[id(each)] <= height + SAME_HEIGHT_PX:
                continue
            corners = np.where(CORNERS, each.bounds[1], each.bounds[0])
            seen, weight = projected(corners, projection.matrix)
            if weight.min() < LEAST_WEIGHT:
                continue
            hull = shapely.MultiPoint(seen).convex_hull
            if hull.intersects(about):
                near.append(_silhouette(each.body, _Way(each.transform), projection))
        return shapely.union_all(near, grid_size=GRID_PX)

    @cached_property
    def _heights(self) -> dict[int, float]:
        """How high the bodies rise, by their identities: those of a block that begin at one height as high as
        the highest of them, so that all letters of a word stand side by side."""
        levels: dict[tuple[int, float], list[Instance]] = {}
        for each in self.instances:
            own = self.frames[each.block]
            # The z of the block's own frame, which turns and is moved.
            heights = each.body.positions @ (own[:, 2] @ each.transform[:, :3])
            begins = float(heights.min() + own[:, 2] @ (each.transform[:, 3] - own[:, 3]))
            levels.setdefault((each.block, round(begins, 2)), []).append(each)
        return {
            id(each): max(float(other.bounds[1, 2]) for other in level)
            for level in levels.values()
            for each in level
        }
