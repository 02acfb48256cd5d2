"""Centre lines, stems and collisions against shapes whose measures are known."""

import math
import unittest

import numpy as np
import shapely

from halvex.core.advice.collisions import collisions, parting_space, spread_of
from halvex.core.advice.stems import MOST_POINTS, thinnest, widest
from halvex.core.lettering import Outline, set_block
from halvex.core.lettering.outlines import polygon_of
from halvex.core.piece.block import Shape
from halvex.core.piece.form import Bevel, Form, Rim
from halvex.core.piece.lettering import Lettering
from halvex.core.piece.view import View
from halvex.core.solids.centrelines import centre_lines, smoothed
from halvex.core.solids.inks import Ink, ink_of, single_inks
from halvex.core.solids.roof import OutlineKey
from halvex.core.solids.section import section

TEE = Outline(
    (
        np.array(
            [
                (-0.5, 0.8),
                (-0.5, 0.6),
                (-0.08, 0.6),
                (-0.08, 0),
                (0.08, 0),
                (0.08, 0.6),
                (0.5, 0.6),
                (0.5, 0.8),
            ],
            float,
        ),
    ),
    "tee",
    "T",
)


def ring_outline(outer: float, inner: float) -> Outline:
    turns = np.linspace(0, 2 * np.pi, 90, endpoint=False)
    circle = np.column_stack([np.cos(turns), np.sin(turns)])
    return Outline((circle * outer, circle[::-1] * inner), f"ring {outer} {inner}", "O")


def letters(words: str, typeface: str = "archivo-black", **more: float) -> list[Ink]:
    return ink_of(set_block(Lettering(words=words, typeface=typeface, **more)), Form(joined=False))


class CentreLineTest(unittest.TestCase):
    def test_a_bar_is_one_line_along_its_middle(self) -> None:
        bar = Outline((np.array([(0, 0), (1, 0), (1, 0.2), (0, 0.2)], float),), "bar")
        (line,) = centre_lines(OutlineKey(bar))
        np.testing.assert_allclose(line.points[:, 1], 0.1, atol=1e-9)
        np.testing.assert_allclose(line.half, 0.1, atol=1e-9)
        self.assertEqual((line.closed, line.free), (False, (True, True)))
        # A tube as thin as the line runs on to the stroke's ends, less its own radius.
        thin = smoothed(line, amount=0.5, reach=0.02)
        self.assertAlmostEqual(float(np.ptp(thin.points[:, 0])), 1 - 2 * 0.02, delta=1e-6)

    def test_a_ring_is_a_closed_line(self) -> None:
        (line,) = centre_lines(OutlineKey(ring_outline(0.5, 0.3)))
        self.assertTrue(line.closed)
        np.testing.assert_allclose(np.hypot(*line.points.T), 0.4, atol=2e-3)

    def test_a_tee_is_a_bar_and_a_stem(self) -> None:
        lines = sorted(centre_lines(OutlineKey(TEE)), key=lambda line: np.ptp(line.points[:, 0]))
        self.assertEqual(len(lines), 2)
        self.assertLess(float(np.ptp(lines[0].points[:, 0])), 0.02)
        self.assertGreater(float(np.ptp(lines[1].points[:, 0])), 0.7)

    def test_a_bar_runs_straight_past_the_stem_that_meets_it(self) -> None:
        """The medial axis dips into the stem; the tube does not, unless it is asked to follow every bend."""
        bar = max(centre_lines(OutlineKey(TEE)), key=lambda line: np.ptp(line.points[:, 0]))
        dips = []
        for amount in (0.0, 0.2):
            line = smoothed(bar, amount=amount, reach=0.05).points
            dips.append(float(np.abs(line[np.abs(line[:, 0]) < 0.3, 1] - 0.7).max()))
        self.assertGreater(dips[0], 0.012)
        self.assertLess(dips[1], 0.002)

    def test_tubes_bend_and_have_no_kinks(self) -> None:
        """Over a step of 0.012 em no line of these letters turns by more than glass of their width bends."""
        for ink in letters("FBgt", "lobster"):
            for line in centre_lines(ink.key):
                points = smoothed(line, amount=0.7, reach=0.02).points
                ways = np.diff(points, axis=0)
                turns = np.diff(np.unwrap(np.arctan2(ways[:, 1], ways[:, 0])))
                self.assertLess(float(np.degrees(np.abs(turns)).max(initial=0)), 12.0)

    def test_a_joined_script_is_one_piece(self) -> None:
        """Where letters of a script touch, their lines run into each other: no more pieces than bodies."""
        inks = ink_of(set_block(Lettering(words="un", typeface="lobster")), Form())
        self.assertEqual(len(inks), 1)
        lines = centre_lines(inks[0].key)
        network = shapely.union_all(
            [
                shapely.linestrings(np.vstack([line.points, line.points[:1]]) if line.closed else line.points)
                for line in lines
            ]
        )
        self.assertEqual(
            len(shapely.get_parts(shapely.union_all(shapely.get_parts(network.buffer(1e-4))))), 1
        )

    def test_a_dot_still_has_a_line(self) -> None:
        self.assertEqual(len(centre_lines(letters(".")[0].key)), 1)


