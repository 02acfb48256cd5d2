"""Rendering a picture: passes of samples over tiles, into a film of sums.

A film covers some rows of the picture. Which pixels get which samples depends on nothing but their
place and the seed, and each pixel is only ever touched by one tile at a time and in sample order:
the same film on any number of threads.
"""

from collections.abc import Callable
from concurrent.futures import Executor
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from halvex.core.render.path import ALBEDO, BOTH, CHANNELS, COLOUR, LIT, NORMAL, THROUGH, UNLIT, render_tile
from halvex.core.render.work import run_tiles, scratch
from halvex.core.render.world import World

TILE = 48
# Mirrors that light reaches after a matte or rough surface are at least this rough (GGX alpha).
CAUSTIC_ALPHA = 0.25

Array = NDArray[np.float32]


@dataclass
class Film:
    """Sums over samples (rows, width, CHANNELS) of rows `first_row`.. of the picture."""

    width: int
    rows: int
    first_row: int = 0
    samples: int = 0
    sums: Array = field(init=False)

    def __post_init__(self) -> None:
        self.sums = np.zeros((self.rows, self.width, CHANNELS), np.float32)

    def _mean(self, channel: int, count: int = 3) -> Array:
        return self.sums[..., channel : channel + count] / np.float32(max(self.samples, 1))

    @property
    def colour(self) -> Array:
        """(rows, width, 3) linear light of bodies and ground, premultiplied."""
        return self._mean(COLOUR)

    @property
    def through(self) -> Array:
        """(rows, width, 3) share of the backdrop seen past and through the bodies."""
        return self._mean(THROUGH)

    @property
    def shade(self) -> Array:
        """(rows, width) share of its unshadowed light that a caught shadow leaves, 1 where there is none."""
        unlit = self._mean(UNLIT, 1)[..., 0]
        return np.where(unlit > 1e-6, np.minimum(self._mean(LIT, 1)[..., 0] / np.maximum(unlit, 1e-6), 1.0), 1.0).astype(np.float32)

    @property
    def albedo(self) -> Array:
        return np.minimum(self._mean(ALBEDO), 1.0)

    @property
    def normal(self) -> Array:
        return np.clip(self._mean(NORMAL), -1.0, 1.0)


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
    cancelled: Callable[[], bool] = lambda: False,
) -> None:
    """Add `count` samples to every pixel. Raises CancelledError; the film is then unusable."""

    def tile(x0: int, y0: int, x1: int, y1: int) -> None:
        render_tile(
            world, film.sums, x0, y0, x1, y1, film.first_row, film.samples, film.samples + count,
            seed, transparent, np.float32(caustic_alpha), use_lamps, scratch(),
        )  # fmt: skip

    tiles = [(x, y, min(x + TILE, film.width), min(y + TILE, film.rows)) for y in range(0, film.rows, TILE) for x in range(0, film.width, TILE)]
    run_tiles(pool, tile, tiles, cancelled)
    film.samples += count
