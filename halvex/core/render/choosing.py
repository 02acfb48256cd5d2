"""Which lights a surface samples: where it cannot sample all, more often those that may bring more.

How much a light may bring is estimated without looking what is in between (Shirley, Wang & Zimmerman, "Monte
Carlo techniques for direct lighting calculations", ACM TOG 15(1), 1996). A light is never chosen where the
estimate says with certainty that nothing arrives: from those that are off, face away or stand behind the
surface.
"""

import math

from halvex.core.kernels import helper
from halvex.core.optics.material import METAL
from halvex.core.optics.microfacet import PI
from halvex.core.optics.vectors import F, dot, luminance_of, row3, sub
from halvex.core.render.frames import to_frame
from halvex.core.render.glows import light_sent
from halvex.core.render.lights import light_count, light_level
from halvex.core.scene.lamps import BULB, SUN
from halvex.core.scene.surround import MATTE_LEVEL, lookup_uv, own_uv

# Lights of less than this level, 20 stops down, are off.
DARK = F(3e-6)
# Share of its samples that a surface gives to all its lights alike, whatever their estimates.
ALIKE = F(0.1)
# What a surround of 0 stops may bring at least: its blurred copy knows nothing of the smallest lights.
LEAST = F(1e-3)


@helper
def is_off(world, k):
    """Whether light k is off: what it would add is not computed."""
    level = light_level(world, k)
    return level[0] + level[1] + level[2] < DARK


@helper
def _lamp_sends(lamps, k, p, n):
    """About what lamp k, white and of 0 stops, sends to a surface at p with normal n, or 0."""
    centre, size = row3(lamps.centre, k), lamps.size[k]
    u = row3(lamps.u, k)
    if lamps.kind[k] == SUN:
        return lamps.radiance[k] * size * max(dot(n, centre) + math.sqrt(dot(u, u)), F(0.0))
    to = sub(centre, p)
    if lamps.kind[k] == BULB:
        area, above = PI * size * size, size
        far2 = dot(to, to) + area
        front = math.sqrt(far2)
    else:
        area, above = size, abs(dot(n, u)) + abs(dot(n, row3(lamps.v, k)))
        far2 = dot(to, to) + area
        front = max(-dot(to, row3(lamps.normal, k)), F(0.0))
    above = min(max(dot(n, to) + above, F(0.0)), math.sqrt(far2))
    return lamps.radiance[k] * area * above * front / (far2 * far2)


@helper
def _may_bring(world, vertex, k):
    """About how much of light k reaches a surface where nothing is in between, or 0."""
    lamps, p, n = world.lamps, vertex.si.p, vertex.si.ng
    if is_off(world, k):
        return F(0.0)
    level = luminance_of(light_level(world, k))
    count = lamps.kind.shape[0]
    if k < count:
        if lamps.mirrored[k] == 0 and world.materials.kind[vertex.si.material] == METAL:
            return F(0.0)
        return level * _lamp_sends(lamps, k, p, n)
    if k == count:
        u, v = own_uv(world.surround, n)
        return level * max(PI * luminance_of(lookup_uv(world.surround.blurred[MATTE_LEVEL], u, v)), LEAST)
    return light_sent(world.glows, to_frame(world.turn, p))


@helper
def share_samples(world, vertex, at_once, scratch):
    """Write to scratch.times how often a surface samples each light in the mean, `at_once` samples in all:
    each once where that is enough, and what glows has the rest; else by what they may bring."""
    times, lights = scratch.times, light_count(world)
    if at_once >= lights:
        for k in range(lights):
            times[k] = F(1.0)
        times[lights - 1] += F(at_once - lights)
        return
    total, count = F(0.0), 0
    for k in range(lights):
        times[k] = _may_bring(world, vertex, k)
        total += times[k]
        count += 1 if times[k] > F(0.0) else 0
    for k in range(lights):
        if times[k] > F(0.0):
            times[k] = F(at_once) * ((F(1.0) - ALIKE) * times[k] / total + ALIKE / F(count))
