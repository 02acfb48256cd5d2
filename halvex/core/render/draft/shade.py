"""The picture of a draft: light gathered at as few pixels as the surfaces' evenness allows."""

from typing import NamedTuple

import numpy as np

from halvex.core.kernels import helper, kernel, routine
from halvex.core.optics.material import CORE, FLAT, GLASS, GLOW, METAL, RECOLOURED, UNEVEN
from halvex.core.optics.scattering import shining, tinted_base
from halvex.core.optics.vectors import F, add, dot, mul, row3, scale, sub
from halvex.core.references import by_reference
from halvex.core.render.behind import backdrop_light, has_backdrop
from halvex.core.render.draft.glowlight import glow_at, sent_on
from halvex.core.render.draft.grid import GroundLight
from halvex.core.render.draft.ground import ground_in_detail, ground_seen
from halvex.core.render.draft.lamplight import lamp_in_lobe, lamp_on_base
from halvex.core.render.draft.mirrors import along_normal, ends_alike, mirrored_part, sky_light, through_glass
from halvex.core.render.draft.shadows import gather, neighbours
from halvex.core.render.draft.sky import Sky
from halvex.core.render.draft.surfaces import (
    GEOMETRIC,
    NORMAL,
    POINT,
    Surfaces,
    letter_at,
    letter_on,
    on_ground_at,
    ray_of,
)
from halvex.core.render.interaction import appearance, facing, with_normals
from halvex.core.render.sourcing import colour_alone, has_layers, sourced


class Painted(NamedTuple):
    """What a draft is painted on: linear light, flat colours and the backdrop's share, each (H, W, 3)."""

    light: np.ndarray
    flat: np.ndarray
    through: np.ndarray


class Recoloured(NamedTuple):
    """What surfaces that are even but for their colour send: glare, the light that a black base would, and
    response, what is added for a base of 1, each (H, W, 3); without such surfaces (0, 0, 3). Light is
    linear in the base, so pixels of one surface share both and each has its own colour."""

    glare: np.ndarray
    response: np.ndarray


class Look(NamedTuple):
    """What ground that is looked up in detail looks like at each pixel where it has been seen: its base
    (H, W, 3), its normal (H, W, 3), if that is not the ground's, else (0, 0, 3), and its material (H, W), -1
    where it has not been seen; without such ground (0, 0, 3) and (0, 0)."""

    base: np.ndarray
    normal: np.ndarray
    material: np.ndarray


class Sheet(NamedTuple):
    """The working memory of a draft of H × W px: the surfaces that pixels see; how much of each light reaches
    them, seen (H/2, W/2, lights, 3); the light of the surroundings, grid (grid.py); what the ground sees of
    the surround, sky; the light of the ground, lit (1 or 3, H/2, W/2, 3), from_sky (rows, columns, 1 or 3,
    3) at the places of the grid, glow (1 or 2, H/2, W/2, 3), without size if nothing glows, and spread (1 or
    3, H/2 + 1, W/2 + 1, 3), three and two where it is looked up in detail (ground.py), and its look;
    recoloured; what is seen through glass, ends (H, W) int32; and the picture."""

    surfaces: Surfaces
    seen: np.ndarray
    grid: np.ndarray
    sky: Sky
    lit: np.ndarray
    from_sky: np.ndarray
    glow: np.ndarray
    spread: np.ndarray
    look: Look
    recoloured: Recoloured
    ends: np.ndarray
    painted: Painted


# Pixels whose normals differ by less than about a quarter of a degree share their light.
ALIKE = F(0.99999)
# Between pixels whose normals differ by less than about eight degrees light is interpolated. Any
# coarser, and highlights fall into beads.
GENTLE = F(0.99)
NO_LIGHT, ALL_LIGHT = (F(0.0), F(0.0), F(0.0)), (F(1.0), F(1.0), F(1.0))


@helper
def _off_plane(way, n):
    """The squared share of a way (3,) that leads along the normal n, and what it is a share of."""
    off = dot(way, n)
    return off * off, dot(way, way)


@helper
def _alike(world, surfaces, y, x, j, i):
    """Whether the pixels (y, x) and (j, i), side by side, see one flat, even surface, so that
    their light is all but the same."""
    m = surfaces.material[y, x]
    if (
        surfaces.material[j, i] != m
        or world.materials.kind[m] == GLASS
        or world.materials.evenness[m] == UNEVEN
    ):
        return False
    a, b = surfaces.place[y, x], surfaces.place[j, i]
    if dot(row3(a, NORMAL), row3(b, NORMAL)) < ALIKE:
        return False
    off, whole = _off_plane(sub(row3(b, POINT), row3(a, POINT)), row3(a, GEOMETRIC))
    return off <= F(1e-3) * whole


