"""What layers show at a point of a surface."""

import math

from halvex.core.kernels import helper
from halvex.core.optics.blending import laid_over
from halvex.core.optics.gradients import along_gradient
from halvex.core.optics.patterns import CLOUD, PATTERN, SIZE, cell_sides, cells_around, pattern_at
from halvex.core.optics.sheets import gradient_along, left_by_mask, picture_on_sheet
from halvex.core.optics.sources import (
    BELOW,
    BLEND,
    BLOCK,
    BY_KEY,
    COSINE,
    DEPTH,
    FACING,
    GRADIENT_LAYER,
    KIND,
    MASKS,
    MOVED_X,
    MOVED_Y,
    OWN,
    PATTERN_LAYER,
    PIECE,
    RUN,
    SCALE,
    SECOND,
    SHAPE,
    SIDES,
    SINE,
    SPAN,
    STRENGTH,
    SURFACE,
    TO_X,
    TO_Y,
    TO_Z,
)
from halvex.core.optics.vectors import F, add, dot, row3, scale, sub
from halvex.core.render.camera_rays import seen_in_plane
from halvex.core.render.frames import AT, from_frame, to_frame

# A surface seen at a slant is looked up as if it turned away by no more than this cosine.
_LEAST_COSINE = F(0.25)
# A floor reaches farther back, where what is laid over it would shimmer.
_LEAST_COSINE_ON_GROUND = F(0.08)
_TURN = F(2.0 * math.pi)


@helper
def footprint(world, si):
    """How many px of a surface a pixel of the picture covers there, whichever way the light comes."""
    camera = world.camera
    if camera.parallel:
        return F(1.0) / (camera.zoom * camera.px_scale)
    to = sub(camera.eye, si.p)
    least = _LEAST_COSINE if si.instance >= 0 else _LEAST_COSINE_ON_GROUND
    far = math.sqrt(dot(to, to))
    cosine = max(abs(dot(si.ns, to)), least * far)
    return max(to[2], F(0.0)) * far / (camera.eye[2] * camera.zoom * camera.px_scale * cosine)


@helper
def _along_body(world, si, p, uv, row, span):
    """(share, by how much it changes per px) of the depth, the run, the way across or the way a surface
    faces."""
    if si.instance < 0 and span != FACING:
        return F(0.0), F(0.0)
    if span == DEPTH:
        turn = world.frames.turn[si.frame]
        z = dot((turn[0, 2], turn[1, 2], turn[2, 2]), sub(p, row3(world.frames.origin, si.frame)))
        box = world.spans[si.instance, 0]
        deep = max(box[5], F(1e-6))
        return (box[4] - z) / deep, F(1.0) / deep
    if span == FACING:
        # From what faces the compass or the key lamp to what faces away.
        turn = world.frames.turn[si.frame]
        towards = world.key if row[BY_KEY] > F(0.0) else from_frame(turn, (row[TO_X], row[TO_Y], row[TO_Z]))
        return math.acos(min(max(dot(si.ns, towards), F(-1.0)), F(1.0))) * F(1.0 / math.pi), F(0.0)
    extent = world.extents[si.triangle]
    column = 0 if span == RUN else 1
    length = extent[column + 2]
    if length <= F(0.0):
        # A face has no run; what goes across ends where it begins.
        return (F(0.0) if span == RUN else F(1.0)), F(0.0)
    place = uv[0] if span == RUN else uv[1]
    return (place - extent[column]) / length, F(1.0) / length


@helper
def _in_box(world, si, p, span):
    """(x, y, half width, half height) in px: a point from the middle of a box, and the box."""
    if si.instance < 0:
        # What stands behind the letters has no box: its layers lie on the canvas, as the camera sees it.
        backing = world.backing
        across, up = seen_in_plane(world.camera, p)
        x, y = across - backing.middle[0], up - backing.middle[1]
        return x * world.camera.zoom, y * world.camera.zoom, backing.half[0], backing.half[1]
    turn, q = world.turn, p
    if span < PIECE:
        turn = world.frames.turn[si.frame]
        q = sub(p, row3(world.frames.origin, si.frame))
    q = to_frame(turn, q)
    box = world.spans[si.instance, span]
    return q[0] - box[0], q[1] - box[1], box[2], box[3]


@helper
def _on_sheet(world, si, p, uv, span):
    """(x, y, half width, half height, length, girth) in px: a point from the middle of what a layer is laid
    over; along the surface, where it has a run, that of its ring, and around a tube its girth."""
    if span == SURFACE and si.instance < 0:
        return uv[0], uv[1], world.backing.half[0], world.backing.half[1], F(0.0), F(0.0)
    if span == SURFACE:
        extent = world.extents[si.triangle]
        if extent[2] > F(0.0):
            half_run, half_across = F(0.5) * extent[2], F(0.5) * extent[3]
            # Of bodies with a run only tubes have one on their faces.
            girth = extent[3] if si.part == 0 else F(0.0)
            x, y = uv[0] - extent[0] - half_run, uv[1] - extent[1] - half_across
            return x, y, half_run, half_across, extent[2], girth
        span = BLOCK
    x, y, half_width, half_height = _in_box(world, si, p, span)
    return x, y, half_width, half_height, F(0.0), F(0.0)


