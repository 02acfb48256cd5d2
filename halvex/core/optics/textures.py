"""Textures by rule: seeded colour and relief of stone, wood, plaster and paper, and painted patterns.

A texture maps a point of the lettering's own frame to a share of the second colour and a height. It
fills space, so that a letter is cut out of one block and nothing has to be unwrapped; turning the
lettering turns it along. Heights are in grains, so relief looks alike at any scale.

To add one: write its function, name it in TEXTURES and in `_pattern`.
"""

import math
from collections.abc import Callable

import numpy as np
from numba import types
from numba.extending import intrinsic
from numpy.typing import NDArray

from halvex.core.kernels import helper, routine
from halvex.core.optics.eight import LANES, Floats, Wholes
from halvex.core.optics.vectors import F, dot, floor, normalise
from halvex.core.piece.material import InnerLayer, Plaster, Stone, Wood
from halvex.core.piece.source import Layered
from halvex.core.piece.varying import Varied, ends_of

TEXTURES = (
    "none",
    "granite",
    "marble",
    "slate",
    "sandstone",
    "wood",
    "plaster",
    "paper",
    "stripes",
    "dots",
    "checks",
)
NO_TEXTURE, GRANITE, MARBLE, SLATE, SANDSTONE, WOOD, PLASTER, PAPER, STRIPES, DOTS, CHECKS = range(
    len(TEXTURES)
)

# Columns of a texture, from the material's FIRST_TEXTURE on.
SECOND, SCALE, RELIEF, SEED, ALONG_X, ALONG_Y = 0, 3, 4, 5, 6, 7
TEXTURE_COLUMNS = 8
# Step over which a slope is taken, in grains.
_SLOPE_STEP = F(0.06)
# Farther off, in grains, numbers in single precision have no fractions left: textures end there.
_FARTHEST = F(2.0**22)
# Added to the seed of granite for its clouds, which are also its relief.
GRANITE_CLOUD = 29


def texture_row(
    material: Plaster | InnerLayer | Stone | Wood, linear: Callable[[str | Layered], NDArray[np.float64]]
) -> tuple[int, list[float]]:
    """(texture, its TEXTURE_COLUMNS numbers) of a material; `linear` reads its second colour."""
    match material:
        case Stone():
            return TEXTURES.index(material.stone), _row(
                linear(material.second), material.grain, material.relief, material.seed, 0.0
            )
        case Wood():
            return WOOD, _row(
                linear(material.second),
                material.grain,
                material.relief,
                material.seed,
                material.grain_bearing,
            )
        case Plaster():
            return TEXTURES.index(material.texture), _row(
                linear(material.colour), material.grain, material.relief, material.seed, 0.0
            )
        case InnerLayer():
            kind = NO_TEXTURE if material.pattern == "plain" else TEXTURES.index(material.pattern)
            return kind, _row(linear(material.second), material.size, 0.0, 0, material.bearing)


def _row(
    second: NDArray[np.float64], grain: float, relief: float | Varied, seed: int, bearing: float
) -> list[float]:
    angle = math.radians(bearing)
    # What differs from place to place is found there.
    height, _ = ends_of(relief)
    return [*(float(c) for c in second), 1.0 / grain, height, float(seed), math.cos(angle), math.sin(angle)]


def hashed(x, y, z, seed):
    """24 well-mixed bits of a lattice point, whole numbers modulo 2^32."""
    h = x * 0x8DA6B343 ^ y * 0xD8163841 ^ z * 0xCB1AB31F ^ seed * 0x165667B1
    h = (h ^ h >> 15) * 0x2C1B3C6D
    h = (h ^ h >> 12) * 0x297A2D39
    return h ^ h >> 15


@intrinsic
def _lattice_slopes(typing, x, y, z, seed, fx, fy, fz, u, v, w):
    """The sum over the corners of a lattice cell of gradient times offset times weight (u, v, w
    towards the further ones).

    Gradients are the twelve edges of a cube, as in improved Perlin noise (SIGGRAPH 2002).
    """

    def build(context, builder, signature, arguments):
        x, y, z, seed = (
            Wholes.of(builder, context.cast(builder, value, kind, types.int32))
            for value, kind in zip(arguments[:4], signature.args[:4], strict=True)
        )
        fx, fy, fz, u, v, w = (Floats.of(builder, value) for value in arguments[4:])
        corners = [[corner >> axis & 1 for corner in range(LANES)] for axis in range(3)]
        dx, dy, dz = (Wholes.row(builder, corner) for corner in corners)
        ox, oy, oz = (
            f - Floats.row(builder, corner) for f, corner in zip((fx, fy, fz), corners, strict=True)
        )
        # A further corner has the weight itself, a nearer one what is left of 1.
        weight = None
        for share, corner in zip((u, v, w), corners, strict=True):
            one = share * Floats.row(builder, [2 * far - 1 for far in corner]) + Floats.row(
                builder, [1 - far for far in corner]
            )
            weight = one if weight is None else weight * one
        h = hashed(x + dx, y + dy, z + dz, seed) & 15
        a = ox.where(h.below(8), oy)
        b = oy.where(h.below(4), ox.where((h | 2).equal(14), oz))
        a = a.where((h & 1).equal(0), a * -1.0)
        b = b.where((h & 2).equal(0), b * -1.0)
        return ((a + b) * weight).total()

    return types.float32(x, y, z, seed, fx, fy, fz, u, v, w), build


