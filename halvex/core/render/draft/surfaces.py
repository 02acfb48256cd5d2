"""What each pixel of a draft sees: point, normals and material of the first surface."""

from halvex.core.optics.vectors import F, along, dot, helper, kernel, sub
from halvex.core.render.draft.raster import NO_TRIANGLE
from halvex.core.render.hits import FAR, GROUND, LETTER, NOTHING, camera_ray, facing, first_hit, from_frame, ground_hit, surface_at

# Channels of the first-surface buffer; the material number is kept as a float, -1 for nothing.
POINT, NORMAL, GEOMETRIC, MATERIAL = 0, 3, 6, 9
SURFACE_CHANNELS = 10


@helper
def _drawn_hit(world, o, d, triangle, place, b1, b2):
    """`first_hit` where a letter was drawn (raster.py): it, or the ground before it."""
    c, offset = world.letters.bodies.corners[triangle], world.letters.offset[place]
    b0 = F(1.0) - b1 - b2
    p = (
        c[0] * b0 + c[3] * b1 + c[6] * b2 + offset[0],
        c[1] * b0 + c[4] * b1 + c[7] * b2 + offset[1],
        c[2] * b0 + c[5] * b1 + c[8] * b2 + offset[2],
    )
    t = dot(sub(from_frame(world.turn, p), o), d)
    at_ground, _ = ground_hit(world.ground, o, d, t)
    if at_ground < t:
        return GROUND, at_ground, -1, -1, F(0.0), F(0.0)
    return LETTER, t, place, triangle, b1, b2


@helper
def _put(pixel, p, ns, ng, m):
    for c in range(3):
        pixel[POINT + c] = p[c]
        pixel[NORMAL + c] = ns[c]
        pixel[GEOMETRIC + c] = ng[c]
    pixel[MATERIAL] = F(m)


@kernel
def first_surfaces(world, cover, triangle, place, weights, buffer, y0, y1, scratch):
    """Fill rows y0..y1-1 of buffer (H, W, SURFACE_CHANNELS).

    triangle, place, weights: letters drawn (raster.py), or cover (H, W): where rays shall look for them (cover.py); of these
    two, one has no rows.
    """
    drawn = triangle.shape[0] > 0
    for y in range(y0, y1):
        for x in range(buffer.shape[1]):
            o, d = camera_ray(world.camera, F(x) + F(0.5), F(y) + F(0.5))
            if (drawn and triangle[y, x] == NO_TRIANGLE) or (not drawn and cover[y, x] == 0):
                t, n = ground_hit(world.ground, o, d, FAR)
                if t < FAR:
                    _put(buffer[y, x], along(o, d, t), n, n, world.ground.material)
                else:
                    buffer[y, x, MATERIAL] = F(-1.0)
                continue
            if drawn:
                kind, t, at, tri, b1, b2 = _drawn_hit(world, o, d, triangle[y, x], place[y, x], weights[y, x, 0], weights[y, x, 1])
            else:
                kind, t, at, tri, b1, b2 = first_hit(world, o, d, FAR, scratch)
            if kind == NOTHING:
                buffer[y, x, MATERIAL] = F(-1.0)
                continue
            p, ns, ng, m = surface_at(world, kind, o, d, t, at, tri, b1, b2)
            _put(buffer[y, x], p, facing(ns, ng, (-d[0], -d[1], -d[2])), ng, m)
