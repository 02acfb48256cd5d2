"""From render layers to a finished picture: over the backdrop or with alpha, exposed and tone-mapped."""

from collections.abc import Callable
from concurrent.futures import Executor
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.tone import to_bytes, to_display
from halvex.core.render.layers import RenderLayers
from halvex.core.render.work import run_bands
from halvex.core.scene.finish import Finish

Array = NDArray[np.float32]

# Rows of a picture that one thread takes at a time.
SHOWN_ROWS = 64


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


def display_of(settings: Finish) -> Callable[[Array], Array]:
    """How linear light is displayed: exposed, tone-mapped and encoded."""
    return partial(to_display, exposure_stops=settings.exposure, curve=settings.tone)


def finish(layers: RenderLayers, settings: Finish) -> Picture:
    """The finished picture: over the backdrop, or with alpha where the ground's shadow was caught, which is
    black of as much alpha; exposed, tone-mapped and encoded for display, here and nowhere else."""
    if layers.shade is None:
        linear = layers.composed(settings)
        return Picture(to_display(linear, settings.exposure, settings.tone), linear, None)
    colour = layers.light + layers.flat * settings.flat_gain
    cover = 1.0 - layers.through.mean(axis=2)
    alpha = np.clip(1.0 - (1.0 - cover) * layers.shade, 0.0, 1.0).astype(np.float32)
    covered = colour / np.maximum(alpha, 1e-4)[..., None]
    linear = np.where(alpha[..., None] > 1e-4, covered, 0.0).astype(np.float32)
    return Picture(to_display(linear, settings.exposure, settings.tone), linear, alpha)


def finished_bytes(layers: RenderLayers, settings: Finish, *, pool: Executor) -> NDArray[np.uint8]:
    """The same over the backdrop, 8 bits a channel (h, w, 3), on all threads of the pool: for live frames."""
    pixels = np.empty(layers.light.shape, np.uint8)

    def rows(begin: int, end: int) -> None:
        light = layers.composed(settings, slice(begin, end))
        pixels[begin:end] = to_bytes(light, settings.exposure, settings.tone)

    run_bands(pool, rows, SHOWN_ROWS, len(layers.light))
    return pixels
