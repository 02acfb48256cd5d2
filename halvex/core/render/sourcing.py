"""What layers make of a material at a point of a surface: colours, numbers, and how it is tilted."""

import math
from typing import NamedTuple

import numpy as np

from halvex.core.kernels import helper, routine
from halvex.core.optics.blending import encoded
from halvex.core.optics.material import PEARL
from halvex.core.optics.sheets import tone_of
from halvex.core.optics.sources import (
    ABSORBED,
    AMOUNT,
    BEARING,
    BY,
    EMBOSSED,
    ENDS,
    FIRST_LEVEL,
    HEIGHT,
    HOW,
    LEVEL_COUNT,
    MAIN,
    NORMALS,
    RELIEF,
    RIGHT_X,
    RIGHT_Y,
    ROUGHNESS,
    SECOND,
    SHINING,
    SHOWN,
    SLOPE,
    SLOTS,
    SOFTNESS,
    UNDER_COAT,
    VARIES,
)
from halvex.core.optics.textures import NO_TEXTURE
from halvex.core.optics.tone import light_shown
from halvex.core.optics.vectors import (
    F,
    add,
    along,
    basis,
    cross,
    dot,
    floorf,
    normalise,
    scale,
)
from halvex.core.render.frames import AT, from_frame
from halvex.core.render.lookup import footprint, laid
from halvex.core.solids.mesh import PartOf

_RETURN, _BACK = int(PartOf.RETURN), int(PartOf.BACK)
_TURN = F(2.0 * math.pi)
# Heights are compared over so many px at least: nearer, they differ by less than single precision can tell.
_LEAST_STEP = F(0.05)
# Glass of no colour at all would be of infinite depth.
_DARKEST = F(1e-4)


class Sourced(NamedTuple):
    """What layers make of a material at a point: its base (rgb) and the slope (3,) in the world by which they
    tilt the surface; the second colour (rgb), of its texture or of its pearl, and the relief of its texture;
    the bearing of its brush, in radians; and the material that is it at the roughness there. What has no
    layers but the base is 0, or the material itself."""

    base: tuple[np.float32, np.float32, np.float32]
    slope: tuple[np.float32, np.float32, np.float32]
    second: tuple[np.float32, np.float32, np.float32]
    relief: np.float32
    bearing: np.float32
    material: int


@helper
def has_layers(world, m):
    """Whether anything of material m differs from place to place but for its texture."""
    sources = world.materials.sources
    return sources.first[m, MAIN, 1] > 0 or sources.rows[m, VARIES] > F(0.0)


@helper
def is_only_coloured(world, m):
    """Whether material m differs from place to place by layers of its colour and by nothing else."""
    sources, texture = world.materials.sources, world.materials.texture
    return sources.first[m, MAIN, 1] > 0 and sources.rows[m, VARIES] == F(0.0) and texture[m] == NO_TEXTURE


# What `sourced` looks up, in order: each slot where the surface is met, and what is embossed also a little
# farther along it both ways.
_LOOKUPS = SLOTS + 2


@routine
def sourced(world, si):
    """What layers make of the material of a surface at a point: see `Sourced`."""
    sources, m = world.materials.sources, si.material
    first, row = sources.first[m], sources.rows[m]
    how, by = int(row[HOW]), row[BY]
    none = (F(0.0), F(0.0), F(0.0))
    if row[VARIES] == F(0.0):
        base, slope = colour_alone(world, si)
        return Sourced(base, slope, none, F(0.0), F(0.0), np.int32(m))
    base, slope, second, relief, bearing, level = none, none, none, F(0.0), F(0.0), np.int32(m)
    heights, embossed = none, none
    width = footprint(world, si)
    u, v, length = _along_surface(si.ns, si.dpdu, si.part)
    # Softened by being looked at from as far as the softness is wide.
    wide = max(width, row[SOFTNESS])
    step = max(F(0.25) * wide, _LEAST_STEP)
    for lookup in range(_LOOKUPS):
        slot = min(lookup, EMBOSSED)
        if slot != MAIN and first[slot, 1] == 0:
            continue
        on, up = F(0.0), F(0.0)
        if lookup > EMBOSSED:
            on, up = (step, F(0.0)) if lookup == EMBOSSED + 1 else (F(0.0), step)
        p, uv = along(along(si.p, u, on), v, up), (si.uv[0] + on / length, si.uv[1] + up)
        c, tilt = laid(world, si, p, uv, slot, wide if slot == EMBOSSED else width)
        if slot == MAIN:
            base, slope = c, tilt
            continue
        if slot == SECOND:
            second = c
            continue
        tone, ends = tone_of(c), row[AT(ENDS + 2 * slot) :]
        number = ends[0] + (ends[1] - ends[0]) * tone
        if slot == ROUGHNESS:
            # Not by si.p: what no lookup changes is worked out ahead of all, and a sine is dear.
            level = _level(row, tone, p)
        elif slot == RELIEF:
            relief = number
        elif slot == BEARING:
            bearing = number * (_TURN / F(360.0))
        elif slot == AMOUNT:
            by = F(2.0) ** number if how == SHINING else number
        elif row[NORMALS] > F(0.0):
            right = from_frame(world.frames.turn[si.frame], (row[RIGHT_X], row[RIGHT_Y], F(0.0)))
            right = _in_surface(si.ns, right)
            if si.instance >= 0 and world.extents.shape[0] > 0 and world.extents[si.triangle, 2] > F(0.0):
                right = add(scale(u, row[RIGHT_X]), scale(v, row[RIGHT_Y]))
            embossed = _of_normals(c, right, cross(si.ns, right), row[SLOPE])
        elif lookup == EMBOSSED:
            heights = (tone, heights[1], heights[2])
        elif lookup == EMBOSSED + 1:
            heights = (heights[0], tone, heights[2])
        else:
            steep = row[HEIGHT] / step
            embossed = add(scale(u, (heights[1] - heights[0]) * steep), scale(v, (tone - heights[0]) * steep))
    if first[SECOND, 1] > 0 and world.materials.params[m, PEARL] == F(0.0):
        # Pearl is seen as it is, the second colour of a texture as the first.
        second = _as_base(how, by, second)
    return Sourced(_as_base(how, by, base), add(slope, embossed), second, relief, bearing, level)


