"""Patterns: shapes that come again and again over a surface, in two or more paints."""

from typing import Literal, get_args

from pydantic import field_validator

from halvex.core.piece.fields import number, plain
from halvex.core.piece.layer import Blend, Sheet, angle, masks, percentage, shift
from halvex.core.piece.part import LONGEST_LENGTH_PX, MOST_SEED, Colour, Part

MOST_PAINTS = 8
PatternName = Literal[
    "stripes",
    "checks",
    "dots",
    "stars",
    "bubbles",
    "scales",
    "waves",
    "bricks",
    "tiles",
    "terrazzo",
    "crystals",
    "cloud",
]
PATTERN_NAMES: tuple[PatternName, ...] = get_args(PatternName)
# Those of single shapes that can be placed, sized and turned at random, and those whose shapes can differ in
# colour.
_SINGLE = ("dots", "stars")
_CELLS = tuple(name for name in PATTERN_NAMES if name not in ("stripes", "waves", "cloud"))
_SEEDED = (*_CELLS, "cloud")


class PatternPaint(Part):
    """A colour of a pattern."""

    colour: Colour = plain("#ffffff", label="Colour")
    opacity: float = percentage(100, "Opacity")


class Pattern(Part):
    """A pattern: its first paint is the ground, the others are those of its shapes; of a cloud they are
    equally far apart from thin to dense.

    Size is how far a shape is from the next, in px. Around bevels, returns and tubes shapes are stretched a
    little, so that a whole number of them closes the ring. Crystals are facets that each tilt their own way,
    and turn through a closed cycle as the phase goes from 0 to 360°.
    """

    kind: Literal["pattern"] = "pattern"
    pattern: PatternName = plain("stripes", label="Pattern")
    span: Sheet = plain("surface", label="Over")
    size: float = number(30, label="Size", unit="px", comfort=(4, 200), step=1, ge=0.1, le=LONGEST_LENGTH_PX)
    bearing: float = angle(0, "Bearing")
    fill: float = percentage(
        50,
        "Fill",
        when={"pattern": tuple(name for name in PATTERN_NAMES if name not in ("checks", "crystals"))},
    )
    points: int = number(5, label="Points", comfort=(3, 12), ge=2, le=100, when={"pattern": ("stars",)})
    place_jitter: float = percentage(0, "Jitter of place", when={"pattern": _SINGLE})
    size_jitter: float = percentage(0, "Jitter of size", when={"pattern": _SINGLE})
    turn_jitter: float = percentage(0, "Jitter of turn", when={"pattern": ("stars",)})
    hue_jitter: float = number(
        0, label="Jitter of hue", unit="°", comfort=(0, 180), step=5, ge=0, le=360, when={"pattern": _CELLS}
    )
    tone_jitter: float = percentage(0, "Jitter of tone", when={"pattern": _CELLS})
    tilt: float = number(
        25, label="Tilt", unit="°", comfort=(0, 60), step=1, ge=0, le=85, when={"pattern": ("crystals",)}
    )
    phase: float = angle(0, "Phase", when={"pattern": ("crystals",)})
    seed: int = number(1, label="Seed", comfort=(1, 100), ge=0, le=MOST_SEED, when={"pattern": _SEEDED})
    x: float = shift("Moved along")
    y: float = shift("Moved across")
    strength: float = percentage(100, "Strength")
    masks: bool = masks()
    blend: Blend = plain("normal", label="Blend mode")
    paints: tuple[PatternPaint, ...] = (PatternPaint(colour="#f3efe4"), PatternPaint(colour="#b8322a"))

    @field_validator("paints")
    @classmethod
    def _check_paints(cls, paints: tuple[PatternPaint, ...]) -> tuple[PatternPaint, ...]:
        if len(paints) < 2:
            raise ValueError("a pattern needs two paints at least, a ground and one for its shapes; add one")
        if len(paints) > MOST_PAINTS:
            raise ValueError(f"a pattern has {MOST_PAINTS} paints at most; take some away")
        return paints
