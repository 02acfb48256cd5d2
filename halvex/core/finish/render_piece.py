"""One piece, one picture: the function that the command line, exports and tests all call.

Large pictures are made in bands of rows, so that memory does not grow with their height; each band
is rendered with a margin, so that cleaning sees across the seams.
"""

from collections.abc import Callable
from concurrent.futures import Executor
from dataclasses import dataclass
from typing import Literal

import numpy as np

from halvex.core.finish.picture import Picture, finish_film
from halvex.core.optics.tone import to_display
from halvex.core.piece.model import LARGEST_CANVAS_PX, LONGEST_CANVAS_SIDE_PX, Piece
from halvex.core.render.film import Film, add_samples
from halvex.core.render.sketch import Sketcher
from halvex.core.render.work import shared_pool
from halvex.core.render.world import make_world
from halvex.core.scene import build_scene

Quality = Literal["draft", "proof", "final"]
SAMPLES: dict[str, int] = {"proof": 16, "final": 96}
BAND_PX = 4_000_000
MARGIN_ROWS = 48
PASS_SAMPLES = 8


class RenderError(ValueError):
    """A picture that cannot be made as asked; `field` names the setting at fault."""

    def __init__(self, field: str, remedy: str):
        super().__init__(remedy)
        self.field = field
        self.remedy = remedy


@dataclass(frozen=True)
class Order:
    """What picture is wanted: size in px (None: the canvas), quality, samples (None: by quality), seed, transparency."""

    width: int | None = None
    height: int | None = None
    quality: Quality = "final"
    samples: int | None = None
    seed: int = 0
    transparent: bool = False


def picture_size(piece: Piece, order: Order) -> tuple[int, int, float]:
    """(width, height, picture px per canvas px). One side given sets the other by the canvas' shape.

    Where both are given and the shape differs, the canvas is fitted inside. Raises RenderError.
    """
    canvas = piece.canvas
    width, height = order.width, order.height
    if width is None and height is None:
        width, height = canvas.width, canvas.height
    elif width is None and height is not None:
        width = max(round(height * canvas.width / canvas.height), 1)
    elif height is None and width is not None:
        height = max(round(width * canvas.height / canvas.width), 1)
    assert width is not None and height is not None
    for name, side in (("width", width), ("height", height)):
        if not 1 <= side <= LONGEST_CANVAS_SIDE_PX:
            raise RenderError(name, f"a side of {side} px cannot be made; take 1 to {LONGEST_CANVAS_SIDE_PX} px")
    if width * height > LARGEST_CANVAS_PX:
        raise RenderError("width", f"{width} × {height} is over {LARGEST_CANVAS_PX // 10**6} megapixels; make one side smaller")
    return width, height, min(width / canvas.width, height / canvas.height)


def render_piece(
    piece: Piece,
    order: Order,
    *,
    pool: Executor | None = None,
    progress: Callable[[float], None] = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Picture:
    """Render a piece. The same piece and order give the same picture on any number of threads.

    Raises RenderError, LetteringError, SolidError, CancelledError.
    """
    width, height, px_scale = picture_size(piece, order)
    pool = pool or shared_pool()
    # A picture of another shape than the canvas shows more at its sides; it is never stretched.
    scene = build_scene(piece, px_scale=px_scale)
    camera = scene.camera._replace(width=np.float32(width / px_scale), height=np.float32(height / px_scale))
    world = make_world(scene)._replace(camera=camera)
    if order.quality == "draft" and not order.transparent:
        linear = Sketcher().draw(piece, world, width, height, pool=pool, cancelled=cancelled)
        return Picture(to_display(linear, scene.exposure), linear, None)
    samples = order.samples if order.samples is not None else SAMPLES.get(order.quality, SAMPLES["proof"])
    if not 1 <= samples <= 1_000_000:
        raise RenderError("samples", f"{samples} samples cannot be taken; take 1 to 1000000")
    rows = max(BAND_PX // width, 2 * MARGIN_ROWS)
    bands = [(top, min(top + rows, height)) for top in range(0, height, rows)]
    parts = []
    for number, (top, bottom) in enumerate(bands):
        first, last = max(top - MARGIN_ROWS, 0), min(bottom + MARGIN_ROWS, height)
        film = Film(width, last - first, first)
        while film.samples < samples:
            step = min(PASS_SAMPLES, samples - film.samples)
            add_samples(world, film, step, pool=pool, seed=order.seed, transparent=order.transparent, cancelled=cancelled)
            progress((number + film.samples / samples) / len(bands))
        whole = finish_film(film, world.backdrop, scene.exposure, transparent=order.transparent, clean="high")
        keep = slice(top - first, bottom - first)
        parts.append(Picture(whole.display[keep], whole.linear[keep], None if whole.alpha is None else whole.alpha[keep]))
    if len(parts) == 1:
        return parts[0]
    alpha = np.vstack([p.alpha for p in parts if p.alpha is not None]) if order.transparent else None
    return Picture(np.vstack([p.display for p in parts]), np.vstack([p.linear for p in parts]), alpha)
