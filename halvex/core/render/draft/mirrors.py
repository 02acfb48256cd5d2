"""What surfaces mirror and let through, without noise: one mirrored ray, straight glass,
surroundings as blurred as the surface is rough."""

import math

import numpy as np

from halvex.core.kernels import helper, routine
from halvex.core.optics.material import (
    ALPHA,
    ASPECT,
    FLAKE_ALPHA,
    FLAT,
    GLASS,
    GLOW,
    INDEX,
    MATTE,
    NO_METAL,
    PLASTIC,
    THIN,
)
from halvex.core.optics.microfacet import fresnel_dielectric
from halvex.core.optics.scattering import (
    albedo_at,
    flake_colour,
    metal_reflectance,
    shining,
    thin_pane,
    tinted_base,
)
from halvex.core.optics.vectors import F, add, dot, floor, luminance_of, mul, normalise, reflect, row3, scale
from halvex.core.render.behind import backdrop_light, has_backdrop, with_flat_share
from halvex.core.render.draft.glowlight import glow_light
from halvex.core.render.draft.grid import LAMPS_LEFT, SURROUND_LEFT, ground_met, ground_seen_past
from halvex.core.render.draft.lamplight import DULL_ALPHA, lamp_light
from halvex.core.render.hits import FAR, GROUND, NOTHING, first_hit, ground_hit
from halvex.core.render.interaction import (
    appearance,
    at_level,
    facing,
    offset_from,
    shading_frame,
    surface_at,
    with_normals,
)
from halvex.core.render.lights import hit_lamp
from halvex.core.render.shadow import absorbed, in_joint
from halvex.core.render.sourcing import has_layers, sourced, tilted
from halvex.core.scene.surround import blurred_lookup, coated_lookup, matte_lookup

MOST_GLASS = 4
# So many more walls are passed where strands of one body run into one another.
MOST_JOINTS = 6
# From metal to metal a mirrored ray is followed so often.
MOST_MIRRORS = 3
# Of what it still keeps inside then, so much comes out.
ESCAPES = F(0.45)
# A path that lets less than this through counts as black.
LEAST_THROUGH = F(0.02)
# How bright what glass mirrors can be, in stops from one in a thousand up; also the bits of a number that say
# how bright it is.
BRIGHTEST = 31


@helper
def along_normal(ns, d):
    """The way back along d in a frame whose z is the normal."""
    cos_o = max(-dot(ns, d), F(0.02))
    return math.sqrt(max(F(1.0) - cos_o * cos_o, F(0.0))), F(0.0), cos_o


@helper
def _lamps_at(world, si, wo, base):
    """Light (rgb) of lamps and glowing parts by way of a surface that a mirrored ray meets, without
    shadows."""
    light = glow_light(world, si, wo, base)
    for k in range(world.lamps.kind.shape[0]):
        light = add(light, scale(lamp_light(world, k, si, wo, base, 1), LAMPS_LEFT))
    return light


@routine
def plain_light(world, si, wo):
    """A surface met by a mirrored ray that is not followed: lamps and surround without shadows."""
    base, si = appearance(world, si)
    light = _plain_light_of(world, si, base, wo)
    return light if si.instance >= 0 else with_flat_share(world, si.material, base, light)


@helper
def _plain_light_of(world, si, base, wo):
    ns, m = si.ns, si.material
    base = tinted_base(world.materials, m, base, along_normal(ns, (-wo[0], -wo[1], -wo[2])))
    if world.materials.kind[m] == GLOW:
        return scale(base, shining(world.materials, m, dot(ns, wo)))
    if world.materials.kind[m] == FLAT:
        return scale(base, world.flat_gain)
    light = _lamps_at(world, si, wo, base)
    if world.materials.metal[m] != NO_METAL:
        sky = blurred_lookup(
            world.surround, reflect((-wo[0], -wo[1], -wo[2]), ns), world.materials.params[m, FLAKE_ALPHA]
        )
        return add(light, mul(mul(base, metal_reflectance(world.materials, m, dot(ns, wo))), sky))
    if world.materials.kind[m] == GLASS:
        return matte_lookup(world.surround, ns)
    return add(light, scale(mul(base, matte_lookup(world.surround, ns)), SURROUND_LEFT))


@helper
def _meets_ground(world, kind):
    """Whether a ray has met a ground of which all light is on the grid; that of glowing parts is not."""
    return kind == GROUND and world.beads.instance.shape[0] == 0


