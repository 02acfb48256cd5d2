"""The path integrator: unbiased but for four documented choices, progressive, the same on any thread.

From the camera a path bounces until it escapes or Russian roulette ends it. At each surface lamps are
sampled, and lamps that the next bounce happens to meet are counted too; the power heuristic weighs
the two (Veach & Guibas 1995). The documented choices:

- glass lets lamp light through straight (see shadow.py), so lamps met by paths that passed glass
  after a matte or rough surface are not counted again;
- after a matte or rough bounce, mirrors are a little rougher: a caustic that no method here could
  find is spread instead of becoming fireflies (path-space regularisation, Kaplanyan & Dachsbacher,
  EGSR 2013);
- the camera does not see lamps, and sees the backdrop's plain colour where nothing else is;
- one wavelength of many is followed through dispersive glass, its hue moved to the edge of sRGB.
"""

import math

from halvex.core.kernels import helper, kernel
from halvex.core.optics.material import ALPHA, CAUCHY, FLAT, GLASS, GLOW, INDEX, METAL, PLASTIC, THIN
from halvex.core.optics.scattering import (
    evaluate,
    matte_part,
    metal_reflectance,
    sample,
    sample_glass,
    seen_base,
)
from halvex.core.optics.spectrum import dispersed, wavelength_weight
from halvex.core.optics.vectors import (
    F,
    along,
    dot,
    luminance_of,
    mul,
    normalise,
    scale,
    sub,
    to_local,
    to_world,
)
from halvex.core.render import channels
from halvex.core.render.beams import leaves_in_beam
from halvex.core.render.hits import (
    FAR,
    GROUND,
    LETTER,
    NOTHING,
    SEARCH,
    appearance,
    camera_ray,
    facing,
    ground_hit,
    lens_ray,
    offset_from,
    seen_hit,
    shading_frame,
    surface_at,
    with_normals,
)
from halvex.core.render.lights import (
    disc,
    glow_pdf,
    hit_lamp,
    light_count,
    light_level,
    sample_glow,
    sample_lamp,
    sample_surround,
    surround_seen,
)
from halvex.core.render.sampler import DIMENSIONS, draw, forget_numbers, pixel_key, sample_2d
from halvex.core.render.shadow import absorbed, pane_tint, shadow
from halvex.core.scene.ground import COVE, NO_GROUND

SURFACE_ONLY, BOTH, LAMPS_ONLY = 0, 1, 2
# A density that says to add_emission_mis that lamps were sampled already and must not count.
NEVER_COUNT = F(-1.0)

MOST_BOUNCES = 12
ROULETTE_FROM = 3
# Up to so many lights are all sampled at the primary hit; of more, so many are chosen there,
# evenly over the list.
MOST_LIGHTS_AT_ONCE = 5
# Lights of less than this level, 20 stops down, are off.
DARK = F(3e-6)
# Luminance under which a light gets stochastic shadow rays: one is traced with
# the share it is of this.
FAINT, FAINT_SKY = F(0.01), F(0.003)
# Radius of the tent filter in px of the picture.
FILTER_RADIUS = F(0.8)

# A pixel's first samples, as powers of two, that are spread between neighbours too (sampler.py):
# those of a first clean picture.
EARLY_ON_LETTERS, EARLY_ON_GROUND = 2, 1

# Dimensions of the sampler, two numbers each: the camera's, and a block per bounce, the first right
# after the filter's. In a block lie, one after another, SURFACE, which says where the path goes on,
# one for each light that is asked, and what a surface of several lobes needs.
DIMENSION_FILTER = 0
DIMENSIONS_PER_BOUNCE = 8
SURFACE, FIRST_LIGHT = 0, 1
DIMENSION_LENS = (MOST_BOUNCES + 1) * DIMENSIONS_PER_BOUNCE
assert FIRST_LIGHT + MOST_LIGHTS_AT_ONCE + 1 < DIMENSIONS_PER_BOUNCE and DIMENSION_LENS < DIMENSIONS


@helper
def _tent(u):
    """From [0, 1) to [-1, 1] with the density of a tent."""
    return math.copysign(F(1.0) - math.sqrt(F(2.0) * min(u, F(1.0) - u)), u - F(0.5))


