"""Every piece of work has a budget, and stops when it is overtaken; what goes wrong names the
letter or part."""

import time
import unittest
from contextlib import nullcontext
from unittest import mock

import numpy as np

from halvex.core.lettering import LetteringError, set_block
from halvex.core.lettering.flattening import MOST_POINTS, FlatteningPen
from halvex.core.lettering.outlines import TooIntricateError, fill_nonzero, outline_of
from halvex.core.lettering.svg import read_svg
from halvex.core.piece import PieceError, piece_from_values
from halvex.core.piece.form import Bevel, Form
from halvex.core.scene import SceneError, scene_of
from halvex.core.scene.panorama import read_panorama
from halvex.core.solids import SolidError
from halvex.core.solids.bending import bend_of
from halvex.core.solids.body import outline_body
from halvex.core.solids.faults import making
from halvex.core.solids.paths import relaxed, tangents_of
from halvex.core.solids.roof import MOST_EDGES, OutlineKey, roof_of, roof_over
from halvex.core.stopping import CancelledError, stop_flag, stop_if_overtaken, stoppable

SVG = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100">{}</svg>'
# Within the sliders' range: a tube wider than its letters, which once ended a window's drawing for good.
WIDE_TUBE = {"words": "Rg", "size": 30, "form": {"kind": "tube", "tube": {"radius": 40}}}


def wavy(count: int) -> np.ndarray:
    """A ring of so many points, every second one further in."""
    turns = np.linspace(0, 2 * np.pi, count, endpoint=False)
    radius = np.where(np.arange(count) % 2, 0.5, 0.49)
    return np.column_stack([np.cos(turns), np.sin(turns)]) * radius[:, None]


class BudgetTest(unittest.TestCase):
    def test_a_curve_takes_no_more_points_than_its_pen_has(self) -> None:
        for far in (1e8, 1e15, float("inf"), float("nan")):
            pen = FlatteningPen(1.0, 1e-6)
            pen.move_to(0, 0)
            pen.cubic_to(far, far, -far, far, 5, 5)
            pen.line_to(1, 1)
            pen.close()
            self.assertTrue(pen.overfull)
            self.assertLessEqual(sum(len(contour) for contour in pen.contours), MOST_POINTS)

    def test_copies_that_draw_nothing_are_counted(self) -> None:
        groups = "".join(
            f'<g id="g{i}"><use href="#g{i - 1}"/><use href="#g{i - 1}"/></g>' for i in range(1, 19)
        )
        with self.assertRaises(LetteringError) as raised:
            read_svg(
                SVG.format(
                    f'<rect width="9" height="9"/><defs><g id="g0"/>{groups}</defs><use href="#g18"/>'
                ).encode()
            )
        self.assertIn("copies", raised.exception.remedy)
        rules = "<style>" + "rect{}" * 2000 + "</style>"
        with self.assertRaises(LetteringError) as raised:
            read_svg(SVG.format(rules + "<g/>" * 1500).encode())
        self.assertIn("style rules", raised.exception.remedy)

    def test_outlines_that_no_body_is_made_of_in_time_are_refused(self) -> None:
        with self.assertRaises(SolidError) as raised:
            roof_of(OutlineKey(outline_of((wavy(MOST_EDGES + 1),), "the reef")))
        self.assertIn("the reef", str(raised.exception))
        star = np.column_stack([np.cos(np.arange(4001) * 2.5), np.sin(np.arange(4001) * 2.5)])
        with self.assertRaises(TooIntricateError):
            fill_nonzero([star])

    def test_runs_of_too_many_triangles_are_refused(self) -> None:
        bend = bend_of(Form.model_validate({"run": {"turn": 3600}}), 0, 0)
        with self.assertRaises(SolidError) as raised:
            outline_body(OutlineKey(outline_of((wavy(2500),))), size=200, depth=90, bevel=Bevel(), bend=bend)
        self.assertIn("turn less", str(raised.exception))

    def test_panoramas_are_refused_by_their_declared_size(self) -> None:
        head = b"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 8192 +X 16384\n"
        with self.assertRaises(SceneError) as raised:
            read_panorama(head + bytes(1000))
        self.assertIn("megapixels", str(raised.exception))

    def test_a_reach_beyond_the_line_is_no_more_than_the_line(self) -> None:
        line = np.column_stack([np.arange(50.0), np.sin(np.arange(50.0))])
        for closed in (False, True):
            self.assertTrue(np.isfinite(relaxed(line, radius=1e6, closed=closed)).all())

    def test_a_path_that_turns_back_has_a_direction_everywhere(self) -> None:
        path = np.array([(0.0, 0.0), (1.0, 0.0), (0.0, 0.0), (0.0, 0.0), (0.0, 1.0)])
        np.testing.assert_allclose(np.linalg.norm(tangents_of(path), axis=1), 1.0)


