"""The draft integrator: the same materials, lamps and camera, without noise and fast enough for the hand.

Four kernels, each kept as long as what it depends on stays the same:

1. `first_surfaces`: what each pixel sees (geometry, camera).
2. `visibility`: at every second pixel, one ray to each lamp and one to the surround. Neighbours aim at
   different spots of a lamp in a 4 × 4 pattern (lamps' places).
3. `ground_light`: at every second pixel, what the flat ground sends back.
4. `shade`: gathers the 16 neighbouring visibilities that lie on the same surface, which gives soft
   shadows without noise, and adds the mirrored surroundings (strengths, colours, materials).

It is not exact: one bounce of mirrored light, none of matte light. The path integrator follows.
"""

import math

from halvex.core.optics.material import ALPHA, GLASS, INDEX, MATTE, METAL, albedo_at, base_colour, cosine_sample, evaluate, metal_reflectance
from halvex.core.optics.microfacet import fresnel_dielectric
from halvex.core.optics.vectors import F, add, basis, dot, helper, kernel, mul, normalise, reflect, row3, scale, sub, to_local, to_world
from halvex.core.render.hits import FAR, NOTHING, absorbed, camera_ray, facing, first_hit, offset_from, shadow, surface_at
from halvex.core.render.lights import hit_lamp, sample_lamp
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


@kernel
def first_surfaces(world, buffer, y0, y1, stack):
    """Fill rows y0..y1-1 of buffer (H, W, SURFACE_CHANNELS)."""
    for y in range(y0, y1):
        for x in range(buffer.shape[1]):
            o, d = camera_ray(world.camera, F(x) + F(0.5), F(y) + F(0.5))
            kind, t, place, tri, b1, b2 = first_hit(world, o, d, FAR, stack)
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
def visibility(world, buffer, seen, lights, y0, y1, stack):
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
                share = shadow(world, offset_from(p, ng, d), d, distance, not on_ground, stack) if lit else (F(0.0), F(0.0), F(0.0))
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
def _same_material(buffer, h, w, y, x):
    """As `_neighbours`, for the ground: it is one smooth surface."""
    m = buffer[y, x, MATERIAL]
    cy, cx = (y >> 1) - 1 - ((y + 1) & 1), (x >> 1) - 1 - ((x + 1) & 1)
    bits = 0
    for cell in range(PATTERN * PATTERN):
        j, i = cy + (cell >> 2), cx + (cell & 3)
        if 0 <= j < h and 0 <= i < w and buffer[2 * j, 2 * i, MATERIAL] == m:
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
def _lamp_light(world, k, p, ns, ng, wo, m, finest):
    """Light (rgb) of lamp k that the surface at p sends to wo, shadows aside.

    A shiny surface is lit from the middles of the lamp's four quarters (`finest` 2) or from its middle (1),
    its lobe widened by that part's size; a dull one from the lamp's middle. Lobes are normalised, so no light is added.
    """
    r, g, b = F(0.0), F(0.0), F(0.0)
    kind = world.materials.kind[m]
    alpha = world.materials.params[m, ALPHA]
    if kind != GLASS:
        shiny = kind != MATTE and alpha < DULL_ALPHA
        side = finest if shiny else 1
        s, t = basis(ns)
        lo = to_local(wo, s, t, ns)
        to = sub(row3(world.lamps.centre, k), p)
        far = F(1.0) if world.lamps.kind[k] == SUN else dot(to, to)
        # Half the angle of a part's half-width: mirrors turn by half of what the light does.
        half = (
            F(0.25)
            / F(side * side)
            * (dot(row3(world.lamps.u, k), row3(world.lamps.u, k)) + dot(row3(world.lamps.v, k), row3(world.lamps.v, k)))
            * F(0.5)
            / far
        )
        wide = min(math.sqrt(alpha * alpha + half), F(1.0)) if shiny else alpha
        for i in range(side):
            for j in range(side):
                u1, u2 = (F(i) + F(0.5)) / F(side), (F(j) + F(0.5)) / F(side)
                d, _, radiance, pdf = sample_lamp(world.lamps, k, p, u1, u2)
                if pdf <= F(0.0):
                    continue
                f, _ = evaluate(world.materials, m, lo, to_local(d, s, t, ns), wide)
                weight = F(1.0) / (pdf * F(side * side))
                r += f[0] * radiance[0] * weight
                g += f[1] * radiance[1] * weight
                b += f[2] * radiance[2] * weight
    return (r, g, b)


