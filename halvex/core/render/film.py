"""Rendering a picture: passes of samples over tiles, into a film of sums.

A film covers some rows of the picture. Which pixels get which samples depends on nothing but their
place, the seed and what was rendered before, and each pixel is only ever touched by one tile at a
time and in sample order: the same film on any number of threads.

Each light's share is kept apart, so a strength or a colour is changed by `develop` alone. Tiles whose
noise has gone get no further samples.
"""

from collections.abc import Callable
from concurrent.futures import Executor
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.tone import to_display
from halvex.core.render import channels
from halvex.core.render.path import BOTH, render_tile
from halvex.core.render.work import run_tiles, scratch
from halvex.core.render.world import World

TILE = 48
# Mirrors that light reaches after a matte or rough surface are at least this rough (GGX alpha).
CAUSTIC_ALPHA = 0.25
# A tile is not judged before it has so many samples: two lucky halves would agree by chance.
JUDGED_FROM = 16

Array = NDArray[np.float32]


def light_levels(world: World) -> Array:
    """What strength and colour make of each light (lights, 3): the lamps, the surround, glowing parts."""
    surround = np.full((1, 3), world.surround.level, np.float32)
    glows = np.ones((1 if len(world.glows.triangle) else 0, 3), np.float32)
    return np.concatenate([world.lamps.level, surround, glows])


