"""Direct light: sampled from the lights and met by scattered rays, weighed by multiple importance sampling.

The power heuristic weighs the two (Veach & Guibas, SIGGRAPH 1995).
"""

import math
from typing import NamedTuple

import numpy as np

from halvex.core.kernels import helper
from halvex.core.optics.material import MATTE, PLASTIC
from halvex.core.optics.scattering import evaluate_parts, matte_part
from halvex.core.optics.vectors import F, add, along, dot, luminance_of, mul, scale, sub, to_local
from halvex.core.render import channels
from halvex.core.render.aiming import aimed, is_aimed_at
from halvex.core.render.behind import shade_falls_from, shaded
from halvex.core.render.hits import FAR, ground_hit
from halvex.core.render.interaction import SurfaceInteraction, offset_from
from halvex.core.render.lights import (
    hit_lamp,
    is_off,
    light_count,
    light_level,
    sample_glow,
    sample_lamp,
    sample_surround,
    surround_seen,
)
from halvex.core.render.sampler import sample_2d
from halvex.core.render.shadow import shadow
from halvex.core.scene.ground import COVE

SURFACE_ONLY, BOTH, LAMPS_ONLY = 0, 1, 2
ALL, NONE_OF_IT = (F(1.0), F(1.0), F(1.0)), (F(0.0), F(0.0), F(0.0))
# A density that says to add_emission_mis that lamps were sampled already and must not count.
NEVER_COUNT = F(-1.0)

# Dimensions of the sampler at a surface, one after another: SURFACE, which says where the path goes, one for
# each light that is asked, and what a surface of several lobes needs.
SURFACE, FIRST_LIGHT = 0, 1

# Luminance under which a light gets stochastic shadow rays: one is traced with
# the share it is of this.
FAINT, FAINT_SKY = F(0.01), F(0.003)


class Numbers(NamedTuple):
    """Where random numbers are drawn: the pixel's key, the sample, and the first dimension of a surface
    (sampler.py)."""

    key: tuple[int, int, int, int, int]
    sample: int
    dimension: int


class Vertex(NamedTuple):
    """A surface that a path has come to.

    Its normals are turned to where the path comes from, from outside or not (`entering`). frame: shading
    frame, its normal last, in which lo leads back along the path; base, alpha: colour and roughness as they
    count there; shares: how many samples its lobes get; table: the surround's for its normal (`table_for`).
    """

    si: SurfaceInteraction
    entering: bool
    frame: tuple[tuple[np.float32, np.float32, np.float32], ...]
    lo: tuple[np.float32, np.float32, np.float32]
    base: tuple[np.float32, np.float32, np.float32]
    alpha: np.float32
    shares: tuple[np.float32, np.float32, np.float32]
    table: int


class LightSampling(NamedTuple):
    """How lights are sampled: how many at once, and whether surfaces are sampled too (SURFACE_ONLY, BOTH or
    LAMPS_ONLY); share: how much of what is sampled is light of the picture, the rest only finds shade."""

    at_once: int
    use_lamps: int
    share: np.float32


@helper
def power_heuristic(a, b):
    """Weight of a sample of density a against one of density b."""
    if a <= F(0.0):
        return F(0.0)
    r = b / a
    return F(1.0) / (F(1.0) + r * r)


