"""What lamps send by way of a surface to the camera, shadows aside and without noise."""

import math

from halvex.core.kernels import helper, routine
from halvex.core.optics.material import ALPHA, INDEX, MATTE, METAL, PEARL, PLASTIC
from halvex.core.optics.microfacet import fresnel_dielectric, ggx_d, smith_g2, smith_lambda
from halvex.core.optics.scattering import (
    albedo_at,
    flake_colour,
    flake_roughness,
    matte_part,
    metal_reflectance,
    top_roughness,
)
from halvex.core.optics.vectors import F, add, along, dot, mul, normalise, reflect, row3, scale, sub, to_local
from halvex.core.render.interaction import shading_frame
from halvex.core.render.lights import sample_lamp
from halvex.core.scene.lamps import RECTANGLE, SUN

# Coats duller than this mirror nothing one could recognise: no ray is traced for them.
DULL_ALPHA = F(0.3)
# Half the distance between the four spots of a lamp that light the ground, as shares of its sides: those of
# Gauss and Legendre's quadrature.
GROUND_SPOTS = F(0.5 / math.sqrt(3.0))
# Mirrors show lamps' edges no sharper than surfaces of this roughness do.
SHARPEST = F(2e-3)


@helper
def lamp_light(world, k, si, wo, base, finest):
    """Light (rgb) of lamp k that a surface sends to wo, shadows aside: by its base and by its lobe."""
    return add(lamp_on_base(world, k, si, wo, base), lamp_in_lobe(world, k, si, wo, base, finest))


@routine
def lamp_on_base(world, k, si, wo, base):
    """Light (rgb) of lamp k that the base of a surface sends to wo, shadows aside: it is lit from the lamp's
    middle, but for the ground."""
    light = F(0.0), F(0.0), F(0.0)
    p, ns, m = si.p, si.ns, si.material
    kind = world.materials.kind[m]
    if kind not in (MATTE, PLASTIC):
        return light
    s, t = shading_frame(world, si, ns)
    lo = to_local(wo, s, t, ns)
    # The ground is lit at few places, and large lamps stand aslant to some of them.
    side, apart = (2, GROUND_SPOTS) if si.instance < 0 else (1, F(0.0))
    for i in range(side):
        for j in range(side):
            u1, u2 = F(0.5) + apart * F(2 * i - 1), F(0.5) + apart * F(2 * j - 1)
            d, _, radiance, pdf = sample_lamp(world.lamps, k, p, u1, u2)
            if pdf > F(0.0):
                part = matte_part(world.materials, m, base, lo, to_local(d, s, t, ns))
                light = add(light, scale(part, radiance / (pdf * F(side * side))))
    if side == 1 and world.lamps.kind[k] <= RECTANGLE:
        light = scale(light, _of_its_middle(world.lamps, k, p, ns))
    return mul(light, row3(world.lamps.level, k))


@routine
def lamp_in_lobe(world, k, si, wo, base, finest):
    """Light (rgb) of lamp k that the lobe of a metal, a coat or a flake sends to wo, shadows aside.

    A shiny surface is lit from the middles of the lamp's four quarters (`finest` 2) or from its middle (1),
    its lobe widened by that part's size; a dull one from the lamp's middle. Lobes are normalised, so no light
    is added.
    """
    if world.materials.kind[si.material] not in (METAL, PLASTIC) or world.lamps.mirrored[k] == 0:
        return F(0.0), F(0.0), F(0.0)
    tangents = shading_frame(world, si, si.ns)
    return mul(_shine(world, k, si, tangents, wo, base, finest), row3(world.lamps.level, k))


@helper
def _curvature(n, to, side, above, d2):
    """The second derivative of cos θ cos θ' / d² along `side` of a flat lamp, at its middle and as a share
    of what it is there, for a surface of normal n, which it is so far above (n · to)."""
    along_it = dot(to, side)
    leans = dot(n, side) * along_it / max(above, F(1e-6))
    return (F(24.0) * along_it * along_it / d2 - F(8.0) * leans - F(4.0) * dot(side, side)) / d2