@helper
def _between(world, sheet, y, x, j, i):
    """Whether the pixel lies on one gently curved surface with those j rows and i columns to both its sides,
    which is even, or is glass through which both see the same: its light is theirs, on the mean."""
    surfaces = sheet.surfaces
    if y < j or x < i or y + j >= surfaces.material.shape[0] or x + i >= surfaces.material.shape[1]:
        return False
    m = surfaces.material[y, x]
    glass = world.materials.kind[m] == GLASS
    if (
        surfaces.material[y - j, x - i] != m
        or surfaces.material[y + j, x + i] != m
        or (world.materials.evenness[m] == UNEVEN and not glass)
    ):
        return False
    a, b, c = surfaces.place[y, x], surfaces.place[y - j, x - i], surfaces.place[y + j, x + i]
    n = row3(a, NORMAL)
    if dot(n, row3(b, NORMAL)) < GENTLE or dot(n, row3(c, NORMAL)) < GENTLE:
        return False
    # Where a nearer part of the letter begins, depth leaps.
    off, whole = _off_plane(sub(row3(c, POINT), row3(b, POINT)), row3(a, GEOMETRIC))
    if off > F(0.03) * whole:
        return False
    return not glass or ends_alike(sheet.ends[y - j, x - i], sheet.ends[y + j, x + i])


@helper
def _own_light(world, surfaces, y, x):
    """Light (rgb) that a glowing or flat part shows at a pixel."""
    m = surfaces.material[y, x]
    if not has_layers(world, m):
        return row3(world.materials.params, m)
    return sourced(world, letter_at(world, surfaces, y, x)).base


@routine
def _base_at(world, surfaces, y, x):
    """The base (rgb) at a pixel of a surface that is even but for its colour."""
    return colour_alone(world, letter_on(world, surfaces, y, x))[0]


@routine
def _seen_at(world, sheet, y, x, scratch):
    """Light (rgb) that the surface at pixel (y, x) sends to the camera, over the backdrop where
    that shows through."""
    surfaces, seen, grid, painted = sheet.surfaces, sheet.seen, sheet.grid, sheet.painted
    lamps = world.lamps.kind.shape[0]
    m = surfaces.material[y, x]
    kind = world.materials.kind[m]
    if kind == GLOW:
        light = _own_light(world, surfaces, y, x)
        if world.materials.params[m, CORE] > F(0.0):
            _, d = ray_of(world, y, x)
            seen_from = -dot(letter_at(world, surfaces, y, x).ns, d)
            light = scale(light, shining(world.materials, m, seen_from))
        return light
    if kind == FLAT:
        colour = _own_light(world, surfaces, y, x)
        for c in range(3):
            painted.flat[y, x, c] = colour[c]
        return F(0.0), F(0.0), F(0.0)
    if m == world.ground.material:
        si, d = on_ground_at(world, y, x)
        bits = np.int32(0)
    else:
        _, d = ray_of(world, y, x)
        si = letter_at(world, surfaces, y, x)
        if kind == GLASS:
            light, share, sheet.ends[y, x] = through_glass(
                world, GroundLight(grid, sheet.spread), si, d, scratch
            )
            for c in range(3):
                painted.through[y, x, c] = share[c]
            return light
        bits = neighbours(surfaces, seen.shape[0], seen.shape[1], y, x)
    wo = (-d[0], -d[1], -d[2])
    own, si = appearance(world, si)
    si = with_normals(si, facing(si.ns, si.ng, wo), si.ng)
    own = tinted_base(world.materials, si.material, own, along_normal(si.ns, d))
    # Where one surface has many colours, what a base of 1 would send is kept apart from the glare.
    recoloured = world.materials.evenness[m] == RECOLOURED
    base = ALL_LIGHT if recoloured else own
    # Metals have no use for how much of the sky they see: what they mirror is traced.
    open_sky = gather(surfaces, seen, y, x, lamps, bits) if kind != METAL else NO_LIGHT
    from_base = sky_light(world, si, d, base, open_sky)
    glare = mirrored_part(world, grid, si, d, base, open_sky, scratch)
    for k in range(lamps):
        arriving = gather(surfaces, seen, y, x, k, bits)
        if arriving[0] + arriving[1] + arriving[2] > F(0.0):
            from_base = add(from_base, mul(lamp_on_base(world, k, si, wo, base), arriving))
            glare = add(glare, mul(lamp_in_lobe(world, k, si, wo, base, 2), arriving))
    glow = glow_at(world, si)
    of_glow = sent_on(world, si, wo, base, glow)
    if not recoloured:
        return add(add(from_base, glare), of_glow)
    if kind == METAL:
        return _keep_recoloured(sheet, y, x, NO_LIGHT, add(glare, of_glow), own)
    glare_of_glow = sent_on(world, si, wo, NO_LIGHT, glow)
    from_base = add(from_base, sub(of_glow, glare_of_glow))
    return _keep_recoloured(sheet, y, x, add(glare, glare_of_glow), from_base, own)


