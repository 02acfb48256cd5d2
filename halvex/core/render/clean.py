"""Sampling until the denoised picture is good enough: the error that is seen is the one after denoising.

Every second sample makes one half of a film, the others the other. Both halves are denoised alone; how far
the two pictures are from each other, as FLIP tells them apart (Andersson et al., HPG 2020), is a steady
share of how far the whole, denoised, is from the converged picture (`OF_HALVES`; docs/experiments.md). So
an order's aim is a FLIP to the converged picture, and needs no converged picture.
"""

from collections.abc import Callable, Iterator
from concurrent.futures import Executor
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.render import channels
from halvex.core.render.denoise import denoise
from halvex.core.render.film import DenoiserInput, Film, SamplingJob, light_levels
from halvex.core.render.flip import mean_flip
from halvex.core.render.noise import FIRST_CLEAN_SAMPLES
from halvex.core.render.world import World
from halvex.core.scene.finish import Finish
from halvex.core.stopping import CancelledError

Array = NDArray[np.float32]
Shown = Callable[[Array], Array]

# FLIP of a finished picture to the converged one, as a share of that between its halves, which is so much
# where they are this far apart and changes with this power of how far: the closer halves are, the less of it.
OF_HALVES, HALVES_APART, HALVES_POWER = 0.565, 0.05, 0.2
# FLIP falls with this power of the samples, denoised; and no more than so many times the samples are added
# on the word of one estimate.
RATE, MOST_GROWTH = 0.28, 4.0
# After a smaller step than this the aim is taken as reached without looking again.
SURE_GROWTH = 3.0
# The halves are compared on squares of so many px, in each strip of them on one in so many: where a strip has
# few, and else; and on no more of a wide strip than so many and one.
SQUARE_PX, EVERY_OF_FEW, EVERY, FEW, MOST_OF_STRIP = 256, 2, 3, 4, 5
# Narrower strips at the edges say little.
LEAST_PX = 16
BISECTIONS = 24


def flip_to_converged(
    film: Film,
    levels: Array,
    settings: Finish,
    shown: Shown,
    pool: Executor,
    cancelled: Callable[[], bool] = lambda: False,
) -> float:
    """An estimate of the mean FLIP between a film's denoised picture and the converged one. Raises
    CancelledError."""
    behind, gain = settings.backdrop_light, settings.flat_gain
    seen = film.denoiser_input(levels, behind, gain, pool)
    found, height = 0.0, 0
    for squares in _strips(film.rows, film.width, film.first_row):
        sum_of_strip, px = 0.0, 0
        for square in squares:
            if cancelled():
                raise CancelledError
            one, other = _halves(film, square, seen, behind, gain, shown)
            sum_of_strip, px = sum_of_strip + mean_flip(one, other) * one[..., 0].size, px + one[..., 0].size
        # A strip counts by its height, however many squares of it are compared: letters are in the middle.
        rows = squares[0][0].stop - squares[0][0].start
        found, height = found + rows * sum_of_strip / px, height + rows
    apart = found / height
    return OF_HALVES * apart * (apart / HALVES_APART) ** HALVES_POWER


def _strips(height: int, width: int, first_row: int = 0) -> Iterator[list[tuple[slice, slice]]]:
    """Squares spread evenly over rows of a picture from `first_row` on, strip by strip; those of one lie
    between those of the next."""
    every = max(EVERY if width >= FEW * SQUARE_PX else EVERY_OF_FEW, width // (MOST_OF_STRIP * SQUARE_PX))
    for top in range(0, height, SQUARE_PX):
        rows = slice(top, min(top + SQUARE_PX, height))
        if rows.stop - top < LEAST_PX <= height:
            continue
        begin = SQUARE_PX * ((first_row + top) // SQUARE_PX % every)
        lefts = range(begin if begin < width else 0, width, every * SQUARE_PX)
        squares = [(rows, slice(left, min(left + SQUARE_PX, width))) for left in lefts]
        if len(squares) > 1 and squares[-1][1].stop - squares[-1][1].start < LEAST_PX:
            squares.pop()
        yield squares


def _halves(
    film: Film,
    square: tuple[slice, slice],
    seen: DenoiserInput,
    behind: Array,
    gain: np.float32,
    shown: Shown,
) -> tuple[Array, Array]:
    """Every second sample of a part of the picture, and the others, each denoised and displayed."""
    counts = film.counts[square][..., None]
    # What halves do not hold: flat colours are in them as at exposure 0.
    extra = seen.flat[square] * (gain - 1) + seen.through[square] * behind
    half = film.sums[square][..., channels.HALF : channels.HALF + 3]
    rest = (seen.light[square] - extra) * counts - half
    first = (counts + 1) // 2
    # A pixel of one sample has no second half: it counts as alike.
    rest, others = np.where(counts > 1, rest, half), np.maximum(counts - first, 1)

    def clean(light: Array, number: NDArray[np.int32]) -> Array:
        whole = np.asarray(light / np.maximum(number, 1) + extra, np.float32)
        # What the edges of a square err by is part of OF_HALVES.
        guides = seen.albedo[square], seen.normal[square]
        return shown(denoise(whole, *guides, quality="fast", margin=0))

    return clean(half, first), clean(rest, others)


def add_until_clean(
    world: World,
    film: Film,
    settings: Finish,
    *,
    aim: float,
    most: int,
    shown: Shown,
    job: SamplingJob,
) -> float:
    """Sample until the denoised picture's FLIP to the converged one is about `aim`, or there are `most`
    samples a pixel on average; returns the FLIP that was estimated last. Raises CancelledError."""
    levels = light_levels(world)
    begun = int(film.counts.sum())
    first = np.maximum(film.early(world, FIRST_CLEAN_SAMPLES) - film.counts, 0)
    # Until there is an estimate, a picture is taken to need three times its first samples.
    planned = 3 * int(first.sum())

    def report() -> None:
        job.progress(min((int(film.counts.sum()) - begun) / max(planned, 1), 1.0))

    job.add(world, film, first, report)
    while True:
        flip = flip_to_converged(film, levels, settings, shown, job.pool, job.cancelled)
        plan = next_step(film, flip, aim, most)
        if plan is None:
            job.progress(1.0)
            return flip
        each = film.wanted(plan.mean, levels, shown)
        planned = int(film.counts.sum()) - begun + int(each.sum())
        job.add(world, film, each, report)
        if plan.is_last:
            job.progress(1.0)
            return min(flip, aim)


class Step(NamedTuple):
    """Samples a pixel on average that a film should have next, and in the end; whether it need not be looked
    at again after the next."""

    mean: float
    in_the_end: float
    is_last: bool


def next_step(film: Film, flip: float, aim: float, most: int) -> Step | None:
    """What brings a film whose denoised picture is so far from the converged one to `aim`; None if it is
    there, or has had `most`."""
    needed = min(film.samples * (flip / aim) ** (1 / RATE), float(most))
    if needed <= film.samples:
        return None
    return Step(min(needed, film.samples * MOST_GROWTH), needed, needed < film.samples * SURE_GROWTH)
