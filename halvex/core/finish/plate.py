"""The plate: a picture while effects work on it."""

from collections.abc import Callable
from concurrent.futures import Executor
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from halvex.core.scene.finish import Frame
from halvex.core.scene.outlines import FaceSeen

Array = NDArray[np.float32]


@dataclass
class Plate:
    """A picture of h × w px.

    light (h, w, 3): linear, first that of the scene, then what is displayed, 0 to 1; alpha (h, w), of which
    light is not premultiplied, or None where the picture has none; letters (h, w): share of each px that they
    cover; gain: what light is multiplied by to be exposed; faces: outlines of the letters' faces in px of the
    picture.
    """

    light: Array
    alpha: Array | None
    letters: Array
    frame: Frame
    gain: float
    faces: Callable[[], tuple[FaceSeen, ...]]
    pool: Executor

    @property
    def scale(self) -> float:
        """Px of the picture per px of the canvas."""
        return self.frame.scale

    def share_of(self, target: Literal["picture", "letters", "backdrop"]) -> Array | None:
        """The share (h, w) of each px that an effect works on; None for all."""
        if target == "picture":
            return None
        return self.letters if target == "letters" else np.float32(1) - self.letters
