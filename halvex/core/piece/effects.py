"""Effects: what finishes a picture once it is rendered, one after another.

Lengths are in px of the canvas, so that a picture looks the same at any size.
"""

from typing import Annotated, Any, Literal

from pydantic import Field

from halvex.core.piece.fields import When, number, plain
from halvex.core.piece.gradient import Gradient, Stop
from halvex.core.piece.layer import Blend, angle, percentage
from halvex.core.piece.part import LONGEST_LENGTH_PX, MOST_SEED, Colour, Part
from halvex.core.piece.source import ColourSource, Layers

MOST_EFFECTS = 24
MOST_SPOTS = 100
_GLOW = Gradient(
    span="canvas",
    shape="oval",
    blend="screen",
    # No edge shows where it ends.
    stops=tuple(
        Stop(at=at, colour="#8a6a3a", opacity=opacity)
        for at, opacity in ((0, 100), (40, 55), (75, 14), (100, 0))
    ),
)
# Keylines around areas, which have an inside.
_OUTLINES: When = {"around": ("face", "silhouette", "plate")}
# What an effect works on: all of the picture, or what of it shows the letters, the backdrop, one part of all
# letters or one block; or as much of it as the light of one lamp makes. One that is gone is nothing.
PART_TARGETS = ("face", "bevel", "return", "back", "plate", "slab")
_ONE = rf"part:({'|'.join(PART_TARGETS)})|(block|light):[A-Za-z0-9-]{{1,40}}"
Target = Annotated[str, Field(pattern=rf"^(picture|letters|backdrop|{_ONE})$")]


def _target(default: str) -> Any:
    return Field(default, title="Works on", json_schema_extra={"kind": "target"})


def _length(
    default: float,
    label: str,
    comfort: tuple[float, float],
    step: float = 1.0,
    when: When | None = None,
) -> float:
    """A length in px of the canvas."""
    found: float = number(
        default, label=label, unit="px", comfort=comfort, step=step, ge=0, le=LONGEST_LENGTH_PX, when=when
    )
    return found


def _balance(label: str, default: float = 0) -> float:
    """A change in %, either way."""
    found: float = number(default, label=label, unit="%", comfort=(-100, 100), step=5, ge=-100, le=1000)
    return found


class Effect(Part):
    """What all effects have: whether they are on, and what they work on."""

    on: bool = True
    target: Target = _target("picture")
    strength: float = percentage(100, "Strength")


class Keyline(Effect):
    """A line around the faces of the letters, around all that is seen of them, or around their plates,
    exactly along the outlines as the camera sees them; or along edges within them where a graphic tone
    changes."""

    kind: Literal["keyline"] = "keyline"
    around: Literal["face", "silhouette", "plate", "tones"] = plain("face", label="Around")
    place: Literal["inside", "centred", "outside"] = plain("centred", label="Place", when=_OUTLINES)
    join: Literal["mitred", "round"] = plain("mitred", label="Corners")
    colour: ColourSource = plain("#f6ead2", label="Colour")
    width: float = _length(3, "Width", (0, 20), 0.5)
    double: float = _length(0, "Gap of a double line", (0, 20), 0.5, when=_OUTLINES)
    dash: float = _length(0, "Dashes", (0, 60), 1, when=_OUTLINES)
    gap: float = _length(8, "Gaps between dashes", (0, 60), 1, when=_OUTLINES)
    softness: float = _length(0, "Soft edge", (0, 20), 0.5)
    blend: Blend = plain("normal", label="Blend mode")


class Halo(Effect):
    """Light about the letters, or along their edges within them, that falls off with distance."""

    kind: Literal["halo"] = "halo"
    side: Literal["outside", "inside"] = plain("outside", label="Side")
    colour: ColourSource = plain("#ffd9a0", label="Colour")
    radius: float = _length(24, "Radius", (0, 200))
    spread: float = number(3, label="Reach", comfort=(1, 8), step=0.5, ge=1, le=100)
    falloff: float = number(1, label="Falloff", comfort=(0.3, 4), step=0.1, ge=0.05, le=20)
    blend: Blend = plain("normal", label="Blend mode")


class Bloom(Effect):
    """Light that spreads in the lens: what is brighter than white the farthest seen, and none is lost."""

    kind: Literal["bloom"] = "bloom"
    strength: float = percentage(12, "Strength")
    radius: float = _length(6, "Core", (1, 40))
    tail: float = number(8, label="Tail", comfort=(1, 20), step=0.5, ge=1, le=200)


class GlintSpot(Part):
    """Where a star is to stand, in % of the canvas from its left and from its bottom."""

    x: float = number(50, label="Across", unit="%", comfort=(0, 100), step=1, ge=-100, le=200)
    y: float = number(50, label="Up", unit="%", comfort=(0, 100), step=1, ge=-100, le=200)


class Glints(Effect):
    """Stars at the brightest spots of the picture, as bright as what they stand on; before those come spots
    that were placed by hand, which glint while light is there."""

    kind: Literal["glints"] = "glints"
    target: Target = _target("letters")
    count: int = number(6, label="Count", comfort=(0, 40), ge=0, le=500)
    size: float = _length(60, "Size", (5, 300))
    spacing: float = _length(60, "Apart", (0, 400))
    arms: int = number(4, label="Arms", comfort=(2, 12), ge=2, le=64)
    turn: float = angle(20, "Turn")
    jitter: float = percentage(30, "Jitter of size")
    seed: int = number(1, label="Seed", comfort=(1, 100), ge=0, le=MOST_SEED)
    spots: tuple[GlintSpot, ...] = Field((), max_length=MOST_SPOTS)


