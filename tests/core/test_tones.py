"""Tones measured, and light found by tones, against brute force and against rendering again."""

import itertools
import unittest
from dataclasses import replace

import colour
import numpy as np

from halvex.core.advice.light_by_tones import CLOSE_ENOUGH, ToneError, light_by_tones, solve
from halvex.core.advice.tones import Measured, Region, l_star, luminance_of, measure, tone_advice
from halvex.core.finish.orders import FinalOrder
from halvex.core.finish.render_piece import render_piece
from halvex.core.optics.tone import Curve
from halvex.core.piece import Piece, piece_from_values
from halvex.core.piece.resolving import resolve

BASE = {
    "canvas": {"width": 480, "height": 270},
    "blocks": [
        {
            "words": "Quay",
            "size": 150,
            "surface": {"face": {"kind": "paint", "colour": "#b0a890"}},
            "form": {"depth": 40, "bevel": {"width": 8, "height": 8}},
        }
    ],
    "backdrop": {"ground": "wall", "colour": "#3c4650"},
}


def piece(**light: object) -> Piece:
    return piece_from_values({**BASE, "light": light})


def two_sources(curve: Curve) -> Measured:
    """Two parts under two sources, each part mostly under its own."""
    sources = {"face": [(0.5, 0.45, 0.4), (0.1, 0.1, 0.1)], "return": [(0.05, 0.05, 0.06), (0.3, 0.35, 0.4)]}
    regions = {
        name: Region(np.array(given)[:, None] * np.linspace(0.8, 1.2, 9)[None, :, None], np.zeros((9, 3)))
        for name, given in sources.items()
    }
    return Measured(("lamp 0", "lamp 1"), regions, 0.0, curve)


class ToneTest(unittest.TestCase):
    def test_lightness_is_that_of_the_cie(self) -> None:
        """colour-science, CIE 1976 lightness."""
        for luminance in (0.0, 0.004, 0.05, 0.18, 0.7, 1.0):
            expected = float(colour.lightness(luminance * 100, method="CIE 1976"))
            self.assertAlmostEqual(float(l_star(np.array(luminance))), expected, places=3)
            self.assertAlmostEqual(luminance_of(expected), luminance, places=5)

    def test_parts_are_as_light_as_the_picture_shows_them(self) -> None:
        """The mean L* of the middle of a large face, and of a corner of the wall, in the rendered picture."""
        slab = {"kind": "shape", "shape": "rectangle", "width": 300, "height": 160, "form": {"depth": 20}}
        shown = piece_from_values(
            {**BASE, "blocks": [{**slab, "surface": BASE["blocks"][0]["surface"]}], "light": {"tone": "rich"}}  # type: ignore[index]
        )
        measured = measure(resolve(shown)).lightness()
        picture = render_piece(shown, FinalOrder(width=240, samples=32)).display.astype(float)
        face = colour.XYZ_to_Lab(colour.sRGB_to_XYZ(picture[42:92, 60:180]))[..., 0].mean()
        self.assertAlmostEqual(measured["face"], float(face), delta=2.0)

    def test_advice_names_what_is_wrong_and_its_act_helps(self) -> None:
        dark = piece(lamps=[{"strength": -4}], surround={"kind": "plain", "strength": -4})
        (said,) = [entry for entry in tone_advice(measure(resolve(dark))) if "close in tone" in entry.text]
        solved = light_by_tones(resolve(dark), said.wanted)
        better = measure(replace(resolve(dark), light=solved.light))
        self.assertFalse([entry for entry in tone_advice(better) if "close in tone" in entry.text])


class LightByTonesTest(unittest.TestCase):
    def test_strengths_are_as_good_as_the_best_of_many(self) -> None:
        """All pairs of strengths in steps of a quarter of a stop, for every tone curve."""
        grid = np.arange(-4, 4.01, 0.25)
        for curve in ("neutral", "rich", "plain"):
            measured = two_sources(curve)
            for wanted in ({"face": 70.0, "return": 40.0}, {"face": 35.0, "return": 80.0}):

                def error(stops: np.ndarray, measured: Measured = measured, wanted: dict = wanted) -> float:
                    tones = measured.lightness(2.0**stops)
                    return sum((tones[name] - tone) ** 2 for name, tone in wanted.items())

                best = min(error(np.array(pair)) for pair in itertools.product(grid, grid))
                found = error(solve(measured, wanted, [0, 1]))
                self.assertLess(found, best + 0.5, f"{curve} {wanted}")

    def test_a_piece_gets_the_tones_it_was_promised(self) -> None:
        resolved = resolve(piece(lamps=[{}, {"id": "fill", "bearing": 320, "strength": -2}]))
        wanted = {"upper bevel": 70.0, "lower bevel": 62.0}
        solved = light_by_tones(resolved, wanted)
        self.assertLess(solved.error, CLOSE_ENOUGH)
        again = measure(replace(resolved, light=solved.light)).lightness()
        for name, tone in wanted.items():
            self.assertAlmostEqual(again[name], tone, delta=CLOSE_ENOUGH + 1)

    def test_what_cannot_be_is_reported_with_the_reason(self) -> None:
        # Both are painted alike and lit by the same light.
        same = piece_from_values(
            {
                **BASE,
                "backdrop": {"ground": "wall", "colour": "#b0a890"},
                "light": {"surround": {"kind": "plain"}, "lamps": []},
            }
        )
        solved = light_by_tones(resolve(same), {"face": 90.0, "backdrop": 20.0})
        self.assertGreater(solved.error, CLOSE_ENOUGH)
        self.assertTrue(all(part.reason for part in solved.reached), solved.reached)
        self.assertIn("at the cost of the others", solved.reached[0].reason)

    def test_parts_that_are_not_there_are_named(self) -> None:
        with self.assertRaisesRegex(ToneError, "no part “ceiling”; take one of face"):
            light_by_tones(resolve(piece()), {"ceiling": 50.0})
        (unseen,) = light_by_tones(
            resolve(piece_from_values({**BASE, "view": {"projection": "parallel"}})), {"return": 50.0}
        ).reached
        self.assertIsNone(unseen.reached)
        self.assertIn("hardly anything of it is seen", unseen.reason)


if __name__ == "__main__":
    unittest.main()
