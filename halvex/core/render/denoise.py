"""Denoising a film with Open Image Denoise, guided by the primary hits' albedo and normals.

The library needs half a kilobyte for a pixel, so large images are denoised in strips that overlap by
more than it looks around. Beyond an image it sees black, which would dirty the outermost px; so images are
continued, mirrored, beyond their edges.
"""

from collections.abc import Callable

import numpy as np
import pyoidn
from numpy.typing import NDArray

LARGEST_STRIP_PX = 1_000_000
OVERLAP_PX = 64
FADE_PX = 32
# So many px beyond an edge are enough; of 64 the outermost are no cleaner.
MARGIN_PX = 8

Array = NDArray[np.float32]


def denoise(
    colour: Array,
    albedo: Array | None = None,
    normal: Array | None = None,
    *,
    quality: str = "high",
    margin: int = MARGIN_PX,
) -> Array:
    """A clean copy of linear light (h, w, 3), guided by albedo and normals or by itself. `quality`: fast,
    balanced or high; margin: how many px are added beyond each edge."""
    guides = () if albedo is None or normal is None else (albedo, normal)
    return _in_strips(
        lambda *images: pyoidn.denoise(*images, hdr=True, quality=quality), margin, colour, *guides
    )


def denoise_plain(image: Array, *, quality: str = "high") -> Array:
    """A clean copy of values in [0, 1] (h, w, 3) that have no guides, such as shadows and coverage."""
    return _in_strips(lambda *images: pyoidn.denoise(*images, hdr=False, quality=quality), MARGIN_PX, image)


def _in_strips(clean: Callable[..., Array], margin: int, *images: Array) -> Array:
    """The first of the images denoised, in strips across its longer side, each with a margin about it."""
    height, width = images[0].shape[:2]
    axis = 0 if height > width else 1
    long, short = max(height, width), min(height, width)
    step = max(LARGEST_STRIP_PX // short - 2 * OVERLAP_PX, OVERLAP_PX)
    if height * width <= LARGEST_STRIP_PX:
        step = long
    whole = np.zeros(images[0].shape, np.float32)
    for begin in range(0, long, step):
        end = min(begin + step, long)
        first, last = max(begin - OVERLAP_PX, 0), min(end + OVERLAP_PX, long)
        part: list[slice] = [slice(None), slice(None)]
        part[axis] = slice(first, last)
        about = ((margin, margin), (margin, margin), (0, 0))
        padded = (np.pad(np.asarray(image[tuple(part)], np.float32), about, "symmetric") for image in images)
        denoised = clean(*padded)[margin : -margin or None, margin : -margin or None]
        # Neighbours fade into each other: the library takes each strip's own brightness as its scale.
        place = np.arange(first, last, dtype=np.float32) + 0.5
        weight = np.ones(last - first, np.float32)
        if begin > 0:
            weight *= np.clip((place - begin) / (2 * FADE_PX) + 0.5, 0, 1)
        if end < long:
            weight *= np.clip((end - place) / (2 * FADE_PX) + 0.5, 0, 1)
        whole[tuple(part)] += denoised * (weight[:, None, None] if axis == 0 else weight[None, :, None])
    return whole
