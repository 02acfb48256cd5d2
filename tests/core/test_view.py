"""The camera: perspective, exact turns, oblique projections, framing and depth of field."""

import math
import unittest

import numpy as np

from halvex.core.piece import Piece
from halvex.core.piece.model import Canvas
from halvex.core.piece.turning import DIMETRIC_TURN, ISOMETRIC_TURNS, rotation
from halvex.core.piece.view import Oblique, View
from halvex.core.render.camera_rays import camera_ray, lens_ray
from halvex.core.scene import scene_of
from halvex.core.scene.camera import (
    angle_of_view,
    blur_circle,
    camera_distance,
    face_to_canvas,
    lens_radius,
    make_camera,
    world_to_canvas,
)
from tests.core.small_scenes import VIEWS, small_piece

F = np.float32
CANVAS = Canvas(width=1280, height=720)


def drawn(view: View, *points: tuple[float, float, float]) -> np.ndarray:
    """Where points of the world are seen on the canvas (n, 2), y up from its middle."""
    projection = world_to_canvas(make_camera(view, CANVAS, 1.0))
    seen = projection @ np.column_stack([np.array(points, float), np.ones(len(points))]).T
    return (seen[:2] / seen[2]).T * [1, -1] + [-CANVAS.width / 2, CANVAS.height / 2]


class ViewTest(unittest.TestCase):
    def test_isometric_axes_are_foreshortened_alike(self) -> None:
        """ISO 5456-3: all axes by √(2/3)."""
        for name, turn in ISOMETRIC_TURNS.items():
            seen = np.linalg.norm(rotation(turn)[:2], axis=0)
            np.testing.assert_allclose(seen, math.sqrt(2 / 3), atol=1e-9, err_msg=name)
        self.assertGreater(rotation(ISOMETRIC_TURNS["left wall"])[0, 2], 0, "a left wall faces right")
        self.assertGreater(rotation(ISOMETRIC_TURNS["floor"])[1, 2], 0, "a floor faces up")
        self.assertLess(rotation(ISOMETRIC_TURNS["ceiling"])[1, 2], 0, "a ceiling faces down")

    def test_field_of_view(self) -> None:
        """36 × 24 mm, 50 mm: 39.60° across, 26.99° high, 46.79° diagonal."""
        for side, angle in ((36, 39.60), (24, 26.99), (math.hypot(36, 24), 46.79)):
            self.assertAlmostEqual(angle_of_view(50, side), angle, places=2)

    def test_the_face_keeps_its_scale_at_any_focal_length(self) -> None:
        canvas = Piece().canvas
        for focal in (20, 50, 200):
            distance = camera_distance(focal, canvas)
            self.assertAlmostEqual(
                math.degrees(2 * math.atan(canvas.width / 2 / distance)), angle_of_view(focal)
            )
        self.assertEqual(View().projection, "central")

    def test_obliques_recede_as_iso_5456_3_says(self) -> None:
        """Cavalier: 45° at full scale; cabinet: 45° at half; the face in true shape."""
        for scale in (1.0, 0.5):
            origin, right, up, back = drawn(
                View(projection="oblique", oblique=Oblique(scale=scale)),
                (0, 0, 0),
                (100, 0, 0),
                (0, 100, 0),
                (0, 0, -100),
            )
            np.testing.assert_allclose([right - origin, up - origin], [[100, 0], [0, 100]], atol=1e-3)
            receding = back - origin
            self.assertAlmostEqual(math.degrees(math.atan2(receding[1], receding[0])), 45.0, places=4)
            self.assertAlmostEqual(float(np.hypot(*receding)), 100 * scale, places=3)

    def test_a_part_of_the_canvas_is_seen_as_in_the_whole(self) -> None:
        """The camera of a part sends the same rays as that of the whole, its pixels counted from the part's
        upper left, in every projection."""
        for name, view in VIEWS.items():
            whole = scene_of(small_piece(view=view))
            part = whole.for_part(30, 20, 80, 45)
            for x, y in ((0, 0), (12.5, 40), (80, 45)):
                with self.subTest(view=name, x=x, y=y):
                    a, b = camera_ray(whole.camera, F(x + 30), F(y + 20)), camera_ray(part.camera, F(x), F(y))
                    np.testing.assert_allclose(a, b, rtol=1e-5, atol=1e-5)

    def test_dimetric_axes(self) -> None:
        """ISO 5456-3: axes drawn at 7° and 42° to the level, foreshortened as 1 : 1 : 1/2."""
        axes = rotation(DIMETRIC_TURN)[:2]
        lengths = np.linalg.norm(axes, axis=0)
        np.testing.assert_allclose(lengths / lengths[1], [1, 1, 0.5], atol=1e-6)
        angles = np.degrees(np.arctan2(np.abs(axes[1]), np.abs(axes[0])))
        np.testing.assert_allclose(angles[[0, 2]], [7, 42], atol=0.6)

    def test_rays_meet_what_the_projection_draws(self) -> None:
        views = (
            View(across=120, up=-40, shift_x=60, shift_y=25, zoom=1.7),
            View(projection="parallel", zoom=0.6, across=-80),
            View(projection="oblique", oblique=Oblique(angle=30, scale=0.8), shift_y=50),
        )
        for view in views:
            camera = make_camera(view, CANVAS, 1.0)
            for point in ((0, 0, 0), (150, -90, -60), (-300, 120, 80)):
                at = (drawn(view, point)[0] - [-CANVAS.width / 2, CANVAS.height / 2]) * [1, -1]
                o, d = (np.array(v, float) for v in camera_ray(camera, F(at[0]), F(at[1])))
                beside = np.cross(np.array(point) - o, d)
                self.assertLess(float(np.linalg.norm(beside)), 0.2, f"{view} misses {point}")

    def test_a_shift_lens_keeps_the_perspective(self) -> None:
        plain, shifted = (drawn(View(shift_x=s), (0, 0, 0), (200, 50, -100)) for s in (0, 90))
        np.testing.assert_allclose(shifted - plain, [[90, 0], [90, 0]], atol=1e-3)

    def test_face_to_canvas_is_the_same_projection(self) -> None:
        view = View(across=30, zoom=1.2)
        turn = rotation(ISOMETRIC_TURNS["floor"])
        plane = face_to_canvas(view, CANVAS, turn, (10.0, 20.0, 5.0))
        seen = plane @ np.array([40.0, -30.0, 1.0])
        point = turn @ np.array([50.0, -10.0, 5.0])
        np.testing.assert_allclose(
            (seen[:2] / seen[2] - [640, 360]) * [1, -1], drawn(view, tuple(point))[0], atol=1e-6
        )


