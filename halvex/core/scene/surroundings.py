"""Surroundings made: from a part of the document, or a panorama, to the tables that light is sampled from."""

import math

import numpy as np
from numpy.typing import NDArray

from halvex.core.assets import SHIPPED, Asset, Assets
from halvex.core.memory import kept
from halvex.core.piece.light import AnySurround
from halvex.core.piece.turning import rotation
from halvex.core.piece.view import Turn
from halvex.core.scene.keys import content_key
from halvex.core.scene.skies import directions, panorama_of, picture_of
from halvex.core.scene.surround import (
    BLUR_HEIGHT,
    BLUR_LEVELS,
    BLUR_WIDTH,
    COATED_LEVEL,
    MATTE_LEVEL,
    LightTables,
    Surround,
    blur,
    blur_evenly,
)

# Copies blurred more than this are taken from a picture brought down to this height, so that small
# lights do not sparkle.
COARSE_HEIGHT = 64
# And those for matte surfaces from one of this height.
COARSEST_HEIGHT = 24
COARSE_FROM = 3
# Directions are sampled from tables over blocks of the picture's pixels, up to so many wide: small
# tables stay in the cache. As wide as they can be while the light within them varies little: its
# relative variance, weighed by light.
WIDEST_BLOCK, MOST_VARIANCE = 16, 0.02
# Light from a surface's horizon counts as from so high above it at least.
LEAST_REACHING = 0.01


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
    blurred = np.empty((BLUR_LEVELS, BLUR_HEIGHT, BLUR_WIDTH, 3), np.float32)
    blur(image, blurred, 0, COARSE_FROM)
    blur(_coarse(image, COARSE_HEIGHT), blurred, COARSE_FROM, MATTE_LEVEL)
    coarsest = _coarse(image, COARSEST_HEIGHT)
    blur_evenly(coarsest, _directions(*coarsest.shape[:2]), blurred[MATTE_LEVEL], blurred[COATED_LEVEL])
    return Surround(
        image,
        _tables(light, np.zeros(3)),
        _block_means(image, latitude, len(light)),
        blurred,
        np.float32(math.pi * light.mean() / latitude.mean()),
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


def _block_means(image: NDArray[np.float32], latitude: NDArray[np.float64], rows: int) -> NDArray[np.float32]:
    """Mean radiance (rows, columns, 3) of a picture's blocks, each pixel counted by its size; the picture
    itself where blocks are its pixels."""
    height, width = image.shape[:2]
    if rows == height:
        return image
    block = height // rows
    sizes = latitude.reshape(rows, block)
    weights = sizes / (block * sizes.sum(axis=1, keepdims=True))
    blocks = image.reshape(rows, block, width // block, block, 3)
    return np.einsum("rbcdk,rb->rck", blocks, weights).astype(np.float32)


def _tables(light: NDArray[np.float64], normal: NDArray[np.float64]) -> LightTables:
    """One of each kind, for the light of blocks (h, w) as it reaches surfaces of a normal (3,)."""
    height, width = light.shape
    sums = light.sum(axis=1, keepdims=True)
    # In rows without light any column will do.
    within = np.where(sums > 0, light / np.where(sums > 0, sums, 1), 1 / width)
    columns = np.concatenate([np.zeros((height, 1)), np.cumsum(within, axis=1)], axis=1).astype(np.float32)
    rows = np.concatenate([np.zeros(1), np.cumsum(sums)])[None]
    shares = (rows / rows[:, -1:]).astype(np.float32)
    return LightTables(
        shares, columns[None], _guide(shares), _guide(columns)[None], normal[None].astype(np.float32)
    )


def _guide(cumulative: NDArray[np.float32]) -> NDArray[np.int32]:
    """For n equal steps of each of rows of cumulative (rows, n + 1), the index of the interval that it falls
    into."""
    rows, count = cumulative.shape[0], cumulative.shape[1] - 1
    apart = np.arange(rows)[:, None]
    # All rows in one: each is raised by its number.
    starts = (np.minimum(cumulative[:, :-1].astype(float), 1 - 1e-9) + apart).reshape(-1)
    found = np.searchsorted(starts, np.arange(count) / count + apart, side="right") - 1
    return np.clip(found - count * apart, 0, count - 1).astype(np.int32)


def facing(surround: Surround, normals: list[NDArray[np.float64]]) -> Surround:
    """The surround with tables of what reaches surfaces of these normals (3,) in the world, too; none for
    those that nothing reaches."""
    tables = surround.tables
    light = np.diff(tables.rows[0].astype(float))[:, None] * np.diff(tables.columns[0].astype(float))
    height, width = light.shape
    # From the world into the surround's own frame.
    own = rotation(Turn(y=-360 * float(surround.turn)))
    # A block's corners lie so far from its middle at most.
    reach = 0.75 * math.pi / height
    every = [tables]
    for normal in normals:
        high = directions(height, width) @ (own @ normal)
        mean = np.where(high >= reach, high, np.maximum(high + reach, 0) ** 2 / (4 * reach))
        reaching = light * np.where(high > -reach, np.maximum(mean, LEAST_REACHING), 0)
        if reaching.sum() > 0:
            every.append(_tables(reaching, normal))
    return surround._replace(tables=LightTables(*(np.concatenate(kind) for kind in zip(*every, strict=True))))


def _directions(height: int, width: int) -> NDArray[np.float32]:
    """Directions of a picture's pixels (height, width, 4), and their sizes as shares of the largest."""
    own = directions(height, width)
    away = np.sqrt(1 - own[..., 1:2] ** 2)
    return np.concatenate([own, away], axis=-1).astype(np.float32)


def _coarse(image: NDArray[np.float32], height: int) -> NDArray[np.float32]:
    """A picture brought down to so many rows and twice as many columns, as the means of blocks; it may have
    fewer."""
    if image.shape[0] <= height:
        return image
    first = [
        np.linspace(0, old, min(new, old) + 1).astype(int)
        for old, new in zip(image.shape[:2], (height, 2 * height), strict=True)
    ]
    sums = np.add.reduceat(np.add.reduceat(image, first[0][:-1], axis=0), first[1][:-1], axis=1)
    return np.ascontiguousarray(sums / np.multiply.outer(*map(np.diff, first))[..., None], np.float32)
