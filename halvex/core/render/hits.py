"""Where does a ray go? First hits, blocked or tinted shadow rays, and the surface at a hit.

Triangles are tested watertight: no ray slips through an edge that two of them share (Woop, Benthin
& Wald, JCGT 2(1), 2013). `stack` is a scratch array (STACK_DEPTH,) int32 that the caller keeps.
"""

import math

from halvex.core.optics.material import GLASS, INDEX
from halvex.core.optics.microfacet import fresnel_dielectric
from halvex.core.optics.vectors import F, add, along, dot, helper, mul, normalise, scale
from halvex.core.scene.ground import COVE, WALL

FAR = F(1.0e30)
TINY = F(1.0e-12)
# A ray starts this far off the surface it leaves, in px and as a share of its distance from the origin.
OFFSET_PX = F(1.5e-3)
OFFSET_SHARE = F(2.0e-6)
MOST_PANES = 16

NOTHING, LETTER, GROUND = -1, 0, 1


@helper
def offset_from(p, ng, towards):
    """A start for a ray that leaves p into direction `towards`, clear of the surface with normal ng."""
    e = OFFSET_PX + OFFSET_SHARE * (abs(p[0]) + abs(p[1]) + abs(p[2]))
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
def _inverse(x):
    return F(1.0) / (x if abs(x) > TINY else math.copysign(TINY, x))


@helper
def _enter(boxes, i, k, o, inv, far):
    """Distance at which the ray enters child box k (0 or 6) of node i; FAR where it misses."""
    ax, bx = (boxes[i, k] - o[0]) * inv[0], (boxes[i, k + 3] - o[0]) * inv[0]
    ay, by = (boxes[i, k + 1] - o[1]) * inv[1], (boxes[i, k + 4] - o[1]) * inv[1]
    az, bz = (boxes[i, k + 2] - o[2]) * inv[2], (boxes[i, k + 5] - o[2]) * inv[2]
    near = max(max(min(ax, bx), min(ay, by)), max(min(az, bz), F(0.0)))
    out = min(min(max(ax, bx), max(ay, by)), min(max(az, bz), far))
    # Rounding may lose a grazing box; a few ulps of slack keep the test watertight.
    return near if near <= out * F(1.0000004) else FAR


@helper
def _pick(v, k):
    """v[k], without the memory round trip of a tuple indexed by a variable."""
    return v[0] if k == 0 else (v[1] if k == 1 else v[2])


@helper
def _shear(d):
    """(kx, ky, kz, sx, sy, sz): axis order and shear that turn the ray into the z axis, for the watertight test."""
    ax, ay, az = abs(d[0]), abs(d[1]), abs(d[2])
    kz = 2
    if ax > ay and ax > az:
        kz = 0
    elif ay > az:
        kz = 1
    kx = kz + 1 if kz < 2 else 0
    ky = kx + 1 if kx < 2 else 0
    dz = _pick(d, kz)
    if dz < F(0.0):
        kx, ky = ky, kx
    return kx, ky, kz, _pick(d, kx) / dz, _pick(d, ky) / dz, F(1.0) / dz


@helper
def _triangle(corners, i, ox, oy, oz, kx, ky, kz, sx, sy, sz, far):
    """(distance or FAR, b1, b2): the sheared ray against triangle i; b1, b2 weigh its second and third corner."""
    az_ = corners[i, kz] - oz
    bz_ = corners[i, 3 + kz] - oz
    cz_ = corners[i, 6 + kz] - oz
    ax = corners[i, kx] - ox - sx * az_
    ay = corners[i, ky] - oy - sy * az_
    bx = corners[i, 3 + kx] - ox - sx * bz_
    by = corners[i, 3 + ky] - oy - sy * bz_
    cx = corners[i, 6 + kx] - ox - sx * cz_
    cy = corners[i, 6 + ky] - oy - sy * cz_
    u = cx * by - cy * bx
    v = ax * cy - ay * cx
    w = bx * ay - by * ax
    if u == F(0.0) or v == F(0.0) or w == F(0.0):
        u = F(float(cx) * float(by) - float(cy) * float(bx))
        v = F(float(ax) * float(cy) - float(ay) * float(cx))
        w = F(float(bx) * float(ay) - float(by) * float(ax))
    if (u < F(0.0) or v < F(0.0) or w < F(0.0)) and (u > F(0.0) or v > F(0.0) or w > F(0.0)):
        return FAR, F(0.0), F(0.0)
    det = u + v + w
    if det == F(0.0):
        return FAR, F(0.0), F(0.0)
    inv = F(1.0) / det
    t = (u * az_ + v * bz_ + w * cz_) * sz * inv
    if t <= F(0.0) or t >= far:
        return FAR, F(0.0), F(0.0)
    return t, v * inv, w * inv


