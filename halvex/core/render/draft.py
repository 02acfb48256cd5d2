"""The draft integrator: the same materials, lamps and camera, without noise and fast enough for the hand.

The kernels, each kept as long as what it depends on stays the same:

1. `first_surfaces`: what each pixel sees (geometry, camera).
2. `visibility`: at every second pixel, one ray to each lamp and one to the surround. Neighbours aim at
   different spots of a lamp in a 4 × 4 pattern (lamps' places).
3. `ground_light`: at every second pixel, what the flat ground sends back; `spread_ground` evens it out.
4. `shade`: gathers the 16 neighbouring visibilities that lie on the same surface, which gives soft
   shadows without noise, and adds the mirrored surroundings (strengths, colours, materials).

It is not exact: one bounce of mirrored light, none of matte light. The path integrator follows.
"""

import math

from halvex.core.optics.material import ALPHA, ASPECT, COAT_INDEX, FLAT, GLASS, GLOW, INDEX, MATTE, METAL, PEARL, PEARL_ALPHA, THIN
from halvex.core.optics.microfacet import fresnel_dielectric, ggx_d, smith_g2, smith_lambda
from halvex.core.optics.scattering import (
    albedo_at,
    cosine_sample,
    evaluate,
    matte_part,
    metal_reflectance,
    pearl_colour,
    roughness_along,
    thin_pane,
)
from halvex.core.optics.textures import NO_TEXTURE
from halvex.core.optics.vectors import F, add, basis, dot, helper, kernel, mul, normalise, reflect, row3, scale, sub, to_local, to_world
from halvex.core.render.hits import (
    FAR,
    NOTHING,
    absorbed,
    appearance,
    camera_ray,
    facing,
    first_hit,
    offset_from,
    pane_tint,
    seen_hit,
    shading_frame,
    shadow,
    surface_at,
)
from halvex.core.render.lights import hit_lamp, sample_glow, sample_lamp
from halvex.core.scene.lamps import SUN
from halvex.core.scene.surround import blurred_lookup, matte_lookup

# Channels of the first-surface buffer; the material number is kept as a float, -1 for nothing.
POINT, NORMAL, GEOMETRIC, MATERIAL = 0, 3, 6, 9
SURFACE_CHANNELS = 10
PATTERN = 4
# Visibilities are shared between pixels whose normals differ by less than about 25°.
SAME_NORMAL = F(0.9)
MOST_GLASS = 8
# Coats duller than this mirror nothing one could recognise: no ray is traced for them.
DULL_ALPHA = F(0.3)
# Points along glowing parts that stand for all of them.
GLOW_POINTS = 24


@kernel
def first_surfaces(world, cover, buffer, y0, y1, scratch):
    """Fill rows y0..y1-1 of buffer (H, W, SURFACE_CHANNELS); cover (H, W): where letters may be (cover.py)."""
    for y in range(y0, y1):
        for x in range(buffer.shape[1]):
            o, d = camera_ray(world.camera, F(x) + F(0.5), F(y) + F(0.5))
            kind, t, place, tri, b1, b2 = seen_hit(world, o, d, cover[y, x], scratch)
            if kind == NOTHING:
                buffer[y, x, MATERIAL] = F(-1.0)
                continue
            p, ns, ng, m = surface_at(world, kind, o, d, t, place, tri, b1, b2)
            ns = facing(ns, ng, (-d[0], -d[1], -d[2]))
            for c in range(3):
                buffer[y, x, POINT + c] = p[c]
                buffer[y, x, NORMAL + c] = ns[c]
                buffer[y, x, GEOMETRIC + c] = ng[c]
            buffer[y, x, MATERIAL] = F(m)


@kernel
def _pattern(x, y):
    """Spot (u1, u2) of the 4 × 4 pattern for a cell: a stratum of the unit square, none twice."""
    i = ((x & 3) * 4 + (y & 3)) * 7 & 15
    return (F(i & 3) + F(0.5)) * F(0.25), (F(i >> 2) + F(0.5)) * F(0.25)