@kernel
def _plain_light(world, p, ns, ng, wo, m):
    """A surface met by a mirrored ray: lamps and surround without shadows."""
    light = (F(0.0), F(0.0), F(0.0))
    for k in range(world.lamps.kind.shape[0]):
        light = add(light, scale(_lamp_light(world, k, p, ns, ng, wo, m, 1), F(0.7)))
    if world.materials.kind[m] == METAL:
        sky = blurred_lookup(world.surround, reflect((-wo[0], -wo[1], -wo[2]), ns), world.materials.params[m, ALPHA])
        return add(light, mul(metal_reflectance(world.materials, m, dot(ns, wo)), sky))
    if world.materials.kind[m] == GLASS:
        return matte_lookup(world.surround, ns)
    return add(light, scale(mul(base_colour(world.materials, m), matte_lookup(world.surround, ns)), F(0.6)))


@helper
def _mirrored(world, o, d, alpha, stack):
    """Light (rgb) that arrives along a mirrored ray: another surface or the surround, as rough as alpha. Lamps are apart."""
    kind, t, place, tri, b1, b2 = first_hit(world, o, d, FAR, stack)
    if kind == NOTHING:
        return blurred_lookup(world.surround, d, alpha)
    wo = (-d[0], -d[1], -d[2])
    p, ns, ng, m = surface_at(world, kind, o, d, t, place, tri, b1, b2)
    return _plain_light(world, p, facing(ns, ng, wo), ng, wo, m)


@kernel
def _through_glass(world, o, d, stack):
    """(light (rgb), share of the backdrop still seen (rgb)) along a camera ray that meets glass."""
    beta = (F(1.0), F(1.0), F(1.0))
    light = (F(0.0), F(0.0), F(0.0))
    for _step in range(MOST_GLASS):
        kind, t, place, tri, b1, b2 = first_hit(world, o, d, FAR, stack)
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
        eta = world.materials.params[m, INDEX]
        if not entering:
            beta = mul(beta, absorbed(world.materials, m, t))
            eta = F(1.0) / eta
        cos_o = dot(ns, wo)
        reflected, cos_t = fresnel_dielectric(cos_o, eta)
        mirrored = reflect(d, ns)
        if entering:
            sky = blurred_lookup(world.surround, mirrored, world.materials.params[m, ALPHA])
            for k in range(world.lamps.kind.shape[0]):
                at, _ = hit_lamp(world.lamps, k, p, mirrored)
                if at < FAR:
                    sky = add(sky, row3(world.lamps.radiance, k))
            light = add(light, scale(mul(beta, sky), reflected))
        if reflected >= F(1.0):
            d = mirrored
        else:
            if entering:
                beta = scale(beta, F(1.0) - reflected)
            k = cos_o / eta - cos_t
            d = normalise((d[0] / eta + k * ns[0], d[1] / eta + k * ns[1], d[2] / eta + k * ns[2]))
        o = offset_from(p, ng, d)
    return light, (F(0.0), F(0.0), F(0.0))


