"""The line of a gradient on the stage: as the renderer measures it, there and back, and what is refused."""

import unittest
from typing import Any

import numpy as np

from halvex.core.optics.gradients import LINEAR
from halvex.core.piece import Piece, PieceError, piece_from_values
from halvex.core.piece.gradient import Gradient
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

    def test_only_what_has_a_line_shows_one(self) -> None:
        for gradient in ({"shape": "round"}, {"span": "depth"}, {"span": "canvas"}, {"kind": "pattern"}):
            self.assertEqual(drawings(piece(**gradient))["blocks"][0]["gradients"], [])

    def test_faults_say_what_to_do(self) -> None:
        ends = [[0, 0], [10, 0]]
        for of, value, path, said in (
            (piece(), [[0, 0], [0, 0]], LAYER, "the two ends are one"),
            (piece(), [[0, 0]], LAYER, "a line is two ends"),
            (piece(), [[0, 0], ["x", 1]], LAYER, "a line is two ends"),
            (piece(), ends, "/blocks/0/surface/face/colour/base", "there is no gradient"),
            (piece(), ends, "/backdrop", "there is no gradient"),
            (piece(shape="conic"), ends, LAYER, "only a linear gradient"),
            (piece(span="depth"), ends, LAYER, "only a linear gradient"),
        ):
            with self.subTest(said), self.assertRaisesRegex(PieceError, said):
                moved(of, value, path)


if __name__ == "__main__":
    unittest.main()
