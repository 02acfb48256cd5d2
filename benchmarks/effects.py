"""What finishing costs: a stack of effects within a draft and on a large picture, and blurs against scipy."""

import time
from collections.abc import Callable

import numpy as np
import shapely
from scipy.ndimage import gaussian_filter

from benchmarks.result import Result
from halvex.core.finish.blurring import spread
from halvex.core.finish.covering import coverage
from halvex.core.finish.picture import Composed, finished
from halvex.core.finish.plate import NothingSeen
from halvex.core.piece.effects import AnyEffect, Bloom, Glints, Gloss, Grain, Halo, Keyline, Tone
from halvex.core.render.work import shared_pool
from halvex.core.scene.finish import Finish, Frame
from halvex.core.scene.outlines import FaceSeen

TURNS = 9
STACK: tuple[AnyEffect, ...] = (
    Keyline(),
    Halo(),
    Bloom(),
    Glints(),
    Gloss(),
    Tone(contrast=10, saturation=10),
    Grain(),
)


class _Letters(NothingSeen):
    """Twelve faces with counters on a canvas of 1280 × 720 px, seen at a scale."""

    def __init__(self, scale: float):
        boxes = [
            shapely.box(80 + 190 * i, 120 + 260 * j, 240 + 190 * i, 340 + 260 * j)
            for j in range(2)
            for i in range(6)
        ]
        self._areas = [
            shapely.transform(box.difference(box.centroid.buffer(45)), lambda points: points * scale)
            for box in boxes
        ]
        self.by = 0.0

    def faces(self) -> tuple[FaceSeen, ...]:
        return tuple(
            FaceSeen(shapely.transform(area, lambda points: points + self.by), 0) for area in self._areas
        )


def effects() -> list[Result]:
    """A stack of seven effects, and a halo's three Gaussians."""
    small = 1000 * _stack_seconds(0.75, TURNS, moving=False)
    moving = 1000 * _stack_seconds(0.75, TURNS, moving=True)
    large = _stack_seconds(3.0, 3, moving=True)
    plane = np.random.default_rng(1).random((540, 960, 1)).astype(np.float32)
    parts = [(18.0, 0.5), (31.0, 0.3), (54.0, 0.2)]
    ours = 1000 * _median(lambda: spread(plane, parts, shared_pool()), TURNS)
    theirs = 1000 * _median(
        lambda: sum(weight * gaussian_filter(plane[..., 0], sigma) for sigma, weight in parts), 3
    )
    ratio = ours / theirs
    return [
        Result("effects, 960 × 540", small, "ms", None, None, None, "≤ 25 ms", small <= 25),
        Result("effects, letters that move", moving, "ms", None, None, None, "≤ 25 ms", moving <= 25),
        Result("effects, 3840 × 2160", large, "s", None, None, None, "≤ 2 s", large <= 2),
        Result("three Gaussians, 960 × 540", ours, "ms", "scipy", theirs, ratio, "ratio ≤ 1", ratio <= 1),
    ]


def _stack_seconds(scale: float, turns: int, *, moving: bool) -> float:
    width, height = round(1280 * scale), round(720 * scale)
    seen = _Letters(scale)
    letters = coverage(shapely.union_all([face.area for face in seen.faces()]), width, height)
    light = np.full((height, width, 3), 0.15, np.float32)
    light += letters[..., None] * (np.array([0.9, 0.6, 0.2], np.float32) - light)
    light[letters > 0] *= np.random.default_rng(2).uniform(0.4, 2.5, (int((letters > 0).sum()), 1))
    whole = Composed(light.astype(np.float32), None, {"letters": letters})
    settings = Finish("#204050", 0.0, "neutral", STACK, Frame(scale, 0.0, 0.0, 1280.0, 720.0))

    def finish() -> None:
        # By so little that it is the same picture, and no outline is known.
        seen.by += 1e-4 if moving else 0.0
        finished(whole, settings, seen, shared_pool())

    return _median(finish, turns)


def _median(work: Callable[[], object], turns: int) -> float:
    work()
    found = []
    for _ in range(turns):
        started = time.perf_counter()
        work()
        found.append(time.perf_counter() - started)
    return float(np.median(found))