@helper
def _gradient(world, si, p, uv, layer, width):
    """Premultiplied light and opacity of a gradient at a point."""
    span, row = int(layer[SPAN]), layer[OWN:]
    if span >= DEPTH:
        t, per_px = _along_body(world, si, p, uv, row, span)
    else:
        x, y, half_width, half_height = _in_box(world, si, p, span)
        x -= F(2.0) * half_width * layer[MOVED_X]
        y -= F(2.0) * half_height * layer[MOVED_Y]
        t, per_px = along_gradient(
            int(row[SHAPE]), x, y, half_width, half_height, layer[COSINE], layer[SINE], row[SCALE], row[SIDES]
        )
    return gradient_along(world.materials.sources, row, t, per_px, width)


@helper
def _in_space(x, y, run, girth):
    """A place of a surface that closes after a run, and a tube's also after its girth, in space, where both
    are circles."""
    along, radius, z = _TURN * x / run, run / _TURN, y
    if girth > F(0.0):
        around, thick = _TURN * y / girth, girth / _TURN
        radius, z = radius + thick * math.cos(around), thick * math.sin(around)
    return radius * math.cos(along), radius * math.sin(along), z


@helper
def _pattern(world, si, p, uv, layer, width):
    """(premultiplied light and opacity, slope) of a pattern at a point."""
    sources = world.materials.sources
    row = layer[OWN:]
    x, y, _, _, run, girth = _on_sheet(world, si, p, uv, int(layer[SPAN]))
    which = int(row[PATTERN])
    long, high = cell_sides(which)
    per_px = F(1.0) / row[SIZE]
    c, s = layer[COSINE] * per_px, layer[SINE] * per_px
    # From px along and across to cells along and across the pattern's bearing.
    x_to_i, x_to_j, y_to_i, y_to_j = c / long, -s / high, s / long, c / high
    a1, b1, a2, b2 = 0, 0, 0, 0
    if run > F(0.0):
        a1, b1 = cells_around(which, run * x_to_i, run * x_to_j)
        x_to_i, x_to_j = F(a1) / run, F(b1) / run
        if girth > F(0.0):
            a2, b2 = cells_around(which, girth * y_to_i, girth * y_to_j)
            y_to_i, y_to_j = F(a2) / girth, F(b2) / girth
    q = (x, y, F(0.0))
    if which == CLOUD and run > F(0.0):
        q = _in_space(x, y, run, girth)
    i = x * x_to_i + y * y_to_i - layer[MOVED_X]
    j = x * x_to_j + y * y_to_j - layer[MOVED_Y]
    q = (q[0] * per_px - layer[MOVED_X], q[1] * per_px - layer[MOVED_Y], q[2] * per_px)
    return pattern_at(row, sources.paints, i, j, q, (a1, b1, a2, b2), width * per_px)


@helper
def _picture(world, si, p, uv, layer, width):
    """Premultiplied light and opacity of a picture at a point."""
    x, y, half_width, half_height, run, _ = _on_sheet(world, si, p, uv, int(layer[SPAN]))
    return picture_on_sheet(world.materials.texels, layer, x, y, (half_width, half_height), run, width)


@helper
def laid(world, si, p, uv, slot, width):
    """(linear light (rgb), slope (3,) in the world) of the layers of a slot over what lies below them, black
    for a number, at a footprint of so many px."""
    sources, m = world.materials.sources, AT(si.material)
    colour, slope, shown = (F(0.0), F(0.0), F(0.0)), (F(0.0), F(0.0), F(0.0)), F(1.0)
    if slot <= SECOND:
        below = sources.rows[m, AT(BELOW + 3 * slot) :]
        colour = (below[0], below[1], below[2])
    first, count = sources.first[m, AT(slot), 0], sources.first[m, AT(slot), 1]
    for number in range(first, first + count):
        layer = sources.layers[AT(number)]
        kind, way = int(layer[KIND]), (F(0.0), F(0.0), F(0.0))
        wide = width
        if si.instance < 0 and int(layer[SPAN]) != SURFACE:
            wide = width / footprint(world, si) / world.camera.px_scale
        if kind == GRADIENT_LAYER:
            r, g, b, a = _gradient(world, si, p, uv, layer, wide)
        elif kind == PATTERN_LAYER:
            (r, g, b, a), way = _pattern(world, si, p, uv, layer, wide)
        else:
            r, g, b, a = _picture(world, si, p, uv, layer, wide)
        above = scale((r, g, b), F(1.0) / a) if a > F(0.0) else (F(0.0), F(0.0), F(0.0))
        if layer[MASKS] > F(0.0):
            shown *= left_by_mask(layer, above, a)
            continue
        strength = layer[STRENGTH] * shown
        shown = F(1.0)
        if kind == PATTERN_LAYER:
            slope = add(slope, scale(from_frame(world.frames.turn[si.frame], way), strength))
        if a > F(0.0):
            colour = laid_over(int(layer[BLEND]), colour, above, a * strength)
    return colour, slope