class DepthOfFieldTest(unittest.TestCase):
    def test_rays_of_one_pixel_meet_in_the_sharp_plane(self) -> None:
        camera = make_camera(View(aperture=2, focus=-150), CANVAS, 1.0)
        o, d = camera_ray(camera, F(300), F(200))
        met = []
        for a, b in ((0, 0), (1, 0), (-0.6, 0.7), (0.1, -0.9)):
            q, e = (np.array(v, float) for v in lens_ray(camera, o, d, F(a), F(b)))
            met.append(q + e * (-150 - q[2]) / e[2])
        np.testing.assert_allclose(met, [met[0]] * len(met), atol=0.05)

    def test_blur_is_that_of_a_thin_lens(self) -> None:
        """Similar triangles: what lies d behind the sharp plane at distance s spreads over 2 r d /
        (s + d), r the lens' radius."""
        view = View(aperture=4)
        distance = camera_distance(view.focal_length, CANVAS)
        camera = make_camera(view, CANVAS, 1.0)
        o, d = camera_ray(camera, F(640), F(360))
        edges = []
        for a in (-1, 1):
            q, e = (np.array(v, float) for v in lens_ray(camera, o, d, F(a), F(0)))
            edges.append((q + e * (-300 - q[2]) / e[2])[0])
        behind = abs(edges[1] - edges[0]) * distance / (distance + 300)
        self.assertAlmostEqual(behind, blur_circle(4, distance, 300), places=1)
        self.assertAlmostEqual(lens_radius(4, distance), distance / 8)


if __name__ == "__main__":
    unittest.main()
