"""Words: lettering becomes glyphs one by one, spaced, sized, shifted, on a line, an arc or a curve."""

import cmath
import math
import random
from dataclasses import dataclass, replace

from halvex.core.assets import Assets, Typeface
from halvex.core.lettering.following import Stand, arc, curve, straight
from halvex.core.lettering.outlines import flattening_tolerance, glyph_outline, turned
from halvex.core.lettering.placed import PlacedOutline, union
from halvex.core.lettering.shaping import Glyph, Line, shape_line
from halvex.core.lettering.strokes import stroke_line
from halvex.core.lettering.typefaces import LetteringError, opened, typeface_of
from halvex.core.memory import kept
from halvex.core.piece.lettering import Lettering, LetterSetting, Stagger
from halvex.core.stopping import stop_if_overtaken

PLAIN = LetterSetting()
# Small capitals without a drawing of their own are capitals a little taller than the x-height:
# common practice.
OVER_X_HEIGHT = 1.08


def set_words(block: Lettering, px_scale: float, assets: Assets) -> list[PlacedOutline]:
    """The letters of a lettering, the first line's baseline through the origin. Raises
    LetteringError where there is no ink."""
    if not block.words.strip():
        raise LetteringError("words", "there are no words to set; type at least one letter")
    axes = tuple(sorted(block.axes.items()))
    typeface = typeface_of(block.typeface, assets)
    metrics = opened(typeface)[0].metrics
    line_height = (metrics.ascender - metrics.descender + metrics.line_gap) * block.leading * block.size
    tolerance = flattening_tolerance(block.size, px_scale)
    lines = _lines(block, typeface)
    stand = _stand(block, max(line.advance for line in lines) * block.size, px_scale)
    shift = {"left": 0.0, "centre": 0.5, "right": 1.0}[block.align]
    letters: list[PlacedOutline] = []
    for number, line in enumerate(lines):
        bounce = _staggered(line, block.stagger)
        for mark in line.marks:
            stop_if_overtaken()
            outline = glyph_outline(
                mark.glyph.file, mark.glyph.gid, axes, tolerance, block.words[mark.letter]
            )
            if not outline.rings:
                continue
            # A letter stands on the line with the middle of its advance, and its accents with it.
            rise, lean = bounce.get(mark.letter, (0.0, 0.0))
            origin, angle = stand(
                mark.middle * block.size, line.advance * block.size, shift, number * line_height
            )
            angle = round((0.0 if block.along.upright else angle) + lean, 2)
            offset = (
                complex(mark.x - mark.middle, mark.y + rise)
                * block.size
                * cmath.exp(1j * math.radians(angle))
            )
            if angle:
                outline = turned(outline, angle)
            setting = block.letters.get(mark.letter, PLAIN)
            letters.append(
                PlacedOutline(
                    outline,
                    block.size * mark.scale,
                    (origin + offset).real,
                    (origin + offset).imag,
                    mark.letter,
                    setting.material,
                )
            )
    letters = _turned_letters(letters, block.letters)
    if not letters:
        raise LetteringError("words", "these words have no ink in this typeface; type at least one letter")
    return letters


def _stand(block: Lettering, longest: float, px_scale: float) -> Stand:
    along = block.along
    if along.kind == "curve" and along.curve is not None:
        return curve(*stroke_line(along.curve, px_scale))
    return arc(longest, along.bend) if along.kind == "arc" and along.bend else straight


@dataclass(frozen=True)
class _Mark:
    """A glyph of a line whose letters have sizes of their own: its letter's number in the words,
    its scale, its origin and the middle of its letter's advance in em from the line's start."""

    glyph: Glyph
    letter: int
    scale: float
    x: float
    y: float
    middle: float = 0.0


@dataclass(frozen=True)
class _SetLine:
    marks: tuple[_Mark, ...]
    advance: float


def _lines(block: Lettering, typeface: Typeface) -> list[_SetLine]:
    """The lines of a block, shaped and spaced letter by letter."""
    drawn = any("smcp" in file.features for file in opened(typeface))
    features = (
        {**block.features, "smcp": True} if block.case == "small capitals" and drawn else block.features
    )
    small = _small_capital_scale(typeface) if block.case == "small capitals" and not drawn else 1.0
    lines, start = [], 0
    for words in block.words.split("\n"):
        text, source = _cased(words, capitals=block.case == "capitals" or small != 1.0)
        shaped = shape_line(
            text,
            typeface=typeface,
            axes=block.axes,
            tracking=block.tracking / 1000,
            features=features,
            language=block.language,
            script=block.script,
        )
        glyphs = tuple(replace(glyph, cluster=source[glyph.cluster]) for glyph in shaped.glyphs)
        scales = [small if character != character.upper() else 1.0 for character in words]
        lines.append(_spaced(Line(glyphs, shaped.advance), block.letters, start, scales))
        start += len(words) + 1
    return lines


