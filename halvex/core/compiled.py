"""Compiling all kernels ahead of use: those of drafts, which open the page, and then the integrator's."""

import multiprocessing
import re
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from functools import partial
from pathlib import Path

from halvex.core.cache import KERNEL, cache_folder, cache_name, kernel_sources

INDEX = re.compile(r"(.+)-\d+\.py\d+\.nbi")


def compile_all(report: Callable[[str], None]) -> None:
    """Compile (or load) every kernel by using it once on a tiny piece; `report` gets a line for each step."""
    for step in STEPS:
        report(_taken(step))


def compile_for_drafts(report: Callable[[str], None]) -> None:
    """The same without the path integrator, which takes the longest: drafts can be made then."""
    for step in STEPS:
        if step != INTEGRATOR:
            report(_taken(step))


def is_integrator_compiled() -> bool:
    """Whether a process need only load the integrator's kernels."""
    return _mark().exists()


def _mark() -> Path:
    """What is written beside the integrator's kernels once all of them are there."""
    return Path(cache_folder("light")) / f"{cache_name('light')}.compiled"


def share_compiled() -> float:
    """How many of the integrator's kernels there are, as a share of all; under 1 until the last is there."""
    if is_integrator_compiled():
        return 1.0
    folder = Path(cache_folder("light"))
    there = {found[1] for path in folder.rglob("*.nbi") if (found := INDEX.fullmatch(path.name))}
    wanted = sum(len(KERNEL.findall(path.read_text())) for path in kernel_sources("light"))
    return min(len(there) / max(wanted, 1), 0.99)


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
    if step == INTEGRATOR:
        _mark().touch()
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
INTEGRATOR = "path integrator"
STEPS: dict[str, Callable[[], None]] = {
    "solids and surroundings": _build,
    INTEGRATOR: partial(_render, "final", samples=1),
    "draft integrator": partial(_render, "draft"),
}
