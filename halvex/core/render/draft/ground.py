"""The light of the dull ground: shadows at one pixel in eight, what they take away from at one in
sixty-four."""

from halvex.core.kernels import helper, kernel
from halvex.core.optics.vectors import F, add, mul, row3, scale
from halvex.core.references import by_reference
from halvex.core.render.draft.grid import GRID, LAMPS_LEFT, SURROUND_LEFT, on_grid
from halvex.core.render.draft.lamplight import glow_light, lamp_light
from halvex.core.render.draft.mirrors import surroundings
from halvex.core.render.draft.surfaces import on_ground_at, sees_ground
from halvex.core.render.interaction import appearance


@helper
def left_out(x, y):
    """Whether nothing is computed of the ground at the cell (x, y), 2 × 2 px: every second one,
    like a chessboard."""
    return (x + y) & 1 == 1


@kernel
def unshadowed(world, grid, y0, y1, scratch):
    """Fill rows y0..y1-1 of a grid (grid.py), at every GRID cells: what the ground there would send
    back without shadows, also behind letters; -1 where there is no ground."""
    world, scratch = by_reference(world), by_reference(scratch)
    lamps = world.lamps.kind.shape[0]
    for j in range(y0, y1):
        for i in range(grid.shape[1]):
            if not sees_ground(world, 2 * GRID * j, 2 * GRID * i):
                grid[j, i] = F(-1.0)
                continue
            si, d = on_ground_at(world, 2 * GRID * j, 2 * GRID * i)
            base, si = appearance(world, si)
            wo = (-d[0], -d[1], -d[2])
            all_left = (F(0.0), F(0.0), F(0.0))
            for k in range(lamps + 1):
                if k < lamps:
                    light, left = lamp_light(world, k, si, wo, base, 1), LAMPS_LEFT
                else:
                    light, left = (
                        surroundings(world, grid, si, d, base, (F(1.0), F(1.0), F(1.0)), scratch),
                        SURROUND_LEFT,
                    )
                all_left = add(all_left, scale(light, left))
                for c in range(3):
                    grid[j, i, k, c] = light[c]
            for c in range(3):
                grid[j, i, lamps + 1, c] = all_left[c]


@kernel
def ground_light(world, surfaces, seen, grid, lit, y0, y1):
    """Fill rows y0..y1-1 of lit (H/2, W/2, 3) where the ground is seen: its light, shadows included."""
    world, surfaces = by_reference(world), by_reference(surfaces)
    m = world.ground.material
    glows = world.glows.triangle.shape[0] > 0
    for y in range(y0, y1):
        for x in range(y & 1, lit.shape[1], 2):
            if surfaces.material[2 * y, 2 * x] != m:
                continue
            light = (F(0.0), F(0.0), F(0.0))
            for k in range(seen.shape[2]):
                light = add(light, mul(on_grid(grid, F(y), F(x), k), row3(seen[y, x], k)))
            if glows:
                si, d = on_ground_at(world, 2 * y, 2 * x)
                base, si = appearance(world, si)
                light = add(light, glow_light(world, si, (-d[0], -d[1], -d[2]), base))
            for c in range(3):
                lit[y, x, c] = light[c]


@helper
def _tent(distance):
    """Weight of a cell whose middle lies so many half cells from the corner."""
    return F(8 - abs(distance))


@kernel
def spread_ground(world, surfaces, lit, columns, spread, y0, y1):
    """Fill rows y0..y1-1 of spread (H/2 + 1, W/2 + 1, 3): the mean ground light of the 64 cells
    around a cell's corner, the near ones counting more, -1 without any.

    The pattern of visibility repeats every four cells: a tent over eight is two boxes of four, each of which
    holds every spot of it once, so no steps are left of the spots. columns (W/2, 4) is working memory: sums
    over the cells of a column, and their weight.
    """
    world, surfaces = by_reference(world), by_reference(surfaces)
    h, w, ground = lit.shape[0], lit.shape[1], world.ground.material
    for y in range(y0, y1):
        columns[:] = F(0.0)
        for j in range(max(y - 4, 0), min(y + 4, h)):
            weight = _tent(2 * (j - y) + 1)
            for i in range(j & 1, w, 2):
                if surfaces.material[2 * j, 2 * i] == ground:
                    for c in range(3):
                        columns[i, c] += weight * lit[j, i, c]
                    columns[i, 3] += weight
        for x in range(spread.shape[1]):
            r, g, b, total = F(0.0), F(0.0), F(0.0), F(0.0)
            for i in range(max(x - 4, 0), min(x + 4, w)):
                weight = _tent(2 * (i - x) + 1)
                r += weight * columns[i, 0]
                g += weight * columns[i, 1]
                b += weight * columns[i, 2]
                total += weight * columns[i, 3]
            spread[y, x, 0] = r / total if total > F(0.0) else F(-1.0)
            spread[y, x, 1] = g / max(total, F(1.0))
            spread[y, x, 2] = b / max(total, F(1.0))


@helper
def ground_seen(spread, y, x):
    """Ground light (rgb) at the pixel (y, x), between the four corners of its cell; negative where
    there is none."""
    j, i = (y + 1) >> 1, (x + 1) >> 1
    light = row3(spread[j], i)
    below, beside = j + 1 - 2 * (y & 1), i + 1 - 2 * (x & 1)
    if min(min(spread[j, beside, 0], spread[below, i, 0]), spread[below, beside, 0]) < F(0.0):
        return light
    near = add(scale(light, F(0.75)), scale(row3(spread[j], beside), F(0.25)))
    far = add(scale(row3(spread[below], i), F(0.75)), scale(row3(spread[below], beside), F(0.25)))
    return add(scale(near, F(0.75)), scale(far, F(0.25)))
