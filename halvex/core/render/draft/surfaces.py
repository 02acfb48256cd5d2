"""What each pixel of a draft sees: point, normals and material of the first surface."""

from typing import NamedTuple

import numpy as np

from halvex.core.optics.vectors import F, dot, helper, kernel, sub
from halvex.core.render.draft.raster import NO_TRIANGLE
from halvex.core.render.hits import FAR, GROUND, LETTER, camera_ray, facing, first_hit, ground_hit, on_ground, on_triangle, surface_at

# Rows of `Surfaces.place`.
POINT, NORMAL, GEOMETRIC = 0, 1, 2
NOTHING_SEEN = -1


class Surfaces(NamedTuple):
    """material (H, W) int32, NOTHING_SEEN for nothing; place (H, W, 3, 3): point, shading and geometric normal, kept of letters
    alone: the ground's are quicker worked out (`ground_at`)."""

    material: np.ndarray
    place: np.ndarray


def no_surfaces(height: int, width: int) -> Surfaces:
    """Room for what a picture's pixels see, of even sides."""
    height, width = height + height % 2, width + width % 2
    return Surfaces(np.full((height, width), NOTHING_SEEN, np.int32), np.zeros((height, width, 3, 3), np.float32))


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
def _drawn_hit(world, o, d, triangle, place, b1, b2):
    """`first_hit` where a letter was drawn (raster.py)."""
    t = dot(sub(on_triangle(world, place, triangle, b1, b2), o), d)
    return LETTER, t, place, triangle, b1, b2


@helper
def _put(place, p, ns, ng):
    for c in range(3):
        place[POINT, c] = p[c]
        place[NORMAL, c] = ns[c]
        place[GEOMETRIC, c] = ng[c]


@kernel
def first_surfaces(world, cover, triangle, place, weights, surfaces, y0, y1, scratch):
    """Fill rows y0..y1-1 of the surfaces.

    triangle, place, weights: letters drawn (raster.py), or cover (H, W): where rays shall look for them (cover.py); of these
    two, one has no rows.
    """
    drawn = triangle.shape[0] > 0
    width = surfaces.material.shape[1]
    for y in range(y0, y1):
        # What sees the ground in a row is one stretch of it.
        all_along = sees_ground(world, y, 0) and sees_ground(world, y, width - 1)
        for x in range(width):
            if (drawn and triangle[y, x] == NO_TRIANGLE) or (not drawn and cover[y, x] == 0):
                surfaces.material[y, x] = world.ground.material if all_along or sees_ground(world, y, x) else NOTHING_SEEN
                continue
            o, d = ray_of(world, y, x)
            if drawn:
                kind, t, at, tri, b1, b2 = _drawn_hit(world, o, d, triangle[y, x], place[y, x], weights[y, x, 0], weights[y, x, 1])
            else:
                kind, t, at, tri, b1, b2 = first_hit(world, o, d, FAR, scratch)
            if kind != LETTER:
                surfaces.material[y, x] = world.ground.material if kind == GROUND else NOTHING_SEEN
                continue
            p, ns, ng, m = surface_at(world, kind, o, d, t, at, tri, b1, b2)
            surfaces.material[y, x] = m
            _put(surfaces.place[y, x], p, facing(ns, ng, (-d[0], -d[1], -d[2])), ng)
