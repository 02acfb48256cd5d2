"""Compiling all kernels ahead of use."""

import multiprocessing
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor


def compile_all(report: Callable[[str], None]) -> None:
    """Compile (or load) every kernel by using it once on a tiny piece; `report` is told of each step."""
    for step in STEPS:
        report(_taken(step))


def compile_side_by_side(report: Callable[[str], None]) -> None:
    """The same for a later process only, on two cores: the integrators wait for nothing but what both begin with."""
    with ProcessPoolExecutor(2, multiprocessing.get_context("spawn")) as pool:
        report(pool.submit(_taken, "solids and surroundings").result())
        for line in pool.map(_taken, ("draft integrator", "path integrator")):
            report(line)


def _taken(step: str) -> str:
    """Go through a step; returns its name and how long it took."""
    started = time.perf_counter()
    STEPS[step]()
    return f"{step}: {time.perf_counter() - started:.1f} s"


def _build() -> None:
    from halvex.core.piece import piece_from_values
    from halvex.core.scene import build_scene

    build_scene(piece_from_values(TINY))


def _render(**order: object) -> None:
    from halvex.core.finish.render_piece import Order, render_piece
    from halvex.core.piece import piece_from_values

    render_piece(piece_from_values(TINY), Order(**order))  # type: ignore[arg-type]


def _trace() -> None:
    _render(samples=1)


def _draft() -> None:
    _render(quality="draft")


TINY = {"canvas": {"width": 64, "height": 36}, "blocks": [{"words": "i", "size": 30}]}
STEPS: dict[str, Callable[[], None]] = {"solids and surroundings": _build, "path integrator": _trace, "draft integrator": _draft}
