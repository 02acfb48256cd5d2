"""What the layers of a source have in common: what they are laid over, and how they are blended.

Places are in shares of the span that a layer is laid over, and go along with the lettering.
"""

from typing import Any, Literal, get_args

from halvex.core.piece.fields import When, number, plain

# Modes of the W3C recommendation Compositing and Blending Level 1, in its order, separable ones first.
Blend = Literal[
    "normal",
    "multiply",
    "screen",
    "overlay",
    "darken",
    "lighten",
    "color-dodge",
    "color-burn",
    "hard-light",
    "soft-light",
    "difference",
    "exclusion",
    "hue",
    "saturation",
    "color",
    "luminosity",
]
# Spans with a width and a height: boxes, and then those that follow the body. Surface: faces as they lie,
# bevels and returns along their outline, tubes along and around.
Plane = Literal["letter", "word", "block", "piece", "canvas"]
Span = Literal["letter", "word", "block", "piece", "canvas", "depth", "run", "across", "facing"]
Sheet = Literal["letter", "word", "block", "piece", "canvas", "surface"]
PLANES: tuple[Plane, ...] = get_args(Plane)
SPANS: tuple[str, ...] = (*get_args(Span), "surface")


def percentage(default: float, label: str, *, when: When | None = None) -> Any:
    """A share in %, from none to all."""
    return number(default, label=label, unit="%", comfort=(0, 100), step=5, ge=0, le=100, when=when)


def shift(label: str, when: When | None = None) -> Any:
    """How far something is moved, in % of what it is laid over."""
    return number(0, label=label, unit="%", comfort=(-100, 100), step=1, ge=-1000, le=1000, when=when)


def angle(default: float, label: str, *, when: When | None = None) -> Any:
    """An angle in degrees, counter-clockwise."""
    return number(default, label=label, unit="°", comfort=(0, 360), step=5, ge=-3600, le=3600, when=when)


def stretch(label: str, when: When | None = None) -> Any:
    """A length as a multiple of what it would be, in %."""
    return number(100, label=label, unit="%", comfort=(10, 300), step=5, ge=0.1, le=10_000, when=when)


def masks() -> Any:
    """Whether a layer is not shown, but says by its tones where the one above it is."""
    return plain(False, label="mask of the layer above")
