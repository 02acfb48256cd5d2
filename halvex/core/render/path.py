"""The path integrator: unbiased but for three documented choices, progressive, the same on any thread.

From the camera a path bounces until it escapes or is ended by chance. At each surface lamps are
sampled, and lamps that the next bounce happens to meet are counted too; the power heuristic weighs
the two (Veach & Guibas 1995). The documented choices:

- glass lets lamp light through straight (see hits.shadow), so lamps met by paths that passed glass
  after a matte or rough surface are not counted again;
- after a matte or rough bounce, mirrors are a little rougher: a caustic that no method here could
  find is spread instead of becoming fireflies (path-space regularisation, Kaplanyan & Dachsbacher,
  EGSR 2013);
- the camera does not see lamps, and sees the backdrop's plain colour where nothing else is.
"""

import math

from halvex.core.optics.material import ALPHA, GLASS, METAL, base_colour, evaluate, metal_reflectance, sample, sample_glass
from halvex.core.optics.vectors import F, basis, dot, helper, kernel, luminance_of, mul, normalise, scale, to_local, to_world
from halvex.core.render.hits import FAR, GROUND, NOTHING, absorbed, camera_ray, facing, first_hit, ground_hit, offset_from, shadow, surface_at
from halvex.core.render.lights import hit_lamp, light_count, sample_lamp, sample_surround, surround_pdf
from halvex.core.render.sampler import pixel_hash, sample_2d
from halvex.core.scene.surround import lookup

SURFACE_ONLY, BOTH, LAMPS_ONLY = 0, 1, 2
# A density that tells _emitted that lamps were sampled already and must not count.
NEVER_COUNT = F(-1.0)

# Film channels, all sums over samples.
COLOUR, THROUGH, LIT, UNLIT, ALBEDO, NORMAL = 0, 3, 6, 7, 8, 11
CHANNELS = 14

MOST_BOUNCES = 12
ROULETTE_FROM = 3
# Every light is sampled at the first surface; after it one is chosen.
MOST_LIGHTS_AT_ONCE = 6
# Radius of the tent filter in px of the picture.
FILTER_RADIUS = F(0.8)

# Dimensions of the sampler: the camera's, then a block per bounce.
DIMENSION_FILTER = 0
DIMENSIONS_PER_BOUNCE = 12
SURFACE, CHOICE, FIRST_LIGHT = 0, 1, 2


@helper
def _tent(u):
    if u < F(0.5):
        return math.sqrt(F(2.0) * u) - F(1.0)
    return F(1.0) - math.sqrt(F(2.0) - F(2.0) * u)


@helper
def _power(a, b):
    """Power heuristic: weight of a sample of density a against one of density b."""
    if a <= F(0.0):
        return F(0.0)
    r = b / a
    return F(1.0) / (F(1.0) + r * r)


@helper
def _sample_light(world, k, p, u1, u2):
    if k < world.lamps.kind.shape[0]:
        return sample_lamp(world.lamps, k, p, u1, u2)
    d, radiance, pdf = sample_surround(world.surround, u1, u2)
    return d, FAR, radiance, pdf


@helper
def _direct(world, p, ns, ng, wo, m, alpha, pixel, index, dimension, at_once, use_lamps, stack):
    """Light (rgb) from lamps and surround that the surface at p sends to wo, and the same without letters (luminance)."""
    s, t = basis(ns)
    lo = to_local(wo, s, t, ns)
    r, g, b, open_sky = F(0.0), F(0.0), F(0.0), F(0.0)
    lights = light_count(world)
    u_pick, _ = sample_2d(pixel, index, dimension + CHOICE)
    first, last, chance = 0, lights, F(1.0)
    if not at_once:
        first = min(int(u_pick * F(lights)), lights - 1)
        last = first + 1
        chance = F(1.0) / F(lights)
    for k in range(first, last):
        u1, u2 = sample_2d(pixel, index, dimension + FIRST_LIGHT + (k if at_once else 0))
        d, distance, radiance, pdf = _sample_light(world, k, p, u1, u2)
        if pdf <= F(0.0) or dot(ng, d) <= F(0.0):
            continue
        f, surface_pdf = evaluate(world.materials, m, lo, to_local(d, s, t, ns), alpha)
        if luminance_of(f) <= F(0.0):
            continue
        weight = _power(chance * pdf, surface_pdf) if use_lamps == BOTH else F(1.0)
        c = scale(mul(f, radiance), weight / (chance * pdf))
        start = offset_from(p, ng, d)
        at_ground, _ = ground_hit(world.ground, start, d, distance)
        if at_ground < distance:
            continue
        open_sky += luminance_of(c)
        seen = shadow(world, start, d, distance * F(0.9999), False, stack)
        r += c[0] * seen[0]
        g += c[1] * seen[1]
        b += c[2] * seen[2]
    return (r, g, b), open_sky


