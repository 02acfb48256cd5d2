"""OpenType features that a lettering artist turns on or off, by name.

Names are those of the OpenType Layout Tag Registry; stylistic sets and character variants carry the
name that the font itself gives them, where it does. Features that a script needs to be written at all
(joining forms, conjuncts) are no matter of taste and are omitted.
"""

from dataclasses import dataclass

from halvex.core.assets import Typeface
from halvex.core.lettering.typefaces import opened

# Tag, name, and whether it is on unless turned off.
_CHOICES = {
    "kern": ("Kerning", True),
    "liga": ("Ligatures", True),
    "calt": ("Contextual forms", True),
    "dlig": ("Discretionary ligatures", False),
    "hlig": ("Historical ligatures", False),
    "smcp": ("Small capitals", False),
    "c2sc": ("Small capitals from capitals", False),
    "swsh": ("Swashes", False),
    "salt": ("Stylistic alternates", False),
    "titl": ("Titling capitals", False),
    "lnum": ("Lining figures", False),
    "onum": ("Old-style figures", False),
    "pnum": ("Proportional figures", False),
    "tnum": ("Tabular figures", False),
    "frac": ("Fractions", False),
    "ordn": ("Ordinals", False),
    "sups": ("Superscript", False),
    "zero": ("Slashed zero", False),
}


@dataclass(frozen=True)
class Feature:
    """A feature of a typeface: its tag, its name, and whether it is on unless turned off."""

    tag: str
    name: str
    default: bool


def features_of(typeface: Typeface) -> tuple[Feature, ...]:
    """The features of a typeface that are a choice, in the order they are shown."""
    found: dict[str, str] = {}
    for file in opened(typeface):
        found = {**file.features, **found}
    known = [Feature(tag, name, default) for tag, (name, default) in _CHOICES.items() if tag in found]
    sets = sorted(tag for tag in found if tag[:2] in ("ss", "cv") and tag[2:].isdecimal())
    kinds = {"ss": "Stylistic set", "cv": "Character variant"}
    return (*known, *(Feature(tag, found[tag] or f"{kinds[tag[:2]]} {int(tag[2:])}", False) for tag in sets))
