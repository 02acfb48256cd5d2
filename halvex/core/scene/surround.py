"""Surroundings: the light from everywhere that is no lamp, as a picture of all directions.

The picture is latitude-longitude, y up, its middle towards the viewer (+z), with the tables to sample
directions in proportion to its light and with blurred copies for the draft (surroundings.py makes them).
"""

import math
from typing import NamedTuple

import numpy as np

from halvex.core.kernels import helper, kernel, routine
from halvex.core.optics.material import COAT_INDEX
from halvex.core.optics.microfacet import fresnel_dielectric, sample_visible_normal
from halvex.core.optics.vectors import (
    F,
    along,
    arc_tangent,
    basis,
    cosine_and_sine,
    floor,
    normalise,
    row3,
    to_world,
)

BLUR_HEIGHT, BLUR_WIDTH = 32, 64
# The last two are blurred by the cosine, for matte surfaces, and by how much of that a coat lets in.
BLUR_LEVELS = 9
MATTE_LEVEL, COATED_LEVEL = BLUR_LEVELS - 2, BLUR_LEVELS - 1
ROUGHEST_LEVEL = MATTE_LEVEL - 1
BLUR_SAMPLES = 64


class LightTables(NamedTuple):
    """Tables to sample directions from. rows (t, h + 1) and columns (t, h, w + 1): cumulative light of the
    blocks of a picture; row_guide (t, h) and column_guide (t, h, w): the block at equal steps of it, where a
    search begins. The first are of all light, the others of what of it reaches surfaces of normals (t, 3) in
    the world."""

    rows: np.ndarray
    columns: np.ndarray
    row_guide: np.ndarray
    column_guide: np.ndarray
    normals: np.ndarray


class Surround(NamedTuple):
    """image (H, W, 3) radiance at 0 stops; tables to sample it; blocks (h, w, 3): means of the image over the
    tables' blocks; blurred (levels, BLUR_HEIGHT, BLUR_WIDTH, 3); sent: what reaches a surface at 0 stops, the
    mean over all directions it may face; level: what its strength makes of it; turn: how far it is turned
    about the upright, as a share of a full turn."""

    image: np.ndarray
    tables: LightTables
    blocks: np.ndarray
    blurred: np.ndarray
    sent: np.float32
    level: np.float32
    turn: np.float32


@helper
def to_uv(d):
    """Picture coordinates in [0, 1) of a direction."""
    u = arc_tangent(d[0], d[2]) * F(0.15915494) + F(0.5)
    v = arc_tangent(math.sqrt(d[0] * d[0] + d[2] * d[2]), d[1]) * F(0.31830989)
    return u, v


@helper
def from_uv(u, v):
    """(direction, sine of its angle from the pole)."""
    c, s = cosine_and_sine(u - F(0.5))
    up, out = cosine_and_sine(F(0.5) * v)
    return (out * s, up, out * c), out


@helper
def lookup(image, d):
    """Bilinear radiance (rgb) of a latitude-longitude picture (H, W, 3) in a direction."""
    u, v = to_uv(d)
    return lookup_uv(image, u, v)


@routine
def lookup_uv(image, u, v):
    """Bilinear radiance (rgb) of a picture (H, W, 3) at coordinates in [0, 1)."""
    h, w = image.shape[0], image.shape[1]
    x = u * F(w) - F(0.5)
    y = min(max(v * F(h) - F(0.5), F(0.0)), F(h - 1))
    x0 = floor(x)
    fx = x - F(x0)
    y0 = min(int(y), h - 2)
    fy = y - F(y0)
    xa = x0 if x0 >= 0 else w - 1
    xb = x0 + 1 if x0 + 1 < w else 0
    a, b = (F(1.0) - fx) * (F(1.0) - fy), fx * (F(1.0) - fy)
    c, e = (F(1.0) - fx) * fy, fx * fy
    return (
        a * image[y0, xa, 0] + b * image[y0, xb, 0] + c * image[y0 + 1, xa, 0] + e * image[y0 + 1, xb, 0],
        a * image[y0, xa, 1] + b * image[y0, xb, 1] + c * image[y0 + 1, xa, 1] + e * image[y0 + 1, xb, 1],
        a * image[y0, xa, 2] + b * image[y0, xb, 2] + c * image[y0 + 1, xa, 2] + e * image[y0 + 1, xb, 2],
    )


