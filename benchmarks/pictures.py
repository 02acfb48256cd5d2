"""How long a clean picture takes, and a final one, and how far they are from the converged one."""

import statistics
import time
from functools import partial

import flip_evaluator
import numpy as np

from benchmarks.render import Array, sample_piece
from benchmarks.result import Result
from halvex.core.finish.orders import FinalOrder
from halvex.core.finish.picture import finish
from halvex.core.finish.render_piece import render_piece
from halvex.core.finish.tone import to_display
from halvex.core.render.assembling import make_world
from halvex.core.render.film import Film, add_samples, light_levels
from halvex.core.render.layers import develop
from halvex.core.render.work import shared_pool
from halvex.core.scene import scene_of
from halvex.studio.samples import demo_piece

# Samples per pixel of letters in a clean picture by its height, seconds that it may take; samples
# of the converged one.
CLEAN = {540: (4, 2.0), 1080: (4, 10.0)}
CONVERGED = 256
# The denoiser's quality: as a live session cleans its passes.
CLEANING = "fast"
# Pictures of which the median counts.
PICTURES = 9
# Gold before a wall, glass, plastic on a wall, chromium.
FINAL_SCENES = ("lantern-regatta", "chandler-glass", "regatta-buoys", "rowing-club")
FINAL_RUNS, FINAL_MEAN_S, FINAL_MOST_S = 5, 12.0, 20.0


def _clean(height: int) -> list[Result]:
    samples, goal = CLEAN[height]
    width = height * 16 // 9
    piece = sample_piece(width, height)
    scene_of(piece)

    def picture(count: int, quality: str = CLEANING) -> tuple[Array, Film]:
        scene = scene_of(piece)
        world = make_world(scene)
        levels = light_levels(world)
        film = Film(width, height, len(levels))
        add_samples(world, film, film.early(world, count), pool=shared_pool())
        layers = develop(film, levels, scene.finish, transparent=False, clean=quality, pool=shared_pool())
        return finish(layers, scene.finish).display, film

    picture(1)
    times = []
    for _ in range(PICTURES):
        started = time.perf_counter()
        display, film = picture(samples)
        times.append(time.perf_counter() - started)
    seconds = float(np.median(times))
    scene = scene_of(piece)
    shown = partial(to_display, exposure_stops=scene.finish.exposure)
    noise = float(np.sqrt((film.noise(light_levels(make_world(scene)), shown) ** 2).mean()))
    apart = float(flip_evaluator.evaluate(picture(CONVERGED, "high")[0], display, "LDR", inputsRGB=True)[1])
    note = f"s, noise {noise:.3f}, FLIP {apart:.3f}"
    return [
        Result(
            f"clean-{height}, {film.samples:.1f} spp",
            round(seconds, 2),
            note,
            None,
            None,
            None,
            f"≤ {goal:g} s",
            seconds <= goal,
        )
    ]


def clean_540() -> list[Result]:
    """From the piece to a clean picture of 960 × 540, bodies known, and how far it is from the
    converged one."""
    return _clean(540)


def clean_1080() -> list[Result]:
    """The same of 1920 × 1080."""
    return _clean(1080)


def final_720() -> list[Result]:
    """Four demo pieces of 1280 × 720 at `final`, bodies known: the median of five runs each, and their
    geometric mean."""
    found, medians = [], []
    for name in FINAL_SCENES:
        piece = demo_piece(name)
        render_piece(piece, FinalOrder(width=64))
        times = []
        for run in range(FINAL_RUNS):
            started = time.perf_counter()
            render_piece(piece, FinalOrder(width=1280, height=720, seed=run))
            times.append(time.perf_counter() - started)
        medians.append(statistics.median(times))
        found.append(_seconds_of(f"final-720, {name}", medians[-1], FINAL_MOST_S))
    return [
        *found,
        _seconds_of("final-720, geometric mean", statistics.geometric_mean(medians), FINAL_MEAN_S),
    ]


def _seconds_of(name: str, seconds: float, goal: float) -> Result:
    return Result(name, round(seconds, 2), "s", None, None, None, f"≤ {goal:g} s", seconds <= goal)
