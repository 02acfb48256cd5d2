"""Tone and colour of a displayed picture, changed as they are seen: in OKLCh."""

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from halvex.core.finish.plate import Plate
from halvex.core.finish.tone import in_bands
from halvex.core.kernels import helper, kernel
from halvex.core.optics.blending import decoded, encoded
from halvex.core.optics.colour import hex_to_linear
from halvex.core.optics.oklab import FROM_CONES, FROM_LAB, TO_CONES, TO_LAB, linear_to_oklab
from halvex.core.optics.vectors import F
from halvex.core.piece.effects import Tone

Array = NDArray[np.float32]

_TO_CONES, _TO_LAB = TO_CONES.astype(np.float32), TO_LAB.astype(np.float32)
_FROM_CONES, _FROM_LAB = FROM_CONES.astype(np.float32), FROM_LAB.astype(np.float32)
# Steps of the table of cube roots: the darkest 8-bit value lies at the twentieth.
ROOT_STEPS = 1 << 16
# Lightness about which contrast turns: that of a middle grey.
MIDDLE = 0.6
# Tones that a curve says something of, and steps of the table that it becomes.
CURVE_AT = (0, 25, 50, 75, 100)
CURVE_STEPS = 1024
# What a curve changes, in the order of channels, or nothing.
CURVES = ("red", "green", "blue", "lightness")
NO_CURVE = -1
LIGHTNESS = CURVES.index("lightness")
# How much chroma a tint of 100 % gives where it is strongest.
TINT_REACH = 1.0


@helper
def _times(m, v):
    return (
        m[0, 0] * v[0] + m[0, 1] * v[1] + m[0, 2] * v[2],
        m[1, 0] * v[0] + m[1, 1] * v[1] + m[1, 2] * v[2],
        m[2, 0] * v[0] + m[2, 1] * v[1] + m[2, 2] * v[2],
    )


@lru_cache(maxsize=1)
def _roots() -> Array:
    """Cube roots of 0 to 1; between two of them a line is near enough."""
    return np.cbrt(np.arange(ROOT_STEPS + 2) / ROOT_STEPS).astype(np.float32)


@helper
def _looked_up(table, v):
    """What a table over 0 to 1 (steps + 2,) holds for v, on a line between two of its steps."""
    place = (min(v, F(1.0)) if v > F(0.0) else F(0.0)) * F(table.shape[0] - 2)
    at = np.int32(place)
    low = table[np.uintp(at)]
    return low + (place - F(at)) * (table[np.uintp(at + 1)] - low)


def curve_table(tone: Tone) -> Array:
    """What a tone's curve makes of 0 to 1 (CURVE_STEPS + 2,), in 0 to 1, the last twice: cubic between the
    points and monotone where they are (Fritsch & Butland 1984)."""
    points = [getattr(tone, f"at_{at}") / 100 for at in CURVE_AT]
    curve = PchipInterpolator(np.array(CURVE_AT) / 100, points)
    steps = np.minimum(np.arange(CURVE_STEPS + 2) / CURVE_STEPS, 1.0)
    return np.clip(curve(steps), 0.0, 1.0).astype(np.float32)


def _curve_of(tone: Tone) -> int:
    is_straight = all(getattr(tone, f"at_{at}") == at for at in CURVE_AT)
    return NO_CURVE if is_straight else CURVES.index(tone.curve_of)


@kernel
def _grade(light, own, matrices, roots, tone, tints, curve, curve_of, y0, y1):
    """Change rows y0..y1-1: tone is (the power that lightness is raised to, how steep `_pulled` is,
    saturation, cosine and sine of the hue, strength), tints (2, 3): a and b, and how strong, of lights and of
    shadows; curve a table, and curve_of what it changes."""
    to_cones, to_lab, from_lab, from_cones = matrices
    power, pull, saturation, c, s, strength = tone
    for y in range(y0, y1):
        for x in range(light.shape[1]):
            k = strength * (own[y, x] if own.shape[0] > 0 else F(1.0))
            if k <= F(0.0):
                continue
            cones = _times(to_cones, (light[y, x, 0], light[y, x, 1], light[y, x, 2]))
            lab = _times(
                to_lab,
                (_looked_up(roots, cones[0]), _looked_up(roots, cones[1]), _looked_up(roots, cones[2])),
            )
            v = lab[0]
            # Curves through black and white: what is neither keeps its place between them.
            if power != F(1.0):
                v = max(v, F(0.0)) ** power
            if pull != F(1.0):
                v = _pulled(v, pull)
            if curve_of == LIGHTNESS:
                v = _looked_up(curve, v)
            a, b = (lab[1] * c - lab[2] * s) * saturation, (lab[1] * s + lab[2] * c) * saturation
            # A tint is strongest in the middle tones; black and white stay.
            room = F(4.0) * v * (F(1.0) - v)
            bright = min(max((v - F(0.3)) * F(2.5), F(0.0)), F(1.0))
            for n in range(2):
                share = tints[n, 2] * max(room, F(0.0))
                if n == 1:
                    share *= F(1.0) - bright
                a, b = a + share * (tints[n, 0] - a), b + share * (tints[n, 1] - b)
            c1, c2, c3 = _times(from_lab, (v, a, b))
            shown = _times(
                from_cones,
                (c1 * c1 * c1, c2 * c2 * c2, c3 * c3 * c3),
            )
            for n in range(3):
                value = min(max(shown[n], F(0.0)), F(1.0))
                if curve_of == n:
                    value = decoded(_looked_up(curve, encoded(value)))
                light[y, x, n] += k * (value - light[y, x, n])


@helper
def _pulled(v, k):
    """A lightness farther from the middle, or nearer to it: Schlick's curve through 0, the middle and 1."""
    v = min(max(v, F(0.0)), F(1.0))
    if v < F(MIDDLE):
        t = v / F(MIDDLE)
        return F(MIDDLE) * (F(1.0) - _biased(F(1.0) - t, k))
    t = (v - F(MIDDLE)) / F(1.0 - MIDDLE)
    return F(MIDDLE) + F(1.0 - MIDDLE) * _biased(t, k)


@helper
def _biased(t, k):
    return t / (k * (F(1.0) - t) + t)


def grade(plate: Plate, tone: Tone) -> None:
    angle = math.radians(tone.hue)
    numbers = (
        F(2.0 ** (-tone.lightness / 100)),
        F(2.0 ** (-2 * tone.contrast / 100)),
        F(max(1 + tone.saturation / 100, 0.0)),
        F(math.cos(angle)),
        F(math.sin(angle)),
        F(tone.strength / 100),
    )
    tints = np.zeros((2, 3), np.float32)
    for row, (colour, share) in enumerate(((tone.tint, tone.tinted), (tone.shadows, tone.split))):
        tints[row, :2] = linear_to_oklab(hex_to_linear(colour))[1:]
        tints[row, 2] = TINT_REACH * share / 100
    own, curve, curve_of = plate.share_of(tone.target), curve_table(tone), _curve_of(tone)
    light, roots, matrices = plate.light, _roots(), (_TO_CONES, _TO_LAB, _FROM_LAB, _FROM_CONES)
    in_bands(
        plate.pool,
        lambda y0, y1: _grade(light, own, matrices, roots, numbers, tints, curve, curve_of, y0, y1),
        len(light),
    )
