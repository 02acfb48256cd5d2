"""Mixed lines: the order in which their characters are read, against the package's own display of
the line (UAX #9)."""

import random
import unicodedata
import unittest

from bidi import get_display

from halvex.core.assets import SHIPPED
from halvex.core.lettering import set_block
from halvex.core.lettering.bidi import levels_of, visual_order
from halvex.core.lettering.shaping import shape_line
from halvex.core.piece import Lettering

LINES = 2000
PIECES = (
    *(
        "abc",
        "Port",
        "x",
        "שלום",
        "עולם",
        "ב",
        "مرحبا",
        "قارب",
        "123",
        "4,5",
        "١٢٣",
        " ",
        "  ",
        "-",
        "+",
        "/",
        ".",
        ":",
        "!",
        "%",
        "#",
    ),
    *(
        "(",
        ")",
        "[",
        "]",
        "«",
        "»",
        "é",
        "é",
        "\u200f",
        "\u200e",
        "\u2067",
        "\u2066",
        "\u2069",
        "\u202b",
        "\u202a",
        "\u202c",
        "\u2068",
    ),
)


def shown(text: str) -> str:
    """A line from left to right, less characters without a shape."""
    return visible("".join(visual_order(list(zip(text, levels_of(text), strict=True)))))


def visible(text: str) -> str:
    return "".join(c for c in text if unicodedata.category(c) != "Cf")


class BidiTest(unittest.TestCase):
    def test_lines_of_mixed_script_read_as_the_algorithm_says(self) -> None:
        dice = random.Random(9)
        for _ in range(LINES):
            text = "".join(dice.choice(PIECES) for _ in range(dice.randint(1, 12)))
            with self.subTest(text):
                self.assertEqual(shown(text), visible(get_display(text)))

    def test_runs_are_reversed_from_the_highest_level_down(self) -> None:
        """Rule L2: each run of at least a level, from the highest to the lowest odd one."""
        self.assertEqual(
            visual_order([("a", 0), ("b", 1), ("c", 2), ("d", 1), ("e", 0)]), ["a", "d", "c", "b", "e"]
        )
        self.assertEqual(visual_order([]), [])

    def test_numbers_and_spaces_in_hebrew_keep_their_places(self) -> None:
        """The number stands between both words, a space on either side of it, as in `םלוע 123 םולש`."""
        line = shape_line("שלום 123 עולם", typeface=SHIPPED.typefaces["suez-one"], axes={})
        self.assertEqual([glyph.cluster for glyph in line.glyphs], [12, 11, 10, 9, 8, 5, 6, 7, 4, 3, 2, 1, 0])

    def test_marks_without_a_shape_need_no_glyph(self) -> None:
        plain = set_block(Lettering(words="שלום", typeface="suez-one"))
        marked = set_block(Lettering(words="\u200fשלום\u200e", typeface="suez-one"))
        self.assertEqual(
            [letter.outline.digest for letter in plain.letters],
            [letter.outline.digest for letter in marked.letters],
        )


if __name__ == "__main__":
    unittest.main()
