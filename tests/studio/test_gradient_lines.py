"""The line of a gradient on the stage: as the renderer measures it, there and back, and what is refused."""

import unittest
from typing import Any

import numpy as np

from halvex.core.assets import SHIPPED
from halvex.core.optics.gradients import LINEAR, OVAL, POLYGON, ROUND
from halvex.core.piece import Piece, PieceError, piece_from_values
from halvex.core.piece.gradient import Gradient
from halvex.core.piece.picture import Picture
from halvex.core.scene.picture import open_picture
from halvex.studio.drawings import drawings
from halvex.studio.edits import Edit, apply_edits
from halvex.studio.gradient_lines import laid_along, line_of
from tests.core.test_sources import along

BOX = (-60.0, -10.0, 140.0, 70.0)
LAYER = "/blocks/0/surface/face/colour/layers/0"


def piece(**gradient: Any) -> Piece:
    colour = {"base": "#ffffff", "layers": [gradient]}
    surface = {"face": {"kind": "paint", "colour": colour}}
    return piece_from_values({"blocks": [{"words": "ab", "surface": surface}]})


def moved(of: Piece, value: Any, path: str = LAYER) -> Piece:
    return apply_edits(of, [Edit(op="lay-along", path=path, value=value)])[0]


class LineTest(unittest.TestCase):
    def test_the_line_is_as_the_renderer_measures_it(self) -> None:
        for bearing in (0, 30, 90, 200, 315):
            ends = np.array(line_of(Gradient(bearing=bearing), BOX)) - (40, 30)
            found = along(LINEAR, [tuple(end) for end in ends], (200, 80), bearing)
            np.testing.assert_allclose(found, [0, 1], atol=1e-5)

    def test_a_gradient_laid_along_its_own_line_stays(self) -> None:
        for values in ({}, {"bearing": 123, "scale": 40, "x": 12, "y": -30}, {"bearing": 359, "scale": 250}):
            gradient = Gradient(**values)
            again = laid_along(gradient, BOX, line_of(gradient, BOX))
            np.testing.assert_allclose(line_of(again, BOX), line_of(gradient, BOX), atol=0.05)

    def test_the_hand_moves_an_end_and_the_other_stays(self) -> None:
        for span in ("block", "letter"):
            before = piece(span=span)
            (line,) = drawings(before)["blocks"][0]["gradients"]
            self.assertEqual((line["path"], line["part"]), (LAYER, "face"))
            begin, end = line["ends"]
            wanted = [list(begin), [end[0] + 40, end[1] + 25]]
            after = moved(before, wanted)
            (line,) = drawings(after)["blocks"][0]["gradients"]
            np.testing.assert_allclose(line["ends"], wanted, atol=0.1)

    def test_others_lie_about_their_middle_and_reach_as_far_as_the_renderer_measures(self) -> None:
        """At the end of its line a round, an oval or a many-sided gradient is at its last stop."""
        for shape, kind, values in (
            ("round", ROUND, {}),
            ("oval", OVAL, {"turn": 30}),
            ("polygon", POLYGON, {"turn": 50, "sides": 5}),
        ):
            for scale in (100.0, 40.0):
                gradient = Gradient(shape=shape, scale=scale, **values)
                middle, end = np.array(line_of(gradient, BOX)) - (40, 30)
                np.testing.assert_allclose(middle, [0, 0], atol=1e-9)
                ends = [tuple(end / (scale / 100))]
                found = along(kind, ends, (200, 80), values.get("turn", 0), values.get("sides", 6))
                self.assertAlmostEqual(float(found[0]), 1, delta=1e-5, msg=shape)

    def test_they_stay_where_they_are_laid(self) -> None:
        for layer in (
            Gradient(shape="round", x=10, y=-20, scale=60),
            Gradient(shape="oval", turn=75, scale=130),
            Gradient(shape="conic", turn=200, x=5),
            Picture(fit="fill", scale=150, turn=20, x=30),
            Picture(fit="fit"),
            Picture(fit="natural", scale=40, turn=300),
        ):
            line = line_of(layer, BOX)
            again = laid_along(layer, BOX, line)
            np.testing.assert_allclose(line_of(again, BOX), line, atol=0.05)
            if not isinstance(layer, Gradient) or layer.shape != "round":
                self.assertAlmostEqual(again.turn, layer.turn, delta=0.01)
            self.assertAlmostEqual(again.scale, layer.scale, delta=0.1)

    def test_a_picture_that_fills_its_box_reaches_to_its_side(self) -> None:
        """Over a box of its own shape its right edge is the box's."""
        size = open_picture(SHIPPED.pictures["harbour"]).sizes[0]
        box = (0.0, 0.0, 200.0, 200.0 * size[1] / size[0])
        for fit in ("fill", "fit"):
            middle, end = line_of(Picture(fit=fit), box)
            np.testing.assert_allclose(middle, (100, box[3] / 2), atol=1e-6)
            np.testing.assert_allclose(end, (200, box[3] / 2), atol=1e-6)

    def test_only_what_has_a_line_shows_one(self) -> None:
        for gradient in ({"span": "depth"}, {"span": "canvas"}, {"kind": "pattern"}, {"masks": True}):
            self.assertEqual(drawings(piece(**gradient))["blocks"][0]["gradients"], [])

    def test_faults_say_what_to_do(self) -> None:
        ends = [[0, 0], [10, 0]]
        for of, value, path, said in (
            (piece(), [[0, 0], [0, 0]], LAYER, "the two ends are one"),
            (piece(), [[0, 0]], LAYER, "a line is two ends"),
            (piece(), [[0, 0], ["x", 1]], LAYER, "a line is two ends"),
            (piece(), ends, "/blocks/0/surface/face/colour/base", "there is no gradient"),
            (piece(), ends, "/backdrop", "there is no gradient"),
            (piece(kind="pattern"), ends, LAYER, "there is no gradient"),
            (piece(span="depth"), ends, LAYER, "over a block, a letter or the canvas"),
        ):
            with self.subTest(said), self.assertRaisesRegex(PieceError, said):
                moved(of, value, path)


if __name__ == "__main__":
    unittest.main()
