"""The surface at a hit: its point, its normals, its place in its own coordinates, and what covers it."""

import math
from typing import NamedTuple

import numpy as np

from halvex.core.kernels import helper, routine
from halvex.core.optics.material import ASPECT, BRUSH_X, BRUSH_Y, FIRST_TEXTURE
from halvex.core.optics.microfacet import PI
from halvex.core.optics.scattering import NO_PEARL, pearl_of
from halvex.core.optics.sources import BEARING, RELIEF, SECOND, USES_UV
from halvex.core.optics.textures import NO_TEXTURE, textured
from halvex.core.optics.textures import RELIEF as TEXTURE_RELIEF
from halvex.core.optics.textures import SECOND as TEXTURE_SECOND
from halvex.core.optics.vectors import F, add, along, basis, cross, dot, normalise, row3, scale, sub
from halvex.core.render.frames import AT, from_frame, out_of_body, to_frame
from halvex.core.render.hits import FAR, GROUND, ground_hit
from halvex.core.render.sourcing import colour_alone, has_layers, is_only_coloured, sourced, tilted
from halvex.core.scene.ground import COVE, WALL

# Columns of a material's parameters that its texture takes where no layers stand in their place.
_SECOND, _RELIEF = FIRST_TEXTURE + TEXTURE_SECOND, FIRST_TEXTURE + TEXTURE_RELIEF


class SurfaceInteraction(NamedTuple):
    """A point p of a surface, in the world: geometric and shading normal, outward; uv in px and the
    tangent along which u grows, by how much p moves for a px of it, or the way of a brush whose bearing
    differs from place to place, all 0 on letters whose material takes neither; part, instance, triangle
    (all -1 for the ground) and frame, in which its texture lies; material; and the colour of its pearl,
    which `appearance` finds (NO_PEARL before)."""

    p: tuple[np.float32, np.float32, np.float32]
    ng: tuple[np.float32, np.float32, np.float32]
    ns: tuple[np.float32, np.float32, np.float32]
    uv: tuple[np.float32, np.float32]
    dpdu: tuple[np.float32, np.float32, np.float32]
    part: int
    instance: int
    triangle: int
    frame: int
    material: int
    pearl: tuple[np.float32, np.float32, np.float32]


@helper
def with_normals(si, ns, ng):
    """The same point with other normals."""
    return SurfaceInteraction(
        si.p, ng, ns, si.uv, si.dpdu, si.part, si.instance, si.triangle, si.frame, si.material, si.pearl
    )


@helper
def at_level(si, ns, material):
    """The same point with another shading normal, made of another material."""
    return covered(si, ns, si.dpdu, np.int32(material), si.pearl)


@helper
def covered(si, ns, brush, material, pearl):
    """The same point as what covers it makes it: its shading normal, the way of its brush, its material and
    the colour of its pearl."""
    return SurfaceInteraction(
        si.p, si.ng, ns, si.uv, brush, si.part, si.instance, si.triangle, si.frame, material, pearl
    )


@helper
def offset_from(world, p, ng, towards):
    """The origin of a ray that leaves p into direction `towards`, moved along the normal ng by the
    error bound of a letter's points, so that the ray cannot meet the triangle it leaves."""
    e = world.letters.error
    if dot(ng, towards) < F(0.0):
        e = -e
    return along(p, ng, e)


@helper
def on_triangle(world, instance, tri, b1, b2):
    """The point of a letter's triangle at barycentric weights b1, b2 of its second and third
    corner, in the world.

    Its error is bounded by the corners' coordinates (world.py, `error_bound`); that of o + t d
    would grow with t.
    """
    c = world.letters.bodies.corners[AT(tri)]
    b0 = F(1.0) - b1 - b2
    p = (
        c[0] * b0 + c[3] * b1 + c[6] * b2,
        c[1] * b0 + c[4] * b1 + c[7] * b2,
        c[2] * b0 + c[5] * b1 + c[8] * b2,
    )
    p = add(out_of_body(world.letters, instance, p), row3(world.letters.offset, AT(instance)))
    return from_frame(world.turn, p)


