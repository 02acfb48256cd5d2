"""Which lights a surface samples: where it cannot sample all, more often those that may bring more.

How much a light may bring is estimated as if nothing were in between (Shirley, Wang & Zimmerman, "Monte
Carlo techniques for direct lighting calculations", ACM TOG 15(1), 1996). A light is never chosen where the
estimate is sure that nothing arrives: if it is off, faces away or stands behind the surface.
"""

import math

from halvex.core.kernels import helper
from halvex.core.optics.material import METAL
from halvex.core.optics.microfacet import PI
from halvex.core.optics.vectors import F, dot, luminance_of, row3, sub
from halvex.core.render.frames import to_frame
from halvex.core.render.glows import light_sent
from halvex.core.render.lights import is_off, light_count, light_level
from halvex.core.scene.lamps import BULB, SUN

# Share of its samples that a surface gives to all its lights alike, whatever their estimates.
ALIKE = F(0.1)


@helper
def _mean_height(h, reach):
    """The mean of heights spread evenly from h - reach to h + reach, those under the horizon being 0."""
    if h >= reach:
        return h
    over = max(h + reach, F(0.0))
    return over * over / max(F(4.0) * reach, F(1e-20))


@helper
def _lamp_sends(lamps, k, p, n):
    """About what lamp k, white and of 0 stops, sends to a surface at p with normal n, or 0: of cards what a
    disc of their area would, which is exact where surface and disc face each other."""
    centre, u, size = row3(lamps.centre, k), row3(lamps.u, k), lamps.size[k]
    if lamps.kind[k] == SUN:
        return lamps.radiance[k] * size * _mean_height(dot(n, centre), math.sqrt(dot(u, u)))
    to = sub(centre, p)
    h, d2 = dot(n, to), dot(to, to)
    if lamps.kind[k] == BULB:
        inverse = F(1.0) / math.sqrt(max(d2, size * size))
        seen = size * inverse
        return lamps.radiance[k] * PI * seen * seen * (_mean_height(h, size) * inverse)
    front = -dot(to, row3(lamps.normal, k))
    if front <= F(0.0):
        return F(0.0)
    reach = abs(dot(n, u)) + abs(dot(n, row3(lamps.v, k)))
    d, far = math.sqrt(d2), math.sqrt(d2 + size / PI)
    # Beside a card its nearest parts, which are nearly before the surface, bring most.
    nearer, inverse = far - d, F(1.0) / far
    height = _mean_height(h, reach) + nearer * max(h / d, F(0.0))
    # Step by step: from far off the ground, products of distances would have no number.
    cosines = (height * inverse) * ((front + nearer) * inverse)
    return lamps.radiance[k] * cosines * (size * inverse * inverse)


@helper
def may_bring(world, k, p, n, material):
    """About how much of light k reaches a surface at p with normal n where nothing is in between, or 0; of
    metals, which show nothing else, only of what is mirrored."""
    lamps = world.lamps
    if is_off(world, k):
        return F(0.0)
    level = luminance_of(light_level(world, k))
    count = lamps.kind.shape[0]
    if k < count:
        if lamps.mirrored[k] == 0 and world.materials.kind[material] == METAL:
            return F(0.0)
        return level * _lamp_sends(lamps, k, p, n)
    if k == count:
        return level * world.surround.sent
    return light_sent(world.glows, to_frame(world.turn, p))


@helper
def share_samples(world, p, n, material, at_once, scratch):
    """Write to scratch.times how often a surface at p with normal n samples each light in the mean, `at_once`
    samples in all: each once where these are enough, the rest for what glows; else by what they may bring."""
    times, lights = scratch.times, light_count(world)
    if at_once >= lights:
        for k in range(lights):
            times[k] = F(1.0)
        times[lights - 1] += F(at_once - lights)
        return
    total, count = F(0.0), 0
    for k in range(lights):
        times[k] = may_bring(world, k, p, n, material)
        total += times[k]
        count += 1 if times[k] > F(0.0) else 0
    for k in range(lights):
        if times[k] > F(0.0):
            times[k] = F(at_once) * ((F(1.0) - ALIKE) * times[k] / total + ALIKE / F(count))
