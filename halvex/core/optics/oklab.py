"""OKLab: lightness and colour as they are seen.

Björn Ottosson, A perceptual color space for image processing, 2020; matrices as in CSS Color 4.
"""

import math

import numpy as np
from numpy.typing import ArrayLike, NDArray

from halvex.core.kernels import helper
from halvex.core.optics.vectors import F

Array = NDArray[np.float64]

_TO_CONES = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_TO_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
_FROM_CONES, _FROM_LAB = np.linalg.inv(_TO_CONES), np.linalg.inv(_TO_LAB)


def linear_to_oklab(linear: ArrayLike) -> Array:
    """OKLab (..., 3) of linear sRGB (..., 3).

    >>> linear_to_oklab([1.0, 1.0, 1.0]).round(3).tolist()
    [1.0, 0.0, 0.0]
    """
    return np.asarray(np.cbrt(np.asarray(linear, float) @ _TO_CONES.T) @ _TO_LAB.T)


def oklab_to_linear(lab: ArrayLike) -> Array:
    """Linear sRGB (..., 3) of OKLab (..., 3); outside 0 to 1 where sRGB has no such colour."""
    return np.asarray((np.asarray(lab, float) @ _FROM_LAB.T) ** 3 @ _FROM_CONES.T)


@helper
def hue_turned(r, g, b, c, s):
    """Linear sRGB (r, g, b), within 0 to 1, its hue in OKLab turned by the angle of cosine c and sine s."""
    k = _cube_root(F(0.4122214708) * r + F(0.5363325363) * g + F(0.0514459929) * b)
    m = _cube_root(F(0.2119034982) * r + F(0.6806995451) * g + F(0.1073969566) * b)
    n = _cube_root(F(0.0883024619) * r + F(0.2817188376) * g + F(0.6299787005) * b)
    lightness = F(0.2104542553) * k + F(0.7936177850) * m - F(0.0040720468) * n
    p = F(1.9779984951) * k - F(2.4285922050) * m + F(0.4505937099) * n
    q = F(0.0259040371) * k + F(0.7827717662) * m - F(0.8086757660) * n
    p, q = p * c - q * s, p * s + q * c
    # The inverse matrices of the same page.
    k = _cubed(lightness + F(0.3963377774) * p + F(0.2158037573) * q)
    m = _cubed(lightness - F(0.1055613458) * p - F(0.0638541728) * q)
    n = _cubed(lightness - F(0.0894841775) * p - F(1.2914855480) * q)
    return (
        _clipped(F(4.0767416621) * k - F(3.3077115913) * m + F(0.2309699292) * n),
        _clipped(F(-1.2684380046) * k + F(2.6097574011) * m - F(0.3413193965) * n),
        _clipped(F(-0.0041960863) * k - F(0.7034186147) * m + F(1.7076147010) * n),
    )


@helper
def _cube_root(v):
    return math.exp(math.log(v) * F(1.0 / 3.0)) if v > F(0.0) else F(0.0)


@helper
def _cubed(v):
    return v * v * v


@helper
def _clipped(v):
    return min(max(v, F(0.0)), F(1.0))
