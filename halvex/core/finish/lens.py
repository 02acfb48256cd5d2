"""What a lens and a darkroom do: vignette, fringes of colour, sharpening, grain."""

import math

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.blurring import blurred
from halvex.core.finish.painting import lay_colour, mix_in
from halvex.core.finish.plate import Plate
from halvex.core.finish.tone import BAND_ROWS
from halvex.core.kernels import helper, kernel
from halvex.core.optics.blending import decoded, encoded
from halvex.core.optics.textures import noise
from halvex.core.optics.vectors import F, luminance_of
from halvex.core.piece.effects import Fringe, Grain, Sharpen, Vignette
from halvex.core.render.work import run_bands

Array = NDArray[np.float32]

# The noise of grain has this standard deviation (measured over 4 million points).
NOISE_DEVIATION = 0.279
# How much of full scale grain of 100 % deviates in the middle tones.
GRAIN_DEVIATION = 0.25


@kernel
def _vignette(opacity, middle, half, roundness, radius, softness, strength, y0, y1):
    """Fill rows y0..y1-1 of the opacity: none within the radius, whole where the softness ends. Half (2,) are
    the sides' halves; at a roundness of 0 the vignette is a rectangle, at 1 an ellipse."""
    power = F(2.0) + F(14.0) * (F(1.0) - roundness) * (F(1.0) - roundness)
    inverse = F(1.0) / power
    for y in range(y0, y1):
        for x in range(opacity.shape[1]):
            u = abs((F(x) + F(0.5) - middle[0]) / half[0])
            v = abs((F(y) + F(0.5) - middle[1]) / half[1])
            far = (u**power + v**power) ** inverse
            t = min(max((far - radius) / max(softness, F(1e-3)), F(0.0)), F(1.0))
            opacity[y, x] = strength * t * t * (F(3.0) - F(2.0) * t)


def lay_vignette(plate: Plate, vignette: Vignette) -> None:
    frame = plate.frame
    half = frame.width * frame.scale / 2, frame.height * frame.scale / 2
    middle = (
        half[0] * (1 + vignette.x / 100) - frame.left * frame.scale,
        half[1] * (1 - vignette.y / 100) - frame.top * frame.scale,
    )
    opacity = np.empty(plate.letters.shape, np.float32)
    numbers = (
        (F(middle[0]), F(middle[1])),
        (F(half[0]), F(half[1])),
        F(vignette.roundness / 100),
        F(vignette.radius / 100),
        F(vignette.softness / 100),
        F(vignette.strength / 100),
    )
    run_bands(plate.pool, lambda y0, y1: _vignette(opacity, *numbers, y0, y1), BAND_ROWS, len(opacity))
    own = plate.share_of(vignette.target)
    if plate.alpha is not None:
        # Where a picture is clear, there is nothing to darken.
        opacity *= plate.alpha
    lay_colour(plate, vignette.colour, opacity if own is None else opacity * own, vignette.blend)


@kernel
def _part(light, middle, by, out, y0, y1):
    """Fill rows y0..y1-1 of out: red from nearer the middle, blue from farther off, by a share of the way."""
    h, w = light.shape[0], light.shape[1]
    for y in range(y0, y1):
        for x in range(w):
            out[y, x, 1] = light[y, x, 1]
            for c in (0, 2):
                k = F(1.0) - by if c == 0 else F(1.0) + by
                u = min(max(middle[0] + (F(x) + F(0.5) - middle[0]) * k - F(0.5), F(0.0)), F(w - 1))
                v = min(max(middle[1] + (F(y) + F(0.5) - middle[1]) * k - F(0.5), F(0.0)), F(h - 1))
                i, j = min(int(u), max(w - 2, 0)), min(int(v), max(h - 2, 0))
                a, b = u - F(i), v - F(j)
                right, below = min(i + 1, w - 1), min(j + 1, h - 1)
                upper = light[j, i, c] + a * (light[j, right, c] - light[j, i, c])
                lower = light[below, i, c] + a * (light[below, right, c] - light[below, i, c])
                out[y, x, c] = upper + b * (lower - upper)