@helper
def _of_its_middle(lamps, k, p, n):
    """The light of all spots of a flat lamp on a surface at p of normal n, in the mean, as a multiple of what
    its middle sends: to the second order of how wide the lamp is, and never negative."""
    to = sub(row3(lamps.centre, k), p)
    d2, above = dot(to, to), dot(to, n)
    bend = _curvature(n, to, row3(lamps.u, k), above, d2) + _curvature(n, to, row3(lamps.v, k), above, d2)
    # The mean square of a place on a rectangle and on a disc, in halves of its sides.
    more = F(0.5) * bend * F(1.0 / 3.0 if lamps.kind[k] == RECTANGLE else 0.25)
    return F(1.0) + min(more, F(0.5)) if more > F(0.0) else F(1.0) / (F(1.0) - more)


@helper
def _share_below(x):
    """The share of facets that are less steep one way than x, as a multiple of a GGX surface's roughness."""
    return F(0.5) + F(0.5) * x / math.sqrt(F(1.0) + x * x)


@helper
def _share_within(place, spread):
    """The share of a lobe about a place, so much spread, that falls between -1 and 1."""
    return _share_below((F(1.0) - place) / spread) - _share_below((F(-1.0) - place) / spread)


@helper
def _spread_on(lamps, k, way, t, turn):
    """By how much (along u, along v, in halves of a rectangular lamp) the place where a ray meets its plane
    at distance t moves as the ray's direction turns by `turn`."""
    n, u, v = row3(lamps.normal, k), row3(lamps.u, k), row3(lamps.v, k)
    moved = scale(along(turn, way, -dot(n, turn) / dot(n, way)), t)
    return dot(moved, u) / dot(u, u), dot(moved, v) / dot(v, v)


@helper
def _mirrored_rectangle(world, k, si, tangents, wo, alpha):
    """(share of a surface's lobe that a rectangular lamp fills, direction to what of the lamp is nearest to
    the middle of the lobe). Facets are taken to lean along and across independently of each other, which they
    nearly do."""
    lamps, n = world.lamps, si.ns
    s, t = tangents
    d = scale(wo, F(-1.0))
    way, away = reflect(d, n), row3(lamps.normal, k)
    facing = -dot(way, away)
    to = sub(row3(lamps.centre, k), si.p)
    distance = -dot(to, away) / max(facing, F(1e-6))
    if facing <= F(1e-6) or distance <= F(0.0):
        return F(0.0), way
    u, v = row3(lamps.u, k), row3(lamps.v, k)
    met = sub(scale(way, distance), to)
    a, b = dot(met, u) / dot(u, u), dot(met, v) / dot(v, v)
    ax, ay = top_roughness(world.materials, si.material, max(alpha, SHARPEST))
    # As a facet leans along s, the mirrored ray turns by this.
    leaning = scale(along(scale(n, dot(d, s)), s, dot(d, n)), F(-2.0) * ax)
    across = scale(along(scale(n, dot(d, t)), t, dot(d, n)), F(-2.0) * ay)
    a1, b1 = _spread_on(lamps, k, way, distance, leaning)
    a2, b2 = _spread_on(lamps, k, way, distance, across)
    share = _share_within(a, math.sqrt(a1 * a1 + a2 * a2)) * _share_within(b, math.sqrt(b1 * b1 + b2 * b2))
    nearest = along(along(to, u, min(max(a, F(-1.0)), F(1.0))), v, min(max(b, F(-1.0)), F(1.0)))
    return share, normalise(nearest)


@helper
def _is_filled(world, k, m):
    """Whether a rectangular lamp is much longer, as seen from the middle of the lettering, than the lobe of
    material m is wide. It is the same for all of a surface, so that no seam shows."""
    lamps, alpha = world.lamps, world.materials.params[m, ALPHA]
    if lamps.kind[k] != RECTANGLE:
        return False
    centre, u, v = row3(lamps.centre, k), row3(lamps.u, k), row3(lamps.v, k)
    return max(dot(u, u), dot(v, v)) > F(16.0) * alpha * alpha * dot(centre, centre)


