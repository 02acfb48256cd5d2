"""Patterns: the paint at a point of a plane, as the mean over a footprint.

Points are in cells of the pattern, i along its bearing and j across it. Shapes are found by how far their
edges are, so they are as sharp at any size; stripes, waves, checks, bricks and tiles are means over exact
intervals. A footprint of more than about a cell takes the pattern's mean.

On a ring cells repeat after whole numbers of them along i and j, `ring` (a, b, 0, 0); around a tube after two
such ways, (a, b, c, d); on a plane never, (0, 0, 0, 0).
"""

import math

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import helper, routine
from halvex.core.optics.oklab import linear_to_oklab, oklab_to_linear
from halvex.core.optics.textures import noise
from halvex.core.optics.vectors import F, along4, floor, floorf, mix4, row4
from halvex.core.piece.pattern import PATTERN_NAMES

(
    STRIPES,
    CHECKS,
    DOTS,
    STARS,
    BUBBLES,
    SCALES,
    WAVES,
    BRICKS,
    TILES,
    TERRAZZO,
    CRYSTALS,
    CLOUD,
) = range(len(PATTERN_NAMES))
# Columns of a pattern's numbers; the last four are its mean, premultiplied.
PATTERN, SIZE, FILL, POINTS, PLACE_JITTER, SIZE_JITTER, TURN_JITTER = range(7)
TILT, PHASE, SEED, FIRST_PAINT, PAINTS, MEAN = range(7, 12 + 1)
PATTERN_COLUMNS = MEAN + 4
# Each paint is kept in so many variants of hue and tone, the first of which is the paint itself.
VARIANTS = 64

# Where footprints, in cells, begin and end to take the mean.
_FADES_FROM, _FADES_TO = F(0.7), F(1.7)
# Farther off, in cells, single precision has no place left within one.
_FARTHEST = F(2.0**20)
_MASK = 0xFFFFFFFF
_SCALE_RADIUS = F(0.56)
_INNER_RADIUS = F(0.42)  # of a star, in shares of its outer one
_WAVE_HEIGHT = F(0.22)
_BUBBLE_RADII = F(0.16), F(0.6)
_OCTAVES = 5
# Clouds of middling fill go from their first to their last paint about as far as noise goes.
_CLOUD_CONTRAST = F(1.5)
_TURN = F(2.0 * math.pi)


@helper
def cell_sides(which):
    """How long a pattern's cells are along i and along j, in sizes of the pattern."""
    if which in (WAVES, BRICKS):
        return F(2.0), F(1.0)
    return F(1.0), F(0.5) if which == SCALES else F(1.0)


@helper
def _rounded(x):
    return floor(x + F(0.5))


@helper
def cells_around(which, i, j):
    """The whole numbers of cells nearest to (i, j) that a ring can close after: at least one, and an even
    number of rows where every second is moved by half a cell."""
    a, b, rows = _rounded(i), _rounded(j), 1
    if which in (BRICKS, SCALES):
        b, rows = 2 * _rounded(F(0.5) * j), 2
    if a == 0 and b == 0:
        return (1, 0) if abs(i) >= abs(j) else (0, rows)
    return a, b


@helper
def _mixed(h):
    h = ((h ^ (h >> 15)) * 0x2C1B3C6D) & _MASK
    h = ((h ^ (h >> 12)) * 0x297A2D39) & _MASK
    return h ^ (h >> 15)


@helper
def _times(i, j, row_i, row_j, whole):
    """How many whole ways around a cell lies from the first, of `whole` cells in all: floor((i row_j - j
    row_i) / whole). Cells are far fewer than single precision can tell apart, and divisions of whole numbers
    dear."""
    return floor((F(i * row_j - j * row_i) + F(0.5)) / F(whole))


@helper
def _cell(i, j, ring, seed):
    """32 well-mixed bits of a cell; those of cells that are one on a ring are equal."""
    a, b, c, d = ring
    if a != 0 or b != 0:
        area = a * d - b * c
        if area != 0:
            n, m = _times(i, j, c, d, area), _times(j, i, b, a, area)
            i, j = i - n * a - m * c, j - n * b - m * d
        else:
            n = _times(i, j, 0, 1, a) if a != 0 else _times(j, i, 0, 1, b)
            i, j = i - n * a, j - n * b
    return _mixed(((i * 0x8DA6B343) ^ (j * 0xD8163841) ^ (seed * 0x165667B1)) & _MASK)