@helper
def sample_light(world, k, p, table, u1, u2):
    """(direction, distance, radiance (rgb), pdf, pdf by which two ways to this light are weighed) of light k
    from p; of the surround by a table (`table_for`)."""
    lamps = world.lamps.kind.shape[0]
    if k < lamps:
        d, distance, radiance, pdf = sample_lamp(world.lamps, k, p, u1, u2)
        return d, distance, (radiance, radiance, radiance), pdf, pdf
    if k == lamps:
        d, radiance, pdf, of_all = sample_surround(world.surround, table, u1, u2)
        return d, FAR, radiance, pdf, of_all
    d, distance, radiance, pdf = sample_glow(world, p, u1, u2)
    return d, distance, radiance, pdf, pdf


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
def _sent_back(world, vertex, k, d, pdf, weighed, use_lamps, alone):
    """Share (rgb) of light k, sampled along d with density pdf, that the surface sends back along the path,
    weighed against having sampled the surface as if that had been done with density `weighed`; `alone`: what
    scatters evenly finds this light no other way."""
    s, t, ns = vertex.frame
    li, m = to_local(d, s, t, ns), vertex.si.material
    kind = world.materials.kind[m]
    unmirrored = k < world.lamps.kind.shape[0] and world.lamps.mirrored[k] == 0
    if unmirrored or (alone and kind == MATTE):
        return scale(matte_part(world.materials, m, vertex.base, vertex.lo, li), F(1.0) / pdf)
    mirrored, matte, surface_pdf = evaluate_parts(
        world.materials, m, vertex.base, vertex.si.pearl, vertex.lo, li, vertex.alpha, vertex.shares
    )
    weight = F(1.0)
    if use_lamps == BOTH:
        weight = power_heuristic(weighed, surface_pdf)
    return scale(add(scale(mirrored, weight), scale(matte, F(1.0) if alone else weight)), F(1.0) / pdf)


@helper
def share_mirrored(world, vertex, wi, f):
    """Share (rgb) of f, what a surface scatters back from wi in its frame, that it mirrors and does not
    scatter evenly."""
    m = vertex.si.material
    kind = world.materials.kind[m]
    if kind == MATTE:
        return NONE_OF_IT
    if kind != PLASTIC:
        return ALL
    matte = matte_part(world.materials, m, vertex.base, vertex.lo, wi)
    return _left(matte[0], f[0]), _left(matte[1], f[1]), _left(matte[2], f[2])


@helper
def _left(part, whole):
    return max(F(1.0) - part / max(whole, F(1e-20)), F(0.0))


@helper
def arrives(world, k, p, start, d, distance, of_ground, scratch):
    """Share (rgb) of light k, met along d from p, that no letter hides from `start` beside p; at the ground,
    none that shades it."""
    way, reach = d, distance * F(0.9999)
    if k > world.lamps.kind.shape[0]:
        # Glowing parts are bodies: the ray from the moved start must not end behind their surface.
        way = sub(along(p, d, distance), start)
        far = math.sqrt(dot(way, way))
        way, reach = scale(way, F(1.0) / far), far * F(0.999)
    return shadow(world, start, way, reach, False, of_ground, scratch)


