"""Settings of single effects that are often wanted, by name: where to begin."""

from typing import NamedTuple

from halvex.core.piece.effects import (
    AnyEffect,
    Bloom,
    Blur,
    Fringe,
    Glints,
    Gloss,
    Grain,
    Halo,
    Keyline,
    Sharpen,
    Tone,
    Vignette,
    Wash,
)
from halvex.core.piece.gradient import Gradient, Stop


class UsualEffect(NamedTuple):
    name: str
    effect: AnyEffect


def _behind(colours: tuple[str, ...], bearing: float) -> Wash:
    """A wash of evenly spaced colours over the canvas, behind the letters."""
    stops = tuple(
        Stop(at=100 * number / (len(colours) - 1), colour=colour) for number, colour in enumerate(colours)
    )
    return Wash(layers=(Gradient(span="canvas", bearing=bearing, stops=stops),))


USUAL_EFFECTS = (
    UsualEffect("warm glow", Wash()),
    UsualEffect("evening", _behind(("#f2a65e", "#b4506b", "#2b2350"), 90)),
    UsualEffect("slate", _behind(("#2f3940", "#6b7a80"), 90)),
    UsualEffect("hairline", Keyline(width=1)),
    UsualEffect("paper edge", Keyline(width=12, place="outside", join="round", colour="#ffffff")),
    UsualEffect(
        "die cut", Keyline(width=14, place="outside", around="silhouette", join="round", colour="#ffffff")
    ),
    UsualEffect("double rule", Keyline(width=2, place="outside", double=4)),
    UsualEffect("stitches", Keyline(width=2.5, place="inside", join="round", dash=10, gap=7)),
    UsualEffect("inked tones", Keyline(width=2, around="tones", join="round", colour="#1c1a18")),
    UsualEffect("drawn softly", Keyline(width=6, softness=6, colour="#1c1a18", blend="multiply")),
    UsualEffect("candlelight", Halo(radius=40, spread=4)),
    UsualEffect("close light", Halo(radius=10, spread=6, blend="screen", colour="#bfe6ff")),
    UsualEffect("lit rim", Halo(side="inside", radius=8, blend="screen", colour="#ffffff", strength=70)),
    UsualEffect("dark rim", Halo(side="inside", radius=14, blend="multiply", colour="#3a2a20")),
    UsualEffect("clean lens", Bloom()),
    UsualEffect("misty lens", Bloom(strength=35, radius=12, tail=14)),
    UsualEffect("soft behind", Blur()),
    UsualEffect("close focus", Blur(side="both", radius=18, reach=60)),
    UsualEffect("a few", Glints(count=3, size=140, spacing=160)),
    UsualEffect("many small", Glints(count=40, size=18, spacing=14)),
    UsualEffect("bowed", Gloss()),
    UsualEffect("waved", Gloss(edge="waved", bow=40)),
    UsualEffect("across the word", Gloss(over="block", edge="straight", height=45)),
    UsualEffect("strong", Tone(contrast=30, saturation=15)),
    UsualEffect("faded print", Tone(saturation=-25, at_0=10, at_25=31, at_75=73, at_100=93)),
    UsualEffect("warm and cool", Tone(tint="#f0b070", tinted=25, shadows="#2a3a6a", split=35)),
    UsualEffect("greys", Tone(saturation=-100)),
    UsualEffect("dark corners", Vignette()),
    UsualEffect("pale corners", Vignette(colour="#ffffff", strength=40, blend="screen")),
    UsualEffect("fine", Grain()),
    UsualEffect("coarse", Grain(strength=18, size=3, coloured=0)),
    UsualEffect("crisp", Sharpen()),
    UsualEffect("broad", Sharpen(strength=25, radius=5)),
    UsualEffect("slight", Fringe(width=1)),
    UsualEffect("simple lens", Fringe(width=5)),
)
