"""Cells, 2 × 2 px each: of which the light is computed, and from where it comes.

Each cell looks at one spot of each light, of a pattern of 4 × 4 that repeats: of any 4 × 4 cells, each has
another.
"""

from halvex.core.kernels import helper
from halvex.core.optics.material import GLASS
from halvex.core.render.draft.surfaces import sees_ground

PATTERN = 4


@helper
def spot(x, y):
    """Column and row of a cell's spot in the 4 × 4 pattern: none twice in any 4 × 4 cells.

    Cells of one colour of a chessboard have the spots of one colour: half the cells are spread as
    evenly as all.
    """
    return (x + 2 * ((y ^ (y >> 1)) & 1)) & 3, (y + 2 * (x & 1)) & 3


@helper
def left_out(x, y):
    """Whether nothing is computed of the ground at the cell (x, y), 2 × 2 px: every second one,
    like a chessboard."""
    return (x + y) & 1 == 1


@helper
def shows_ground(world, surfaces, y, x):
    """Whether the ground's light is computed where a cell's first pixel is: past the letters, and straight
    through glass at half as many, as rays to lights are dear there. Of any 4 × 4 cells, these have spots
    of which no two share a row or a column."""
    m = surfaces.material[y, x]
    if m < 0 or m == world.ground.material:
        return m >= 0
    row, column = y >> 1, x >> 1
    if column & 3 != 3 * (row & 1):
        return False
    return world.materials.kind[m] == GLASS and sees_ground(world, y, x)
