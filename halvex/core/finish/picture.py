"""From render layers to a finished picture: over the backdrop or with alpha, exposed and tone-mapped, with
its effects."""

import itertools
from collections.abc import Callable, Mapping
from concurrent.futures import Executor
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.effects import ON_DISPLAY, ON_LIGHT, seek_covers, shows, work_on
from halvex.core.finish.plate import NothingSeen, Plate, Seen
from halvex.core.finish.tone import (
    BAND_ROWS,
    in_bands,
    map_rows,
    to_bytes,
    to_display,
)
from halvex.core.render.layers import RenderLayers
from halvex.core.render.work import run_bands, shared_pool
from halvex.core.room import room
from halvex.core.scene.finish import Finish

Array = NDArray[np.float32]
NOTHING = NothingSeen()


@dataclass(frozen=True)
class Picture:
    """A finished picture: sRGB-encoded values in [0, 1] and the linear light it came from, (h, w,
    3), and alpha (h, w) or None.

    With alpha, `display` and `linear` are not premultiplied. `layers` are linear images (h, w) or
    (h, w, 3) by name.
    """

    display: Array
    linear: Array
    alpha: Array | None
    layers: dict[str, Array] | None = None


@dataclass(frozen=True)
class Composed:
    """A picture before it is finished: linear light (h, w, 3), alpha (h, w) or None, and what effects ask for
    (RenderLayers.covers). Effects change its light and alpha where they are."""

    linear: Array
    alpha: Array | None
    covers: Mapping[str, Array]


def display_of(settings: Finish) -> Callable[[Array], Array]:
    """How linear light is displayed, effects aside: exposed, tone-mapped and encoded."""
    return partial(to_display, exposure_stops=settings.exposure, curve=settings.tone)


def composed(layers: RenderLayers, settings: Finish, pool: Executor) -> Composed:
    """Light over the backdrop; or with alpha where the ground's shadow was caught, which is black of as much
    alpha."""
    covers = layers.covers or {}
    if layers.shade is None:
        whole = np.empty_like(layers.light)

        def rows(begin: int, end: int) -> None:
            layers.composed(settings, slice(begin, end), whole[begin:end])

        in_bands(pool, rows, len(whole))
        return Composed(whole, None, covers)
    colour = layers.light + layers.flat * settings.flat_gain
    cover = 1.0 - layers.through.mean(axis=2)
    alpha = np.clip(1.0 - (1.0 - cover) * layers.shade, 0.0, 1.0).astype(np.float32)
    covered = colour / np.maximum(alpha, 1e-4)[..., None]
    linear = np.where(alpha[..., None] > 1e-4, covered, 0.0).astype(np.float32)
    return Composed(linear, alpha, covers)


def finished(
    picture: Composed,
    settings: Finish,
    seen: Seen,
    pool: Executor,
    progress: Callable[[float], None] = lambda share: None,
) -> Picture:
    """The finished picture: with its effects, exposed, tone-mapped and encoded for display, here and nowhere
    else."""
    if not settings.has_effects:
        shown = to_display(picture.linear, settings.exposure, settings.tone)
        return Picture(shown, picture.linear, picture.alpha)
    count, worked = sum(shows(effect) for effect in settings.effects), itertools.count(1)

    def after_each(plate: Plate) -> None:
        plate.settle()
        progress(next(worked) / count)

    plate = _worked_on(picture, settings, seen, pool, room(picture.linear.shape), after_each)
    shown = room(picture.linear.shape)
    plate.show(shown)
    return Picture(shown, picture.linear, plate.alpha)


def _worked_on(
    picture: Composed,
    settings: Finish,
    seen: Seen,
    pool: Executor,
    displayed: Array,
    after_each: Callable[[Plate], None] = lambda plate: None,
) -> Plate:
    """The plate after all effects. What is displayed is kept apart from the light of the scene, or in its
    place."""
    plate = Plate(
        picture.linear, picture.alpha, picture.covers, settings.frame, 2.0**settings.exposure, seen, pool
    )
    seek_covers(plate, settings.effects)
    work_on(plate, settings.effects, ON_LIGHT, after_each)
    plate.turn_into(displayed, partial(map_rows, exposure_stops=settings.exposure, curve=settings.tone))
    work_on(plate, settings.effects, ON_DISPLAY, after_each)
    return plate


def finish(layers: RenderLayers, settings: Finish, seen: Seen = NOTHING) -> Picture:
    """Render layers as a finished picture."""
    return finished(composed(layers, settings, shared_pool()), settings, seen, shared_pool())


def finished_bytes(
    layers: RenderLayers, settings: Finish, seen: Seen, *, pool: Executor
) -> NDArray[np.uint8]:
    """The same over the backdrop, 8 bits a channel (h, w, 3), on all threads of the pool: for live frames."""
    pixels = np.empty(layers.light.shape, np.uint8)
    if settings.has_effects:
        picture = composed(layers, settings, pool)
        plate = _worked_on(picture, settings, seen, pool, picture.linear)
        plate.show(pixels)
        return pixels

    def rows(begin: int, end: int) -> None:
        light = layers.composed(settings, slice(begin, end))
        pixels[begin:end] = to_bytes(light, settings.exposure, settings.tone)

    run_bands(pool, rows, BAND_ROWS, len(layers.light))
    return pixels
