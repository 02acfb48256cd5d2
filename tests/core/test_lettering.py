"""Letters against HarfBuzz, FreeType and fontTools."""

import itertools
import unittest
from collections import Counter

import freetype
import numpy as np
import uharfbuzz as hb
from fontTools.pens.areaPen import AreaPen
from fontTools.ttLib import TTFont

from halvex.core.assets import SHIPPED, SHIPPED_TYPEFACES
from halvex.core.lettering import LetteringError, set_block
from halvex.core.lettering.features import features_of
from halvex.core.lettering.outlines import fill_nonzero, glyph_outline, signed_area
from halvex.core.lettering.shaping import shape_line
from halvex.core.lettering.typefaces import FontFile, opened
from halvex.core.piece import Lettering

# Typefaces drawn without overlapping contours, so that fontTools' area is the ink's.
WITHOUT_OVERLAPS = (
    "alfa-slab-one",
    "archivo-black",
    "anton",
    "abril-fatface",
    "saira-stencil-one",
    "unifraktur-maguntia",
)

# Port Sorrel's harbour in each script that a shipped typeface carries.
SCRIPTS = {
    "Latin": "Sphinx Ågot",
    "Greek": "Λιμάνι",
    "Cyrillic": "Гавань",
    "Arabic": "مرفأ",
    "Hebrew": "נמל",
    "Devanagari": "बंदरगाह",
}
UNJOINED = ("Latin", "Greek", "Cyrillic", "Hebrew")


