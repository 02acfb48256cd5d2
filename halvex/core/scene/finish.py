"""What finishing needs of a scene: no ray depends on it."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.tone import Curve, light_shown_as


class Finish(NamedTuple):
    """The backdrop's colour (#rrggbb), the exposure in stops and the tone curve."""

    backdrop: str
    exposure: float
    tone: Curve = "neutral"

    @property
    def backdrop_light(self) -> NDArray[np.float32]:
        """Linear light (3,) that is shown as the backdrop's colour."""
        return light_shown_as(self.backdrop, self.exposure, self.tone).astype(np.float32)

    @property
    def flat_gain(self) -> np.float32:
        """What flat colours, rendered for exposure 0, are multiplied by: exposure does not change them."""
        return np.float32(2.0**-self.exposure)
