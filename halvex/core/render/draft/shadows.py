"""How much of each light reaches a surface, without noise: one ray a light at every second pixel,
evened out over 4 × 4 of those; to the surround from the ground one in 32 directions (sky.py)."""

import numpy as np

from halvex.core.kernels import helper, kernel
from halvex.core.optics.material import GLASS, METAL
from halvex.core.optics.scattering import cosine_sample
from halvex.core.optics.vectors import F, add, along, basis, dot, row3, sub, to_world
from halvex.core.references import by_reference
from halvex.core.render.beams import clear_of_letters
from halvex.core.render.behind import shade_falls_from
from halvex.core.render.draft.cells import PATTERN, left_out, shows_ground, spot
from halvex.core.render.draft.sky import GROUP, PARTS, facing_of, part_at
from halvex.core.render.draft.surfaces import GEOMETRIC, NORMAL, POINT, ground_at, sees_ground
from halvex.core.render.frames import to_frame
from halvex.core.render.hits import FAR
from halvex.core.render.interaction import offset_from, uv_on_ground
from halvex.core.render.lanes import lowest_bit
from halvex.core.render.lights import sample_lamp
from halvex.core.render.shadow import shadow
from halvex.core.scene.lamps import BULB

# Cells, 2 × 2 px each, along the side of a block of ground: what no letter can shade is known for
# all its cells at once.
BLOCK = 20
# Ground of one normal is flat; in px: what rounding and the start of a ray may make of places, and
# how far off the surround is.
FLAT_GROUND, SLACK_PX, BEYOND_PX = F(0.999999), F(0.5), F(1.0e5)
# In deviations: how far a spot of the pattern may lie from where shade shows.
FARTHEST_SPREAD = F(2.1)
# Visibilities are shared between pixels whose normals differ by less than about 25°.
SAME_NORMAL = F(0.9)


@helper
def towards(world, k, p, ng, i, j):
    """(direction, distance, whether it is lit from there) from a point to the part of light k for
    the spot (i, j) of the pattern."""
    u1, u2 = (F(i) + F(0.5)) * F(1.0 / PATTERN), (F(j) + F(0.5)) * F(1.0 / PATTERN)
    if k < world.lamps.kind.shape[0]:
        d, distance, _, pdf = sample_lamp(world.lamps, k, p, u1, u2)
        return d, distance * F(0.9999), pdf > F(0.0) and dot(d, ng) > F(0.0)
    s, t = basis(ng)
    return to_world(cosine_sample(u1, u2), s, t, ng), FAR, True


@helper
def _wider(low, high, p):
    """The box low..high and a point."""
    low = (min(low[0], p[0]), min(low[1], p[1]), min(low[2], p[2]))
    return low, (max(high[0], p[0]), max(high[1], p[1]), max(high[2], p[2]))


@helper
def _flat_ground(world, y0, y1, x0, x1):
    """The corners of the ground at cells y0..y1, x0..x1, its normal, and whether it is flat ground indeed."""
    a, n, _ = ground_at(world, 2 * y0, 2 * x0)
    b, n_b, _ = ground_at(world, 2 * y1, 2 * x0)
    c, n_c, _ = ground_at(world, 2 * y0, 2 * x1)
    d, n_d, _ = ground_at(world, 2 * y1, 2 * x1)
    flat = dot(n, n_b) >= FLAT_GROUND and dot(n, n_c) >= FLAT_GROUND and dot(n, n_d) >= FLAT_GROUND
    for corner in range(4):
        flat = flat and sees_ground(world, 2 * (y1 if corner & 1 else y0), 2 * (x1 if corner & 2 else x0))
    return (a, b, c, d), n, flat


@helper
def _clear(world, low, high, end_low, end_high, grown, scratch):
    """Whether no letter stands between flat ground in the box low..high and the ends of its rays, in a box
    that is grown by so many px; both in the lettering's frame."""
    moved = F(0.0)
    if world.backing.changed:
        moved = FARTHEST_SPREAD * world.backing.softness
        moved += abs(world.backing.moved[0]) + abs(world.backing.moved[1])
    grown, slack = grown + moved, SLACK_PX + moved
    low, high = sub(low, (slack, slack, slack)), add(high, (slack, slack, slack))
    end_low, end_high = sub(end_low, (grown, grown, grown)), add(end_high, (grown, grown, grown))
    return clear_of_letters(world, low, high, end_low, end_high, scratch)


@helper
def _open_spot(world, k, i, j, corners, n, scratch):
    """Whether nothing can stand between lamp k, at the spot (i, j), and flat ground of normal n: its rays run
    between those of its corners."""
    nothing = (FAR, FAR, FAR), (-FAR, -FAR, -FAR)
    (low, high), (end_low, end_high) = nothing, nothing
    for p in corners:
        d, distance, lit = towards(world, k, p, n, i, j)
        if not lit:
            return False
        low, high = _wider(low, high, to_frame(world.turn, p))
        end_low, end_high = _wider(
            end_low, end_high, to_frame(world.turn, along(p, d, min(distance, BEYOND_PX)))
        )
    # A point of a bulb is not the same from everywhere: it is somewhere on it.
    grown = F(2.0) * world.lamps.size[k] if world.lamps.kind[k] == BULB else SLACK_PX
    return _clear(world, low, high, end_low, end_high, grown, scratch)