@kernel
def visibility(world, buffer, seen, lights, y0, y1, scratch):
    """Fill rows y0..y1-1 of seen (H/2, W/2, lamps + 1, 3) for the lights with lights[k] != 0."""
    lamps = world.lamps.kind.shape[0]
    for y in range(y0, y1):
        for x in range(seen.shape[1]):
            if buffer[2 * y, 2 * x, MATERIAL] < F(0.0):
                continue
            pixel = buffer[2 * y, 2 * x]
            p = (pixel[0], pixel[1], pixel[2])
            ng = (pixel[6], pixel[7], pixel[8])
            # The ground does not darken itself: it would do so in steps, and what it hides it also returns.
            on_ground = int(pixel[MATERIAL]) == world.ground.material
            u1, u2 = _pattern(x, y)
            for k in range(lamps + 1):
                if lights[k] == 0:
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
def _neighbours(buffer, h, w, y, x):
    """Which of the 16 cells around a pixel lie on its surface, as bits; the same for every light."""
    m = buffer[y, x, MATERIAL]
    nx, ny, nz = buffer[y, x, NORMAL], buffer[y, x, NORMAL + 1], buffer[y, x, NORMAL + 2]
    px, py, pz = buffer[y, x, 0], buffer[y, x, 1], buffer[y, x, 2]
    cy, cx = (y >> 1) - 1 - ((y + 1) & 1), (x >> 1) - 1 - ((x + 1) & 1)
    bits = 0
    for cell in range(PATTERN * PATTERN):
        j, i = cy + (cell >> 2), cx + (cell & 3)
        if j < 0 or i < 0 or j >= h or i >= w or buffer[2 * j, 2 * i, MATERIAL] != m:
            continue
        if buffer[2 * j, 2 * i, NORMAL] * nx + buffer[2 * j, 2 * i, NORMAL + 1] * ny + buffer[2 * j, 2 * i, NORMAL + 2] * nz < SAME_NORMAL:
            continue
        # Points of another letter, or of another level of this one, lie off the tangent plane.
        tx, ty, tz = buffer[2 * j, 2 * i, 0] - px, buffer[2 * j, 2 * i, 1] - py, buffer[2 * j, 2 * i, 2] - pz
        off = tx * nx + ty * ny + tz * nz
        if off * off <= F(0.06) * (tx * tx + ty * ty + tz * tz) + F(1e-3):
            bits |= 1 << cell
    return bits


@helper
def _gather(buffer, seen, y, x, k, bits):
    """Mean visibility (rgb) of light k among the cells around a pixel that lie on its surface."""
    cy, cx = (y >> 1) - 1 - ((y + 1) & 1), (x >> 1) - 1 - ((x + 1) & 1)
    r, g, b, total = F(0.0), F(0.0), F(0.0), F(0.0)
    for cell in range(PATTERN * PATTERN):
        if bits >> cell & 1:
            j, i = cy + (cell >> 2), cx + (cell & 3)
            r += seen[j, i, k, 0]
            g += seen[j, i, k, 1]
            b += seen[j, i, k, 2]
            total += F(1.0)
    if total == F(0.0):
        j, i = min(y >> 1, seen.shape[0] - 1), min(x >> 1, seen.shape[1] - 1)
        if buffer[2 * j, 2 * i, MATERIAL] < F(0.0):
            return (F(1.0), F(1.0), F(1.0))
        return (seen[j, i, k, 0], seen[j, i, k, 1], seen[j, i, k, 2])
    s = F(1.0) / total
    return (r * s, g * s, b * s)


