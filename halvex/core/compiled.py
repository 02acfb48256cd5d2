"""Compiling all kernels ahead of use."""

import time
from collections.abc import Callable, Iterator


def compile_all(report: Callable[[str], None]) -> None:
    """Compile (or load) every kernel by using it once on a tiny piece; `report` is told of each step."""
    for name, step in _steps():
        started = time.perf_counter()
        step()
        report(f"{name}: {time.perf_counter() - started:.1f} s")


def _steps() -> Iterator[tuple[str, Callable[[], object]]]:
    from halvex.core.finish.render_piece import Order, render_piece
    from halvex.core.piece import piece_from_values
    from halvex.core.scene import build_scene

    piece = piece_from_values({"canvas": {"width": 64, "height": 36}, "blocks": [{"words": "i", "size": 30}]})
    yield "solids and surroundings", lambda: build_scene(piece)
    yield "path integrator", lambda: render_piece(piece, Order(samples=1))
    yield "draft integrator", lambda: render_piece(piece, Order(quality="draft"))