def _cased(words: str, *, capitals: bool) -> tuple[str, list[int]]:
    """The words as they are set, and for each of its characters the number of the one it was made
    of (ß becomes two)."""
    made = [
        (c, at) for at, character in enumerate(words) for c in (character.upper() if capitals else character)
    ]
    return "".join(c for c, _ in made), [at for _, at in made]


@kept
def _small_capital_scale(typeface: Typeface) -> float:
    """How tall a small capital is against a capital, where the typeface draws none: a little over
    the x-height."""
    file = opened(typeface)[0]
    tops = []
    for letter in "xH":
        outline = glyph_outline(file, file.glyph(letter), (), 2e-3)
        tops.append(max((float(ring[:, 1].max()) for ring in outline.rings), default=0.0))
    return min(tops[0] / tops[1] * OVER_X_HEIGHT, 1.0) if tops[0] > 0 and tops[1] > 0 else 0.75


def _spaced(line: Line, settings: dict[int, LetterSetting], start: int, scales: list[float]) -> _SetLine:
    """The glyphs of a line, kerned, sized and shifted one by one; `start` is its first character's
    number in the words.

    Glyphs of one letter (a base and its accents) keep together about the letter's own origin.
    """
    marks: list[_Mark] = []
    added, before, origin, first = 0.0, -1, 0.0, 0
    for at, glyph in enumerate(line.glyphs):
        letter = start + glyph.cluster
        setting = settings.get(letter, PLAIN)
        scale = setting.size / 100 * scales[glyph.cluster]
        if letter != before:
            if before >= 0:
                # Right-to-left words run against the glyphs: the pair belongs to the letter that is
                # read first.
                added += settings.get(min(before, letter), PLAIN).kern / 1000
            origin, before, first = glyph.x, letter, at
        marks.append(
            _Mark(
                glyph,
                letter,
                scale,
                origin + added + (glyph.x - origin) * scale,
                glyph.y * scale + setting.shift / 1000,
            )
        )
        if at + 1 == len(line.glyphs) or start + line.glyphs[at + 1].cluster != letter:
            wide = sum(mark.glyph.advance for mark in marks[first:])
            middle = origin + added + wide * scale / 2
            marks[first:] = [replace(mark, middle=middle) for mark in marks[first:]]
            added += wide * (scale - 1.0)
    return _SetLine(tuple(marks), line.advance + added)


def _staggered(line: _SetLine, stagger: Stagger) -> dict[int, tuple[float, float]]:
    """How far each letter of a line is off it, in em, and how far it leans, in degrees."""
    if not stagger.rise and not stagger.turn:
        return {}
    letters = list(
        dict.fromkeys(mark.letter for mark in line.marks if mark.glyph.advance and mark.glyph.inked)
    )
    if stagger.by == "turns":
        return {
            letter: (way * stagger.rise / 1000, way * stagger.turn)
            for letter, way in zip(letters, [1, -1] * len(letters), strict=False)
        }
    found = {}
    for letter in letters:
        chance = random.Random(f"{stagger.seed} {letter}")
        found[letter] = chance.uniform(-1, 1) * stagger.rise / 1000, chance.uniform(-1, 1) * stagger.turn
    return found


def _turned_letters(letters: list[PlacedOutline], settings: dict[int, LetterSetting]) -> list[PlacedOutline]:
    """Letters that are turned, each about the middle of its ink."""
    middles: dict[int, tuple[float, float]] = {}
    for at, setting in settings.items():
        boxes = [letter.box for letter in letters if letter.letter == at]
        if setting.turn and boxes:
            left, bottom, right, top = union(boxes)
            middles[at] = (left + right) / 2, (bottom + top) / 2
    return [
        _turned_about(letter, settings[letter.letter].turn, *middles[letter.letter])
        if letter.letter in middles
        else letter
        for letter in letters
    ]


def _turned_about(letter: PlacedOutline, degrees: float, x: float, y: float) -> PlacedOutline:
    origin = complex(x, y) + complex(letter.x - x, letter.y - y) * cmath.exp(1j * math.radians(degrees))
    return replace(letter, outline=turned(letter.outline, degrees), x=origin.real, y=origin.imag)