@helper
def _lamp_light(world, k, p, ns, ng, wo, m, base, finest):
    """Light (rgb) of lamp k that the surface at p sends to wo, shadows aside.

    A shiny surface is lit from the middles of the lamp's four quarters (`finest` 2) or from its middle (1),
    its lobe widened by that part's size; a dull one from the lamp's middle. Lobes are normalised, so no light is added.
    """
    zero = (F(0.0), F(0.0), F(0.0))
    kind = world.materials.kind[m]
    if kind >= GLASS:
        return zero
    s, t = shading_frame(world, m, ns)
    lo = to_local(wo, s, t, ns)
    d, _, radiance, pdf = sample_lamp(world.lamps, k, p, F(0.5), F(0.5))
    middle = to_local(d, s, t, ns)
    light = scale(matte_part(world.materials, m, base, lo, middle), radiance / pdf) if pdf > F(0.0) else zero
    if kind != MATTE and world.lamps.mirrored[k] == 1:
        light = add(light, _shine(world, k, p, s, t, ns, lo, m, base, finest))
    return mul(light, row3(world.lamps.level, k))


@helper
def _shine(world, k, p, s, t, ns, lo, m, base, finest):
    """The lobe of a metal, a coat or a flake, lit by lamp k of 0 stops (rgb): Fresnel is taken once, for the mean of the half vectors."""
    alpha = world.materials.params[m, ALPHA]
    to = sub(row3(world.lamps.centre, k), p)
    far = F(1.0) if world.lamps.kind[k] == SUN else dot(to, to)
    u, v = row3(world.lamps.u, k), row3(world.lamps.v, k)
    # Half the angle of a part's half-width: mirrors turn by half of what the light does.
    half = F(0.125) * (dot(u, u) + dot(v, v)) / far
    # A lobe much wider than the lamp cannot tell its quarters apart.
    side = finest if half > F(0.25) * alpha * alpha and alpha < DULL_ALPHA else 1
    wide = min(math.sqrt(alpha * alpha + half / F(side * side)), F(1.0))
    flake = world.materials.kind[m] != METAL and world.materials.params[m, PEARL] > F(0.0)
    ax, ay = roughness_along(world.materials, m, wide)
    masked = F(1.0) + smith_lambda(lo, ax, ay)
    lobe, cosine, shimmer = F(0.0), F(0.0), F(0.0)
    for i in range(side):
        for j in range(side):
            d, _, radiance, pdf = sample_lamp(world.lamps, k, p, (F(i) + F(0.5)) / F(side), (F(j) + F(0.5)) / F(side))
            li = to_local(d, s, t, ns)
            if pdf <= F(0.0) or li[2] <= F(0.0):
                continue
            h = normalise(add(lo, li))
            weight = radiance / (pdf * F(4 * side * side) * lo[2])
            one = weight * ggx_d(h, ax, ay) / (masked + smith_lambda(li, ax, ay))
            lobe += one
            cosine += one * dot(lo, h)
            if flake:
                shimmer += weight * ggx_d(h, F(PEARL_ALPHA), F(PEARL_ALPHA)) * smith_g2(lo, li, F(PEARL_ALPHA), F(PEARL_ALPHA))
    if lobe <= F(0.0):
        return F(0.0), F(0.0), F(0.0)
    cosine = min(cosine / lobe, F(1.0))
    if world.materials.kind[m] == METAL:
        return scale(mul(base, metal_reflectance(world.materials, m, cosine)), lobe)
    reflected, _ = fresnel_dielectric(cosine, F(COAT_INDEX))
    coat = (lobe * reflected, lobe * reflected, lobe * reflected)
    if not flake:
        return coat
    shimmer *= world.materials.params[m, PEARL] * (F(1.0) - albedo_at(world.materials, m, 0, lo)) / max(albedo_at(world.materials, m, 1, lo), F(1e-3))
    return add(coat, scale(pearl_colour(world.materials, m), shimmer))