class FaultTest(unittest.TestCase):
    def test_geometry_that_fails_names_what_was_made(self) -> None:
        for fault in (IndexError("x"), ZeroDivisionError(), OverflowError(), ValueError("shape")):
            with self.assertRaises(SolidError) as raised, making("“R”"):
                raise fault
            self.assertIn("“R”", str(raised.exception))
            self.assertIn(type(fault).__name__, str(raised.exception))
        with self.assertRaises(SolidError) as raised, making("“R”"):
            raise SolidError("the cuts leave nothing")
        self.assertEqual(str(raised.exception), "the cuts leave nothing")
        with self.assertRaises(CancelledError), making("“R”"):
            raise CancelledError

    def test_a_tube_wider_than_its_letters_is_a_body(self) -> None:
        self.assertTrue(scene_of(piece_from_values({"blocks": [WIDE_TUBE]})).instances)

    def test_a_mark_out_of_all_bounds_is_refused_by_name(self) -> None:
        part = {"name": "the keel", "path": "M0 0H9V9H0Z", "matrix": [1e8, 0, 0, 1e8, 0, 0]}
        with self.assertRaises(LetteringError) as raised:
            set_block(piece_from_values({"blocks": [{"kind": "mark", "parts": [part]}]}).blocks[0])
        self.assertIn("the keel", raised.exception.remedy)

    def test_lines_that_would_enclose_too_many_areas_are_refused_before_they_are_widened(self) -> None:
        """Lattices, stars and dashes wider than long once took up to a minute, or all memory."""
        lattice = "".join(f"M0 {i}h100M{i} 0v100" for i in range(100))
        star = "M" + "L".join(f"{np.cos(2.5 * i):.3f} {np.sin(2.5 * i):.3f}" for i in range(1001))
        for path, line in (
            (lattice, {"width": 0.1}),
            (star, {"width": 0.01}),
            ("M0 0h99m-50 0v50", {"width": 1000, "dashes": [0.17]}),
        ):
            part = {"name": "the net", "path": path, "line": line}
            block = piece_from_values({"blocks": [{"kind": "mark", "parts": [part]}]}).blocks[0]
            with self.subTest(path[:20]), self.assertRaises(LetteringError) as raised:
                set_block(block)
            self.assertIn("the net", raised.exception.remedy)
            self.assertRegex(raised.exception.remedy, "cross over|overlap too often")
        points = [{"x": 100 * np.cos(2.5 * i), "y": 100 * np.sin(2.5 * i)} for i in range(512)]
        block = piece_from_values({"blocks": [{"kind": "strokes", "strokes": [{"points": points}]}]}).blocks[
            0
        ]
        with self.assertRaises(LetteringError) as raised:
            set_block(block)
        self.assertIn("cross over", raised.exception.remedy)

    def test_an_outline_is_not_made_simpler_by_filling_its_holes(self) -> None:
        lattice = "".join(f"M0 {i}h40M{i} 0v40" for i in range(40))
        part = {"path": lattice, "line": {"width": 0.1}}
        with self.assertRaises(LetteringError) as raised:
            set_block(piece_from_values({"blocks": [{"kind": "mark", "parts": [part]}]}).blocks[0])
        self.assertIn("too intricate", raised.exception.remedy)


