"""Blur by distance: what lies off a plane is out of focus."""

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.blurring import spread
from halvex.core.finish.plate import Plate
from halvex.core.piece.effects import Blur
from halvex.core.scene.finish import DEPTH

Array = NDArray[np.float32]

# The picture is blurred by these shares of the radius, and mixed between them.
LEVELS = (0.0, 0.25, 0.5, 1.0)
# Less than this of a px counts for nothing: there is nothing to divide by.
LEAST_WEIGHT = np.float32(1e-4)


def blur_by_distance(plate: Plate, blur: Blur) -> None:
    """Blur the light of a scene px by px, by up to the radius."""
    sigma = blur.radius * plate.scale / 2
    if sigma <= 0:
        return
    amount = how_far_off(plate.covers[DEPTH], blur) * np.float32(blur.strength / 100)
    own = plate.share_of(blur.target)
    if own.size:
        amount = amount * own
    # Light is premultiplied while it is blurred, and covers what it spreads over.
    alpha = np.ones_like(amount) if plate.alpha is None else plate.alpha
    seen = np.dstack([plate.light * alpha[..., None], alpha])
    found = np.array(seen)
    for below, level in pairwise(LEVELS):
        share = np.clip((amount - below) / (level - below), 0.0, 1.0)
        if not share.any():
            break
        soft = _blurred_among(seen, np.clip(amount / level, 0.0, 1.0), sigma * level, plate)
        found += share[..., None] * (soft - found)
    plate.light = np.asarray(found[..., :3] / np.maximum(found[..., 3:], LEAST_WEIGHT), np.float32)
    if plate.alpha is not None:
        plate.alpha = np.clip(found[..., 3], 0.0, 1.0)


def how_far_off(depth: Array, blur: Blur) -> Array:
    """How much of the whole blur (h, w) what lies at z (h, w) gets, 0 to 1."""
    off = np.float32(blur.focus) - depth
    if blur.side == "both":
        off = np.abs(off)
    elif blur.side == "before":
        off = -off
    return np.asarray(np.clip(off / np.float32(blur.reach), 0.0, 1.0), np.float32)


def _blurred_among(seen: Array, weight: Array, sigma: float, plate: Plate) -> Array:
    """An image (h, w, 4) blurred among the px that count by a weight (h, w): letters in focus do not glow
    into a blurred backdrop behind them."""
    both = spread(np.dstack([seen * weight[..., None], weight]), [(sigma, 1.0)], plate.pool)
    return np.asarray(both[..., :4] / np.maximum(both[..., 4:], LEAST_WEIGHT), np.float32)
