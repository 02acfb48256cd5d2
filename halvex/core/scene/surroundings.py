"""Surroundings made: from a part of the document, or a panorama, to the tables that light is sampled from."""

import math

import numpy as np
from numpy.typing import NDArray

from halvex.core.assets import SHIPPED, Asset, Assets
from halvex.core.memory import kept
from halvex.core.piece.light import AnySurround
from halvex.core.scene.keys import content_key
from halvex.core.scene.skies import panorama_of, picture_of
from halvex.core.scene.surround import BLUR_HEIGHT, BLUR_LEVELS, BLUR_WIDTH, Surround, blur

# Copies blurred more than this are taken from a picture brought down to this height, so that small
# lights do not sparkle.
COARSE_HEIGHT = 64
COARSE_FROM = 3
# Directions are sampled from tables over blocks of the picture's pixels, up to so many wide: small
# tables stay in the cache. As wide as they can be while the light within them varies little: its
# relative variance, weighed by light.
WIDEST_BLOCK, MOST_VARIANCE = 16, 0.02


def make_surround(surround: AnySurround, assets: Assets = SHIPPED) -> Surround:
    """The surround of a piece. Raises SceneError where its panorama is missing."""
    still = surround.model_copy(update={"strength": 0.0, "turn": 0.0})
    return _kept(still, panorama_of(surround, assets))._replace(
        level=np.float32(2.0**surround.strength), turn=np.float32(surround.turn / 360)
    )


@kept
def _kept(surround: AnySurround, panorama: Asset | None) -> Surround:
    return surround_of(picture_of(surround, panorama))


def surround_key(surround: AnySurround, assets: Assets = SHIPPED) -> str:
    """What the picture of a surround is known by, on any machine: its numbers and its panorama's digest.
    Raises SceneError where the panorama is missing."""
    panorama = panorama_of(surround, assets)
    numbers = surround.model_dump_json(exclude={"strength", "turn", "picture"})
    return content_key(surround.kind, numbers, panorama.digest if panorama else "")


def surround_of(picture: NDArray[np.float64]) -> Surround:
    """Tables for a latitude-longitude picture (H, W, 3) of linear radiance."""
    image = np.ascontiguousarray(picture, np.float32)
    height = image.shape[0]
    latitude = np.sin((np.arange(height) + 0.5) / height * math.pi)
    light = _in_blocks((image.mean(axis=2).astype(float) + 1e-6) * latitude[:, None])
    columns = np.concatenate([np.zeros((len(light), 1)), np.cumsum(light, axis=1)], axis=1)
    rows = np.concatenate([[0.0], np.cumsum(columns[:, -1])])
    columns /= columns[:, -1:]
    blurred = np.empty((BLUR_LEVELS, BLUR_HEIGHT, BLUR_WIDTH, 3), np.float32)
    blur(image, blurred, 0, COARSE_FROM)
    blur(_coarse(image), blurred, COARSE_FROM, BLUR_LEVELS)
    shares, within = (rows / rows[-1]).astype(np.float32), columns.astype(np.float32)
    return Surround(
        image,
        shares,
        within,
        _guide(shares),
        np.stack([_guide(row) for row in within]),
        blurred,
        np.float32(1),
        np.float32(0),
    )


def _in_blocks(light: NDArray[np.float64]) -> NDArray[np.float64]:
    """Mean light (h, w) of the widest blocks of pixels (H, W) in which it varies little; of each
    pixel where it does so everywhere."""
    block, whole = WIDEST_BLOCK, light.sum()
    while block > 1:
        if light.shape[0] % block == 0 and light.shape[1] % block == 0:
            tiles = light.reshape(light.shape[0] // block, block, light.shape[1] // block, block)
            means = tiles.mean(axis=(1, 3))
            if (tiles**2 / means[:, None, :, None]).sum() <= (1 + MOST_VARIANCE) * whole:
                return np.asarray(means)
        block //= 2
    return light


def _guide(cumulative: NDArray[np.float32]) -> NDArray[np.int32]:
    """For n equal steps of cumulative (n + 1,), the index of the interval that each falls into."""
    count = len(cumulative) - 1
    found = (
        np.searchsorted(cumulative, np.arange(count, dtype=np.float32) / np.float32(count), side="right") - 1
    )
    return np.clip(found, 0, count - 1).astype(np.int32)


def _coarse(image: NDArray[np.float32]) -> NDArray[np.float32]:
    step = image.shape[0] // COARSE_HEIGHT
    if step < 2 or image.shape[0] % step or image.shape[1] % step:
        return image
    tiles = image.reshape(image.shape[0] // step, step, image.shape[1] // step, step, 3)
    return np.ascontiguousarray(tiles.mean(axis=(1, 3)), np.float32)