class ShortestLengthTest(unittest.TestCase):
    def test_lengths_that_show_nowhere_are_none(self) -> None:
        self.assertEqual(Bevel(width=1e-6, height=-0.0).width, 0)
        self.assertEqual(
            piece_from_values({"blocks": [{"kind": "shape", "corner_radius": 1e-6}]}).blocks[0].corner_radius,
            0,
        )
        self.assertEqual(Form.model_validate({"drift": {"x": -5e-5}}).drift.x, 0)
        self.assertEqual(Bevel(width=2e-4).width, 2e-4)
        with self.assertRaises(PieceError) as raised:
            piece_from_values({"blocks": [{"form": {"depth": 1e-5}}]})
        self.assertEqual(raised.exception.field, "/blocks/0/form/depth")

    def test_a_corner_of_next_to_no_radius_is_laid_within_its_arrays(self) -> None:
        """Right at the limit, where facets of an arc all lie on one level."""
        for radius in (1e-4, 1.1e-4, 3e-4, 1e-3):
            shape = {
                "kind": "shape",
                "shape": "rectangle",
                "width": 300,
                "height": 200,
                "corner_radius": radius,
            }
            block = {**shape, "form": {"bevel": {"profile": "step", "steps": 9, "width": 12, "height": 9}}}
            self.assertTrue(scene_of(piece_from_values({"blocks": [block]})).instances)


class StoppingTest(unittest.TestCase):
    def test_building_stops_between_two_letters(self) -> None:
        """Two hundred letters, each of its own size: the work ends once a newer edit has come, and
        not at the end."""
        letters = {str(at): {"size": 60 + at * 0.37} for at in range(200)}
        piece = piece_from_values(
            {"blocks": [{"words": "Rg" * 100, "size": 40, "letters": letters, "form": {"joined": False}}]}
        )
        asked = 0

        def overtaken() -> bool:
            nonlocal asked
            asked += 1
            return asked > 20

        with self.assertRaises(CancelledError), stoppable(overtaken):
            scene_of(piece, px_scale=0.93)
        self.assertEqual(asked, 21)

    def test_a_kernel_can_see_that_its_work_was_overtaken(self) -> None:
        with self.assertRaises(CancelledError), stoppable(lambda: True), stop_flag() as flag:
            while not flag[0]:
                time.sleep(0.001)

    def test_a_roof_does_not_rise_any_further_then(self) -> None:
        square = outline_of((np.array([(0, 0), (1, 0), (1, 1), (0, 1)]) * 0.917,))
        with (
            mock.patch("halvex.core.solids.roof.stop_flag", return_value=nullcontext(np.ones(1, np.uint8))),
            self.assertRaises(SolidError),
        ):
            roof_over(square.rings)
        self.assertTrue(roof_of(OutlineKey(square)).ridge > 0.4)

    def test_what_cannot_be_made_is_not_tried_again(self) -> None:
        outline = OutlineKey(outline_of((wavy(61),)))
        with mock.patch("halvex.core.solids.roof.roof_over", side_effect=SolidError("nothing here")) as made:
            for _ in range(2):
                with self.assertRaises(SolidError):
                    roof_of(outline)
        self.assertEqual(made.call_count, 1)

    def test_sides_that_meet_in_too_many_places_are_refused(self) -> None:
        with mock.patch("halvex.core.solids.roof.MOST_STEPS", 100), self.assertRaises(SolidError) as raised:
            roof_of(OutlineKey(outline_of((wavy(60),))))
        self.assertIn("too intricate", str(raised.exception))

    def test_no_further_attempt_at_a_roof_is_begun_that_would_take_too_long(self) -> None:
        with mock.patch("halvex.core.solids.roof.shrink", return_value=False) as tried:
            for corners, attempts in ((60, 18), (1500, 3), (3600, 1)):
                tried.reset_mock()
                with self.subTest(corners=corners), self.assertRaises(SolidError):
                    roof_over((wavy(corners),))
                self.assertEqual(tried.call_count, attempts)

    def test_nothing_stops_outside(self) -> None:
        with stoppable(lambda: True):
            pass
        stop_if_overtaken()


if __name__ == "__main__":
    unittest.main()