@helper
def _glow_light(world, p, ns, wo, m, base):
    """Light (rgb) that glowing parts near p send by way of it to wo, from a few points along them, shadows aside."""
    r, g, b = F(0.0), F(0.0), F(0.0)
    if world.glows.triangle.shape[0] > 0 and world.materials.kind[m] < GLASS:
        s, t = shading_frame(world, m, ns)
        lo = to_local(wo, s, t, ns)
        wide = max(world.materials.params[m, ALPHA], DULL_ALPHA)
        for i in range(GLOW_POINTS):
            u2 = (F(i) * F(0.61803399)) % F(1.0)
            d, _, radiance, pdf = sample_glow(world, p, (F(i) + F(0.5)) / F(GLOW_POINTS), u2)
            if pdf <= F(0.0):
                continue
            f, _ = evaluate(world.materials, m, base, lo, to_local(d, s, t, ns), wide)
            # One point stands for a stretch of tube: what is nearer than that stretch would see it as wide, not as a point.
            weight = min(F(1.0) / pdf, F(2.0)) / F(GLOW_POINTS)
            r += f[0] * radiance[0] * weight
            g += f[1] * radiance[1] * weight
            b += f[2] * radiance[2] * weight
    return r, g, b


@kernel
def _plain_light(world, p, ns, ng, wo, m):
    """A surface met by a mirrored ray: lamps and surround without shadows."""
    base, ns = appearance(world, m, p, ns)
    if world.materials.kind[m] == GLOW or world.materials.kind[m] == FLAT:
        return base
    light = _glow_light(world, p, ns, wo, m, base)
    for k in range(world.lamps.kind.shape[0]):
        light = add(light, scale(_lamp_light(world, k, p, ns, ng, wo, m, base, 1), F(0.7)))
    if world.materials.kind[m] == METAL:
        sky = blurred_lookup(world.surround, reflect((-wo[0], -wo[1], -wo[2]), ns), world.materials.params[m, ALPHA])
        return add(light, mul(mul(base, metal_reflectance(world.materials, m, dot(ns, wo))), sky))
    if world.materials.kind[m] == GLASS:
        return matte_lookup(world.surround, ns)
    return add(light, scale(mul(base, matte_lookup(world.surround, ns)), F(0.6)))


@helper
def _mirrored(world, o, d, alpha, scratch):
    """Light (rgb) that arrives along a mirrored ray: another surface or the surround, as rough as alpha. Lamps are apart."""
    kind, t, place, tri, b1, b2 = first_hit(world, o, d, FAR, scratch)
    if kind == NOTHING:
        return blurred_lookup(world.surround, d, alpha)
    wo = (-d[0], -d[1], -d[2])
    p, ns, ng, m = surface_at(world, kind, o, d, t, place, tri, b1, b2)
    return _plain_light(world, p, facing(ns, ng, wo), ng, wo, m)


@kernel
def _through_glass(world, o, d, scratch):
    """(light (rgb), share of the backdrop still seen (rgb)) along a camera ray that meets glass."""
    beta = (F(1.0), F(1.0), F(1.0))
    light = (F(0.0), F(0.0), F(0.0))
    for _step in range(MOST_GLASS):
        kind, t, place, tri, b1, b2 = first_hit(world, o, d, FAR, scratch)
        if kind == NOTHING:
            return light, beta
        wo = (-d[0], -d[1], -d[2])
        p, ns, ng, m = surface_at(world, kind, o, d, t, place, tri, b1, b2)
        entering = dot(ng, wo) > F(0.0)
        if not entering:
            ns, ng = scale(ns, F(-1.0)), scale(ng, F(-1.0))
        ns = facing(ns, ng, wo)
        if world.materials.kind[m] != GLASS:
            return add(light, mul(beta, _plain_light(world, p, ns, ng, wo, m))), (F(0.0), F(0.0), F(0.0))
        thin = world.materials.params[m, THIN] > F(0.0)
        eta = world.materials.params[m, INDEX]
        if not entering and not thin:
            beta = mul(beta, absorbed(world.materials, m, t))
            eta = F(1.0) / eta
        cos_o = dot(ns, wo)
        reflected, cos_t = fresnel_dielectric(cos_o, eta)
        if thin:
            reflected = thin_pane(reflected)
        mirrored = reflect(d, ns)
        if entering:
            sky = blurred_lookup(world.surround, mirrored, world.materials.params[m, ALPHA])
            for k in range(world.lamps.kind.shape[0]):
                at, _ = hit_lamp(world.lamps, k, p, mirrored)
                if at < FAR and world.lamps.mirrored[k] == 1:
                    sky = add(sky, scale(row3(world.lamps.level, k), world.lamps.radiance[k]))
            light = add(light, scale(mul(beta, sky), reflected))
        if thin:
            beta = scale(mul(beta, pane_tint(world.materials, m)), F(1.0) - reflected)
        elif reflected >= F(1.0):
            d = mirrored
        else:
            if entering:
                beta = scale(beta, F(1.0) - reflected)
            k = cos_o / eta - cos_t
            d = normalise((d[0] / eta + k * ns[0], d[1] / eta + k * ns[1], d[2] / eta + k * ns[2]))
        o = offset_from(p, ng, d)
    return light, (F(0.0), F(0.0), F(0.0))


