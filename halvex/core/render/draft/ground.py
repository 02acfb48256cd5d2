"""The light of the ground: shadows of lamps at one pixel in eight, those of the surround, and what both take
away from, at one in sixty-four.

Of ground that is one colour, dull and lit alone, that is all there is. Of any other, light for a base of 1,
that of a black base, and the share that letters leave are gathered so, in three images; its colour, its
flat share and what it mirrors are looked up pixel by pixel.
"""

import numpy as np

from halvex.core.kernels import helper, kernel, routine
from halvex.core.optics.material import ALPHA, FLAT, METAL, PLASTIC
from halvex.core.optics.scattering import pearl_of
from halvex.core.optics.vectors import F, add, dot, mul, row3, scale, sub
from halvex.core.references import by_reference
from halvex.core.render.behind import flat_light, mirrored_in_ground, shaded
from halvex.core.render.draft.cells import left_out, shows_ground
from halvex.core.render.draft.glowlight import glow_at, glow_light, sent_on
from halvex.core.render.draft.grid import GRID, LAMPS_LEFT, SURROUND_LEFT, on_grid
from halvex.core.render.draft.lamplight import DULL_ALPHA, lamp_light
from halvex.core.render.draft.mirrors import mirrored_part, plain_light, sky_light, surroundings
from halvex.core.render.draft.sky import facing_of, part_at
from halvex.core.render.draft.surfaces import ground_at, on_ground_at, sees_ground
from halvex.core.render.interaction import appearance, covered, facing, surface_at, with_normals


@kernel
def unshadowed(world, grid, y0, y1, scratch):
    """Fill rows y0..y1-1 of a grid (grid.py), at every GRID cells: what the ground there would send
    back without shadows, also behind letters; -1 where there is no ground."""
    world, scratch = by_reference(world), by_reference(scratch)
    lights = world.lamps.kind.shape[0] + 2
    for j in range(y0, y1):
        for i in range(grid.shape[1]):
            if not sees_ground(world, 2 * GRID * j, 2 * GRID * i):
                grid[j, i] = F(-1.0)
                continue
            si, d = on_ground_at(world, 2 * GRID * j, 2 * GRID * i)
            n = si.ns
            base, si = appearance(world, si)
            if grid.shape[2] == lights:
                _fill(world, grid, j, i, 0, si, d, base, scratch)
                continue
            # Relief is far finer than the grid.
            si = with_normals(si, n, si.ng)
            _fill(world, grid, j, i, 0, si, d, (F(1.0), F(1.0), F(1.0)), scratch)
            _fill(world, grid, j, i, lights, si, d, (F(0.0), F(0.0), F(0.0)), scratch)
            for k in range(lights):
                for c in range(3):
                    grid[j, i, k, c] -= grid[j, i, lights + k, c]


@routine
def _fill(world, grid, j, i, first, si, d, base, scratch):
    """Fill the place (j, i) of the grid, from entry `first` on, with the light of all lights for a base."""
    wo, lamps = (-d[0], -d[1], -d[2]), world.lamps.kind.shape[0]
    all_left, whole = (F(0.0), F(0.0), F(0.0)), (F(1.0), F(1.0), F(1.0))
    detailed = grid.shape[2] > lamps + 2
    for k in range(lamps + 1):
        if k < lamps:
            light, left = lamp_light(world, k, si, wo, base, 1), LAMPS_LEFT
        elif detailed and mirrors_sharply(world, si.material):
            # What it mirrors is looked up pixel by pixel.
            light, left = sky_light(world, si, d, base, whole), SURROUND_LEFT
        else:
            light, left = surroundings(world, grid, si, d, base, whole, scratch), SURROUND_LEFT
        all_left = add(all_left, scale(light, left))
        for c in range(3):
            grid[j, i, first + k, c] = light[c]
    for c in range(3):
        grid[j, i, first + lamps + 1, c] = all_left[c]


@helper
def mirrors_sharply(world, m):
    """Whether material m mirrors what could be recognised."""
    kind = world.materials.kind[m]
    return kind == METAL or (kind == PLASTIC and world.materials.params[m, ALPHA] <= DULL_ALPHA)


