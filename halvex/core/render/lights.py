"""Sampling what shines: lamps by area or solid angle, the surround by its light, glowing parts by
their tree (glows.py).

Densities are per solid angle, so that lamp sampling and surface sampling can be weighed against each
other (Veach & Guibas, SIGGRAPH 1995). Lights are numbered: the lamps, then the surround, then all
glowing parts together. Radiance is that of a white lamp, or a surround, of 0 stops: each light's
share is kept apart (film.py), and `light_level` is what its strength and colour make of it.
"""

import math

import numpy as np

from halvex.core.kernels import helper
from halvex.core.optics.material import GLOW
from halvex.core.optics.microfacet import PI
from halvex.core.optics.scattering import shining
from halvex.core.optics.vectors import F, add, along, basis, cosine_and_sine, cross, dot, row3, scale, sub
from halvex.core.render.frames import from_frame, out_of_body, to_frame
from halvex.core.render.glows import chance_of_leaf, choose_leaf
from halvex.core.render.hits import FAR, LETTER, Hit
from halvex.core.render.interaction import letter_surface
from halvex.core.render.sourcing import has_layers, sourced
from halvex.core.scene.lamps import BULB, ROUND, SUN
from halvex.core.scene.surround import from_uv, lookup_uv, own_uv, unturned

# Lights of less than this level, 20 stops down, are off.
DARK = F(3e-6)
# Cosine of normals that are the same but for rounding.
SAME_NORMAL = F(0.99995)


@helper
def light_count(world):
    """Lamps, the surround and, where there are any, glowing parts."""
    return world.lamps.kind.shape[0] + (2 if world.beads.instance.shape[0] > 0 else 1)


@helper
def light_level(world, k):
    """What strength and colour make of light k (rgb)."""
    lamps = world.lamps.kind.shape[0]
    if k < lamps:
        return row3(world.lamps.level, k)
    level = world.surround.level if k == lamps else F(1.0)
    return (level, level, level)


@helper
def is_off(world, k):
    """Whether light k is off: what it would add is not computed."""
    level = light_level(world, k)
    return level[0] + level[1] + level[2] < DARK


@helper
def disc(u1, u2):
    """A point on the unit disc (Shirley & Chiu's concentric map), which keeps strata together."""
    a, b = F(2.0) * u1 - F(1.0), F(2.0) * u2 - F(1.0)
    if a == F(0.0) and b == F(0.0):
        return F(0.0), F(0.0)
    if abs(a) > abs(b):
        r, turns = a, F(0.125) * (b / a)
    else:
        r, turns = b, F(0.25) - F(0.125) * (a / b)
    c, s = cosine_and_sine(turns)
    return r * c, r * s


@helper
def _in_cap(wide, u1, u2):
    """(1 - cos, a, b) of a direction spread evenly over a cap of the sphere with 1 - cos up to `wide`, whose
    middle is that of the square; (a, b): its part across the axis."""
    a, b = disc(u1, u2)
    height = wide * (a * a + b * b)
    r = math.sqrt(wide * (F(2.0) - height))
    return height, a * r, b * r


@helper
def bulb_cone(centre, radius, p):
    """(axis, distance, 1 - cos of the half angle) of a sphere as seen from p; 0 from inside it."""
    to = sub(centre, p)
    d2 = dot(to, to)
    distance = math.sqrt(max(d2, F(1e-20)))
    s2 = radius * radius / max(d2, F(1e-20))
    # 1 - cos without cancellation, for small lamps far away.
    wide = s2 / (F(1.0) + math.sqrt(F(1.0) - s2)) if s2 < F(1.0) else F(0.0)
    return scale(to, F(1.0) / distance), distance, wide


