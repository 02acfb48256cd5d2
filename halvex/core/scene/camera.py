"""The camera: a 36 × 24 mm frame whose longer side spans the canvas, looking along -z.

The face plane z = 0 keeps its scale at any focal length: one px of face is one px of canvas.
"""

import math
from typing import NamedTuple

import numpy as np

from halvex.core.piece.model import Canvas, View

FRAME_MM = 36.0
# A camera of parallel projection stands this far out; only what is behind it would be cut.
PARALLEL_STAND_PX = 20_000.0


class Camera(NamedTuple):
    """parallel; stand = camera height over the face plane in px; canvas size; picture px per canvas px."""

    parallel: bool
    stand: np.float32
    width: np.float32
    height: np.float32
    px_scale: np.float32


def make_camera(view: View, canvas: Canvas, px_scale: float) -> Camera:
    """The camera of a view, rendering `px_scale` px of picture per px of canvas."""
    parallel = view.projection == "parallel"
    stand = PARALLEL_STAND_PX if parallel else camera_distance(view.focal_length, canvas)
    return Camera(parallel, np.float32(stand), np.float32(canvas.width), np.float32(canvas.height), np.float32(px_scale))


def camera_distance(focal_length_mm: float, canvas: Canvas) -> float:
    """Distance in px at which the longer side of the canvas fills the 36 mm side of the frame."""
    return focal_length_mm / FRAME_MM * max(canvas.width, canvas.height)


def angle_of_view(focal_length_mm: float, frame_mm: float = FRAME_MM) -> float:
    """Angle in degrees that a side of the frame takes in.

    >>> round(angle_of_view(50), 2)
    39.6
    """
    return math.degrees(2 * math.atan(frame_mm / 2 / focal_length_mm))


def face_to_canvas(view: View, canvas: Canvas, turn: np.ndarray, place: tuple[float, float, float]) -> np.ndarray:
    """The homography (3, 3) from a block's face plane (x, y in px from its place) to the canvas (px, y down, from the top left).

    `turn` (3, 3) takes the lettering's frame to the world.
    """
    columns = np.column_stack([turn[:, 0], turn[:, 1], turn @ np.array(place)])
    centre = np.array([canvas.width / 2, canvas.height / 2])
    if view.projection == "parallel":
        weight = np.array([0.0, 0.0, 1.0])
    else:
        stand = camera_distance(view.focal_length, canvas)
        weight = np.array([0.0, 0.0, 1.0]) - columns[2] / stand
    return np.vstack([columns[0] + centre[0] * weight, -columns[1] + centre[1] * weight, weight])