@helper
def _emitted(world, o, d, t, pdf, chance, count_lamps):
    """Radiance (rgb) of lamps and, where t is FAR, of the surround along a ray, weighed against having sampled them.

    pdf 0 means the ray could not have been a sample (camera or mirror): full weight.
    """
    r, g, b = F(0.0), F(0.0), F(0.0)
    if pdf == NEVER_COUNT:
        return r, g, b
    if count_lamps:
        for k in range(world.lamps.kind.shape[0]):
            tl, lamp_pdf = hit_lamp(world.lamps, k, o, d)
            if tl < t:
                weight = _power(pdf, chance * lamp_pdf) if pdf > F(0.0) else F(1.0)
                r += world.lamps.radiance[k, 0] * weight
                g += world.lamps.radiance[k, 1] * weight
                b += world.lamps.radiance[k, 2] * weight
    if t >= FAR:
        sky = lookup(world.surround.image, d)
        weight = _power(pdf, chance * surround_pdf(world.surround, d)) if pdf > F(0.0) else F(1.0)
        r += sky[0] * weight
        g += sky[1] * weight
        b += sky[2] * weight
    return r, g, b


@helper
def _note_first(world, film, y, x, m, ns, wo):
    """Albedo and normal of the first surface, for the denoiser."""
    if world.materials.kind[m] == METAL:
        a = metal_reflectance(world.materials, m, dot(ns, wo))
    elif world.materials.kind[m] == GLASS:
        a = (F(1.0), F(1.0), F(1.0))
    else:
        a = base_colour(world.materials, m)
    for c in range(3):
        film[y, x, ALBEDO + c] += min(max(a[c], F(0.0)), F(1.0))
        film[y, x, NORMAL + c] += ns[c]


