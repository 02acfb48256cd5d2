"""Functions of a value as tables."""

import numpy as np

from halvex.core.kernels import helper
from halvex.core.optics.vectors import F


@helper
def looked_up(table, value):
    """What a table over 0 to 1, its last entry twice, holds for a value, on a line between two of its
    entries; what lies outside is taken as the nearer end, NaN as 0."""
    place = (min(value, F(1.0)) if value > F(0.0) else F(0.0)) * F(table.shape[0] - 2)
    at = np.int32(place)
    low = table[np.uintp(at)]
    return low + (place - F(at)) * (table[np.uintp(at + 1)] - low)
