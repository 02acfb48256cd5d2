"""Rendering a picture: passes of samples over tiles, into a film of sums.

A film covers some rows of the picture. Which pixels get which samples depends on nothing but their
place, the seed and what was rendered before, and each pixel is only ever touched by one tile at a
time and in sample order: the same film on any number of threads.

Each light's share is kept apart, so a strength or a colour is changed by `develop` alone. Samples go
where the noise is, pixel by pixel.
"""

import io
from collections.abc import Callable, Iterator
from concurrent.futures import Executor
from dataclasses import dataclass, field
from typing import NamedTuple
from zipfile import BadZipFile

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter

from halvex.core.references import Held
from halvex.core.render import channels, gate
from halvex.core.render.cover import may_show_letters, spread_of_a_pixel
from halvex.core.render.direct import BOTH
from halvex.core.render.mapping import map_photons
from halvex.core.render.means import mean_channels, mean_light, mean_scene
from halvex.core.render.noise import FIRST_SAMPLES, JUDGED_FROM, NEIGHBOURS
from halvex.core.render.path_state import USUAL_RULES, PathRules
from halvex.core.render.photon_map import no_photons
from halvex.core.render.tile import Sampling, render_tile
from halvex.core.render.work import held_scratch, run_bands, run_tiles
from halvex.core.render.world import World

# Side in px of the tiles that threads take; of a small picture they are smaller, so that there are
# enough to share out.
TILE, LEAST_TILE, LEAST_TILES = 48, 12, 64
# Samples between two moments at which there is progress to report: about a second's work.
PART_SAMPLES = 2_000_000
# Mirrors that light reaches after a matte or rough surface are at least this rough (GGX alpha).
BISECTIONS = 24

Array = NDArray[np.float32]
Counts = NDArray[np.int32]


def light_levels(world: World) -> Array:
    """What strength and colour make of each light (lights, 3): the lamps, the surround, glowing parts."""
    surround = np.full((1, 3), world.surround.level, np.float32)
    glows = np.ones((1 if len(world.beads.instance) else 0, 3), np.float32)
    return np.concatenate([world.lamps.level, surround, glows])


class DenoiserInput(NamedTuple):
    """Linear light over a backdrop and what guides its denoising, albedo and normals of the primary
    hits; flat colours and the backdrop's share, which are in that light. Each (rows, width, 3)."""

    light: Array
    flat: Array
    through: Array
    albedo: Array
    normal: Array


class Rows(NamedTuple):
    """Some rows of a film, from row `first_row` of the picture on, and the film's map of the ground."""

    first_row: int
    sums: Array
    counts: Counts
    photons: Held | None


