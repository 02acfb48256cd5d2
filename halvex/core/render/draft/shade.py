"""The picture of a draft: light gathered at as few pixels as the surfaces' evenness allows."""

from halvex.core.optics.material import FLAT, GLASS, GLOW, METAL
from halvex.core.optics.textures import NO_TEXTURE
from halvex.core.optics.vectors import F, add, helper, kernel, mul, row3, scale
from halvex.core.render.draft.ground import ground_seen, is_dull_ground
from halvex.core.render.draft.lamplight import glow_light, lamp_light
from halvex.core.render.draft.mirrors import surroundings, through_glass
from halvex.core.render.draft.shadows import gather, neighbours
from halvex.core.render.draft.surfaces import MATERIAL
from halvex.core.render.hits import appearance, camera_ray, facing

# Pixels whose normals differ by less than about a quarter of a degree share their light.
ALIKE = F(0.99999)
# Between pixels whose normals differ by less than about eight degrees light is interpolated.
GENTLE = F(0.99)


@helper
def _alike(world, buffer, y, x, j, i):
    """Whether the pixels (y, x) and (j, i), side by side, see one plain, even surface, so that their light is all but the same."""
    if buffer[y, x, MATERIAL] != buffer[j, i, MATERIAL]:
        return False
    m = int(buffer[y, x, MATERIAL])
    if world.materials.kind[m] == GLASS or world.materials.texture[m] != NO_TEXTURE:
        return False
    a, b = buffer[y, x], buffer[j, i]
    if a[3] * b[3] + a[4] * b[4] + a[5] * b[5] < ALIKE:
        return False
    dx, dy, dz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
    off = dx * a[6] + dy * a[7] + dz * a[8]
    return off * off <= F(1e-3) * (dx * dx + dy * dy + dz * dz)


@helper
def _seen_at(world, buffer, seen, y, x, lamps, back, scratch):
    """Light (rgb) that the surface at pixel (y, x) sends to the camera, over the backdrop where that shows through."""
    m = int(buffer[y, x, MATERIAL])
    kind = world.materials.kind[m]
    if kind in (GLOW, FLAT):
        return (world.materials.params[m, 0], world.materials.params[m, 1], world.materials.params[m, 2])
    _, d = camera_ray(world.camera, F(x) + F(0.5), F(y) + F(0.5))
    pixel = buffer[y, x]
    p, ng = (pixel[0], pixel[1], pixel[2]), (pixel[6], pixel[7], pixel[8])
    if kind == GLASS:
        light, share = through_glass(world, p, (pixel[3], pixel[4], pixel[5]), ng, m, d, scratch)
        return add(light, mul(share, back))
    wo = (-d[0], -d[1], -d[2])
    bits = neighbours(buffer, seen.shape[0], seen.shape[1], y, x)
    base, ns = appearance(world, m, p, (pixel[3], pixel[4], pixel[5]))
    ns = facing(ns, ng, wo)
    # Metals have no use for how much of the sky they see: what they mirror is traced.
    open_sky = gather(buffer, seen, y, x, lamps, bits) if kind != METAL else (F(0.0), F(0.0), F(0.0))
    light = surroundings(world, p, ns, ng, d, m, base, open_sky, scratch)
    light = add(light, glow_light(world, p, ns, wo, m, base))
    for k in range(lamps):
        arriving = gather(buffer, seen, y, x, k, bits)
        if arriving[0] + arriving[1] + arriving[2] > F(0.0):
            light = add(light, mul(lamp_light(world, k, p, ns, ng, wo, m, base, 2), arriving))
    return light


@helper
def _between(world, buffer, y, x, j, i):
    """Whether the pixel lies on one plain, gently curved surface with those j rows and i columns to both its sides: its
    light is theirs, on the mean."""
    if y < j or x < i or y + j >= buffer.shape[0] or x + i >= buffer.shape[1]:
        return False
    a, b, c = buffer[y, x], buffer[y - j, x - i], buffer[y + j, x + i]
    if a[MATERIAL] != b[MATERIAL] or a[MATERIAL] != c[MATERIAL] or world.materials.texture[int(a[MATERIAL])] != NO_TEXTURE:
        return False
    if a[3] * b[3] + a[4] * b[4] + a[5] * b[5] < GENTLE or a[3] * c[3] + a[4] * c[4] + a[5] * c[5] < GENTLE:
        return False
    # Where a nearer part of the letter begins, depth leaps.
    dx, dy, dz = c[0] - b[0], c[1] - b[1], c[2] - b[2]
    off = dx * a[6] + dy * a[7] + dz * a[8]
    return off * off <= F(0.03) * (dx * dx + dy * dy + dz * dz)


@helper
def _shade_row(world, buffer, seen, spread, picture, y, sharing, back, scratch):
    """Shade every second pixel of a row, in turn with its neighbours like a chessboard, then those between.

    Where they lie on one surface, these take the mean of the two beside them; if `sharing`, all take that of the rows above
    and below, which are shaded already.
    """
    lamps, width = world.lamps.kind.shape[0], picture.shape[1]
    dull_ground = is_dull_ground(world, world.ground.material)
    for turn in range(2):
        for x in range((y + turn) & 1, width, 2):
            light, known = back, True
            if buffer[y, x, MATERIAL] < F(0.0):
                pass
            elif dull_ground and int(buffer[y, x, MATERIAL]) == world.ground.material:
                light = ground_seen(spread, y, x)
                known = light[0] >= F(0.0)
            elif sharing and _between(world, buffer, y, x, 1, 0):
                light = scale(add(row3(picture[y - 1], x), row3(picture[y + 1], x)), F(0.5))
            elif turn == 1 and x + 1 < width and _between(world, buffer, y, x, 0, 1):
                light = scale(add(row3(picture[y], x - 1), row3(picture[y], x + 1)), F(0.5))
            elif y & 1 == 1 and _alike(world, buffer, y, x, y - 1, x):
                light = row3(picture[y - 1], x)
            else:
                known = False
            if not known:
                light = _seen_at(world, buffer, seen, y, x, lamps, back, scratch)
            for c in range(3):
                picture[y, x, c] = light[c]


@kernel
def shade(world, buffer, seen, spread, picture, y0, y1, scratch):
    """Fill rows y0..y1-1 (y0 even) of picture (H, W, 3) with linear light over the backdrop: even rows, then those between."""
    back = (world.backdrop[0], world.backdrop[1], world.backdrop[2])
    for odd in range(2):
        for y in range(y0 + odd, y1, 2):
            _shade_row(world, buffer, seen, spread, picture, y, odd == 1 and y + 1 < y1, back, scratch)