@kernel
def ground_light(world, surfaces, seen, grid, lit, glow, y0, y1):
    """Fill rows y0..y1-1 of lit (1 or 3, H/2, W/2, 3) where the ground is seen, also through glass: its
    light of the lamps, shadows included; or its response to that, the glare of a black base, and the share of
    all light that letters leave of theirs. That of what glows, shadows aside, is in glow (1 or 2, H/2, W/2,
    3), or the response and the glare: it is without noise, and may be sharp."""
    world, surfaces = by_reference(world), by_reference(surfaces)
    for y in range(y0, y1):
        for x in range(y & 1, lit.shape[2], 2):
            if shows_ground(world, surfaces, 2 * y, 2 * x):
                _gather_light(world, seen, grid, lit, glow, y, x)


@helper
def _gather_light(world, seen, grid, lit, glow, y, x):
    detailed, lights, lamps = lit.shape[0] > 1, seen.shape[2] + 1, world.lamps.kind.shape[0]
    none = (F(0.0), F(0.0), F(0.0))
    light, glare, unshaded = none, none, none
    for k in range(lamps):
        share = row3(seen[y, x], k)
        if world.backing.changed:
            share = shaded(world.backing, True, share)
        own = on_grid(grid, F(y), F(x), k)
        light = add(light, mul(own, share))
        if detailed:
            unshaded = add(unshaded, own)
            glare = add(glare, mul(on_grid(grid, F(y), F(x), lights + k), share))
    if glow.shape[1] > 0:
        bright, dark = _glow_on_ground(world, detailed, y, x)
        for c in range(3):
            glow[0, y, x, c] = bright[c]
            if detailed:
                glow[1, y, x, c] = dark[c]
    if detailed:
        unshaded = add(unshaded, on_grid(grid, F(y), F(x), lamps))
    left = _part_of(light, unshaded)
    for c in range(3):
        lit[0, y, x, c] = light[c]
        if detailed:
            lit[1, y, x, c], lit[2, y, x, c] = glare[c], left[c]


@helper
def _part_of(light, whole):
    """How much (rgb) light (rgb) is of a whole (rgb)."""
    return (
        light[0] / max(whole[0], F(1e-6)),
        light[1] / max(whole[1], F(1e-6)),
        light[2] / max(whole[2], F(1e-6)),
    )


def sky_memory(columns):
    """Working memory of `sky_on_ground` for so many places across: the last two rows of blocks of GRID ×
    GRID cells, how much (rgb) of the surround's light reaches each, and how much of it its cells look at."""
    return np.zeros((2, columns + 1, 6), np.float32)


@kernel
def sky_on_ground(world, surfaces, sky, seen, grid, memory, light, y0, y1):
    """Fill rows y0..y1-1 of light (rows, columns, 1 or 3, 3), at every GRID corners of cells, with what
    `ground_light` finds of the lamps for the surround; -1 where no ground is seen about a corner. Of the
    8 × 8 cells about it each looks at another part of the surround. For memory see `sky_memory`."""
    world, surfaces, sky = by_reference(world), by_reference(surfaces), by_reference(sky)
    for j in range(y0 - 1, y1):
        blocks = memory[j & 1]
        blocks[:] = F(0.0)
        # The first block lies left of the picture.
        for i in range(1, blocks.shape[0]):
            _take_block(world, surfaces, sky, seen, blocks[i], GRID * j, GRID * (i - 1))
        if j >= y0:
            for i in range(light.shape[1]):
                _sky_at(world, memory, grid, light, j, i)


@helper
def _take_block(world, surfaces, sky, seen, block, top, left):
    """Take the cells of a block into its sums."""
    lamps, facing = world.lamps.kind.shape[0], 0
    for y in range(max(top, 0), min(top + GRID, seen.shape[0])):
        for x in range(left + ((left + y) & 1), min(left + GRID, seen.shape[1]), 2):
            if not shows_ground(world, surfaces, 2 * y, 2 * x):
                continue
            if sky.normal.shape[0] > 1 and block[3] <= F(0.0):
                facing = facing_of(sky, ground_at(world, 2 * y, 2 * x)[1])
            share = sky.share[facing, part_at(x, y)]
            for c in range(3):
                block[c] += share[c] * seen[y, x, lamps, c]
                block[3 + c] += share[c]


