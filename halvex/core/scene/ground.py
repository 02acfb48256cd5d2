"""The ground: a wall behind the letters, or a floor and a wall, which meet in a sweep (a cove)."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.piece.backdrop import Backdrop

NO_GROUND, WALL, COVE = 0, 1, 2
# Clearance so that backs and wall never lie in the very same plane.
CLEARANCE_PX = 0.05
# Ground that comes nearer to the viewer than this is not shown in parallel views.
FARTHEST_FRONT_PX = 20_000.0
# A corner is a sweep too narrow to be seen.
NARROWEST_SWEEP_PX = 0.01
# How far behind the letters a backdrop without a ground stands, in heights of the letters: glass shows it
# displaced by as much as it would then be.
BEHIND_LETTERS = 0.5


class Ground(NamedTuple):
    """kind; for a wall: point and normal (3,); for a cove: floor height, back depth and sweep
    radius; material rows of the wall or floor, and of a cove's wall; how far back what is seen past all
    ground stands."""

    kind: int
    point: tuple[np.float32, np.float32, np.float32]
    normal: tuple[np.float32, np.float32, np.float32]
    floor: np.float32
    back: np.float32
    radius: np.float32
    material: int
    wall_material: int
    behind: np.float32


def make_ground(
    backdrop: Backdrop,
    corners: NDArray[np.float64],
    turn: NDArray[np.float64],
    material: int,
    wall_material: int,
) -> Ground:
    """The ground for bodies whose corners (n, 3) stand turned in the world.

    A wall lies the backdrop's gap behind the deepest back, parallel to the faces; a floor lies as far under
    the lowest point, and its wall a multiple of the letters' height behind them.
    """
    f, gap = np.float32, backdrop.gap
    low, high = corners.min(axis=0), corners.max(axis=0)
    reach = max(high[1] - low[1], 1.0)
    behind = f(low[2] - BEHIND_LETTERS * reach)
    if backdrop.ground == "wall":
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
            material,
            behind,
        )
    away = backdrop.distance / 100 * reach
    radius = max(min(backdrop.sweep / 100 * reach, away), NARROWEST_SWEEP_PX)
    origin, up = (f(0), f(0), f(0)), (f(0), f(1), f(0))
    floor, back = f(low[1] - gap - CLEARANCE_PX), f(low[2] - away)
    kind = COVE if backdrop.ground == "floor" else NO_GROUND
    return Ground(kind, origin, up, floor, back, f(radius), material, wall_material, behind)


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


def developed(ground: Ground, points: NDArray[np.float64]) -> NDArray[np.float64]:
    """Where points (n, 3) of the world are before the ground, in uv of the ground rolled out flat, as
    `uv_on_ground` has it (render/interaction.py): of a cove before its floor and before its wall (2 n, 2)."""
    if ground.kind == WALL:
        normal = np.array(ground.normal, float)
        axis = np.array([1.0, 0.0, 0.0] if abs(normal[0]) < 0.9 else [0.0, 0.0, -1.0])
        tangent = axis - (axis @ normal) * normal
        tangent /= np.linalg.norm(tangent)
        way = points - np.array(ground.point, float)
        return np.stack([way @ tangent, way @ np.cross(normal, tangent)], axis=1)
    floor, back, radius = float(ground.floor), float(ground.back), float(ground.radius)
    x, y, z = points.T
    on_floor, on_wall = back + radius - z, radius * np.pi / 2 + y - floor - radius
    return np.concatenate([np.stack([x, on_floor], axis=1), np.stack([x, on_wall], axis=1)])