@helper
def _twice(ring):
    return 2 * ring[0], 2 * ring[1], 2 * ring[2], 2 * ring[3]


@helper
def _chance(h, which):
    """A number in 0 to 1 of a cell, another for each `which`."""
    return F(_mixed((h + (which + 1) * 0x9E3779B9) & _MASK) >> 8) * F(1.0 / (1 << 24))


@helper
def _two_chances(h):
    """Two numbers in 0 to 1 of a cell, without mixing its bits again."""
    return F(h & 0xFFFF) * F(1.0 / 0x10000), F(h >> 16) * F(1.0 / 0x10000)


@helper
def _covered(d, w):
    """The share of a footprint w wide that is inside an edge at distance d, which is negative inside."""
    return min(max(F(0.5) - d / w, F(0.0)), F(1.0))


@helper
def _paint_of(row, h):
    """The number of the paint of a cell's shape."""
    # Of 32 bits: a division of 64 takes as long as the rest of a lookup.
    return 1 + int(np.uint32(h) % np.uint32(max(int(row[PAINTS]) - 1, 1)))


@helper
def _paint(row, paints, number, variant):
    return row4(paints, int(row[FIRST_PAINT]) + number * VARIANTS + variant)


@helper
def _paint_in(row, paints, h):
    """The paint (premultiplied r, g, b, a) of a cell's shape, in one of its variants."""
    return _paint(row, paints, _paint_of(row, h), _mixed(h) % VARIANTS)


@helper
def _up_to(x, begin, end):
    """How much of 0 to x the intervals from `begin` to `end` of every cell take."""
    whole = floorf(x)
    return whole * (end - begin) + min(max(x - whole - begin, F(0.0)), end - begin)


@helper
def _interval(x, w, begin, end):
    """The share that the intervals from `begin` to `end` of every cell take of a footprint w wide about x."""
    x -= floorf(x)
    return (_up_to(x + F(0.5) * w, begin, end) - _up_to(x - F(0.5) * w, begin, end)) / w


@helper
def _bands(row, paints, x, w):
    """Bands of all paints across x, the ground's first."""
    shapes = int(row[PAINTS]) - 1
    each = row[FILL] / F(shapes)
    ground = F(1.0) - row[FILL]
    total = F(0.0), F(0.0), F(0.0), F(0.0)
    for number in range(shapes + 1):
        begin = ground + each * F(number - 1) if number > 0 else F(0.0)
        share = _interval(x, w, begin, begin + each if number > 0 else ground)
        total = along4(total, _paint(row, paints, number, 0), share)
    return total


# What lies over the ground is at most two shapes, each as (bits of its cell, the share of a footprint that it
# covers, the share of that which is painted and not ground). It is painted in one place, as code that is
# compiled once: these kernels are part of every kernel that looks at a surface.
NO_SHAPE = (0, F(0.0), F(0.0))


@helper
def _checks(row, i, j, ring, w):
    # Two squares to a cell each way.
    x, y = (
        F(2.0) * _interval(i, w, F(0.0), F(0.5)) - F(1.0),
        F(2.0) * _interval(j, w, F(0.0), F(0.5)) - F(1.0),
    )
    h = _cell(floor(F(2.0) * i), floor(F(2.0) * j), _twice(ring), int(row[SEED]))
    return h, F(0.5) - F(0.5) * x * y, F(1.0)


@helper
def _walls(row, i, j, ring, w, long):
    """Bricks (`long` 2) and tiles (1): what is between them is as wide along as across."""
    joint = F(0.5) * (F(1.0) - row[FILL])
    ci, cj = floor(i), floor(j)
    if long > F(1.0) and cj & 1 != 0:
        i += F(0.5)
        ci = floor(i)
    h = _cell(ci, cj, ring, int(row[SEED]))
    along, across = joint / long, w / long
    share = _interval(i, across, along, F(1.0) - along) * _interval(j, w, joint, F(1.0) - joint)
    return h, share, F(1.0)


