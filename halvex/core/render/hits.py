"""Where does a ray go? First hits, and the surface at a hit.

Boxes and triangles are tested eight at once (lanes.py), triangles watertight: no ray slips through an
edge that two of them share. `scratch` is the calling thread's working memory (world.py).
"""

import math
from typing import NamedTuple

import numpy as np

from halvex.core.kernels import helper
from halvex.core.optics.eight import LANES
from halvex.core.optics.material import ASPECT, BRUSH_X, BRUSH_Y, FIRST_TEXTURE
from halvex.core.optics.textures import NO_TEXTURE, textured
from halvex.core.optics.vectors import F, add, along, basis, cross, dot, normalise, row3, scale, sub
from halvex.core.render.lanes import eight_boxes, eight_triangles, lowest_bit
from halvex.core.scene.ground import COVE, WALL

FAR = F(1.0e30)
TINY = F(1.0e-12)
# In place of a number of leaves (beams.py): they are not listed.
SEARCH = -1
# An index as a number without a sign: a signed one is looked at each time whether it counts from the end.
AT = np.uintp

NOTHING, LETTER, GROUND = -1, 0, 1


class Hit(NamedTuple):
    """Where a ray meets something: NOTHING, LETTER or GROUND; its distance; of a letter the
    instance, the triangle and the barycentric weights of its second and third corner."""

    kind: int
    t: np.float32
    instance: int
    triangle: int
    b1: np.float32
    b2: np.float32


class SurfaceInteraction(NamedTuple):
    """A point of a surface, in the world: geometric and shading normal, outward; part, instance
    (both -1 for the ground) and frame, in which its texture lies; material."""

    p: tuple[np.float32, np.float32, np.float32]
    ng: tuple[np.float32, np.float32, np.float32]
    ns: tuple[np.float32, np.float32, np.float32]
    part: int
    instance: int
    frame: int
    material: int


@helper
def with_normals(si, ns, ng):
    """The same point with other normals."""
    return SurfaceInteraction(si.p, ng, ns, si.part, si.instance, si.frame, si.material)


@helper
def offset_from(world, p, ng, towards):
    """The origin of a ray that leaves p into direction `towards`, moved along the normal ng by the
    error bound of a letter's points, so that the ray cannot meet the triangle it leaves."""
    e = world.letters.error
    if dot(ng, towards) < F(0.0):
        e = -e
    return along(p, ng, e)


@helper
def to_frame(turn, v):
    """World direction or point into the lettering's frame (the transposed turn)."""
    return (
        turn[0, 0] * v[0] + turn[1, 0] * v[1] + turn[2, 0] * v[2],
        turn[0, 1] * v[0] + turn[1, 1] * v[1] + turn[2, 1] * v[2],
        turn[0, 2] * v[0] + turn[1, 2] * v[1] + turn[2, 2] * v[2],
    )


@helper
def from_frame(turn, v):
    return (
        turn[0, 0] * v[0] + turn[0, 1] * v[1] + turn[0, 2] * v[2],
        turn[1, 0] * v[0] + turn[1, 1] * v[1] + turn[1, 2] * v[2],
        turn[2, 0] * v[0] + turn[2, 1] * v[1] + turn[2, 2] * v[2],
    )


@helper
def out_of_body(letters, i, v):
    """A direction of an instance's body in the lettering's frame."""
    return v if letters.straight[AT(i)] != 0 else from_frame(letters.matrix[AT(i)], v)


@helper
def into_body(letters, i, v):
    """A direction of the lettering's frame in that of an instance's body, longer where the body is
    made smaller."""
    return v if letters.straight[AT(i)] != 0 else from_frame(letters.inverse[AT(i)], v)


@helper
def _inverse(x):
    return F(1.0) / (x if abs(x) > TINY else math.copysign(TINY, x))


@helper
def one_over(v):
    """One over each of three numbers; 0 counts as a tiny number."""
    return _inverse(v[0]), _inverse(v[1]), _inverse(v[2])


@helper
def pick(v, k):
    """v[k], without the memory round trip of a tuple indexed by a variable."""
    return v[0] if k == 0 else (v[1] if k == 1 else v[2])


@helper
def shear_of(d):
    """(kx, ky, kz, sx, sy, sz): axis order and shear that turn the ray into the z axis, for the
    watertight test."""
    ax, ay, az = abs(d[0]), abs(d[1]), abs(d[2])
    kz = 2
    if ax > ay and ax > az:
        kz = 0
    elif ay > az:
        kz = 1
    kx = kz + 1 if kz < 2 else 0
    ky = kx + 1 if kx < 2 else 0
    dz = pick(d, kz)
    if dz < F(0.0):
        kx, ky = ky, kx
    return kx, ky, kz, pick(d, kx) / dz, pick(d, ky) / dz, F(1.0) / dz


