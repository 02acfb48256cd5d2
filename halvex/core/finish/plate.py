"""The plate: a picture while effects work on it."""

from concurrent.futures import Executor
from dataclasses import dataclass
from typing import Literal, Protocol

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.texels import NO_PICTURES, Pictures
from halvex.core.scene.finish import Frame
from halvex.core.scene.outlines import FaceSeen

Array = NDArray[np.float32]

# In place of a share of each px (h, w): all of it; in place of alpha: none.
EVERYWHERE = OPAQUE = np.zeros((0, 0), np.float32)


class Seen(Protocol):
    """What effects ask of a scene, besides its picture."""

    @property
    def effect_pictures(self) -> Pictures:
        """The pictures in its effects."""

    def faces(self) -> tuple[FaceSeen, ...]:
        """The outlines of the letters' faces in px of the picture."""


class NothingSeen:
    """The same of no scene."""

    effect_pictures = NO_PICTURES

    def faces(self) -> tuple[FaceSeen, ...]:
        return ()


@dataclass
class Plate:
    """A picture of h × w px.

    light (h, w, 3): linear, first that of the scene, then what is displayed, 0 to 1; alpha (h, w), of which
    light is not premultiplied, or None where the picture has none; letters (h, w): share of each px that they
    cover; gain: what light is multiplied by to be exposed; seen: what effects ask of the scene.
    """

    light: Array
    alpha: Array | None
    letters: Array
    frame: Frame
    gain: float
    seen: Seen
    pool: Executor

    @property
    def alpha_or_opaque(self) -> Array:
        """Alpha as kernels take it."""
        return OPAQUE if self.alpha is None else self.alpha

    @property
    def scale(self) -> float:
        """Px of the picture per px of the canvas."""
        return self.frame.scale

    def share_of(self, target: Literal["picture", "letters", "backdrop"]) -> Array:
        """The share (h, w) of each px that an effect works on; EVERYWHERE for all of all."""
        if target == "picture":
            return EVERYWHERE
        return self.letters if target == "letters" else np.float32(1) - self.letters
