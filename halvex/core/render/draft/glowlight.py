"""What glowing parts send by way of a surface to the camera, shadows aside and without noise."""

import math
from typing import NamedTuple

import numpy as np

from halvex.core.kernels import helper, kernel, routine
from halvex.core.optics.material import ALPHA, GLASS
from halvex.core.optics.scattering import NO_SAMPLES, evaluate, seen_base
from halvex.core.optics.vectors import F, add, mul, scale, to_local
from halvex.core.references import by_reference
from halvex.core.render.beads import (
    AROUND,
    EVEN,
    LIGHT,
    MIDDLE,
    NEAR,
    NORMALS,
    OUTWARD,
    OVER_FAR,
    PLACE,
    SHOWN,
    SHOWN_OF_CORE,
    TURNED,
    WIDE,
)
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
    rows, count = beads.rows, beads.instance.shape[0]
    for i in range(count):
        light = radiance_of_triangle(world, beads.instance[i], beads.triangle[i])
        for c in range(3):
            rows[LIGHT + c, i] = light[c]
    for k in range(beads.first.shape[0] - 1):
        total, light = F(1e-12), (F(0.0), F(0.0), F(0.0))
        for i in range(beads.first[k], beads.first[k + 1]):
            area = F(0.25) * rows[AROUND, i] + F(1.0) / rows[TURNED, i]
            total += area
            light = add(light, scale((rows[LIGHT, i], rows[LIGHT + 1, i], rows[LIGHT + 2, i]), area))
        for c in range(3):
            rows[LIGHT + c, count + k] = light[c] / total


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


class _Sums(NamedTuple):
    """Sums over beads: irradiance (rgb), the ways that it comes from by its strength, and that strength."""

    red: np.float32
    green: np.float32
    blue: np.float32
    x: np.float32
    y: np.float32
    z: np.float32
    whole: np.float32


@routine
def glow_at(world, si):
    """The light of what glows at a point of a surface, shadows aside: that of beads near by and of groups of
    them far away."""
    beads, p = world.beads, si.p
    rows, count = beads.rows, beads.instance.shape[0]
    zero = F(0.0)
    sums = _Sums(zero, zero, zero, zero, zero, zero, F(1e-20))
    sums = _with(sums, rows, count, rows.shape[1], si, F(1.0))
    for k in range(beads.first.shape[0] - 1):
        group = count + k
        x, y, z = rows[PLACE, group] - p[0], rows[PLACE + 1, group] - p[1], rows[PLACE + 2, group] - p[2]
        # They fade into each other: a step would show where a group begins to stand for its beads.
        of_beads = F(2.0) - (x * x + y * y + z * z) * rows[OVER_FAR, group]
        if of_beads > F(0.0):
            sums = _with(sums, rows, beads.first[k], beads.first[k + 1], si, min(of_beads, F(1.0)))
    length = math.sqrt(sums.x * sums.x + sums.y * sums.y + sums.z * sums.z)
    if length <= F(0.0):
        return Glow((F(0.0), F(0.0), F(0.0)), si.ns, F(0.0))
    way = sums.x / length, sums.y / length, sums.z / length
    return Glow((sums.red, sums.green, sums.blue), way, max(F(1.0) - length / sums.whole, F(0.0)))


@helper
def _with(sums, rows, first, end, si, part):
    """Sums and such a part of the light of beads or groups first to end - 1 at a point of a surface. Without
    branches, so that several are worked on at once."""
    p, n = si.p, si.ns
    red, green, blue, wx, wy, wz, whole = sums
    for i in range(first, end):
        x, y, z = rows[PLACE, i] - p[0], rows[PLACE + 1, i] - p[1], rows[PLACE + 2, i] - p[2]
        d2 = max(x * x + y * y + z * z, F(1e-12))
        stands = min(max(d2 * rows[OVER_FAR, i] - F(1.0), F(0.0)), F(1.0))
        above = max(x * n[0] + y * n[1] + z * n[2], F(0.0))
        over = F(1.0) / math.sqrt(d2)
        x, y, z = x * over, y * over, z * over
        # The beads of a group are as far, on the mean square, as its middle and they from that.
        d2 += rows[WIDE, i]
        seen = part * stands * above / (max(d2, rows[NEAR, i]) * math.sqrt(d2)) * shown(rows, i, x, y, z)
        r, g, b = seen * rows[LIGHT, i], seen * rows[LIGHT + 1, i], seen * rows[LIGHT + 2, i]
        strength = r + g + b
        red, green, blue, whole = red + r, green + g, blue + b, whole + strength
        wx, wy, wz = wx + strength * x, wy + strength * y, wz + strength * z
    return _Sums(red, green, blue, wx, wy, wz, whole)


@helper
def shown(rows, i, x, y, z):
    """What bead i shows from the direction (x, y, z) to it, in px² that shine evenly: what it turns to all
    sides by how its normals lie, and what it turns one way by that. Light from its middle (`shining`) goes by
    the cube of the cosine."""
    lies = rows[NORMALS, i] * x * x + rows[NORMALS + 1, i] * y * y + rows[NORMALS + 2, i] * z * z
    lies += rows[NORMALS + 3, i] * y * z + rows[NORMALS + 4, i] * z * x + rows[NORMALS + 5, i] * x * y
    lies, around = max(lies, F(0.0)), rows[AROUND, i]
    turned = max(-(rows[OUTWARD, i] * x + rows[OUTWARD + 1, i] * y + rows[OUTWARD + 2, i] * z), F(0.0))
    cosine = turned * rows[TURNED, i]
    even = around * F(SHOWN) * math.sqrt(lies) + turned
    middle = around * F(SHOWN_OF_CORE) * lies * lies + turned * cosine * cosine * cosine
    return rows[EVEN, i] * even + rows[MIDDLE, i] * middle


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
