"""One piece, one picture: the function that the command line, exports and tests all call.

Large pictures are made in bands of rows, so that memory does not grow with their height; each band
is rendered with a margin, so that denoising sees across the seams.
"""

import tempfile
from collections.abc import Callable
from concurrent.futures import Executor
from dataclasses import dataclass, replace
from functools import partial
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.layers import layers_of
from halvex.core.finish.picture import Picture, finish
from halvex.core.optics.tone import to_display
from halvex.core.piece.model import LARGEST_CANVAS_PX, LONGEST_CANVAS_SIDE_PX, Piece
from halvex.core.render.assembling import make_world
from halvex.core.render.draft.sketch import Sketcher
from halvex.core.render.film import Film, Rows, add_until, add_where_noisy, light_levels
from halvex.core.render.layers import develop
from halvex.core.render.noise import MOST_SAMPLES, NOISE
from halvex.core.render.work import shared_pool
from halvex.core.render.world import World
from halvex.core.scene import scene_of

# Seeds of neighbouring frames share nothing; the stride keeps them apart from seeds that people type.
FRAME_STRIDE = 1_000_003

Quality = Literal["draft", "proof", "final"]
BAND_PX = 1_500_000
IN_MEMORY_BYTES = 256_000_000
MARGIN_ROWS = 48


class RenderError(ValueError):
    """A picture that cannot be made as asked; `field` names the setting at fault."""

    def __init__(self, field: str, remedy: str):
        super().__init__(remedy)
        self.field = field
        self.remedy = remedy


@dataclass(frozen=True)
class Order:
    """What picture is wanted: size in px (None: the canvas), quality, transparency, layers apart.

    `samples` asks for so many per pixel on the average, more where the picture is noisy; without
    it, sampling stops where `noise` (a share of full scale; None: by quality) is reached. Bodies
    are as fine as for `detail` px per px of canvas (None: as the picture has). Pictures of a loop
    differ by `frame`: their noise moves from frame to frame, or with `still_noise` stays where it
    is.
    """

    width: int | None = None
    height: int | None = None
    quality: Quality = "final"
    samples: int | None = None
    noise: float | None = None
    seed: int = 0
    frame: int = 0
    still_noise: bool = False
    transparent: bool = False
    layers: bool = False
    detail: float | None = None

    @property
    def frame_seed(self) -> int:
        """The seed of this frame: another for each, unless noise is to stand still."""
        return self.seed if self.still_noise else (self.seed + self.frame * FRAME_STRIDE) % 2**31


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
            raise RenderError(
                name, f"a side of {side} px cannot be made; take 1 to {LONGEST_CANVAS_SIDE_PX} px"
            )
    if width * height > LARGEST_CANVAS_PX:
        raise RenderError(
            "width",
            f"{width} × {height} is over {LARGEST_CANVAS_PX // 10**6} megapixels; make one side smaller",
        )
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
    scene = scene_of(piece, px_scale=px_scale, detail=order.detail).for_picture(width, height, px_scale)
    if order.quality == "draft" and not order.transparent and not order.layers:
        return finish(Sketcher().draw(scene, width, height, pool=pool, cancelled=cancelled), scene.finish)
    if order.samples is not None and not 1 <= order.samples <= 1_000_000:
        raise RenderError("samples", f"{order.samples} samples cannot be taken; take 1 to 1000000")
    if order.noise is not None and not 1e-4 <= order.noise <= 1:
        raise RenderError("noise", f"a noise of {order.noise:g} cannot be aimed at; take 0.0001 to 1")
    world = make_world(scene)
    levels = light_levels(world)
    rows = max(BAND_PX // width, 2 * MARGIN_ROWS)
    bands = [(top, min(top + rows, height)) for top in range(0, height, rows)]
    picture = _Collected(width, height, order)
    above: Rows | None = None
    for number, (top, bottom) in enumerate(bands):
        first, last = max(top - MARGIN_ROWS, 0), min(bottom + MARGIN_ROWS, height)
        film = Film(width, last - first, len(levels), first)
        film.resume_from(above)
        above = None
        _expose(
            world,
            film,
            order,
            scene.finish.exposure,
            pool,
            partial(_share_of, progress, number, len(bands)),
            cancelled,
        )
        developed = develop(
            film, levels, scene.finish, transparent=order.transparent, clean="high", pool=pool
        )
        whole = finish(developed, scene.finish)
        layers = layers_of(film, levels, scene.lights, clean="high") if order.layers else None
        picture.take(replace(whole, layers=layers), slice(top, bottom), slice(top - first, bottom - first))
        above = film.last_rows(2 * MARGIN_ROWS) if bottom < height else None
    return picture.whole()


def _share_of(progress: Callable[[float], None], number: int, bands: int, share: float) -> None:
    progress((number + share) / bands)


def _expose(
    world: World,
    film: Film,
    order: Order,
    exposure: float,
    pool: Executor,
    progress: Callable[[float], None],
    cancelled: Callable[[], bool],
) -> None:
    """Sample a film as the order says."""
    seed, transparent = order.frame_seed, order.transparent
    if order.samples is not None:
        add_where_noisy(
            world,
            film,
            order.samples,
            shown=lambda light: to_display(light, exposure),
            pool=pool,
            seed=seed,
            transparent=transparent,
            progress=progress,
            cancelled=cancelled,
        )
        return
    quality = order.quality if order.quality in NOISE else "proof"
    add_until(
        world,
        film,
        noise=order.noise or NOISE[quality],
        most=MOST_SAMPLES[quality],
        exposure=exposure,
        pool=pool,
        seed=seed,
        transparent=transparent,
        progress=progress,
        cancelled=cancelled,
    )


def _room(shape: tuple[int, ...]) -> NDArray[np.float32]:
    """Room for an image; one larger than IN_MEMORY_BYTES lies in a file without a name, which goes
    with the array."""
    if np.prod(shape) * 4 <= IN_MEMORY_BYTES:
        return np.empty(shape, np.float32)
    return np.memmap(tempfile.TemporaryFile(), np.float32, "w+", shape=shape)


class _Collected:
    """A picture that grows band by band, so that only what is kept of a band stays in memory."""

    def __init__(self, width: int, height: int, order: Order):
        self._display = _room((height, width, 3))
        self._linear = _room((height, width, 3))
        self._alpha = _room((height, width)) if order.transparent else None
        self._layers: dict[str, NDArray[np.float32]] = {}
        self._height = height

    def take(self, band: Picture, rows: slice, kept: slice) -> None:
        self._display[rows], self._linear[rows] = band.display[kept], band.linear[kept]
        if self._alpha is not None and band.alpha is not None:
            self._alpha[rows] = band.alpha[kept]
        for name, image in (band.layers or {}).items():
            if name not in self._layers:
                self._layers[name] = _room((self._height, *image.shape[1:]))
            self._layers[name][rows] = image[kept]

    def whole(self) -> Picture:
        return Picture(self._display, self._linear, self._alpha, self._layers or None)
