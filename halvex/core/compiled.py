"""Compiling all kernels ahead of use."""

import multiprocessing
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from functools import partial


def compile_all(report: Callable[[str], None]) -> None:
    """Compile (or load) every kernel by using it once on a tiny piece; `report` gets a line for each step."""
    for step in STEPS:
        report(_taken(step))


def compile_side_by_side(report: Callable[[str], None]) -> None:
    """The same for a later process only, on two cores: the integrators wait for nothing but what
    both begin with."""
    first, *integrators = STEPS
    with ProcessPoolExecutor(2, multiprocessing.get_context("spawn")) as pool:
        report(pool.submit(_taken, first).result())
        for line in pool.map(_taken, integrators):
            report(line)


def _taken(step: str) -> str:
    """Go through a step; returns its name and how long it took."""
    started = time.perf_counter()
    STEPS[step]()
    return f"{step}: {time.perf_counter() - started:.1f} s"


def _build() -> None:
    from halvex.core.piece import piece_from_values
    from halvex.core.scene import scene_of

    scene_of(piece_from_values(TINY))


def _render(quality: str, **options: object) -> None:
    from halvex.core.finish.orders import order_of
    from halvex.core.finish.render_piece import render_piece
    from halvex.core.piece import piece_from_values

    render_piece(piece_from_values(TINY), order_of(quality, **options))


TINY = {"canvas": {"width": 64, "height": 36}, "blocks": [{"words": "i", "size": 30}]}
STEPS: dict[str, Callable[[], None]] = {
    "solids and surroundings": _build,
    "path integrator": partial(_render, "final", samples=1),
    "draft integrator": partial(_render, "draft"),
}
