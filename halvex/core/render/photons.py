"""Photons: from spots of letters that lights reach, from letter to letter, to the ground.

A spot is chosen by about how much its triangle sends to the ground, a light by how much it may bring there
(choosing.py), and light that arrives goes on as the surface scatters it. What a photon carries is what a path
from the ground that met the same surfaces would find (Veach, "Robust Monte Carlo methods for light
transport simulation", 1997, ch. 5): surfaces are evaluated as that path sees them, and areas are those of
the true triangles, not of their shading normals.
"""

import math
from typing import NamedTuple

import numpy as np

from halvex.core.kernels import helper, kernel
from halvex.core.optics.material import ALPHA, GLASS
from halvex.core.optics.scattering import (
    evaluate,
    lobe_shares,
    matte_entering,
    matte_part,
    sample,
    seen_base,
    tinted_base,
)
from halvex.core.optics.vectors import F, along, cross, dot, luminance_of, mul, scale, to_local, to_world
from halvex.core.references import by_reference
from halvex.core.render.camera_rays import camera_ray
from halvex.core.render.choosing import may_bring, share_samples
from halvex.core.render.direct import arrives, sample_light
from halvex.core.render.frames import AT, from_frame, out_of_body
from halvex.core.render.hits import FAR, GROUND, LETTER, NOTHING, SEARCH, Hit, ground_hit, seen_hit
from halvex.core.render.interaction import (
    appearance,
    facing,
    offset_from,
    on_triangle,
    shading_frame,
    surface_at,
    with_normals,
)
from halvex.core.render.lights import light_count, light_level, table_for
from halvex.core.render.photon_map import place_in_map
from halvex.core.render.sampler import draw, forget_numbers, pixel_key, sample_2d
from halvex.core.scene.ground import WALL

MOST_SURFACES = 12
# Photons that start at one spot: finding it and its light takes as long as sending them on.
FROM_A_SPOT = 4
# Dimensions of the sampler: what chooses the triangle and the light, the spots of each, and two a surface.
CHOICE, SPOT, LIGHT, FIRST_SURFACE = 0, 1, 2, 3
SIDE_BY_SIDE = 8
# Smoother surfaces count as this rough: a perfect mirror cannot be evaluated.
LEAST_ALPHA = F(0.01)
# How much a triangle that looks away from the ground counts: its light may get there by way of others.
LOOKING_AWAY = F(0.05)
NOWHERE = np.int32(-1)


class Emitters(NamedTuple):
    """The triangles of all instances, one after another: weights summed up to each (n,), and the number of
    each instance's first (i,)."""

    sums: np.ndarray
    first: np.ndarray


class Landed(NamedTuple):
    """Where photons landed: texels (n,), row after row, or NOWHERE; of which light (n,); carried (n, 3): flux
    of that light at 0 stops and white that enters the ground's matte part, times the number of photons."""

    texel: np.ndarray
    light: np.ndarray
    carried: np.ndarray


@helper
def _triangle(world, i, tri):
    """(area in px², middle, normal) of an instance's triangle in the world."""
    c = world.letters.bodies.corners[AT(tri)]
    e1 = out_of_body(world.letters, i, (c[3] - c[0], c[4] - c[1], c[5] - c[2]))
    e2 = out_of_body(world.letters, i, (c[6] - c[0], c[7] - c[1], c[8] - c[2]))
    across = from_frame(world.turn, cross(e1, e2))
    twice, third = math.sqrt(dot(across, across)), F(1.0 / 3.0)
    normal = scale(across, F(1.0) / max(twice, F(1e-20)))
    return F(0.5) * twice, on_triangle(world, i, tri, third, third), normal


@helper
def _looks_at_ground(ground, n):
    """About what share of the light from a surface of normal n goes to the ground."""
    if ground.kind == WALL:
        return F(0.5) - F(0.5) * dot(ground.normal, n)
    return F(0.5) - F(0.5) * min(n[1], n[2])


@kernel
def weigh_triangles(world, weights):
    """Fill weights (n,) of the triangles of all instances, one after another, with about how much light they
    send to the ground; 0 of what glass and glowing parts send, which are no part of the map."""
    world = by_reference(world)
    span, n = world.letters.span, 0
    for i in range(span.shape[0]):
        for tri in range(span[i, 0], span[i, 1]):
            m = world.materials_of[i, world.letters.bodies.part[tri]]
            weight = F(0.0)
            if world.materials.kind[m] < GLASS:
                area, p, normal = _triangle(world, i, tri)
                for k in range(light_count(world)):
                    weight += may_bring(world, k, p, normal, m)
                weight *= area * (LOOKING_AWAY + _looks_at_ground(world.ground, normal))
            weights[n] = weight
            n += 1