@helper
def sample_lamp(lamps, k, p, u1, u2):
    """(direction, distance, radiance, pdf) towards a point of lamp k from p; pdf 0 behind the lamp."""
    kind = lamps.kind[k]
    centre, u, v = row3(lamps.centre, k), row3(lamps.u, k), row3(lamps.v, k)
    if kind == SUN:
        # Uniform over the cone: the sine of the half angle is the length of u.
        s2 = dot(u, u)
        cos_max = math.sqrt(max(F(1.0) - s2, F(0.0)))
        # 1 - cos without cancellation, for a cone of half a degree.
        height, a, b = _in_cap(s2 / (F(1.0) + cos_max), u1, u2)
        inverse = F(1.0) / math.sqrt(s2)
        d = add(scale(centre, F(1.0) - height), add(scale(u, a * inverse), scale(v, b * inverse)))
        return d, FAR, lamps.radiance[k], F(1.0) / lamps.size[k]
    if kind == BULB:
        radius = lamps.size[k]
        axis, distance, wide = bulb_cone(centre, radius, p)
        if wide <= F(0.0):
            return axis, distance, F(0.0), F(0.0)
        height, a, b = _in_cap(wide, u1, u2)
        s, t = basis(axis)
        d = add(scale(axis, F(1.0) - height), add(scale(s, a), scale(t, b)))
        near = distance * (F(1.0) - height)
        inside = max(radius * radius - distance * distance * (a * a + b * b), F(0.0))
        return d, near - math.sqrt(inside), lamps.radiance[k], F(1.0) / (F(2.0) * PI * wide)
    if kind == ROUND:
        a, b = disc(u1, u2)
    else:
        a, b = F(2.0) * u1 - F(1.0), F(2.0) * u2 - F(1.0)
    q = add(centre, add(scale(u, a), scale(v, b)))
    to = sub(q, p)
    d2 = dot(to, to)
    distance = math.sqrt(d2)
    d = scale(to, F(1.0) / distance)
    cos_l = -dot(d, row3(lamps.normal, k))
    if cos_l <= F(1e-6):
        return d, distance, F(0.0), F(0.0)
    return d, distance, lamps.radiance[k], d2 / (cos_l * lamps.size[k])


@helper
def hit_lamp(lamps, k, o, d):
    """(distance or FAR, pdf that `sample_lamp` would have had) of a ray that meets lamp k's front."""
    kind = lamps.kind[k]
    centre, u = row3(lamps.centre, k), row3(lamps.u, k)
    if kind == SUN:
        gap = sub(d, centre)
        s2 = dot(u, u)
        # |d - axis|² = 2(1 - cos) for unit vectors.
        inside = dot(gap, gap) * F(0.5) <= s2 / (F(1.0) + math.sqrt(max(F(1.0) - s2, F(0.0))))
        return (F(0.5) * FAR if inside else FAR), F(1.0) / lamps.size[k]
    if kind == BULB:
        axis, distance, wide = bulb_cone(centre, lamps.size[k], o)
        gap = sub(d, axis)
        height = dot(gap, gap) * F(0.5)
        if wide <= F(0.0) or height >= wide:
            return FAR, F(0.0)
        r2 = height * (F(2.0) - height)
        inside = max(lamps.size[k] * lamps.size[k] - distance * distance * r2, F(0.0))
        return distance * (F(1.0) - height) - math.sqrt(inside), F(1.0) / (F(2.0) * PI * wide)
    v, n = row3(lamps.v, k), row3(lamps.normal, k)
    cos_l = -dot(d, n)
    if cos_l <= F(1e-6):
        return FAR, F(0.0)
    t = -dot(sub(centre, o), n) / cos_l
    if t <= F(0.0):
        return FAR, F(0.0)
    q = sub(along(o, d, t), centre)
    a, b = dot(q, u) / dot(u, u), dot(q, v) / dot(v, v)
    inside = a * a + b * b <= F(1.0) if kind == ROUND else max(abs(a), abs(b)) <= F(1.0)
    if not inside:
        return FAR, F(0.0)
    return t, t * t / (cos_l * lamps.size[k])


