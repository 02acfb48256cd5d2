"""Placed outlines: what every kind of block is set into."""

from dataclasses import dataclass

import numpy as np

from halvex.core.lettering.outlines import Outline
from halvex.core.piece.material import AnyMaterial

# left, bottom, right, top
Box = tuple[float, float, float, float]


@dataclass(frozen=True)
class PlacedOutline:
    """An outline in em, the size it is set at (px per em) and its origin in px from the block's place.

    `letter` is the number of its character in the words or of its part in the mark, -1 where there are none. A material or
    a depth of its own goes before the block's; `lift` px is how far its face stands before the face plane.
    """

    outline: Outline
    size: float
    x: float
    y: float
    letter: int = -1
    material: AnyMaterial | None = None
    depth: float | None = None
    lift: float = 0.0

    @property
    def box(self) -> Box:
        """left, bottom, right, top in px from the block's place."""
        points = np.vstack(self.outline.rings) * self.size + (self.x, self.y)
        (left, bottom), (right, top) = points.min(axis=0).tolist(), points.max(axis=0).tolist()
        return left, bottom, right, top