@helper
def _power(a, b):
    """Power heuristic: weight of a sample of density a against one of density b."""
    if a <= F(0.0):
        return F(0.0)
    r = b / a
    return F(1.0) / (F(1.0) + r * r)


@helper
def _dark(world, k):
    """Whether light k is off: what it would add is not computed."""
    level = light_level(world, k)
    return level[0] + level[1] + level[2] < DARK


@helper
def _sample_light(world, k, p, u1, u2):
    """(direction, distance, radiance (rgb), pdf) of light k from p."""
    lamps = world.lamps.kind.shape[0]
    if k < lamps:
        d, distance, radiance, pdf = sample_lamp(world.lamps, k, p, u1, u2)
        return d, distance, (radiance, radiance, radiance), pdf
    if k == lamps:
        d, radiance, pdf = sample_surround(world.surround, u1, u2)
        return d, FAR, radiance, pdf
    return sample_glow(world, p, u1, u2)


@helper
def add_light_sample(world, pixel, k, beta, c):
    """Add light c of light k to the pixel's share of it; returns what it comes to at the light's
    level (rgb)."""
    share = mul(beta, c)
    at = channels.SHARES + 3 * k
    pixel[at] += share[0]
    pixel[at + 1] += share[1]
    pixel[at + 2] += share[2]
    return mul(share, light_level(world, k))


@helper
def _direct(world, pixel, p, frame, ng, lo, m, base, alpha, beta, sampling, from_ground, catching, scratch):
    """Light that the surface at p, which may be the ground, sends along lo straight from the
    lights, added to the pixel's shares.

    frame: the shading frame, its normal last, in which lo is; sampling: the numbers to draw by, how
    many lights to ask at once, and whether surfaces are sampled too. Returns (all of it at the
    lights' levels (rgb), the same without the letters' shadows (luminance)).
    """
    s, t, ns = frame
    key, index, dimension, at_once, use_lamps = sampling
    start = offset_from(world, p, ng, ng)
    r, g, b, open_sky = F(0.0), F(0.0), F(0.0), F(0.0)
    lights = light_count(world)
    lamps = world.lamps.kind.shape[0]
    stride = F(lights) / F(at_once)
    chance = F(at_once) / F(lights)
    # The same numbers say where the path goes on: what each adds is right in the mean whatever the
    # other does.
    u_faint, u_pick = sample_2d(scratch, key, index, dimension + SURFACE)
    for turn in range(at_once):
        k = min(int((F(turn) + u_pick) * stride), lights - 1) if at_once < lights else turn
        if _dark(world, k):
            continue
        level = light_level(world, k)
        u1, u2 = sample_2d(scratch, key, index, dimension + FIRST_LIGHT + turn)
        d, distance, radiance, pdf = _sample_light(world, k, p, u1, u2)
        if pdf <= F(0.0) or dot(ng, d) <= F(0.0):
            continue
        li = to_local(d, s, t, ns)
        weight = F(1.0)
        if k < lamps and world.lamps.mirrored[k] == 0:
            f = matte_part(world.materials, m, base, lo, li)
        else:
            f, surface_pdf = evaluate(world.materials, m, base, lo, li, alpha)
            if use_lamps == BOTH:
                weight = _power(chance * pdf, surface_pdf)
        if luminance_of(f) <= F(0.0):
            continue
        c = scale(mul(f, radiance), weight / (chance * pdf))
        # A wall is flat; a cove hides light from itself.
        if not from_ground or world.ground.kind == COVE:
            at_ground, _ = ground_hit(world.ground, start, d, distance)
            if at_ground < distance:
                continue
        open_sky += luminance_of(mul(c, level))
        # A shadow ray costs as much for faint light as for bright: of faint light few are traced, for all.
        bright = luminance_of(mul(mul(beta, c), level))
        faint = FAINT_SKY if k == lamps else FAINT
        if bright < faint:
            if u_faint * faint >= bright:
                continue
            c = scale(c, faint / bright)
        way, reach = d, distance * F(0.9999)
        if k > lamps:
            # Glowing parts are bodies: the ray from the moved start must not end behind their surface.
            way = sub(along(p, d, distance), start)
            far = math.sqrt(dot(way, way))
            way, reach = scale(way, F(1.0) / far), far * F(0.999)
        seen = shadow(world, start, way, reach, False, scratch)
        if seen[0] + seen[1] + seen[2] <= F(0.0):
            continue
        c = mul(c, seen)
        if catching:
            e = mul(c, level)
        else:
            e = add_light_sample(world, pixel, k, beta, c)
        r += e[0]
        g += e[1]
        b += e[2]
    return (r, g, b), open_sky