@helper
def _star(x, y, r, points, turn):
    """How far the edge of a star is whose outer radius is r, one of its points at `turn` from upright."""
    sector = _TURN / points
    angle = math.atan2(x, y) + turn
    angle = abs(angle - sector * floorf(angle / sector + F(0.5)))
    far = math.sqrt(x * x + y * y)
    px, py = far * math.cos(angle), far * math.sin(angle)
    half = F(0.5) * sector
    # The edge from a point (r, 0) to the notch beside it.
    ex, ey = r * _INNER_RADIUS * math.cos(half) - r, r * _INNER_RADIUS * math.sin(half)
    return ((px - r) * ey - py * ex) / math.sqrt(max(ex * ex + ey * ey, F(1e-12)))


@helper
def _single(row, which, h, x, y):
    """How far the edge of a cell's dot, star or bubble is from (x, y), from the middle of the cell."""
    if which == BUBBLES:
        across, up = _two_chances(h)
        x -= F(0.9) * (across - F(0.5))
        y -= F(0.9) * (up - F(0.5))
        share = _chance(h, 2)
        r = (_BUBBLE_RADII[0] + (_BUBBLE_RADII[1] - _BUBBLE_RADII[0]) * share * share) * F(2.0) * row[FILL]
        return math.sqrt(x * x + y * y) - min(r, F(1.0))
    if row[PLACE_JITTER] > F(0.0):
        across, up = _two_chances(h)
        x -= row[PLACE_JITTER] * (across - F(0.5))
        y -= row[PLACE_JITTER] * (up - F(0.5))
    r = F(0.5) * row[FILL]
    if row[SIZE_JITTER] > F(0.0):
        r *= F(1.0) - row[SIZE_JITTER] * _chance(h, 2)
    if which == DOTS:
        return math.sqrt(x * x + y * y) - r
    return _star(x, y, r, row[POINTS], row[TURN_JITTER] * (_chance(h, 3) - F(0.5)) * _TURN)


@helper
def _shapes(row, which, i, j, ring, w):
    """Dots, stars and bubbles: of those that meet a footprint, the two that lie highest, the lower first."""
    ci, cj = floor(i), floor(j)
    seed = int(row[SEED])
    top, below = 0, 0
    top_share, below_share = F(0.0), F(0.0)
    for dj in range(-1, 2):
        for di in range(-1, 2):
            h = _cell(ci + di, cj + dj, ring, seed)
            x, y = i - F(ci + di) - F(0.5), j - F(cj + dj) - F(0.5)
            share = _covered(_single(row, which, h, x, y), w)
            if share <= F(0.0):
                continue
            if h > top:
                below, below_share = top, top_share
                top, top_share = h, share
            elif h > below:
                below, below_share = h, share
    return (below, below_share, F(1.0)), (top, top_share, F(1.0))


@helper
def _scales(row, i, j, ring, w):
    """Rows of discs, each over that below it: of those that meet a footprint, the two that lie highest, the
    lower first."""
    top, below = NO_SHAPE, NO_SHAPE
    for down in range(4):
        cj = floor(j) + 2 - down
        offset = F(0.5) if cj & 1 != 0 else F(0.0)
        ci = floor(i + offset)
        x, y = i + offset - F(ci) - F(0.5), F(0.5) * (j - F(cj))
        d = math.sqrt(x * x + y * y)
        share = _covered(d - _SCALE_RADIUS, w)
        if share <= F(0.0):
            continue
        shape = _cell(ci, cj, ring, int(row[SEED])), share, _covered(d - _SCALE_RADIUS * row[FILL], w)
        if top[1] > F(0.0):
            below = shape
            break
        top = shape
        if share >= F(1.0):
            break
    return below, top


# A cell's point lies in the middle of it, so far from its sides.
_POINT_FROM, _POINT_ROOM = F(0.1), F(0.8)
# A cell and those around it, from where most of the nearest points are to where few are.
_NEAREST_FIRST = np.array(
    [(0, 0), (-1, 0), (1, 0), (0, -1), (0, 1), (-1, -1), (1, -1), (-1, 1), (1, 1)], np.int64
)