@helper
def _surroundings(world, p, ns, ng, d, m, base, open_sky, scratch):
    """Light (rgb) that a surface which is not glass sends back along d from all but the lamps; open_sky (rgb) is how much of the sky it sees."""
    kind, alpha = world.materials.kind[m], world.materials.params[m, ALPHA]
    cos_o = max(-dot(ns, d), F(0.02))
    lo = (math.sqrt(max(F(1.0) - cos_o * cos_o, F(0.0))), F(0.0), cos_o)
    light = (F(0.0), F(0.0), F(0.0))
    if kind != METAL:
        sky = mul(matte_lookup(world.surround, ns), open_sky)
        below = F(1.0) if kind == MATTE else F(1.0) - albedo_at(world.materials, m, 0, lo)
        light = scale(mul(base, sky), below)
    if kind != MATTE:
        mirrored = reflect(d, ns)
        if dot(mirrored, ng) < F(0.02):
            mirrored = normalise(add(mirrored, scale(ng, F(0.02) - dot(mirrored, ng))))
        if kind != METAL and alpha > DULL_ALPHA:
            arriving = mul(blurred_lookup(world.surround, mirrored, alpha), open_sky)
        elif world.materials.params[m, ASPECT] != F(1.0):
            arriving = _drawn_out(world, ns, ng, d, m, alpha)
        else:
            arriving = _mirrored(world, offset_from(p, ng, mirrored), mirrored, alpha, scratch)
        if kind == METAL:
            light = add(light, mul(mul(base, metal_reflectance(world.materials, m, cos_o)), arriving))
        else:
            light = add(light, scale(arriving, albedo_at(world.materials, m, 0, lo)))
    return light


@helper
def _drawn_out(world, ns, ng, d, m, alpha):
    """The surround as a brushed surface mirrors it: from facets tilted across the brush, as rough as along it."""
    _, t = shading_frame(world, m, ns)
    aspect = world.materials.params[m, ASPECT]
    light, total = (F(0.0), F(0.0), F(0.0)), F(0.0)
    for i in range(-3, 4):
        facet = normalise(add(ns, scale(t, F(i) * F(0.4) * alpha / aspect)))
        mirrored = reflect(d, facet)
        if dot(mirrored, ng) > F(0.0):
            weight = F(1.0) / (F(1.0) + F(0.16) * F(i * i))
            light = add(light, scale(blurred_lookup(world.surround, mirrored, max(alpha * aspect, F(0.2) * alpha)), weight))
            total += weight
    return scale(light, F(1.0) / max(total, F(1e-6)))


@helper
def _is_dull_ground(world, m):
    return m == world.ground.material and world.materials.kind[m] != METAL and world.materials.params[m, ALPHA] > DULL_ALPHA