@helper
def add_emission_mis(world, pixel, beta, o, d, t, pdf, chance, count_lamps):
    """Lamps and, where t is FAR, the surround along a ray, weighed against having sampled them;
    returns their light (rgb).

    pdf 0 means the ray could not have been a sample (camera or mirror): full weight.
    """
    r, g, b = F(0.0), F(0.0), F(0.0)
    if pdf == NEVER_COUNT:
        return r, g, b
    lamps = world.lamps.kind.shape[0]
    if count_lamps:
        for k in range(lamps):
            if world.lamps.mirrored[k] == 0 or _dark(world, k):
                continue
            tl, lamp_pdf = hit_lamp(world.lamps, k, o, d)
            if tl < t:
                weight = _power(pdf, chance * lamp_pdf) if pdf > F(0.0) else F(1.0)
                e = world.lamps.radiance[k] * weight
                e = add_light_sample(world, pixel, k, beta, (e, e, e))
                r += e[0]
                g += e[1]
                b += e[2]
    if t >= FAR and not _dark(world, lamps):
        sky, sky_pdf = surround_seen(world.surround, d)
        weight = _power(pdf, chance * sky_pdf) if pdf > F(0.0) else F(1.0)
        e = add_light_sample(world, pixel, lamps, beta, scale(sky, weight))
        r += e[0]
        g += e[1]
        b += e[2]
    return r, g, b


@helper
def write_aovs(world, pixel, si, base, wo):
    """Write what the denoiser and the layers need of the primary hit."""
    a, m, ns = base, si.material, si.ns
    if world.materials.kind[m] == METAL:
        a = mul(base, metal_reflectance(world.materials, m, dot(ns, wo)))
    elif world.materials.kind[m] == GLASS:
        a = (F(1.0), F(1.0), F(1.0))
    for c in range(3):
        pixel[channels.ALBEDO + c] += min(max(a[c], F(0.0)), F(1.0))
        pixel[channels.NORMAL + c] += ns[c]
    pixel[channels.DEPTH] += si.p[2]
    if si.instance < 0:
        pixel[channels.GROUND_COVER] += F(1.0)
    else:
        pixel[channels.PART_COVER + si.part] += F(1.0)


@helper
def _add3(pixel, at, c):
    pixel[at] += c[0]
    pixel[at + 1] += c[1]
    pixel[at + 2] += c[2]


