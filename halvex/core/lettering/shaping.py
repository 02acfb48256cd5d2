"""Shaping: words and a typeface become glyphs with places, in em.

HarfBuzz chooses and places the glyphs (ligatures, kerning, right to left). A line is divided into
runs of one font file and one embedding level, which are put in order from left to right (bidi.py).
"""

import unicodedata
from dataclasses import dataclass

import uharfbuzz as hb

from halvex.core.assets import Typeface
from halvex.core.lettering.bidi import CONTROLS, levels_of, visual_order
from halvex.core.lettering.typefaces import FontFile, LetteringError, opened

# They belong to the character before them: joiners and the choice of a drawing.
_JOINERS = frozenset("\u200c\u200d\ufe0e\ufe0f")


@dataclass(frozen=True)
class Glyph:
    """One shaped glyph: which file and glyph id, and its origin in em from the line's start.

    `cluster` is the index in the line of the first character it stands for; `advance` is in em,
    without tracking.
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
    level: int


def shape_line(
    text: str,
    *,
    typeface: Typeface,
    axes: dict[str, float],
    tracking: float = 0.0,
    features: dict[str, bool] | None = None,
    language: str = "",
    script: str = "",
) -> Line:
    """Shape one line. `tracking` is extra space after every glyph, in em; `features` turns OpenType
    features on or off; `language` is a BCP 47 tag, empty for none in particular; `script` an ISO
    15924 code, empty to guess it from the text.

    Raises LetteringError for characters that no file of the typeface has.
    """
    runs = visual_order([(run, run.level) for run in _runs(text, typeface)])
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
        buffer.direction = "rtl" if run.level % 2 else "ltr"
        # Ligatures join letters that tracking wants apart; typesetters turn them off then.
        joined = {"liga": tracking == 0.0, "clig": tracking == 0.0}
        hb.shape(run.file.font(axes), buffer, {**joined, **(features or {})})
        em = 1.0 / run.file.upem
        for info, position in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
            glyphs.append(
                Glyph(
                    run.file,
                    info.codepoint,
                    x + position.x_offset * em,
                    position.y_offset * em,
                    run.start + info.cluster,
                    position.x_advance * em,
                )
            )
            x += position.x_advance * em
            if position.x_advance:
                x += tracking
    return Line(tuple(glyphs), x - tracking if glyphs else 0.0)


def _runs(text: str, typeface: Typeface) -> list[_Run]:
    """Divide into runs of one file and one level; spaces and marks stay with the file of what
    precedes them."""
    runs: list[_Run] = []
    files = opened(typeface)
    file = files[0]
    for index, (character, level) in enumerate(zip(text, levels_of(text), strict=True)):
        shapeless = unicodedata.combining(character) or character in _JOINERS or character in CONTROLS
        stays = (
            runs
            and not unicodedata.category(character).startswith(("L", "N"))
            and ord(character) in runs[-1].file.coverage
        )
        if stays:
            file = runs[-1].file
        elif not shapeless and ord(character) not in file.coverage:
            file = next((f for f in files if ord(character) in f.coverage), None)  # type: ignore[assignment]
            if file is None:
                raise LetteringError("words", _missing(character, typeface.id))
        if runs and runs[-1].file is file and runs[-1].level == level:
            runs[-1] = _Run(runs[-1].start, runs[-1].text + character, file, level)
        else:
            runs.append(_Run(index, character, file, level))
    return runs


def _missing(character: str, typeface: str) -> str:
    name = unicodedata.name(character, f"U+{ord(character):04X}").lower()
    return f"the typeface “{typeface}” has no “{character}” ({name}); change the word or the typeface"