@dataclass
class Film:
    """Sums over samples (rows, width, channels) of rows `first_row`.. of a picture lit by `lights` lights.

    `counts` (rows, width) are the samples each pixel has had.
    """

    width: int
    rows: int
    lights: int
    first_row: int = 0
    sums: Array = field(init=False)
    counts: NDArray[np.int32] = field(init=False)

    def __post_init__(self) -> None:
        self.sums = np.zeros((self.rows, self.width, channels.channels(self.lights)), np.float32)
        self.counts = np.zeros((self.rows, self.width), np.int32)

    @property
    def samples(self) -> float:
        """Mean samples per pixel."""
        return float(self.counts.mean())

    def _mean(self, channel: int, count: int = 3) -> Array:
        return np.asarray(self.sums[..., channel : channel + count] / np.maximum(self.counts, 1)[..., None].astype(np.float32), np.float32)

    def share(self, light: int) -> Array:
        """(rows, width, 3) linear light of one light of 0 stops and white, premultiplied."""
        return self._mean(channels.SHARES + 3 * light)

    def develop(self, levels: Array) -> Array:
        """(rows, width, 3) linear light of bodies and ground, premultiplied, each light at its level (lights, 3)."""
        shares = self.sums[..., channels.SHARES :].reshape(self.rows, self.width, self.lights, 3)
        light = np.einsum("hwlc,lc->hwc", shares, levels.astype(np.float32), optimize=True)
        light += self.sums[..., channels.FLAT : channels.FLAT + 3]
        return np.asarray(light / np.maximum(self.counts, 1)[..., None].astype(np.float32), np.float32)

    @property
    def through(self) -> Array:
        """(rows, width, 3) share of the backdrop seen past and through the bodies."""
        return self._mean(channels.THROUGH)

    @property
    def shade(self) -> Array:
        """(rows, width) share of its unshadowed light that the ground's shadow leaves, 1 where there is none."""
        unlit = self._mean(channels.UNLIT, 1)[..., 0]
        return np.where(unlit > 1e-6, np.minimum(self._mean(channels.LIT, 1)[..., 0] / np.maximum(unlit, 1e-6), 1.0), 1.0).astype(np.float32)

    @property
    def albedo(self) -> Array:
        return np.minimum(self._mean(channels.ALBEDO), 1.0)

    @property
    def normal(self) -> Array:
        """(rows, width, 3) in the world, shorter than 1 where several surfaces meet in a pixel."""
        return np.clip(self._mean(channels.NORMAL), -1.0, 1.0)

    @property
    def depth(self) -> Array:
        """(rows, width) px in front of the face plane, the mean over what is covered."""
        cover = np.maximum(self.ground_cover + self.part_covers.sum(axis=2), 1e-6)
        return np.asarray(self._mean(channels.DEPTH, 1)[..., 0] / cover, np.float32)

    @property
    def ground_cover(self) -> Array:
        return self._mean(channels.GROUND_COVER, 1)[..., 0]

    @property
    def part_covers(self) -> Array:
        """(rows, width, parts) share of each pixel that shows face, bevel, return, back, plate and slab."""
        return self._mean(channels.PART_COVER, channels.PARTS)

    @property
    def glow(self) -> Array:
        """(rows, width, 3) linear light of glowing parts that the camera sees."""
        return self._mean(channels.GLOW_SEEN)

    @property
    def reflected(self) -> Array:
        """(rows, width, 3) linear light of letters mirrored in the ground."""
        return self._mean(channels.REFLECTED)

    def noise(self, levels: Array, exposure: float) -> Array:
        """Standard error of the displayed picture, 0 to 1, tile by tile (tile rows, tile columns).

        Half the samples against all of them: their difference has the spread of the whole's error. Pixels
        differ one by one, so the mean over a tile of the squared difference is a steady estimate of it.
        """
        whole = self.develop(levels)
        half = self.sums[..., channels.HALF : channels.HALF + 3] / np.maximum((self.counts + 1) // 2, 1)[..., None].astype(np.float32)
        difference = (to_display(np.ascontiguousarray(half), exposure) - to_display(whole, exposure)) ** 2
        edges_y, edges_x = np.arange(0, self.rows, TILE), np.arange(0, self.width, TILE)
        sums = np.add.reduceat(np.add.reduceat(difference.mean(axis=2), edges_y, axis=0), edges_x, axis=1)
        pixels = np.outer(np.diff([*edges_y, self.rows]), np.diff([*edges_x, self.width]))
        return np.sqrt(sums / pixels).astype(np.float32)


def add_samples(
    world: World,
    film: Film,
    count: int,
    *,
    pool: Executor,
    seed: int = 0,
    transparent: bool = False,
    caustic_alpha: float = CAUSTIC_ALPHA,
    use_lamps: int = BOTH,
    wanted: NDArray[np.bool_] | None = None,
    cancelled: Callable[[], bool] = lambda: False,
) -> None:
    """Add `count` samples to every pixel, or to the tiles that are `wanted` (tile rows, tile columns).

    Raises CancelledError; tiles are whole, so the film can be gone on with, though some tiles have had more than others.
    """

    def tile(x0: int, y0: int, x1: int, y1: int) -> None:
        done = int(film.counts[y0, x0])
        render_tile(world, film.sums, x0, y0, x1, y1, film.first_row, done, done + count, seed, transparent, np.float32(caustic_alpha), use_lamps, scratch())
        film.counts[y0:y1, x0:x1] = done + count

    tiles = [
        (x, y, min(x + TILE, film.width), min(y + TILE, film.rows))
        for y in range(0, film.rows, TILE)
        for x in range(0, film.width, TILE)
        if wanted is None or wanted[y // TILE, x // TILE]
    ]
    run_tiles(pool, tile, tiles, cancelled)


def add_until(
    world: World,
    film: Film,
    *,
    noise: float,
    most: int,
    exposure: float,
    pool: Executor,
    seed: int = 0,
    transparent: bool = False,
    progress: Callable[[float], None] = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> float:
    """Sample until no tile's noise is over `noise` or it has `most` samples; returns the noise left, the mean over tiles.

    Samples come in passes that double, so that noise is judged seldom. Raises CancelledError.
    """
    levels = light_levels(world)
    wanted = np.ones((-(-film.rows // TILE), -(-film.width // TILE)), bool)
    done = int(film.counts.max())
    left = np.ones(wanted.shape, np.float32)
    while done < most and wanted.any():
        step = min(max(done // 2, JUDGED_FROM), most - done)
        for part in range(0, step, JUDGED_FROM):
            some = min(JUDGED_FROM, step - part)
            add_samples(world, film, some, pool=pool, seed=seed, transparent=transparent, wanted=wanted, cancelled=cancelled)
        done += step
        left = film.noise(levels, exposure)
        wanted &= left > noise
        progress(1.0 if not wanted.any() else max(done / most, float((~wanted).mean())))
    return float(np.sqrt((left**2).mean()))