def part_colours(plate: Plate, fringe: Fringe) -> None:
    """Part red and blue by `width` px of the canvas at its corners, less towards the middle."""
    frame = plate.frame
    corner = math.hypot(frame.width, frame.height) / 2
    middle = (
        F((frame.width / 2 - frame.left) * frame.scale),
        F((frame.height / 2 - frame.top) * frame.scale),
    )
    light, out = plate.light, np.empty_like(plate.light)
    by = F(fringe.width / 2 / corner)
    run_bands(plate.pool, lambda y0, y1: _part(light, middle, by, out, y0, y1), BAND_ROWS, len(out))
    mix_in(plate, out, plate.share_of(fringe.target), fringe.strength / 100)


@kernel
def _sharpen(light, soft, own, strength, y0, y1):
    """Move rows y0..y1-1 away from what is blurred, encoded, by luminance alone: hues stay."""
    for y in range(y0, y1):
        for x in range(light.shape[1]):
            c = (light[y, x, 0], light[y, x, 1], light[y, x, 2])
            bright = luminance_of(c)
            k = strength * (own[y, x] if own.shape[0] > 0 else F(1.0))
            sharp = encoded(bright) + k * (encoded(bright) - encoded(soft[y, x, 0]))
            gain = decoded(min(max(sharp, F(0.0)), F(1.0))) / max(bright, F(1e-6))
            for channel in range(3):
                light[y, x, channel] = min(c[channel] * gain, F(1.0))


def sharpen(plate: Plate, effect: Sharpen) -> None:
    bright = np.asarray(plate.light @ np.array([0.2126, 0.7152, 0.0722], np.float32), np.float32)
    soft = blurred(bright[..., None], effect.radius * plate.scale, plate.pool)
    own = plate.share_of(effect.target)
    by = np.zeros((0, 0), np.float32) if own is None else own
    light, strength = plate.light, F(2 * effect.strength / 100)
    run_bands(plate.pool, lambda y0, y1: _sharpen(light, soft, by, strength, y0, y1), BAND_ROWS, len(light))


@helper
def _grained(value, change):
    """An encoded value in 0 to 1, changed most in the middle tones."""
    return min(max(value + change * F(4.0) * value * (F(1.0) - value), F(0.0)), F(1.0))


@kernel
def _grain(light, own, place, per_px, seed, deviation, coloured, y0, y1):
    """Add grain to rows y0..y1-1: `place` (2,) is that of the picture's upper left, in grains."""
    for y in range(y0, y1):
        v = place[1] + (F(y) + F(0.5)) * per_px
        for x in range(light.shape[1]):
            u = place[0] + (F(x) + F(0.5)) * per_px
            k = deviation * (own[y, x] if own.shape[0] > 0 else F(1.0))
            grey = noise(u, v, F(0.37), seed)
            for c in range(3):
                change = grey
                if coloured > F(0.0):
                    change += coloured * (noise(u, v, F(3.37 + 5.0 * c), seed) - grey)
                light[y, x, c] = decoded(_grained(encoded(light[y, x, c]), k * change))


def add_grain(plate: Plate, grain: Grain) -> None:
    frame = plate.frame
    # Noise has features one unit wide; finer than a px of the picture it would be seen as less.
    per_px = 1 / (2 * max(grain.size * frame.scale, 0.5))
    place = (F(frame.left * frame.scale * per_px), F(frame.top * frame.scale * per_px))
    own = plate.share_of(grain.target)
    by = np.zeros((0, 0), np.float32) if own is None else own
    deviation = F(grain.strength / 100 * GRAIN_DEVIATION / NOISE_DEVIATION)
    light, coloured = plate.light, F(grain.coloured / 100)
    run_bands(
        plate.pool,
        lambda y0, y1: _grain(light, by, place, F(per_px), grain.seed, deviation, coloured, y0, y1),
        BAND_ROWS,
        len(light),
    )
