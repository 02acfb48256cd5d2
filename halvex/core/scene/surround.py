"""Surroundings: the light from everywhere that is no lamp, as a picture of all directions.

The picture is latitude-longitude, y up, its middle towards the viewer (+z). It is drawn from a few
numbers, and comes with the tables to sample directions in proportion to its light, and with blurred
copies for the draft.
"""

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.material import cosine_sample
from halvex.core.optics.microfacet import sample_visible_normal
from halvex.core.optics.vectors import F, basis, helper, kernel, normalise, to_world

HEIGHT, WIDTH = 128, 256
BLUR_HEIGHT, BLUR_WIDTH = 32, 64
BLUR_LEVELS = 8  # the last one is blurred by the cosine, for matte surfaces
BLUR_SAMPLES = 64


class Surround(NamedTuple):
    """image (H, W, 3) radiance; rows (H + 1,) and columns (H, W + 1) cumulative light; blurred (levels, h, w, 3)."""

    image: np.ndarray
    rows: np.ndarray
    columns: np.ndarray
    blurred: np.ndarray


@lru_cache(maxsize=32)
def make_surround(kind: str, strength: float) -> Surround:
    """The surround `studio` or `plain` at a strength in stops."""
    level = 2.0**strength
    return surround_of((_studio() if kind == "studio" else np.ones((HEIGHT, WIDTH, 3))) * level)


def surround_of(picture: NDArray[np.float64]) -> Surround:
    """Tables for a latitude-longitude picture (H, W, 3) of linear radiance."""
    image = np.ascontiguousarray(picture, np.float32)
    height = image.shape[0]
    latitude = np.sin((np.arange(height) + 0.5) / height * math.pi)
    light = (image.mean(axis=2) + 1e-6) * latitude[:, None]
    columns = np.concatenate([np.zeros((height, 1)), np.cumsum(light, axis=1)], axis=1)
    rows = np.concatenate([[0.0], np.cumsum(columns[:, -1])])
    columns /= columns[:, -1:]
    blurred = np.empty((BLUR_LEVELS, BLUR_HEIGHT, BLUR_WIDTH, 3), np.float32)
    _blur(image, blurred)
    return Surround(image, (rows / rows[-1]).astype(np.float32), columns.astype(np.float32), blurred)


def _studio() -> NDArray[np.float64]:
    """A soft gradient from floor to ceiling, a large card above, a strip at either side."""
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH]
    elevation = 90 - (y + 0.5) / HEIGHT * 180
    azimuth = (x + 0.5) / WIDTH * 360 - 180
    base = 0.10 + 0.42 * _ease((elevation + 35) / 110)
    behind = _ease((np.abs(azimuth) - 80) / 80)
    light = base * (1 - 0.6 * behind)
    light = light + 1.9 * _card(azimuth, 0, 70, 25) * _card(elevation, 62, 16, 10)
    light = light + 1.3 * _card(azimuth, -68, 9, 8) * _card(elevation, 18, 34, 14)
    light = light + 0.9 * _card(azimuth, 72, 7, 8) * _card(elevation, 12, 30, 14)
    cool_to_warm = np.array([1.02, 1.0, 0.97]) - (elevation[..., None] / 90) * np.array([0.03, 0.0, -0.05])
    return np.asarray(light[..., None] * cool_to_warm)


def _ease(t: NDArray[np.float64]) -> NDArray[np.float64]:
    t = np.clip(t, 0, 1)
    return t * t * (3 - 2 * t)


def _card(angle: NDArray[np.float64], middle: float, half: float, soft: float) -> NDArray[np.float64]:
    return 1 - _ease((np.abs(angle - middle) - half) / soft)


@helper
def to_uv(d):
    """Picture coordinates in [0, 1) of a direction."""
    u = math.atan2(d[0], d[2]) * F(0.15915494) + F(0.5)
    v = math.acos(min(max(d[1], F(-1.0)), F(1.0))) * F(0.31830989)
    return u, v