@helper
def _find_from(cumulative, guide, x):
    """Index i with cumulative[i] <= x < cumulative[i + 1], from where a guide of equal steps says: a step or
    two from there."""
    last = guide.shape[0] - 1
    i = guide[min(int(x * F(last + 1)), last)]
    while i < last and cumulative[i + 1] <= x:
        i += 1
    return i


@helper
def table_for(surround, n):
    """The tables of a surround for a surface of normal n: those of all light, if it has none for it."""
    for table in range(1, surround.tables.normals.shape[0]):
        if dot(row3(surround.tables.normals, table), n) > SAME_NORMAL:
            return table
    return 0


@helper
def sample_surround(surround, table, u1, u2):
    """(direction, radiance, pdf, pdf by the tables of all light) in proportion to the surround's light, or
    what of it reaches the surfaces that a table is for. Those see blocks as even: blocks stay in the cache,
    which the picture does not."""
    height, width = surround.tables.column_guide.shape[1], surround.tables.column_guide.shape[2]
    rows = surround.tables.rows[table]
    i = _find_from(rows, surround.tables.row_guide[table], u1)
    row_share = rows[i + 1] - rows[i]
    columns = surround.tables.columns[table, i]
    j = _find_from(columns, surround.tables.column_guide[table, i], u2)
    column_share = columns[j + 1] - columns[j]
    v = (F(i) + (u1 - rows[i]) / row_share) / F(height)
    u = (F(j) + (u2 - columns[j]) / column_share) / F(width)
    d, sine = from_uv(u, v)
    blocks = F(height) * F(width) / (F(2.0) * PI * PI * max(sine, F(1e-6)))
    pdf = row_share * column_share * blocks
    if table == 0:
        return unturned(surround, d), lookup_uv(surround.image, u, v), pdf, pdf
    of_all = _share_of_all(surround, i, j) * blocks
    return unturned(surround, d), row3(surround.blocks[i], j), pdf, of_all


@helper
def _share_of_all(surround, i, j):
    """Share of all light that a block has."""
    rows, columns = surround.tables.rows[0], surround.tables.columns[0, i]
    return (rows[i + 1] - rows[i]) * (columns[j + 1] - columns[j])


@helper
def surround_pdf(surround, d):
    """Density with which `sample_surround` finds direction d by the tables of all light."""
    u, v = own_uv(surround, d)
    return _surround_pdf_at(surround, u, v, d)


@helper
def surround_seen(surround, d):
    """(radiance (rgb), density with which `sample_surround` finds it by the tables of all light) of
    direction d."""
    u, v = own_uv(surround, d)
    return lookup_uv(surround.image, u, v), _surround_pdf_at(surround, u, v, d)


@helper
def _surround_pdf_at(surround, u, v, d):
    height, width = surround.tables.column_guide.shape[1], surround.tables.column_guide.shape[2]
    i = min(int(v * F(height)), height - 1)
    j = min(int(u * F(width)), width - 1)
    sine = math.sqrt(max(F(1.0) - d[1] * d[1], F(1e-12)))
    return _share_of_all(surround, i, j) * F(height) * F(width) / (F(2.0) * PI * PI * sine)


@helper
def _choose_triangle(glows, leaf, u):
    """(A triangle of a leaf, chosen by its share of the light; what is left of u, uniform again)."""
    g, last, below = glows.first[leaf], glows.first[leaf + 1] - 1, F(0.0)
    while g < last and glows.share[g] <= u:
        below = glows.share[g]
        g += 1
    width = glows.share[g] - below
    return g, min(max((u - below) / max(width, F(1e-12)), F(0.0)), F(0.99999994))