@kernel
def ground_light(world, buffer, seen, lit, y0, y1, scratch):
    """Fill rows y0..y1-1 of lit (H/2, W/2, 3) where the ground is seen: its light, shadows included.

    The ground is flat and dull, so its light changes slowly: a quarter of the pixels is enough.
    """
    lamps = world.lamps.kind.shape[0]
    for y in range(y0, y1):
        for x in range(lit.shape[1]):
            if buffer[2 * y, 2 * x, MATERIAL] < F(0.0):
                continue
            m = int(buffer[2 * y, 2 * x, MATERIAL])
            if not _is_dull_ground(world, m):
                continue
            pixel = buffer[2 * y, 2 * x]
            p, ng = (pixel[0], pixel[1], pixel[2]), (pixel[6], pixel[7], pixel[8])
            base, ns = appearance(world, m, p, (pixel[3], pixel[4], pixel[5]))
            _, d = camera_ray(world.camera, F(2 * x) + F(0.5), F(2 * y) + F(0.5))
            wo = (-d[0], -d[1], -d[2])
            light = _surroundings(world, p, ns, ng, d, m, base, (seen[y, x, lamps, 0], seen[y, x, lamps, 1], seen[y, x, lamps, 2]), scratch)
            light = add(light, _glow_light(world, p, ns, wo, m, base))
            for k in range(lamps):
                arriving = _lamp_light(world, k, p, ns, ng, wo, m, base, 1)
                light = add(light, mul(arriving, (seen[y, x, k, 0], seen[y, x, k, 1], seen[y, x, k, 2])))
            for c in range(3):
                lit[y, x, c] = light[c]


@kernel
def spread_ground(world, buffer, lit, spread, y0, y1):
    """Fill rows y0..y1-1 of spread (H/2 + 1, W/2 + 1, 3): the mean ground light of the 16 cells around a cell's corner, -1 without any.

    The pattern of visibility repeats every four cells, so such a mean holds each spot of a lamp once.
    """
    h, w = lit.shape[0], lit.shape[1]
    for y in range(y0, y1):
        for x in range(spread.shape[1]):
            r, g, b, total = F(0.0), F(0.0), F(0.0), F(0.0)
            for j in range(max(y - 2, 0), min(y + 2, h)):
                for i in range(max(x - 2, 0), min(x + 2, w)):
                    if int(buffer[2 * j, 2 * i, MATERIAL]) == world.ground.material:
                        r += lit[j, i, 0]
                        g += lit[j, i, 1]
                        b += lit[j, i, 2]
                        total += F(1.0)
            spread[y, x, 0] = r / total if total > F(0.0) else F(-1.0)
            spread[y, x, 1] = g / max(total, F(1.0))
            spread[y, x, 2] = b / max(total, F(1.0))


# Pixels whose normals differ by less than about a quarter of a degree share their light.
ALIKE = F(0.99999)
# Between pixels whose normals differ by less than about eight degrees light is interpolated.
GENTLE = F(0.99)


@helper
def _alike(world, buffer, y, x, j, i):
    """Whether the pixels (y, x) and (j, i), side by side, see one plain, even surface, so that their light is all but the same."""
    if buffer[y, x, MATERIAL] != buffer[j, i, MATERIAL]:
        return False
    m = int(buffer[y, x, MATERIAL])
    if world.materials.kind[m] == GLASS or world.materials.texture[m] != NO_TEXTURE:
        return False
    a, b = buffer[y, x], buffer[j, i]
    if a[3] * b[3] + a[4] * b[4] + a[5] * b[5] < ALIKE:
        return False
    dx, dy, dz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
    off = dx * a[6] + dy * a[7] + dz * a[8]
    return off * off <= F(1e-3) * (dx * dx + dy * dy + dz * dz)


