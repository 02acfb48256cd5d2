"""How much of each light reaches a surface, without noise: one ray a light at every second pixel, evened out over 4 × 4 of those."""

import numpy as np

from halvex.core.optics.material import GLASS, METAL
from halvex.core.optics.scattering import cosine_sample
from halvex.core.optics.vectors import F, basis, dot, helper, kernel, row3, sub, to_world
from halvex.core.render.draft.ground import left_out
from halvex.core.render.draft.surfaces import GEOMETRIC, NORMAL, POINT, ground_at
from halvex.core.render.hits import FAR, offset_from, shadow
from halvex.core.render.lanes import lowest_bit
from halvex.core.render.lights import sample_lamp

PATTERN = 4
# Visibilities are shared between pixels whose normals differ by less than about 25°.
SAME_NORMAL = F(0.9)


@kernel
def _pattern(x, y):
    """Spot (u1, u2) of the 4 × 4 pattern for a cell: a stratum of the unit square, none twice.

    Cells of one colour of a chessboard have the strata of one colour: half the cells are spread as evenly as all.
    """
    i, j = (x + 2 * ((y ^ (y >> 1)) & 1)) & 3, (y + 2 * (x & 1)) & 3
    return (F(i) + F(0.5)) * F(0.25), (F(j) + F(0.5)) * F(0.25)


@kernel
def visibility(world, surfaces, seen, lights, y0, y1, scratch):
    """Fill rows y0..y1-1 of seen (H/2, W/2, lamps + 1, 3) for the lights with lights[k] != 0: 1 where no surface asks for them.

    Glass and what shines or is flat ask for none, metals not for the surround: they mirror it, and what they mirror is traced.
    """
    lamps = world.lamps.kind.shape[0]
    for y in range(y0, y1):
        for x in range(seen.shape[1]):
            for k in range(lamps + 1):
                if lights[k] != 0:
                    for c in range(3):
                        seen[y, x, k, c] = F(1.0)
            m = surfaces.material[2 * y, 2 * x]
            if m < 0 or world.materials.kind[m] >= GLASS:
                continue
            # The ground does not darken itself: it would do so in steps, and what it hides it also returns.
            on_ground = m == world.ground.material
            if on_ground:
                if left_out(x, y):
                    continue
                p, ng, _ = ground_at(world, 2 * y, 2 * x)
            else:
                p, ng = row3(surfaces.place[2 * y, 2 * x], POINT), row3(surfaces.place[2 * y, 2 * x], GEOMETRIC)
            u1, u2 = _pattern(x, y)
            for k in range(lamps + 1):
                if lights[k] == 0 or (k == lamps and world.materials.kind[m] == METAL):
                    continue
                if k < lamps:
                    d, distance, _, pdf = sample_lamp(world.lamps, k, p, u1, u2)
                    lit = pdf > F(0.0) and dot(d, ng) > F(0.0)
                    distance *= F(0.9999)
                else:
                    s, t = basis(ng)
                    d = to_world(cosine_sample(u1, u2), s, t, ng)
                    distance, lit = FAR, True
                share = shadow(world, offset_from(p, ng, d), d, distance, not on_ground, scratch) if lit else (F(0.0), F(0.0), F(0.0))
                for c in range(3):
                    seen[y, x, k, c] = share[c]


@helper
def neighbours(surfaces, h, w, y, x):
    """Which of the 16 cells around a pixel of a letter lie on its surface, as bits; the same for every light."""
    m = surfaces.material[y, x]
    p, n = row3(surfaces.place[y, x], POINT), row3(surfaces.place[y, x], NORMAL)
    cy, cx = (y >> 1) - 1 - ((y + 1) & 1), (x >> 1) - 1 - ((x + 1) & 1)
    bits = np.int32(0)
    for cell in range(PATTERN * PATTERN):
        j, i = cy + (cell >> 2), cx + (cell & 3)
        if j < 0 or i < 0 or j >= h or i >= w or surfaces.material[2 * j, 2 * i] != m:
            continue
        there = surfaces.place[2 * j, 2 * i]
        if dot(row3(there, NORMAL), n) < SAME_NORMAL:
            continue
        # Points of another letter, or of another level of this one, lie off the tangent plane.
        way = sub(row3(there, POINT), p)
        off = dot(way, n)
        if off * off <= F(0.06) * dot(way, way) + F(1e-3):
            bits |= np.int32(1) << np.int32(cell)
    return bits


@helper
def gather(surfaces, seen, y, x, k, bits):
    """Mean visibility (rgb) of light k among the cells around a pixel that lie on its surface."""
    if bits == 0:
        j, i = min(y >> 1, seen.shape[0] - 1), min(x >> 1, seen.shape[1] - 1)
        if surfaces.material[2 * j, 2 * i] < 0:
            return (F(1.0), F(1.0), F(1.0))
        return row3(seen[j, i], k)
    cy, cx = (y >> 1) - 1 - ((y + 1) & 1), (x >> 1) - 1 - ((x + 1) & 1)
    r, g, b, total = F(0.0), F(0.0), F(0.0), F(0.0)
    while bits != 0:
        cell = lowest_bit(bits)
        bits &= bits - 1
        j, i = cy + (cell >> 2), cx + (cell & 3)
        r += seen[j, i, k, 0]
        g += seen[j, i, k, 1]
        b += seen[j, i, k, 2]
        total += F(1.0)
    s = F(1.0) / total
    return (r * s, g * s, b * s)
