"""How long a denoised picture takes to a FLIP, against mitsuba with the same denoiser and its own guides."""

import time
from collections.abc import Callable
from functools import partial
from typing import Any

import flip_evaluator
import numpy as np
from numpy.typing import NDArray

from benchmarks.peer_scenes import (
    PATHS_ALONE,
    SCENES,
    SHARP_MIRRORS,
    mitsuba_scene,
    our_world,
)
from benchmarks.render import llvm
from benchmarks.result import Result
from halvex.core.finish.picture import display_of, finish
from halvex.core.render.clean import add_until_clean
from halvex.core.render.denoise import denoise
from halvex.core.render.film import Film, SamplingJob, add_samples, light_levels
from halvex.core.render.layers import develop
from halvex.core.render.noise import AIM, MOST_SAMPLES
from halvex.core.render.work import shared_pool
from halvex.core.render.world import World
from halvex.core.scene import Scene

WIDTH, HEIGHT, PX_SCALE = 480, 270, 5.0
SCENE, GOAL = "gold before a wall", 0.06
CONVERGED = 1024
# Samples a pixel that mitsuba is given in turn, until it is as near.
THEIRS = (4, 8, 16, 32, 64, 128, 256)
RUNS = 5

Array = NDArray[np.float32]


def clean_llvm() -> list[Result]:
    """Time to the FLIP that `final` reaches on gold before a wall at 480 × 270: the median of five runs."""
    try:
        mi = llvm()
    except ImportError as fault:
        note = f"mitsuba: {fault}"
        return [Result("clean-llvm", 0.0, "ratio of times", note, None, None, f"≤ {GOAL:g}", False)]
    scene, world = our_world(next(peer for peer in SCENES if peer.name == SCENE), PX_SCALE)
    loaded, integrator = mitsuba_scene(mi, scene, world, WIDTH, HEIGHT), _guided(mi)
    converged = _displayed(scene, _sampled(world, CONVERGED).develop(light_levels(world)))
    _ours(scene, world, 0)
    runs = [_timed(partial(_ours, scene, world, seed), converged) for seed in range(RUNS)]
    times, apart = zip(*runs, strict=True)
    ours, flip = float(np.median(times)), float(np.median(apart))
    theirs, reached = _time_to(flip, partial(_theirs, mi, loaded, integrator, scene), converged)
    note = f"s to FLIP {flip:.3f}; theirs {reached:.3f}"
    ratio = ours / theirs
    return [
        Result(
            f"clean-llvm, {SCENE}",
            round(ours, 2),
            note,
            "mitsuba llvm, denoised",
            round(theirs, 2),
            round(ratio, 3),
            f"≤ {GOAL:g}",
            ratio <= GOAL,
        )
    ]


def _timed(work: Any, converged: Array) -> tuple[float, float]:
    """(Seconds, FLIP to the converged picture) of a picture."""
    started = time.perf_counter()
    shown = work()
    return time.perf_counter() - started, _flip(converged, shown)


def _flip(converged: Array, shown: Array) -> float:
    return float(flip_evaluator.evaluate(converged, shown, "LDR", inputsRGB=True, applyMagma=False)[1])


def _displayed(scene: Scene, light: Array) -> Array:
    return np.asarray(display_of(scene.finish)(light), np.float32)


def _sampled(world: World, samples: int) -> Film:
    film = Film(WIDTH, HEIGHT, len(light_levels(world)))
    add_samples(world, film, samples, pool=shared_pool(), seed=99, rules=PATHS_ALONE)
    return film


def _ours(scene: Scene, world: World, seed: int) -> Array:
    levels, shown = light_levels(world), display_of(scene.finish)
    film = Film(WIDTH, HEIGHT, len(levels))
    job = SamplingJob(shared_pool(), seed=seed, rules=SHARP_MIRRORS)
    add_until_clean(
        world, film, scene.finish, aim=AIM["final"], most=MOST_SAMPLES["final"], shown=shown, job=job
    )
    layers = develop(film, levels, scene.finish, transparent=False, clean="high", pool=shared_pool())
    return finish(layers, scene.finish).display


def _theirs(mi: Any, loaded: Any, integrator: Any, scene: Scene, samples: int, seed: int) -> Array:
    made = np.array(mi.render(loaded, integrator=integrator, spp=samples, seed=seed))
    guides = np.clip(made[..., -6:-3], 0, 1), made[..., -3:]
    return _displayed(scene, denoise(made[..., :3], *guides, quality="high"))


def _guided(mi: Any) -> Any:
    """An integrator that gives albedo and normals with the picture."""
    path = {"type": "path", "max_depth": 13, "rr_depth": 4, "hide_emitters": True}
    return mi.load_dict({"type": "aov", "aovs": "albedo:albedo,normal:sh_normal", "path": path})


def _time_to(flip: float, picture: Callable[[int, int], Array], converged: Array) -> tuple[float, float]:
    """(Seconds until a picture of so many samples, by its seed, is as near; how near that is): between two
    numbers of samples, time and error are powers of each other. The last one's where none is near enough."""
    picture(THEIRS[0], 0)
    before = 0.0, float("inf")
    for samples in THEIRS:
        runs = [_timed(partial(picture, samples, seed), converged) for seed in range(3)]
        here = float(np.median([run[0] for run in runs])), float(np.median([run[1] for run in runs]))
        if here[1] <= flip:
            if before[0] == 0.0:
                return here
            share = np.log(before[1] / flip) / np.log(before[1] / here[1])
            return float(before[0] * (here[0] / before[0]) ** share), flip
        before = here
    return before
