"""The camera: a 36 × 24 mm frame whose longer side spans the canvas, looking along -z.

The face plane z = 0 keeps its scale at any focal length: one px of face is one px of canvas. Parallel
and oblique views (ISO 5456-3) are the same camera at no distance: all rays run one way.
"""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.piece.model import Canvas
from halvex.core.piece.view import View

FRAME_MM = 36.0
# Where nothing says how far parallel rays start from the face plane.
PARALLEL_STAND_PX = 20_000.0


class Camera(NamedTuple):
    """parallel; eye (3,): where central rays meet; lean (2,): how far parallel rays step sideways
    per px of depth; width, height of the canvas; px_scale: picture px per canvas px; zoom; shift
    (2,): where the picture's middle looks, in px of the face plane; lens: radius in px, 0 for none;
    focus: z of the sharp plane."""

    parallel: bool
    eye: tuple[np.float32, np.float32, np.float32]
    lean: tuple[np.float32, np.float32]
    width: np.float32
    height: np.float32
    px_scale: np.float32
    zoom: np.float32
    shift: tuple[np.float32, np.float32]
    lens: np.float32
    focus: np.float32


def make_camera(view: View, canvas: Canvas, px_scale: float, *, front: float = PARALLEL_STAND_PX) -> Camera:
    """The camera of a view, rendering `px_scale` px of picture per px of canvas.

    Parallel rays start at z = `front`, which is to lie before all that they may meet: the shorter
    the way, the less rounding on it.
    """
    f = np.float32
    parallel = view.projection != "central"
    stand = front if parallel else camera_distance(view.focal_length, canvas)
    lean = (0.0, 0.0)
    if view.projection == "oblique":
        angle = math.radians(view.oblique.angle)
        lean = (view.oblique.scale * math.cos(angle), view.oblique.scale * math.sin(angle))
    lens = 0.0 if parallel or not view.aperture else lens_radius(view.aperture, stand)
    return Camera(
        parallel,
        (f(view.across), f(view.up), f(stand)),
        (f(lean[0]), f(lean[1])),
        f(canvas.width),
        f(canvas.height),
        f(px_scale),
        f(view.zoom),
        (f(view.across - view.shift_x), f(view.up - view.shift_y)),
        f(lens),
        f(min(view.focus, 0.9 * stand)),
    )


def camera_distance(focal_length_mm: float, canvas: Canvas) -> float:
    """Distance in px at which the longer side of the canvas fills the 36 mm side of the frame."""
    return focal_length_mm / FRAME_MM * max(canvas.width, canvas.height)


def lens_radius(aperture: float, distance: float) -> float:
    """Radius in px of a lens of this f-number. The canvas is photographed life-size, so the focal
    length is the distance."""
    return distance / aperture / 2


def blur_circle(aperture: float, distance: float, depth: float) -> float:
    """Diameter in px of the face plane over which a point `depth` px behind the sharp face plane
    spreads (thin lens).

    >>> round(blur_circle(4.0, 1000.0, 100.0), 2)
    22.73
    """
    return 2 * lens_radius(aperture, distance) * depth / (distance + depth)


def angle_of_view(focal_length_mm: float, frame_mm: float = FRAME_MM) -> float:
    """Angle in degrees that a side of the frame takes in.

    >>> round(angle_of_view(50), 2)
    39.6
    """
    return math.degrees(2 * math.atan(frame_mm / 2 / focal_length_mm))


def world_to_canvas(camera: Camera) -> NDArray[np.float64]:
    """The projection (3, 4) from world points to the canvas (px, y down, from the top left), homogeneous."""
    middle = np.array([camera.width / 2, camera.height / 2], float)
    shift, zoom = np.array(camera.shift, float), float(camera.zoom)
    if camera.parallel:
        x, y = float(camera.lean[0]), float(camera.lean[1])
        weight = np.array([0.0, 0.0, 0.0, 1.0])
        across, up = np.array([1.0, 0.0, -x, -shift[0]]), np.array([0.0, 1.0, -y, -shift[1]])
    else:
        eye = np.array(camera.eye, float)
        weight = np.array([0.0, 0.0, -1 / eye[2], 1.0])
        # A point p is seen where the ray from the eye through it meets the face plane.
        across = np.array([1.0, 0.0, -eye[0] / eye[2], 0.0]) - shift[0] * weight
        up = np.array([0.0, 1.0, -eye[1] / eye[2], 0.0]) - shift[1] * weight
    return np.vstack([zoom * across + middle[0] * weight, -zoom * up + middle[1] * weight, weight])


def lettering_to_picture(camera: Camera, turn: NDArray[np.float32]) -> NDArray[np.float64]:
    """From points of the lettering's frame to (x, y, z, weight) (4, 4), homogeneous: px of the
    picture and the world's z.

    `turn` (3, 3) takes the lettering's frame to the world.
    """
    onto = np.diag([float(camera.px_scale)] * 2 + [1.0]) @ world_to_canvas(camera)
    rows = np.vstack([onto[:2], [0.0, 0.0, 1.0, 0.0], onto[2]])
    rows[:, :3] = rows[:, :3] @ turn.astype(float)
    return np.ascontiguousarray(rows)


def blur_scale(camera: Camera) -> tuple[float, float]:
    """(scale, weight of the sharp plane): a point of homogeneous weight w spreads over scale · |1 /
    sharp - 1 / w| px of the picture about its middle (thin lens)."""
    sharp = 1.0 if camera.parallel else 1 - float(camera.focus) / float(camera.eye[2])
    return float(camera.lens) * float(camera.zoom) * float(camera.px_scale), sharp


def face_to_canvas(
    view: View, canvas: Canvas, turn: NDArray[np.float64], place: tuple[float, float, float]
) -> NDArray[np.float64]:
    """The homography (3, 3) from a block's face plane (x, y in px from its place) to the canvas
    (px, y down, from the top left).

    `turn` (3, 3) takes the lettering's frame to the world.
    """
    projection = world_to_canvas(make_camera(view, canvas, 1.0))
    points = np.zeros((4, 3))
    points[:3, 0], points[:3, 1] = turn[:, 0], turn[:, 1]
    points[:3, 2], points[3, 2] = turn @ np.array(place), 1.0
    return np.asarray(projection @ points)
