"""What the layers of a material make at a point of a surface: colours, numbers, and how it is tilted."""

import math
from typing import NamedTuple

import numpy as np

from halvex.core.kernels import helper, kernel
from halvex.core.optics.blending import encoded, laid_over
from halvex.core.optics.gradients import WIDEST, along_gradient, ramp_colour
from halvex.core.optics.patterns import PATTERN, SIZE, cell_sides, cells_around, pattern_at
from halvex.core.optics.sources import (
    ABSORBED,
    AMOUNT,
    BEARING,
    BEGIN,
    BELOW,
    BLEND,
    BLOCK,
    BY,
    BY_KEY,
    COSINE,
    DEPTH,
    EDGE,
    EMBOSSED,
    ENDS,
    FACING,
    FIRST_LEVEL,
    FIT,
    FITTED,
    GRADIENT_LAYER,
    HEIGHT,
    HOW,
    KIND,
    LENGTH,
    LEVEL_COUNT,
    MAIN,
    MASKS,
    MIRRORED,
    MOVED_X,
    MOVED_Y,
    NATURAL,
    NORMALS,
    OWN,
    PATTERN_LAYER,
    PICTURE_SCALE,
    PIECE,
    RAMP_NUMBER,
    RELIEF,
    REPEATED,
    REVERSED,
    RIGHT_X,
    RIGHT_Y,
    ROUGHNESS,
    RUN,
    SCALE,
    SECOND,
    SHAPE,
    SHINING,
    SHOWN,
    SIDES,
    SINE,
    SLOPE,
    SLOTS,
    SOFTNESS,
    SPAN,
    STRENGTH,
    SURFACE,
    TEXTURE,
    TO_X,
    TO_Y,
    TO_Z,
    UNDER_COAT,
    VARIES,
    Sources,
)
from halvex.core.optics.texels import MIRRORED as MIRRORED_EDGES
from halvex.core.optics.texels import TILED, Texels, texel_colour
from halvex.core.optics.tone import light_shown
from halvex.core.optics.vectors import (
    F,
    add,
    along,
    basis,
    cross,
    dot,
    floor,
    luminance_of,
    normalise,
    row3,
    scale,
    sub,
)
from halvex.core.render.frames import from_frame, to_frame
from halvex.core.render.world import Frames
from halvex.core.scene.camera import Camera
from halvex.core.solids.mesh import PartOf

_RETURN, _BACK = int(PartOf.RETURN), int(PartOf.BACK)
# A surface seen at a slant is looked up as if it turned away by no more than this cosine.
_LEAST_COSINE = F(0.25)
_TURN = F(2.0 * math.pi)
# Heights are compared over so many px at least: nearer, they differ by less than single precision can tell.
_LEAST_STEP = F(0.05)
# Glass of no colour at all would be of infinite depth.
_DARKEST = F(1e-4)


class Site(NamedTuple):
    """What the layers of a surface at a point depend on: these of the world, and of the surface. A kernel
    that is called takes its arguments one by one, and a whole world has some six hundred."""

    camera: Camera
    turn: np.ndarray
    frames: Frames
    spans: np.ndarray
    extents: np.ndarray
    sources: Sources
    texels: Texels
    key: tuple[np.float32, np.float32, np.float32]
    p: tuple[np.float32, np.float32, np.float32]
    ns: tuple[np.float32, np.float32, np.float32]
    uv: tuple[np.float32, np.float32]
    dpdu: tuple[np.float32, np.float32, np.float32]
    part: int
    instance: int
    triangle: int
    frame: int
    material: int


class Sourced(NamedTuple):
    """What layers make of a material at a point: its base (rgb) and the slope (3,) in the world by which they
    tilt the surface; the second colour (rgb) and the relief of its texture; the bearing of its brush, in
    radians; and the material that is it at the roughness there. What has no layers but the base is 0, or the
    material itself."""

    base: tuple[np.float32, np.float32, np.float32]
    slope: tuple[np.float32, np.float32, np.float32]
    second: tuple[np.float32, np.float32, np.float32]
    relief: np.float32
    bearing: np.float32
    material: int


@helper
def _site(world, si):
    return Site(
        world.camera,
        world.turn,
        world.frames,
        world.spans,
        world.extents,
        world.materials.sources,
        world.materials.texels,
        world.key,
        si.p,
        si.ns,
        si.uv,
        si.dpdu,
        si.part,
        si.instance,
        si.triangle,
        si.frame,
        si.material,
    )


