"""The section drawing: the cross-section of a stroke through face, bevels, returns and back."""

import numpy as np

from halvex.core.piece.model import Form
from halvex.core.solids.profiles import PROFILES

POINTS_PER_PROFILE = 16


def section(form: Form, stroke: float) -> list[tuple[float, float]]:
    """Outline of the cross-section of a straight stroke `stroke` px wide: (across, z) in px, counter-clockwise.

    The stroke's middle is at 0; the face plane at z = 0, the back below.
    """
    half = stroke / 2
    front = form.bevel if form.bevel.front else None
    back = form.bevel if form.bevel.back else None
    heights = (front.height if front and front.width else 0.0) + (back.height if back and back.width else 0.0)
    depth = max(form.depth, heights)
    right = [(x, -rise) for x, rise in _edge(form, half)] if front else [(half, 0.0)]
    below = [(x, rise - depth) for x, rise in _edge(form, half)] if back else [(half, -depth)]
    side = below[::-1] + right
    return side + [(-x, z) for x, z in reversed(side)]


def _edge(form: Form, half: float) -> list[tuple[float, float]]:
    """The bevel from the return inwards: (across, how far below the face plane)."""
    bevel = form.bevel
    if bevel.width <= 0 or bevel.height <= 0:
        return [(half, 0.0)]
    profile = PROFILES[bevel.profile]
    t = profile.levels(POINTS_PER_PROFILE if profile.curved else 1)
    t = np.unique(np.append(t[t * bevel.width < half], min(half / bevel.width, 1.0)))
    return [(half - a * bevel.width, (1 - r) * bevel.height) for a, r in zip(t.tolist(), profile.rise(t).tolist(), strict=True)]