@helper
def trace_path(world, pixel, o, d, leaves, key, index, transparent, caustic_alpha, use_lamps, scratch):
    """Trace one path and add what it brings to `pixel`, its channels.

    leaves: how many the scratch lists that the camera may see here, or SEARCH (beams.py).
    use_lamps: SURFACE_ONLY, BOTH or LAMPS_ONLY; the lone ones are there to be checked against both.
    """
    beta = (F(1.0), F(1.0), F(1.0))
    pdf = F(0.0)  # density with which the last surface chose d; 0 for camera and mirrors
    chance = F(1.0)  # chance with which the last surface sampled each light
    min_roughness = F(0.0)  # roughness that later mirrors get at least
    wavelength = F(-1.0)  # place in the spectrum, once dispersive glass was met
    seen_through = True  # the camera looks along this path, if through glass
    count_lamps = False  # lamps may be counted where the path meets them
    off_ground = False  # the path has just left the ground that the camera saw
    reflected = False  # what is found from here on is a reflection in the ground
    inside = -1  # the glass that the path runs in
    total = (F(0.0), F(0.0), F(0.0))  # all lights together
    direct = total  # the same when the reflection was met
    for bounce in range(MOST_BOUNCES + 1):
        hit = seen_hit(world, o, d, leaves if bounce == 0 else SEARCH, scratch)
        kind, t = hit.kind, hit.t

        # Lamps and surround.
        if seen_through and kind == NOTHING:
            _add3(pixel, channels.THROUGH, beta)
            break
        if not seen_through:
            e = add_emission_mis(world, pixel, beta, o, d, t, pdf, chance, count_lamps)
            total = (total[0] + e[0], total[1] + e[1], total[2] + e[2])
        if kind == NOTHING or bounce == MOST_BOUNCES:
            break

        # The surface.
        wo = (-d[0], -d[1], -d[2])
        si = surface_at(world, o, d, hit)
        p, ng, m = si.p, si.ng, si.material
        base, ns = appearance(world, si)
        dimension = max(bounce * DIMENSIONS_PER_BOUNCE, DIMENSION_FILTER + 1)
        entering = dot(ng, wo) > F(0.0)
        if not entering:
            ns, ng = scale(ns, F(-1.0)), scale(ng, F(-1.0))
        ns = facing(ns, ng, wo)
        if bounce == 0:
            write_aovs(world, pixel, with_normals(si, ns, ng), base, wo)
            off_ground = kind == GROUND
        elif off_ground:
            off_ground = False
            reflected = kind == LETTER
            direct = total
        surface = world.materials.kind[m]

        # What shines by itself.
        if surface == FLAT:
            _add3(pixel, channels.FLAT, mul(beta, base))
            total = (total[0] + beta[0] * base[0], total[1] + beta[1] * base[1], total[2] + beta[2] * base[2])
            break
        if surface == GLOW:
            weight = F(1.0)
            if pdf == NEVER_COUNT or not (entering and (seen_through or count_lamps)):
                weight = F(0.0)
            elif pdf > F(0.0):
                weight = _power(pdf, chance * glow_pdf(world, m, ng, d, t))
            e = add_light_sample(world, pixel, world.lamps.kind.shape[0] + 1, beta, scale(base, weight))
            total = (total[0] + e[0], total[1] + e[1], total[2] + e[2])
            if seen_through:
                _add3(pixel, channels.GLOW_SEEN, e)
            break

        glass = surface == GLASS
        if inside >= 0 and not entering:
            beta = mul(beta, absorbed(world.materials, inside, t))
        if not glass and not entering and inside < 0:
            break  # the inside of a closed opaque body: only rounding leads here
        alpha = max(world.materials.params[m, ALPHA], min_roughness)
        s, tt = shading_frame(world, m, si.frame, ns)
        lo = to_local(wo, s, tt, ns)
        base = seen_base(world.materials, m, base, lo, alpha)
        on_ground = kind == GROUND and seen_through
        catching = transparent and on_ground
        at_once = min(light_count(world), MOST_LIGHTS_AT_ONCE if bounce == 0 or catching else 1)
        lobes = glass or surface == PLASTIC
        disperses = glass and world.materials.params[m, CAUCHY] > F(0.0)
        lobe = dimension + FIRST_LIGHT + (0 if glass else at_once)
        draw(scratch, key, index, dimension, lobe + (1 if lobes else 0) + (1 if disperses else 0))
        u1, u2 = sample_2d(scratch, key, index, dimension + SURFACE)
        u3, u4 = sample_2d(scratch, key, index, lobe) if lobes else (F(0.0), F(0.0))

        if glass:
            own = world.materials.params[m, ALPHA]
            eta = world.materials.params[m, INDEX]
            if disperses:
                if wavelength < F(0.0):
                    wavelength, _ = sample_2d(scratch, key, index, lobe + 1)
                    beta = mul(beta, wavelength_weight(wavelength))
                eta = dispersed(eta, world.materials.params[m, CAUCHY], wavelength)
            wi, weight, transmitted = sample_glass(
                world.materials, m, eta, lo, entering, alpha if own > F(0.0) else F(0.0), u1, u2, u3
            )
            if weight <= F(0.0):
                break
            beta = scale(beta, weight)
            d = normalise(to_world(wi, s, tt, ns))
            # Refraction may put d on the wrong side of a facet whose normal was smoothed; it is lost.
            if (dot(d, ng) < F(0.0)) != transmitted:
                break
            if transmitted:
                beta = mul(beta, pane_tint(world.materials, m))
                inside = m if entering and world.materials.params[m, THIN] == F(0.0) else -1
            pdf = F(0.0)
            if not transmitted and entering:
                seen_through = False
            # Light that reaches a matte surface through glass was sampled there already.
            count_lamps = min_roughness == F(0.0)
        else:
            chance = F(at_once) / F(light_count(world))
            if use_lamps != SURFACE_ONLY or catching:
                method = LAMPS_ONLY if catching else use_lamps
                sampling = (key, index, dimension, at_once, method)
                c, open_sky = _direct(
                    world,
                    pixel,
                    p,
                    (s, tt, ns),
                    ng,
                    lo,
                    m,
                    base,
                    alpha,
                    beta,
                    sampling,
                    kind == GROUND,
                    catching,
                    scratch,
                )
                if on_ground:
                    pixel[channels.LIT] += luminance_of(mul(beta, c)) if catching else luminance_of(c)
                    pixel[channels.UNLIT] += luminance_of(beta) * open_sky
                if catching:
                    _add3(pixel, channels.THROUGH, beta)
                    break
                total = (total[0] + c[0], total[1] + c[1], total[2] + c[2])
            wi, weight, pdf = sample(world.materials, m, base, lo, alpha, u1, u2, u3)
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
            if surface != METAL or alpha > caustic_alpha:
                min_roughness = max(min_roughness, caustic_alpha)
        o = offset_from(world, p, ng, d)

        # Russian roulette.
        if bounce >= ROULETTE_FROM:
            if not glass:
                # It chose a light's spot, of which what follows knows nothing.
                u4, _ = sample_2d(scratch, key, index, dimension + FIRST_LIGHT)
            survive = min(max(max(beta[0], beta[1]), beta[2]), F(0.95))
            if u4 >= survive:
                break
            beta = scale(beta, F(1.0) / survive)
    if reflected:
        _add3(pixel, channels.REFLECTED, (total[0] - direct[0], total[1] - direct[1], total[2] - direct[2]))
    if index & 1 == 0:
        _add3(pixel, channels.HALF, total)