@helper
def _in_body(corners, boxes, child, count, root, o, d, far, any_hit, stack, base):
    """Nearest (or any) triangle of a body, o and d in its own frame: (t, triangle, b1, b2); t = FAR for none."""
    inv = (_inverse(d[0]), _inverse(d[1]), _inverse(d[2]))
    kx, ky, kz, sx, sy, sz = _shear(d)
    ox, oy, oz = _pick(o, kx), _pick(o, ky), _pick(o, kz)
    best, tri, b1, b2 = far, -1, F(0.0), F(0.0)
    top = base
    node = root
    while True:
        tl = _enter(boxes, node, 0, o, inv, best)
        tr = _enter(boxes, node, 6, o, inv, best)
        near = 0 if tl <= tr else 1
        follow = -1
        for k in range(2):
            # The far side is looked at first and put off, so that the near one is followed.
            side = near ^ 1 if k == 0 else near
            t = tl if side == 0 else tr
            if t >= best:
                continue
            n = count[node, side]
            c = child[node, side]
            if n == 0:
                if follow >= 0:
                    stack[top] = follow
                    top += 1
                follow = c
            else:
                first = ~c
                for i in range(first, first + n):
                    t, u, v = _triangle(corners, i, ox, oy, oz, kx, ky, kz, sx, sy, sz, best)
                    if t < best:
                        best, tri, b1, b2 = t, i, u, v
                        if any_hit:
                            return best, tri, b1, b2
        if follow >= 0:
            node = follow
        elif top > base:
            top -= 1
            node = stack[top]
        else:
            break
    return (best, tri, b1, b2) if tri >= 0 else (FAR, -1, b1, b2)


@helper
def _in_letters(world, o, d, far, any_hit, stack):
    """Nearest (or any) letter hit: (t, placement, triangle, b1, b2); o, d in the world."""
    lo, ld = to_frame(world.turn, o), to_frame(world.turn, d)
    inv = (_inverse(ld[0]), _inverse(ld[1]), _inverse(ld[2]))
    best, place, tri, b1, b2 = far, -1, -1, F(0.0), F(0.0)
    top = 0
    stack[top] = 0
    top = 1
    while top > 0:
        top -= 1
        node = stack[top]
        if node < 0:
            i = ~node
            shift = (lo[0] - world.offset[i, 0], lo[1] - world.offset[i, 1], lo[2] - world.offset[i, 2])
            t, k, u, v = _in_body(world.corners, world.body_boxes, world.body_child, world.body_count, world.root[i], shift, ld, best, any_hit, stack, top)
            if t < best:
                best, place, tri, b1, b2 = t, i, k, u, v
                if any_hit:
                    break
            continue
        tl = _enter(world.place_boxes, node, 0, lo, inv, best)
        tr = _enter(world.place_boxes, node, 6, lo, inv, best)
        near = 0 if tl <= tr else 1
        for k in range(2):
            side = near ^ 1 if k == 0 else near
            if (tl if side == 0 else tr) >= best:
                continue
            n = world.place_count[node, side]
            c = world.place_child[node, side]
            if n == 0:
                stack[top] = c
                top += 1
            else:
                for i in range(~c, ~c + n):
                    stack[top] = ~i
                    top += 1
    return best if place >= 0 else FAR, place, tri, b1, b2


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
def first_hit(world, o, d, far, stack):
    """(kind, t, placement, triangle, b1, b2): the nearest letter or ground."""
    t, place, tri, b1, b2 = _in_letters(world, o, d, far, False, stack)
    tg, _ = ground_hit(world.ground, o, d, min(t, far))
    if tg < t:
        return GROUND, tg, -1, -1, F(0.0), F(0.0)
    return LETTER if place >= 0 else NOTHING, t, place, tri, b1, b2


