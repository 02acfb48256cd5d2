"""The ground's light without shadows, known at every eighth pixel of the picture and between them
on the mean.

A grid (rows, columns, lamps + 2, 3) holds the light of each lamp, of the surround, and what is met
of all of them in mirrors. Where the ground's colour is looked up pixel by pixel, (rows, columns, 2 · (lamps +
2), 3): first the same for a base of 1, less what a black base sends, then that of a black base.
"""

from halvex.core.kernels import helper, routine
from halvex.core.optics.vectors import F, add, along, mul, scale
from halvex.core.render.behind import with_flat_share
from halvex.core.render.camera_rays import seen_in_plane
from halvex.core.render.hits import FAR, ground_hit
from halvex.core.render.interaction import appearance, ground_surface, on_ground

# Cells from one place of the grid to the next, 2 × 2 px each.
GRID = 4
# What is left, on the whole, of lamps and of the surround on what is seen in a mirror or through
# glass: its shadows are not traced.
LAMPS_LEFT, SURROUND_LEFT = F(0.7), F(0.6)


@helper
def on_grid(grid, row, column, k):
    """Light k (rgb) at a place in cells, between those of the four places of the grid around it
    that have a ground; those without hold -1."""
    row = min(max(row * F(1.0 / GRID), F(0.0)), F(grid.shape[0]) - F(1.001))
    column = min(max(column * F(1.0 / GRID), F(0.0)), F(grid.shape[1]) - F(1.001))
    j, i = int(row), int(column)
    v, u = row - F(j), column - F(i)
    r, g, b, total = F(0.0), F(0.0), F(0.0), F(0.0)
    for corner in range(4):
        below, right = corner >> 1, corner & 1
        place = grid[j + below, i + right, k]
        if place[0] < F(0.0):
            continue
        share = (v if below else F(1.0) - v) * (u if right else F(1.0) - u)
        r += share * place[0]
        g += share * place[1]
        b += share * place[2]
        total += share
    return scale((r, g, b), F(1.0) / total) if total > F(0.0) else (r, g, b)


@helper
def _cell_of(camera, p):
    """(row, column) in cells of a point of the world on the picture."""
    across, up = seen_in_plane(camera, p)
    x = ((across - camera.shift[0]) * camera.zoom + camera.width * F(0.5)) * camera.px_scale
    y = (camera.height * F(0.5) - (up - camera.shift[1]) * camera.zoom) * camera.px_scale
    return (y - F(0.5)) * F(0.5), (x - F(0.5)) * F(0.5)


@routine
def ground_met(world, grid, o, d, t):
    """Light (rgb) of the ground that a mirrored or refracted ray meets at t; of what lies off the picture,
    that of its edge."""
    p = along(o, d, t)
    row, column = _cell_of(world.camera, p)
    lights = world.lamps.kind.shape[0] + 2
    light = on_grid(grid, row, column, lights - 1)
    if grid.shape[2] == lights:
        return light
    _, n = ground_hit(world.ground, o, d, FAR)
    si = ground_surface(world, on_ground(world.ground, o, d, t, n), n)
    base, si = appearance(world, si)
    light = add(mul(light, base), on_grid(grid, row, column, 2 * lights - 1))
    return with_flat_share(world, si.material, base, light)