@helper
def noise(x, y, z, seed):
    """Smooth noise of mean 0, about -1 to 1; features one unit wide."""
    xf, yf, zf = floor(x), floor(y), floor(z)
    fx, fy, fz = x - F(xf), y - F(yf), z - F(zf)
    u = fx * fx * fx * (fx * (fx * F(6.0) - F(15.0)) + F(10.0))
    v = fy * fy * fy * (fy * (fy * F(6.0) - F(15.0)) + F(10.0))
    w = fz * fz * fz * (fz * (fz * F(6.0) - F(15.0)) + F(10.0))
    return _lattice_slopes(xf, yf, zf, seed, fx, fy, fz, u, v, w)


@routine
def _cloud(x, y, z, seed, octaves):
    """Noise over noise, each octave half as large and half as strong."""
    total, size, strength = F(0.0), F(1.0), F(0.5)
    for octave in range(octaves):
        total += strength * noise(x * size, y * size, z * size, seed + octave * 71)
        size *= F(2.03)
        strength *= F(0.5)
    return total


@helper
def _step(low, high, x):
    t = min(max((x - low) / (high - low), F(0.0)), F(1.0))
    return t * t * (F(3.0) - F(2.0) * t)


@helper
def _granite(x, y, z, seed):
    dark = _step(F(0.02), F(0.22), noise(x * F(1.7), y * F(1.7), z * F(1.7), seed))
    speck = _step(F(0.12), F(0.3), noise(x * F(4.1), y * F(4.1), z * F(4.1), seed + 13))
    cloud = _cloud(x, y, z, seed + GRANITE_CLOUD, 3)
    return min(F(0.75) * dark + F(0.45) * speck + F(0.25) * max(cloud, F(0.0)), F(1.0)), F(0.35) * cloud


@helper
def _marble(x, y, z, seed):
    bend = _cloud(x * F(0.35), y * F(0.35), z * F(0.35), seed, 4)
    vein = abs(math.sin(F(1.1) * x * F(0.35) + F(0.7) * y * F(0.35) + F(7.0) * bend))
    fine = abs(noise(x * F(0.8) + F(3.0) * bend, y * F(0.8), z * F(0.8), seed + 5))
    k = F(1.0) - vein
    return min(
        k * k * k * F(0.85) + F(0.5) * (F(1.0) - _step(F(0.0), F(0.08), fine)) * _step(F(0.0), F(0.3), bend),
        F(1.0),
    ), F(0.0)


@helper
def _slate(x, y, z, seed):
    cloud = _cloud(x * F(0.3), y * F(0.9), z * F(0.9), seed, 4)
    split = noise(x * F(0.5), y * F(3.0), z * F(3.0), seed + 9)
    return min(max(F(0.5) + F(0.9) * cloud, F(0.0)), F(1.0)), F(0.5) * cloud + F(0.12) * split


@helper
def _sandstone(x, y, z, seed):
    band = noise(
        F(0.05) * x,
        F(0.45) * y + F(0.6) * noise(x * F(0.1), y * F(0.1), z * F(0.1), seed + 3),
        F(0.05) * z,
        seed,
    )
    sand = noise(x * F(5.0), y * F(5.0), z * F(5.0), seed + 21)
    return min(max(F(0.4) + F(0.6) * band + F(0.35) * sand, F(0.0)), F(1.0)), F(0.3) * sand + F(0.2) * band