@kernel
def ground_seen(world, points):
    """Fill points (rows, columns, 3) with the ground that the camera would see there without letters, the
    first and last at the edges of the canvas; infinite where there is none."""
    world = by_reference(world)
    rows, columns, camera = points.shape[0], points.shape[1], world.camera
    for row in range(rows):
        for column in range(columns):
            x = camera.width * camera.px_scale * F(column) / F(columns - 1)
            y = camera.height * camera.px_scale * F(row) / F(rows - 1)
            o, d = camera_ray(camera, x, y)
            t, _ = ground_hit(world.ground, o, d, FAR)
            p = along(o, d, t)
            for axis in range(3):
                points[row, column, axis] = p[axis] if t < FAR else F(np.inf)


@helper
def _first_above(sums, wanted):
    """The first of rising sums that is more than what is wanted, or else the last."""
    low, high = 0, sums.shape[0] - 1
    while low < high:
        middle = (low + high) // 2
        if sums[middle] > wanted:
            high = middle
        else:
            low = middle + 1
    return low


@helper
def _spot(world, emitters, u, u1, u2):
    """A spot of the letters: (hit, the area in px² that it stands for)."""
    sums, first = emitters.sums, emitters.first
    whole = sums[sums.shape[0] - 1]
    n = _first_above(sums, u * whole)
    i = _first_above(first, n)
    i -= 1 if first[i] > n else 0
    own = sums[n] - (sums[n - 1] if n > 0 else 0.0)
    tri = world.letters.span[i, 0] + n - first[i]
    area, _, _ = _triangle(world, i, tri)
    root = math.sqrt(u1)
    hit = Hit(np.int32(LETTER), F(0.0), np.int32(i), np.int32(tri), root * (F(1.0) - u2), root * u2)
    return hit, F(area * whole / own)


@helper
def _lit(world, si, key, index, u, scratch):
    """(Which light a spot is lit by, the direction to it, what arrives from there (rgb) over the density of
    that choice); u chooses among the lights."""
    dark = 0, si.ng, (F(0.0), F(0.0), F(0.0))
    share_samples(world, si.p, si.ng, si.material, 1, scratch)
    k, up_to = 0, scratch.times[0]
    while k < light_count(world) - 1 and up_to <= u:
        k += 1
        up_to += scratch.times[k]
    if scratch.times[k] <= F(0.0):
        return dark
    u1, u2 = sample_2d(scratch, key, index, LIGHT)
    table = table_for(world.surround, si.ng)
    d, distance, radiance, pdf, _ = sample_light(world, k, si.p, table, u1, u2)
    if pdf <= F(0.0) or dot(si.ng, d) <= F(0.0):
        return dark
    start = offset_from(world, si.p, si.ng, si.ng)
    at_ground, _ = ground_hit(world.ground, start, d, distance)
    if at_ground < distance:
        return dark
    seen = arrives(world, k, si.p, start, d, distance, False, scratch)
    return k, d, scale(mul(radiance, seen), F(1.0) / (pdf * scratch.times[k]))


@helper
def _scattered(world, si, raw, towards, unmirrored, numbers):
    """(Direction into which a letter scatters light from `towards`, factor (rgb) of what it carries); raw:
    base colour; unmirrored: the surface does not mirror it. Where the factor is 0 the light is absorbed."""
    materials, m = world.materials, si.material
    alpha = max(materials.params[m, ALPHA], LEAST_ALPHA)
    s, t = shading_frame(world, si, si.ns)
    lit = to_local(towards, s, t, si.ns)
    base = seen_base(materials, m, tinted_base(materials, m, raw, lit), lit, alpha)
    shares = lobe_shares(materials, m, base, si.pearl, lit, False)
    seen, _, pdf = sample(materials, m, base, si.pearl, lit, alpha, shares, numbers)
    d = to_world(seen, s, t, si.ns)
    cosine = dot(d, si.ng)
    if pdf <= F(0.0) or cosine <= F(0.0):
        return d, (F(0.0), F(0.0), F(0.0))
    base = seen_base(materials, m, tinted_base(materials, m, raw, seen), seen, alpha)
    if unmirrored:
        f = matte_part(materials, m, base, seen, lit)
    else:
        f, _ = evaluate(materials, m, base, si.pearl, seen, lit, alpha, shares)
    return d, scale(f, cosine / pdf)


@helper
def _entering(world, si, cosine):
    """Share of light at a cosine to the ground that enters its matte part."""
    sine = math.sqrt(max(F(1.0) - cosine * cosine, F(0.0)))
    return matte_entering(world.materials, si.material, (sine, F(0.0), cosine))