@helper
def sample_glow(world, p, u1, u2):
    """(direction, distance, radiance (rgb), pdf) towards a point of the glowing parts from p; pdf 0
    behind them, and where all of them are black."""
    glows, letters = world.glows, world.letters
    if glows.triangle.shape[0] == 0:
        black = (F(0.0), F(0.0), F(0.0))
        return black, F(0.0), black, F(0.0)
    leaf, chance, u1 = choose_leaf(glows, to_frame(world.turn, p), u1)
    g, u1 = _choose_triangle(glows, leaf, u1)
    instance, tri = glows.instance[g], glows.triangle[g]
    c = letters.bodies.corners
    e1 = (c[tri, 3] - c[tri, 0], c[tri, 4] - c[tri, 1], c[tri, 5] - c[tri, 2])
    e2 = (c[tri, 6] - c[tri, 0], c[tri, 7] - c[tri, 1], c[tri, 8] - c[tri, 2])
    root = math.sqrt(u1)
    b1, b2 = root * (F(1.0) - u2), root * u2
    e1, e2 = out_of_body(letters, instance, e1), out_of_body(letters, instance, e2)
    corner = add(out_of_body(letters, instance, row3(c, tri)), row3(letters.offset, instance))
    q = add(corner, add(scale(e1, b1), scale(e2, b2)))
    to = sub(from_frame(world.turn, q), p)
    d2 = dot(to, to)
    distance = math.sqrt(max(d2, F(1e-20)))
    d = scale(to, F(1.0) / distance)
    m = world.materials_of[instance, letters.bodies.part[tri]]
    n = from_frame(world.turn, cross(e1, e2))
    twice = math.sqrt(max(dot(n, n), F(1e-30)))
    radiance = _radiance_at(
        world, (instance, tri, b1, b2), from_frame(world.turn, q), scale(n, F(1.0) / twice), m
    )
    cos_l = -dot(d, n) / twice
    if cos_l <= F(1e-5):
        return d, distance, radiance, F(0.0)
    radiance = scale(radiance, shining(world.materials, m, cos_l))
    return d, distance, radiance, chance * glows.density[g] * d2 / cos_l


@helper
def radiance_of_triangle(world, instance, tri):
    """Radiance (rgb) of the middle of a glowing triangle of the letters."""
    letters, third = world.letters, F(1.0 / 3.0)
    c = letters.bodies.corners
    e1 = (c[tri, 3] - c[tri, 0], c[tri, 4] - c[tri, 1], c[tri, 5] - c[tri, 2])
    e2 = (c[tri, 6] - c[tri, 0], c[tri, 7] - c[tri, 1], c[tri, 8] - c[tri, 2])
    q = add(row3(c, tri), scale(add(e1, e2), third))
    q = add(out_of_body(letters, instance, q), row3(letters.offset, instance))
    n = out_of_body(letters, instance, cross(e1, e2))
    n = scale(n, F(1.0) / math.sqrt(max(dot(n, n), F(1e-30))))
    m = world.materials_of[instance, letters.bodies.part[tri]]
    at = instance, tri, third, third
    return _radiance_at(world, at, from_frame(world.turn, q), from_frame(world.turn, n), m)


@helper
def _radiance_at(world, at, p, n, m):
    """Radiance (rgb) of the glowing material m at a point p with normal n of a triangle: `at` is its
    instance, its number and the point's weights."""
    if not has_layers(world, m):
        return (world.materials.params[m, 0], world.materials.params[m, 1], world.materials.params[m, 2])
    instance, tri, b1, b2 = at
    hit = Hit(np.int32(LETTER), F(0.0), instance, tri, b1, b2)
    return sourced(world, letter_surface(world, hit, p, n, n, m)).base


@helper
def glow_pdf(world, si, o, d, distance):
    """Density with which `sample_glow` finds, from o, the glowing surface that a ray from there, of direction
    d, meets at a distance."""
    glows = world.glows
    if world.materials.kind[si.material] != GLOW or glows.triangle.shape[0] == 0:
        return F(0.0)
    g = glows.number[glows.before[si.instance] + si.triangle - world.letters.span[si.instance, 0]]
    chance = chance_of_leaf(glows, to_frame(world.turn, o), glows.leaf[g])
    return chance * glows.density[g] * distance * distance / max(-dot(si.ng, d), F(1e-5))