@helper
def _in_leaf(letters, packet, o, order, shear, found, scratch):
    """What was found (distance, its bits, triangle, b1, b2), or the nearer triangle of a leaf; o in
    the order of the axes."""
    lanes, bits = scratch.lanes, scratch.bits
    best, best_bits, tri, b1, b2 = found
    mask = eight_triangles(
        letters.bodies.packets,
        packet,
        order[0],
        order[1],
        order[2],
        o[0],
        o[1],
        o[2],
        shear[0],
        shear[1],
        shear[2],
        best,
        lanes,
    )
    while mask != 0:
        k = lowest_bit(mask)
        mask &= mask - 1
        if lanes[AT(k)] < best:
            best, best_bits, tri = lanes[AT(k)], bits[AT(k)], letters.bodies.first[AT(packet)] + k
            b1, b2 = lanes[AT(LANES + k)], lanes[AT(2 * LANES + k)]
    return best, best_bits, tri, b1, b2


@helper
def _in_body(letters, root, o, d, inverse, far, any_hit, scratch, base):
    """Nearest (or any) triangle of a body, the ray in its own frame: (t, triangle, b1, b2);
    triangle -1 for none.

    A stack entry is a distance's bits over a node's number, so that entries compare by distance.
    """
    stack, lanes, bits = scratch.stack, scratch.lanes, scratch.bits
    kx, ky, kz, sx, sy, sz = shear_of(d)
    order, shear = (kx, ky, kz), (sx, sy, sz)
    ordered = (pick(o, order[0]), pick(o, order[1]), pick(o, order[2]))
    lanes[0] = far
    best, best_bits, tri, b1, b2 = far, bits[0], -1, F(0.0), F(0.0)
    node, top = root, base
    while True:
        if node < 0:
            best, best_bits, tri, b1, b2 = _in_leaf(
                letters, ~node, ordered, order, shear, (best, best_bits, tri, b1, b2), scratch
            )
            if any_hit and tri >= 0:
                return best, tri, b1, b2
        else:
            mask = eight_boxes(
                letters.bodies.boxes,
                node,
                o[0],
                o[1],
                o[2],
                inverse[0],
                inverse[1],
                inverse[2],
                F(0.0),
                best,
                lanes,
            )
            if mask != 0 and mask & (mask - 1) == 0:
                node = letters.bodies.child[AT(node * LANES + lowest_bit(mask))]
                continue
            top = push_children(stack, top, bits, letters.bodies.child, node, mask, any_hit)
        # On to the nearest node that is left, past those that lie behind what was found.
        while top > base and stack[AT(top - 1)] >> 32 >= best_bits:
            top -= 1
        if top == base:
            return best, tri, b1, b2
        top -= 1
        node = np.int32(stack[AT(top)])


@helper
def push_children(stack, top, bits, child, node, mask, any_hit):
    """Put the children in `mask` on the stack, the nearest on top; in no order where any hit will do."""
    bottom = top
    while mask != 0:
        k = lowest_bit(mask)
        mask &= mask - 1
        entry = (np.int64(bits[AT(k)]) << 32) | (np.int64(child[AT(node * LANES + k)]) & np.int64(0xFFFFFFFF))
        j = top
        while not any_hit and j > bottom and stack[AT(j - 1)] < entry:
            stack[AT(j)] = stack[AT(j - 1)]
            j -= 1
        stack[AT(j)] = entry
        top += 1
    return top


@helper
def in_letters(world, o, d, far, any_hit, scratch):
    """Nearest (or any) letter hit: (t, instance, triangle, b1, b2); o, d in the world."""
    letters = world.letters
    stack, lanes, bits = scratch.stack, scratch.lanes, scratch.bits
    lo, ld = to_frame(world.turn, o), to_frame(world.turn, d)
    inverse = one_over(ld)
    best, place, tri, b1, b2 = far, -1, -1, F(0.0), F(0.0)
    stack[0] = 0
    top = 1
    while top > 0:
        top -= 1
        entry = stack[AT(top)]
        lanes[0] = best
        if entry >> 32 >= bits[0]:
            continue
        node = np.int32(entry)
        if node < 0:
            i = ~node
            own, own_d, own_inverse = sub(lo, row3(letters.offset, AT(i))), ld, inverse
            if letters.straight[AT(i)] == 0:
                own, own_d = into_body(letters, i, own), into_body(letters, i, ld)
                own_inverse = one_over(own_d)
            root = letters.root[AT(i)]
            t, k, u, v = _in_body(letters, root, own, own_d, own_inverse, best, any_hit, scratch, top)
            if k >= 0:
                best, place, tri, b1, b2 = t, i, k, u, v
                if any_hit:
                    break
            continue
        mask = eight_boxes(
            letters.place_boxes,
            node,
            lo[0],
            lo[1],
            lo[2],
            inverse[0],
            inverse[1],
            inverse[2],
            F(0.0),
            best,
            lanes,
        )
        top = push_children(stack, top, bits, letters.place_child, node, mask, any_hit)
    return best if place >= 0 else FAR, place, tri, b1, b2


