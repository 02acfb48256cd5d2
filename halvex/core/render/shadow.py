"""Shadow rays: blocked by what is opaque, tinted by glass.

Glass lets light through straight, tinted by the path inside and dimmed by Fresnel's factor at each
side: light is not bent towards caustics, so that glass throws tinted shadows without noise. Where its tint
differs from place to place, a shadow has its mean.
"""

import math
from typing import NamedTuple

import numpy as np

from halvex.core.kernels import helper
from halvex.core.optics.eight import LANES
from halvex.core.optics.material import GLASS, INDEX, THIN
from halvex.core.optics.microfacet import fresnel_dielectric
from halvex.core.optics.scattering import thin_pane
from halvex.core.optics.vectors import F, add, dot, mul, row3, scale, sub
from halvex.core.render.frames import AT
from halvex.core.render.hits import (
    ANY,
    ANY_SHADING_GROUND,
    LETTER,
    Hit,
    ground_hit,
    in_letters,
    sheared,
    triangles_met,
)
from halvex.core.render.interaction import surface_at
from halvex.core.render.lanes import lowest_bit
from halvex.core.render.traversal import in_frame_of, shear_of, walk_body, walk_letters

# No ray that ends farther off ends inside glass.
FARTHEST_GLASS_PX = F(1.0e6)


@helper
def absorbed(absorption, distance):
    """Share (rgb) of light left after a distance in px in glass that absorbs so much per px (Beer-Lambert);
    of a thin pane, which tints once, after a distance of 1."""
    return (
        math.exp(-absorption[0] * distance),
        math.exp(-absorption[1] * distance),
        math.exp(-absorption[2] * distance),
    )


@helper
def in_joint(body, overlaps, instance, entering):
    """Whether a wall of glass lies within the glass that a ray runs in, which is that of a body and, where
    strands of it run into one another, of so many more: tubes are glass throughout where they are joined."""
    return body >= 0 and instance == body and (entering or overlaps > 0)


class _Passed(NamedTuple):
    """What a ray has passed: how far it is followed; whether a body is opaque on the way; what walls of
    glass leave of the light, the optical depth of its glass, and the absorption of what was entered and not
    left (rgb each)."""

    far: np.float32
    opaque: bool
    left: tuple[np.float32, np.float32, np.float32]
    depth: tuple[np.float32, np.float32, np.float32]
    within: tuple[np.float32, np.float32, np.float32]


@helper
def _at_walls(asked, leaf, near, passed, scratch, base):
    """Take the walls in a leaf as they are found: where light enters glass, the way up to there counts as
    less, where it leaves it, as more."""
    world, o, d, instance, ray = asked
    letters, lanes, params = world.letters, scratch.lanes, world.materials.params
    far, _, left, depth, within = passed
    mask = triangles_met(letters, leaf, ray, far, lanes)
    while mask != 0:
        k = lowest_bit(mask)
        mask &= mask - 1
        t, tri = lanes[AT(k)], np.int64(letters.bodies.first[AT(leaf)] + k)
        b1, b2 = lanes[AT(LANES + k)], lanes[AT(2 * LANES + k)]
        si = surface_at(world, o, d, Hit(np.int32(LETTER), t, instance, tri, b1, b2))
        ns, ng, m = si.ns, si.ng, si.material
        if world.materials.kind[m] != GLASS:
            return _Passed(far, True, left, depth, within), True
        reflected, _ = fresnel_dielectric(abs(dot(ns, d)), params[m, INDEX])
        absorption = row3(params, m)
        if params[m, THIN] > F(0.0):
            reflected = thin_pane(reflected)
            left = mul(left, absorbed(absorption, F(1.0)))
        else:
            absorption = scale(absorption, F(-1.0) if dot(ng, d) > F(0.0) else F(1.0))
            depth, within = sub(depth, scale(absorption, t)), add(within, absorption)
        left = scale(left, F(1.0) - reflected)
    return _Passed(far, False, left, depth, within), False


@helper
def _at_body(asked, i, near, passed, scratch, base):
    world, ray, (o, d, of_ground) = asked
    letters = world.letters
    if of_ground and world.backing.shading[world.frame_of[AT(i)]] == 0:
        return passed, False
    own_o, own_d, inverse = in_frame_of(letters, i, ray)
    passed = walk_body(
        (letters.bodies.boxes, letters.bodies.child, letters.root[AT(i)], letters.bodies.packets),
        (own_o, inverse, F(0.0)),
        False,
        _at_walls,
        (world, o, d, np.int64(i), sheared(own_o, shear_of(own_d))),
        passed,
        scratch,
        base,
    )
    return passed, passed.opaque


@helper
def _through_letters(world, o, d, far, of_ground, scratch):
    """Share (rgb) of light along a ray that letters, some of them glass, let through; of the ground's light,
    only those that shade it."""
    zero = (F(0.0), F(0.0), F(0.0))
    nothing = _Passed(far, False, (F(1.0), F(1.0), F(1.0)), zero, zero)
    passed = walk_letters(world, (o, d, F(0.0)), False, _at_body, (o, d, of_ground), nothing, scratch)
    if passed.opaque:
        return zero
    left, depth, within = passed.left, passed.depth, passed.within
    if far < FARTHEST_GLASS_PX and within[0] + within[1] + within[2] > F(0.0):
        depth = add(depth, scale(within, far))  # the ray ends inside
    if depth[0] + depth[1] + depth[2] <= F(0.0):
        return left
    # An edge met by two triangles at once would count twice: no glass gives light.
    return mul(
        left,
        (
            math.exp(-max(depth[0], F(0.0))),
            math.exp(-max(depth[1], F(0.0))),
            math.exp(-max(depth[2], F(0.0))),
        ),
    )


@helper
def shadow(world, o, d, far, ground_too, of_ground, scratch):
    """Share (rgb) of a lamp's light that arrives along a ray past the letters and, if asked, the ground; at
    the ground itself, past those letters that shade it."""
    zero = (F(0.0), F(0.0), F(0.0))
    if ground_too:
        tg, _ = ground_hit(world.ground, o, d, far)
        if tg < far:
            return zero
    if world.has_glass:
        return _through_letters(world, o, d, far, of_ground, scratch)
    wanted = ANY_SHADING_GROUND if of_ground and world.backing.changed else ANY
    _, place, _, _, _ = in_letters(world, o, d, far, wanted, scratch)
    return zero if place >= 0 else (F(1.0), F(1.0), F(1.0))
