"""What stands behind the letters, as rays see it: the backdrop past everything, the flat share of the ground,
and the letters' shade and reflection on it."""

import math

import numpy as np

from halvex.core.kernels import helper, routine
from halvex.core.optics.material import FLAT, METAL
from halvex.core.optics.scattering import NO_PEARL, metal_reflectance
from halvex.core.optics.sources import BY, HOW, UNDER_COAT
from halvex.core.optics.tone import light_shown
from halvex.core.optics.vectors import F, add, along, basis, cross, dot, mul, normalise, reflect, scale
from halvex.core.render import channels
from halvex.core.render.aovs import add3
from halvex.core.render.hits import FAR, LETTER, first_hit
from halvex.core.render.interaction import SurfaceInteraction, ground_frame, offset_from
from halvex.core.render.sourcing import sourced
from halvex.core.scene.backing import NOTHING_BEHIND

# A ray that runs no deeper than this for each px of its length is taken to meet the backdrop somewhere far
# beside the canvas.
_SHALLOWEST = F(0.05)
_TURN = F(2.0 * math.pi)


@helper
def has_backdrop(world):
    """Whether what is seen past everything is more than one colour."""
    return world.backing.material != NOTHING_BEHIND


@routine
def backdrop_light(world, o, d):
    """Light (rgb) at exposure 0 of the backdrop where a ray that meets nothing passes it."""
    t = (world.ground.behind - o[2]) / min(d[2], -_SHALLOWEST)
    n, none = (F(0.0), F(0.0), F(1.0)), np.int32(-1)
    p, m = along(o, d, max(t, F(0.0))), np.int32(world.backing.material)
    uv, dpdu = (p[0], p[1]), (F(1.0), F(0.0), F(0.0))
    si = SurfaceInteraction(p, n, n, uv, dpdu, none, none, none, ground_frame(world), m, NO_PEARL)
    return sourced(world, si).base


@helper
def flat_light(world, m, base):
    """Light (rgb) at exposure 0 that is shown as the colour of a ground of material m and a given base."""
    row = world.materials.sources.rows[m]
    if int(row[HOW]) == UNDER_COAT:
        # What the coat turns back has made the base deeper than the colour is.
        by = row[BY]
        base = (
            base[0] / (F(1.0) - by + base[0] * by),
            base[1] / (F(1.0) - by + base[1] * by),
            base[2] / (F(1.0) - by + base[2] * by),
        )
    if world.materials.kind[m] == METAL:
        base = mul(base, metal_reflectance(world.materials, m, F(1.0)))
    return light_shown(base[0], base[1], base[2], world.backing.curve)


@helper
def with_flat_share(world, m, base, light):
    """Light (rgb), exposed as flat colours are, of a ground of material m and this base that would send so
    much (rgb) if it were lit alone."""
    if world.materials.kind[m] == FLAT:
        return scale(base, world.flat_gain)
    lit = world.backing.lit
    if lit >= F(1.0):
        return light
    flat = scale(flat_light(world, m, base), (F(1.0) - lit) * world.flat_gain)
    return add(scale(light, lit), flat)


@helper
def shaded(backing, is_lamp, share):
    """How much (rgb) of a light is left where letters leave so much of it (rgb) to the ground."""
    density = backing.density if is_lamp else backing.contact
    return (
        share[0] + (F(1.0) - share[0]) * (F(1.0) - density * (F(1.0) - backing.tint[0])),
        share[1] + (F(1.0) - share[1]) * (F(1.0) - density * (F(1.0) - backing.tint[1])),
        share[2] + (F(1.0) - share[2]) * (F(1.0) - density * (F(1.0) - backing.tint[2])),
    )


@helper
def shade_falls_from(backing, p, n, dpdu, u1, u2):
    """The point whose shade shows at p of the ground: moved along it, and scattered by two numbers in [0, 1)
    as far as shade is softened."""
    far = backing.softness * math.sqrt(F(-2.0) * math.log(max(F(1.0) - u1, F(1e-7))))
    x = far * math.cos(_TURN * u2) - backing.moved[0]
    y = far * math.sin(_TURN * u2) - backing.moved[1]
    return along(along(p, dpdu, x), cross(n, dpdu), y)


@helper
def mirrored_in_ground(world, p, n, d, u1, u2, scratch):
    """(share of what the camera sees at p of the ground that the letters mirrored there make; the mirrored
    ray's origin and direction, and its hit); d leads to p, and two numbers in [0, 1) choose a facet."""
    backing = world.backing
    s, t = basis(n)
    # A facet of the GGX distribution, as sampled by its density (Walter et al., EGSR 2007, eq. 35).
    tan2 = backing.mirror_alpha * backing.mirror_alpha * u1 / (F(1.0) - min(u1, F(0.999)))
    cosine = F(1.0) / math.sqrt(F(1.0) + tan2)
    sine = math.sqrt(max(F(1.0) - cosine * cosine, F(0.0)))
    x, y = sine * math.cos(_TURN * u2), sine * math.sin(_TURN * u2)
    facet = normalise(add(add(scale(s, x), scale(t, y)), scale(n, cosine)))
    way = reflect(d, facet)
    if dot(way, n) < F(1e-3):
        way = normalise(add(way, scale(n, F(1e-3) - dot(way, n))))
    start = offset_from(world, p, n, way)
    hit = first_hit(world, start, way, FAR, scratch)
    high = hit.t * dot(way, n)
    if hit.kind != LETTER or high >= backing.fade:
        return F(0.0), start, way, hit
    return backing.mirrored * (F(1.0) - high / backing.fade), start, way, hit


@helper
def lit_share(world, si):
    """How much of the lights a surface takes; the ground may be shown flat by a share."""
    return world.backing.lit if si.instance < 0 else F(1.0)


@helper
def shade_is_changed(world, si):
    """Whether letters' shade on a surface is not as the lights make it: only lights that are sampled know."""
    return si.instance < 0 and world.backing.changed


@helper
def shown_flat(world, pixel, beta, m, base, shade):
    """Light (rgb) of the flat share of the ground, of which letters leave a share, added to the pixel."""
    share = (F(1.0) - world.backing.lit) * shade
    e = scale(mul(beta, flat_light(world, m, base)), share)
    add3(pixel, channels.FLAT, e)
    return e
