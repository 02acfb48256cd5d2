"""The letters of words one by one, as a person counts them: by the number of their character.

Spaces and combining marks are no letters of their own; a mark belongs to the letter before it.
"""

import unicodedata
from dataclasses import dataclass
from typing import Literal


@dataclass(frozen=True)
class Letter:
    """A letter: the number of its character (Unicode code point) in the words, what it is, and what it is the
    first of."""

    number: int
    text: str
    starts: Literal["", "word", "line"]


def letters_of(words: str) -> list[Letter]:
    """The letters of words, in reading order.

    >>> [(letter.number, letter.text, letter.starts) for letter in letters_of("Le port")][:3]
    [(0, 'L', ''), (1, 'e', ''), (3, 'p', 'word')]
    """
    found: list[Letter] = []
    starts: Literal["", "word", "line"] = ""
    for number, text in enumerate(words):
        if text.isspace():
            starts = "line" if text == "\n" or starts == "line" else "word"
        elif not unicodedata.category(text).startswith("M"):
            found.append(Letter(number, text, starts if found else ""))
            starts = ""
    return found


def kerned_with(numbers_left_to_right: list[int], letter: int) -> int | None:
    """The letter whose kern sets the space between a letter and its neighbour in the words that stands to its
    left; none where there is no such neighbour.

    In right-to-left words the neighbour at the left is read after it, and the kern is its own.

    >>> kerned_with([0, 1, 3], 1), kerned_with([0, 1, 3], 3), kerned_with([2, 1, 0], 1)
    (0, None, 1)
    """
    at = numbers_left_to_right.index(letter)
    beside = [other for other in numbers_left_to_right[:at] if abs(other - letter) == 1]
    return min(beside[-1], letter) if beside else None
