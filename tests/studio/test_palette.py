"""Paints: colours by reference, tones that follow, all shifted at once, and what is refused."""

import unittest
from typing import Any

import colour
import numpy as np

from halvex.core.piece import Piece, PieceError, piece_from_values, to_json
from halvex.core.piece.paints import references_in
from halvex.studio.edits import Edit, apply_edits
from halvex.studio.palette import TONAL_SET, oklch_of, tone_of
from halvex.studio.recipe import recipe
from halvex.studio.samples import demo_names, demo_piece

FACE = "/blocks/0/surface/face/colour"


def sign() -> Piece:
    """Words whose face is striped, and a backdrop."""
    stripes = {"kind": "pattern", "paints": [{"colour": "#f3e3bf"}, {"colour": "#c8321f"}]}
    face = {"kind": "paint", "colour": {"base": "#c8321f", "layers": [stripes]}}
    return piece_from_values(
        {"blocks": [{"words": "paint:red", "surface": {"face": face}}], "backdrop": {"colour": "#17494a"}}
    )


def done(piece: Piece, *edits: tuple[str, str, Any]) -> Piece:
    return apply_edits(piece, [Edit(op=op, path=path, value=value) for op, path, value in edits])[0]


def oklab(shown: str) -> np.ndarray:
    channels = np.array([int(shown[at : at + 2], 16) for at in (1, 3, 5)]) / 255
    linear = colour.cctf_decoding(channels, function="sRGB")
    return colour.XYZ_to_Oklab(colour.RGB_to_XYZ(linear, "sRGB"))


class PaintTest(unittest.TestCase):
    def setUp(self) -> None:
        self.piece = done(
            sign(),
            ("paint", f"{FACE}/layers/0/paints/1/colour", "Fair red"),
            ("replace", "/backdrop/colour", "paint:fair-red"),
        )

    def test_what_refers_to_a_paint_follows_it(self) -> None:
        self.assertEqual([path for path, _ in references_in(self.piece)][1], "/backdrop/colour")
        changed = done(self.piece, ("enter", "/paints/0/colour", "royalblue"))
        plain = changed.in_colours
        self.assertEqual(plain.backdrop.colour, "#4169e1")
        stripes = plain.blocks[0].surface.face.colour.layers[0]
        self.assertEqual([paint.colour for paint in stripes.paints], ["#f3e3bf", "#4169e1"])
        # The same colour that does not refer to it stays, and so do words that look like a reference.
        self.assertEqual(plain.blocks[0].surface.face.colour.base, "#c8321f")
        self.assertEqual(plain.blocks[0].words, "paint:red")
        self.assertEqual(list(references_in(plain)), [])
        self.assertEqual(piece_from_values(to_json(changed)), changed)

    def test_a_paint_is_taken_by_its_name(self) -> None:
        named = done(self.piece, ("enter", f"{FACE}/base", "fair Red"))
        self.assertEqual(named.blocks[0].surface.face.colour.base, "paint:fair-red")
        back = done(named, ("enter", f"{FACE}/base", "#102030"))
        self.assertEqual(back.blocks[0].surface.face.colour.base, "#102030")

    def test_a_paint_that_goes_leaves_its_colour(self) -> None:
        toned = done(
            done(self.piece, ("tones", "/paints/0", None)), ("enter", f"{FACE}/base", "fair red shade")
        )
        shade = toned.in_colours.blocks[0].surface.face.colour.base
        gone = done(toned, ("unpaint", "/paints/0", None))
        self.assertEqual(gone.paints, ())
        self.assertEqual(gone.backdrop.colour, "#c8321f")
        self.assertEqual(gone.blocks[0].surface.face.colour.base, shade)

    def test_tones_follow_their_paint_in_hue_and_steps(self) -> None:
        toned = done(self.piece, ("tones", "/paints/0", None))
        self.assertEqual([paint.steps for paint in toned.paints[1:]], [steps for _, steps in TONAL_SET])
        lighter = [float(oklab(paint.colour)[0]) for paint in toned.paints]
        self.assertGreater(lighter[1], lighter[0])
        self.assertEqual(sorted(lighter[1:], reverse=True), lighter[1:])
        changed = done(toned, ("replace", "/paints/0/colour", "#2060c0"), ("replace", "/paints/2/steps", -3))
        base, dark = oklab("#2060c0"), oklab(changed.paints[2].colour)
        self.assertAlmostEqual(float(base[0] - dark[0]), 3 * 0.055, delta=0.01)
        self.assertLess(abs(np.arctan2(dark[2], dark[1]) - np.arctan2(base[2], base[1])), 0.06)

    def test_tones_are_never_black(self) -> None:
        for shade in ("#c8321f", "#ffe040", "#ffffff", "#808080"):
            self.assertGreater(oklch_of(tone_of(shade, -20))[0], 0.17)
        # What is darker than that already is not made lighter.
        self.assertEqual(tone_of("#000000", -3), "#000000")

    def test_all_are_shifted_but_those_held(self) -> None:
        piece = done(
            self.piece,
            ("paint", f"{FACE}/layers/0/paints/0/colour", "Cream"),
            ("replace", "/paints/1/held", True),
            ("shift-paints", "/paints", {"hue": 90, "lightness": 0.05}),
        )
        self.assertEqual(piece.paints[1].colour, "#f3e3bf")
        before, after = oklab("#c8321f"), oklab(piece.paints[0].colour)
        self.assertAlmostEqual(float(after[0] - before[0]), 0.05, delta=0.005)
        turned = np.degrees(np.arctan2(after[2], after[1]) - np.arctan2(before[2], before[1])) % 360
        self.assertAlmostEqual(float(turned), 90, delta=3)

    def test_faults_say_what_to_do(self) -> None:
        self.piece = done(self.piece, ("replace", "/name", "#123456"))
        for edit, said in (
            (("remove", "/paints/0", None), "refers to the paint “fair-red”, which the piece has not"),
            (("replace", "/backdrop/colour", "paint:gone"), "/backdrop/colour refers to the paint “gone”"),
            (("unpaint", "/paints/9", None), "there is no such paint"),
            (("paint", "/canvas/width", "Wide"), "no colour of its own"),
            (("paint", "/backdrop/colour", "Again"), "no colour of its own"),
            (("paint", "/name", "Name"), "is no colour; name one"),
            (("shift-paints", "/paints", {"hue": "red"}), "/paints/hue"),
            (("shift-paints", "/blocks", {}), "name /paints"),
            (("replace", "/paints/0/of", "fair-red"), "no paint of its own"),
            (("add", "/paints/-", {"id": "fair-red"}), "two paints have the same id"),
        ):
            with self.subTest(said), self.assertRaisesRegex(PieceError, said):
                done(self.piece, edit)

    def test_summaries_show_colours(self) -> None:
        self.assertIn(("#c8321f", True), recipe(self.piece.in_colours)["backdrop"][1])


class DemoTest(unittest.TestCase):
    def test_every_reference_of_the_demo_leads_to_a_paint(self) -> None:
        used = [ident for name in demo_names() for _, ident in references_in(demo_piece(name))]
        self.assertTrue(used)


if __name__ == "__main__":
    unittest.main()
