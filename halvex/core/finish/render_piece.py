"""One piece, one picture: the function that the command line, exports and tests all call.

Large pictures are made in bands of rows, so that memory does not grow with their height; each band
is rendered with a margin, so that denoising sees across the seams.
"""

import shutil
import tempfile
from collections.abc import Callable
from concurrent.futures import Executor
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from halvex.core.assets import SHIPPED, Assets
from halvex.core.finish.layers import named_layers
from halvex.core.finish.orders import Order, RenderError, SampledOrder, check, picture_size
from halvex.core.finish.picture import Composed, Picture, composed, display_of, finished
from halvex.core.finish.plate import Seen
from halvex.core.piece.model import Piece
from halvex.core.render.assembling import make_world
from halvex.core.render.clean import add_until_clean
from halvex.core.render.draft.sketch import Sketcher
from halvex.core.render.film import Film, Rows, SamplingJob, add_until, add_where_noisy, light_levels
from halvex.core.render.layers import develop, features_of
from halvex.core.render.path_state import PathRules
from halvex.core.render.work import StoppablePool, shared_pool
from halvex.core.render.world import World
from halvex.core.room import IN_MEMORY_BYTES, room
from halvex.core.scene import scene_of
from halvex.core.scene.finish import Finish

# What a band holds besides its margins; of a picture that lies in files more, as little of a wide one would
# be left between them.
BAND_PX, LARGE_BAND_PX = 940_000, 3_500_000
MARGIN_ROWS = 48
# What effects take at the most while they work, all files of a large picture together.
FINISHED_BYTES_PER_PX = 130
# The share of the time that effects take where a picture is so large that it shows.
FINISHING_SHARE = 0.15


def render_piece(
    piece: Piece,
    order: Order,
    *,
    assets: Assets = SHIPPED,
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
    scene = scene_of(piece, px_scale=px_scale, detail=order.detail, assets=assets).for_picture(
        width, height, px_scale
    )
    if scene.finish.has_effects:
        _check_room(width * height)
    if not isinstance(order, SampledOrder):
        layers = Sketcher().draw(scene, width, height, pool=pool, cancelled=cancelled)
        return finished(composed(layers, scene.finish, pool), scene.finish, scene, pool)
    check(order)
    world = make_world(scene)
    levels = light_levels(world)
    blocks = len(scene.blocks) if order.layers else scene.covered_blocks
    rendering = 1.0 - (FINISHING_SHARE if scene.finish.has_effects and _is_large(width * height) else 0.0)
    rows = max((LARGE_BAND_PX if _is_large(width * height) else BAND_PX) // width, 2 * MARGIN_ROWS)
    bands = [(top, min(top + rows, height)) for top in range(0, height, rows)]
    picture = _Collected(width, height, order, scene.finish)
    above: Rows | None = None
    for number, (top, bottom) in enumerate(bands):
        first, last = max(top - MARGIN_ROWS, 0), min(bottom + MARGIN_ROWS, height)
        film = Film(width, last - first, len(levels), first, blocks)
        film.resume_from(above)
        above = None
        _expose(
            world,
            film,
            order,
            scene.finish,
            display_of(scene.finish),
            pool,
            _span(progress, rendering * number / len(bands), rendering * (number + 1) / len(bands)),
            cancelled,
        )
        developed = develop(
            film, levels, scene.finish, transparent=order.transparent, clean="high", pool=pool
        )
        named: dict[str, NDArray[np.float32]] = {}
        if order.layers:
            features = features_of(film, levels, clean="high")
            named = named_layers(replace(developed, features=features), scene)
        band = composed(developed, scene.finish, pool)
        picture.take(band, named, slice(top, bottom), slice(top - first, bottom - first))
        above = film.last_rows(2 * MARGIN_ROWS) if bottom < height else None
    return picture.finished(scene, StoppablePool(pool, cancelled), _span(progress, rendering, 1.0))


def _is_large(pixels: int) -> bool:
    """Whether a picture lies in files."""
    return 12 * pixels > IN_MEMORY_BYTES


def _check_room(pixels: int) -> None:
    """Effects work on the whole picture at once, which lies in files if it is large. Raises RenderError
    where the disk has no room for them."""
    needed, free = pixels * FINISHED_BYTES_PER_PX, shutil.disk_usage(tempfile.gettempdir()).free
    if _is_large(pixels) and needed > free:
        raise RenderError(
            "width",
            f"with its effects this picture needs up to {needed / 1e9:.1f} GB in {tempfile.gettempdir()}, "
            f"where {free / 1e9:.1f} GB are free; make room there, make the picture smaller, or switch its "
            "effects off",
        )


def _span(progress: Callable[[float], None], begin: float, end: float) -> Callable[[float], None]:
    """Progress of a piece of work that is all of the work from `begin` to `end`."""
    return lambda share: progress(begin + (end - begin) * share)


def _expose(
    world: World,
    film: Film,
    order: SampledOrder,
    settings: Finish,
    shown: Callable[[NDArray[np.float32]], NDArray[np.float32]],
    pool: Executor,
    progress: Callable[[float], None],
    cancelled: Callable[[], bool],
) -> None:
    """Sample a film as the order says; noise and error are those of what `shown` makes of the picture."""
    job = SamplingJob(
        pool,
        seed=order.frame_seed,
        rules=PathRules(transparent=order.transparent, layered=order.layers),
        progress=progress,
        cancelled=cancelled,
    )
    if order.samples is not None:
        add_where_noisy(world, film, order.samples, shown=shown, job=job)
    elif order.noise is not None:
        add_until(world, film, noise=order.noise, most=order.most, shown=shown, job=job)
    else:
        add_until_clean(world, film, settings, aim=order.aim, most=order.most, shown=shown, job=job)


class _Collected:
    """A picture that grows band by band, so that only what is kept of a band stays in memory. Effects work
    on the whole at the end, as what spreads knows no bands."""

    def __init__(self, width: int, height: int, order: SampledOrder, settings: Finish):
        self._settings = settings
        self._linear = room((height, width, 3))
        self._alpha = room((height, width)) if order.transparent else None
        self._covers: dict[str, NDArray[np.float32]] = {}
        self._display = room((0, 0, 3) if settings.has_effects else (height, width, 3))
        self._layers: dict[str, NDArray[np.float32]] = {}
        self._height = height

    def take(self, band: Composed, layers: dict[str, NDArray[np.float32]], rows: slice, kept: slice) -> None:
        self._linear[rows] = band.linear[kept]
        if self._alpha is not None and band.alpha is not None:
            self._alpha[rows] = band.alpha[kept]
        if not self._settings.has_effects:
            self._display[rows] = display_of(self._settings)(self._linear[rows])
        for images, collected in ((band.covers, self._covers), (layers, self._layers)):
            for name, image in images.items():
                if name not in collected:
                    collected[name] = room((self._height, *image.shape[1:]))
                collected[name][rows] = image[kept]

    def finished(self, seen: Seen, pool: Executor, progress: Callable[[float], None]) -> Picture:
        layers = self._layers or None
        if not self._settings.has_effects:
            return Picture(self._display, self._linear, self._alpha, layers)
        whole = Composed(self._linear, self._alpha, self._covers)
        return replace(finished(whole, self._settings, seen, pool, progress), layers=layers)
