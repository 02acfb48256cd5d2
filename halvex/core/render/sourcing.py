"""The colour that a material's layers make at a point of a surface, and how they tilt it."""

import math
from typing import NamedTuple

import numpy as np

from halvex.core.kernels import helper, kernel
from halvex.core.optics.blending import laid_over
from halvex.core.optics.gradients import WIDEST, along_gradient, ramp_colour
from halvex.core.optics.material import INTERNAL_RETURN
from halvex.core.optics.patterns import PATTERN, SIZE, cell_sides, cells_around, pattern_at
from halvex.core.optics.sources import (
    BEGIN,
    BLEND,
    BLOCK,
    BY_KEY,
    COSINE,
    DEPTH,
    EDGE,
    FACING,
    FIT,
    FITTED,
    GRADIENT_LAYER,
    KIND,
    LENGTH,
    MIRRORED,
    MOVED_X,
    MOVED_Y,
    NATURAL,
    NUMBER,
    PATTERN_LAYER,
    PICTURE_SCALE,
    PIECE,
    REPEATED,
    REVERSED,
    RUN,
    SCALE,
    SHAPE,
    SHINING,
    SHOWN,
    SIDES,
    SINE,
    SPAN,
    STRENGTH,
    SURFACE,
    TEXTURE,
    TO_X,
    TO_Y,
    TO_Z,
    UNDER_COAT,
    Sources,
)
from halvex.core.optics.texels import MIRRORED as MIRRORED_EDGES
from halvex.core.optics.texels import TILED, Texels, texel_colour
from halvex.core.optics.tone import light_shown
from halvex.core.optics.vectors import F, add, dot, floor, normalise, row3, scale, sub
from halvex.core.render.frames import from_frame, to_frame
from halvex.core.render.world import Frames
from halvex.core.scene.camera import Camera

# A surface seen at a slant is looked up as if it turned away by no more than this cosine.
_LEAST_COSINE = F(0.25)
_TURN = F(2.0 * math.pi)


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
    part: int
    instance: int
    triangle: int
    frame: int
    material: int


@helper
def sourced(world, si):
    """(colour (rgb) of a surface whose material has layers, as the material's base; slope (3,) in the world
    by which they tilt it)."""
    return _sourced(
        Site(
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
            si.part,
            si.instance,
            si.triangle,
            si.frame,
            si.material,
        )
    )


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
def _along_body(site, row, span):
    """(share, by how much it changes per px) of the depth, the run, the way across or the way a surface
    faces."""
    if span == DEPTH:
        turn = site.frames.turn[site.frame]
        z = dot((turn[0, 2], turn[1, 2], turn[2, 2]), sub(site.p, row3(site.frames.origin, site.frame)))
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
    place = site.uv[0] if span == RUN else site.uv[1]
    return (place - extent[column]) / length, F(1.0) / length


@helper
def _in_box(site, span):
    """(x, y, half width, half height) in px: a point from the middle of a box, and the box."""
    turn, q = site.turn, site.p
    if span < PIECE:
        turn = site.frames.turn[site.frame]
        q = sub(site.p, row3(site.frames.origin, site.frame))
    q = to_frame(turn, q)
    box = site.spans[site.instance, span]
    return q[0] - box[0], q[1] - box[1], box[2], box[3]


@helper
def _on_sheet(site, span):
    """(x, y, half width, half height, length, girth) in px: a point from the middle of what a layer is laid
    over; along the surface, where it has a run, that of its ring, and around a tube its girth."""
    if span == SURFACE:
        extent = site.extents[site.triangle]
        if extent[2] > F(0.0):
            half_run, half_across = F(0.5) * extent[2], F(0.5) * extent[3]
            # Of bodies with a run only tubes have one on their faces.
            girth = extent[3] if site.part == 0 else F(0.0)
            x, y = site.uv[0] - extent[0] - half_run, site.uv[1] - extent[1] - half_across
            return x, y, half_run, half_across, extent[2], girth
        span = BLOCK
    x, y, half_width, half_height = _in_box(site, span)
    return x, y, half_width, half_height, F(0.0), F(0.0)


@helper
def _gradient(site, layer, width):
    """Premultiplied light and opacity of a gradient at a point."""
    sources, span, number = site.sources, int(layer[SPAN]), int(layer[NUMBER])
    row = sources.gradients[number]
    if span >= DEPTH:
        t, per_px = _along_body(site, row, span)
    else:
        x, y, half_width, half_height = _in_box(site, span)
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
def _pattern(site, layer, width):
    """(premultiplied light and opacity, slope) of a pattern at a point."""
    sources = site.sources
    row = sources.patterns[int(layer[NUMBER])]
    x, y, _, _, run, girth = _on_sheet(site, int(layer[SPAN]))
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
def _picture(site, layer, width):
    """Premultiplied light and opacity of a picture at a point."""
    texels = site.texels
    row = site.sources.pictures[int(layer[NUMBER])]
    picture, fit, edges = int(row[TEXTURE]), int(row[FIT]), int(row[EDGE])
    first = texels.pictures[picture, 0]
    across, down = F(texels.levels[first, 1]), F(texels.levels[first, 2])
    x, y, half_width, half_height, run, _ = _on_sheet(site, int(layer[SPAN]))
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


@kernel
def _sourced(site):
    sources, m = site.sources, site.material
    colour, slope = row3(sources.base, m), (F(0.0), F(0.0), F(0.0))
    first = sources.first[m, 0]
    width = _footprint(site)
    for number in range(first, first + sources.first[m, 1]):
        layer = sources.layers[number]
        kind = int(layer[KIND])
        if kind == GRADIENT_LAYER:
            r, g, b, a = _gradient(site, layer, width)
        elif kind == PATTERN_LAYER:
            (r, g, b, a), way = _pattern(site, layer, width)
            slope = add(slope, scale(from_frame(site.frames.turn[site.frame], way), layer[STRENGTH]))
        else:
            r, g, b, a = _picture(site, layer, width)
        if a > F(0.0):
            above = (r / a, g / a, b / a)
            colour = laid_over(int(layer[BLEND]), colour, above, a * layer[STRENGTH])
    return _as_base(sources.look[m], colour), slope


@helper
def tilted(n, slope):
    """A unit normal tilted by a slope (3,)."""
    up = dot(slope, n)
    return normalise((n[0] - slope[0] + up * n[0], n[1] - slope[1] + up * n[1], n[2] - slope[2] + up * n[2]))


@helper
def _as_base(look, c):
    how = int(look[0])
    if how == UNDER_COAT:
        k = F(INTERNAL_RETURN)
        return (
            c[0] * (F(1.0) - k) / (F(1.0) - c[0] * k),
            c[1] * (F(1.0) - k) / (F(1.0) - c[1] * k),
            c[2] * (F(1.0) - k) / (F(1.0) - c[2] * k),
        )
    if how == SHINING:
        return scale(c, look[1])
    if how == SHOWN:
        return light_shown(c[0], c[1], c[2], int(look[1]))
    return c