@helper
def direct_light(world, pixel, vertex, beta, numbers, sampling, catching, scratch):
    """Light that a surface sends back along the path straight from the lights, added to the pixel's shares
    unless it only catches shadows.

    Returns (all of it at the lights' levels (rgb), luminance of what arrives whatever the path has lost, the
    same without the letters' shadows).
    """
    p, ng, m = vertex.si.p, vertex.si.ng, vertex.si.material
    whole, arrived, open_sky = (F(0.0), F(0.0), F(0.0)), F(0.0), F(0.0)
    lights, lamps = light_count(world), world.lamps.kind.shape[0]
    # A wall is flat; a cove hides light from itself.
    hides_from_itself = vertex.si.instance >= 0 or world.ground.kind == COVE
    # The same numbers say where the path goes on: what each adds is right in the mean whatever the
    # other does.
    u_faint, u_pick = sample_2d(scratch, numbers.key, numbers.sample, numbers.dimension + SURFACE)
    changed = vertex.si.instance < 0 and world.backing.changed
    from_p = shade_falls_from(world.backing, p, ng, vertex.si.dpdu, u_faint, u_pick) if changed else p
    start = offset_from(world, from_p, ng, ng)
    scatters_evenly = world.materials.kind[m] in (MATTE, PLASTIC)
    k, up_to = 0, scratch.times[0]
    for turn in range(sampling.at_once):
        # Evenly over all lights, each as wide as it is often sampled.
        while k < lights - 1 and up_to <= F(turn) + u_pick:
            k += 1
            up_to += scratch.times[k]
        if scratch.times[k] <= F(0.0) or is_off(world, k):
            continue
        u1, u2 = sample_2d(scratch, numbers.key, numbers.sample, numbers.dimension + FIRST_LIGHT + turn)
        times, density = scratch.times[k], F(1.0)
        alone = (k < lamps and is_aimed_at(world.lamps, k, p)) or (k == lamps and vertex.table > 0)
        alone = alone and scatters_evenly
        if k < lamps and alone:
            u1, u2, density = aimed(world.lamps, k, p, vertex.si.ns, u1, u2)
        d, distance, radiance, pdf, weighed = sample_light(world, k, p, vertex.table, u1, u2)
        if pdf <= F(0.0) or dot(ng, d) <= F(0.0):
            continue
        f = _sent_back(world, vertex, k, d, pdf * density * times, weighed * times, sampling.use_lamps, alone)
        if luminance_of(f) <= F(0.0):
            continue
        c = mul(f, radiance)
        if hides_from_itself:
            at_ground, _ = ground_hit(world.ground, start, d, distance)
            if at_ground < distance:
                continue
        level = light_level(world, k)
        open_sky += luminance_of(mul(c, level))
        # A shadow ray costs as much for faint light as for bright: of faint light few are traced, for all.
        # Where shade darkens what is not lit, it counts however faint the light is.
        bright = luminance_of(mul(mul(beta, c), level))
        faint = FAINT_SKY if k == lamps else FAINT
        if bright < faint and sampling.share >= F(1.0):
            if u_faint * faint >= bright:
                continue
            c = scale(c, faint / bright)
        seen = arrives(world, k, p, start, d, distance, changed, scratch)
        if changed:
            seen = shaded(world.backing, k < lamps, seen)
        if seen[0] + seen[1] + seen[2] <= F(0.0):
            continue
        c = mul(c, seen)
        e = mul(c, level)
        arrived += luminance_of(e)
        if not catching:
            e = add_light_sample(world, pixel, k, beta, scale(c, sampling.share))
        whole = (whole[0] + e[0], whole[1] + e[1], whole[2] + e[2])
    return whole, arrived, open_sky


@helper
def add_emission_mis(world, pixel, state, t, scratch):
    """Lamps and, where t is FAR, the surround along the ray of a path's `state`, weighed against having
    sampled them; returns their light (rgb).

    pdf 0 means the ray could not have been a sample (camera or mirror): full weight.
    """
    beta, o, d, pdf, times = state.beta, state.o, state.d, state.pdf, scratch.times
    r, g, b = F(0.0), F(0.0), F(0.0)
    if pdf == NEVER_COUNT or luminance_of(beta) <= F(0.0):
        return r, g, b
    lamps = world.lamps.kind.shape[0]
    if state.count_lamps:
        for k in range(lamps):
            if world.lamps.mirrored[k] == 0 or is_off(world, k):
                continue
            share = state.of_lamps if is_aimed_at(world.lamps, k, o) else ALL
            if luminance_of(share) <= F(0.0):
                continue
            tl, lamp_pdf = hit_lamp(world.lamps, k, o, d)
            if tl < t:
                weight = power_heuristic(pdf, times[k] * lamp_pdf) if pdf > F(0.0) else F(1.0)
                e = add_light_sample(world, pixel, k, beta, scale(share, world.lamps.radiance[k] * weight))
                r += e[0]
                g += e[1]
                b += e[2]
    if t >= FAR and not is_off(world, lamps) and luminance_of(state.of_sky) > F(0.0):
        sky, sky_pdf = surround_seen(world.surround, d)
        weight = power_heuristic(pdf, times[lamps] * sky_pdf) if pdf > F(0.0) else F(1.0)
        e = add_light_sample(world, pixel, lamps, beta, scale(mul(state.of_sky, sky), weight))
        r += e[0]
        g += e[1]
        b += e[2]
    return r, g, b