@helper
def on_ground(ground, o, d, t, n):
    """The point of the ground, whose normal there is n, that a ray meets at t: put back onto the
    surface itself."""
    p = along(o, d, t)
    if ground.kind == WALL:
        return along(p, n, -dot(sub(p, ground.point), n))
    if n[1] == F(1.0):
        return (p[0], ground.floor, p[2])
    if n[2] == F(1.0):
        return (p[0], p[1], ground.back)
    r = ground.radius
    return (p[0], ground.floor + r - r * n[1], ground.back + r - r * n[2])


@helper
def ground_frame(world):
    """The number of the ground's frame."""
    return np.int32(world.frames.origin.shape[0] - 1)


@helper
def uv_on_ground(ground, p, n):
    """(uv, dp/du) of the ground at p, where its normal is n: u runs along the picture's width, v up a wall,
    or up a cove from where its floor begins to rise."""
    if ground.kind == WALL:
        # Along x as far as the wall's tilt lets it; along z where the wall faces sideways.
        axis = (F(1.0), F(0.0), F(0.0)) if abs(n[0]) < F(0.9) else (F(0.0), F(0.0), F(-1.0))
        tangent = normalise(along(axis, n, -dot(axis, n)))
        way = sub(p, ground.point)
        return (dot(way, tangent), dot(way, cross(n, tangent))), tangent
    r = ground.radius
    if n[1] == F(1.0):
        v = ground.back + r - p[2]
    elif n[2] == F(1.0):
        v = r * F(0.5) * PI + p[1] - ground.floor - r
    else:
        v = r * math.atan2(n[2], n[1])
    return (p[0], v), (F(1.0), F(0.0), F(0.0))


@helper
def ground_surface(world, p, n):
    """The surface of the ground at p, where its normal is n."""
    uv, dpdu = uv_on_ground(world.ground, p, n)
    ground = world.ground
    m = np.int32(ground.wall_material if ground.kind == COVE and n[2] == F(1.0) else ground.material)
    none = np.int32(-1)
    return SurfaceInteraction(p, n, n, uv, dpdu, none, none, none, ground_frame(world), m, NO_PEARL)


@helper
def uv_on_triangle(bodies, tri, b1, b2):
    """(uv, dp/du) at barycentric weights b1, b2 of a triangle's second and third corner, in the frame of its
    body; dp/du is 0 where the triangle has no area in uv."""
    c, uv = bodies.corners[AT(tri)], bodies.uv[AT(tri)]
    u1, v1, u2, v2 = uv[2] - uv[0], uv[3] - uv[1], uv[4] - uv[0], uv[5] - uv[1]
    e1 = (c[3] - c[0], c[4] - c[1], c[5] - c[2])
    e2 = (c[6] - c[0], c[7] - c[1], c[8] - c[2])
    area = u1 * v2 - v1 * u2
    share = F(1.0) / area if area != F(0.0) else F(0.0)
    dpdu = along(scale(e1, v2 * share), e2, -v1 * share)
    return (uv[0] + u1 * b1 + u2 * b2, uv[1] + v1 * b1 + v2 * b2), dpdu


@helper
def letter_surface(world, hit, p, ns, ng, m):
    """The surface of a letter that was hit at p, where these are its normals and its material."""
    bodies = world.letters.bodies
    uv, dpdu = (F(0.0), F(0.0)), (F(0.0), F(0.0), F(0.0))
    if world.materials.sources.rows[AT(m), USES_UV] > F(0.0):
        uv, dpdu = uv_on_triangle(bodies, hit.triangle, hit.b1, hit.b2)
        dpdu = from_frame(world.turn, out_of_body(world.letters, hit.instance, dpdu))
    part, frame = np.int32(bodies.part[AT(hit.triangle)]), np.int32(world.frame_of[hit.instance])
    instance, triangle = np.int32(hit.instance), np.int32(hit.triangle)
    return SurfaceInteraction(p, ng, ns, uv, dpdu, part, instance, triangle, frame, np.int32(m), NO_PEARL)