@helper
def has_layers(world, m):
    """Whether anything of material m differs from place to place but for its texture."""
    sources = world.materials.sources
    return sources.first[m, MAIN, 1] > 0 or sources.rows[m, VARIES] > F(0.0)


@helper
def sourced(world, si):
    """What layers make of the material of a surface at a point: see `Sourced`."""
    return _sourced(_site(world, si))


@helper
def _footprint(site):
    """How many px of a surface a pixel of the picture covers there, whichever way the light comes."""
    camera = site.camera
    if camera.parallel:
        return F(1.0) / (camera.zoom * camera.px_scale)
    to = sub(camera.eye, site.p)
    cosine = max(abs(dot(site.ns, normalise(to))), _LEAST_COSINE)
    return max(to[2], F(0.0)) / (camera.eye[2] * camera.zoom * camera.px_scale * cosine)


@helper
def _along_body(site, p, uv, row, span):
    """(share, by how much it changes per px) of the depth, the run, the way across or the way a surface
    faces."""
    if span == DEPTH:
        turn = site.frames.turn[site.frame]
        z = dot((turn[0, 2], turn[1, 2], turn[2, 2]), sub(p, row3(site.frames.origin, site.frame)))
        box = site.spans[site.instance, 0]
        deep = max(box[5], F(1e-6))
        return (box[4] - z) / deep, F(1.0) / deep
    if span == FACING:
        # From what faces the compass or the key lamp to what faces away.
        turn = site.frames.turn[site.frame]
        towards = site.key if row[BY_KEY] > F(0.0) else from_frame(turn, (row[TO_X], row[TO_Y], row[TO_Z]))
        return math.acos(min(max(dot(site.ns, towards), F(-1.0)), F(1.0))) * F(1.0 / math.pi), F(0.0)
    extent = site.extents[site.triangle]
    column = 0 if span == RUN else 1
    length = extent[column + 2]
    if length <= F(0.0):
        # A face has no run; what goes across ends where it begins.
        return (F(0.0) if span == RUN else F(1.0)), F(0.0)
    place = uv[0] if span == RUN else uv[1]
    return (place - extent[column]) / length, F(1.0) / length


@helper
def _in_box(site, p, span):
    """(x, y, half width, half height) in px: a point from the middle of a box, and the box."""
    turn, q = site.turn, p
    if span < PIECE:
        turn = site.frames.turn[site.frame]
        q = sub(p, row3(site.frames.origin, site.frame))
    q = to_frame(turn, q)
    box = site.spans[site.instance, span]
    return q[0] - box[0], q[1] - box[1], box[2], box[3]


@helper
def _on_sheet(site, p, uv, span):
    """(x, y, half width, half height, length, girth) in px: a point from the middle of what a layer is laid
    over; along the surface, where it has a run, that of its ring, and around a tube its girth."""
    if span == SURFACE:
        extent = site.extents[site.triangle]
        if extent[2] > F(0.0):
            half_run, half_across = F(0.5) * extent[2], F(0.5) * extent[3]
            # Of bodies with a run only tubes have one on their faces.
            girth = extent[3] if site.part == 0 else F(0.0)
            x, y = uv[0] - extent[0] - half_run, uv[1] - extent[1] - half_across
            return x, y, half_run, half_across, extent[2], girth
        span = BLOCK
    x, y, half_width, half_height = _in_box(site, p, span)
    return x, y, half_width, half_height, F(0.0), F(0.0)


@helper
def _gradient(site, p, uv, layer, width):
    """Premultiplied light and opacity of a gradient at a point."""
    sources, span, row = site.sources, int(layer[SPAN]), layer[OWN:]
    number = int(row[RAMP_NUMBER])
    if span >= DEPTH:
        t, per_px = _along_body(site, p, uv, row, span)
    else:
        x, y, half_width, half_height = _in_box(site, p, span)
        x -= F(2.0) * half_width * layer[MOVED_X]
        y -= F(2.0) * half_height * layer[MOVED_Y]
        t, per_px = along_gradient(
            int(row[SHAPE]), x, y, half_width, half_height, layer[COSINE], layer[SINE], row[SCALE], row[SIDES]
        )
    if row[REVERSED] > F(0.0):
        t = F(1.0) - t
    t = (t - row[BEGIN]) / row[LENGTH]
    repeated = row[REPEATED] > F(0.0)
    if row[MIRRORED] > F(0.0):
        if repeated:
            t -= F(math.floor(t))
        t = F(1.0) - abs(F(2.0) * t - F(1.0))
        per_px *= F(2.0)
    wide = min(width * per_px / row[LENGTH], WIDEST)
    return ramp_colour(sources.ramps, sources.sums, number, t, wide, repeated)