@routine
def mirrored_light(world, grid, o, d, alpha, scratch):
    """Light (rgb) that arrives along a mirrored ray: another surface or the surround, as rough as alpha.
    Lamps are apart. From metal to metal it is followed: gaps between letters are as dark as they are deep."""
    light, beta = (F(0.0), F(0.0), F(0.0)), (F(1.0), F(1.0), F(1.0))
    for _ in range(MOST_MIRRORS):
        hit = first_hit(world, o, d, FAR, scratch)
        if hit.kind == NOTHING:
            return add(light, mul(beta, blurred_lookup(world.surround, d, alpha)))
        if _meets_ground(world, hit.kind):
            return add(light, mul(beta, ground_met(world, grid, o, d, hit.t)))
        wo = (-d[0], -d[1], -d[2])
        si = surface_at(world, o, d, hit)
        si = with_normals(si, facing(si.ns, si.ng, wo), si.ng)
        m = si.material
        if world.materials.metal[m] == NO_METAL or dot(si.ng, wo) <= F(0.0):
            return add(light, mul(beta, plain_light(world, si, wo)))
        base, si = appearance(world, si)
        si, m = with_normals(si, facing(si.ns, si.ng, wo), si.ng), si.material
        base = tinted_base(world.materials, m, base, along_normal(si.ns, d))
        light = add(light, mul(beta, _lamps_at(world, si, wo, base)))
        beta = mul(beta, mul(base, metal_reflectance(world.materials, m, max(dot(si.ns, wo), F(0.02)))))
        if max(max(beta[0], beta[1]), beta[2]) < LEAST_THROUGH:
            return light
        own = world.materials.params[m, FLAKE_ALPHA]
        alpha = min(math.sqrt(alpha * alpha + own * own), F(1.0))
        d = reflect(d, si.ns)
        if dot(d, si.ng) < F(0.02):
            d = normalise(add(d, scale(si.ng, F(0.02) - dot(d, si.ng))))
        o = offset_from(world, si.p, si.ng, d)
    # What is left is taken to see the surround.
    return add(light, mul(beta, blurred_lookup(world.surround, d, alpha)))


@routine
def _left_inside(world, ground, o, d):
    """Light (rgb) that glass keeps inside on its way from o along d: it comes out somewhere, having lost a
    little more, and is taken to see the ground if that is there, else the surround at large."""
    t, _ = ground_hit(world.ground, o, d, FAR)
    seen = ground_met(world, ground.grid, o, d, t) if t < FAR else matte_lookup(world.surround, d)
    return scale(seen, ESCAPES)


@routine
def _mirrored_beyond(world, ground, o, d, alpha):
    """Light (rgb) that arrives along a mirrored ray from beyond the letters, as rough as alpha: of the
    ground, or of the surround and the lamps before it; and a number for which of them that is and, in its
    last bits, how bright the surround is there, in stops."""
    t, _ = ground_hit(world.ground, o, d, FAR)
    if t < FAR:
        return ground_seen_past(world, ground, o, d, t), 0
    sky = blurred_lookup(world.surround, d, alpha)
    # At level 1: which pixels share light does not depend on the level, for light to be linear in it.
    stops = math.log2(max(luminance_of(sky) / max(world.surround.level, F(1e-6)), F(2e-3)))
    which = BRIGHTEST + 1 + min(floor(stops) + 10, BRIGHTEST)
    for k in range(world.lamps.kind.shape[0]):
        at, _ = hit_lamp(world.lamps, k, o, d)
        if at < FAR and world.lamps.mirrored[k] == 1:
            sky = add(sky, scale(row3(world.lamps.level, k), world.lamps.radiance[k]))
            which += 2 * (BRIGHTEST + 1)
    return sky, which


@helper
def _end(material, instance, walls, mirrored):
    """A number for what a ray sees past so many walls of glass and what the first of them mirrors; NOTHING
    and GROUND stand for materials."""
    past = (((instance + 1) << 12) + material + 1) * 8 + walls
    seen = past * 0x9E3779B1 + mirrored - (mirrored & BRIGHTEST)
    return np.int32((seen & ~BRIGHTEST | mirrored & BRIGHTEST) & 0x7FFFFFFF)