@helper
def _surroundings(world, p, ns, ng, d, m, open_sky, stack):
    """Light (rgb) that a surface which is not glass sends back along d from all but the lamps; open_sky (rgb) is how much of the sky it sees."""
    kind, alpha = world.materials.kind[m], world.materials.params[m, ALPHA]
    cos_o = max(-dot(ns, d), F(0.02))
    light = (F(0.0), F(0.0), F(0.0))
    if kind != METAL:
        sky = mul(matte_lookup(world.surround, ns), open_sky)
        below = F(1.0) if kind == MATTE else F(1.0) - albedo_at(world.materials, m, 0, cos_o)
        light = scale(mul(base_colour(world.materials, m), sky), below)
    if kind != MATTE:
        mirrored = reflect(d, ns)
        if dot(mirrored, ng) < F(0.02):
            mirrored = normalise(add(mirrored, scale(ng, F(0.02) - dot(mirrored, ng))))
        if kind != METAL and alpha > DULL_ALPHA:
            arriving = mul(blurred_lookup(world.surround, mirrored, alpha), open_sky)
        else:
            arriving = _mirrored(world, offset_from(p, ng, mirrored), mirrored, alpha, stack)
        if kind == METAL:
            light = add(light, mul(metal_reflectance(world.materials, m, cos_o), arriving))
        else:
            light = add(light, scale(arriving, albedo_at(world.materials, m, 0, cos_o)))
    return light


@helper
def _is_dull_ground(world, m):
    return m == world.ground.material and world.materials.kind[m] != METAL and world.materials.params[m, ALPHA] > DULL_ALPHA


@kernel
def ground_light(world, buffer, seen, lit, y0, y1, stack):
    """Fill rows y0..y1-1 of lit (H/2, W/2, 1, 3) where the ground is seen: its light, shadows included.

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
            p, ns, ng = (pixel[0], pixel[1], pixel[2]), (pixel[3], pixel[4], pixel[5]), (pixel[6], pixel[7], pixel[8])
            _, d = camera_ray(world.camera, F(2 * x) + F(0.5), F(2 * y) + F(0.5))
            light = _surroundings(world, p, ns, ng, d, m, (seen[y, x, lamps, 0], seen[y, x, lamps, 1], seen[y, x, lamps, 2]), stack)
            for k in range(lamps):
                arriving = _lamp_light(world, k, p, ns, ng, (-d[0], -d[1], -d[2]), m, 1)
                light = add(light, mul(arriving, (seen[y, x, k, 0], seen[y, x, k, 1], seen[y, x, k, 2])))
            for c in range(3):
                lit[y, x, 0, c] = light[c]


@kernel
def shade(world, buffer, seen, lit, picture, y0, y1, stack):
    """Fill rows y0..y1-1 of picture (H, W, 3) with linear light over the backdrop."""
    lamps = world.lamps.kind.shape[0]
    back = (world.backdrop[0], world.backdrop[1], world.backdrop[2])
    for y in range(y0, y1):
        for x in range(picture.shape[1]):
            if buffer[y, x, MATERIAL] < F(0.0):
                light = back
            else:
                m = int(buffer[y, x, MATERIAL])
                if _is_dull_ground(world, m):
                    light = _gather(buffer, lit, y, x, 0, _same_material(buffer, seen.shape[0], seen.shape[1], y, x))
                else:
                    bits = _neighbours(buffer, seen.shape[0], seen.shape[1], y, x)
                    pixel = buffer[y, x]
                    p, ns, ng = (pixel[0], pixel[1], pixel[2]), (pixel[3], pixel[4], pixel[5]), (pixel[6], pixel[7], pixel[8])
                    o, d = camera_ray(world.camera, F(x) + F(0.5), F(y) + F(0.5))
                    wo = (-d[0], -d[1], -d[2])
                    if world.materials.kind[m] == GLASS:
                        light, share = _through_glass(world, o, d, stack)
                        light = add(light, mul(share, back))
                    else:
                        light = _surroundings(world, p, ns, ng, d, m, _gather(buffer, seen, y, x, lamps, bits), stack)
                        for k in range(lamps):
                            arriving = _gather(buffer, seen, y, x, k, bits)
                            if arriving[0] + arriving[1] + arriving[2] > F(0.0):
                                light = add(light, mul(_lamp_light(world, k, p, ns, ng, wo, m, 2), arriving))
            for c in range(3):
                picture[y, x, c] = light[c]