@helper
def _pattern(site, p, uv, layer, width):
    """(premultiplied light and opacity, slope) of a pattern at a point."""
    sources = site.sources
    row = layer[OWN:]
    x, y, _, _, run, girth = _on_sheet(site, p, uv, int(layer[SPAN]))
    which = int(row[PATTERN])
    long, high = cell_sides(which)
    per_px = F(1.0) / row[SIZE]
    c, s = layer[COSINE] * per_px, layer[SINE] * per_px
    # From px along and across to cells along and across the pattern's bearing.
    x_to_i, x_to_j, y_to_i, y_to_j = c / long, -s / high, s / long, c / high
    a1, b1, a2, b2 = 0, 0, 0, 0
    q = (x * per_px, y * per_px, F(0.0))
    if run > F(0.0):
        a1, b1 = cells_around(which, run * x_to_i, run * x_to_j)
        x_to_i, x_to_j = F(a1) / run, F(b1) / run
        along, radius = _TURN * x / run, run * per_px / _TURN
        z = y * per_px
        if girth > F(0.0):
            a2, b2 = cells_around(which, girth * y_to_i, girth * y_to_j)
            y_to_i, y_to_j = F(a2) / girth, F(b2) / girth
            around, thick = _TURN * y / girth, girth * per_px / _TURN
            radius, z = radius + thick * math.cos(around), thick * math.sin(around)
        q = (radius * math.cos(along), radius * math.sin(along), z)
    i = x * x_to_i + y * y_to_i - layer[MOVED_X]
    j = x * x_to_j + y * y_to_j - layer[MOVED_Y]
    q = (q[0] - layer[MOVED_X], q[1] - layer[MOVED_Y], q[2])
    return pattern_at(row, sources.paints, i, j, q, (a1, b1, a2, b2), width * per_px)


@helper
def _picture(site, p, uv, layer, width):
    """Premultiplied light and opacity of a picture at a point."""
    texels = site.texels
    row = layer[OWN:]
    picture, fit, edges = int(row[TEXTURE]), int(row[FIT]), int(row[EDGE])
    first = texels.pictures[picture, 0]
    across, down = F(texels.levels[first, 1]), F(texels.levels[first, 2])
    x, y, half_width, half_height, run, _ = _on_sheet(site, p, uv, int(layer[SPAN]))
    x -= F(2.0) * half_width * layer[MOVED_X]
    y -= F(2.0) * half_height * layer[MOVED_Y]
    texels_per_px = F(1.0)
    if fit != NATURAL:
        wide = across / max(F(2.0) * half_width, F(1e-6))
        high = down / max(F(2.0) * half_height, F(1e-6))
        texels_per_px = max(wide, high) if fit == FITTED else min(wide, high)
    texels_per_px /= row[PICTURE_SCALE]
    c, s = layer[COSINE], layer[SINE]
    u, v = (x * c + y * s) * texels_per_px, (y * c - x * s) * texels_per_px
    if run > F(0.0) and s == F(0.0) and (edges in (TILED, MIRRORED_EDGES)):
        # As many whole pictures as go once around.
        tile = across * (F(2.0) if edges == MIRRORED_EDGES else F(1.0))
        u *= max(F(floor(run * texels_per_px / tile + F(0.5))), F(1.0)) * tile / (run * texels_per_px)
    return texel_colour(texels, picture, F(0.5) * across + u, F(0.5) * down - v, width * texels_per_px, edges)


@helper
def _tone(c):
    """How light a colour (rgb) is, as a picture's grey has it, in 0 to 1."""
    return encoded(min(max(luminance_of(c), F(0.0)), F(1.0)))


