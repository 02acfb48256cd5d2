"""Glints: stars at the brightest spots of the light, where it truly is."""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.plate import Plate
from halvex.core.kernels import helper, wide_kernel
from halvex.core.optics.colour import luminance
from halvex.core.optics.vectors import F, luminance_of
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
# Arms may be drawn over every pixel of the picture so often on the mean.
MOST_WORK = 400


class Spot(NamedTuple):
    """Where a star stands, in px of the picture; how large and how strong it is, 0 to 1."""

    x: float
    y: float
    size: float
    strength: float


@wide_kernel
def _cell_means(light, own, gain, cell, line, out, y0, y1):
    """Fill rows y0..y1-1 of out with the mean luminance of cells of so many px, exposed. `line` (w,) is
    working memory."""
    share = gain / F(cell * cell)
    for y in range(y0, y1):
        for x in range(line.shape[0]):
            line[x] = F(0.0)
        for j in range(y * cell, (y + 1) * cell):
            row = light[j]
            if own.shape[0] > 0:
                for x in range(line.shape[0]):
                    line[x] += own[j, x] * luminance_of((row[3 * x], row[3 * x + 1], row[3 * x + 2]))
            else:
                for x in range(line.shape[0]):
                    line[x] += luminance_of((row[3 * x], row[3 * x + 1], row[3 * x + 2]))
        if cell == 2:
            # As a rule on the stage; several at once, as it is known how far it is from one to the next.
            for x in range(out.shape[1]):
                out[y, x] = (line[2 * x] + line[2 * x + 1]) * share
            continue
        for x in range(out.shape[1]):
            total = F(0.0)
            for i in range(cell):
                total += line[x * cell + i]
            out[y, x] = total * share


@helper
def _add_star(light, alpha, star, colour, arms, y_first, y_last):
    x0, y0, size, strength = star[0], star[1], star[2], star[3]
    w = light.shape[1] // 3
    for y in range(max(int(y0 - size), y_first), min(int(y0 + size) + 2, y_last)):
        for x in range(max(int(x0 - size), 0), min(int(x0 + size) + 2, w)):
            dx, dy = F(x) + F(0.5) - x0, y0 - F(y) - F(0.5)
            far = math.sqrt(dx * dx + dy * dy)
            if far >= size:
                continue
            core = far / (F(CORE_WIDTH) * size)
            ray = math.exp(F(-0.5) * core * core)
            for arm in range(arms.shape[0]):
                along = dx * arms[arm, 0] + dy * arms[arm, 1]
                if along <= F(0.0):
                    continue
                left = F(1.0) - along / size
                # Narrower than a px, an arm is as much fainter.
                wide = F(ARM_WIDTH) * size * left
                seen = max(wide, F(0.6))
                aside = abs(dy * arms[arm, 0] - dx * arms[arm, 1]) / seen
                if aside < F(1.0):
                    ray = max(
                        ray, (F(1.0) - aside) * (F(1.0) - aside) * left * left * min(wide / seen, F(1.0))
                    )
            ray *= strength
            for c in range(3):
                light[y, 3 * x + c] += ray * colour[c]
            if alpha.shape[0] > 0:
                alpha[y, x] = max(alpha[y, x], min(ray, F(1.0)))


@wide_kernel
def _add_stars(light, alpha, stars, colours, arms, y_first, y_last):
    """Add stars (n, 4), each an x, y, size and strength, of colours (n, 3) to rows y_first..y_last-1; arms
    (m, 2) are the directions of their arms."""
    for n in range(stars.shape[0]):
        _add_star(light, alpha, stars[n], colours[n], arms, y_first, y_last)


def brightest_spots(plate: Plate, glints: Glints) -> list[Spot]:
    """Spots that were placed, and the brightest others, no two of these nearer than their spacing to any; the
    same wherever noise is small."""
    cell = max(round(CELL_PX * plate.scale), 1)
    h, w = plate.shape[0] // cell, plate.shape[1] // cell
    if h == 0 or w == 0:
        return []
    own, left = plate.share_of(glints.target), np.empty((h, w), np.float32)

    def rows(light: Array, y0: int, y1: int) -> None:
        line = np.empty(plate.shape[1], np.float32)
        _cell_means(light, own, F(plate.gain), cell, line, left, y0, min(y1, h))

    plate.read(cell, rows)
    apart = glints.spacing * plate.scale / cell
    random = np.random.default_rng(glints.seed)
    found: list[Spot] = []

    def add(j: int, i: int, x: float, y: float) -> bool:
        strength = float(np.clip((left[j, i] - BEGINS) / (WHOLE - BEGINS), 0.0, 1.0))
        if strength > 0.0:
            size = glints.size * plate.scale * (1 - glints.jitter / 100 * random.random())
            found.append(Spot(x, y, size / 2, strength))
            _use_up(left, j, i, apart)
        return strength > 0.0

    frame = plate.frame
    for spot in glints.spots:
        x = (spot.x / 100 * frame.width - frame.left) * frame.scale
        y = ((1 - spot.y / 100) * frame.height - frame.top) * frame.scale
        j, i = int(y // cell), int(x // cell)
        if 0 <= j < h and 0 <= i < w:
            add(j, i, x, y)
    placed = len(found)
    while len(found) < placed + glints.count:
        j, i = divmod(int(left.argmax()), w)
        if not add(j, i, (i + 0.5) * cell, (j + 0.5) * cell):
            break
    return found


def _use_up(left: Array, j: int, i: int, apart: float) -> None:
    """Take the light of all cells (h, w) within a distance, in cells, of one of them."""
    h, w = left.shape
    reach = math.ceil(apart)
    rows = slice(max(j - reach, 0), j + reach + 1)
    columns = slice(max(i - reach, 0), i + reach + 1)
    down = np.arange(rows.start, min(rows.stop, h))[:, np.newaxis] - j
    across = np.arange(columns.start, min(columns.stop, w)) - i
    near = down * down + across * across <= apart**2
    left[rows, columns][near] = -1.0
    left[j, i] = -1.0


def add_glints(plate: Plate, glints: Glints) -> None:
    """Add stars to the light of the scene, each in the colour of its spot; of very large ones with many arms
    only as many as the picture has room for."""
    h, w = plate.shape
    angles = math.radians(glints.turn) + math.tau * np.arange(glints.arms) / glints.arms
    arms = np.column_stack([np.cos(angles), np.sin(angles)]).astype(np.float32)
    left, stars, colours = float(MOST_WORK * h * w), [], []
    spots, shown = brightest_spots(plate, glints), plate.light
    for spot in spots:
        left -= min(2 * spot.size, w) * min(2 * spot.size, h) * glints.arms
        if left < 0:
            break
        colour = shown[min(int(spot.y), h - 1), min(int(spot.x), w - 1)].astype(float)
        # Half the spot's own colour, half white.
        colour = 0.5 * colour / max(float(luminance(colour)), 1e-6) + 0.5
        colours.append(colour * BRIGHTNESS / plate.gain)
        stars.append((spot.x, spot.y, spot.size, spot.strength * glints.strength / 100))
    if stars:
        placed = np.array(stars, np.float32), np.array(colours, np.float32)
        plate.by_rows(lambda light, alpha, *rows: _add_stars(light, alpha, *placed, arms, *rows))