@helper
def ends_alike(a, b):
    """Whether rays see the same past glass, by their numbers (`_end`): also where what they mirror grows
    brighter from one to the other, but not where it leaps."""
    return a & ~BRIGHTEST == b & ~BRIGHTEST and abs((a & BRIGHTEST) - (b & BRIGHTEST)) <= 1


@routine
def through_glass(world, ground, si, d, scratch):
    """(light (rgb), share of the backdrop still seen (rgb)) along a camera ray of direction d that meets
    glass; and a number for what it sees in the end, and in its first wall (`_end`)."""
    black = (F(0.0), F(0.0), F(0.0))
    beta = (F(1.0), F(1.0), F(1.0))
    light = black
    o, way, entering = si.p, F(0.0), True
    within, body = black, np.int32(-1)
    walls, joints, overlaps, mirrors = 0, 0, 0, 0
    while walls < MOST_GLASS:
        wo = (-d[0], -d[1], -d[2])
        if walls > 0:
            hit = first_hit(world, o, d, FAR, scratch)
            if hit.kind == NOTHING:
                if has_backdrop(world):
                    light = add(light, scale(mul(beta, backdrop_light(world, o, d)), world.flat_gain))
                return light, beta, _end(NOTHING, -1, walls, mirrors)
            if _meets_ground(world, hit.kind):
                light = add(light, mul(beta, ground_seen_past(world, ground, o, d, hit.t)))
                return light, black, _end(GROUND, -1, walls, mirrors)
            si = surface_at(world, o, d, hit)
            entering = dot(si.ng, wo) > F(0.0)
            way += hit.t
            if joints < MOST_JOINTS and in_joint(body, overlaps, hit.instance, entering):
                overlaps += 1 if entering else -1
                joints += 1
                o = offset_from(world, si.p, si.ng, d)
                continue
        if world.materials.kind[si.material] == GLASS and entering:
            within = row3(world.materials.params, si.material)
        if world.materials.kind[si.material] == GLASS and has_layers(world, si.material):
            own = sourced(world, si)
            si = at_level(si, tilted(si.ns, own.slope), own.material)
            if entering:
                within = own.base
        if not entering:
            si = with_normals(si, scale(si.ns, F(-1.0)), scale(si.ng, F(-1.0)))
        si = with_normals(si, facing(si.ns, si.ng, wo), si.ng)
        p, ns, ng, m = si.p, si.ns, si.ng, si.material
        if world.materials.kind[m] != GLASS:
            return (
                add(light, mul(beta, plain_light(world, si, wo))),
                black,
                _end(m, si.instance, walls, mirrors),
            )
        thin = world.materials.params[m, THIN] > F(0.0)
        eta = world.materials.params[m, INDEX]
        if not entering and not thin:
            beta = mul(beta, absorbed(within, way))
            eta = F(1.0) / eta
        cos_o = dot(ns, wo)
        reflected, cos_t = fresnel_dielectric(cos_o, eta)
        if thin:
            reflected = thin_pane(reflected)
        mirrored = reflect(d, ns)
        if entering:
            sky, which = _mirrored_beyond(world, ground, p, mirrored, world.materials.params[m, ALPHA])
            mirrors = which if walls == 0 else mirrors
            light = add(light, scale(mul(beta, sky), reflected))
        if thin:
            beta, body = scale(mul(beta, absorbed(within, F(1.0))), F(1.0) - reflected), np.int32(-1)
        elif reflected >= F(1.0):
            d = mirrored
        else:
            if not entering:
                left = _left_inside(world, ground, p, mirrored)
                light = add(light, scale(mul(beta, left), reflected))
            beta = scale(beta, F(1.0) - reflected)
            body = np.int32(si.instance) if entering else np.int32(-1)
            k = cos_o / eta - cos_t
            d = normalise((d[0] / eta + k * ns[0], d[1] / eta + k * ns[1], d[2] / eta + k * ns[2]))
        if max(max(beta[0], beta[1]), beta[2]) < LEAST_THROUGH:
            break
        o, way, overlaps = offset_from(world, p, ng, d), F(0.0), 0
        walls += 1
    else:
        light = add(light, mul(beta, _left_inside(world, ground, o, d)))
    return light, black, _end(NOTHING, -2, walls, mirrors)