@helper
def _laid(site, p, uv, slot, width):
    """(linear light (rgb), slope (3,) in the world) of the layers of a slot over what lies below them, black
    for a number, at a footprint of so many px."""
    sources, m = site.sources, site.material
    colour, slope, shown = (F(0.0), F(0.0), F(0.0)), (F(0.0), F(0.0), F(0.0)), F(1.0)
    if slot <= SECOND:
        below = BELOW + 3 * slot
        colour = (sources.rows[m, below], sources.rows[m, below + 1], sources.rows[m, below + 2])
    first = sources.first[m, slot, 0]
    for number in range(first, first + sources.first[m, slot, 1]):
        layer = sources.layers[number]
        kind, way = int(layer[KIND]), (F(0.0), F(0.0), F(0.0))
        if kind == GRADIENT_LAYER:
            r, g, b, a = _gradient(site, p, uv, layer, width)
        elif kind == PATTERN_LAYER:
            (r, g, b, a), way = _pattern(site, p, uv, layer, width)
        else:
            r, g, b, a = _picture(site, p, uv, layer, width)
        above = scale((r, g, b), F(1.0) / a) if a > F(0.0) else (F(0.0), F(0.0), F(0.0))
        if layer[MASKS] > F(0.0):
            shown *= F(1.0) - layer[STRENGTH] * (F(1.0) - _tone(above) * a)
            continue
        strength = layer[STRENGTH] * shown
        shown = F(1.0)
        if kind == PATTERN_LAYER:
            slope = add(slope, scale(from_frame(site.frames.turn[site.frame], way), strength))
        if a > F(0.0):
            colour = laid_over(int(layer[BLEND]), colour, above, a * strength)
    return colour, slope


# What `_sourced` looks up, in order: each slot where the surface is met, and what is embossed also a little
# farther along it both ways.
_LOOKUPS = SLOTS + 2


@kernel
def _sourced(site):
    sources, m = site.sources, site.material
    first, row = sources.first[m], sources.rows[m]
    how, by = int(row[HOW]), row[BY]
    none = (F(0.0), F(0.0), F(0.0))
    base, slope, second, relief, bearing, level = none, none, none, F(0.0), F(0.0), np.int32(m)
    heights, embossed = none, none
    width = _footprint(site)
    u, v, length = _along_surface(site.ns, site.dpdu, site.part)
    # Softened by being looked at from as far as the softness is wide.
    wide = max(width, row[SOFTNESS])
    step = max(F(0.25) * wide, _LEAST_STEP)
    for lookup in range(_LOOKUPS if row[VARIES] > F(0.0) else 1):
        slot = min(lookup, EMBOSSED)
        if slot != MAIN and first[slot, 1] == 0:
            continue
        on, up = F(0.0), F(0.0)
        if lookup > EMBOSSED:
            on, up = (step, F(0.0)) if lookup == EMBOSSED + 1 else (F(0.0), step)
        p, uv = along(along(site.p, u, on), v, up), (site.uv[0] + on / length, site.uv[1] + up)
        c, tilt = _laid(site, p, uv, slot, wide if slot == EMBOSSED else width)
        dark, light = row[ENDS + 2 * slot], row[ENDS + 2 * slot + 1]
        number = dark + (light - dark) * _tone(c)
        if slot == MAIN:
            base, slope = c, tilt
        elif slot == SECOND:
            second = c
        elif slot == ROUGHNESS:
            level = _level(row, _tone(c), site.p)
        elif slot == RELIEF:
            relief = number
        elif slot == BEARING:
            bearing = number * (_TURN / F(360.0))
        elif slot == AMOUNT:
            by = F(2.0) ** number if how == SHINING else number
        elif row[NORMALS] > F(0.0):
            right = from_frame(site.frames.turn[site.frame], (row[RIGHT_X], row[RIGHT_Y], F(0.0)))
            right = _in_surface(site.ns, right)
            if site.extents.shape[0] > 0 and site.extents[site.triangle, 2] > F(0.0):
                right = add(scale(u, row[RIGHT_X]), scale(v, row[RIGHT_Y]))
            embossed = _of_normals(c, right, cross(site.ns, right), row[SLOPE])
        elif lookup == EMBOSSED:
            heights = (_tone(c), heights[1], heights[2])
        elif lookup == EMBOSSED + 1:
            heights = (heights[0], _tone(c), heights[2])
        else:
            steep = row[HEIGHT] / step
            embossed = add(
                scale(u, (heights[1] - heights[0]) * steep), scale(v, (_tone(c) - heights[0]) * steep)
            )
    return Sourced(
        _as_base(how, by, base), add(slope, embossed), _as_base(how, by, second), relief, bearing, level
    )


@helper
def _level(row, tone, p):
    """The material at one of the two levels of roughness that a tone lies between, the nearer one more often:
    rays that meet places side by side take one or the other."""
    place = p[0] * F(12.9898) + p[1] * F(78.233) + p[2] * F(37.719)
    spread = math.sin(place) * F(43758.547)
    last = row[LEVEL_COUNT] - F(1.0)
    step = F(math.floor(tone * last + spread - F(math.floor(spread))))
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
    """A unit normal tilted by a slope (3,)."""
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