@dataclass
class Film:
    """Sums over samples (rows, width, channels) of rows `first_row`.. of a picture lit by `lights` lights.

    `counts` (rows, width) are the samples each pixel has had; `blocks`: of how many blocks it keeps the
    share that each pixel shows.
    """

    width: int
    rows: int
    lights: int
    first_row: int = 0
    blocks: int = 0
    sums: Array = field(init=False)
    counts: Counts = field(init=False)
    _cover: NDArray[np.uint8] | None = field(init=False, default=None)
    _photons: Held | None = field(init=False, default=None)

    def __post_init__(self) -> None:
        self.sums = np.zeros((self.rows, self.width, channels.channels(self.lights, self.blocks)), np.float32)
        self.counts = np.zeros((self.rows, self.width), np.int32)

    def cover_of(self, world: World) -> NDArray[np.uint8]:
        """Where letters may be seen (cover.py); a film is of one world, less its lights' levels."""
        if self._cover is None:
            self._cover = may_show_letters(world, self.width, self.rows, self.first_row)
        return self._cover

    def photons_of(
        self, world: World, rules: PathRules, pool: Executor, seed: int, cancelled: Callable[[], bool]
    ) -> Held:
        """The map of light that letters send to the ground (mapping.py). Raises CancelledError."""
        if self._photons is None:
            mapped = rules.mapped and rules.use_lamps == BOTH
            self._photons = Held(
                map_photons(world, light_levels(world), pool, seed, cancelled) if mapped else no_photons()
            )
        return self._photons

    def to_bytes(self) -> bytes:
        """The film as an .npz archive: plain arrays, for another process or machine."""
        out = io.BytesIO()
        shape = np.array([self.width, self.rows, self.lights, self.first_row, self.blocks])
        np.savez(out, shape=shape, sums=self.sums, counts=self.counts)
        return out.getvalue()

    @classmethod
    def from_bytes(cls, data: bytes) -> "Film":
        """The film of `to_bytes`, which can be resumed. Raises ValueError for anything else."""
        try:
            with np.load(io.BytesIO(data), allow_pickle=False) as archive:
                width, rows, lights, first_row, blocks = (int(number) for number in archive["shape"])
                sums, counts = archive["sums"], archive["counts"]
        except (BadZipFile, ValueError, KeyError, OSError, EOFError, TypeError) as fault:
            raise ValueError("these bytes are no film of this Halvex; render it again") from fault
        if sums.shape != (rows, width, channels.channels(lights, blocks)) or counts.shape != (rows, width):
            raise ValueError("this film's sums do not fit its size; render it again")
        film = cls(width, rows, lights, first_row, blocks)
        film.sums, film.counts = sums.astype(np.float32), counts.astype(np.int32)
        return film

    def resume_from(self, above: "Rows | None") -> None:
        """Take over what a film of rows above has of this one's first rows."""
        if above is not None:
            shared = above.first_row + len(above.counts) - self.first_row
            self.sums[:shared], self.counts[:shared] = above.sums[-shared:], above.counts[-shared:]
            self._photons = above.photons

    def last_rows(self, count: int) -> "Rows":
        """A copy of the last rows, from which the film below resumes."""
        return Rows(
            self.first_row + self.rows - count,
            self.sums[-count:].copy(),
            self.counts[-count:].copy(),
            self._photons,
        )

    def early(self, world: World, samples: int) -> Counts:
        """How many samples each pixel should have had (rows, width) when letters have had a first
        few: the ground gets half as many, since it is even and denoises well from fewer."""
        return np.where(self.cover_of(world) != 0, samples, (samples + 1) // 2).astype(np.int32)

    @property
    def samples(self) -> float:
        """Mean samples per pixel."""
        return float(self.counts.mean())

    def _mean(self, channel: int, count: int = 3) -> Array:
        mean = np.empty((self.rows, self.width, count), np.float32)
        mean_channels(self.sums, self.counts, channel, mean)
        return mean

    def share(self, light: int) -> Array:
        """(rows, width, 3) linear light of one light of 0 stops and white, premultiplied."""
        return self._mean(channels.SHARES + 3 * light)

    def develop(self, levels: Array) -> Array:
        """(rows, width, 3) linear light of bodies and ground, premultiplied, each light at its
        level (lights, 3)."""
        light = np.empty((self.rows, self.width, 3), np.float32)
        mean_light(self.sums, self.counts, np.ascontiguousarray(levels, np.float32), light)
        return light

    def denoiser_input(
        self, levels: Array, backdrop: Array, flat_gain: np.float32, pool: Executor
    ) -> DenoiserInput:
        """The picture over backdrop light (3,), each light at its level (lights, 3), flat colours
        multiplied by `flat_gain`, with its guides; the sums are read once, on all threads."""
        images = DenoiserInput(
            *(np.empty((self.rows, self.width, 3), np.float32) for _ in DenoiserInput._fields)
        )
        given = (
            np.ascontiguousarray(levels, np.float32),
            np.ascontiguousarray(backdrop, np.float32),
            np.float32(flat_gain),
        )

        def band(first: int, last: int) -> None:
            mean_scene(self.sums, self.counts, *given, (first, last), images)

        run_bands(pool, band, TILE, self.rows)
        return images

    @property
    def flat(self) -> Array:
        """(rows, width, 3) linear light of flat colours at exposure 0, premultiplied."""
        return self._mean(channels.FLAT)

    @property
    def through(self) -> Array:
        """(rows, width, 3) share of the backdrop seen past and through the bodies."""
        return self._mean(channels.THROUGH)

    @property
    def shade(self) -> Array:
        """(rows, width) share of its unshadowed light that the ground's shadow leaves, 1 where
        there is none."""
        lit, unlit = self.ground_light
        shade = np.minimum(lit / np.maximum(unlit, 1e-6), 1.0)
        return np.where(unlit > 1e-6, shade, 1.0).astype(np.float32)

    @property
    def ground_light(self) -> tuple[Array, Array]:
        """(rows, width) luminance of the ground as it is, and as it would be without the letters."""
        return self._mean(channels.LIT, 1)[..., 0], self._mean(channels.UNLIT, 1)[..., 0]

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
    def block_covers(self) -> Array:
        """(rows, width, blocks) share of each pixel that shows each block."""
        return self._mean(channels.block_cover(self.lights), self.blocks)

    @property
    def glow(self) -> Array:
        """(rows, width, 3) linear light of glowing parts that the camera sees."""
        return self._mean(channels.GLOW_SEEN)

    @property
    def reflected(self) -> Array:
        """(rows, width, 3) linear light of letters mirrored in the ground."""
        return self._mean(channels.REFLECTED)

    def noise(self, levels: Array, shown: Callable[[Array], Array]) -> Array:
        """Standard error of what `shown` makes of the picture, pixel by pixel (rows, width)."""
        return np.sqrt(self._spread(levels, shown))

    def _spread(self, levels: Array, shown: Callable[[Array], Array]) -> Array:
        """Squared standard error of what `shown` makes of the picture (rows, width).

        Half the samples against all of them: their difference has the spread of the whole's error.
        One pixel's is a poor estimate of it; the mean over its neighbours, each counted by its own
        samples, is a steady one. Low-discrepancy samples converge faster than this allows for, so
        it errs on the high side.
        """
        half = self.sums[..., channels.HALF : channels.HALF + 3] / np.maximum((self.counts + 1) // 2, 1)[
            ..., None
        ].astype(np.float32)
        difference = ((shown(np.asarray(half, np.float32)) - shown(self.develop(levels))) ** 2).mean(axis=2)
        # In double precision: the filter's running sums would leave less than nothing beside a bright spot.
        samples = np.maximum(self.counts, 1).astype(np.float64)
        spread: NDArray[np.float64] = np.asarray(
            uniform_filter(difference * samples, NEIGHBOURS, mode="nearest"), np.float64
        )
        return np.asarray(np.maximum(spread, 0) / samples, np.float32)

    def wanted(self, mean: float, levels: Array, shown: Callable[[Array], Array]) -> Counts:
        """How many more samples each pixel should get, so that there are `mean` on the average, for
        the least error of what `shown` makes.

        Samples go where one of them spreads most, in proportion (Neyman, JRSS 97(4), 1934), less
        what a pixel has had.
        """
        deviation = np.sqrt(self._spread(levels, shown) * self.counts.astype(np.float32))
        budget = float(mean) * self.counts.size
        low, high = 0.0, budget / max(float(deviation.max()), 1e-12)
        for _ in range(BISECTIONS):
            middle = (low + high) / 2
            spent = np.maximum(deviation * np.float32(middle), self.counts).sum()
            low, high = (middle, high) if spent < budget else (low, middle)
        return _whole(np.maximum(deviation * np.float32(low) - self.counts, 0))


def _whole(numbers: Array) -> Counts:
    """Whole numbers whose means over any neighbourhood are those of `numbers`: a fraction becomes a
    share of pixels."""
    rows, width = np.indices(numbers.shape)
    threshold = (width * 0.7548777 + rows * 0.5698403) % 1  # an evenly spread sequence (Roberts' R2)
    return np.floor(numbers + threshold).astype(np.int32)


def add_samples(
    world: World,
    film: Film,
    more: int | Counts,
    *,
    pool: Executor,
    seed: int = 0,
    rules: PathRules = USUAL_RULES,
    cancelled: Callable[[], bool] = lambda: False,
) -> None:
    """Add so many samples to every pixel, or to each its own number (rows, width), once the kernels are
    there (gate.py).

    Raises CancelledError; tiles are whole, so the film can be resumed, though some tiles have
    had more than others.
    """
    gate.wait(cancelled)
    each = np.full(film.counts.shape, more, np.int32) if isinstance(more, int) else more
    cover, spread = film.cover_of(world), spread_of_a_pixel(world)
    photons = film.photons_of(world, rules, pool, seed, cancelled)

    seen, sampling = Held(world), Held(Sampling(film.counts, each, cover, spread, film.first_row, seed))

    def tile(x0: int, y0: int, x1: int, y1: int) -> None:
        render_tile(seen, film.sums, sampling, (x0, y0, x1, y1), rules, photons, held_scratch())

    run_tiles(pool, tile, _tiles(each), cancelled)


def _tiles(each: Counts) -> list[tuple[int, int, int, int]]:
    """Tiles (x0, y0, x1, y1) that cover all pixels that get samples (rows, width): the most work
    first, so that threads end together."""
    rows, width = each.shape
    side = TILE
    while rows * width < LEAST_TILES * side * side and side > LEAST_TILE:
        side //= 2
    tiles = [
        (x, y, min(x + side, width), min(y + side, rows))
        for y in range(0, rows, side)
        for x in range(0, width, side)
    ]
    work = {(x0, y0, x1, y1): int(each[y0:y1, x0:x1].sum()) for x0, y0, x1, y1 in tiles}
    return sorted((tile for tile in tiles if work[tile]), key=lambda tile: -work[tile])


@dataclass(frozen=True)
class SamplingJob:
    """How samples are added to a film: on which threads, from which seed, by which rules. `progress` is
    called with the share that is done, `cancelled` between tiles."""

    pool: Executor
    seed: int = 0
    rules: PathRules = USUAL_RULES
    progress: Callable[[float], None] = lambda share: None
    cancelled: Callable[[], bool] = lambda: False

    def add(self, world: World, film: Film, more: Counts, between: Callable[[], None] = lambda: None) -> None:
        """Add samples (rows, width), and call `between` after each part of them. Raises CancelledError."""
        for some in in_parts(more):
            add_samples(
                world,
                film,
                some,
                pool=self.pool,
                seed=self.seed,
                rules=self.rules,
                cancelled=self.cancelled,
            )
            between()


def add_where_noisy(
    world: World, film: Film, mean: int, *, shown: Callable[[Array], Array], job: SamplingJob
) -> None:
    """Sample until there are `mean` samples a pixel on the average, more of them where one spreads
    most what `shown` makes of the picture.

    An eighth goes everywhere and the rest, in two steps, by what was seen; of so few that an eighth
    shows nothing, every pixel gets as many. Raises CancelledError.
    """
    first = mean // 8 if mean >= 8 * FIRST_SAMPLES else mean
    rest = mean - first
    levels, begun = light_levels(world), min(film.samples, mean - 0.5)

    def report() -> None:
        job.progress(min(max((film.samples - begun) / (mean - begun), 0.0), 1.0))

    job.add(world, film, np.maximum(first - film.counts, 0), report)
    for so_many in (first + rest * 3 // 7, mean) if rest else ():
        job.add(world, film, film.wanted(so_many, levels, shown), report)


def in_parts(each: Counts, step: int = 0) -> Iterator[Counts]:
    """The same numbers of samples, `step` of each pixel at a time; or for 0 so many that there is progress to
    report between two parts."""
    step = step or max(JUDGED_FROM, PART_SAMPLES // max(int(np.count_nonzero(each)), 1))
    for done in range(0, int(each.max()), step):
        yield np.clip(each - done, 0, step)


def add_until(
    world: World,
    film: Film,
    *,
    noise: float,
    most: int,
    shown: Callable[[Array], Array],
    job: SamplingJob,
) -> float:
    """Sample until no pixel's noise in what `shown` makes of the picture is over `noise`, or it has `most`
    samples; returns the noise left, the mean over pixels.

    Each pixel gets what its noise asks for, at most as many again as it has had, since a noise measured
    from few samples is a rough guess. Raises CancelledError.
    """
    levels = light_levels(world)
    each = np.maximum(min(JUDGED_FROM, most) - film.counts, 0)
    while True:
        job.add(world, film, each)
        left = film.noise(levels, shown)
        asked = film.counts * (left / np.float32(noise)) ** 2
        each = np.where(left > noise, np.ceil(np.minimum(asked, 2 * film.counts)) - film.counts, 0)
        each = np.minimum(np.maximum(each, 0), most - film.counts).astype(np.int32)
        if not each.any():
            job.progress(1.0)
            return float(np.sqrt((left**2).mean()))
        job.progress(max(float(film.counts.max()) / most, float((each == 0).mean())))
