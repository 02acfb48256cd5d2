"""What a lens and a darkroom do: vignette, fringes of colour, sharpening, grain."""

import math
from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.blurring import blurred, enlarged, in_row
from halvex.core.finish.painting import lay_colour, mix_in
from halvex.core.finish.plate import Plate
from halvex.core.finish.tone import flat, in_bands
from halvex.core.kernels import wide_kernel
from halvex.core.memory import kept, latest_kept
from halvex.core.optics.blending import decoded, encoded
from halvex.core.optics.vectors import F, floor, luminance_of
from halvex.core.piece.effects import Fringe, Grain, Sharpen, Vignette
from halvex.core.render.work import shared_pool
from halvex.core.room import room
from halvex.core.scene.finish import Frame

Array = NDArray[np.float32]

# A vignette of this softness in % and more is computed for every so many px.
SOFT_FROM, SOFT_PX = 10, 4
# How much of full scale grain of 100 % deviates in the middle tones.
GRAIN_DEVIATION = 0.25
# Side of the grain tile in cells, standard deviation of its blur, and diameter of a grain, in cells.
GRAIN_SHEET_CELLS, GRAIN_SIGMA_CELLS, GRAIN_CELLS = 1024, 1.0, 2.5
# Pictures of the stage whose grain is kept, as the hand moves the picture about.
MOST_KEPT = 4