@kernel
def blur(image, blurred, first, last):
    """Fill copies first..last-1 of a picture (H, W, 3), blurred as ever rougher surfaces mirror it."""
    height, width = blurred.shape[1], blurred.shape[2]
    for level in range(first, last):
        root_alpha = F(level) / F(ROUGHEST_LEVEL)
        alpha = max(root_alpha * root_alpha, F(1e-3))
        for y in range(height):
            for x in range(width):
                n, _ = from_uv((F(x) + F(0.5)) / F(width), (F(y) + F(0.5)) / F(height))
                s, t = basis(n)
                r, g, b, total = F(0.0), F(0.0), F(0.0), F(0.0)
                for i in range(BLUR_SAMPLES):
                    u1 = (F(i) + F(0.5)) / F(BLUR_SAMPLES)
                    u2 = (F(i) * F(0.61803399)) % F(1.0)
                    m = sample_visible_normal((F(0.0), F(0.0), F(1.0)), alpha, alpha, u2, u1)
                    wi = (F(2.0) * m[2] * m[0], F(2.0) * m[2] * m[1], F(2.0) * m[2] * m[2] - F(1.0))
                    if wi[2] > F(0.0):
                        c = lookup(image, normalise(to_world(wi, s, t, n)))
                        r += c[0] * wi[2]
                        g += c[1] * wi[2]
                        b += c[2] * wi[2]
                        total += wi[2]
                blurred[level, y, x, 0] = r / total
                blurred[level, y, x, 1] = g / total
                blurred[level, y, x, 2] = b / total


@kernel
def blur_evenly(image, directions, matte, coated):
    """Fill the copies for matte surfaces, matte and coated, from a picture (h, w, 3) of which directions (h,
    w, 4) are those of its pixels and how large these are: each is a sum over all pixels, as few bright ones
    may hold most of the light."""
    height, width = matte.shape[0], matte.shape[1]
    for y in range(height):
        for x in range(width):
            n, _ = from_uv((F(x) + F(0.5)) / F(width), (F(y) + F(0.5)) / F(height))
            plain, below, total, let_in = (F(0.0), F(0.0), F(0.0)), (F(0.0), F(0.0), F(0.0)), F(0.0), F(0.0)
            for j in range(image.shape[0]):
                for i in range(image.shape[1]):
                    d = directions[j, i]
                    cosine = d[0] * n[0] + d[1] * n[1] + d[2] * n[2]
                    if cosine > F(0.0):
                        weight = cosine * d[3]
                        through = weight * (F(1.0) - fresnel_dielectric(cosine, F(COAT_INDEX))[0])
                        light = row3(image[j], i)
                        plain, below = along(plain, light, weight), along(below, light, through)
                        total, let_in = total + weight, let_in + through
            for c in range(3):
                matte[y, x, c], coated[y, x, c] = plain[c] / total, below[c] / let_in


@helper
def _turned(surround, d):
    """Direction d in the surround's own frame."""
    if surround.turn == F(0.0):
        return d
    c, s = cosine_and_sine(surround.turn)
    return (c * d[0] - s * d[2], d[1], s * d[0] + c * d[2])


@helper
def unturned(surround, d):
    """Direction d of the surround's own frame in the world."""
    if surround.turn == F(0.0):
        return d
    c, s = cosine_and_sine(surround.turn)
    return (c * d[0] + s * d[2], d[1], c * d[2] - s * d[0])


@helper
def radiance_from(surround, d):
    """Radiance (rgb) at 0 stops from direction d."""
    return lookup(surround.image, _turned(surround, d))


@helper
def own_uv(surround, d):
    """Coordinates of direction d in the surround's picture."""
    return to_uv(_turned(surround, d))


@routine
def blurred_lookup(surround, d, alpha):
    """Radiance from about d as a surface of this alpha mirrors it, between two blurred copies;
    strength included."""
    u, v = own_uv(surround, d)
    last = ROUGHEST_LEVEL
    x = min(math.sqrt(max(alpha, F(0.0))), F(1.0)) * F(last)
    i = min(int(x), last - 1)
    f = x - F(i)
    k = surround.level
    a = lookup_uv(surround.image, u, v) if i == 0 and f < F(0.5) else lookup_uv(surround.blurred[i], u, v)
    if f == F(0.0):
        return (a[0] * k, a[1] * k, a[2] * k)
    b = lookup_uv(surround.blurred[i + 1], u, v)
    return ((a[0] + (b[0] - a[0]) * f) * k, (a[1] + (b[1] - a[1]) * f) * k, (a[2] + (b[2] - a[2]) * f) * k)


@helper
def matte_lookup(surround, n):
    """Mean radiance over the hemisphere about n, weighted by the cosine; strength included."""
    c = lookup(surround.blurred[MATTE_LEVEL], _turned(surround, n))
    return (c[0] * surround.level, c[1] * surround.level, c[2] * surround.level)


@helper
def coated_lookup(surround, n):
    """The same weighted by how much of it a clear coat lets in, too: less of what comes from low above it."""
    c = lookup(surround.blurred[COATED_LEVEL], _turned(surround, n))
    return (c[0] * surround.level, c[1] * surround.level, c[2] * surround.level)