@helper
def _sky_at(world, memory, grid, light, j, i):
    """Fill one place of light of `sky_on_ground` from the four blocks about it."""
    detailed, lamps = light.shape[2] > 1, world.lamps.kind.shape[0]
    reached, whole = (F(0.0), F(0.0), F(0.0)), (F(0.0), F(0.0), F(0.0))
    for row in range(2):
        for block in range(i, i + 2):
            sums = memory[row, block]
            reached = add(reached, (sums[0], sums[1], sums[2]))
            whole = add(whole, (sums[3], sums[4], sums[5]))
    if whole[0] + whole[1] + whole[2] <= F(0.0) or grid[j, i, 0, 0] < F(0.0):
        light[j, i] = F(-1.0)
        return
    open_sky = _part_of(reached, whole)
    if world.backing.changed:
        open_sky = shaded(world.backing, False, open_sky)
    own = mul(row3(grid[j, i], lamps), open_sky)
    unshaded = (F(0.0), F(0.0), F(0.0))
    if detailed:
        for k in range(lamps + 1):
            unshaded = add(unshaded, row3(grid[j, i], k))
    left = _part_of(own, unshaded)
    for c in range(3):
        light[j, i, 0, c] = own[c]
        if detailed:
            light[j, i, 1, c], light[j, i, 2, c] = grid[j, i, 2 * lamps + 2, c] * open_sky[c], left[c]


@helper
def _glow_on_ground(world, detailed, y, x):
    """Light (rgb) that the ground at a cell sends back of all that glows, shadows aside; in detail the
    response and the glare of a black base."""
    none, whole = (F(0.0), F(0.0), F(0.0)), (F(1.0), F(1.0), F(1.0))
    si, d = on_ground_at(world, 2 * y, 2 * x)
    wo = (-d[0], -d[1], -d[2])
    if not detailed:
        base, si = appearance(world, si)
        return glow_light(world, si, wo, base), none
    # Relief, and how its roughness varies, are far finer than a cell.
    glow = glow_at(world, si)
    dark = sent_on(world, si, wo, none, glow)
    return sub(sent_on(world, si, wo, whole, glow), dark), dark


# Cells that a tent reaches from a cell's corner to either side.
REACH = 4


def spreading_memory(width):
    """Working memory of `spread_ground` for ground of so many cells across: the last 8 rows of cells, each
    cell's light (rgb) and 1, or zeros where no ground's light is known; and their sum down the columns."""
    return np.zeros((2 * REACH + 1, 4 * (width + 2 * REACH)), np.float32)


@helper
def _take_row(world, surfaces, lit, j, row):
    """Take row j of cells into a row of the working memory; beyond the picture there are none."""
    row[:] = F(0.0)
    if j < 0 or j >= lit.shape[0]:
        return
    for i in range(j & 1, lit.shape[1], 2):
        if shows_ground(world, surfaces, 2 * j, 2 * i):
            at = 4 * (i + REACH)
            for c in range(3):
                row[at + c] = lit[j, i, c]
            row[at + 3] = F(1.0)


@helper
def _glow_about(world, surfaces, glow, y, x):
    """Mean light (rgb) of what glows of the cells about a corner of cells: of the four that meet there, or if
    none of these is known, of the nearest that are."""
    light, count, reach = (F(0.0), F(0.0), F(0.0)), F(0.0), 1
    while count <= F(0.0) and reach <= REACH:
        for j in range(max(y - reach, 0), min(y + reach, glow.shape[0])):
            for i in range(max(x - reach, 0), min(x + reach, glow.shape[1])):
                if not left_out(i, j) and shows_ground(world, surfaces, 2 * j, 2 * i):
                    light, count = add(light, row3(glow[j], i)), count + F(1.0)
        reach *= 2
    return scale(light, F(1.0) / max(count, F(1.0)))


