"""Single letters: size, shift, turn and kerning of their own, and what becomes of them when words
are retyped."""

import unittest

import numpy as np
import uharfbuzz as hb

from halvex.core.advice.collisions import collisions, freeing_kerns
from halvex.core.assets import SHIPPED
from halvex.core.lettering.letters import kerned_with, letters_of
from halvex.core.lettering.retyping import carried
from halvex.core.lettering.setting import SetBlock, set_block
from halvex.core.lettering.shaping import shape_line
from halvex.core.lettering.typefaces import opened
from halvex.core.piece.lettering import Lettering, LetterSetting
from halvex.core.solids.inks import ink_of

SIZE = 200.0


def block(words: str = "Port", **values: object) -> Lettering:
    return Lettering.model_validate({"words": words, "size": SIZE, **values})


def boxes(found: SetBlock) -> dict[int, np.ndarray]:
    """The ink's box of each letter."""
    return {letter.letter: np.array(letter.box) for letter in found.letters}


def gap(found: SetBlock, first: int) -> float:
    """Px from one letter's ink to the next one's, left to right."""
    own = boxes(found)
    return float(own[first + 1][0] - own[first][2])


class CountingTest(unittest.TestCase):
    def test_letters_are_counted_by_code_points_without_spaces_and_marks(self) -> None:
        words = "Le\u0301 port \n\nde 𝓢orrel"
        found = letters_of(words)
        self.assertEqual("".join(letter.text for letter in found), "Leportde𝓢orrel")
        self.assertTrue(all(words[letter.number] == letter.text for letter in found))
        self.assertEqual(
            [(letter.text, letter.starts) for letter in found if letter.starts],
            [("p", "word"), ("d", "line"), ("𝓢", "word")],
        )
        self.assertEqual(letters_of(" \n"), [])

    def test_a_pair_is_kerned_by_the_letter_that_is_read_first(self) -> None:
        self.assertEqual([kerned_with([0, 1, 2], at) for at in range(3)], [None, 0, 1])
        # Right to left, the one at the left is read last; its kern is its neighbour's own.
        self.assertEqual([kerned_with([2, 1, 0], at) for at in range(3)], [0, 1, None])
        # Across a space there is no pair.
        self.assertEqual(kerned_with([0, 1, 3], 3), None)


class LetterTest(unittest.TestCase):
    def test_letters_without_settings_stand_where_harfbuzz_puts_them(self) -> None:
        """Every shipped typeface: origins against HarfBuzz' advances and offsets, summed here on
        their own."""
        for face in SHIPPED.typefaces:
            with self.subTest(typeface=face):
                line = shape_line("Harbour", typeface=SHIPPED.typefaces[face], axes={})
                buffer = hb.Buffer()
                buffer.add_str("Harbour")
                buffer.guess_segment_properties()
                file = line.glyphs[0].file
                hb.shape(file.font({}), buffer, {"liga": True, "clig": True})
                places, x = [], 0
                for position in buffer.glyph_positions:
                    places.append((x + position.x_offset) / file.upem)
                    x += position.x_advance
                set_letters = set_block(block("Harbour", typeface=face)).letters
                apart = np.diff([letter.x for letter in set_letters]) / SIZE
                np.testing.assert_allclose(apart, np.diff(places), atol=1e-9)

    def test_kerning_moves_the_rest_of_the_line_by_exactly_so_much(self) -> None:
        plain, kerned = set_block(block()), set_block(block(letters={1: {"kern": -50}}))
        self.assertAlmostEqual(gap(kerned, 1) - gap(plain, 1), -0.05 * SIZE, places=9)
        for other in (0, 2):
            self.assertAlmostEqual(gap(kerned, other), gap(plain, other), places=9)

    def test_a_larger_letter_keeps_its_neighbours_side_bearings(self) -> None:
        """Half as large again about its origin on the baseline; what follows moves by half its advance."""
        plain, larger = set_block(block()), set_block(block(letters={1: {"size": 150}}))
        a, b = boxes(plain)[1], boxes(larger)[1]
        np.testing.assert_allclose(
            [b[2] - b[0], b[3] - b[1]], 1.5 * np.array([a[2] - a[0], a[3] - a[1]]), rtol=1e-9
        )
        advance = (
            shape_line("Port", typeface=SHIPPED.typefaces[block().typeface], axes={}).glyphs[1].advance * SIZE
        )
        moved = (boxes(larger)[2] - boxes(larger)[0])[0] - (boxes(plain)[2] - boxes(plain)[0])[0]
        self.assertAlmostEqual(moved, 0.5 * advance, places=6)

    def test_a_shift_raises_one_letter(self) -> None:
        plain, raised = boxes(set_block(block())), boxes(set_block(block(letters={2: {"shift": 100}})))
        rise = (raised[2] - raised[1]) - (plain[2] - plain[1])
        np.testing.assert_allclose(rise, [0, 0.1 * SIZE, 0, 0.1 * SIZE], atol=1e-9)

    def test_a_turn_is_about_the_middle_of_the_ink_and_counter_clockwise(self) -> None:
        plain, turned = set_block(block("Il")), set_block(block("Il", letters={0: {"turn": 90}}))
        a, b = boxes(plain)[0], boxes(turned)[0]
        np.testing.assert_allclose([b[2] - b[0], b[3] - b[1]], [a[3] - a[1], a[2] - a[0]], rtol=1e-9)
        middle = [
            ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
            for box in (a - boxes(plain)[1], b - boxes(turned)[1])
        ]
        np.testing.assert_allclose(middle[0], middle[1], atol=1e-6)
        quarter = set_block(block("L", letters={0: {"turn": 90}})).letters[0]
        rings = np.vstack(quarter.outline.rings)
        foot = rings[rings[:, 0] > rings[:, 0].max() - 0.01]
        self.assertGreater(float(np.ptp(foot[:, 1])), 0.2, "the foot of the L stands at the right")

    def test_an_accent_keeps_with_its_letter(self) -> None:
        """A base and a combining mark are one letter, whatever its size and turn."""
        plain = set_block(block("e\u0301a", typeface="alfa-slab-one"))
        grown = set_block(
            block("e\u0301a", typeface="alfa-slab-one", letters={0: {"size": 200, "shift": 50}})
        )
        own = [[letter for letter in found.letters if letter.letter == 0] for found in (plain, grown)]
        spans = [
            np.array(
                [
                    max(box[2] for box in bs) - min(box[0] for box in bs),
                    max(box[3] for box in bs) - min(box[1] for box in bs),
                ]
            )
            for bs in ([letter.box for letter in letters] for letters in own)
        ]
        np.testing.assert_allclose(spans[1], 2 * spans[0], rtol=1e-9)

    def test_settings_of_the_second_line_are_counted_through(self) -> None:
        found = boxes(set_block(block("ab\ncd", letters={4: {"shift": 500}})))
        self.assertAlmostEqual(
            float(
                found[4][1]
                - boxes(set_block(block("ab\ncd")))[4][1]
                - (found[3] - boxes(set_block(block("ab\ncd")))[3])[1]
            ),
            0.5 * SIZE,
        )

    def test_right_to_left_pairs_belong_to_the_letter_read_first(self) -> None:
        face = next(
            ident
            for ident, face in SHIPPED.typefaces.items()
            if any(0x05D0 in file.coverage for file in _files(ident))
        )
        plain, kerned = (
            set_block(block("אבג", typeface=face)),
            set_block(block("אבג", typeface=face, letters={0: {"kern": 100}})),
        )
        a, b = boxes(plain), boxes(kerned)
        self.assertAlmostEqual(float((b[0][0] - b[1][2]) - (a[0][0] - a[1][2])), 0.1 * SIZE, places=6)
        self.assertAlmostEqual(float((b[1][0] - b[2][2]) - (a[1][0] - a[2][2])), 0.0, places=6)

    def test_what_does_not_differ_is_not_kept(self) -> None:
        self.assertEqual(
            block(letters={0: {}, 1: {"turn": 5}, 9: {"turn": 5}}).letters, {1: LetterSetting(turn=5)}
        )