@helper
def trace_path(world, film, y, x, o, d, pixel, index, transparent, caustic_alpha, use_lamps, stack):
    """Trace one path and add what it brings to film[y, x].

    use_lamps: SURFACE_ONLY, BOTH or LAMPS_ONLY; the lone ones are there to be checked against both.
    """
    beta = (F(1.0), F(1.0), F(1.0))
    pdf = F(0.0)  # density with which the last surface chose d; 0 for camera and mirrors
    chance = F(1.0)  # chance with which the last surface sampled each light
    least_alpha = F(0.0)  # roughness that later mirrors get at least
    seen_through = True  # the camera looks along this path, if through glass
    count_lamps = False  # lamps may be counted where the path meets them
    r, g, b = F(0.0), F(0.0), F(0.0)
    for bounce in range(MOST_BOUNCES + 1):
        kind, t, place, tri, b1, b2 = first_hit(world, o, d, FAR, stack)

        # Lamps and surround.
        if seen_through and kind == NOTHING:
            film[y, x, THROUGH] += beta[0]
            film[y, x, THROUGH + 1] += beta[1]
            film[y, x, THROUGH + 2] += beta[2]
            break
        if not seen_through:
            e = _emitted(world, o, d, t, pdf, chance, count_lamps)
            r += beta[0] * e[0]
            g += beta[1] * e[1]
            b += beta[2] * e[2]
        if kind == NOTHING or bounce == MOST_BOUNCES:
            break

        # The surface.
        wo = (-d[0], -d[1], -d[2])
        p, ns, ng, m = surface_at(world, kind, o, d, t, place, tri, b1, b2)
        dimension = 1 + bounce * DIMENSIONS_PER_BOUNCE
        entering = dot(ng, wo) > F(0.0)
        if not entering:
            ns, ng = scale(ns, F(-1.0)), scale(ng, F(-1.0))
        ns = facing(ns, ng, wo)
        if bounce == 0:
            _note_first(world, film, y, x, m, ns, wo)
        glass = world.materials.kind[m] == GLASS
        if not glass and not entering:
            break  # the inside of a closed opaque body: only rounding leads here
        alpha = max(world.materials.params[m, ALPHA], least_alpha)
        s, tt = basis(ns)
        lo = to_local(wo, s, tt, ns)
        u1, u2 = sample_2d(pixel, index, dimension + SURFACE)
        u3, u4 = sample_2d(pixel, index, dimension + DIMENSIONS_PER_BOUNCE - 1)

        if glass:
            if not entering:
                beta = mul(beta, absorbed(world.materials, m, t))
            own = world.materials.params[m, ALPHA]
            wi, weight, transmitted = sample_glass(world.materials, m, lo, entering, alpha if own > F(0.0) else F(0.0), u1, u2, u3)
            if weight <= F(0.0):
                break
            beta = scale(beta, weight)
            d = normalise(to_world(wi, s, tt, ns))
            # Refraction may put d on the wrong side of a facet whose normal was smoothed; it is lost.
            if (dot(d, ng) < F(0.0)) != transmitted:
                break
            pdf = F(0.0)
            if not transmitted and entering:
                seen_through = False
            # Light that reaches a matte surface through glass was sampled there already.
            count_lamps = least_alpha == F(0.0)
            o = offset_from(p, ng, d)
        else:
            catching = transparent and seen_through and kind == GROUND
            at_once = (bounce == 0 or catching) and light_count(world) <= MOST_LIGHTS_AT_ONCE
            chance = F(1.0) if at_once else F(1.0) / F(light_count(world))
            if use_lamps != SURFACE_ONLY or catching:
                c, open_sky = _direct(world, p, ns, ng, wo, m, alpha, pixel, index, dimension, at_once, LAMPS_ONLY if catching else use_lamps, stack)
                if catching:
                    film[y, x, LIT] += luminance_of(mul(beta, c))
                    film[y, x, UNLIT] += luminance_of(beta) * open_sky
                    film[y, x, THROUGH] += beta[0]
                    film[y, x, THROUGH + 1] += beta[1]
                    film[y, x, THROUGH + 2] += beta[2]
                    break
                r += beta[0] * c[0]
                g += beta[1] * c[1]
                b += beta[2] * c[2]
            wi, weight, pdf = sample(world.materials, m, lo, alpha, u1, u2, u3)
            if pdf <= F(0.0):
                break
            d = normalise(to_world(wi, s, tt, ns))
            if dot(d, ng) <= F(0.0):
                break
            beta = mul(beta, weight)
            seen_through = False
            count_lamps = True
            if use_lamps == SURFACE_ONLY:
                pdf = F(0.0)
            elif use_lamps == LAMPS_ONLY:
                pdf = NEVER_COUNT
            if world.materials.kind[m] != METAL or alpha > caustic_alpha:
                least_alpha = max(least_alpha, caustic_alpha)
            o = offset_from(p, ng, d)

        # End by chance what carries little.
        if bounce >= ROULETTE_FROM:
            survive = min(max(max(beta[0], beta[1]), beta[2]), F(0.95))
            if u4 >= survive:
                break
            beta = scale(beta, F(1.0) / survive)
    film[y, x, COLOUR] += r
    film[y, x, COLOUR + 1] += g
    film[y, x, COLOUR + 2] += b


@kernel
def render_tile(world, film, x0, y0, x1, y1, row_offset, first, last, seed, transparent, caustic_alpha, use_lamps, stack):
    """Samples first..last-1 of the pixels x0..x1-1, y0..y1-1 of `film`, whose row 0 is row `row_offset` of the picture."""
    for y in range(y0, y1):
        for x in range(x0, x1):
            pixel = pixel_hash(x, y + row_offset, seed)
            for index in range(first, last):
                u1, u2 = sample_2d(pixel, index, DIMENSION_FILTER)
                px = F(x) + F(0.5) + FILTER_RADIUS * _tent(u1)
                py = F(y + row_offset) + F(0.5) + FILTER_RADIUS * _tent(u2)
                o, d = camera_ray(world.camera, px, py)
                trace_path(world, film, y, x, o, d, pixel, index, transparent, caustic_alpha, use_lamps, stack)
