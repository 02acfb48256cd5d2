"""Bidirectional lines: levels by the Unicode bidirectional algorithm (UAX #9), runs from left to
right by its rule L2."""

import re
import unicodedata
from collections.abc import Sequence
from typing import TypeVar

from bidi import get_display

# Characters that set levels and have no shape of their own.
CONTROLS = frozenset("\u200e\u200f\u061c\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")
_LEVEL = re.compile(r"Level\(\s*(\d+)")
_SPACES = ("WS", "LRI", "RLI", "FSI", "PDI", "BN", "LRE", "RLE", "LRO", "RLO", "PDF")

Run = TypeVar("Run")


def levels_of(text: str) -> list[int]:
    """The embedding level of each character of a line: even left to right, odd right to left.

    The line's own direction is that of its first strong character.

    >>> levels_of("ab אב 12")
    [0, 0, 0, 1, 1, 1, 2, 2]
    """
    if text.isascii():
        return [0] * len(text)
    # The package says its levels in a dump only, one for each byte of the text.
    dump = get_display(text, debug=True)
    by_byte = [int(level) for level in _LEVEL.findall(dump[dump.index("\n    levels: [") :])]
    levels, at = [], 0
    for character in text:
        levels.append(by_byte[at])
        at += len(character.encode())
    # Rule L1: spaces at the end of a line are of the line's own level; it follows those of the bytes.
    for number in reversed(range(len(text))):
        if unicodedata.bidirectional(text[number]) not in _SPACES:
            break
        levels[number] = by_byte[len(text.encode())]
    return levels


def visual_order(runs: Sequence[tuple[Run, int]]) -> list[Run]:
    """Runs, each with its level, in the order in which they are read from left to right (rule L2)."""
    ordered = list(runs)
    levels = [level for _, level in runs]
    for least in range(
        max(levels, default=0), min((level for level in levels if level % 2), default=1) - 1, -1
    ):
        start = 0
        while start < len(ordered):
            end = start
            while end < len(ordered) and ordered[end][1] >= least:
                end += 1
            ordered[start:end] = ordered[start:end][::-1]
            start = max(end, start + 1)
    return [run for run, _ in ordered]
