"""Keylines, against shapely's buffers and geometry."""

import math
import unittest

import numpy as np
import shapely

from halvex.core.finish.covering import coverage
from halvex.core.finish.lines import lines_along
from halvex.core.piece.effects import Keyline
from halvex.core.piece.reading import piece_from_values
from halvex.core.scene.scene import scene_of
from tests.core.effect_plates import area_along, plate_of, worked
from tests.core.small_scenes import piece_of, small_piece


class KeylineTest(unittest.TestCase):
    def test_it_is_as_wide_as_it_is_set_at_any_scale(self) -> None:
        """A rectangle's mitred line has the area between two rectangles."""
        box = shapely.box(50, 40, 170, 100)
        for scale in (0.25, 1.0, 3.0):
            face = shapely.transform(box, lambda points, by=scale: points * by)
            for place, out, within in (("centred", 2, 2), ("inside", 0, 4), ("outside", 4, 0)):
                area = area_along(face, Keyline(width=4, place=place), scale)
                expected = (120 + 2 * out) * (60 + 2 * out) - (120 - 2 * within) * (60 - 2 * within)
                self.assertAlmostEqual(area.area, expected * scale**2, delta=1e-6 * expected)
                drawn = coverage(area, round(240 * scale), round(140 * scale)).sum(dtype=float)
                self.assertAlmostEqual(float(drawn), expected * scale**2, delta=0.05)

    def test_lines_of_several_faces_are_those_of_all_at_once(self) -> None:
        """Faces that overlap, that lie in another's counter, apart, and so close that lines overlap: against
        a buffer of their union."""
        ring = shapely.Point(60, 60).buffer(40).difference(shapely.Point(60, 60).buffer(28))
        faces = [
            ring,
            shapely.box(53, 50, 70, 66),
            shapely.box(120, 30, 160, 70),
            shapely.box(150, 60, 190, 90),
            shapely.box(193, 30, 220, 90),
            shapely.box(240, 30, 280, 90),
        ]
        size, whole = (320, 180), shapely.union_all(faces)
        for place, out, within in (("centred", 3, -3), ("inside", 0, -6), ("outside", 6, 0)):
            with self.subTest(place):
                line = Keyline(width=6, place=place, join="round")
                lines = lines_along(faces, line, 1.0)
                area = whole.buffer(out, quad_segs=64).difference(whole.buffer(within, quad_segs=64))
                outer, inner = zip(*lines, strict=True)
                drawn = coverage(outer, *size, without=inner)
                np.testing.assert_allclose(drawn, coverage(area, *size), atol=0.02)

    def test_dashes_run_around_faces_that_lie_close(self) -> None:
        """Where lines of two faces overlap there is one line."""
        faces = [shapely.box(50, 40, 100, 100), shapely.box(104, 40, 150, 100)]
        line = Keyline(width=2, place="outside", dash=8, gap=4)
        wide = line.model_copy(update={"width": 6.0})
        for each, count in ((line, 2), (wide, 1)):
            (dashes,) = lines_along(faces, each, 1.0)
            gap = shapely.box(102 - 1.5, 45, 102 + 1.5, 95)
            self.assertEqual(shapely.intersects(dashes.outer, gap), count == 2)

    def test_round_corners_and_double_lines(self) -> None:
        box = shapely.box(50, 40, 170, 100)
        line = area_along(box, Keyline(width=4, place="outside", join="round"), 1.0)
        self.assertAlmostEqual(line.area, 2 * (120 + 60) * 4 + math.pi * 16, delta=0.1)
        double = area_along(box, Keyline(width=2, place="outside", double=3), 1.0)
        self.assertEqual(len(shapely.get_parts(double)), 2)
        self.assertAlmostEqual(shapely.distance(*shapely.get_parts(double)), 3, places=6)

    def test_dashes_share_a_ring_without_a_seam(self) -> None:
        """Of a circle they cover their share; on a rectangle one goes around the corner it begins at."""
        dashed = Keyline(width=4, join="round", dash=12, gap=6)
        disc = shapely.Point(100, 100).buffer(60, quad_segs=64)
        area = area_along(disc, dashed, 1.0)
        count = round(2 * math.pi * 60 / 18)
        self.assertEqual(len(shapely.get_parts(area)), count)
        whole = area_along(disc, dashed.model_copy(update={"dash": 0}), 1.0)
        self.assertAlmostEqual(area.area / whole.area, 12 / 18, delta=0.005)
        self.assertLess(np.ptp(shapely.area(shapely.get_parts(area))), 0.5)
        box = shapely.box(50, 40, 170, 100)
        area = area_along(box, dashed.model_copy(update={"join": "mitred", "width": 2}), 2.0)
        corner = shapely.Point(box.exterior.coords[0])
        self.assertTrue(area.contains(corner.buffer(1.9, cap_style="square")))

    def test_a_soft_edge_fades_and_keeps_its_place(self) -> None:
        lines = [
            worked([Keyline(width=6, colour="#ffffff", softness=soft)], plate_of(2.0)).light
            - worked([], plate_of(2.0)).light
            for soft in (0, 8)
        ]
        hard, soft = (np.abs(light).sum(axis=2) for light in lines)
        self.assertLess(np.abs(np.diff(soft, axis=1)).max(), 0.5 * np.abs(np.diff(hard, axis=1)).max())
        self.assertGreater((soft > 0).sum(), 1.5 * (hard > 0).sum())

    def test_faces_are_those_that_the_camera_sees(self) -> None:
        """A rectangle of 200 × 100 px square on, in the middle of the canvas; from behind none is seen."""
        values = piece_of("#ffffff")
        (face,) = scene_of(piece_from_values(values)).faces()
        np.testing.assert_allclose(face.area.bounds, (60, 40, 260, 140), atol=1e-3)
        self.assertAlmostEqual(face.area.area, 20_000, delta=1)
        values["view"]["turn"] = {"y": 60}
        (turned,) = scene_of(piece_from_values(values)).faces()
        self.assertAlmostEqual(turned.area.area, 10_000, delta=1)
        values["view"]["turn"] = {"y": 170}
        self.assertEqual(scene_of(piece_from_values(values)).faces(), ())

    def test_letters_have_their_counters(self) -> None:
        piece = small_piece(view={}, blocks=[{"words": "o", "size": 100, "form": {"bevel": {"width": 2}}}])
        (face,) = scene_of(piece).faces()
        self.assertEqual(len(face.area.interiors), 1)

    def test_a_bevel_up_to_its_ridge_counts_as_the_face(self) -> None:
        """A chiselled letter, and the same letter without a bevel, have one outline."""
        areas = []
        for width in (0, 500):
            bevel = {"profile": "chamfer", "width": width}
            block = {"words": "o", "size": 100, "form": {"bevel": bevel}}
            (face,) = scene_of(small_piece(view={"projection": "parallel"}, blocks=[block])).faces()
            areas.append(face.area)
        self.assertLess(shapely.hausdorff_distance(*areas), 0.3)


if __name__ == "__main__":
    unittest.main()