def _files(ident: str) -> tuple[object, ...]:

    return opened(SHIPPED.typefaces[ident])


class CollisionKerningTest(unittest.TestCase):
    def test_freed_pairs_are_free_and_no_further_apart_than_asked(self) -> None:
        """What the kerning parts has no collision left, and stands at the gap to a fiftieth of a
        px; other words, other typefaces."""
        for words in ("Harbour", "AVATar", "Wharf"):
            for reach in (8.0, 16.0):
                with self.subTest(words=words, reach=reach):
                    tight = block(words)
                    found = collisions(_inks(tight), reach)
                    self.assertTrue(found)
                    kerns = freeing_kerns(found, tight)
                    freed = tight.model_copy(
                        update={"letters": {at: LetterSetting(kern=kern) for at, kern in kerns.items()}}
                    )
                    self.assertEqual(collisions(_inks(freed), reach), [])
                    looser = {at: LetterSetting(kern=kern - 0.2) for at, kern in kerns.items()}
                    again = collisions(_inks(tight.model_copy(update={"letters": looser})), reach)
                    self.assertEqual(len(again), len(found), "a hair less and they collide")


def _inks(words: Lettering) -> list:  # type: ignore[type-arg]
    return ink_of(set_block(words), words.form)


class RetypingTest(unittest.TestCase):
    TURN, KERN = LetterSetting(turn=9), LetterSetting(kern=20)

    def test_settings_follow_their_letters(self) -> None:
        for before, after, letters, kept in (
            ("Port", "A Port", {0: self.TURN}, {2: self.TURN}),
            ("Port", "Po rt", {3: self.TURN}, {4: self.TURN}),
            ("Port", "Prt", {1: self.TURN, 2: self.TURN}, {1: self.TURN}),
            ("Port", "Port Sorrel", {3: self.TURN}, {3: self.TURN}),
            ("Port", "", {3: self.TURN}, {}),
            ("one\ntwo", "two", {4: self.TURN}, {0: self.TURN}),
        ):
            with self.subTest(before=before, after=after):
                self.assertEqual(carried(letters, before, after), kept)

    def test_kerning_belongs_to_a_pair(self) -> None:
        self.assertEqual(carried({1: self.KERN}, "Port", "Sport"), {2: self.KERN})
        self.assertEqual(carried({1: self.KERN}, "Port", "Point"), {}, "an i and an n came between")
        both = LetterSetting(kern=20, size=80)
        self.assertEqual(carried({1: both}, "Port", "Po"), {1: LetterSetting(size=80)})