@helper
def surface_at(world, kind, o, d, t, place, tri, b1, b2):
    """(point, shading normal, geometric normal, material): normals outward, in the world."""
    p = along(o, d, t)
    if kind == GROUND:
        _, n = ground_hit(world.ground, o, d, FAR)
        return p, n, n, world.ground.material
    c = world.corners
    e1 = (c[tri, 3] - c[tri, 0], c[tri, 4] - c[tri, 1], c[tri, 5] - c[tri, 2])
    e2 = (c[tri, 6] - c[tri, 0], c[tri, 7] - c[tri, 1], c[tri, 8] - c[tri, 2])
    ng = (e1[1] * e2[2] - e1[2] * e2[1], e1[2] * e2[0] - e1[0] * e2[2], e1[0] * e2[1] - e1[1] * e2[0])
    n = world.corner_normals
    b0 = F(1.0) - b1 - b2
    ns = (
        n[tri, 0] * b0 + n[tri, 3] * b1 + n[tri, 6] * b2,
        n[tri, 1] * b0 + n[tri, 4] * b1 + n[tri, 7] * b2,
        n[tri, 2] * b0 + n[tri, 5] * b1 + n[tri, 8] * b2,
    )
    ng = normalise(ng)
    # Where facets are needles their own normal is noise; the corners' is not.
    if dot(ns, ng) < F(0.1):
        ng = normalise(ns)
    return p, normalise(from_frame(world.turn, ns)), normalise(from_frame(world.turn, ng)), world.materials_of[place, world.part[tri]]


@helper
def absorbed(materials, m, distance):
    """Share (rgb) of light left after a distance in px inside the glass m (Beer-Lambert)."""
    p = materials.params
    return (math.exp(-p[m, 0] * distance), math.exp(-p[m, 1] * distance), math.exp(-p[m, 2] * distance))


@helper
def shadow(world, o, d, far, ground_too, stack):
    """Share (rgb) of a lamp's light that arrives along a ray past the letters and, if asked, the ground.

    Glass lets it through straight, tinted by the path inside and dimmed by Fresnel's factor at each
    side: light is not bent towards caustics, so that glass throws tinted shadows without noise.
    """
    one = (F(1.0), F(1.0), F(1.0))
    zero = (F(0.0), F(0.0), F(0.0))
    if ground_too:
        tg, _ = ground_hit(world.ground, o, d, far)
        if tg < far:
            return zero
    left = one
    left_far = far
    for _ in range(MOST_PANES):
        t, place, tri, b1, b2 = _in_letters(world, o, d, left_far, not world.has_glass, stack)
        if place < 0:
            return left
        if not world.has_glass:
            return zero
        p, ns, ng, m = surface_at(world, LETTER, o, d, t, place, tri, b1, b2)
        if world.materials.kind[m] != GLASS:
            return zero
        cos_i = abs(dot(ns, d))
        if dot(ng, d) > F(0.0):
            left = mul(left, absorbed(world.materials, m, t))
        reflected, _ = fresnel_dielectric(cos_i, world.materials.params[m, INDEX])
        left = scale(left, F(1.0) - reflected)
        o = offset_from(p, ng, d)
        left_far -= t
        if left_far <= F(0.0):
            return left
    return zero


@helper
def camera_ray(camera, x, y):
    """(origin, direction) of the ray through picture coordinates x (right), y (down)."""
    cx = x / camera.px_scale - camera.width * F(0.5)
    cy = camera.height * F(0.5) - y / camera.px_scale
    if camera.parallel:
        return (cx, cy, camera.stand), (F(0.0), F(0.0), F(-1.0))
    return (F(0.0), F(0.0), camera.stand), normalise((cx, cy, -camera.stand))


@helper
def facing(n, ng, wo):
    """The shading normal as seen from wo: never past the horizon, where it would turn black."""
    if dot(n, wo) > F(0.02):
        return n
    lifted = add(n, scale(wo, F(0.02) - dot(n, wo)))
    return normalise(lifted)
