"""Cleaning a film with Open Image Denoise, guided by the first surfaces' albedo and normals."""

import numpy as np
import pyoidn
from numpy.typing import NDArray

Array = NDArray[np.float32]


def denoise(colour: Array, albedo: Array, normal: Array, *, quality: str = "high") -> Array:
    """A clean copy of linear light (h, w, 3). `quality`: fast, balanced or high."""
    guides = [np.ascontiguousarray(image, np.float32) for image in (albedo, normal)]
    return np.asarray(pyoidn.denoise(np.ascontiguousarray(colour, np.float32), *guides, hdr=True, quality=quality))


def denoise_plain(image: Array, *, quality: str = "high") -> Array:
    """A clean copy of values in [0, 1] (h, w, 3) that have no guides, such as shadows and coverage."""
    return np.asarray(pyoidn.denoise(np.ascontiguousarray(image, np.float32), hdr=False, quality=quality))
