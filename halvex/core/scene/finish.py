"""What finishing needs of a scene: no ray depends on it."""

from collections.abc import Iterable
from typing import Literal, NamedTuple, cast

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.tone import Curve, light_shown_as
from halvex.core.piece.effects import PART_TARGETS, AnyEffect, Blur, Keyline


class Frame(NamedTuple):
    """What of the canvas a picture shows: `scale` px of it per px of the canvas, which is `width` × `height`
    px large; the picture's upper left is at (left, top) of the canvas, y down."""

    scale: float = 1.0
    left: float = 0.0
    top: float = 0.0
    width: float = 1280.0
    height: float = 720.0


class Cover(NamedTuple):
    """What of a picture effects ask for besides its light, by the target's name: the share of each px that a
    part, a block or a light makes, by its number among all of its kind, or none (-1); or how far off each px
    is."""

    target: str
    of: Literal["part", "block", "light", "depth"]
    number: int


# The target's name that stands for how far off each px is.
DEPTH = "depth"


def covers_wanted(
    effects: Iterable[AnyEffect], blocks: tuple[str, ...], lights: tuple[str, ...]
) -> tuple[Cover, ...]:
    """What effects that are on ask for, blocks and lights being numbered in this order."""
    numbered = {"part": PART_TARGETS, "block": blocks, "light": lights}
    found: dict[str, Cover] = {}
    for effect in effects:
        if not effect.on or effect.strength == 0:
            continue
        of, _, name = effect.target.partition(":")
        if of in numbered:
            number = numbered[of].index(name) if name in numbered[of] else -1
            found[effect.target] = Cover(effect.target, cast(Literal["part", "block", "light"], of), number)
        if isinstance(effect, Blur) or (isinstance(effect, Keyline) and effect.around == "tones"):
            found[DEPTH] = Cover(DEPTH, "depth", 0)
    return tuple(found.values())


class Finish(NamedTuple):
    """The backdrop's colour (#rrggbb), the exposure in stops and the tone curve; the effects on the picture,
    what it shows of the canvas that they are sized by, and what they ask for besides."""

    backdrop: str
    exposure: float
    tone: Curve = "neutral"
    effects: tuple[AnyEffect, ...] = ()
    frame: Frame = Frame()
    covers: tuple[Cover, ...] = ()

    @property
    def backdrop_light(self) -> NDArray[np.float32]:
        """Linear light (3,) that is shown as the backdrop's colour."""
        return light_shown_as(self.backdrop, self.exposure, self.tone).astype(np.float32)

    @property
    def has_effects(self) -> bool:
        """Whether any effect would change the picture."""
        return any(effect.on and effect.strength > 0 for effect in self.effects)

    @property
    def asks_for_blocks(self) -> bool:
        """Whether an effect works on a block of its own: a film keeps these only if asked to."""
        return any(cover.of == "block" for cover in self.covers)

    @property
    def flat_gain(self) -> np.float32:
        """What flat colours, rendered for exposure 0, are multiplied by: exposure does not change them."""
        return np.float32(2.0**-self.exposure)