@helper
def _wood(x, y, z, along_x, along_y, seed):
    """Rings around a trunk far behind the face, so that they run as long flames over it, and fibres
    along it."""
    along, across = x * along_x + y * along_y, y * along_x - x * along_y
    warp = noise(along * F(0.025), across * F(0.12), z * F(0.12), seed)
    r = (
        math.sqrt(F(0.35) * (across + F(3.0)) * (across + F(3.0)) + (z + F(9.0)) * (z + F(9.0)))
        + F(1.8) * warp
    )
    ring = r - F(floor(r))
    # Early wood darkens slowly, late wood ends at once.
    late = ring * ring * ring * _step(F(1.0), F(0.9), ring)
    fibre = noise(along * F(0.12), across * F(3.5), z * F(3.5), seed + 7)
    pore = _step(F(0.25), F(0.5), noise(along * F(0.3), across * F(6.0), z * F(6.0), seed + 17))
    share = F(1.1) * late + F(0.28) * fibre + F(0.12) + F(0.3) * pore
    return min(max(share, F(0.0)), F(1.0)), F(0.12) * fibre + F(0.15) * late - F(0.12) * pore


@helper
def _paper(x, y, z, seed):
    """Fibres that lie every way."""
    a = noise(x * F(0.7) + y * F(0.5), y * F(4.0) - x * F(3.0), z * F(2.0), seed)
    b = noise(x * F(3.2) + y * F(3.2), y * F(0.6) - x * F(0.6), z * F(2.0), seed + 3)
    return F(0.0), F(0.22) * a + F(0.22) * b + F(0.08) * noise(x * F(7.0), y * F(7.0), z * F(7.0), seed + 5)


@routine
def _pattern(texture, x, y, z, along_x, along_y, seed):
    """(share of the second colour, height in grains) of a texture at a point in grains."""
    if texture == GRANITE:
        return _granite(x, y, z, seed)
    if texture == MARBLE:
        return _marble(x, y, z, seed)
    if texture == SLATE:
        return _slate(x, y, z, seed)
    if texture == SANDSTONE:
        return _sandstone(x, y, z, seed)
    if texture == WOOD:
        return _wood(x, y, z, along_x, along_y, seed)
    if texture == PLASTER:
        return F(0.0), F(0.8) * _cloud(x * F(0.5), y * F(0.5), z * F(0.5), seed, 4)
    if texture == PAPER:
        return _paper(x, y, z, seed)
    a, b = x * along_x + y * along_y, y * along_x - x * along_y
    fa, fb = a - F(floor(a)), b - F(floor(b))
    if texture == STRIPES:
        return F(1.0) if fb < F(0.5) else F(0.0), F(0.0)
    if texture == DOTS:
        da, db = fa - F(0.5), fb - F(0.5)
        return F(1.0) if da * da + db * db < F(0.09) else F(0.0), F(0.0)
    return F(1.0) if (fa < F(0.5)) != (fb < F(0.5)) else F(0.0), F(0.0)


@helper
def _in_reach(x):
    """A coordinate in grains, or 0 for one too far off, and for none."""
    return x if abs(x) < _FARTHEST else F(0.0)


@routine
def _height(texture, x, y, z, along_x, along_y, seed):
    """The height alone of what `_pattern` returns."""
    if texture == GRANITE:
        return F(0.35) * _cloud(x, y, z, seed + GRANITE_CLOUD, 3)
    return _pattern(texture, x, y, z, along_x, along_y, seed)[1]


@routine
def textured(params, first, m, texture, colours, relief, q, n):
    """(colour (rgb), unit normal) at point q with normal n of the lettering's frame, of two colours and a
    relief."""
    base, second = colours
    scale, seed = params[m, first + SCALE], int(params[m, first + SEED])
    ax, ay = params[m, first + ALONG_X], params[m, first + ALONG_Y]
    x, y, z = _in_reach(q[0] * scale), _in_reach(q[1] * scale), _in_reach(q[2] * scale)
    share, height = _pattern(texture, x, y, z, ax, ay, seed)
    rest = F(1.0) - share
    colour = (
        base[0] * rest + second[0] * share,
        base[1] * rest + second[1] * share,
        base[2] * rest + second[2] * share,
    )
    if relief == F(0.0) or texture == MARBLE:  # which is polished flat
        return colour, n
    k = relief / _SLOPE_STEP
    hx = _height(texture, x + _SLOPE_STEP, y, z, ax, ay, seed)
    hy = _height(texture, x, y + _SLOPE_STEP, z, ax, ay, seed)
    hz = _height(texture, x, y, z + _SLOPE_STEP, ax, ay, seed)
    g = ((hx - height) * k, (hy - height) * k, (hz - height) * k)
    up = dot(g, n)
    return colour, normalise((n[0] - g[0] + up * n[0], n[1] - g[1] + up * n[1], n[2] - g[2] + up * n[2]))