@wide_kernel
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
    # A soft vignette is even enough to be computed for every few px.
    k = SOFT_PX if vignette.softness >= SOFT_FROM else 1
    h, w = plate.shape
    small = room((-(-h // k), -(-w // k), 1))
    numbers = (
        (F(middle[0] / k), F(middle[1] / k)),
        (F(half[0] / k), F(half[1] / k)),
        F(vignette.roundness / 100),
        F(vignette.radius / 100),
        F(vignette.softness / 100),
        F(vignette.strength / 100),
    )
    in_bands(plate.pool, lambda y0, y1: _vignette(small[..., 0], *numbers, y0, y1), len(small))
    opacity = enlarged(small, k, (h, w, 1), plate.pool)[..., 0]
    own = plate.share_of(vignette.target)
    if (alpha := plate.alpha) is not None:
        # Where a picture is clear, there is nothing to darken.
        opacity *= alpha
    if own.size:
        opacity *= own
    lay_colour(plate, vignette.colour, opacity, vignette.blend)


@wide_kernel
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
    light, out = plate.light, room(plate.light.shape)
    by = F(fringe.width / 2 / corner)
    in_bands(plate.pool, lambda y0, y1: _part(light, middle, by, out, y0, y1), len(out))
    mix_in(plate, out, plate.share_of(fringe.target), fringe.strength / 100)


@wide_kernel
def _sharpen(light, soft, own, strength, y0, y1):
    """Move rows y0..y1-1 away from what is blurred, encoded, by luminance alone: hues stay."""
    for y in range(y0, y1):
        for x in range(soft.shape[1]):
            r, g, b = 3 * x, 3 * x + 1, 3 * x + 2
            bright = luminance_of((light[y, r], light[y, g], light[y, b]))
            k = strength * (own[y, x] if own.shape[0] > 0 else F(1.0))
            shown = encoded(bright)
            sharp = shown + k * (shown - encoded(soft[y, x]))
            gain = decoded(sharp) / max(bright, F(1e-6)) if k > F(0.0) else F(1.0)
            light[y, r] = min(light[y, r] * gain, F(1.0))
            light[y, g] = min(light[y, g] * gain, F(1.0))
            light[y, b] = min(light[y, b] * gain, F(1.0))


@wide_kernel
def _luminances(light, out, y0, y1):
    for y in range(y0, y1):
        for x in range(out.shape[1]):
            out[y, x] = luminance_of((light[y, 3 * x], light[y, 3 * x + 1], light[y, 3 * x + 2]))


def sharpen(plate: Plate, effect: Sharpen) -> None:
    """Sharpen a displayed picture by what it differs from itself when blurred."""
    strength, bright = F(2 * effect.strength / 100), room(plate.shape)
    plate.by_rows(lambda light, alpha, *rows: _luminances(light, bright, *rows))
    plate.settle()
    soft = blurred(bright[..., None], effect.radius * plate.scale, plate.pool)[..., 0]
    own = plate.share_of(effect.target)
    plate.by_rows(lambda light, alpha, *rows: _sharpen(light, soft, own, strength, *rows))


@kept
def _grain_sheet(seed: int, coloured: float) -> Array:
    """A tile (h, w, 3) of smooth noise with a standard deviation of 1 per channel: grey at `coloured` 0,
    independent per channel at 1."""
    random = np.random.default_rng(seed)
    side = GRAIN_SHEET_CELLS
    grey, own = random.standard_normal((side, side, 1)), random.standard_normal((side, side, 3))
    raw = np.asarray((1 - coloured) * grey + coloured * own, np.float32)
    soft = blurred(np.pad(raw, ((8, 8), (8, 8), (0, 0)), mode="wrap"), GRAIN_SIGMA_CELLS, shared_pool())
    soft = soft[8:-8, 8:-8]
    return np.ascontiguousarray((soft - soft.mean()) / soft.std(axis=(0, 1)), np.float32)


@wide_kernel
def _lay_out(sheet, top, per_px, places, cells, out, first):
    """Fill out (n, 3 · w), a picture's rows from `first` on, with a sheet of grain (h', 3 · w'): a px shows
    `per_px` of its cells, and its row `top` lies at the picture's upper edge. Across, places are three lines
    (3 · w,): where in a row of the sheet the cells on the left and on the right of a px are, and the share of
    that on the right. `cells` (3 · w',) is working memory."""
    h = sheet.shape[0]
    lefts, rights, shares = places
    for y in range(out.shape[0]):
        v = top + (F(first + y) + F(0.5)) * per_px
        j0 = floor(v)
        b = v - F(j0)
        j0 = j0 % h
        row, line = sheet[j0], out[y]
        if per_px < F(1.0):
            # Grain larger than a px is smooth.
            below = sheet[j0 + 1 if j0 + 1 < h else 0]
            for i in range(cells.shape[0]):
                cells[i] = row[i] + b * (below[i] - row[i])
            for i in range(line.shape[0]):
                left = cells[lefts[i]]
                line[i] = left + shares[i] * (cells[rights[i]] - left)
        else:
            for i in range(line.shape[0]):
                line[i] = row[lefts[i]]


class _Laid(NamedTuple):
    """A sheet of grain as it lies on a picture (`_lay_out`)."""

    sheet: Array
    top: np.float32
    per_px: np.float32
    places: tuple[NDArray[np.uintp], NDArray[np.uintp], Array]

    def rows(self, y0: int, y1: int) -> Array:
        """Grain (y1 - y0, 3 · w) of these rows of the picture."""
        out = np.empty((y1 - y0, len(self.places[0])), np.float32)
        _lay_out(*self, np.empty(self.sheet.shape[1], np.float32), out, y0)
        return out


def _laid(sheet: Array, size: float, frame: Frame, width: int) -> _Laid:
    per_px = GRAIN_CELLS / (size * frame.scale)
    left, top = frame.left * frame.scale * per_px, frame.top * frame.scale * per_px
    columns = (left + (np.arange(width) + 0.5) * per_px) % GRAIN_SHEET_CELLS
    # Rounding must not leave the sheet.
    cells = np.minimum(columns.astype(np.int32), GRAIN_SHEET_CELLS - 1)
    places = (
        in_row(cells, 3),
        in_row((cells + 1) % GRAIN_SHEET_CELLS, 3),
        np.repeat((columns - cells).astype(np.float32), 3),
    )
    return _Laid(flat(sheet), F(top), F(per_px), places)


@latest_kept(MOST_KEPT)
def _grains(seed: int, coloured: float, size: float, frame: Frame, height: int, width: int) -> Array:
    """Grain (h, 3 · w) all over a picture."""
    laid, out = _laid(_grain_sheet(seed, coloured), size, frame, width), room((height, 3 * width))

    def band(y0: int, y1: int) -> None:
        out[y0:y1] = laid.rows(y0, y1)

    in_bands(shared_pool(), band, height)
    return out


@wide_kernel
def _grain(encodings, own, grains, strength, line, first):
    """Add grains (n, 3 · w) to the rows of sRGB values (h, 3 · w) from `first` on, most in the middle
    tones. `line` (3 · w,) is working memory."""
    for y in range(grains.shape[0]):
        row, shown = grains[y], encodings[first + y]
        if own.shape[0] > 0:
            for x in range(own.shape[1]):
                for c in range(3):
                    line[3 * x + c] = own[first + y, x] * row[3 * x + c]
            row = line
        for i in range(line.shape[0]):
            moved = shown[i] + strength * row[i] * shown[i] * (F(1.0) - shown[i])
            shown[i] = min(max(moved, F(0.0)), F(1.0))


def _grains_of(plate: Plate, grain: Grain) -> Callable[[int, int], Array]:
    """The grain of rows y0..y1-1 of a plate, given these: of a small one it is made once for all."""
    (height, width), coloured = plate.shape, grain.coloured / 100
    if not plate.is_small:
        return _laid(_grain_sheet(grain.seed, coloured), grain.size, plate.frame, width).rows
    whole = _grains(grain.seed, coloured, grain.size, plate.frame, height, width)
    return lambda y0, y1: whole[y0:y1]


def add_grain(plate: Plate, grain: Grain) -> None:
    """Add grain to a displayed picture."""
    own, width = plate.share_of(grain.target), plate.shape[1]
    # Four times a value's own share and what is left of 1 is 1 in the middle.
    strength = F(4.0 * grain.strength / 100 * GRAIN_DEVIATION)
    grains_of = _grains_of(plate, grain)

    def rows(encodings: Array, y0: int, y1: int) -> None:
        _grain(encodings, own, grains_of(y0, y1), strength, np.empty(3 * width, np.float32), y0)

    plate.by_encoded_rows(rows)