@helper
def _in_leaves(world, o, d, count, scratch):
    """Nearest hit in the leaves listed: (t, instance, triangle, b1, b2)."""
    letters, lanes, bits, leaves = world.letters, scratch.lanes, scratch.bits, scratch.leaves
    lo, ld = to_frame(world.turn, o), to_frame(world.turn, d)
    straight_shear = shear_of(ld)
    lanes[0] = FAR
    best, best_bits, place, tri, b1, b2 = FAR, bits[0], -1, -1, F(0.0), F(0.0)
    for i in range(count):
        if leaves[AT(i), 0] >= best_bits:
            break
        at, before = leaves[AT(i), 1], best
        own = into_body(letters, at, sub(lo, row3(letters.offset, AT(at))))
        shear = straight_shear if letters.straight[AT(at)] != 0 else shear_of(into_body(letters, at, ld))
        kx, ky, kz, sx, sy, sz = shear
        own = (pick(own, kx), pick(own, ky), pick(own, kz))
        best, best_bits, tri, b1, b2 = _in_leaf(
            letters,
            leaves[AT(i), 2],
            own,
            (kx, ky, kz),
            (sx, sy, sz),
            (best, best_bits, tri, b1, b2),
            scratch,
        )
        if best < before:
            place = at
    return best, place, tri, b1, b2


@helper
def ground_hit(ground, o, d, far):
    """(t or FAR, normal) of the ground; only its front is there."""
    up = (F(0.0), F(1.0), F(0.0))
    if ground.kind == WALL:
        n = ground.normal
        facing = dot(n, d)
        if facing < -TINY:
            p = ground.point
            t = ((p[0] - o[0]) * n[0] + (p[1] - o[1]) * n[1] + (p[2] - o[2]) * n[2]) / facing
            if F(0.0) < t < far:
                return t, n
        return FAR, up
    if ground.kind != COVE:
        return FAR, up
    best, normal = FAR, up
    r = ground.radius
    cy, cz = ground.floor + r, ground.back + r
    if d[1] < -TINY:
        t = (ground.floor - o[1]) / d[1]
        if F(0.0) < t < far and o[2] + t * d[2] >= cz:
            best, normal = t, up
    if d[2] < -TINY:
        t = (ground.back - o[2]) / d[2]
        if F(0.0) < t < min(far, best) and o[1] + t * d[1] >= cy:
            best, normal = t, (F(0.0), F(0.0), F(1.0))
    # The sweep is a quarter of a cylinder along x, seen from inside.
    oy, oz = o[1] - cy, o[2] - cz
    a = d[1] * d[1] + d[2] * d[2]
    b = oy * d[1] + oz * d[2]
    disc = b * b - a * (oy * oy + oz * oz - r * r)
    if a > TINY and disc > F(0.0):
        t = (math.sqrt(disc) - b) / a
        y, z = oy + t * d[1], oz + t * d[2]
        if F(0.0) < t < min(far, best) and y < F(0.0) and z < F(0.0):
            best, normal = t, (F(0.0), -y / r, -z / r)
    return best, normal


@helper
def first_hit(world, o, d, far, scratch):
    """The nearest letter or ground, as a Hit.

    All letters stand in front of the ground (scene/ground.py), and it bulges nowhere towards them:
    it hides none.
    """
    t, place, tri, b1, b2 = in_letters(world, o, d, far, False, scratch)
    if place >= 0:
        return Hit(np.int32(LETTER), t, np.int32(place), np.int32(tri), b1, b2)
    t, _ = ground_hit(world.ground, o, d, far)
    return Hit(np.int32(GROUND if t < far else NOTHING), t, np.int32(-1), np.int32(-1), F(0.0), F(0.0))