class Gloss(Effect):
    """A lighter band over part of each letter or of all, its edge straight, bowed or waved."""

    kind: Literal["gloss"] = "gloss"
    over: Literal["letter", "block", "piece"] = plain("letter", label="Over")
    edge: Literal["straight", "bowed", "waved"] = plain("bowed", label="Edge")
    colour: ColourSource = plain("#ffffff", label="Colour")
    strength: float = percentage(35, "Strength")
    height: float = percentage(50, "Height")
    bow: float = _balance("Bow", 25)
    fade: float = percentage(60, "Fade")
    blend: Blend = plain("screen", label="Blend mode")


def _curve_point(at: int) -> float:
    found: float = number(
        at, label=f"Curve at {at} %", unit="%", comfort=(0, 100), step=1, ge=-100, le=200, group="curve"
    )
    return found


class Tone(Effect):
    """Tone and colour: lightness, contrast, saturation and hue as they are seen (OKLCh), a tint that keeps
    lightness, and a curve, which says what five tones become and is smooth and monotone between them."""

    kind: Literal["tone"] = "tone"
    lightness: float = _balance("Lightness")
    contrast: float = _balance("Contrast")
    saturation: float = _balance("Saturation")
    hue: float = number(0, label="Hue", unit="°", comfort=(-180, 180), step=5, ge=-3600, le=3600)
    tint: Colour = plain("#e0b070", label="Tint")
    tinted: float = percentage(0, "Tinted")
    shadows: Colour = plain("#2a3a5a", label="Tint of shadows")
    split: float = percentage(0, "Shadows tinted")
    curve_of: Literal["lightness", "red", "green", "blue"] = plain(
        "lightness", label="Curve of", group="curve"
    )
    at_0: float = _curve_point(0)
    at_25: float = _curve_point(25)
    at_50: float = _curve_point(50)
    at_75: float = _curve_point(75)
    at_100: float = _curve_point(100)


class Vignette(Effect):
    """The picture darker, or lighter, towards its edges."""

    kind: Literal["vignette"] = "vignette"
    colour: ColourSource = plain("#000000", label="Colour")
    strength: float = percentage(45, "Strength")
    radius: float = number(70, label="Radius", unit="%", comfort=(0, 150), step=5, ge=0, le=1000)
    softness: float = percentage(70, "Softness")
    roundness: float = percentage(50, "Roundness")
    x: float = _balance("Moved across")
    y: float = _balance("Moved up")
    blend: Blend = plain("normal", label="Blend mode")


class Grain(Effect):
    """Grain of film, strongest in the middle tones; each frame of a loop its own, or the same in all."""

    kind: Literal["grain"] = "grain"
    strength: float = percentage(8, "Strength")
    size: float = number(
        1.6, label="Size", unit="px", comfort=(0.5, 8), step=0.1, ge=0.1, le=LONGEST_LENGTH_PX
    )
    coloured: float = percentage(20, "Coloured")
    seed: int = number(1, label="Seed", comfort=(1, 100), ge=0, le=MOST_SEED)


class Sharpen(Effect):
    """Edges made crisper."""

    kind: Literal["sharpen"] = "sharpen"
    strength: float = percentage(40, "Strength")
    radius: float = _length(1, "Radius", (0.3, 6), 0.1)


class Fringe(Effect):
    """Colours that part towards the picture's edges, as in a simple lens."""

    kind: Literal["fringe"] = "fringe"
    width: float = _length(2, "Width", (0, 12), 0.5)


class Blur(Effect):
    """What lies off a distance is out of focus, the more the farther off, up to `radius`. A lens blurs by
    itself (View); this blurs a finished picture, as much as one likes."""

    kind: Literal["blur"] = "blur"
    side: Literal["behind", "before", "both"] = plain("behind", label="What lies")
    radius: float = _length(12, "Radius", (0, 60))
    focus: float = number(
        0,
        label="In focus at",
        unit="px",
        comfort=(-300, 300),
        step=5,
        ge=-LONGEST_LENGTH_PX,
        le=LONGEST_LENGTH_PX,
    )
    reach: float = number(
        150, label="Whole after", unit="px", comfort=(10, 600), step=10, gt=0.5, le=LONGEST_LENGTH_PX
    )


class Wash(Effect):
    """Gradients, patterns and pictures laid over the canvas, whatever they say they are laid over: a glow
    behind the letters, paper, a flare."""

    kind: Literal["wash"] = "wash"
    target: Target = _target("backdrop")
    layers: Layers = (_GLOW,)


AnyEffect = Wash | Keyline | Halo | Bloom | Blur | Glints | Gloss | Tone | Vignette | Grain | Sharpen | Fringe
EFFECT_KINDS: tuple[type[AnyEffect], ...] = (
    Wash,
    Keyline,
    Halo,
    Bloom,
    Blur,
    Glints,
    Gloss,
    Tone,
    Vignette,
    Grain,
    Sharpen,
    Fringe,
)
Effects = Annotated[
    tuple[Annotated[AnyEffect, Field(discriminator="kind")], ...], Field(max_length=MOST_EFFECTS)
]
