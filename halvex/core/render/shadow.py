"""Shadow rays: blocked by what is opaque, tinted by glass.

Glass lets light through straight, tinted by the path inside and dimmed by Fresnel's factor at each
side: light is not bent towards caustics, so that glass throws tinted shadows without noise.
"""

import math

import numpy as np

from halvex.core.kernels import helper
from halvex.core.optics.eight import LANES
from halvex.core.optics.material import GLASS, INDEX, THIN
from halvex.core.optics.microfacet import fresnel_dielectric
from halvex.core.optics.scattering import thin_pane
from halvex.core.optics.vectors import F, add, dot, mul, row3, scale, sub
from halvex.core.render.hits import (
    AT,
    LETTER,
    Hit,
    ground_hit,
    in_letters,
    into_body,
    one_over,
    pick,
    push_children,
    shear_of,
    surface_at,
    to_frame,
)
from halvex.core.render.lanes import eight_boxes, eight_triangles, lowest_bit

# No ray that ends farther off ends inside glass.
FARTHEST_GLASS_PX = F(1.0e6)


@helper
def absorbed(materials, m, distance):
    """Share (rgb) of light left after a distance in px inside the glass m (Beer-Lambert); a thin
    pane tints once, whatever the distance."""
    p = materials.params
    if p[m, THIN] > F(0.0):
        distance = F(0.0)
    return (math.exp(-p[m, 0] * distance), math.exp(-p[m, 1] * distance), math.exp(-p[m, 2] * distance))


@helper
def pane_tint(materials, m):
    """Share (rgb) of light that one wall of thin glass lets through, reflection apart; all of it
    for a solid body."""
    p = materials.params
    if p[m, THIN] == F(0.0):
        return (F(1.0), F(1.0), F(1.0))
    return (math.exp(-p[m, 0]), math.exp(-p[m, 1]), math.exp(-p[m, 2]))


@helper
def _through_body(world, o, d, instance, shift, own_d, inverse, far, left, depth, within, scratch, base):
    """(whether a body is opaque on the way, what its walls of glass leave of `left`, `depth` and
    the optical depth of its glass, `within` and the absorption of what was entered and not left):
    rgb; the ray (o, d) in the world, (shift, own_d) in the body's own frame.

    Walls are taken as they are found: where light enters glass, the way up to there counts as less,
    where it leaves it, as more.
    """
    letters, stack, lanes, bits = world.letters, scratch.stack, scratch.lanes, scratch.bits
    kx, ky, kz, sx, sy, sz = shear_of(own_d)
    ox, oy, oz = pick(shift, kx), pick(shift, ky), pick(shift, kz)
    params = world.materials.params
    stack[AT(base)] = letters.root[AT(instance)]
    top = base + 1
    while top > base:
        top -= 1
        node = np.int32(stack[AT(top)])
        if node >= 0:
            boxes = letters.bodies.boxes
            mask = eight_boxes(
                boxes,
                node,
                shift[0],
                shift[1],
                shift[2],
                inverse[0],
                inverse[1],
                inverse[2],
                F(0.0),
                far,
                lanes,
            )
            top = push_children(stack, top, bits, letters.bodies.child, node, mask, True)
            continue
        mask = eight_triangles(letters.bodies.packets, ~node, kx, ky, kz, ox, oy, oz, sx, sy, sz, far, lanes)
        while mask != 0:
            k = lowest_bit(mask)
            mask &= mask - 1
            t, tri = lanes[AT(k)], np.int32(letters.bodies.first[AT(~node)] + k)
            hit = Hit(
                np.int32(LETTER), t, np.int32(instance), tri, lanes[AT(LANES + k)], lanes[AT(2 * LANES + k)]
            )
            si = surface_at(world, o, d, hit)
            ns, ng, m = si.ns, si.ng, si.material
            if world.materials.kind[m] != GLASS:
                return True, left, depth, within
            reflected, _ = fresnel_dielectric(abs(dot(ns, d)), params[m, INDEX])
            if params[m, THIN] > F(0.0):
                reflected = thin_pane(reflected)
                left = mul(left, pane_tint(world.materials, m))
            else:
                absorption = scale(row3(params, m), F(-1.0) if dot(ng, d) > F(0.0) else F(1.0))
                depth, within = sub(depth, scale(absorption, t)), add(within, absorption)
            left = scale(left, F(1.0) - reflected)
    return False, left, depth, within


@helper
def _through_letters(world, o, d, far, scratch):
    """Share (rgb) of light along a ray that letters, some of them glass, let through."""
    letters, stack, lanes, bits = world.letters, scratch.stack, scratch.lanes, scratch.bits
    lo, ld = to_frame(world.turn, o), to_frame(world.turn, d)
    inverse = one_over(ld)
    left, depth, within = (F(1.0), F(1.0), F(1.0)), (F(0.0), F(0.0), F(0.0)), (F(0.0), F(0.0), F(0.0))
    stack[0] = 0
    top = 1
    while top > 0:
        top -= 1
        node = np.int32(stack[AT(top)])
        if node < 0:
            i = ~node
            own, own_d, own_inverse = sub(lo, row3(letters.offset, AT(i))), ld, inverse
            if letters.straight[AT(i)] == 0:
                own, own_d = into_body(letters, i, own), into_body(letters, i, ld)
                own_inverse = one_over(own_d)
            opaque, left, depth, within = _through_body(
                world, o, d, i, own, own_d, own_inverse, far, left, depth, within, scratch, top
            )
            if opaque:
                return F(0.0), F(0.0), F(0.0)
            continue
        mask = eight_boxes(
            letters.place_boxes,
            node,
            lo[0],
            lo[1],
            lo[2],
            inverse[0],
            inverse[1],
            inverse[2],
            F(0.0),
            far,
            lanes,
        )
        top = push_children(stack, top, bits, letters.place_child, node, mask, True)
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
def shadow(world, o, d, far, ground_too, scratch):
    """Share (rgb) of a lamp's light that arrives along a ray past the letters and, if asked, the ground."""
    zero = (F(0.0), F(0.0), F(0.0))
    if ground_too:
        tg, _ = ground_hit(world.ground, o, d, far)
        if tg < far:
            return zero
    if world.has_glass:
        return _through_letters(world, o, d, far, scratch)
    _, place, _, _, _ = in_letters(world, o, d, far, True, scratch)
    return zero if place >= 0 else (F(1.0), F(1.0), F(1.0))