@helper
def from_uv(u, v):
    """(direction, sine of its angle from the pole)."""
    phi = (u - F(0.5)) * F(2.0 * math.pi)
    theta = v * F(math.pi)
    s = math.sin(theta)
    return (s * math.sin(phi), math.cos(theta), s * math.cos(phi)), s


@kernel
def lookup(image, d):
    """Bilinear radiance (rgb) of a latitude-longitude picture (H, W, 3) in a direction."""
    h, w = image.shape[0], image.shape[1]
    u, v = to_uv(d)
    x = u * F(w) - F(0.5)
    y = min(max(v * F(h) - F(0.5), F(0.0)), F(h - 1))
    x0 = math.floor(x)
    fx = x - F(x0)
    y0 = min(int(y), h - 2)
    fy = y - F(y0)
    xa, xb = x0 % w, (x0 + 1) % w
    a, b = (F(1.0) - fx) * (F(1.0) - fy), fx * (F(1.0) - fy)
    c, e = (F(1.0) - fx) * fy, fx * fy
    return (
        a * image[y0, xa, 0] + b * image[y0, xb, 0] + c * image[y0 + 1, xa, 0] + e * image[y0 + 1, xb, 0],
        a * image[y0, xa, 1] + b * image[y0, xb, 1] + c * image[y0 + 1, xa, 1] + e * image[y0 + 1, xb, 1],
        a * image[y0, xa, 2] + b * image[y0, xb, 2] + c * image[y0 + 1, xa, 2] + e * image[y0 + 1, xb, 2],
    )


def blur_alpha(level: int) -> float:
    """The GGX alpha that a blurred copy stands for."""
    return (level / (BLUR_LEVELS - 2)) ** 2


@kernel
def _blur(image, blurred):
    levels, height, width = blurred.shape[0], blurred.shape[1], blurred.shape[2]
    for level in range(levels):
        root_alpha = F(level) / F(levels - 2)
        alpha = max(root_alpha * root_alpha, F(1e-3))
        for y in range(height):
            for x in range(width):
                n, _ = from_uv((F(x) + F(0.5)) / F(width), (F(y) + F(0.5)) / F(height))
                s, t = basis(n)
                r, g, b, total = F(0.0), F(0.0), F(0.0), F(0.0)
                for i in range(BLUR_SAMPLES):
                    u1 = (F(i) + F(0.5)) / F(BLUR_SAMPLES)
                    u2 = (F(i) * F(0.61803399)) % F(1.0)
                    if level == levels - 1:
                        wi = cosine_sample(u1, u2)
                    else:
                        m = sample_visible_normal((F(0.0), F(0.0), F(1.0)), alpha, u2, u1)
                        wi = (F(2.0) * m[2] * m[0], F(2.0) * m[2] * m[1], F(2.0) * m[2] * m[2] - F(1.0))
                    if wi[2] > F(0.0):
                        c = lookup(image, normalise(to_world(wi, s, t, n)))
                        weight = F(1.0) if level == levels - 1 else wi[2]
                        r += c[0] * weight
                        g += c[1] * weight
                        b += c[2] * weight
                        total += weight
                blurred[level, y, x, 0] = r / total
                blurred[level, y, x, 1] = g / total
                blurred[level, y, x, 2] = b / total


@kernel
def blurred_lookup(surround, d, alpha):
    """Radiance from about d as a surface of this alpha mirrors it, between two blurred copies."""
    last = surround.blurred.shape[0] - 2
    x = min(math.sqrt(max(alpha, F(0.0))), F(1.0)) * F(last)
    i = min(int(x), last - 1)
    f = x - F(i)
    a = lookup(surround.image, d) if i == 0 and f < F(0.5) else lookup(surround.blurred[i], d)
    b = lookup(surround.blurred[i + 1], d)
    return (a[0] + (b[0] - a[0]) * f, a[1] + (b[1] - a[1]) * f, a[2] + (b[2] - a[2]) * f)


@helper
def matte_lookup(surround, n):
    """Mean radiance over the hemisphere about n, weighted by the cosine."""
    return lookup(surround.blurred[surround.blurred.shape[0] - 1], n)