class LetteringTest(unittest.TestCase):
    def test_ten_kinds_ship_with_their_licences(self) -> None:
        kinds = {face.kind for face in SHIPPED.typefaces.values()}
        for kind in (
            "heavy sans",
            "slab",
            "fat face",
            "script",
            "blackletter",
            "stencil",
            "rounded",
            "condensed",
            "variable",
        ):
            self.assertIn(kind, kinds)
        self.assertGreaterEqual(len(SHIPPED.typefaces), 24)
        for ident in SHIPPED.typefaces:
            self.assertIn("SIL Open Font License", (SHIPPED_TYPEFACES / ident / "LICENSE.txt").read_text())

    def test_features_are_told_by_name_and_reach_the_shaper(self) -> None:
        """Names of the OpenType Layout Tag Registry; the glyphs are those HarfBuzz chooses with the
        feature set."""
        named = {feature.tag: feature for feature in features_of(SHIPPED.typefaces["bebas-neue"])}
        self.assertEqual((named["frac"].name, named["frac"].default), ("Fractions", False))
        self.assertEqual((named["kern"].name, named["kern"].default), ("Kerning", True))
        self.assertNotIn("ccmp", named, "what a script needs is no choice")
        buffer = hb.Buffer()
        buffer.add_str("AV 1/2")
        buffer.guess_segment_properties()
        hb.shape(opened(SHIPPED.typefaces["bebas-neue"])[0].font({}), buffer, {"frac": True, "kern": False})
        line = shape_line(
            "AV 1/2",
            typeface=SHIPPED.typefaces["bebas-neue"],
            axes={},
            features={"frac": True, "kern": False},
        )
        self.assertEqual(
            [glyph.gid for glyph in line.glyphs], [info.codepoint for info in buffer.glyph_infos]
        )
        plain = shape_line("AV 1/2", typeface=SHIPPED.typefaces["bebas-neue"], axes={})
        self.assertNotEqual([glyph.gid for glyph in plain.glyphs], [glyph.gid for glyph in line.glyphs])
        self.assertLess(plain.glyphs[1].x, line.glyphs[1].x, "A and V are kerned unless that is turned off")
        for ident in SHIPPED.typefaces:
            self.assertTrue(all(feature.name for feature in features_of(SHIPPED.typefaces[ident])), ident)

    def test_a_language_takes_its_own_forms(self) -> None:
        """Glyphs with a language against those HarfBuzz chooses; Romanian takes another s with
        cedilla in at least one typeface."""
        differs = 0
        for ident in SHIPPED.typefaces:
            if (
                ord("ş")
                not in opened(SHIPPED.typefaces[ident])[0].coverage
                | opened(SHIPPED.typefaces[ident])[-1].coverage
            ):
                continue
            line = shape_line("ş", typeface=SHIPPED.typefaces[ident], axes={}, language="ro")
            buffer = hb.Buffer()
            buffer.add_str("ş")
            buffer.guess_segment_properties()
            buffer.language = "ro"
            hb.shape(line.glyphs[0].file.font({}), buffer, {"liga": True, "clig": True})
            self.assertEqual(
                [glyph.gid for glyph in line.glyphs], [info.codepoint for info in buffer.glyph_infos], ident
            )
            differs += [glyph.gid for glyph in line.glyphs] != [
                glyph.gid for glyph in shape_line("ş", typeface=SHIPPED.typefaces[ident], axes={}).glyphs
            ]
        self.assertGreater(differs, 0)

    def test_scripts_are_set_by_the_typefaces_that_carry_them(self) -> None:
        """One word in each script: no character missing, and as many letters with ink as the script
        joins it into."""
        for words, ident in (
            ("Λιμάνι", "comfortaa"),
            ("Λιμάνι", "alegreya-sans-sc"),
            ("Гавань", "yeseva-one"),
            ("Гавань", "rubik-mono-one"),
            ("ميناء", "rakkas"),
            ("נמל", "suez-one"),
            ("बंदर", "baloo-2"),
            ("बंदर", "yatra-one"),
        ):
            with self.subTest(words=words, typeface=ident):
                self.assertGreaterEqual(len(set_block(Lettering(words=words, typeface=ident)).letters), 3)

    def test_advances_are_freetypes(self) -> None:
        """Single letters against FreeType's unscaled advances."""
        for ident in SHIPPED.typefaces:
            path = SHIPPED_TYPEFACES / ident / "latin.ttf"
            face = freetype.Face(str(path))
            for letter in "HOnaeg":
                line = shape_line(letter, typeface=SHIPPED.typefaces[ident], axes={})
                # Scripts end a word in a glyph of its own: the glyph that was chosen is the one to compare.
                face.load_glyph(line.glyphs[0].gid, freetype.FT_LOAD_NO_SCALE)
                self.assertAlmostEqual(
                    line.advance, face.glyph.advance.x / face.units_per_EM, places=6, msg=f"{ident} {letter}"
                )

    def test_every_typeface_sets_every_script_it_carries_as_harfbuzz_and_freetype_do(self) -> None:
        """Glyphs, advances and places against HarfBuzz called on the file itself; unkerned advances
        against FreeType's."""
        tried: Counter[str] = Counter()
        for ident, (script, text) in itertools.product(SHIPPED.typefaces, SCRIPTS.items()):
            file = next(
                (f for f in opened(SHIPPED.typefaces[ident]) if {ord(c) for c in text} <= f.coverage), None
            )
            if file is None:
                continue
            tried[script] += 1
            with self.subTest(f"{ident}, {script}"):
                buffer = hb.Buffer()
                buffer.add_str(text)
                buffer.guess_segment_properties()
                hb.shape(hb.Font(file.face), buffer)
                line = shape_line(text, typeface=SHIPPED.typefaces[ident], axes={})
                self.assertEqual(
                    [glyph.gid for glyph in line.glyphs], [info.codepoint for info in buffer.glyph_infos]
                )
                at = 0
                for glyph, place in zip(line.glyphs, buffer.glyph_positions, strict=True):
                    self.assertAlmostEqual(glyph.x * file.upem, at + place.x_offset, places=3)
                    self.assertAlmostEqual(glyph.y * file.upem, place.y_offset, places=3)
                    at += place.x_advance
                self.assertAlmostEqual(line.advance * file.upem, at, places=3)
                if script in UNJOINED:
                    face = freetype.Face(str(SHIPPED_TYPEFACES / file.key))
                    for glyph in shape_line(
                        text, typeface=SHIPPED.typefaces[ident], axes={}, features={"kern": False}
                    ).glyphs:
                        face.load_glyph(glyph.gid, freetype.FT_LOAD_NO_SCALE)
                        self.assertAlmostEqual(glyph.advance * file.upem, face.glyph.advance.x, delta=1)
        self.assertGreaterEqual(len(tried), 6, tried)
        self.assertEqual(tried["Latin"], len(SHIPPED.typefaces))

    def test_a_script_by_choice(self) -> None:
        """Arabic letters join in their own script; declared Latin they stand alone."""
        joined = shape_line("بب", typeface=SHIPPED.typefaces["rakkas"], axes={})
        apart = shape_line("بب", typeface=SHIPPED.typefaces["rakkas"], axes={}, script="Latn")
        self.assertNotEqual([g.gid for g in joined.glyphs], [g.gid for g in apart.glyphs])

    def test_areas_are_greens(self) -> None:
        """Ink area against fontTools' AreaPen (Green's theorem on the curves)."""
        for ident in WITHOUT_OVERLAPS:
            font = TTFont(SHIPPED_TYPEFACES / ident / "latin.ttf")
            glyphs, names = font.getGlyphSet(), font.getBestCmap()
            for letter in "ABSQaeg8":
                pen = AreaPen(glyphs)
                glyphs[names[ord(letter)]].draw(pen)
                exact = abs(pen.value) / font["head"].unitsPerEm ** 2
                outline = glyph_outline(
                    opened(SHIPPED.typefaces[ident])[0], font.getGlyphID(names[ord(letter)]), (), 2e-5
                )
                self.assertAlmostEqual(outline.area / exact, 1.0, places=3, msg=f"{ident} {letter}")

    def test_kerning_and_ligatures_come_from_the_typeface(self) -> None:
        pair = shape_line("AV", typeface=SHIPPED.typefaces["archivo-black"], axes={}).advance
        apart = sum(shape_line(c, typeface=SHIPPED.typefaces["archivo-black"], axes={}).advance for c in "AV")
        self.assertLess(pair, apart)
        self.assertLess(len(shape_line("fi", typeface=SHIPPED.typefaces["abril-fatface"], axes={}).glyphs), 2)
        self.assertEqual(
            len(shape_line("fi", typeface=SHIPPED.typefaces["abril-fatface"], axes={}, tracking=0.1).glyphs),
            2,
        )

    def test_right_to_left_words_run_from_the_right(self) -> None:
        line = shape_line("שלום", typeface=SHIPPED.typefaces["suez-one"], axes={})
        by_place = sorted(line.glyphs, key=lambda glyph: glyph.x)
        self.assertEqual([glyph.cluster for glyph in by_place], [3, 2, 1, 0])
        mixed = shape_line("Port שלום", typeface=SHIPPED.typefaces["suez-one"], axes={})
        self.assertEqual(min(mixed.glyphs, key=lambda glyph: glyph.x).cluster, 0)

    def test_tracking_adds_between_letters_alone(self) -> None:
        plain, wide = (
            shape_line("HHH", typeface=SHIPPED.typefaces["anton"], axes={}, tracking=t).advance
            for t in (0.0, 0.25)
        )
        self.assertAlmostEqual(wide - plain, 0.5)

    def test_axes_change_the_letters(self) -> None:
        light, heavy = (
            set_block(Lettering(words="H", typeface="anybody", axes={"wght": w})).letters[0].outline.area
            for w in (100, 900)
        )
        self.assertGreater(heavy, 2 * light)

    def test_words_stand_in_the_middle_of_their_ink(self) -> None:
        left, bottom, right, top = set_block(Lettering(words="Port\nSorrel", align="left")).box
        self.assertAlmostEqual(left, -right)
        self.assertAlmostEqual(bottom, -top)

    def test_overlaps_are_resolved(self) -> None:
        square = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], float)
        rings = fill_nonzero([square, square + 0.5])
        self.assertEqual(len(rings), 1)
        self.assertAlmostEqual(signed_area(rings[0]), 1.75, places=6)
        hole = fill_nonzero([square * 3, square[::-1] + 1])
        self.assertAlmostEqual(sum(signed_area(ring) for ring in hole), 8.0, places=6)

    def test_what_cannot_be_set_is_explained(self) -> None:
        for words, field in (("", "words"), ("  \n ", "words"), ("🎉🎉", "words")):
            with self.assertRaises(LetteringError) as caught:
                set_block(Lettering(words=words))
            self.assertEqual(caught.exception.field, field)
        with self.assertRaises(LetteringError) as caught:
            set_block(Lettering(typeface="no-such-face"))
        self.assertEqual(caught.exception.field, "typeface")

    def test_a_file_that_is_no_font_is_explained(self) -> None:
        with self.assertRaises(LetteringError):
            FontFile((SHIPPED_TYPEFACES / "index.json").read_bytes(), "index.json")


if __name__ == "__main__":
    unittest.main()
