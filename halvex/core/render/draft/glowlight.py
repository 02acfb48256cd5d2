"""What glowing parts send by way of a surface to the camera, shadows aside and without noise."""

import math
from typing import NamedTuple

import numpy as np

from halvex.core.kernels import helper, kernel, routine
from halvex.core.optics.material import ALPHA, GLASS
from halvex.core.optics.scattering import NO_SAMPLES, evaluate, seen_base
from halvex.core.optics.vectors import F, add, dot, mul, row3, scale, sub, to_local
from halvex.core.references import by_reference
from halvex.core.render.beads import SHOWN, SHOWN_OF_CORE
from halvex.core.render.draft.lamplight import DULL_ALPHA
from halvex.core.render.interaction import shading_frame
from halvex.core.render.lights import radiance_of_triangle

# Light from so low above a surface is hardly any.
LEAST_COSINE = F(0.02)


@kernel
def light_beads(world):
    """Fill in the light of the world's beads and their groups (beads.py)."""
    world = by_reference(world)
    beads = world.beads
    count = beads.instance.shape[0]
    for i in range(count):
        light = radiance_of_triangle(world, beads.instance[i], beads.triangle[i])
        for c in range(3):
            beads.light[i, c] = light[c]
    for k in range(beads.far.shape[0]):
        total, light = F(1e-12), (F(0.0), F(0.0), F(0.0))
        for i in range(beads.first[k], beads.first[k + 1]):
            v = row3(beads.outward, i)
            shown = F(0.25) * beads.around[i] + math.sqrt(dot(v, v))
            total += shown
            light = add(light, scale(row3(beads.light, i), shown))
        for c in range(3):
            beads.light[count + k, c] = light[c] / total


class Glow(NamedTuple):
    """The light of all that glows at a point of a surface: its irradiance (rgb), 0 without any, the mean of
    its directions, and how far these are apart, from 0 to 1."""

    light: tuple[np.float32, np.float32, np.float32]
    way: tuple[np.float32, np.float32, np.float32]
    apart: np.float32


@helper
def glow_light(world, si, wo, base):
    """Light (rgb) that glowing parts send by way of a surface to wo, shadows aside."""
    return sent_on(world, si, wo, base, glow_at(world, si))


@routine
def glow_at(world, si):
    """The light of what glows at a point of a surface, shadows aside: that of beads near by and of groups of
    them far away."""
    beads = world.beads
    count = beads.instance.shape[0]
    light, way, whole = (F(0.0), F(0.0), F(0.0)), (F(0.0), F(0.0), F(0.0)), F(1e-20)
    for k in range(beads.far.shape[0]):
        to, end = sub(row3(beads.place, count + k), si.p), beads.first[k + 1]
        # From one to the other by and by, or a step shows where a group begins to stand for its beads.
        of_group = min(max(dot(to, to) / beads.far[k] - F(1.0), F(0.0)), F(1.0))
        for j in range(beads.first[k] if of_group < F(1.0) else end, end + 1):
            i, part = (j, F(1.0) - of_group) if j < end else (count + k, of_group)
            d, share = _seen_from(beads, i, si.p, si.ns)
            share *= part
            if share > F(0.0):
                own = scale(row3(beads.light, i), share)
                strength = own[0] + own[1] + own[2]
                light, way, whole = add(light, own), add(way, scale(d, strength)), whole + strength
    length = math.sqrt(dot(way, way))
    if length <= F(0.0):
        return Glow((F(0.0), F(0.0), F(0.0)), si.ns, F(0.0))
    return Glow(light, scale(way, F(1.0) / length), max(F(1.0) - length / whole, F(0.0)))


@helper
def sent_on(world, si, wo, base, glow):
    """Light (rgb) of what glows that a surface sends to wo: as if all of it came from the mean of its
    directions, and the lobe were as much wider as they are apart."""
    m = si.material
    dark = glow.light[0] + glow.light[1] + glow.light[2] <= F(0.0)
    if dark or world.materials.kind[m] >= GLASS:
        return F(0.0), F(0.0), F(0.0)
    s, t = shading_frame(world, si, si.ns)
    lo, li = to_local(wo, s, t, si.ns), to_local(glow.way, s, t, si.ns)
    wide = max(world.materials.params[m, ALPHA], DULL_ALPHA)
    wide = min(math.sqrt(wide * wide + glow.apart), F(1.0))
    base = seen_base(world.materials, m, base, lo, wide)
    f, _ = evaluate(world.materials, m, base, si.pearl, lo, li, wide, NO_SAMPLES)
    return scale(mul(f, glow.light), F(1.0) / max(li[2], LEAST_COSINE))


@helper
def _seen_from(beads, i, p, n):
    """(direction, irradiance for a radiance of 1) of bead i at a point p of normal n."""
    to = sub(row3(beads.place, i), p)
    d2, above = max(dot(to, to), F(1e-12)), dot(to, n)
    d = scale(to, F(1.0) / math.sqrt(d2))
    if above <= F(0.0):
        return d, F(0.0)
    # The beads of a group are as far, on the mean square, as its middle and they from that.
    d2 += beads.wide[i]
    return d, _shown(beads, i, d) * above / (max(d2, beads.near[i]) * math.sqrt(d2))


@helper
def _shown(beads, i, d):
    """What bead i shows along d, in px² that shine evenly: what it turns to all sides by how its normals lie,
    and what it turns one way by that. Light from its middle (`shining`) goes by the cube of the cosine."""
    q, core = beads.normals[i], beads.core[i]
    along_d = q[0] * d[0] * d[0] + q[1] * d[1] * d[1] + q[2] * d[2] * d[2]
    along_d = max(along_d + q[3] * d[1] * d[2] + q[4] * d[2] * d[0] + q[5] * d[0] * d[1], F(0.0))
    v = row3(beads.outward, i)
    turned = max(-dot(v, d), F(0.0))
    even = beads.around[i] * F(SHOWN) * math.sqrt(along_d) + turned
    if core <= F(0.0):
        return even
    cube = turned * turned / max(dot(v, v), F(1e-12))
    middle = beads.around[i] * F(SHOWN_OF_CORE) * along_d * along_d + turned * cube * math.sqrt(cube)
    return ((F(1.0) - core) * even + core * middle) / (F(1.0) - F(0.6) * core)
