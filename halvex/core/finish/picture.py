"""From a film to a finished picture: clean, over the backdrop or with alpha, exposed and tone-mapped."""

from concurrent.futures import Executor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.tone import to_bytes, to_display
from halvex.core.render.denoise import denoise, denoise_plain
from halvex.core.render.film import Film
from halvex.core.render.work import run_bands

Array = NDArray[np.float32]

# Light so weak that its change is not told apart from noise.
DARKEST = np.float32(1e-4)
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


def relit(cleaned: Array, film: Film, before: Array, after: Array, backdrop: Array) -> Array:
    """Linear light (h, w, 3) of a cleaned picture with its lights changed from levels `before` to
    `after`, at once.

    Cleaning again would take its time. The same samples lit both ways tell the change instead: their
    noise is the same above and below the line and all but cancels.
    """
    behind = film.through * backdrop
    old, new = film.develop(before) + behind, film.develop(after) + behind
    return np.asarray(cleaned * ((new + DARKEST) / (old + DARKEST)), np.float32)


def shown(linear: Array, exposure: float, *, pool: Executor) -> NDArray[np.uint8]:
    """8-bit sRGB (h, w, 3) of linear light at an exposure, on all threads of the pool."""
    pixels = np.empty(linear.shape, np.uint8)

    def rows(begin: int, end: int) -> None:
        pixels[begin:end] = to_bytes(linear[begin:end], exposure)

    run_bands(pool, rows, SHOWN_ROWS, len(linear))
    return pixels


def finish_film(
    film: Film,
    levels: Array,
    backdrop: Array,
    exposure: float,
    *,
    transparent: bool,
    clean: str | None,
    pool: Executor,
) -> Picture:
    """Finish a film, each light at its level, over linear backdrop light (3,); `clean` is the
    denoiser's quality or None.

    Transparent pictures leave the backdrop out. Its caught shadow is black of as much alpha.
    """
    if not transparent:
        seen = film.guided(levels, backdrop, pool)
        linear = denoise(*seen, quality=clean) if clean else seen.light
        return Picture(to_display(linear, exposure), linear, None)
    colour = film.develop(levels)
    cover = np.stack([1.0 - film.through.mean(axis=2), film.shade, np.zeros_like(film.shade)], axis=2)
    if clean:
        colour = denoise(colour, film.albedo, film.normal, quality=clean)
        # Coverage is clean already wherever it is whole; only shadows and glass carry noise.
        cover = np.where(
            np.isin(cover, (0.0, 1.0)), cover, denoise_plain(np.clip(cover, 0, 1), quality=clean)
        )
    alpha = np.clip(1.0 - (1.0 - cover[..., 0]) * cover[..., 1], 0.0, 1.0).astype(np.float32)
    linear = np.where(alpha[..., None] > 1e-4, colour / np.maximum(alpha, 1e-4)[..., None], 0.0).astype(
        np.float32
    )
    return Picture(to_display(linear, exposure), linear, alpha)