@helper
def surface_at(world, o, d, hit):
    """The surface that a ray has hit."""
    if hit.kind == GROUND:
        _, n = ground_hit(world.ground, o, d, FAR)
        return ground_surface(world, on_ground(world.ground, o, d, hit.t, n), n)
    instance, tri, b1, b2 = hit.instance, hit.triangle, hit.b1, hit.b2
    c, n = world.letters.bodies.corners, world.letters.bodies.normals
    e1 = (c[tri, 3] - c[tri, 0], c[tri, 4] - c[tri, 1], c[tri, 5] - c[tri, 2])
    e2 = (c[tri, 6] - c[tri, 0], c[tri, 7] - c[tri, 1], c[tri, 8] - c[tri, 2])
    ng = normalise(cross(e1, e2))
    b0 = F(1.0) - b1 - b2
    ns = (
        n[tri, 0] * b0 + n[tri, 3] * b1 + n[tri, 6] * b2,
        n[tri, 1] * b0 + n[tri, 4] * b1 + n[tri, 7] * b2,
        n[tri, 2] * b0 + n[tri, 5] * b1 + n[tri, 8] * b2,
    )
    # Where facets are needles their own normal is noise; the corners' is not.
    if dot(ns, ng) < F(0.1):
        ng = normalise(ns)
    if world.letters.straight[AT(instance)] == 0:
        ns, ng = out_of_body(world.letters, instance, ns), normalise(out_of_body(world.letters, instance, ng))
    ns, ng = normalise(from_frame(world.turn, ns)), from_frame(world.turn, ng)
    m = world.materials_of[instance, world.letters.bodies.part[tri]]
    return letter_surface(world, hit, on_triangle(world, instance, tri, b1, b2), ns, ng, m)


@helper
def appearance(world, si):
    """(base colour, the same surface as its layers and its texture make it, where it has any: its shading
    normal, the way of its brush, the material that is it at the roughness there, and its pearl)."""
    m = si.material
    if world.materials.plain[m] != 0:
        return row3(world.materials.params, m), si
    if is_only_coloured(world, m):
        base, slope = colour_alone(world, si)
        return base, covered(si, tilted(si.ns, slope), si.dpdu, m, pearl_of(world.materials, m))
    return _layered_appearance(world, si)


@routine
def _layered_appearance(world, si):
    m = si.material
    params, sources = world.materials.params, world.materials.sources
    base = row3(params, m)
    second = (params[m, _SECOND], params[m, _SECOND + 1], params[m, _SECOND + 2])
    pearl = pearl_of(world.materials, m)
    relief, ns, brush, level = params[m, _RELIEF], si.ns, si.dpdu, m
    turn = world.frames.turn[si.frame]
    if has_layers(world, m):
        own = sourced(world, si)
        base, level = own.base, np.int32(own.material)
        ns = tilted(ns, own.slope)
        if sources.first[m, SECOND, 1] > 0:
            second, pearl = own.second, own.second
        if sources.first[m, RELIEF, 1] > 0:
            relief = own.relief
        if sources.first[m, BEARING, 1] > 0:
            brush = from_frame(turn, (math.cos(own.bearing), math.sin(own.bearing), F(0.0)))
    texture = world.materials.texture[m]
    if texture != NO_TEXTURE:
        # Textures are fixed to their block: it takes them along when it is moved or turned.
        p = to_frame(turn, sub(si.p, row3(world.frames.origin, si.frame)))
        colours = (base, second)
        base, n = textured(params, FIRST_TEXTURE, m, texture, colours, relief, p, to_frame(turn, ns))
        ns = from_frame(turn, n)
    return base, covered(si, ns, brush, level, pearl)


@helper
def shading_frame(world, si, ns):
    """Two unit vectors that make a frame with ns, the first along the brush where a surface is brushed; the
    brush runs in the frame of its block."""
    params, m = world.materials.params, si.material
    if params[m, ASPECT] == F(1.0):
        return basis(ns)
    turn = world.frames.turn[si.frame]
    along_brush = si.dpdu
    if params[m, BRUSH_X] != F(0.0) or params[m, BRUSH_Y] != F(0.0):
        along_brush = from_frame(turn, (params[m, BRUSH_X], params[m, BRUSH_Y], F(0.0)))
    t = cross(ns, along_brush)
    if dot(t, t) < F(1e-4):
        # The side that the brush runs into is brushed along the depth.
        t = cross(ns, from_frame(turn, (F(0.0), F(0.0), F(1.0))))
    t = normalise(t)
    return cross(t, ns), t


@helper
def facing(n, ng, wo):
    """The shading normal as seen from wo: never past the horizon, where it would turn black."""
    if dot(n, wo) > F(0.02):
        return n
    lifted = add(n, scale(wo, F(0.02) - dot(n, wo)))
    return normalise(lifted)