@helper
def _open_parts(world, sky, group, corners, n, scratch):
    """The same for a group of the surround's parts."""
    nothing = (FAR, FAR, FAR), (-FAR, -FAR, -FAR)
    (low, high), (end_low, end_high) = nothing, nothing
    directions = sky.direction[facing_of(sky, n)]
    for p in corners:
        low, high = _wider(low, high, to_frame(world.turn, p))
        for part in range(GROUP * group, GROUP * (group + 1)):
            end = along(p, row3(directions, part), BEYOND_PX)
            end_low, end_high = _wider(end_low, end_high, to_frame(world.turn, end))
    return _clear(world, low, high, end_low, end_high, SLACK_PX, scratch)


@helper
def _open_spots(world, sky, k, ground, scratch):
    """Which spots of lamp k, or groups of the surround's parts, nothing hides from a block of ground
    (`_flat_ground`), as bits."""
    bits = np.int32(0)
    corners, n, flat = ground
    if not flat:
        return bits
    if k == world.lamps.kind.shape[0]:
        for group in range(PARTS // GROUP):
            if _open_parts(world, sky, group, corners, n, scratch):
                bits |= np.int32(1) << np.int32(group)
        return bits
    for number in range(PATTERN * PATTERN):
        i, j = number % PATTERN, number // PATTERN
        # The others are those of skipped cells.
        if not left_out(i, j) and _open_spot(world, k, i, j, corners, n, scratch):
            bits |= np.int32(1) << np.int32(number)
    return bits


@helper
def _see_light(world, surfaces, sky, seen, k, clear, cells, scratch):
    """Fill the cells (y0, y1, x0, x1), up to y1 - 1 and x1 - 1, of seen for light k, of which the ground
    there is open to the spots, or groups of parts, `clear`, as bits."""
    y0, y1, x0, x1 = cells
    lamps, ground = world.lamps.kind.shape[0], world.ground.material
    for y in range(y0, y1):
        for x in range(x0, x1):
            for c in range(3):
                seen[y, x, k, c] = F(1.0)
            m = surfaces.material[2 * y, 2 * x]
            if m != ground and shows_ground(world, surfaces, 2 * y, 2 * x):
                # Glass itself asks for none.
                m = ground
            if m < 0 or world.materials.kind[m] >= GLASS or (k == lamps and world.materials.kind[m] == METAL):
                continue
            i, j = spot(x, y)
            part = part_at(x, y) if k == lamps else 0
            # The ground does not darken itself: it would do so in steps, and what it hides it also returns.
            if m == ground:
                number = i + PATTERN * j if k < lamps else part // GROUP
                if left_out(x, y) or clear >> np.int32(number) & 1 == 1:
                    continue
                p, ng, _ = ground_at(world, 2 * y, 2 * x)
                if world.backing.changed:
                    u1, u2 = (F(j) + F(0.5)) * F(1.0 / PATTERN), (F(i) + F(0.5)) * F(1.0 / PATTERN)
                    dpdu = uv_on_ground(world.ground, p, ng)[1]
                    p = shade_falls_from(world.backing, p, ng, dpdu, u1, u2)
            else:
                p, ng = (
                    row3(surfaces.place[2 * y, 2 * x], POINT),
                    row3(surfaces.place[2 * y, 2 * x], GEOMETRIC),
                )
            if m == ground and k == lamps:
                d, distance, lit = row3(sky.direction[facing_of(sky, ng)], part), FAR, True
            else:
                d, distance, lit = towards(world, k, p, ng, i, j)
            share = (
                shadow(world, offset_from(world, p, ng, d), d, distance, m != ground, m == ground, scratch)
                if lit
                else (F(0.0), F(0.0), F(0.0))
            )
            for c in range(3):
                seen[y, x, k, c] = share[c]


@kernel
def visibility(world, surfaces, sky, seen, lights, y0, y1, scratch):
    """Fill rows y0..y1-1 of seen (H/2, W/2, lamps + 1, 3) for the lights with lights[k] != 0: 1
    where no surface asks for them.

    Glass and what shines or is flat ask for none, metals not for the surround: they mirror it, and
    what they mirror is traced.
    """
    world, surfaces, scratch = by_reference(world), by_reference(surfaces), by_reference(scratch)
    sky, width = by_reference(sky), seen.shape[1]
    for y in range(y0, y1, BLOCK):
        for x in range(0, width, BLOCK):
            below, right = min(y + BLOCK, y1), min(x + BLOCK, width)
            ground = _flat_ground(world, y, below - 1, x, right - 1)
            for k in range(lights.shape[0]):
                if lights[k] != 0:
                    clear = _open_spots(world, sky, k, ground, scratch)
                    _see_light(world, surfaces, sky, seen, k, clear, (y, below, x, right), scratch)


@helper
def neighbours(surfaces, h, w, y, x):
    """Which of the 16 cells around a pixel of a letter lie on its surface, as bits; the same for
    every light."""
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
