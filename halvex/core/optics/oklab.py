"""OKLab: lightness and colour as they are seen.

Björn Ottosson, A perceptual color space for image processing, 2020; matrices as in CSS Color 4.
"""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from halvex.core.kernels import helper
from halvex.core.optics.vectors import F

Array = NDArray[np.float64]

# From linear sRGB to cones, and from their cube roots to OKLab, each (3, 3).
TO_CONES = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
TO_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
FROM_CONES, FROM_LAB = np.linalg.inv(TO_CONES), np.linalg.inv(TO_LAB)
# The bits of a float32 are nearly its logarithm, times 2^23, over that of 2^-127. Those of one over its cube
# root are these less a third of them: a little fewer than would be right at powers of eight, so that the
# largest error is less.
INVERSE_CUBE_ROOT_BITS = (127 * 4 / 3 - 0.069) * 2**23


def linear_to_oklab(linear: ArrayLike) -> Array:
    """OKLab (..., 3) of linear sRGB (..., 3).

    >>> linear_to_oklab([1.0, 1.0, 1.0]).round(3).tolist()
    [1.0, 0.0, 0.0]
    """
    return np.asarray(np.cbrt(np.asarray(linear, float) @ TO_CONES.T) @ TO_LAB.T)


def oklab_to_linear(lab: ArrayLike) -> Array:
    """Linear sRGB (..., 3) of OKLab (..., 3); outside 0 to 1 where sRGB has no such colour."""
    return np.asarray((np.asarray(lab, float) @ FROM_LAB.T) ** 3 @ FROM_CONES.T)


@helper
def cube_root(v):
    """The cube root of v from 0 to 1, to 3e-7: from one over it, by Householder's method of third order,
    and once more by Newton's. Without a table and without dividing, several are computed at once."""
    v = max(v, F(1e-30))
    over = np.int32(F(INVERSE_CUBE_ROOT_BITS) - F(F(v).view(np.int32)) * F(1.0 / 3.0)).view(np.float32)
    off = F(1.0) - v * over * over * over
    over *= F(1.0) + off * (F(1.0 / 3.0) + off * F(2.0 / 9.0))
    root = v * over * over
    return root + root * F(2.0 / 3.0) * (F(1.0) - root * over)
