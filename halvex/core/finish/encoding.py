"""Encoding and decoding of sRGB by tables, for what is done to every pixel of a picture."""

from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import helper
from halvex.core.optics.colour import linear_to_srgb, srgb_to_linear
from halvex.core.optics.vectors import F

# Entries of the tables: finer than a 16-bit step of sRGB everywhere; decoding goes between two entries.
ENCODING_STEPS, DECODING_STEPS = 1 << 16, 1 << 12


class Tables(NamedTuple):
    """encoding (ENCODING_STEPS + 1,): the sRGB values of linear light; decoding (DECODING_STEPS + 2,): the
    linear light of sRGB values."""

    encoding: NDArray[np.float32]
    decoding: NDArray[np.float32]


@lru_cache(maxsize=1)
def tables() -> Tables:
    """The tables, made once."""
    return Tables(
        linear_to_srgb(np.arange(ENCODING_STEPS + 1) / ENCODING_STEPS).astype(np.float32),
        srgb_to_linear(np.arange(DECODING_STEPS + 2) / DECODING_STEPS).astype(np.float32),
    )


@lru_cache(maxsize=1)
def encoding_in_bytes() -> NDArray[np.uint8]:
    """The encoding with 8 bits."""
    return (tables().encoding * np.float32(255.0) + np.float32(0.5)).astype(np.uint8)


@helper
def encoded_by(table, value):
    """The table's entry for a value from 0 to 1; what lies outside is taken as the nearer end, NaN as 0, as
    the table must not be read beside."""
    value = min(value, F(1.0)) if value > F(0.0) else F(0.0)
    return table[np.uintp(np.int32(value * F(ENCODING_STEPS) + F(0.5)))]


@helper
def looked_up(table, value):
    """What a table over 0 to 1, its last entry twice, holds for a value, on a line between two of its
    entries; what lies outside is taken as the nearer end, NaN as 0."""
    place = (min(value, F(1.0)) if value > F(0.0) else F(0.0)) * F(table.shape[0] - 2)
    at = np.int32(place)
    low = table[np.uintp(at)]
    return low + (place - F(at)) * (table[np.uintp(at + 1)] - low)