@routine
def colour_alone(world, si):
    """(base (rgb), slope (3,) in the world) of a surface of which layers make nothing but its colour."""
    c, slope = laid(world, si, si.p, si.uv, MAIN, footprint(world, si))
    row = world.materials.sources.rows[si.material]
    return _as_base(int(row[HOW]), row[BY], c), slope


@helper
def _level(row, tone, p):
    """The material at one of the two levels of roughness that a tone lies between, the nearer one more often:
    rays that meet places side by side take one or the other."""
    place = p[0] * F(12.9898) + p[1] * F(78.233) + p[2] * F(37.719)
    spread = math.sin(place) * F(43758.547)
    last = row[LEVEL_COUNT] - F(1.0)
    step = floorf(tone * last + spread - floorf(spread))
    return np.int32(row[FIRST_LEVEL] + min(step, last))


@helper
def _in_surface(n, way):
    """A unit vector along a way (3,) in the surface of normal n."""
    return normalise(along(way, n, -dot(n, way)))


@helper
def _along_surface(n, dpdu, part):
    """(unit vectors (3,) along u and v, by how many px the place moves for a px of u)."""
    square = dot(dpdu, dpdu)
    u, length = basis(n)[0], F(1.0)
    if square > F(1e-12):
        u, length = _in_surface(n, dpdu), math.sqrt(square)
    v = cross(n, u)
    # On returns v runs into the depth, and on backs u and v are those of the face.
    return u, scale(v, F(-1.0)) if part in (_RETURN, _BACK) else v, length


@helper
def _of_normals(c, right, up, slope):
    """The slope (3,) in the world that a colour (rgb) of a picture of normals stands for."""
    x, y, z = (
        F(2.0) * encoded(c[0]) - F(1.0),
        F(2.0) * encoded(c[1]) - F(1.0),
        F(2.0) * encoded(c[2]) - F(1.0),
    )
    steep = -slope / max(z, F(0.1))
    return add(scale(right, x * steep), scale(up, y * steep))


@helper
def tilted(n, slope):
    """A unit normal tilted by a slope (3,); without one it stays the same to the last bit."""
    if slope[0] == F(0.0) and slope[1] == F(0.0) and slope[2] == F(0.0):
        return n
    up = dot(slope, n)
    return normalise((n[0] - slope[0] + up * n[0], n[1] - slope[1] + up * n[1], n[2] - slope[2] + up * n[2]))


@helper
def _as_base(how, by, c):
    if how == UNDER_COAT:
        return (
            c[0] * (F(1.0) - by) / (F(1.0) - c[0] * by),
            c[1] * (F(1.0) - by) / (F(1.0) - c[1] * by),
            c[2] * (F(1.0) - by) / (F(1.0) - c[2] * by),
        )
    if how == SHINING:
        return scale(c, by)
    if how == SHOWN:
        return light_shown(c[0], c[1], c[2], int(by))
    if how == ABSORBED:
        return (
            -math.log(max(c[0], _DARKEST)) / by,
            -math.log(max(c[1], _DARKEST)) / by,
            -math.log(max(c[2], _DARKEST)) / by,
        )
    return c
