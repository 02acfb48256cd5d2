"""Proposals and measures of typefaces: evened spaces, stems for a form, heaviness; and flat
outlines as SVG."""

import io
import unittest

import numpy as np
import shapely

from halvex.core.advice.evening import LEAST_GAP_EM, evening
from halvex.core.advice.fitness import misfits
from halvex.core.advice.heaviness import heaviness
from halvex.core.advice.stems import Stem
from halvex.core.assets import SHIPPED
from halvex.core.lettering import set_block
from halvex.core.lettering.outlines import polygon_of
from halvex.core.lettering.svg import read_svg
from halvex.core.output.flat import flat_svg
from halvex.core.piece import Lettering, piece_from_values
from halvex.core.piece.form import Bevel, Form, Rim, Tube
from halvex.core.piece.lettering import LetterSetting


def gaps(block: Lettering) -> dict[int, float]:
    """The distance between the ink of each letter and the next, in px."""
    areas = {}
    for letter in set_block(block).letters:
        area = polygon_of([ring * letter.size + (letter.x, letter.y) for ring in letter.outline.rings])
        areas[letter.letter] = shapely.union(areas.get(letter.letter, shapely.Polygon()), area)
    return {at: float(shapely.distance(areas[at], areas[at + 1])) for at in areas if at + 1 in areas}


class EveningTest(unittest.TestCase):
    def taken(self, block: Lettering) -> Lettering:
        letters = dict(block.letters)
        for kern in evening(block):
            letters[kern.letter] = letters.get(kern.letter, LetterSetting()).model_copy(
                update={"kern": kern.proposed}
            )
        return block.model_copy(update={"letters": letters})

    def test_straight_pairs_become_even(self) -> None:
        uneven = Lettering(
            words="IIII",
            typeface="anton",
            size=200,
            letters={0: LetterSetting(kern=80), 1: LetterSetting(kern=20)},
        )
        even = gaps(self.taken(uneven))
        self.assertLess(max(even.values()) - min(even.values()), 0.5)
        self.assertGreater(max(gaps(uneven).values()) - min(gaps(uneven).values()), 10)

    def test_what_is_even_is_left(self) -> None:
        self.assertEqual(evening(Lettering(words="IIII", typeface="anton")), [])
        once = self.taken(Lettering(words="LATVIA", typeface="anton", size=200))
        self.assertLess(max((abs(kern.proposed - kern.now) for kern in evening(once)), default=0), 12)

    def test_no_proposal_makes_a_pair_collide(self) -> None:
        """In every typeface, with a bevel that spreads."""
        form = Form(bevel=Bevel(side="outset", width=5, height=5))
        for name in SHIPPED.typefaces:
            with self.subTest(name):
                block = Lettering(words="AVATAR Type", typeface=name, size=200, form=form)
                before, after = gaps(block), gaps(self.taken(block))
                for kern in evening(block):
                    self.assertGreaterEqual(
                        after[kern.letter], min(LEAST_GAP_EM * 200 + 10, before[kern.letter]) - 0.3, kern
                    )


class FitnessTest(unittest.TestCase):
    STEM = Stem("r", 10.0, 0, 0, (1, 0))

    def test_each_form_says_what_stem_would_do(self) -> None:
        self.assertEqual([m.wanted for m in misfits(Form(bevel=Bevel(width=8)), self.STEM)], [16])
        self.assertEqual([m.wanted for m in misfits(Form(kind="rim", rim=Rim(width=7)), self.STEM)], [14])
        self.assertAlmostEqual(misfits(Form(kind="tube", tube=Tube(radius=9)), self.STEM)[0].wanted, 12)
        self.assertEqual(misfits(Form(bevel=Bevel(width=4)), self.STEM), [])
        self.assertEqual(misfits(Form(bevel=Bevel(width=40, to_ridge=True)), self.STEM), [])
        self.assertIn("letter r", misfits(Form(bevel=Bevel(width=8)), self.STEM)[0].text)


class HeavinessTest(unittest.TestCase):
    def test_stem_to_height_as_measured_on_a_plain_letter(self) -> None:
        """Anton's l is a plain bar: its width against the height of H, by the outlines' own boxes."""
        bar, capital = (set_block(Lettering(words=word, typeface="anton", size=1000)).box for word in "lH")
        self.assertAlmostEqual(
            heaviness(SHIPPED.typefaces["anton"]), (bar[2] - bar[0]) / (capital[3] - capital[1]), delta=0.005
        )

    def test_every_typeface_has_one(self) -> None:
        found = {name: heaviness(SHIPPED.typefaces[name]) for name in SHIPPED.typefaces}
        self.assertTrue(all(0 < value < 0.6 for value in found.values()), found)
        self.assertGreater(found["rubik-mono-one"], found["archivo-black"])
        self.assertGreater(found["archivo-black"], found["comfortaa"])


class FlatTest(unittest.TestCase):
    def test_what_is_written_is_read_again(self) -> None:
        """Our own reader (held against the browser's pictures) finds the same areas where they were set."""
        piece = piece_from_values(
            {
                "blocks": [
                    {
                        "words": "Quay & <Co>",
                        "typeface": "anton",
                        "size": 120,
                        "place": {"y": 50, "turn": {"z": 20}},
                    },
                    {"kind": "shape", "id": "s"},
                ]
            }
        )
        mark = read_svg(flat_svg(piece))
        self.assertEqual(len(mark.parts), sum(len(set_block(block).letters) for block in piece.blocks))
        self.assertEqual(mark.left_out, ())

    def test_hidden_blocks_and_guides_are_left_out(self) -> None:
        blocks = [
            {"words": "A"},
            {"words": "B", "id": "b", "hidden": True},
            {"words": "C", "id": "c", "guide": True},
        ]
        text = flat_svg(piece_from_values({"blocks": blocks})).decode()
        self.assertEqual(text.count("<path"), 1)

    def test_sheets_keep_their_size(self) -> None:
        """ISO 216: A5 is 148 × 210 mm."""
        piece = piece_from_values({"canvas": {"width": 1748, "height": 2480, "ppi": 300, "unit": "mm"}})
        text = io.StringIO(flat_svg(piece).decode()).readline()
        self.assertTrue(
            np.isclose(float(text.split('width="')[1].split("in")[0]) * 25.4, 148, atol=0.05), text
        )