@helper
def seen_hit(world, o, d, leaves, scratch):
    """`first_hit` of a ray that may meet the leaves listed alone; all there are for SEARCH."""
    if leaves == SEARCH:
        return first_hit(world, o, d, FAR, scratch)
    if leaves > 0:
        t, place, tri, b1, b2 = _in_leaves(world, o, d, leaves, scratch)
        if place >= 0:
            return Hit(np.int32(LETTER), t, np.int32(place), np.int32(tri), b1, b2)
    t, _ = ground_hit(world.ground, o, d, FAR)
    return Hit(np.int32(GROUND if t < FAR else NOTHING), t, np.int32(-1), np.int32(-1), F(0.0), F(0.0))


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
def surface_at(world, o, d, hit):
    """The surface that a ray has hit."""
    if hit.kind == GROUND:
        _, n = ground_hit(world.ground, o, d, FAR)
        p, m = on_ground(world.ground, o, d, hit.t, n), np.int32(world.ground.material)
        return SurfaceInteraction(p, n, n, np.int32(-1), np.int32(-1), ground_frame(world), m)
    instance, tri, b1, b2 = hit.instance, hit.triangle, hit.b1, hit.b2
    p = on_triangle(world, instance, tri, b1, b2)
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
    part = np.int32(world.letters.bodies.part[tri])
    m = np.int32(world.materials_of[instance, part])
    if world.letters.straight[AT(instance)] == 0:
        ns, ng = out_of_body(world.letters, instance, ns), normalise(out_of_body(world.letters, instance, ng))
    ns, ng = normalise(from_frame(world.turn, ns)), from_frame(world.turn, ng)
    return SurfaceInteraction(p, ng, ns, part, instance, np.int32(world.frame_of[instance]), m)


@helper
def appearance(world, si):
    """(base colour, shading normal) of a surface: its texture's colour and relief, where it has one."""
    m = si.material
    base = (world.materials.params[m, 0], world.materials.params[m, 1], world.materials.params[m, 2])
    texture = world.materials.texture[m]
    if texture == NO_TEXTURE:
        return base, si.ns
    # Textures are fixed to their block: it takes them along when it is moved or turned.
    turn = world.frames.turn[si.frame]
    p = to_frame(turn, sub(si.p, row3(world.frames.origin, si.frame)))
    base, n = textured(world.materials.params, FIRST_TEXTURE, m, texture, base, p, to_frame(turn, si.ns))
    return base, from_frame(turn, n)


@helper
def shading_frame(world, m, frame, ns):
    """Two unit vectors that make a frame with ns, the first along the brush where the material m is
    brushed; the brush runs in the block's `frame`."""
    params = world.materials.params
    if params[m, ASPECT] == F(1.0):
        return basis(ns)
    turn = world.frames.turn[frame]
    along_brush = from_frame(turn, (params[m, BRUSH_X], params[m, BRUSH_Y], F(0.0)))
    t = cross(ns, along_brush)
    if dot(t, t) < F(1e-4):
        # The side that the brush runs into is brushed along the depth.
        t = cross(ns, from_frame(turn, (F(0.0), F(0.0), F(1.0))))
    t = normalise(t)
    return cross(t, ns), t


@helper
def camera_ray(camera, x, y):
    """(origin, direction) of the ray through picture coordinates x (right), y (down)."""
    cx = (x / camera.px_scale - camera.width * F(0.5)) / camera.zoom + camera.shift[0]
    cy = (camera.height * F(0.5) - y / camera.px_scale) / camera.zoom + camera.shift[1]
    stand = camera.eye[2]
    if camera.parallel:
        lx, ly = camera.lean[0], camera.lean[1]
        return (cx + stand * lx, cy + stand * ly, stand), normalise((-lx, -ly, F(-1.0)))
    return camera.eye, normalise((cx - camera.eye[0], cy - camera.eye[1], -stand))


@helper
def lens_ray(camera, o, d, a, b):
    """The ray from the point (a, b) of the unit disc of the lens that meets (o, d) in the plane of
    focus (thin lens)."""
    if camera.lens == F(0.0):
        return o, d
    sharp = along(o, d, (camera.focus - o[2]) / d[2])
    start = (o[0] + camera.lens * a, o[1] + camera.lens * b, o[2])
    return start, normalise((sharp[0] - start[0], sharp[1] - start[1], sharp[2] - start[2]))


@helper
def facing(n, ng, wo):
    """The shading normal as seen from wo: never past the horizon, where it would turn black."""
    if dot(n, wo) > F(0.02):
        return n
    lifted = add(n, scale(wo, F(0.02) - dot(n, wo)))
    return normalise(lifted)