@helper
def _lit_spot(world, emitters, key, index, scratch):
    """A spot of a letter where photons start: (its surface, its base colour, which light it is lit by, the
    direction to that, flux that arrives from there (rgb), 0 where none does)."""
    draw(scratch, key, index, 0, FIRST_SURFACE)
    u_triangle, u_light = sample_2d(scratch, key, index, CHOICE)
    u1, u2 = sample_2d(scratch, key, index, SPOT)
    hit, area = _spot(world, emitters, u_triangle, u1, u2)
    black = (F(0.0), F(0.0), F(0.0))
    si = surface_at(world, black, black, hit)
    k, towards, arriving = _lit(world, si, key, index, u_light, scratch)
    raw, si = appearance(world, si)
    if world.materials.kind[si.material] >= GLASS or dot(si.ng, towards) <= F(0.0):
        arriving = black
    si = with_normals(si, facing(si.ns, si.ng, towards), si.ng)
    return si, raw, k, towards, scale(arriving, area)


@helper
def _photon(world, spot, key, index, scratch):
    """(Whether a photon that starts at a lit spot comes to the ground, uv of the ground there, what it
    carries (rgb))."""
    si, raw, k, towards, carried = spot
    black = (F(0.0), F(0.0), F(0.0))
    lost = False, (F(0.0), F(0.0)), black
    bright = F(0.0)
    for surface in range(MOST_SURFACES):
        first = FIRST_SURFACE + 2 * surface
        draw(scratch, key, index, first, first + 2)
        u1, u2 = sample_2d(scratch, key, index, first)
        u3, u_end = sample_2d(scratch, key, index, first + 1)
        unmirrored = surface == 0 and k < world.lamps.kind.shape[0] and world.lamps.mirrored[k] == 0
        d, factor = _scattered(world, si, raw, towards, unmirrored, (u1, u2, u3))
        carried = mul(carried, factor)
        left = luminance_of(mul(carried, light_level(world, k)))
        if left <= F(0.0):
            return lost
        if surface > 0:
            # Russian roulette keeps what photons carry as even as it was after the first letter.
            survive = min(left / bright, F(1.0))
            if u_end >= survive:
                return lost
            carried = scale(carried, F(1.0) / survive)
            left /= survive
        bright = left
        o, towards = offset_from(world, si.p, si.ng, d), scale(d, F(-1.0))
        hit = seen_hit(world, o, d, SEARCH, scratch)
        if hit.kind == NOTHING:
            return lost
        raw, si = appearance(world, surface_at(world, o, d, hit))
        cosine = dot(si.ng, towards)
        if hit.kind == GROUND:
            return True, si.uv, scale(carried, _entering(world, si, cosine))
        if world.materials.kind[si.material] >= GLASS or cosine <= F(0.0):
            return lost
        # Surfaces are evaluated for radiance; flux has had this cosine already.
        carried = scale(carried, F(1.0) / cosine)
        si = with_normals(si, facing(si.ns, si.ng, towards), si.ng)
    return lost


@kernel
def trace_photons(world, emitters, photons, seed, begin, end, landed, scratch):
    """Trace photons begin..end - 1, and fill in where in the map `photons` they landed: FROM_A_SPOT after
    another start at one spot."""
    world, emitters, photons = by_reference(world), by_reference(emitters), by_reference(photons)
    landed, scratch = by_reference(landed), by_reference(scratch)
    rows, columns = photons.light.shape[1], photons.light.shape[2]
    key = pixel_key(0, 0, seed, 0, SIDE_BY_SIDE)
    forget_numbers(scratch)
    for at in range(begin // FROM_A_SPOT, end // FROM_A_SPOT):
        spot = _lit_spot(world, emitters, key, at, scratch)
        for index in range(at * FROM_A_SPOT, (at + 1) * FROM_A_SPOT):
            landed.texel[index] = NOWHERE
            if luminance_of(spot[4]) <= F(0.0):
                continue
            is_there, uv, carried = _photon(world, spot, key, index, scratch)
            x, y = place_in_map(photons, uv)
            x, y = x + F(0.5), y + F(0.5)
            if is_there and F(0.0) <= x < F(columns) and F(0.0) <= y < F(rows):
                landed.texel[index] = np.int32(y) * columns + np.int32(x)
                landed.light[index] = spot[2]
                for c in range(3):
                    landed.carried[index, c] = carried[c]


@kernel
def gather_photons(landed, begin, end, share, sums):
    """Add the photons begin..end - 1 to sums (rows, columns, lights · 3 + 1), `share` of what they carry;
    the last of them counts photons."""
    landed = by_reference(landed)
    columns, last = sums.shape[1], sums.shape[2] - 1
    for n in range(begin, end):
        texel = landed.texel[n]
        if texel != NOWHERE:
            row, column = texel // columns, texel % columns
            sums[row, column, last] += F(1.0)
            for c in range(3):
                sums[row, column, 3 * landed.light[n] + c] += landed.carried[n, c] * share
