"""The surround as the ground of a draft sees it: 32 parts that light it alike, each seen in one direction.

Over the ground lies a hemisphere, cut into cells that all count the same (by the cosine). It is halved where
each half sends as much light, and these again, five times (Debevec, "A Median Cut Algorithm for Light Probe
Sampling", SIGGRAPH 2005 posters). So a bright card is seen in many directions and casts a shadow, and what is
hidden of a dark corner makes no difference.
"""

import math
from typing import NamedTuple

import numpy as np

from halvex.core.kernels import helper, kernel
from halvex.core.optics.scattering import cosine_sample
from halvex.core.optics.vectors import F, add, basis, dot, luminance_of, normalise, row3, scale, to_world
from halvex.core.references import by_reference
from halvex.core.render.draft.cells import spot
from halvex.core.render.world import World
from halvex.core.scene.ground import COVE
from halvex.core.scene.surround import radiance_from

PARTS, HALVINGS = 32, 5
# So many neighbouring parts of the hemisphere have numbers that follow one another.
GROUP = 4
# Cells of the hemisphere, from its pole to the horizon and around.
RINGS, SECTORS = 24, 64
# Light of a black surround counts everywhere the same.
LEAST_LIGHT = F(1e-6)


class Sky(NamedTuple):
    """What the ground sees of the surround, for each of its normals (n, 3): the direction (n, PARTS, 3) of
    each part, and its share (n, PARTS, 3) of the red, green and blue light of all."""

    normal: np.ndarray
    direction: np.ndarray
    share: np.ndarray


class SkyMemory(NamedTuple):
    """Working memory of `sky_of`: the light (RINGS, SECTORS, 4) of the hemisphere's cells, its colour and how
    bright that is; and the first and last rings and sectors (PARTS, 4) of each part."""

    light: np.ndarray
    spans: np.ndarray


def sky_of(world: World) -> Sky:
    """What the ground of a world sees of its surround: a floor and the wall behind it have two normals."""
    ground = world.ground
    normals = [ground.normal, (0.0, 0.0, 1.0)] if ground.kind == COVE else [ground.normal]
    each = len(normals), PARTS, 3
    sky = Sky(np.array(normals, np.float32), np.zeros(each, np.float32), np.zeros(each, np.float32))
    memory = SkyMemory(np.zeros((RINGS, SECTORS, 4), np.float32), np.zeros((PARTS, 4), np.int32))
    _fill_sky(world, sky, memory)
    return sky


@helper
def part_at(x, y):
    """The part that the cell (x, y) looks at: of 8 × 8 cells, every second one like a chessboard, each has
    another, and of any 4 × 4 each one of another group of neighbouring parts."""
    i, j = spot(x, y)
    group = (i >> 1) + 2 * j
    return GROUP * group + ((((x >> 2) & 1) + 2 * ((y >> 2) & 1) + group) & 3)


@helper
def facing_of(sky, n):
    """The number of the normal that the ground's normal n is nearest to."""
    nearest = 0
    for k in range(1, sky.normal.shape[0]):
        if dot(row3(sky.normal, k), n) > dot(row3(sky.normal, nearest), n):
            nearest = k
    return nearest


@helper
def _cell_direction(ring, sector):
    """The direction over z of a cell's middle."""
    return cosine_sample((F(ring) + F(0.5)) / F(RINGS), (F(sector) + F(0.5)) / F(SECTORS))


@helper
def _is_longer_around(span):
    """Whether a part is longer around the pole than from it to the horizon, as seen from above."""
    near, far = math.sqrt(F(span[0]) / F(RINGS)), math.sqrt(F(span[1]) / F(RINGS))
    around = F(math.pi) * (near + far) * F(span[3] - span[2]) / F(SECTORS)
    return around > far - near


@helper
def _halve(light, spans, first, second):
    """Give half of the light of part `first` to part `second`: across its longer side, between two cells."""
    a, b = spans[first], spans[second]
    around = _is_longer_around(a)
    if a[3] - a[2] < 2:
        around = False
    elif a[1] - a[0] < 2:
        around = True
    side = 2 if around else 0
    for c in range(4):
        b[c] = a[c]
    if a[side + 1] - a[side] < 2:
        # A single cell: both see it.
        return
    whole = F(0.0)
    for ring in range(a[0], a[1]):
        for sector in range(a[2], a[3]):
            whole += light[ring, sector, 3]
    cut, below, last = a[side], F(0.0), F(0.0)
    while cut < a[side + 1] - 1 and (below < F(0.5) * whole or cut == a[side]):
        last = F(0.0)
        if around:
            for ring in range(a[0], a[1]):
                last += light[ring, cut, 3]
        else:
            for sector in range(a[2], a[3]):
                last += light[cut, sector, 3]
        below += last
        cut += 1
    if cut - 1 > a[side] and below - F(0.5) * whole > F(0.5) * last:
        cut -= 1
    a[side + 1], b[side] = cut, cut


@kernel
def _fill_sky(world, sky, memory):
    """Fill the directions and shares of a sky."""
    world = by_reference(world)
    light, spans = memory
    for k in range(sky.normal.shape[0]):
        n = row3(sky.normal, k)
        s, t = basis(n)
        for ring in range(RINGS):
            for sector in range(SECTORS):
                seen = radiance_from(world.surround, to_world(_cell_direction(ring, sector), s, t, n))
                seen = add(seen, (LEAST_LIGHT, LEAST_LIGHT, LEAST_LIGHT))
                for c in range(3):
                    light[ring, sector, c] = seen[c]
                light[ring, sector, 3] = luminance_of(seen)
        spans[0, 0], spans[0, 1], spans[0, 2], spans[0, 3] = 0, RINGS, 0, SECTORS
        for halving in range(HALVINGS):
            apart = PARTS >> halving
            for part in range(0, PARTS, apart):
                _halve(light, spans, part, part + (apart >> 1))
        whole = (F(0.0), F(0.0), F(0.0))
        for part in range(PARTS):
            span, way, own = spans[part], (F(0.0), F(0.0), F(0.0)), (F(0.0), F(0.0), F(0.0))
            for ring in range(span[0], span[1]):
                for sector in range(span[2], span[3]):
                    own = add(own, row3(light[ring], sector))
                    way = add(way, scale(_cell_direction(ring, sector), light[ring, sector, 3]))
            way, whole = to_world(normalise(way), s, t, n), add(whole, own)
            for c in range(3):
                sky.direction[k, part, c], sky.share[k, part, c] = way[c], own[c]
        for part in range(PARTS):
            for c in range(3):
                sky.share[k, part, c] /= whole[c]
