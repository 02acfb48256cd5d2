"""Where does a ray go? The nearest hit on a letter or the ground.

Triangles are tested eight at once (lanes.py) and watertight: no ray slips through an edge that two of them
share. `scratch` is the calling thread's working memory (world.py).
"""

import math
from typing import NamedTuple

import numpy as np

from halvex.core.kernels import helper
from halvex.core.optics.eight import LANES
from halvex.core.optics.vectors import F, dot, row3, sub
from halvex.core.render.frames import AT, into_body, to_frame
from halvex.core.render.lanes import eight_triangles, lowest_bit, prefetch_triangle
from halvex.core.render.traversal import TINY, bits_of, in_frame_of, pick, shear_of, walk_body, walk_letters
from halvex.core.scene.ground import COVE, WALL

FAR = F(1.0e30)
# In place of a number of leaves (beams.py): they are not listed.
SEARCH = -1

NOTHING, LETTER, GROUND = -1, 0, 1
# Which hit on a letter: the nearest, any, or any of a block that shades the ground.
NEAREST, ANY, ANY_SHADING_GROUND = 0, 1, 2


class Hit(NamedTuple):
    """Where a ray meets something: NOTHING, LETTER or GROUND; its distance; of a letter the
    instance, the triangle and the barycentric weights of its second and third corner."""

    kind: int
    t: np.float32
    instance: int
    triangle: int
    b1: np.float32
    b2: np.float32


class Sheared(NamedTuple):
    """A ray as the watertight test takes it: origin and order of the axes, both permuted, and the shear
    that turns the ray into the z axis (`shear_of`)."""

    o: tuple[np.float32, np.float32, np.float32]
    order: tuple[int, int, int]
    shear: tuple[np.float32, np.float32, np.float32]


@helper
def sheared(o, shear):
    """The ray from o of a direction that has this shear."""
    kx, ky, kz, sx, sy, sz = shear
    return Sheared((pick(o, kx), pick(o, ky), pick(o, kz)), (kx, ky, kz), (sx, sy, sz))


@helper
def triangles_met(letters, packet, ray, far, lanes):
    """Mask of the triangles of a packet that a sheared ray meets before `far`; what is known of them goes
    to the lanes (lanes.py)."""
    o, order, shear = ray
    return eight_triangles(
        letters.bodies.packets,
        packet,
        order[0],
        order[1],
        order[2],
        o[0],
        o[1],
        o[2],
        shear[0],
        shear[1],
        shear[2],
        far,
        lanes,
    )


@helper
def _nearest_in_leaf(letters, packet, ray, found, scratch):
    """What was found (distance, instance, triangle, b1, b2), or the nearer triangle of a leaf."""
    lanes = scratch.lanes
    best, instance, tri, b1, b2 = found
    mask = triangles_met(letters, packet, ray, best, lanes)
    while mask != 0:
        k = lowest_bit(mask)
        mask &= mask - 1
        if lanes[AT(k)] < best:
            best, tri = lanes[AT(k)], np.int64(letters.bodies.first[AT(packet)] + k)
            b1, b2 = lanes[AT(LANES + k)], lanes[AT(2 * LANES + k)]
            prefetch_triangle(letters.bodies.corners, tri)
            prefetch_triangle(letters.bodies.normals, tri)
    return best, instance, tri, b1, b2


@helper
def _at_leaf(asked, leaf, near, found, scratch, base):
    letters, ray, any_hit = asked
    found = _nearest_in_leaf(letters, leaf, ray, found, scratch)
    return found, any_hit and found[2] >= 0


@helper
def _at_instance(asked, i, near, found, scratch, base):
    world, ray, wanted = asked
    any_hit = wanted != NEAREST
    if wanted == ANY_SHADING_GROUND and world.backing.shading[world.frame_of[AT(i)]] == 0:
        return found, False
    letters = world.letters
    o, d, inverse = in_frame_of(letters, i, ray)
    best, instance, _, _, _ = found
    t, _, k, u, v = walk_body(
        (letters.bodies.boxes, letters.bodies.child, letters.root[AT(i)], letters.bodies.packets),
        (o, inverse, F(0.0)),
        not any_hit,
        _at_leaf,
        (letters, sheared(o, shear_of(d)), any_hit),
        (best, instance, np.int64(-1), F(0.0), F(0.0)),
        scratch,
        base,
    )
    if k < 0:
        return found, False
    return (t, np.int64(i), k, u, v), any_hit