@helper
def _shine(world, k, si, tangents, wo, base, finest):
    """The lobe of a metal, a coat or a flake, lit by lamp k of 0 stops (rgb): Fresnel is taken
    once, for the mean of the half vectors."""
    p, ns, m = si.p, si.ns, si.material
    s, t = tangents
    lo = to_local(wo, s, t, ns)
    alpha = world.materials.params[m, ALPHA]
    flake = world.materials.kind[m] != METAL and world.materials.params[m, PEARL] > F(0.0)
    if not flake and _is_filled(world, k, m):
        share, towards = _mirrored_rectangle(world, k, si, tangents, wo, alpha)
        li = to_local(towards, s, t, ns)
        if share <= F(0.0) or li[2] <= F(0.0):
            return F(0.0), F(0.0), F(0.0)
        ax, ay = top_roughness(world.materials, m, alpha)
        masked = F(1.0) + smith_lambda(lo, ax, ay)
        lobe = share * world.lamps.radiance[k] * masked / (masked + smith_lambda(li, ax, ay))
        return _reflected(world, m, base, lobe, dot(lo, normalise(add(lo, li))))
    to = sub(row3(world.lamps.centre, k), p)
    far = F(1.0) if world.lamps.kind[k] == SUN else dot(to, to)
    u, v = row3(world.lamps.u, k), row3(world.lamps.v, k)
    # Half the angle of a part's half-width: mirrors turn by half of what the light does.
    half = F(0.125) * (dot(u, u) + dot(v, v)) / far
    # A lobe much wider than the lamp cannot separate its quarters.
    side = finest if half > F(0.25) * alpha * alpha and alpha < DULL_ALPHA else 1
    wide = min(math.sqrt(alpha * alpha + half / F(side * side)), F(1.0))
    ax, ay = top_roughness(world.materials, m, wide)
    fx, fy = flake_roughness(world.materials, m, wide)
    masked = F(1.0) + smith_lambda(lo, ax, ay)
    lobe, cosine, shimmer = F(0.0), F(0.0), F(0.0)
    for i in range(side):
        for j in range(side):
            d, _, radiance, pdf = sample_lamp(
                world.lamps, k, p, (F(i) + F(0.5)) / F(side), (F(j) + F(0.5)) / F(side)
            )
            li = to_local(d, s, t, ns)
            if pdf <= F(0.0) or li[2] <= F(0.0):
                continue
            h = normalise(add(lo, li))
            weight = radiance / (pdf * F(4 * side * side) * lo[2])
            one = weight * ggx_d(h, ax, ay) / (masked + smith_lambda(li, ax, ay))
            lobe += one
            cosine += one * dot(lo, h)
            if flake:
                shimmer += weight * ggx_d(h, fx, fy) * smith_g2(lo, li, fx, fy)
    if lobe <= F(0.0):
        return F(0.0), F(0.0), F(0.0)
    cosine = min(cosine / lobe, F(1.0))
    coat = _reflected(world, m, base, lobe, cosine)
    if not flake:
        return coat
    shimmer *= (
        world.materials.params[m, PEARL]
        * (F(1.0) - albedo_at(world.materials, m, 0, lo))
        / max(albedo_at(world.materials, m, 1, lo), F(1e-3))
    )
    return add(coat, scale(flake_colour(world.materials, m, base, si.pearl, lo, cosine), shimmer))


@helper
def _reflected(world, m, base, lobe, cosine):
    """What a metal or a coat reflects of a lobe's light, which meets facets at this cosine (rgb)."""
    if world.materials.kind[m] == METAL:
        return scale(mul(base, metal_reflectance(world.materials, m, cosine)), lobe)
    reflected, _ = fresnel_dielectric(cosine, world.materials.params[m, INDEX])
    return lobe * reflected, lobe * reflected, lobe * reflected
