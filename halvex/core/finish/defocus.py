"""Blur by distance: what lies off a plane is out of focus."""

from concurrent.futures import Executor
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.blurring import spread
from halvex.core.finish.plate import Plate
from halvex.core.finish.tone import in_bands
from halvex.core.piece.effects import Blur
from halvex.core.room import room
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
    light, alpha, depth, own = plate.light, plate.alpha, plate.covers[DEPTH], plate.share_of(blur.target)
    amount, seen, found = room(depth.shape), room((*depth.shape, 4)), room((*depth.shape, 4))

    def begin(y0: int, y1: int) -> None:
        rows = slice(y0, y1)
        amount[rows] = how_far_off(depth[rows], blur) * np.float32(blur.strength / 100)
        if own.size:
            amount[rows] *= own[rows]
        # Light is premultiplied while it is blurred, and covers what it spreads over.
        seen[rows, :, 3] = 1.0 if alpha is None else alpha[rows]
        seen[rows, :, :3] = light[rows] * seen[rows, :, 3:]
        found[rows] = seen[rows]

    in_bands(plate.pool, begin, len(light))
    most = amount.max()
    for below, level in pairwise(LEVELS):
        if most > below:
            _mix_in_blurred(found, seen, amount, below, level, sigma * level, plate.pool)

    def end(y0: int, y1: int) -> None:
        rows = slice(y0, y1)
        light[rows] = found[rows, :, :3] / np.maximum(found[rows, :, 3:], LEAST_WEIGHT)
        if alpha is not None:
            alpha[rows] = np.clip(found[rows, :, 3], 0.0, 1.0)

    in_bands(plate.pool, end, len(light))


def how_far_off(depth: Array, blur: Blur) -> Array:
    """How much of the whole blur (h, w) what lies at z (h, w) gets, 0 to 1."""
    off = np.float32(blur.focus) - depth
    if blur.side == "both":
        off = np.abs(off)
    elif blur.side == "before":
        off = -off
    return np.asarray(np.clip(off / np.float32(blur.reach), 0.0, 1.0), np.float32)


def _mix_in_blurred(
    found: Array, seen: Array, amount: Array, below: float, level: float, sigma: float, pool: Executor
) -> None:
    """Give `found` (h, w, 4) its share of an image (h, w, 4) blurred among the px that count at this level:
    letters in focus do not glow into a blurred backdrop behind them."""
    weighted = room((*amount.shape, 5))

    def begin(y0: int, y1: int) -> None:
        weighted[y0:y1, :, 4] = np.clip(amount[y0:y1] / level, 0.0, 1.0)
        weighted[y0:y1, :, :4] = seen[y0:y1] * weighted[y0:y1, :, 4:]

    in_bands(pool, begin, len(amount))
    both = spread(weighted, [(sigma, 1.0)], pool)

    def end(y0: int, y1: int) -> None:
        share = np.clip((amount[y0:y1] - below) / (level - below), 0.0, 1.0)
        soft = both[y0:y1, :, :4] / np.maximum(both[y0:y1, :, 4:], LEAST_WEIGHT)
        found[y0:y1] += share[..., None] * (soft - found[y0:y1])

    in_bands(pool, end, len(amount))
