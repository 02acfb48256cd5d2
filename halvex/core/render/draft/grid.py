"""The ground's light without shadows, known at every eighth pixel of the picture and between them
on the mean.

A grid (rows, columns, lamps + 2, 3) holds the light of each lamp, of the surround, and what is met
of all of them in mirrors. Where the ground's colour is looked up pixel by pixel, (rows, columns, 2 · (lamps +
2), 3): first the same for a base of 1, less what a black base sends, then that of a black base.
"""

from typing import NamedTuple

import numpy as np

from halvex.core.kernels import helper, routine
from halvex.core.optics.material import FLAT
from halvex.core.optics.vectors import F, add, along, mul, row3, scale
from halvex.core.render.behind import with_flat_share
from halvex.core.render.camera_rays import seen_in_plane
from halvex.core.render.hits import FAR, ground_hit
from halvex.core.render.interaction import appearance, ground_surface, on_ground

# Cells from one place of the grid to the next, 2 × 2 px each.
GRID = 4
# What is left, on the whole, of lamps and of the surround on ground that is seen in a mirror, or through
# glass where its shadows are not known.
LAMPS_LEFT, SURROUND_LEFT = F(0.7), F(0.6)


class GroundLight(NamedTuple):
    """What is known of the ground's light: without shadows, the grid; with them, spread, as `spread_ground`
    leaves it where the camera sees the ground, also through glass (ground.py)."""

    grid: np.ndarray
    spread: np.ndarray


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


@helper
def is_known(spread, row, column):
    """Whether there is light with shadows at all four corners around a place in cells."""
    # Before they become whole numbers: what a ray meets beside the camera has no place on the picture.
    if not (F(0.0) <= row < F(spread.shape[1] - 1) and F(0.0) <= column < F(spread.shape[2] - 1)):
        return False
    j, i = int(row), int(column)
    known = min(
        min(spread[0, j, i, 0], spread[0, j, i + 1, 0]),
        min(spread[0, j + 1, i, 0], spread[0, j + 1, i + 1, 0]),
    )
    return known >= F(0.0)


@helper
def _between_corners(image, row, column):
    """The mean (rgb) of the four corners around a place in cells, the near ones counting more."""
    j, i = int(row), int(column)
    v, u = row - F(j), column - F(i)
    above = add(scale(row3(image[j], i), F(1.0) - u), scale(row3(image[j], i + 1), u))
    below = add(scale(row3(image[j + 1], i), F(1.0) - u), scale(row3(image[j + 1], i + 1), u))
    return add(scale(above, F(1.0) - v), scale(below, v))


@routine
def ground_met(world, grid, o, d, t):
    """Light (rgb) of the ground that a ray meets at t, without its shadows; of what lies off the picture,
    that of its edge."""
    row, column = _cell_of(world.camera, along(o, d, t))
    lights = world.lamps.kind.shape[0] + 2
    light = on_grid(grid, row, column, lights - 1)
    if grid.shape[2] == lights:
        return light
    base, m = _base_met(world, o, d, t)
    return with_flat_share(world, m, base, add(mul(light, base), on_grid(grid, row, column, 2 * lights - 1)))


@helper
def _base_met(world, o, d, t):
    """(base (rgb), material) of the ground that a ray meets at t."""
    _, n = ground_hit(world.ground, o, d, FAR)
    base, si = appearance(world, ground_surface(world, on_ground(world.ground, o, d, t, n), n))
    return base, si.material


@routine
def ground_seen_past(world, ground, o, d, t):
    """The same through glass, with shadows where they are known (`GroundLight`)."""
    row, column = _cell_of(world.camera, along(o, d, t))
    # Corners of cells lie half a cell before their middles.
    y, x, spread = row + F(0.5), column + F(0.5), ground.spread
    if not is_known(spread, y, x):
        return ground_met(world, ground.grid, o, d, t)
    light = _between_corners(spread[0], y, x)
    if spread.shape[0] == 1:
        return light
    base, m = _base_met(world, o, d, t)
    flat = with_flat_share(world, m, base, (F(0.0), F(0.0), F(0.0)))
    if world.materials.kind[m] == FLAT:
        return flat
    light = add(mul(light, base), _between_corners(spread[1], y, x))
    return add(scale(light, world.backing.lit), mul(flat, _between_corners(spread[2], y, x)))
