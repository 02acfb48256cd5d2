"""Outlines of the letters' faces, and of whole letters and plates, as the camera sees them."""

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from halvex.core.memory import kept
from halvex.core.scene.camera import Camera, lettering_to_picture
from halvex.core.scene.instances import Instance
from halvex.core.solids import Mesh, PartOf

Array = NDArray[np.float64]

# Points of a homogeneous weight under this lie behind the eye, or next to it.
LEAST_WEIGHT = 1e-3
# Where edges cross, their points are moved to a grid of so many px: to a power of two, they are exact on it.
GRID_PX = 2.0**-10


# Pairs of a point and an edge that are looked at together.
MOST_AT_ONCE = 4_000_000
_OF_PLATES = (PartOf.PLATE, PartOf.SLAB)


@dataclass(frozen=True)
class FaceSeen:
    """The face of a body, or the bevel that leaves none, or all of a body, as the camera sees it: what it
    covers, in px of the picture from its upper left, and the number of its block. What stands before it is
    not asked."""

    area: shapely.Geometry
    block: int


@kept
def _rim(mesh: Mesh) -> Array:
    """The edges of a body's face (n, 2, 3), from point to point, the face on their left. Where a bevel leaves
    no face, the bevel counts as one."""
    front = mesh.part == PartOf.FACE
    triangles = mesh.triangles[front if front.any() else mesh.part == PartOf.BEVEL]
    places, same = _welded(mesh)
    return np.asarray(places[_border(same[triangles], len(places))])


@kept
def _welded(mesh: Mesh) -> tuple[Array, NDArray[np.int64]]:
    """The places (n, 3) of a body's points, those of one place as one, as facets need not share them; and the
    number of each point's place."""
    places, same = np.unique(np.round(mesh.positions, 6), axis=0, return_inverse=True)
    return places, same.reshape(-1).astype(np.int64)


def _border(corners: NDArray[np.int64], places: int) -> NDArray[np.int64]:
    """The edges (n, 2) of triangles (m, 3) of so many places, from place to place, the triangles on their
    left; one between two triangles is run through both ways, and left out."""
    ways = np.concatenate([corners[:, [0, 1]], corners[:, [1, 2]], corners[:, [2, 0]]])
    there, back = ways[:, 0] * places + ways[:, 1], ways[:, 1] * places + ways[:, 0]
    return np.asarray(ways[~np.isin(there, back)])


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
    x, y, _, weight = projection.matrix @ np.column_stack([placed, np.ones(len(placed))]).T
    if not len(rim) or weight.min() < LEAST_WEIGHT:
        return nothing
    ends = np.column_stack([x / weight, y / weight]).reshape(-1, 2, 2)
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
    places, same = _welded(mesh)
    placed = places @ transform.matrix[:, :3].T + transform.matrix[:, 3]
    x, y, _, weight = projection.matrix @ np.column_stack([placed, np.ones(len(placed))]).T
    if weight.min() < LEAST_WEIGHT:
        return shapely.Polygon()
    seen, corners = np.column_stack([x / weight, y / weight]), same[mesh.triangles]
    a, b, c = (seen[corners[:, n]] for n in range(3))
    # With y down, what faces the camera has a negative area.
    area = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    border = _border(corners[area < 0], len(places))
    if not len(border):
        return shapely.Polygon()
    ends = seen[border]
    lines = shapely.union_all(shapely.linestrings(ends), grid_size=GRID_PX)
    cells = shapely.get_parts(shapely.polygonize(shapely.get_parts(lines)))
    if not len(cells):
        return shapely.Polygon()
    inside = shapely.get_coordinates(shapely.point_on_surface(cells))
    return shapely.union_all(cells[_windings(ends, inside) != 0])


def _windings(ends: Array, points: Array) -> NDArray[np.int64]:
    """How often edges (n, 2, 2), which close up, wind around each of the points (p, 2)."""
    (x0, y0), (x1, y1) = ends[:, 0].T, ends[:, 1].T
    found = np.zeros(len(points), np.int64)
    step = max(MOST_AT_ONCE // max(len(ends), 1), 1)
    for first in range(0, len(points), step):
        x, y = (points[first : first + step, axis, np.newaxis] for axis in (0, 1))
        up, down = (y0 <= y) & (y1 > y), (y1 <= y) & (y0 > y)
        side = (x1 - x0) * (y - y0) - (x - x0) * (y1 - y0)
        found[first : first + step] = (up & (side > 0)).sum(axis=1) - (down & (side < 0)).sum(axis=1)
    return found


def silhouettes_seen(
    instances: tuple[Instance, ...], turn: Array, camera: Camera, *, plates: bool
) -> tuple[FaceSeen, ...]:
    """What letters cover, or the plates and slabs behind them, each body by itself."""
    projection = _Way(lettering_to_picture(camera, turn.astype(np.float32)))
    own = [each for each in instances if bool(np.isin(each.body.part, _OF_PLATES).all()) == plates]
    seen = ((_silhouette(each.body, _Way(each.transform), projection), each.block) for each in own)
    return tuple(FaceSeen(area, block) for area, block in seen if not area.is_empty)


def faces_seen(instances: tuple[Instance, ...], turn: Array, camera: Camera) -> tuple[FaceSeen, ...]:
    """The faces that are turned to the camera."""
    projection = _Way(lettering_to_picture(camera, turn.astype(np.float32)))
    seen = ((_seen(each.body, _Way(each.transform), projection), each.block) for each in instances)
    return tuple(FaceSeen(area, block) for area, block in seen if not area.is_empty)