@helper
def sky_light(world, si, d, base, open_sky):
    """What the base of a surface sends back along d of the surround (rgb)."""
    m = si.material
    if world.materials.metal[m] != NO_METAL:
        return F(0.0), F(0.0), F(0.0)
    if world.materials.kind[m] == MATTE:
        return mul(base, mul(matte_lookup(world.surround, si.ns), open_sky))
    sky = mul(coated_lookup(world.surround, si.ns), open_sky)
    return scale(mul(base, sky), F(1.0) - albedo_at(world.materials, m, 0, along_normal(si.ns, d)))


@routine
def surroundings(world, grid, si, d, base, open_sky, scratch):
    """Light (rgb) that a surface which is not glass sends back along d from all but the lamps;
    open_sky (rgb) is how much of the sky it sees, ground what is known of the ground's light
    (grid.py)."""
    mirrored = mirrored_part(world, grid, si, d, base, open_sky, scratch)
    return add(sky_light(world, si, d, base, open_sky), mirrored)


@routine
def mirrored_part(world, grid, si, d, base, open_sky, scratch):
    """Of the same what a coat or a metal mirrors."""
    materials, m = world.materials, si.material
    lo = along_normal(si.ns, d)
    light, coat = (F(0.0), F(0.0), F(0.0)), F(0.0)
    metal = materials.metal[m] != NO_METAL
    if materials.kind[m] == PLASTIC:
        coat, alpha = albedo_at(materials, m, 0, lo), materials.params[m, ALPHA]
        if alpha > DULL_ALPHA:
            # The rougher, the more as from all directions before the surface: a blur looks behind it, too.
            dull = (alpha - DULL_ALPHA) / (F(1.0) - DULL_ALPHA)
            mirrored = blurred_lookup(world.surround, _mirrored_way(si, d), alpha)
            evenly = matte_lookup(world.surround, si.ns)
            arriving = mul(add(scale(mirrored, F(1.0) - dull), scale(evenly, dull)), open_sky)
        else:
            # A coat is not brushed as the metal below it may be.
            arriving = _traced_mirror(world, grid, si, d, alpha, scratch)
        light = add(light, scale(arriving, coat))
    if metal:
        colour = mul(base, metal_reflectance(materials, m, lo[2]))
        if materials.kind[m] == PLASTIC:
            colour = flake_colour(materials, m, base, si.pearl, lo, lo[2])
        arriving = _mirrored_at(world, grid, si, d, materials.params[m, FLAKE_ALPHA], scratch)
        light = add(light, scale(mul(colour, arriving), F(1.0) - coat))
    return light


@helper
def _mirrored_way(si, d):
    """The direction in which a surface mirrors d, never into itself."""
    mirrored = reflect(d, si.ns)
    if dot(mirrored, si.ng) < F(0.02):
        return normalise(add(mirrored, scale(si.ng, F(0.02) - dot(mirrored, si.ng))))
    return mirrored


@helper
def _traced_mirror(world, grid, si, d, alpha, scratch):
    mirrored = _mirrored_way(si, d)
    start = offset_from(world, si.p, si.ng, mirrored)
    return mirrored_light(world, grid, start, mirrored, alpha, scratch)


@helper
def _mirrored_at(world, grid, si, d, alpha, scratch):
    """Light (rgb) that arrives where a metal mirrors it along d, brushed or not."""
    if world.materials.params[si.material, ASPECT] != F(1.0):
        return _drawn_out(world, si, d, alpha)
    return _traced_mirror(world, grid, si, d, alpha, scratch)


@helper
def _drawn_out(world, si, d, alpha):
    """The surround as a brushed surface mirrors it: from facets tilted across the brush, as rough
    as along it."""
    ns, ng, m = si.ns, si.ng, si.material
    _, t = shading_frame(world, si, ns)
    aspect = world.materials.params[m, ASPECT]
    light, total = (F(0.0), F(0.0), F(0.0)), F(0.0)
    for i in range(-3, 4):
        facet = normalise(add(ns, scale(t, F(i) * F(0.4) * alpha / aspect)))
        mirrored = reflect(d, facet)
        if dot(mirrored, ng) > F(0.0):
            weight = F(1.0) / (F(1.0) + F(0.16) * F(i * i))
            light = add(
                light,
                scale(blurred_lookup(world.surround, mirrored, max(alpha * aspect, F(0.2) * alpha)), weight),
            )
            total += weight
    return scale(light, F(1.0) / max(total, F(1e-6)))