@helper
def in_letters(world, o, d, far, wanted, scratch):
    """The letter hit that is wanted, NEAREST, ANY or ANY_SHADING_GROUND: (t, instance, triangle, b1, b2);
    o, d in the world."""
    nothing = (far, np.int64(-1), np.int64(-1), F(0.0), F(0.0))
    t, instance, tri, b1, b2 = walk_letters(
        world, (o, d, F(0.0)), wanted == NEAREST, _at_instance, wanted, nothing, scratch
    )
    return t if instance >= 0 else FAR, instance, tri, b1, b2


@helper
def _in_leaves(world, o, d, count, scratch):
    """Nearest hit in the leaves listed: (t, instance, triangle, b1, b2)."""
    letters, leaves = world.letters, scratch.leaves
    lo, ld = to_frame(world.turn, o), to_frame(world.turn, d)
    straight_shear = shear_of(ld)
    found = (FAR, np.int64(-1), np.int64(-1), F(0.0), F(0.0))
    for i in range(count):
        if leaves[AT(i), 0] >= bits_of(found[0]):
            break
        at = np.int64(leaves[AT(i), 1])
        own = into_body(letters, at, sub(lo, row3(letters.offset, AT(at))))
        shear = straight_shear if letters.straight[AT(at)] != 0 else shear_of(into_body(letters, at, ld))
        t, _, tri, b1, b2 = _nearest_in_leaf(letters, leaves[AT(i), 2], sheared(own, shear), found, scratch)
        if t < found[0]:
            found = (t, at, tri, b1, b2)
    return found


@helper
def ground_hit(ground, o, d, far):
    """(t or FAR, normal) of the ground; only its front is there."""
    up = (F(0.0), F(1.0), F(0.0))
    if ground.kind == WALL:
        n = ground.normal
        facing = dot(n, d)
        if facing < -TINY:
            p = ground.point
            t = ((p[0] - o[0]) * n[0] + (p[1] - o[1]) * n[1] + (p[2] - o[2]) * n[2]) / facing
            if F(0.0) < t < far:
                return t, n
        return FAR, up
    if ground.kind != COVE:
        return FAR, up
    best, normal = FAR, up
    r = ground.radius
    cy, cz = ground.floor + r, ground.back + r
    if d[1] < -TINY:
        t = (ground.floor - o[1]) / d[1]
        if F(0.0) < t < far and o[2] + t * d[2] >= cz:
            best, normal = t, up
    if d[2] < -TINY:
        t = (ground.back - o[2]) / d[2]
        if F(0.0) < t < min(far, best) and o[1] + t * d[1] >= cy:
            best, normal = t, (F(0.0), F(0.0), F(1.0))
    # The sweep is a quarter of a cylinder along x, seen from inside.
    oy, oz = o[1] - cy, o[2] - cz
    a = d[1] * d[1] + d[2] * d[2]
    b = oy * d[1] + oz * d[2]
    disc = b * b - a * (oy * oy + oz * oz - r * r)
    if a > TINY and disc > F(0.0):
        t = (math.sqrt(disc) - b) / a
        y, z = oy + t * d[1], oz + t * d[2]
        if F(0.0) < t < min(far, best) and y < F(0.0) and z < F(0.0):
            best, normal = t, (F(0.0), -y / r, -z / r)
    return best, normal


@helper
def first_hit(world, o, d, far, scratch):
    """The nearest letter or ground, as a Hit.

    All letters stand in front of the ground (scene/ground.py), and it bulges nowhere towards them:
    it hides none.
    """
    t, place, tri, b1, b2 = in_letters(world, o, d, far, NEAREST, scratch)
    if place >= 0:
        return Hit(np.int32(LETTER), t, np.int32(place), np.int32(tri), b1, b2)
    t, _ = ground_hit(world.ground, o, d, far)
    return Hit(np.int32(GROUND if t < far else NOTHING), t, np.int32(-1), np.int32(-1), F(0.0), F(0.0))


@helper
def seen_hit(world, o, d, leaves, scratch):
    """`first_hit` of a ray that may meet the leaves listed alone; all there are for SEARCH."""
    if leaves == SEARCH:
        return first_hit(world, o, d, FAR, scratch)
    if leaves > 0:
        t, place, tri, b1, b2 = _in_leaves(world, o, d, leaves, scratch)
        if place >= 0:
            return Hit(np.int32(LETTER), t, np.int32(place), np.int32(tri), b1, b2)
    t, _ = ground_hit(world.ground, o, d, FAR)
    return Hit(np.int32(GROUND if t < FAR else NOTHING), t, np.int32(-1), np.int32(-1), F(0.0), F(0.0))
