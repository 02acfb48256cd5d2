"""The samples of a tile: a ray from the camera for each, through the filter and the lens."""

import math
from typing import NamedTuple

import numpy as np

from halvex.core.kernels import helper, kernel
from halvex.core.optics.vectors import F, scale
from halvex.core.references import by_reference
from halvex.core.render import channels
from halvex.core.render.aovs import add3
from halvex.core.render.beams import leaves_in_beam
from halvex.core.render.behind import backdrop_light, has_backdrop
from halvex.core.render.camera_rays import camera_ray, lens_ray
from halvex.core.render.hits import SEARCH
from halvex.core.render.lights import disc
from halvex.core.render.path import DIMENSION_FILTER, DIMENSION_LENS, trace_path
from halvex.core.render.sampler import draw, forget_numbers, pixel_key, sample_2d
from halvex.core.scene.ground import NO_GROUND

# Radius of the tent filter in px of the picture.
FILTER_RADIUS = F(0.8)

# A pixel's first samples, as powers of two, that are spread between neighbours too (sampler.py):
# those of a first clean picture.
EARLY_ON_LETTERS, EARLY_ON_GROUND = 2, 1


class Sampling(NamedTuple):
    """Which samples the pixels of a film get.

    counts (rows, width): those that each has had, updated as they are added; more (rows, width): those to
    add; cover (rows, width): whether letters may be seen; spread: how far apart a pixel's rays run
    (cover.py); first_row: the row of the picture that is row 0 of the film.
    """

    counts: np.ndarray
    more: np.ndarray
    cover: np.ndarray
    spread: np.float32
    first_row: int
    seed: int


@helper
def _tent(u):
    """From [0, 1) to [-1, 1] with the density of a tent."""
    return math.copysign(F(1.0) - math.sqrt(F(2.0) * min(u, F(1.0) - u)), u - F(0.5))


@helper
def _sample_ray(camera, x, y, key, index, scratch):
    """(origin, direction) of a sample's ray, the pixel's middle being at (x, y) of the picture."""
    draw(scratch, key, index, DIMENSION_FILTER, DIMENSION_FILTER + 1)
    u1, u2 = sample_2d(scratch, key, index, DIMENSION_FILTER)
    o, d = camera_ray(camera, x + FILTER_RADIUS * _tent(u1), y + FILTER_RADIUS * _tent(u2))
    if camera.lens > F(0.0):
        draw(scratch, key, index, DIMENSION_LENS, DIMENSION_LENS + 1)
        u1, u2 = sample_2d(scratch, key, index, DIMENSION_LENS)
        a, b = disc(u1, u2)
        return lens_ray(camera, o, d, a, b)
    return o, d


@kernel
def render_tile(world, film, sampling, tile, rules, photons, scratch):
    """Add samples to the pixels of a tile (x0, y0, x1, y1) of `film` (rows, width, channels); those at x1
    and y1 are not in it; photons: the map of the ground."""
    world, sampling, scratch = by_reference(world), by_reference(sampling), by_reference(scratch)
    photons = by_reference(photons)
    x0, y0, x1, y1 = tile
    counts, more, cover = sampling.counts, sampling.more, sampling.cover
    for row in range(y0, y1):
        for x in range(x0, x1):
            first, last = counts[row, x], counts[row, x] + more[row, x]
            if first == last:
                continue
            counts[row, x] = last
            y = row + sampling.first_row
            middle_x, middle_y = F(x) + F(0.5), F(y) + F(0.5)
            leaves = 0
            if cover[row, x] != 0:
                o, d = camera_ray(world.camera, middle_x, middle_y)
                listed = sampling.spread >= F(0.0)
                leaves = leaves_in_beam(world, o, d, sampling.spread, scratch) if listed else SEARCH
            if leaves == 0 and world.ground.kind == NO_GROUND:
                seen = F(last - first)
                add3(film[row, x], channels.THROUGH, (seen, seen, seen))
                if has_backdrop(world) and not rules.transparent:
                    # Its layers are means over a pixel as they are.
                    o, d = camera_ray(world.camera, middle_x, middle_y)
                    light = scale(backdrop_light(world, o, d), seen)
                    halves = F((last + 1) // 2 - (first + 1) // 2) / seen
                    add3(film[row, x], channels.FLAT, light)
                    add3(film[row, x], channels.HALF, scale(light, halves))
                continue
            early = EARLY_ON_LETTERS if cover[row, x] != 0 else EARLY_ON_GROUND
            key = pixel_key(x, y, sampling.seed, early, last - first)
            forget_numbers(scratch)
            for index in range(first, last):
                o, d = _sample_ray(world.camera, middle_x, middle_y, key, index, scratch)
                trace_path(world, film[row, x], (o, d, leaves), (key, index), rules, photons, scratch)