@helper
def _nearest_two(i, j, ring, seed):
    """(bits of the cell whose point is nearest, of that next nearest, way to the border between them)."""
    ci, cj = floor(i), floor(j)
    first, second = 0, 0
    near, next_near = F(1e9), F(1e9)
    nx, ny, mx, my = F(0.0), F(0.0), F(1.0), F(0.0)
    for number in range(9):
        ni, nj = ci + _NEAREST_FIRST[number, 0], cj + _NEAREST_FIRST[number, 1]
        # From there to the corner of where the cell's point can be.
        x, y = F(ni) + _POINT_FROM - i, F(nj) + _POINT_FROM - j
        least_x, least_y = max(max(x, -x - _POINT_ROOM), F(0.0)), max(max(y, -y - _POINT_ROOM), F(0.0))
        if least_x * least_x + least_y * least_y >= next_near:
            continue
        h = _cell(ni, nj, ring, seed)
        across, up = _two_chances(h)
        x, y = x + _POINT_ROOM * across, y + _POINT_ROOM * up
        d = x * x + y * y
        if d < near:
            second, next_near, mx, my = first, near, nx, ny
            first, near, nx, ny = h, d, x, y
        elif d < next_near:
            second, next_near, mx, my = h, d, x, y
    apart = math.sqrt(max((mx - nx) * (mx - nx) + (my - ny) * (my - ny), F(1e-9)))
    return first, second, (next_near - near) / (F(2.0) * apart)


@helper
def _gap(row, h):
    """How far a chip of terrazzo stays from the border of its cell."""
    return F(0.45) * (F(1.0) - row[FILL]) * (F(0.3) + F(1.4) * _chance(h, 2))


@helper
def _facet(row, h):
    """The slope (3,) of a crystal's facet."""
    # Whole turns to and fro, so that all are back where they began after one of the phase.
    turns = F(1 + (h >> 3) % 2) * (F(1.0) if h & 4 != 0 else F(-1.0))
    angle = _TURN * _chance(h, 3) + turns * row[PHASE]
    steep = row[TILT] * math.sqrt(_chance(h, 4))
    return (
        steep * math.cos(angle),
        steep * math.sin(angle),
        steep * math.cos(angle + _TURN * _chance(h, 5)),
    )


@helper
def _slope_of(row, below, top):
    """The slope (3,) of two facets that meet in a footprint."""
    x, y, z = F(0.0), F(0.0), F(0.0)
    for number in range(2):
        h, share = (below[0], F(1.0) - top[1]) if number == 0 else (top[0], top[1])
        way = _facet(row, h)
        x, y, z = x + way[0] * share, y + way[1] * share, z + way[2] * share
    return x, y, z


@helper
def _painted(row, paints, below, top):
    """The paint of a footprint that shows the ground and two shapes over it."""
    ground = _paint(row, paints, 0, 0)
    colour = ground
    for number in range(2):
        h, share, inner = below if number == 0 else top
        if share > F(0.0) and (number == 1 or top[1] < F(1.0)):
            colour = mix4(colour, mix4(ground, _paint_in(row, paints, h), inner), share)
    return colour


@helper
def _fading(x, begin, end):
    t = min(max((x - begin) / (end - begin), F(0.0)), F(1.0))
    return t * t * (F(3.0) - F(2.0) * t)


@helper
def _cloud(row, paints, q, w):
    """Noise from thin to dense, along all paints; q are three coordinates in cells."""
    total, amplitude, size = F(0.0), F(0.6), F(1.0)
    for octave in range(_OCTAVES):
        keeps = F(1.0) - _fading(w * size, F(0.3), F(1.0))
        if keeps <= F(0.0):
            break
        seed = int(row[SEED]) + octave * 71
        total += keeps * amplitude * noise(q[0] * size, q[1] * size, q[2] * size, seed)
        amplitude, size = amplitude * F(0.5), size * F(2.03)
    dense = min(max(row[FILL] + _CLOUD_CONTRAST * total * F(0.5), F(0.0)), F(1.0))
    last = int(row[PAINTS]) - 1
    place = dense * F(last)
    low = min(int(place), last - 1)
    return mix4(_paint(row, paints, low, 0), _paint(row, paints, low + 1, 0), place - F(low))


