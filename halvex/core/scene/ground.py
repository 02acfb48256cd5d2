"""The ground: a wall behind the letters, or a floor that sweeps up into a wall (a cove)."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

NO_GROUND, WALL, COVE = 0, 1, 2
# Clearance so that backs and wall never lie in the very same plane.
CLEARANCE_PX = 0.05
# Ground that comes nearer to the viewer than this is not shown in parallel views.
FARTHEST_FRONT_PX = 20_000.0


class Ground(NamedTuple):
    """kind; for a wall: point and normal (3,); for a cove: floor height, back depth and sweep
    radius; material row."""

    kind: int
    point: tuple[np.float32, np.float32, np.float32]
    normal: tuple[np.float32, np.float32, np.float32]
    floor: np.float32
    back: np.float32
    radius: np.float32
    material: int


def make_ground(
    kind: str, gap: float, corners: NDArray[np.float64], turn: NDArray[np.float64], material: int
) -> Ground:
    """The ground for bodies whose corners (n, 3) stand turned in the world.

    A wall lies `gap` behind the deepest back, parallel to the faces; a floor lies `gap` under the
    lowest point.
    """
    f = np.float32
    if kind == "wall":
        normal = turn[:, 2]
        point = normal * (float((corners @ normal).min()) - gap - CLEARANCE_PX)
        return Ground(
            WALL,
            (f(point[0]), f(point[1]), f(point[2])),
            (f(normal[0]), f(normal[1]), f(normal[2])),
            f(0),
            f(0),
            f(1),
            material,
        )
    low, high = corners.min(axis=0), corners.max(axis=0)
    reach = max(high[1] - low[1], 1.0)
    origin, up = (f(0), f(0), f(0)), (f(0), f(1), f(0))
    floor, back = f(low[1] - gap - CLEARANCE_PX), f(low[2] - 3.0 * reach)
    return Ground(COVE if kind == "floor" else NO_GROUND, origin, up, floor, back, f(1.5 * reach), material)


def front_of(ground: Ground, frame: NDArray[np.float64], lean: tuple[float, float]) -> float:
    """The greatest z in px at which parallel rays meet the ground, at most FARTHEST_FRONT_PX.

    frame (n, 2): where rays at the picture's corners cross the face plane; lean (2,): how far they
    step sideways per px of depth. A plane is nearest at one of the corners.
    """
    if ground.kind == NO_GROUND:
        return 0.0
    if ground.kind == WALL:
        normal, point = np.array(ground.normal, float), np.array(ground.point, float)
    else:
        normal, point = np.array([0.0, 1.0, 0.0]), np.array([0.0, float(ground.floor), 0.0])
    facing = float(normal @ (*lean, 1.0))
    if facing <= 0.0:
        return 0.0
    z = (normal @ point - frame @ normal[:2]) / max(facing, 1e-9)
    return float(min(z.max(), FARTHEST_FRONT_PX))
