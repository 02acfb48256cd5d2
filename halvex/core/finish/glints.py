"""Glints: stars at the brightest spots of the light, where it truly is."""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.plate import Plate
from halvex.core.kernels import kernel
from halvex.core.optics.colour import luminance
from halvex.core.optics.vectors import F
from halvex.core.piece.effects import Glints

Array = NDArray[np.float32]

# Spots are looked for on a grid of so many px of the canvas, the same for pictures of any size.
CELL_PX = 2.0
# Light of this luminance, where 1 is a white card fully lit, begins to glint; from the second on wholly.
BEGINS, WHOLE = 0.6, 1.6
# How much brighter than white the middle of a star is.
BRIGHTNESS = 4.0
# A star's arm is so wide at its root, and its core, in shares of its size.
ARM_WIDTH, CORE_WIDTH = 0.035, 0.05


class Spot(NamedTuple):
    """Where a star stands, in px of the picture; how large and how strong it is, 0 to 1."""

    x: float
    y: float
    size: float
    strength: float


@kernel
def _add_star(light, alpha, spot, colour, arms, turn):
    x0, y0, size, strength = spot
    h, w = light.shape[0], light.shape[1]
    step = F(2.0 * math.pi) / F(arms)
    for y in range(max(int(y0 - size), 0), min(int(y0 + size) + 2, h)):
        for x in range(max(int(x0 - size), 0), min(int(x0 + size) + 2, w)):
            dx, dy = F(x) + F(0.5) - x0, y0 - F(y) - F(0.5)
            far = math.sqrt(dx * dx + dy * dy)
            if far >= size:
                continue
            core = far / (F(CORE_WIDTH) * size)
            ray = math.exp(F(-0.5) * core * core)
            for arm in range(arms):
                angle = turn + F(arm) * step
                along = dx * math.cos(angle) + dy * math.sin(angle)
                if along <= F(0.0):
                    continue
                left = F(1.0) - along / size
                # Narrower than a px, an arm is as much fainter.
                wide = F(ARM_WIDTH) * size * left
                seen = max(wide, F(0.6))
                aside = abs(dy * math.cos(angle) - dx * math.sin(angle)) / seen
                if aside < F(1.0):
                    ray = max(
                        ray, (F(1.0) - aside) * (F(1.0) - aside) * left * left * min(wide / seen, F(1.0))
                    )
            ray *= strength
            for c in range(3):
                light[y, x, c] += ray * colour[c]
            if alpha.shape[0] > 0:
                alpha[y, x] = max(alpha[y, x], min(ray, F(1.0)))


def brightest_spots(plate: Plate, glints: Glints) -> list[Spot]:
    """The brightest spots, no two nearer than their spacing; the same wherever noise is small."""
    bright = np.asarray(luminance(plate.light), np.float32) * np.float32(plate.gain)
    own = plate.share_of(glints.target)
    if own is not None:
        bright = bright * own
    cell = max(round(CELL_PX * plate.scale), 1)
    h, w = bright.shape[0] // cell, bright.shape[1] // cell
    if h == 0 or w == 0:
        return []
    means = bright[: h * cell, : w * cell].reshape(h, cell, w, cell).mean(axis=(1, 3))
    apart = glints.spacing * plate.scale / cell
    random = np.random.default_rng(glints.seed)
    found: list[Spot] = []
    left = means.copy()
    while len(found) < glints.count:
        at = int(left.argmax())
        j, i = divmod(at, w)
        strength = float(np.clip((left[j, i] - BEGINS) / (WHOLE - BEGINS), 0.0, 1.0))
        if strength <= 0.0:
            break
        size = glints.size * plate.scale * (1 - glints.jitter / 100 * random.random())
        found.append(Spot((i + 0.5) * cell, (j + 0.5) * cell, size / 2, strength))
        reach = math.ceil(apart)
        rows = slice(max(j - reach, 0), j + reach + 1)
        columns = slice(max(i - reach, 0), i + reach + 1)
        y, x = np.ogrid[rows.start : min(rows.stop, h), columns.start : min(columns.stop, w)]
        near = (y - j) ** 2 + (x - i) ** 2 <= apart**2
        left[rows, columns][near] = -1.0
        left[j, i] = -1.0
    return found


def add_glints(plate: Plate, glints: Glints) -> None:
    """Add stars to the light of the scene, each in the colour of its spot."""
    alpha = plate.alpha if plate.alpha is not None else np.zeros((0, 0), np.float32)
    for spot in brightest_spots(plate, glints):
        colour = plate.light[
            min(int(spot.y), len(plate.light) - 1), min(int(spot.x), plate.light.shape[1] - 1)
        ].astype(float)
        # Half the spot's own colour, half white.
        colour = 0.5 * colour / max(float(luminance(colour)), 1e-6) + 0.5
        strength = spot.strength * glints.strength / 100
        star = (F(spot.x), F(spot.y), F(spot.size), F(strength))
        shown = (colour * BRIGHTNESS / plate.gain).astype(np.float32)
        _add_star(plate.light, alpha, star, shown, glints.arms, F(math.radians(glints.turn)))