@helper
def _keep_recoloured(sheet, y, x, glare, response, base):
    """Keep what a pixel's surface sends whatever its colour; returns its light (rgb)."""
    for c in range(3):
        sheet.recoloured.glare[y, x, c] = glare[c]
        sheet.recoloured.response[y, x, c] = response[c]
    return add(glare, mul(response, base))


@helper
def _mean_of(image, y, x, j, i):
    """The mean (rgb) of the pixels j rows and i columns to both sides."""
    return scale(add(row3(image[y - j], x - i), row3(image[y + j], x + i)), F(0.5))


@helper
def _interpolate(world, sheet, y, x, j, i):
    """Give a pixel the mean of the two beside it, which lie on its surface; returns its light."""
    surfaces, painted = sheet.surfaces, sheet.painted
    m = surfaces.material[y, x]
    if world.materials.evenness[m] == RECOLOURED:
        glare = _mean_of(sheet.recoloured.glare, y, x, j, i)
        response = _mean_of(sheet.recoloured.response, y, x, j, i)
        return _keep_recoloured(sheet, y, x, glare, response, _base_at(world, surfaces, y, x))
    if world.materials.kind[m] == GLASS:
        sheet.ends[y, x] = sheet.ends[y - j, x - i]
        through = _mean_of(painted.through, y, x, j, i)
        for c in range(3):
            painted.through[y, x, c] = through[c]
    elif world.materials.kind[m] == FLAT:
        for c in range(3):
            painted.flat[y, x, c] = world.materials.params[m, c]
    return _mean_of(painted.light, y, x, j, i)


@helper
def _as_above(world, sheet, y, x):
    """Give a pixel what that above it shows, but for its colour; returns its light."""
    painted = sheet.painted
    if world.materials.evenness[sheet.surfaces.material[y, x]] == RECOLOURED:
        glare, response = row3(sheet.recoloured.glare[y - 1], x), row3(sheet.recoloured.response[y - 1], x)
        return _keep_recoloured(sheet, y, x, glare, response, _base_at(world, sheet.surfaces, y, x))
    for c in range(3):
        painted.flat[y, x, c] = painted.flat[y - 1, x, c]
    return row3(painted.light[y - 1], x)


@helper
def _shade_row(world, sheet, y, x0, x1, sharing, scratch):
    """Shade what is not shaded yet (less than 0) of every second pixel x0..x1-1 (x0 even) of a row,
    in turn with its neighbours like a chessboard, then of those between.

    Where they lie on one surface, these take the mean of the two beside them; if `sharing`, all
    take that of the rows above and below, which are shaded already.
    """
    surfaces, painted = sheet.surfaces, sheet.painted
    for turn in range(2):
        for x in range(x0 + ((y + turn) & 1), x1, 2):
            if painted.light[y, x, 0] >= F(0.0):
                continue
            on_letter = surfaces.material[y, x] != world.ground.material
            if on_letter and sharing and _between(world, sheet, y, x, 1, 0):
                light = _interpolate(world, sheet, y, x, 1, 0)
            elif on_letter and turn == 1 and x + 1 < x1 and _between(world, sheet, y, x, 0, 1):
                light = _interpolate(world, sheet, y, x, 0, 1)
            elif on_letter and y & 1 == 1 and _alike(world, surfaces, y, x, y - 1, x):
                light = _as_above(world, sheet, y, x)
            else:
                light = _seen_at(world, sheet, y, x, scratch)
            for c in range(3):
                painted.light[y, x, c] = light[c]


@kernel
def shade(world, sheet, y0, y1, scratch):
    """Fill rows y0..y1-1 (y0 even) of what is painted: what shows no letter first, then even rows, then
    those between."""
    world, sheet, scratch = by_reference(world), by_reference(sheet), by_reference(scratch)
    surfaces, painted = sheet.surfaces, sheet.painted
    width = painted.light.shape[1]
    first, last = width, 0
    for y in range(y0, y1):
        for x in range(width):
            m = surfaces.material[y, x]
            light, through, flat = (F(-1.0), F(-1.0), F(-1.0)), F(0.0), NO_LIGHT
            if m < 0:
                light, through = NO_LIGHT, F(1.0)
                if has_backdrop(world):
                    o, d = ray_of(world, y, x)
                    flat = backdrop_light(world, o, d)
            elif m == world.ground.material:
                if sheet.spread.shape[0] > 1:
                    light, flat = ground_in_detail(world, sheet, y, x, scratch)
                else:
                    light = ground_seen(sheet.spread[0], y, x)
            if light[0] < F(0.0):
                first, last = min(first, x), max(last, x)
            for c in range(3):
                painted.light[y, x, c] = light[c]
                painted.flat[y, x, c] = flat[c]
                painted.through[y, x, c] = through
    first -= first & 1
    for odd in range(2):
        for y in range(y0 + odd, y1, 2):
            sharing = odd == 1 and y + 1 < y1
            _shade_row(world, sheet, y, first, last + 1, sharing, scratch)
