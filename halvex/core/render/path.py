"""The path integrator: unbiased but for five documented choices, progressive, the same on any thread.

From the camera a path bounces until it escapes or Russian roulette ends it. At each surface lamps are
sampled, and lamps that the next bounce happens to meet are counted too (direct.py). The documented choices:

- glass lets lamp light through straight (see shadow.py), so lamps met by paths that passed glass
  after a matte or rough surface are not counted again;
- after a matte or rough bounce, mirrors are a little rougher: a caustic that no method here could
  find is spread instead of becoming fireflies (path-space regularisation, Kaplanyan & Dachsbacher,
  EGSR 2013);
- light that opaque letters send to the ground is taken from a map where there is one, which shows it as sharp
  as there are photons (photon_map.py);
- the camera does not see lamps, and sees the backdrop where nothing else is;
- one wavelength of many is followed through dispersive glass, its hue moved to the edge of sRGB.
"""

import numpy as np

from halvex.core.kernels import helper
from halvex.core.optics.material import (
    ALPHA,
    CAUCHY,
    FLAT,
    GLASS,
    GLOW,
    INDEX,
    METAL,
    PLASTIC,
    THIN,
)
from halvex.core.optics.scattering import (
    lobe_shares,
    sample,
    sample_glass,
    seen_base,
    shining,
    tinted_base,
)
from halvex.core.optics.spectrum import dispersed, wavelength_weight
from halvex.core.optics.vectors import (
    F,
    add,
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
from halvex.core.render.aovs import add3, albedo_of, up_to_white, write_aovs
from halvex.core.render.behind import (
    backdrop_light,
    has_backdrop,
    lit_share,
    mirrored_in_ground,
    shade_is_changed,
    shown_flat,
)
from halvex.core.render.choosing import share_samples
from halvex.core.render.direct import (
    ALL,
    BOTH,
    FIRST_LIGHT,
    LAMPS_ONLY,
    NEVER_COUNT,
    NONE_OF_IT,
    SURFACE,
    SURFACE_ONLY,
    LightSampling,
    Numbers,
    Vertex,
    add_emission_mis,
    add_light_sample,
    direct_light,
    power_heuristic,
    share_mirrored,
)
from halvex.core.render.hits import GROUND, LETTER, NOTHING, SEARCH, seen_hit
from halvex.core.render.interaction import (
    offset_from,
    shading_frame,
)
from halvex.core.render.lights import glow_pdf, light_count, table_for
from halvex.core.render.noise import FIRST_CLEAN_SAMPLES
from halvex.core.render.path_state import (
    EITHER,
    IN_AIR,
    MIRRORED,
    NO_BODY,
    NONE,
    THROUGH,
    Draws,
    PathState,
    dimmed,
    from_camera,
    nothing_met,
    past_joint,
    surface_met,
)
from halvex.core.render.photon_map import is_mapped, mapped_light
from halvex.core.render.sampler import DIMENSIONS, draw, sample_2d
from halvex.core.render.shadow import absorbed, in_joint

MOST_BOUNCES = 12
ROULETTE_FROM = 3
GLOSSY_ALPHA = F(0.25)
# What a surface is to the ground that the camera sees: another surface, that ground, or that ground where it
# only catches shadows.
_ELSEWHERE, _SEEN, _CATCHING = 0, 1, 2
# Up to so many lights are all sampled at the first two surfaces; of more, so many are chosen there, and one
# at later ones (choosing.py), and at a second one of which less than LITTLE counts, as what coats mirror.
# Light by way of a second surface is most of the noise of metals side by side.
MOST_LIGHTS_AT_ONCE, MANY_UNTIL_BOUNCE, LITTLE = 5, 1, F(0.1)

# Dimensions of the sampler, two numbers each: the camera's, and a block per bounce (direct.py), the first
# right after the filter's.
DIMENSION_FILTER = 0
DIMENSIONS_PER_BOUNCE = 8
DIMENSION_LENS = (MOST_BOUNCES + 1) * DIMENSIONS_PER_BOUNCE
assert FIRST_LIGHT + MOST_LIGHTS_AT_ONCE + 1 < DIMENSIONS_PER_BOUNCE and DIMENSION_LENS < DIMENSIONS


@helper
def _emitted(world, pixel, state, si, base, entering, t, scratch):
    """Light (rgb) of a part that shines by itself, met at distance t and added to the pixel."""
    beta, pdf = state.beta, state.pdf
    if world.materials.kind[si.material] == FLAT:
        e = mul(beta, base)
        add3(pixel, channels.FLAT, e)
        return e
    weight = F(1.0)
    if pdf == NEVER_COUNT or not (entering and (state.seen_through or state.count_lamps)):
        weight = F(0.0)
    elif pdf > F(0.0):
        times = scratch.times[light_count(world) - 1]
        weight = power_heuristic(pdf, times * glow_pdf(world, si, state.o, state.d, t))
    # As lights are sampled, or smooth to the camera.
    n = si.ns if state.seen_through else si.ng
    weight *= shining(world.materials, si.material, -dot(n, state.d))
    e = add_light_sample(world, pixel, world.lamps.kind.shape[0] + 1, beta, scale(base, weight))
    if state.seen_through:
        add3(pixel, channels.GLOW_SEEN, e)
    return e


@helper
def _at_glass(world, state, vertex, draws, scratch):
    """(Whether the path continues, its state) from a wall of glass."""
    numbers, lobe, way, _ = draws
    materials, m = world.materials, vertex.si.material
    u1, u2 = sample_2d(scratch, numbers.key, numbers.sample, numbers.dimension + SURFACE)
    u3, _ = sample_2d(scratch, numbers.key, numbers.sample, lobe)
    beta, wavelength, within, body = state.beta, state.wavelength, state.within, state.body
    own, eta = materials.params[m, ALPHA], materials.params[m, INDEX]
    if materials.params[m, CAUCHY] > F(0.0):
        if wavelength < F(0.0):
            wavelength, _ = sample_2d(scratch, numbers.key, numbers.sample, lobe + 1)
            beta = mul(beta, wavelength_weight(wavelength))
        eta = dispersed(eta, materials.params[m, CAUCHY], wavelength)
    alpha = vertex.alpha if own > F(0.0) else F(0.0)
    if way != EITHER:
        u3 = F(0.0) if way == MIRRORED else F(2.0)
    wi, weight, transmitted, reflected = sample_glass(
        materials, m, eta, vertex.lo, vertex.entering, alpha, (u1, u2, u3)
    )
    if way != EITHER:
        weight *= reflected if way == MIRRORED else F(1.0) - reflected
    s, t, ns = vertex.frame
    d = normalise(to_world(wi, s, t, ns))
    # Refraction may put d on the wrong side of a facet whose normal was smoothed; it is lost.
    if weight <= F(0.0) or (dot(d, vertex.si.ng) < F(0.0)) != transmitted:
        return False, state
    beta = scale(beta, weight)
    if transmitted:
        thin = materials.params[m, THIN] > F(0.0)
        if thin:
            beta = mul(beta, absorbed(vertex.base, F(1.0)))
        within, body = IN_AIR, NO_BODY
        if vertex.entering and not thin:
            within, body = vertex.base, np.int32(vertex.si.instance)
    # What comes through glass to a matte or rough surface was sampled there, straight on; lamps that glass
    # mirrors to one are left out, too.
    sampled = state.min_roughness > F(0.0) and (transmitted or not vertex.entering)
    return True, PathState(
        offset_from(world, vertex.si.p, vertex.si.ng, d),
        d,
        beta,
        F(0.0),
        state.min_roughness,
        wavelength,
        state.seen_through and (transmitted or not vertex.entering),
        state.min_roughness == F(0.0),
        within,
        body,
        NONE,
        ALL,
        NONE_OF_IT if sampled else ALL,
    )


@helper
def _at_opaque(world, state, vertex, draws, rules, scratch):
    """(Whether the path continues, its state) from a surface that is not glass."""
    numbers, lobe, way, _ = draws
    materials, m = world.materials, vertex.si.material
    u1, u2 = sample_2d(scratch, numbers.key, numbers.sample, numbers.dimension + SURFACE)
    u3 = F(0.0)
    if materials.kind[m] == PLASTIC:
        u3, _ = sample_2d(scratch, numbers.key, numbers.sample, lobe)
    if way == THROUGH:
        u3 += vertex.shares[0]
    wi, weight, pdf = sample(
        materials,
        m,
        vertex.base,
        vertex.si.pearl,
        vertex.lo,
        vertex.alpha,
        vertex.shares,
        (u1, u2, u3),
    )
    s, t, ns = vertex.frame
    d = normalise(to_world(wi, s, t, ns))
    if pdf <= F(0.0) or dot(d, vertex.si.ng) <= F(0.0):
        return False, state
    mirrored = ALL
    if rules.use_lamps == BOTH:
        mirrored = share_mirrored(world, vertex, wi, scale(weight, pdf))
    if rules.use_lamps == SURFACE_ONLY:
        pdf = F(0.0)
    elif rules.use_lamps == LAMPS_ONLY or shade_is_changed(world, vertex.si):
        pdf = NEVER_COUNT
    min_roughness = state.min_roughness
    if materials.kind[m] != METAL or vertex.alpha > rules.caustic_alpha:
        min_roughness = max(min_roughness, rules.caustic_alpha)
    return True, PathState(
        offset_from(world, vertex.si.p, vertex.si.ng, d),
        d,
        mul(state.beta, weight),
        pdf,
        min_roughness,
        state.wavelength,
        False,
        True,
        state.within,
        state.body,
        state.overlaps,
        mirrored,
        mirrored if vertex.table > 0 else ALL,
    )


@helper
def _survives(state, glass, draws, scratch):
    """(Whether a path survives Russian roulette, its state): it counts for those that do not."""
    numbers = draws.numbers
    if glass:
        _, u = sample_2d(scratch, numbers.key, numbers.sample, draws.lobe)
    else:
        # It chose a light's spot, of which what follows knows nothing.
        u, _ = sample_2d(scratch, numbers.key, numbers.sample, numbers.dimension + FIRST_LIGHT)
    beta = state.beta
    survive = min(max(max(beta[0], beta[1]), beta[2]), F(0.95))
    return u < survive, dimmed(state, scale(beta, F(1.0) / survive))


@helper
def _vertex_at(world, state, si, base, entering, each):
    """What scatters light at a surface; `each`: the coat and what lies under it get a sample of their own."""
    m = si.material
    alpha = max(world.materials.params[m, ALPHA], state.min_roughness)
    s, t = shading_frame(world, si, si.ns)
    lo = to_local(scale(state.d, F(-1.0)), s, t, si.ns)
    base = tinted_base(world.materials, m, base, lo)
    base = seen_base(world.materials, m, base, lo, alpha)
    shares = lobe_shares(world.materials, m, base, si.pearl, lo, each)
    table = table_for(world.surround, si.ng)
    return Vertex(si, entering, (s, t, si.ns), lo, base, alpha, shares, table)


@helper
def _sent_both_ways(world, material, catching):
    """Whether a surface that the camera sees sends the path both ways."""
    kind, alpha = world.materials.kind[material], world.materials.params[material, ALPHA]
    return kind == GLASS or (kind == PLASTIC and alpha < GLOSSY_ALPHA and not catching)


@helper
def _draw_numbers(world, sample, bounce, beta, material, way, many, scratch):
    """Draw what the surface at a bounce asks of the sampler, where beta (rgb) of its light counts; `many`: as
    at the primary hit."""
    kind = world.materials.kind[material]
    glass = kind == GLASS
    few = not many and (bounce > MANY_UNTIL_BOUNCE or luminance_of(beta) < LITTLE)
    at_once = min(light_count(world), 1 if few else MOST_LIGHTS_AT_ONCE)
    if many and sample[1] >= FIRST_CLEAN_SAMPLES and world.beads.instance.shape[0] > 0:
        # A picture that needs more than its first samples: more of what glows cost less than as many paths.
        at_once = MOST_LIGHTS_AT_ONCE
    numbers = Numbers(sample[0], sample[1], max(bounce * DIMENSIONS_PER_BOUNCE, DIMENSION_FILTER + 1))
    lobe = numbers.dimension + FIRST_LIGHT + (0 if glass else at_once)
    disperses = glass and world.materials.params[material, CAUCHY] > F(0.0)
    drawn = lobe + (1 if glass or kind == PLASTIC else 0) + (1 if disperses else 0)
    draw(scratch, numbers.key, numbers.sample, numbers.dimension, drawn)
    return Draws(numbers, lobe, way, at_once)


@helper
def _light_at(world, pixel, beta, vertex, draws, rules, ground, scratch):
    """(Light (rgb) from the lights by way of a vertex, added to the pixel's shares; share of it that letters
    leave); of the `ground` that the camera sees (_ELSEWHERE, _SEEN or _CATCHING) the pixel also gets how much
    that is."""
    catching = ground == _CATCHING
    si = vertex.si
    if luminance_of(beta) <= F(0.0):
        return (F(0.0), F(0.0), F(0.0)), F(1.0)
    share_samples(world, si.p, si.ng, si.material, draws.at_once, scratch)
    # Lights are sampled once, not each way.
    if draws.way == MIRRORED or (rules.use_lamps == SURFACE_ONLY and not catching):
        return (F(0.0), F(0.0), F(0.0)), F(1.0)
    share = lit_share(world, si)
    lamps_only = catching or shade_is_changed(world, si)
    sampling = LightSampling(draws.at_once, LAMPS_ONLY if lamps_only else rules.use_lamps, share)
    c, arrived, open_sky = direct_light(
        world, pixel, vertex, beta, draws.numbers, sampling, catching, scratch
    )
    if ground != _ELSEWHERE:
        pixel[channels.LIT] += luminance_of(beta) * arrived
        pixel[channels.UNLIT] += luminance_of(beta) * open_sky
    return c, arrived / open_sky if open_sky > F(0.0) else F(1.0)


@helper
def _mirrors_letters(world, si, state, sample, way, scratch):
    """(Whether the path goes on, its state) of a way from the ground that the camera sees, which mirrors the
    letters: along the mirrored ray, or as it would without, less what that shows."""
    draw(scratch, sample[0], sample[1], DIMENSION_FILTER + 1, DIMENSION_FILTER + 2)
    u1, u2 = sample_2d(scratch, sample[0], sample[1], DIMENSION_FILTER + 1)
    share, start, d, _ = mirrored_in_ground(world, si.p, si.ng, state.d, u1, u2, scratch)
    if way == THROUGH:
        return True, dimmed(state, scale(state.beta, F(1.0) - share))
    beta = scale(state.beta, share)
    return share > F(0.0), PathState(
        start, d, beta, F(0.0), F(0.0), state.wavelength, False, False, IN_AIR, NO_BODY, NONE, ALL, ALL
    )


@helper
def _one_way(world, pixel, ray, sample, way, first, rules, photons, scratch):
    """A path from the camera, and where what it meets first sends it both ways, that `way`.

    ray and sample as in `trace_path`; first: what the way THROUGH met first, of which the other begins.
    Returns (light that it brings (rgb), a guide for the denoiser: albedo of the first surface that is not
    glass, or else of the glass; unless it will be a layer, of what is mirrored there too, or its light where
    that is no surface; whether there are both ways; what it met first).
    """
    o, d, leaves = ray
    off_ground = False  # the path has just left the ground that the camera saw
    reflected = False  # what is found from here on is a reflection in the ground
    total = (F(0.0), F(0.0), F(0.0))  # all lights together
    direct = total  # the same when the reflection was met
    albedo = total
    state = from_camera(o, d)
    # Shares (rgb) of light that count where it is met next, as the rest is in the map: at lamps and the
    # surround, and at letters, since the path was at ground that is mapped.
    counts = from_letters = ALL
    both = False  # what the camera sees here sends the path both ways
    mirrors = False  # it is ground that mirrors the letters
    guides = way == MIRRORED and not rules.layered  # what is mirrored guides the denoiser
    for bounce in range(MOST_BOUNCES + 1):
        known = bounce == 0 and way == MIRRORED
        hit = first.hit
        if not known:
            hit = seen_hit(world, state.o, state.d, leaves if bounce == 0 else SEARCH, scratch)
        if state.seen_through and hit.kind == NOTHING:
            add3(pixel, channels.THROUGH, state.beta)
            if has_backdrop(world) and not rules.transparent:
                e = mul(state.beta, backdrop_light(world, state.o, state.d))
                add3(pixel, channels.FLAT, e)
                total = add(total, e)
                if bounce > 0:
                    # A guide to what glass shows. Beside the letters it has no noise: a guide there
                    # would have the denoiser leave more of theirs.
                    albedo = e
            break
        if not state.seen_through:
            here = dimmed(state, mul(state.beta, counts))
            total = add(total, add_emission_mis(world, pixel, here, hit.t, scratch))
        if hit.kind == NOTHING or bounce == MOST_BOUNCES:
            if guides and bounce == 1:
                albedo = total
            break

        met = first
        if not known:
            met = surface_met(world, state, hit)
            if bounce == 0:
                first = met
        si, base, entering = met.si, met.base, met.entering
        m = si.material
        kind = world.materials.kind[m]
        if (state.seen_through and way == THROUGH) or (guides and bounce == 1):
            albedo = mul(state.beta, albedo_of(world.materials, si, base, scale(state.d, F(-1.0))))
        ground = _ELSEWHERE
        if hit.kind == GROUND and state.seen_through:
            ground = _CATCHING if rules.transparent else _SEEN
        if bounce == 0:
            mirrors = ground != _ELSEWHERE and world.backing.mirrored > F(0.0)
            both = mirrors or _sent_both_ways(world, m, ground == _CATCHING)
            if way == THROUGH:
                write_aovs(world, pixel, si)
            off_ground = hit.kind == GROUND
            if mirrors:
                goes_on, state = _mirrors_letters(world, si, state, sample, way, scratch)
                if not goes_on:
                    break
                if way == MIRRORED:
                    continue
        elif off_ground:
            off_ground = False
            reflected = hit.kind == LETTER
            direct = total

        if kind in (FLAT, GLOW):
            # What is shown flat is no light, and in no map.
            here = state if kind == FLAT else dimmed(state, mul(state.beta, counts))
            total = add(total, _emitted(world, pixel, here, si, base, entering, hit.t, scratch))
            if kind == FLAT:
                break
        glass = kind == GLASS
        in_glass = state.within[0] >= F(0.0)
        joint = glass and in_joint(state.body, state.overlaps, hit.instance, entering)
        if in_glass and (joint or not entering):
            state = dimmed(state, mul(state.beta, absorbed(state.within, hit.t)))
        if joint:
            state = past_joint(state, offset_from(world, si.p, si.ng, state.d), entering)
            continue
        if not glass and not entering and not in_glass:
            break  # the inside of a closed opaque body: only rounding leads here

        turn = way if both and bounce == 0 and not mirrors else EITHER
        vertex = _vertex_at(world, state, si, base, entering, turn != EITHER)
        many = bounce == 0 or ground == _CATCHING
        draws = _draw_numbers(world, sample, bounce, state.beta, m, turn, many, scratch)
        if glass:
            counts = from_letters = ALL
            continues, state = _at_glass(world, state, vertex, draws, scratch)
        else:
            if hit.kind == GROUND:
                from_letters = ALL
            counts = from_letters
            c, shade = _light_at(world, pixel, mul(state.beta, counts), vertex, draws, rules, ground, scratch)
            if ground == _CATCHING:
                add3(pixel, channels.THROUGH, state.beta)
                break
            total = add(total, c)
            lit = lit_share(world, vertex.si)
            if lit < F(1.0):
                if turn != MIRRORED:
                    total = add(total, shown_flat(world, pixel, state.beta, m, base, shade))
                if lit <= F(0.0):
                    break
                state = dimmed(state, scale(state.beta, lit))
            mapped = hit.kind == GROUND and is_mapped(world, photons, vertex.si)
            if mapped and turn != MIRRORED:
                total = add(total, mapped_light(world, pixel, state.beta, vertex, photons))
            continues, state = _at_opaque(world, state, vertex, draws, rules, scratch)
            if mapped:
                from_letters = state.of_lamps
        if continues and bounce >= ROULETTE_FROM:
            continues, state = _survives(state, glass, draws, scratch)
        if not continues:
            break
    if reflected:
        add3(pixel, channels.REFLECTED, sub(total, direct))
    return total, albedo, both, first


@helper
def trace_path(world, pixel, ray, sample, rules, photons, scratch):
    """Trace one path and add what it brings to `pixel`, its channels.

    ray: (origin, direction, how many leaves the scratch lists that the camera may see here, or SEARCH
    (beams.py)); sample: (key, index); photons: the map of the ground.
    """
    total = (F(0.0), F(0.0), F(0.0))
    guide, first = total, nothing_met()
    for way in (THROUGH, MIRRORED):
        brought, albedo, both, first = _one_way(
            world, pixel, ray, sample, way, first, rules, photons, scratch
        )
        total, guide = add(total, brought), add(guide, albedo)
        if not both:
            break
    add3(pixel, channels.ALBEDO, up_to_white(guide))
    if sample[1] & 1 == 0:
        add3(pixel, channels.HALF, total)