@routine
def pattern_at(row, paints, i, j, q, ring, width):
    """(premultiplied r, g, b, a; slope (3,)) of a pattern at (i, j) in cells, the mean over a footprint of
    `width` sizes of the pattern; q are three coordinates in cells for what fills space."""
    none = F(0.0), F(0.0), F(0.0)
    mean = row[MEAN], row[MEAN + 1], row[MEAN + 2], row[MEAN + 3]
    which = int(row[PATTERN])
    faded = _fading(width, _FADES_FROM, _FADES_TO) if which != CLOUD else F(0.0)
    if faded >= F(1.0) or abs(i) > _FARTHEST or abs(j) > _FARTHEST:
        return mean, none
    w, slope = max(width, F(1e-4)), none
    if which in (STRIPES, WAVES):
        across, wide = j, w
        if which == WAVES:
            steep = _WAVE_HEIGHT * F(math.pi) * math.cos(_TURN * i)
            across, wide = j + _WAVE_HEIGHT * math.sin(_TURN * i), w * math.sqrt(F(1.0) + steep * steep)
        colour = _bands(row, paints, across, wide)
    elif which == CLOUD:
        colour = _cloud(row, paints, q, w)
    else:
        below, top = NO_SHAPE, NO_SHAPE
        if which == CHECKS:
            top = _checks(row, i, j, ring, w)
        elif which == SCALES:
            below, top = _scales(row, i, j, ring, w)
        elif which in (BRICKS, TILES):
            top = _walls(row, i, j, ring, w, F(2.0) if which == BRICKS else F(1.0))
        elif which in (TERRAZZO, CRYSTALS):
            first, second, border = _nearest_two(i, j, ring, int(row[SEED]))
            if which == CRYSTALS:
                below, top = (second, F(1.0), F(1.0)), (first, _covered(-border, w), F(1.0))
                slope = _slope_of(row, below, top)
            else:
                top = first, _covered(_gap(row, first) - border, w), F(1.0)
        else:
            below, top = _shapes(row, which, i, j, ring, w)
        colour = _painted(row, paints, below, top)
    if faded > F(0.0):
        rest = F(1.0) - faded
        return mix4(colour, mean, faded), (slope[0] * rest, slope[1] * rest, slope[2] * rest)
    return colour, slope


# A mean is taken of so many cells each way, at so many points of each.
_MEAN_CELLS, _MEAN_POINTS = 16, 8


@routine
def _add_up(row, paints, total):
    step = F(1.0 / _MEAN_POINTS)
    for y in range(_MEAN_CELLS * _MEAN_POINTS):
        for x in range(_MEAN_CELLS * _MEAN_POINTS):
            i, j = (F(x) + F(0.5)) * step, (F(y) + F(0.5)) * step
            colour, _ = pattern_at(row, paints, i, j, (i, j, F(0.0)), (0, 0, 0, 0), step)
            for c in range(4):
                total[c] += colour[c]


def mean_paint(row: NDArray[np.float32], paints: NDArray[np.float32]) -> NDArray[np.float64]:
    """The mean (4,), premultiplied, of a pattern over many cells; row: its PATTERN_COLUMNS numbers."""
    total = np.zeros(4)
    _add_up(row, paints, total)
    return total / (_MEAN_CELLS * _MEAN_POINTS) ** 2


def variants_of(paints: NDArray[np.float64], hue: float, tone: float, seed: int) -> NDArray[np.float64]:
    """Paints (n · VARIANTS, 4), premultiplied, from paints (n, 4): their hue is turned at random by up to
    `hue` radians and their light multiplied by up to e^`tone`, either way. Without both all are alike."""
    chance = np.random.default_rng(seed).uniform(-1, 1, (2, VARIANTS))
    chance[:, 0] = 0
    opacity = paints[:, None, 3:]
    colour = np.repeat(np.divide(paints[:, None, :3], np.maximum(opacity, 1e-9)), VARIANTS, axis=1)
    if hue > 0:
        lab = linear_to_oklab(colour)
        c, s = np.cos(chance[0] * hue), np.sin(chance[0] * hue)
        a, b = lab[..., 1].copy(), lab[..., 2].copy()
        lab[..., 1], lab[..., 2] = a * c - b * s, a * s + b * c
        colour = oklab_to_linear(lab)
    colour = np.clip(colour * np.exp(chance[1] * tone)[:, None], 0, 1)
    whole = np.concatenate([colour * opacity, np.repeat(opacity, VARIANTS, axis=1)], axis=-1)
    return np.asarray(whole.reshape(-1, 4))
