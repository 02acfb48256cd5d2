"""Turns: rotation matrices of exact angles, and the four isometric placements."""

import math

import numpy as np
from numpy.typing import NDArray

from halvex.core.piece.view import Turn

# Elevation of the isometric view: all three axes are foreshortened alike, by √(2/3) (ISO 5456-3).
ISOMETRIC_ELEVATION_DEG = math.degrees(math.atan(1 / math.sqrt(2)))

# Named by the plane the letters lie on.
ISOMETRIC_TURNS: dict[str, Turn] = {
    "left wall": Turn(x=ISOMETRIC_ELEVATION_DEG, y=45, z=0),
    "right wall": Turn(x=ISOMETRIC_ELEVATION_DEG, y=-45, z=0),
    "floor": Turn(x=ISOMETRIC_ELEVATION_DEG - 90, y=0, z=45),
    "ceiling": Turn(x=90 - ISOMETRIC_ELEVATION_DEG, y=0, z=-45),
}

# The dimetric view of ISO 5456-3, axes at 7° and 42° on the paper with scales 1, 1 and 1/2: an exact turn
# whose foreshortenings are 0.9428, 0.9428 and 0.4714.
DIMETRIC_TURN = Turn(x=math.degrees(math.asin(1 / 3)), y=math.degrees(math.asin(1 / math.sqrt(8))), z=0)


def rotation(turn: Turn) -> NDArray[np.float64]:
    """The matrix (3, 3) that turns first about z, then y, then x, right-handed."""
    cx, cy, cz = (math.cos(math.radians(a)) for a in (turn.x, turn.y, turn.z))
    sx, sy, sz = (math.sin(math.radians(a)) for a in (turn.x, turn.y, turn.z))
    about_x = np.array([[1, 0, 0], [0, cx, -sx], [0, sx, cx]])
    about_y = np.array([[cy, 0, sy], [0, 1, 0], [-sy, 0, cy]])
    about_z = np.array([[cz, -sz, 0], [sz, cz, 0], [0, 0, 1]])
    return np.asarray(about_x @ about_y @ about_z)