@kernel
def render_tile(
    world,
    film,
    counts,
    more,
    cover,
    spread,
    x0,
    y0,
    x1,
    y1,
    row_offset,
    seed,
    transparent,
    caustic_alpha,
    use_lamps,
    scratch,
):
    """Add more[y, x] samples to the pixels x0..x1-1, y0..y1-1 of `film`, whose row 0 is row
    `row_offset` of the picture.

    counts[y, x] are those a pixel has had; it goes on from there. cover[y, x]: whether letters may
    be seen; spread: how far apart a pixel's rays run (cover.py).
    """
    for y in range(y0, y1):
        for x in range(x0, x1):
            first, last = counts[y, x], counts[y, x] + more[y, x]
            if first == last:
                continue
            counts[y, x] = last
            leaves = 0
            if cover[y, x] != 0:
                o, d = camera_ray(world.camera, F(x) + F(0.5), F(y + row_offset) + F(0.5))
                leaves = leaves_in_beam(world, o, d, spread, scratch) if spread >= F(0.0) else SEARCH
            if leaves == 0 and world.ground.kind == NO_GROUND:
                seen = F(last - first)
                _add3(film[y, x], channels.THROUGH, (seen, seen, seen))
                continue
            key = pixel_key(
                x,
                y + row_offset,
                seed,
                EARLY_ON_LETTERS if cover[y, x] != 0 else EARLY_ON_GROUND,
                last - first,
            )
            forget_numbers(scratch)
            for index in range(first, last):
                draw(scratch, key, index, DIMENSION_FILTER, DIMENSION_FILTER + 1)
                u1, u2 = sample_2d(scratch, key, index, DIMENSION_FILTER)
                px = F(x) + F(0.5) + FILTER_RADIUS * _tent(u1)
                py = F(y + row_offset) + F(0.5) + FILTER_RADIUS * _tent(u2)
                o, d = camera_ray(world.camera, px, py)
                if world.camera.lens > F(0.0):
                    draw(scratch, key, index, DIMENSION_LENS, DIMENSION_LENS + 1)
                    u1, u2 = sample_2d(scratch, key, index, DIMENSION_LENS)
                    a, b = disc(u1, u2)
                    o, d = lens_ray(world.camera, o, d, a, b)
                trace_path(
                    world,
                    film[y, x],
                    o,
                    d,
                    leaves,
                    key,
                    index,
                    transparent,
                    caustic_alpha,
                    use_lamps,
                    scratch,
                )
