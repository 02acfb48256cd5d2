"""What lamps and glowing parts send by way of a surface to the camera, shadows aside and without noise."""

import math

from halvex.core.kernels import helper, routine
from halvex.core.optics.material import ALPHA, GLASS, INDEX, MATTE, METAL, PEARL
from halvex.core.optics.microfacet import fresnel_dielectric, ggx_d, smith_g2, smith_lambda
from halvex.core.optics.scattering import (
    NO_SAMPLES,
    albedo_at,
    evaluate,
    flake_colour,
    flake_roughness,
    matte_part,
    metal_reflectance,
    seen_base,
    top_roughness,
)
from halvex.core.optics.vectors import F, add, dot, mul, normalise, row3, scale, sub, to_local
from halvex.core.render.interaction import shading_frame
from halvex.core.render.lights import sample_glow, sample_lamp
from halvex.core.scene.lamps import SUN

# Coats duller than this mirror nothing one could recognise: no ray is traced for them.
DULL_ALPHA = F(0.3)
# Points along glowing parts that stand for all of them.
GLOW_POINTS = 24


@routine
def lamp_light(world, k, si, wo, base, finest):
    """Light (rgb) of lamp k that a surface sends to wo, shadows aside.

    A shiny surface is lit from the middles of the lamp's four quarters (`finest` 2) or from its
    middle (1), its lobe widened by that part's size; a dull one from the lamp's middle. Lobes are
    normalised, so no light is added. Without a lobe (0) the base alone counts.
    """
    zero = (F(0.0), F(0.0), F(0.0))
    p, ns, m = si.p, si.ns, si.material
    kind = world.materials.kind[m]
    if kind >= GLASS:
        return zero
    s, t = shading_frame(world, si, ns)
    lo = to_local(wo, s, t, ns)
    d, _, radiance, pdf = sample_lamp(world.lamps, k, p, F(0.5), F(0.5))
    middle = to_local(d, s, t, ns)
    light = scale(matte_part(world.materials, m, base, lo, middle), radiance / pdf) if pdf > F(0.0) else zero
    if finest > 0 and kind != MATTE and world.lamps.mirrored[k] == 1:
        light = add(light, _shine(world, k, si, (s, t), lo, base, finest))
    return mul(light, row3(world.lamps.level, k))


@helper
def _shine(world, k, si, tangents, lo, base, finest):
    """The lobe of a metal, a coat or a flake, lit by lamp k of 0 stops (rgb): Fresnel is taken
    once, for the mean of the half vectors."""
    p, ns, m = si.p, si.ns, si.material
    s, t = tangents
    alpha = world.materials.params[m, ALPHA]
    to = sub(row3(world.lamps.centre, k), p)
    far = F(1.0) if world.lamps.kind[k] == SUN else dot(to, to)
    u, v = row3(world.lamps.u, k), row3(world.lamps.v, k)
    # Half the angle of a part's half-width: mirrors turn by half of what the light does.
    half = F(0.125) * (dot(u, u) + dot(v, v)) / far
    # A lobe much wider than the lamp cannot separate its quarters.
    side = finest if half > F(0.25) * alpha * alpha and alpha < DULL_ALPHA else 1
    wide = min(math.sqrt(alpha * alpha + half / F(side * side)), F(1.0))
    flake = world.materials.kind[m] != METAL and world.materials.params[m, PEARL] > F(0.0)
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
    if world.materials.kind[m] == METAL:
        return scale(mul(base, metal_reflectance(world.materials, m, cosine)), lobe)
    reflected, _ = fresnel_dielectric(cosine, world.materials.params[m, INDEX])
    coat = (lobe * reflected, lobe * reflected, lobe * reflected)
    if not flake:
        return coat
    shimmer *= (
        world.materials.params[m, PEARL]
        * (F(1.0) - albedo_at(world.materials, m, 0, lo))
        / max(albedo_at(world.materials, m, 1, lo), F(1e-3))
    )
    return add(coat, scale(flake_colour(world.materials, m, base, lo, cosine), shimmer))


@helper
def glow_light(world, si, wo, base):
    """Light (rgb) that glowing parts near a surface send by way of it to wo, from a few points
    along them, shadows aside."""
    if world.glows.triangle.shape[0] == 0 or world.materials.kind[si.material] >= GLASS:
        return F(0.0), F(0.0), F(0.0)
    return _light_of_glows(world, si, wo, base)


@routine
def _light_of_glows(world, si, wo, base):
    r, g, b = F(0.0), F(0.0), F(0.0)
    p, ns, m = si.p, si.ns, si.material
    s, t = shading_frame(world, si, ns)
    lo = to_local(wo, s, t, ns)
    wide = max(world.materials.params[m, ALPHA], DULL_ALPHA)
    base = seen_base(world.materials, m, base, lo, wide)
    for i in range(GLOW_POINTS):
        u2 = (F(i) * F(0.61803399)) % F(1.0)
        d, _, radiance, pdf = sample_glow(world, p, (F(i) + F(0.5)) / F(GLOW_POINTS), u2)
        if pdf <= F(0.0):
            continue
        f, _ = evaluate(world.materials, m, base, lo, to_local(d, s, t, ns), wide, NO_SAMPLES)
        # One point stands for a stretch of tube: what is nearer than that stretch would see it
        # as wide, not as a point.
        weight = min(F(1.0) / pdf, F(2.0)) / F(GLOW_POINTS)
        r += f[0] * radiance[0] * weight
        g += f[1] * radiance[1] * weight
        b += f[2] * radiance[2] * weight
    return r, g, b
