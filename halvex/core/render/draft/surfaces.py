"""What each pixel of a draft sees: point, normals and material of the primary hit."""

from typing import NamedTuple

import numpy as np

from halvex.core.kernels import helper, kernel, routine
from halvex.core.optics.vectors import F, row3
from halvex.core.references import by_reference
from halvex.core.render.camera_rays import camera_ray
from halvex.core.render.draft.raster import NO_TRIANGLE
from halvex.core.render.hits import FAR, GROUND, LETTER, Hit, first_hit, ground_hit
from halvex.core.render.interaction import (
    facing,
    ground_surface,
    letter_surface,
    on_ground,
    surface_at,
)

# Rows of `Surfaces.place`.
POINT, NORMAL, GEOMETRIC = 0, 1, 2
NOTHING_SEEN = -1


class Surfaces(NamedTuple):
    """material (H, W) int32, NOTHING_SEEN for nothing; of letters alone triangle, instance (H, W) int32,
    weights (H, W, 2) of the triangle's second and third corner, and place (H, W, 3, 3): point, shading and
    geometric normal. The ground's are quicker computed again (`ground_at`)."""

    material: np.ndarray
    triangle: np.ndarray
    instance: np.ndarray
    weights: np.ndarray
    place: np.ndarray


def no_surfaces(height: int, width: int) -> Surfaces:
    """Room for what a picture's pixels see, of even sides."""
    height, width = height + height % 2, width + width % 2
    shape = height, width
    return Surfaces(
        np.full(shape, NOTHING_SEEN, np.int32),
        np.full(shape, NO_TRIANGLE, np.int32),
        np.zeros(shape, np.int32),
        np.zeros((*shape, 2), np.float32),
        np.zeros((*shape, 3, 3), np.float32),
    )


@helper
def ray_of(world, y, x):
    """The camera's ray (origin, direction) through the middle of a pixel."""
    return camera_ray(world.camera, F(x) + F(0.5), F(y) + F(0.5))


@helper
def sees_ground(world, y, x):
    """Whether a pixel would see the ground if there were no letters."""
    o, d = ray_of(world, y, x)
    return ground_hit(world.ground, o, d, FAR)[0] < FAR


@helper
def ground_at(world, y, x):
    """(point, normal, direction of the camera's ray) of the ground where a pixel sees it."""
    o, d = ray_of(world, y, x)
    t, n = ground_hit(world.ground, o, d, FAR)
    return on_ground(world.ground, o, d, t, n), n, d


@helper
def on_ground_at(world, y, x):
    """(surface, direction of the camera's ray) of the ground where a pixel sees it."""
    p, n, d = ground_at(world, y, x)
    return ground_surface(world, p, n), d


@routine
def letter_at(world, surfaces, y, x):
    """The surface of the letter that a pixel sees."""
    return letter_on(world, surfaces, y, x)


@helper
def letter_on(world, surfaces, y, x):
    """The same where little of it is used, compiled into its caller, which leaves out the rest."""
    at, hit = surfaces.place[y, x], _drawn_hit(surfaces, y, x)
    m = surfaces.material[y, x]
    return letter_surface(world, hit, row3(at, POINT), row3(at, NORMAL), row3(at, GEOMETRIC), m)


@helper
def _drawn_hit(surfaces, y, x):
    """The hit on the letter that was drawn at a pixel (raster.py), without its distance, which surfaces of
    letters do not depend on."""
    return Hit(
        np.int32(LETTER),
        F(0.0),
        surfaces.instance[y, x],
        surfaces.triangle[y, x],
        surfaces.weights[y, x, 0],
        surfaces.weights[y, x, 1],
    )


@kernel
def primary_hits(world, cover, surfaces, y0, y1, scratch):
    """Fill rows y0..y1-1 of the surfaces: of the letters that were drawn on them (raster.py), or, where
    cover (H, W) has rows, that rays find where it is not 0 (cover.py)."""
    world, surfaces, scratch = by_reference(world), by_reference(surfaces), by_reference(scratch)
    drawn = cover.shape[0] == 0
    width = surfaces.material.shape[1]
    for y in range(y0, y1):
        # What sees the ground in a row is one stretch of it.
        all_along = sees_ground(world, y, 0) and sees_ground(world, y, width - 1)
        for x in range(width):
            if (drawn and surfaces.triangle[y, x] == NO_TRIANGLE) or (not drawn and cover[y, x] == 0):
                surfaces.material[y, x] = (
                    world.ground.material if all_along or sees_ground(world, y, x) else NOTHING_SEEN
                )
                continue
            o, d = ray_of(world, y, x)
            if drawn:
                hit = _drawn_hit(surfaces, y, x)
            else:
                hit = first_hit(world, o, d, FAR, scratch)
            if hit.kind != LETTER:
                surfaces.material[y, x] = world.ground.material if hit.kind == GROUND else NOTHING_SEEN
                continue
            si = surface_at(world, o, d, hit)
            surfaces.material[y, x] = si.material
            if not drawn:
                surfaces.triangle[y, x], surfaces.instance[y, x] = hit.triangle, hit.instance
                surfaces.weights[y, x, 0], surfaces.weights[y, x, 1] = hit.b1, hit.b2
            ns = facing(si.ns, si.ng, (-d[0], -d[1], -d[2]))
            for c in range(3):
                surfaces.place[y, x, POINT, c] = si.p[c]
                surfaces.place[y, x, NORMAL, c] = ns[c]
                surfaces.place[y, x, GEOMETRIC, c] = si.ng[c]


@kernel
def depths(world, surfaces, out):
    """Fill out (H, W) with z in px of what each pixel sees; where that is nothing, it stays."""
    world, surfaces = by_reference(world), by_reference(surfaces)
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            m = surfaces.material[y, x]
            if m == world.ground.material:
                out[y, x] = ground_at(world, y, x)[0][2]
            elif m != NOTHING_SEEN:
                out[y, x] = surfaces.place[y, x, POINT, 2]
