"""How much of each pixel an outline covers, exactly.

Signed areas are summed edge by edge and row by row, as rasterisers of type do: no samples, no steps.
"""

import itertools
import math
from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from halvex.core.kernels import kernel
from halvex.core.optics.vectors import F
from halvex.core.room import room

Array = NDArray[np.float32]


@kernel
def _sum_edges(edges, sums):
    """Add up what each edge (x0, y0, x1, y1) changes of coverage from one px to the next, sums (h, w + 2)."""
    h, w = sums.shape[0], sums.shape[1] - 2
    for n in range(edges.shape[0]):
        x0, y0, x1, y1 = edges[n, 0], edges[n, 1], edges[n, 2], edges[n, 3]
        if y0 == y1:
            continue
        way = 1.0
        if y0 > y1:
            x0, y0, x1, y1, way = x1, y1, x0, y0, -1.0
        slope = (x1 - x0) / (y1 - y0)
        if y0 < 0.0:
            x0, y0 = x0 - y0 * slope, 0.0
        y1 = min(y1, float(h))
        x = x0
        for y in range(int(y0), math.ceil(y1)):
            high = min(float(y + 1), y1) - max(float(y), y0)
            if high <= 0.0:
                continue
            beside = x + slope * high
            left, right = max(min(x, beside), 0.0), min(max(x, beside), float(w))
            x = beside
            left, right = min(left, float(w)), max(right, 0.0)
            change = high * way
            first = int(left)
            if right - float(first) <= 1.0:
                share = 1.0 - (0.5 * (left + right) - float(first))
                sums[y, first] += F(change * share)
                sums[y, first + 1] += F(change * (1.0 - share))
                continue
            # Over several px: from each to the next as the edge's area in it grows.
            per_px = 1.0 / (right - left)
            before = 0.0
            for i in range(first, math.ceil(right)):
                a, b = max(left, float(i)), min(right, float(i + 1))
                # To the right of the edge lies: a triangle in this px, and all of it above.
                passed = (b - left) * per_px
                inside = 0.5 * ((a - left) + (b - left)) * per_px * (b - a) + passed * (float(i + 1) - b)
                sums[y, i] += F(change * (inside - before))
                before = inside
            sums[y, math.ceil(right)] += F(change * (1.0 - before))


@kernel
def _add_up(sums, cover):
    for y in range(cover.shape[0]):
        total = F(0.0)
        for x in range(cover.shape[1]):
            total += sums[y, x]
            cover[y, x] = min(abs(total), F(1.0))


class Covered(NamedTuple):
    """Of a picture the rows and columns that hold an area, and the share of each px there that it covers."""

    rows: slice
    columns: slice
    share: Array


def coverage(
    area: shapely.Geometry, width: int, height: int, *, without: shapely.Geometry | None = None
) -> Array:
    """Share (height, width) of each px that polygons cover, in px from the upper left; without those that lie
    wholly within them."""
    edges, _ = _edges([area])
    if without is not None:
        # The other way about they take away.
        edges = np.concatenate([edges, _edges([without])[0][:, [2, 3, 0, 1]]])
    cover, (rows, columns) = room((height, width), zeroed=True), _box_of(edges, width, height)
    _fill(edges, rows, columns, cover[rows, columns])
    return cover


def coverages(areas: Sequence[shapely.Geometry], width: int, height: int) -> Iterator[Covered]:
    """The same of each of several areas, where it is."""
    edges, numbers = _edges(areas)
    ends = np.searchsorted(numbers, np.arange(len(areas) + 1))
    for begin, end in itertools.pairwise(ends):
        own = edges[begin:end]
        rows, columns = _box_of(own, width, height)
        share = room((rows.stop - rows.start, columns.stop - columns.start))
        _fill(own, rows, columns, share)
        yield Covered(rows, columns, share)


def _fill(edges: NDArray[np.float64], rows: slice, columns: slice, share: Array) -> None:
    """Fill in the shares (h, w) of the px in these rows and columns that polygons of edges (n, 4) cover."""
    sums = room((share.shape[0], share.shape[1] + 2), zeroed=True)
    _sum_edges(edges - (columns.start, rows.start, columns.start, rows.start), sums)
    _add_up(sums, share)


def _box_of(edges: NDArray[np.float64], width: int, height: int) -> tuple[slice, slice]:
    """The rows and columns of a picture that hold edges (n, 4); none without any."""
    if not len(edges):
        return slice(0, 0), slice(0, 0)
    points = edges.reshape(-1, 2)
    left, top = (int(v) for v in np.clip(np.floor(points.min(axis=0)), 0, (width, height)))
    right, bottom = (int(v) for v in np.clip(np.ceil(points.max(axis=0)), (left, top), (width, height)))
    return slice(top, bottom), slice(left, right)


def _edges(areas: Sequence[shapely.Geometry]) -> tuple[NDArray[np.float64], NDArray[np.intp]]:
    """The edges (n, 4) of the polygons in areas, around each the same way, around their holes the other, and
    of which area each is (n,)."""
    parts, area_of = shapely.get_parts(areas, return_index=True)
    polygons = shapely.get_type_id(parts) == shapely.GeometryType.POLYGON
    rings, part_of = shapely.get_rings(shapely.orient_polygons(parts[polygons]), return_index=True)
    points, ring_of = shapely.get_coordinates(rings, return_index=True)
    joined = ring_of[1:] == ring_of[:-1]
    number = area_of[polygons][part_of[ring_of[:-1][joined]]]
    return np.hstack([points[:-1][joined], points[1:][joined]]), number
