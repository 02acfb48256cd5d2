"""Outlines of the letters' faces as the camera sees them."""

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


@dataclass(frozen=True)
class FaceSeen:
    """The face of a body, or the bevel that leaves none, as the camera sees it: what it covers, in px of the
    picture from its upper left, and the number of its block. What stands before it is not asked."""

    area: shapely.Geometry
    block: int


@kept
def _rim(mesh: Mesh) -> Array:
    """The edges of a body's face (n, 2, 3), from point to point, the face on their left. Where a bevel leaves
    no face, the bevel counts as one."""
    front = mesh.part == PartOf.FACE
    triangles = mesh.triangles[front if front.any() else mesh.part == PartOf.BEVEL]
    # Points of one place are one: facets need not share them.
    places, same = np.unique(np.round(mesh.positions, 6), axis=0, return_inverse=True)
    corners = same.reshape(-1)[triangles]
    ways = np.concatenate([corners[:, [0, 1]], corners[:, [1, 2]], corners[:, [2, 0]]]).astype(np.int64)
    # An edge within the face is run through both ways.
    there, back = ways[:, 0] * len(places) + ways[:, 1], ways[:, 1] * len(places) + ways[:, 0]
    return np.asarray(places[ways[~np.isin(there, back)]])


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


def faces_seen(instances: tuple[Instance, ...], turn: Array, camera: Camera) -> tuple[FaceSeen, ...]:
    """The faces that are turned to the camera."""
    projection = _Way(lettering_to_picture(camera, turn.astype(np.float32)))
    seen = ((_seen(each.body, _Way(each.transform), projection), each.block) for each in instances)
    return tuple(FaceSeen(area, block) for area, block in seen if not area.is_empty)