@kernel
def spread_ground(world, surfaces, lit, from_sky, image, glow, memory, spread, y0, y1):
    """Fill rows y0..y1-1 of spread (H/2 + 1, W/2 + 1, 3): the mean light of the lamps on the ground in the 64
    cells around a cell's corner, the near ones counting more, -1 without any; with that of the surround, an
    image of `sky_on_ground`; and with that of what glows, glow (H/2, W/2, 3) or (0, 0, 3), of those cells
    that meet there. For memory see `spreading_memory`.

    The pattern of visibility repeats every four cells: a tent over eight is two boxes of four, each of which
    holds every spot of it once, so no steps are left of the spots.
    """
    world, surfaces = by_reference(world), by_reference(surfaces)
    columns = memory[2 * REACH]
    for j in range(y0 - REACH, y0 + REACH - 1):
        _take_row(world, surfaces, lit, j, memory[j % (2 * REACH)])
    for y in range(y0, y1):
        last = y + REACH - 1
        _take_row(world, surfaces, lit, last, memory[last % (2 * REACH)])
        columns[:] = F(0.0)
        for k in range(REACH):
            # Rows as far above the corner as below it.
            weight = F(2 * k + 1)
            above, below = memory[(y - REACH + k) % (2 * REACH)], memory[(last - k) % (2 * REACH)]
            for i in range(columns.shape[0]):
                columns[i] += weight * (above[i] + below[i])
        for x in range(spread.shape[1]):
            r, g, b, total = F(0.0), F(0.0), F(0.0), F(0.0)
            for k in range(REACH):
                weight, left, right = F(2 * k + 1), 4 * (x + k), 4 * (x + 2 * REACH - 1 - k)
                r += weight * (columns[left] + columns[right])
                g += weight * (columns[left + 1] + columns[right + 1])
                b += weight * (columns[left + 2] + columns[right + 2])
                total += weight * (columns[left + 3] + columns[right + 3])
            light = (F(-1.0), F(0.0), F(0.0))
            if total > F(0.0):
                light = add(scale((r, g, b), F(1.0) / total), on_grid(from_sky, F(y), F(x), image))
                if glow.shape[0] > 0:
                    light = add(light, _glow_about(world, surfaces, glow, y, x))
            for c in range(3):
                spread[y, x, c] = light[c]


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


@routine
def ground_in_detail(world, sheet, y, x, scratch):
    """(light, flat light (rgb)) of ground whose colour is looked up pixel by pixel, at the pixel (y, x)."""
    grid, lights = sheet.grid, world.lamps.kind.shape[0] + 2
    response, glare = ground_seen(sheet.spread[0], y, x), ground_seen(sheet.spread[1], y, x)
    left = ground_seen(sheet.spread[2], y, x)
    if response[0] < F(0.0):
        # A gap between letters, too small for a cell of its own.
        row, column = F(0.5) * F(y), F(0.5) * F(x)
        response = on_grid(grid, row, column, lights - 1)
        glare, left = on_grid(grid, row, column, 2 * lights - 1), (F(1.0), F(1.0), F(1.0))
    si, d = on_ground_at(world, y, x)
    n = si.ns
    base, si = _looked_up(world, sheet.look, y, x, si)
    if world.materials.kind[si.material] == FLAT:
        return (F(0.0), F(0.0), F(0.0)), base
    light = add(scale(mul(response, base), _relief(world, n, si.ns)), glare)
    if mirrors_sharply(world, si.material):
        # Sharp mirrors of relief would be noise.
        seen = with_normals(si, n, si.ng)
        light = add(light, mirrored_part(world, grid, seen, d, base, left, scratch))
    lit = world.backing.lit
    flat = mul(scale(flat_light(world, si.material, base), F(1.0) - lit), left)
    light = scale(light, lit)
    if world.backing.mirrored > F(0.0):
        share, start, way, hit = mirrored_in_ground(world, si.p, n, d, F(0.0), F(0.0), scratch)
        if share > F(0.0):
            met, wo = surface_at(world, start, way, hit), (-way[0], -way[1], -way[2])
            met = with_normals(met, facing(met.ns, met.ng, wo), met.ng)
            light = add(scale(light, F(1.0) - share), scale(plain_light(world, met, wo), share))
            flat = scale(flat, F(1.0) - share)
    return light, flat


@helper
def _looked_up(world, look, y, x, si):
    """What `appearance` makes of the ground at a pixel, looked up once for as long as it stays the same."""
    if look.material[y, x] < 0:
        base, own = appearance(world, si)
        for c in range(3):
            look.base[y, x, c] = base[c]
            if look.normal.shape[0] > 0:
                look.normal[y, x, c] = own.ns[c]
        look.material[y, x] = own.material
    m, ns = look.material[y, x], row3(look.normal[y], x) if look.normal.shape[0] > 0 else si.ns
    return row3(look.base[y], x), covered(si, ns, si.dpdu, m, pearl_of(world.materials, m))


@helper
def _relief(world, n, ns):
    """By how much relief that tilts the normal n to ns changes the light of the ground, the key lamp's being
    about two thirds of it."""
    facing_key = max(dot(n, world.key), F(0.15))
    return F(0.35) + F(0.65) * min(max(dot(ns, world.key), F(0.0)) / facing_key, F(2.0))
