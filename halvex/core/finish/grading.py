"""Tone and colour of a displayed picture, changed as they are seen: in OKLCh."""

import math

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from halvex.core.finish.painting import any_of, mix_px
from halvex.core.finish.plate import Plate
from halvex.core.finish.tables import looked_up
from halvex.core.kernels import helper, wide_kernel
from halvex.core.optics.blending import decoded, encoded
from halvex.core.optics.colour import hex_to_linear
from halvex.core.optics.oklab import FROM_CONES, FROM_LAB, TO_CONES, TO_LAB, cube_root, linear_to_oklab
from halvex.core.optics.vectors import F, dot
from halvex.core.piece.effects import Tone

Array = NDArray[np.float32]

# As numbers, not arrays: kernels need not read them again after each write.
_MATRICES = tuple(
    tuple(tuple(F(v) for v in row) for row in matrix) for matrix in (TO_CONES, TO_LAB, FROM_LAB, FROM_CONES)
)
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
    return dot(m[0], v), dot(m[1], v), dot(m[2], v)


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


@wide_kernel
def _grade(light, own, matrices, tone, tints, curve, curve_of, room, y0, y1):
    """Change rows y0..y1-1 of light (h, 3 · w): tone is (the power that lightness is raised to, how steep
    `_pulled` is, saturation, cosine and sine of the hue, strength), tints (2, 3): a and b, and how strong, of
    lights and of shadows; curve a table, and curve_of what it changes. `room` (4, w) is working memory for a
    row's colours and shares: short loops over rows work on several px at once."""
    to_cones, to_lab, from_lab, from_cones = matrices
    power, pull, saturation, c, s, strength = tone
    first, second, third, share = room[0], room[1], room[2], room[3]
    for y in range(y0, y1):
        _take_shares(own, y, strength, share)
        if not any_of(share):
            continue
        row = light[y]
        _turn_into_lab(row, to_cones, to_lab, first, second, third)
        # Curves through black and white: what is neither keeps its place between them.
        if power != F(1.0):
            for x in range(first.shape[0]):
                first[x] = max(first[x], F(0.0)) ** power
        if pull != F(1.0):
            for x in range(first.shape[0]):
                first[x] = _pulled(first[x], pull)
        if curve_of == LIGHTNESS:
            for x in range(first.shape[0]):
                first[x] = looked_up(curve, first[x])
        if tints[0, 2] != F(0.0) or tints[1, 2] != F(0.0) or s != F(0.0):
            _tint(first, second, third, (saturation * c, saturation * s), tints)
            chroma = F(1.0)
        else:
            chroma = saturation * c
        if curve_of in (NO_CURVE, LIGHTNESS):
            for x in range(share.shape[0]):
                r, g, b = _light_of(first[x], chroma * second[x], chroma * third[x], from_lab, from_cones)
                mix_px(row, x, (r, g, b), share[x])
            continue
        for x in range(share.shape[0]):
            first[x], second[x], third[x] = _light_of(
                first[x], chroma * second[x], chroma * third[x], from_lab, from_cones
            )
        for x in range(share.shape[0]):
            room[curve_of, x] = decoded(looked_up(curve, encoded(room[curve_of, x])))
        for x in range(share.shape[0]):
            mix_px(row, x, (first[x], second[x], third[x]), share[x])


@helper
def _take_shares(own, y, strength, share):
    for x in range(share.shape[0]):
        share[x] = strength
    if own.shape[0] > 0:
        for x in range(share.shape[0]):
            share[x] *= own[y, x]


@helper
def _turn_into_lab(row, to_cones, to_lab, first, second, third):
    """Fill three lines (w,) with lightness, a and b of a row of light (3 · w,)."""
    for x in range(first.shape[0]):
        c1, c2, c3 = _times(to_cones, (row[3 * x], row[3 * x + 1], row[3 * x + 2]))
        roots = (
            cube_root(min(max(c1, F(0.0)), F(1.0))),
            cube_root(min(max(c2, F(0.0)), F(1.0))),
            cube_root(min(max(c3, F(0.0)), F(1.0))),
        )
        first[x], second[x], third[x] = _times(to_lab, roots)


@helper
def _tint(lightness, a, b, turn, tints):
    """Turn and stretch the chroma of a line, and tint it: most in the middle tones; black and white stay."""
    c, s = turn
    lights, shadows = (tints[0, 0], tints[0, 1], tints[0, 2]), (tints[1, 0], tints[1, 1], tints[1, 2])
    for x in range(lightness.shape[0]):
        v, turned_a, turned_b = lightness[x], a[x] * c - b[x] * s, a[x] * s + b[x] * c
        room = max(F(4.0) * v * (F(1.0) - v), F(0.0))
        bright = min(max((v - F(0.3)) * F(2.5), F(0.0)), F(1.0))
        share = lights[2] * room
        turned_a += share * (lights[0] - turned_a)
        turned_b += share * (lights[1] - turned_b)
        share = shadows[2] * room * (F(1.0) - bright)
        a[x] = turned_a + share * (shadows[0] - turned_a)
        b[x] = turned_b + share * (shadows[1] - turned_b)


@helper
def _light_of(lightness, a, b, from_lab, from_cones):
    """The light (rgb), 0 to 1, of a colour in OKLab."""
    c1, c2, c3 = _times(from_lab, (lightness, a, b))
    red, green, blue = _times(from_cones, (c1 * c1 * c1, c2 * c2 * c2, c3 * c3 * c3))
    return (
        min(max(red, F(0.0)), F(1.0)),
        min(max(green, F(0.0)), F(1.0)),
        min(max(blue, F(0.0)), F(1.0)),
    )


@helper
def _pulled(v, k):
    """A lightness farther from the middle, or nearer to it: Schlick's curve through 0, the middle and 1."""
    away = min(max(v, F(0.0)), F(1.0)) - F(MIDDLE)
    side = F(1.0 - MIDDLE) if away > F(0.0) else F(MIDDLE)
    far = abs(away)
    # Of a share t = far / side of the way to the end, t / (k (1 - t) + t) is gone.
    return F(MIDDLE) + away * side / (k * (side - far) + far)


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
    own, curve_of = plate.share_of(tone.target), _curve_of(tone)
    curve = np.empty(0, np.float32) if curve_of == NO_CURVE else curve_table(tone)

    def rows(light: Array, alpha: Array, y0: int, y1: int) -> None:
        room = np.empty((4, plate.shape[1]), np.float32)
        _grade(light, own, _MATRICES, numbers, tints, curve, curve_of, room, y0, y1)

    plate.by_rows(rows)
