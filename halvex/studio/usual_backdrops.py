"""Backdrops that are often wanted, by name: where to begin."""

from typing import NamedTuple

from halvex.core.piece.backdrop import Backdrop, Reflection, Shade
from halvex.core.piece.coat import Coat
from halvex.core.piece.gradient import Gradient, Stop
from halvex.core.piece.material import Paint, Plaster, Stone, Wood
from halvex.core.piece.mesh import Mesh
from halvex.core.piece.pattern import Pattern, PatternPaint
from halvex.core.piece.picture import Picture
from halvex.core.piece.source import Layered


class UsualBackdrop(NamedTuple):
    name: str
    backdrop: Backdrop


def _pool(light: str, *, y: float = 0.0, scale: float = 110.0) -> Gradient:
    """A pool of light on the canvas, which fades into what lies below."""
    stops = (
        Stop(at=0, colour=light),
        Stop(at=45, colour=light, opacity=45),
        Stop(at=100, colour=light, opacity=0),
    )
    return Gradient(span="canvas", shape="oval", y=y, scale=scale, stops=stops)


def _upwards(*colours: str) -> Gradient:
    """Evenly spaced colours from the lower edge of the canvas to the upper."""
    last = len(colours) - 1
    stops = tuple(Stop(at=100 * number / last, colour=colour) for number, colour in enumerate(colours))
    return Gradient(span="canvas", bearing=90, stops=stops)


VIGNETTE = Gradient(
    span="canvas",
    shape="oval",
    blend="multiply",
    stops=(
        Stop(at=45, colour="#ffffff", opacity=0),
        Stop(at=100, colour="#1a1418", opacity=85),
    ),
)
_STRIPES = Pattern(
    pattern="stripes",
    span="canvas",
    size=90,
    bearing=45,
    paints=(PatternPaint(colour="#d9b98a"), PatternPaint(colour="#cda877")),
)

USUAL_BACKDROPS = (
    UsualBackdrop("plain wall", Backdrop()),
    UsualBackdrop(
        "pool of light",
        Backdrop(colour=Layered(base="#16262b", layers=(_pool("#5f8a8c", y=4),)), lit=70),
    ),
    UsualBackdrop(
        "paper roll",
        Backdrop(colour="#d9d2c4", ground="floor", distance=220, sweep=180),
    ),
    UsualBackdrop(
        "evening",
        Backdrop(
            colour=Layered(base="#2b2350", layers=(_upwards("#f2a65e", "#b4506b", "#2b2350"),)), ground="none"
        ),
    ),
    UsualBackdrop("four colours", Backdrop(colour=Layered(base="#2b2350", layers=(Mesh(),)), ground="none")),
    UsualBackdrop(
        "diagonal stripes",
        Backdrop(colour=Layered(base="#d9b98a", layers=(_STRIPES, VIGNETTE)), lit=60),
    ),
    UsualBackdrop(
        "wet floor",
        Backdrop(
            colour=Layered(base="#101a20", layers=(_upwards("#0c1216", "#22404a", "#101a20"),)),
            ground="floor",
            distance=260,
            lit=65,
            reflection=Reflection(strength=70, roughness=0.12, fade=220),
        ),
    ),
    UsualBackdrop(
        "plaster wall",
        Backdrop(material=Plaster(colour="#b9b2a4", relief=0.45, grain=60)),
    ),
    UsualBackdrop(
        "wooden table",
        Backdrop(
            ground="floor",
            distance=160,
            sweep=0,
            material=Wood(colour="#b48f63", second="#7f5b39", grain=26, coat=Coat(roughness=0.22)),
            wall=Paint(colour="#2c3b3a", finish="matt"),
        ),
    ),
    UsualBackdrop(
        "slate",
        Backdrop(
            material=Stone(
                stone="slate", colour="#47525a", second="#2b3238", grain=60, relief=0.12, roughness=0.6
            ),
            gap=6,
        ),
    ),
    UsualBackdrop(
        "out of focus",
        Backdrop(
            colour=Layered(
                base="#24424a", layers=(Picture(picture="harbour", span="canvas", blur=1.5), VIGNETTE)
            ),
            ground="none",
        ),
    ),
    UsualBackdrop(
        "in a photograph",
        Backdrop(
            colour=Layered(base="#24424a", layers=(Picture(picture="harbour", span="canvas"),)),
            ground="floor",
            lit=0,
            shade=Shade(density=75, contact=100),
            reflection=Reflection(strength=35, roughness=0.2, fade=120),
        ),
    ),
)
