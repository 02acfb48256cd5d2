"""Shaping: words and a typeface become glyphs with places, in em.

HarfBuzz chooses and places the glyphs (ligatures, kerning, right to left). A line is divided into
runs of one font file and one direction; runs are ordered as the Unicode bidirectional algorithm does
for a line whose paragraph direction is that of its first strong letter.
"""

import unicodedata
from dataclasses import dataclass

import uharfbuzz as hb

from halvex.core.lettering.typefaces import FontFile, LetteringError, font_files

_RIGHT_TO_LEFT = ("R", "AL")
_STRONG = ("L", "R", "AL")


@dataclass(frozen=True)
class Glyph:
    """One shaped glyph: which file and glyph id, and its origin in em from the line's start.

    `cluster` is the index in the line of the first character it stands for; `advance` is in em, without tracking.
    """

    file: FontFile
    gid: int
    x: float
    y: float
    cluster: int
    advance: float = 0.0

    @property
    def inked(self) -> bool:
        return self.file.has_ink(self.gid)


@dataclass(frozen=True)
class Line:
    """A shaped line: glyphs from left to right, and the advance of the whole line in em."""

    glyphs: tuple[Glyph, ...]
    advance: float


@dataclass(frozen=True)
class _Run:
    start: int
    text: str
    file: FontFile
    rtl: bool


def shape_line(
    text: str, *, typeface: str, axes: dict[str, float], tracking: float = 0.0, features: dict[str, bool] | None = None, language: str = "", script: str = ""
) -> Line:
    """Shape one line. `tracking` is extra space after every glyph, in em; `features` turns OpenType features on or off;
    `language` is a BCP 47 tag, empty for none in particular; `script` an ISO 15924 code, empty to tell it from the text.

    Raises LetteringError for characters that no file of the typeface has.
    """
    files = font_files(typeface)
    runs = _visual_order(_runs(text, files, typeface), _starts_right_to_left(text))
    glyphs: list[Glyph] = []
    x = 0.0
    for run in runs:
        buffer = hb.Buffer()
        buffer.add_str(run.text)
        buffer.guess_segment_properties()
        if language:
            buffer.language = language
        if script:
            buffer.script = script
        buffer.direction = "rtl" if run.rtl else "ltr"
        # Ligatures join letters that tracking wants apart; typesetters turn them off then.
        joined = {"liga": tracking == 0.0, "clig": tracking == 0.0}
        hb.shape(run.file.font(axes), buffer, {**joined, **(features or {})})
        em = 1.0 / run.file.upem
        for info, position in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
            glyphs.append(
                Glyph(run.file, info.codepoint, x + position.x_offset * em, position.y_offset * em, run.start + info.cluster, position.x_advance * em)
            )
            x += position.x_advance * em
            if position.x_advance:
                x += tracking
    return Line(tuple(glyphs), x - tracking if glyphs else 0.0)


def _starts_right_to_left(text: str) -> bool:
    strong = next((unicodedata.bidirectional(c) for c in text if unicodedata.bidirectional(c) in _STRONG), "L")
    return strong in _RIGHT_TO_LEFT


def _runs(text: str, files: tuple[FontFile, ...], typeface: str) -> list[_Run]:
    """Divide into runs of one file and one direction; spaces and marks stay with what precedes them."""
    runs: list[_Run] = []
    paragraph_rtl = _starts_right_to_left(text)
    file, rtl = files[0], paragraph_rtl
    for index, character in enumerate(text):
        neutral = unicodedata.bidirectional(character) not in (*_STRONG, "EN", "AN")
        joiner = unicodedata.combining(character) or character in "\u200c\u200d\ufe0e\ufe0f"
        if not (neutral or joiner):
            rtl = unicodedata.bidirectional(character) in _RIGHT_TO_LEFT
        if not joiner and ord(character) not in file.coverage:
            file = next((f for f in files if ord(character) in f.coverage), None)  # type: ignore[assignment]
            if file is None:
                raise LetteringError("words", _missing(character, typeface))
        elif neutral and runs and ord(character) in runs[-1].file.coverage:
            file = runs[-1].file
        if runs and runs[-1].file is file and runs[-1].rtl == rtl:
            runs[-1] = _Run(runs[-1].start, runs[-1].text + character, file, rtl)
        else:
            runs.append(_Run(index, character, file, rtl))
    return runs


def _missing(character: str, typeface: str) -> str:
    name = unicodedata.name(character, f"U+{ord(character):04X}").lower()
    return f"the typeface “{typeface}” has no “{character}” ({name}); change the word or the typeface"


def _visual_order(runs: list[_Run], paragraph_rtl: bool) -> list[_Run]:
    """Runs from left to right: the paragraph's own order, with runs against it reversed among themselves."""
    ordered: list[_Run] = []
    against: list[_Run] = []
    for run in reversed(runs) if paragraph_rtl else runs:
        if run.rtl != paragraph_rtl:
            against.append(run)
            continue
        ordered += reversed(against)
        against = []
        ordered.append(run)
    return ordered + list(reversed(against))
