"""Placed outlines: what every kind of block is set into."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely

from halvex.core.lettering.outlines import Outline, Points, polygon_of
from halvex.core.piece.material import AnyMaterial

# left, bottom, right, top
Box = tuple[float, float, float, float]


@dataclass(frozen=True)
class PlacedOutline:
    """An outline in em, the size it is set at (px per em) and its origin in px from the block's place.

    `letter` is the number of its character in the words or of its part in the mark, -1 where there
    are none. A material or a depth of its own overrides the block's; `lift` px is how far its
    face stands before the face plane.
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
    def rings(self) -> list[Points]:
        """Its rings (n, 2) in px from the block's place."""
        return [ring * self.size + (self.x, self.y) for ring in self.outline.rings]

    @property
    def area(self) -> shapely.Geometry:
        """What it covers, in px from the block's place."""
        return polygon_of(self.rings)

    @cached_property
    def box(self) -> Box:
        """left, bottom, right, top in px from the block's place."""
        points = np.vstack(self.rings)
        (left, bottom), (right, top) = points.min(axis=0).tolist(), points.max(axis=0).tolist()
        return left, bottom, right, top


def union(boxes: Sequence[Box]) -> Box:
    """The box around boxes."""
    lefts, bottoms, rights, tops = zip(*boxes, strict=True)
    return min(lefts), min(bottoms), max(rights), max(tops)
