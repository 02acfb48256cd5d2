"""What finishing needs of a scene: no ray depends on it."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.tone import Curve, light_shown_as
from halvex.core.piece.effects import AnyEffect


class Frame(NamedTuple):
    """What of the canvas a picture shows: `scale` px of it per px of the canvas, which is `width` × `height`
    px large; the picture's upper left is at (left, top) of the canvas, y down."""

    scale: float = 1.0
    left: float = 0.0
    top: float = 0.0
    width: float = 1280.0
    height: float = 720.0


class Finish(NamedTuple):
    """The backdrop's colour (#rrggbb), the exposure in stops and the tone curve; the effects on the picture,
    and what it shows of the canvas that they are sized by."""

    backdrop: str
    exposure: float
    tone: Curve = "neutral"
    effects: tuple[AnyEffect, ...] = ()
    frame: Frame = Frame()

    @property
    def backdrop_light(self) -> NDArray[np.float32]:
        """Linear light (3,) that is shown as the backdrop's colour."""
        return light_shown_as(self.backdrop, self.exposure, self.tone).astype(np.float32)

    @property
    def has_effects(self) -> bool:
        """Whether any effect would change the picture."""
        return any(effect.on and effect.strength > 0 for effect in self.effects)

    @property
    def flat_gain(self) -> np.float32:
        """What flat colours, rendered for exposure 0, are multiplied by: exposure does not change them."""
        return np.float32(2.0**-self.exposure)