@helper
def _seen_at(world, buffer, seen, lit, spread, y, x, lamps, back, scratch):
    """Light (rgb) that the surface at pixel (y, x) sends to the camera, over the backdrop where that shows through."""
    m = int(buffer[y, x, MATERIAL])
    kind = world.materials.kind[m]
    if _is_dull_ground(world, m):
        light = row3(spread[(y + 1) >> 1], (x + 1) >> 1)
        return light if light[0] >= F(0.0) else row3(lit[min(y >> 1, lit.shape[0] - 1)], min(x >> 1, lit.shape[1] - 1))
    if kind in (GLOW, FLAT):
        return (world.materials.params[m, 0], world.materials.params[m, 1], world.materials.params[m, 2])
    o, d = camera_ray(world.camera, F(x) + F(0.5), F(y) + F(0.5))
    if kind == GLASS:
        light, share = _through_glass(world, o, d, scratch)
        return add(light, mul(share, back))
    pixel = buffer[y, x]
    p, ng = (pixel[0], pixel[1], pixel[2]), (pixel[6], pixel[7], pixel[8])
    wo = (-d[0], -d[1], -d[2])
    bits = _neighbours(buffer, seen.shape[0], seen.shape[1], y, x)
    base, ns = appearance(world, m, p, (pixel[3], pixel[4], pixel[5]))
    ns = facing(ns, ng, wo)
    light = _surroundings(world, p, ns, ng, d, m, base, _gather(buffer, seen, y, x, lamps, bits), scratch)
    light = add(light, _glow_light(world, p, ns, wo, m, base))
    for k in range(lamps):
        arriving = _gather(buffer, seen, y, x, k, bits)
        if arriving[0] + arriving[1] + arriving[2] > F(0.0):
            light = add(light, mul(_lamp_light(world, k, p, ns, ng, wo, m, base, 2), arriving))
    return light


@helper
def _between(world, buffer, y, x):
    """Whether the pixel lies on one plain, gently curved surface with those to its left and right: its light is theirs, on the mean."""
    if x == 0 or x + 1 >= buffer.shape[1] or buffer[y, x, MATERIAL] != buffer[y, x - 1, MATERIAL] or buffer[y, x, MATERIAL] != buffer[y, x + 1, MATERIAL]:
        return False
    if world.materials.texture[int(buffer[y, x, MATERIAL])] != NO_TEXTURE:
        return False
    a, b, c = buffer[y, x], buffer[y, x - 1], buffer[y, x + 1]
    if a[3] * b[3] + a[4] * b[4] + a[5] * b[5] < GENTLE or a[3] * c[3] + a[4] * c[4] + a[5] * c[5] < GENTLE:
        return False
    # Where a nearer part of the letter begins, depth leaps.
    dx, dy, dz = c[0] - b[0], c[1] - b[1], c[2] - b[2]
    off = dx * a[6] + dy * a[7] + dz * a[8]
    return off * off <= F(0.03) * (dx * dx + dy * dy + dz * dz)


@kernel
def shade(world, buffer, seen, lit, spread, picture, y0, y1, scratch):
    """Fill rows y0..y1-1 (y0 even) of picture (H, W, 3) with linear light over the backdrop.

    Every second pixel of a row, in turn like a chessboard, first; those between take the mean of two neighbours where
    they lie on one surface.
    """
    lamps = world.lamps.kind.shape[0]
    width = picture.shape[1]
    back = (world.backdrop[0], world.backdrop[1], world.backdrop[2])
    for y in range(y0, y1):
        for turn in range(2):
            for x in range((y + turn) & 1, width, 2):
                if buffer[y, x, MATERIAL] < F(0.0):
                    light = back
                elif turn == 1 and x + 1 < width and _between(world, buffer, y, x):
                    light = scale(add(row3(picture[y], x - 1), row3(picture[y], x + 1)), F(0.5))
                elif y & 1 == 1 and _alike(world, buffer, y, x, y - 1, x):
                    light = row3(picture[y - 1], x)
                else:
                    light = _seen_at(world, buffer, seen, lit, spread, y, x, lamps, back, scratch)
                for c in range(3):
                    picture[y, x, c] = light[c]
