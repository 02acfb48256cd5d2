"""Typed colours: notations of CSS against colour-science and CSS Color 4's own examples, and what is
refused."""

import unittest

import colour
import numpy as np

from halvex.core.optics.typed_colour import ColourError, typed_colour
from halvex.core.piece import Piece, PieceError
from halvex.studio.edits import Edit, apply_edits


def channels(text: str) -> np.ndarray:
    return np.array([int(text[at : at + 2], 16) for at in (1, 3, 5)])


class NotationTest(unittest.TestCase):
    def test_notations_of_css_are_read(self) -> None:
        for typed, meant in (
            ("#C8402F", "#c8402f"),
            ("c8402f", "#c8402f"),
            ("#abc", "#aabbcc"),
            ("rebeccapurple", "#663399"),
            ("rgb(10 20 30)", "#0a141e"),
            ("rgb(10, 20, 30)", "#0a141e"),
            ("rgb(300 -20 0)", "#ff0000"),
            # CSS Color 4, 7: hsl(120 100% 25%) is green; 8: hwb(150 20% 10%).
            ("hsl(120 100% 25%)", "#008000"),
            ("hwb(150 20% 10%)", "#33e68c"),
        ):
            self.assertEqual(typed_colour(typed), meant, typed)

    def test_oklch_is_that_of_another_implementation(self) -> None:
        # Colours that sRGB has, within a rounding.
        for seen in np.random.default_rng(2).integers(0, 256, (40, 3)):
            linear = colour.cctf_decoding(seen / 255, function="sRGB")
            lightness, a, b = colour.XYZ_to_Oklab(colour.RGB_to_XYZ(linear, "sRGB"))
            chroma, hue = np.hypot(a, b), np.degrees(np.arctan2(b, a))
            for typed in (f"oklch({lightness} {chroma} {hue})", f"oklab({lightness} {a} {b})"):
                self.assertLessEqual(np.abs(channels(typed_colour(typed)) - seen).max(), 1, typed)

    def test_what_srgb_does_not_have_keeps_its_hue_and_lightness(self) -> None:
        for hue in range(0, 360, 30):
            found = typed_colour(f"oklch(0.7 0.4 {hue})")
            linear = colour.cctf_decoding(channels(found) / 255, function="sRGB")
            lightness, a, b = colour.XYZ_to_Oklab(colour.RGB_to_XYZ(linear, "sRGB"))
            self.assertAlmostEqual(lightness, 0.7, delta=0.01)
            apart = (np.degrees(np.arctan2(b, a)) - hue + 180) % 360 - 180
            self.assertLess(abs(apart), 3)
        for typed in ("oklch(1e300 1e300 1)", "oklch(2 0 0)"):
            self.assertEqual(typed_colour(typed), "#ffffff")

    def test_what_is_no_colour_says_what_to_write(self) -> None:
        for typed in ("", "redd", "#12", "currentcolor", "rgb(a b c)", "lab(50 20 20)", "rgb(0 0 0 / 50%)"):
            with self.subTest(typed), self.assertRaisesRegex(ColourError, "write"):
                typed_colour(typed)

    def test_a_colour_field_takes_what_is_typed(self) -> None:
        path = "/backdrop/colour"
        piece, label = apply_edits(Piece(), [Edit(op="enter", path=path, value="teal")])
        self.assertEqual(piece.backdrop.colour, "#008080")
        self.assertIn("#008080", label)
        with self.assertRaisesRegex(PieceError, "/backdrop/colour: “tealish” is no colour"):
            apply_edits(Piece(), [Edit(op="enter", path=path, value="tealish")])


if __name__ == "__main__":
    unittest.main()
