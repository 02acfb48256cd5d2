"""The colour that a material's layers make at a point of a surface."""

import math

from halvex.core.kernels import helper, kernel
from halvex.core.optics.blending import laid_over
from halvex.core.optics.gradients import WIDEST, along_gradient, ramp_colour
from halvex.core.optics.material import INTERNAL_RETURN
from halvex.core.optics.sources import (
    BEGIN,
    BLEND,
    COSINE,
    DEPTH,
    LENGTH,
    MIRRORED,
    MOVED_X,
    MOVED_Y,
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
    UNDER_COAT,
)
from halvex.core.optics.tone import light_shown
from halvex.core.optics.vectors import F, dot, normalise, row3, scale, sub
from halvex.core.render.frames import to_frame

# A surface seen at a slant is looked up as if it turned away by no more than this cosine.
_LEAST_COSINE = F(0.25)


@helper
def _footprint(world, si):
    """How many px of a surface a pixel of the picture covers there, whichever way the light comes."""
    camera = world.camera
    if camera.parallel:
        return F(1.0) / (camera.zoom * camera.px_scale)
    to = sub(camera.eye, si.p)
    cosine = max(abs(dot(si.ns, normalise(to))), _LEAST_COSINE)
    return max(to[2], F(0.0)) / (camera.eye[2] * camera.zoom * camera.px_scale * cosine)


@helper
def _along_body(world, si, span):
    """(share, by how much it changes per px) of the depth, the run or the way across at a point."""
    if span == DEPTH:
        turn = world.frames.turn[si.frame]
        z = dot((turn[0, 2], turn[1, 2], turn[2, 2]), sub(si.p, row3(world.frames.origin, si.frame)))
        box = world.spans[si.instance, 0]
        deep = max(box[5], F(1e-6))
        return (box[4] - z) / deep, F(1.0) / deep
    extent = world.extents[si.triangle]
    column = 0 if span == RUN else 1
    length = extent[column + 2]
    if length <= F(0.0):
        # A face has no run; what goes across ends where it begins.
        return (F(0.0) if span == RUN else F(1.0)), F(0.0)
    place = si.uv[0] if span == RUN else si.uv[1]
    return (place - extent[column]) / length, F(1.0) / length


@helper
def _in_plane(world, si, layer, span):
    """(share, by how much it changes per px) of a gradient that is laid over a box at a point."""
    turn, frame = world.turn, (si.p[0], si.p[1], si.p[2])
    if span < PIECE:
        turn = world.frames.turn[si.frame]
        frame = sub(si.p, row3(world.frames.origin, si.frame))
    q = to_frame(turn, frame)
    box = world.spans[si.instance, span]
    x = q[0] - box[0] - F(2.0) * box[2] * layer[MOVED_X]
    y = q[1] - box[1] - F(2.0) * box[3] * layer[MOVED_Y]
    return along_gradient(
        int(layer[SHAPE]), x, y, box[2], box[3], layer[COSINE], layer[SINE], layer[SCALE], layer[SIDES]
    )


@kernel
def sourced(world, si):
    """The colour (rgb) of a surface whose material has layers, as the material's base."""
    sources, m = world.materials.sources, si.material
    colour = row3(sources.base, m)
    first = sources.first[m, 0]
    width = _footprint(world, si)
    for number in range(first, first + sources.first[m, 1]):
        layer = sources.layers[number]
        span = int(layer[SPAN])
        if span >= DEPTH:
            t, per_px = _along_body(world, si, span)
        else:
            t, per_px = _in_plane(world, si, layer, span)
        if layer[REVERSED] > F(0.0):
            t = F(1.0) - t
        t = (t - layer[BEGIN]) / layer[LENGTH]
        repeated = layer[REPEATED] > F(0.0)
        if layer[MIRRORED] > F(0.0):
            if repeated:
                t -= F(math.floor(t))
            t = F(1.0) - abs(F(2.0) * t - F(1.0))
            per_px *= F(2.0)
        wide = min(width * per_px / layer[LENGTH], WIDEST)
        r, g, b, a = ramp_colour(sources.ramps, sources.sums, number, t, wide, repeated)
        if a > F(0.0):
            above = (r / a, g / a, b / a)
            colour = laid_over(int(layer[BLEND]), colour, above, a * layer[STRENGTH])
    return _as_base(sources.look[m], colour)


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