class StemTest(unittest.TestCase):
    def test_a_bar_is_as_wide_as_it_is(self) -> None:
        inks = ink_of(set_block(Shape(shape="rectangle", width=300, height=40)), Form())
        for stem in (thinnest(inks), widest(inks)):
            self.assertAlmostEqual(stem.width, 40, places=6)
            self.assertAlmostEqual(abs(stem.across[1]), 1.0, places=6)

    def test_a_tees_strokes_are_told_apart(self) -> None:
        inks = [Ink(TEE, 100, 0, 0)]
        self.assertAlmostEqual(thinnest(inks).width, 16, delta=0.2)
        self.assertGreaterEqual(widest(inks).width, 20)

    def test_fat_faces_have_hairlines(self) -> None:
        fat, even = letters("H", "abril-fatface"), letters("H", "archivo-black")
        self.assertGreater(widest(fat).width / thinnest(fat).width, 3)
        self.assertLess(widest(even).width / thinnest(even).width, 2)

    def test_letters_of_thousands_of_px_are_measured_coarser_and_all_but_the_same(self) -> None:
        """Roofs of all their points took seconds."""
        small, large = (
            ink_of(set_block(Lettering(words="g", typeface="tilt-neon", size=size)), Form())
            for size in (400, 20_000)
        )
        self.assertGreater(sum(map(len, large[0].outline.rings)), MOST_POINTS)
        for of in (thinnest, widest):
            one, other = of(small).width, of(large).width
            self.assertAlmostEqual(other / 20_000, one / 400, delta=0.002)


class CollisionTest(unittest.TestCase):
    def test_space_between_squares_is_plain_geometry(self) -> None:
        first, second = shapely.box(0, 0, 10, 10), shapely.box(13, 0, 23, 10)
        self.assertAlmostEqual(parting_space(first, second, 8), 5, delta=0.01)
        self.assertEqual(parting_space(first, second, 2), 0)
        # Diagonal neighbours are as far apart as their corners: √(x² + 6²) = 10.
        above = shapely.box(12, 16, 20, 20)
        self.assertAlmostEqual(parting_space(first, above, 10), math.sqrt(10**2 - 6**2) - 2, delta=0.01)

    def test_pairs_are_named_and_the_space_named_frees_them(self) -> None:
        inks = letters("AVO", size=200)
        reach = 12.0
        found = collisions(inks, reach)
        self.assertTrue(found)
        shapes = {
            ink.outline.name: shapely.transform(
                polygon_of(ink.outline.rings), lambda p, ink=ink: p * ink.size + (ink.x, ink.y)
            )
            for ink in inks
        }
        for pair in found:
            moved = shapely.transform(shapes[pair.second], lambda p, pair=pair: p + (pair.space, 0.0))
            self.assertGreaterEqual(shapely.distance(shapes[pair.first], moved), 2 * reach - 0.01)
        self.assertEqual(collisions(letters("AVO", size=200, tracking=400), reach), [])

    def test_letters_that_are_meant_to_run_together_are_not_named(self) -> None:
        """A joined script: its letters overlap as they are; kept apart by the form, they are named."""
        script = single_inks(set_block(Lettering(words="Lantern", typeface="lobster")))
        self.assertEqual(collisions(script, 2.0, joined=True), [])
        self.assertGreater(len(collisions(script, 2.0)), 3)

    def test_what_spreads_is_known(self) -> None:
        self.assertEqual(spread_of(Form())[0], 0)
        self.assertEqual(spread_of(Form(bevel=Bevel(side="outset", width=9))), (9, "bevels"))
        self.assertEqual(spread_of(Form(kind="rim", rim=Rim(width=6, side="centred"))), (3, "rims"))


class SectionTest(unittest.TestCase):
    def test_the_drawing_has_the_bodys_measures(self) -> None:
        (body,) = section(Form(depth=50, bevel=Bevel(width=8, height=6)), 40)
        across, z = np.array(body.outline).T
        self.assertEqual((across.min(), across.max(), z.min(), z.max()), (-20, 20, -50, 0))
        self.assertIn((12.0, 0.0), body.outline)

    def test_a_wide_bevel_meets_in_a_ridge_below_the_face(self) -> None:
        (body,) = section(Form(bevel=Bevel(width=40, height=20)), 40)
        self.assertAlmostEqual(max(z for _, z in body.outline), -10)

    def test_every_form_is_drawn(self) -> None:
        self.assertEqual([p.part for p in section(Form(kind="rim", rim=Rim(width=4)), 40)], ["body", "body"])
        self.assertEqual([p.part for p in section(Form(stands="raised"), 40)], ["body", "slab"])
        self.assertEqual([p.part for p in section(Form(stands="v-cut"), 40)], ["slab"])
        self.assertAlmostEqual(min(z for _, z in section(Form(kind="tube"), 40)[0].outline), -20)


class PlaneTest(unittest.TestCase):
    def test_the_face_lands_where_the_camera_sees_it(self) -> None:
        """The homography of the face plane against the camera's own rays."""
        from halvex.core.piece import piece_from_values
        from halvex.core.piece.turning import rotation
        from halvex.core.render.camera_rays import camera_ray
        from halvex.core.scene.camera import face_to_canvas, make_camera

        for projection in ("central", "parallel"):
            piece = piece_from_values(
                {"view": {"turn": {"x": 20, "y": -35, "z": 10}, "projection": projection}}
            )
            turn = rotation(piece.view.turn)
            plane = face_to_canvas(piece.view, piece.canvas, turn, (30, -20, 15))
            camera = make_camera(View.model_validate(piece.view), piece.canvas, 1.0)
            for point in ((0, 0), (120, 80), (-200, 40)):
                x, y, w = plane @ (*point, 1)
                origin, direction = (
                    np.array(v, float) for v in camera_ray(camera, np.float32(x / w), np.float32(y / w))
                )
                world = turn @ (np.array((*point, 0)) + (30, -20, 15))
                off = np.cross(world - origin, direction)
                self.assertLess(float(np.linalg.norm(off)), 0.05, f"{projection} {point}")


if __name__ == "__main__":
    unittest.main()
