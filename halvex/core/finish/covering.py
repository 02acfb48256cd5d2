"""How much of each pixel an outline covers, exactly.

Signed areas are summed edge by edge and column by column, as rasterisers of type do: no samples, no steps.
"""

import math
from collections.abc import Sequence
from typing import TypeAlias

import numpy as np
import shapely
from numpy.typing import NDArray

from halvex.core.kernels import kernel, routine
from halvex.core.optics.vectors import F
from halvex.core.room import room

Array = NDArray[np.float32]
# One area or several.
Polygons: TypeAlias = shapely.Geometry | Sequence[shapely.Geometry]


@routine
def cover_box(edges, ends, box, sums):
    """Fill sums, of which the first h · w are a box's, row by row, with the share of each px that is covered
    by what edges (x0, y0, x1, y1) from ends[0] to ends[1] - 1 go around; the two rows after these are working
    memory. Box: its left and top side, w and h, in px."""
    _sum_edges(edges, ends, box, sums)
    w, h = box[2], box[3]
    # Down the columns, as several are summed at once.
    for y in range(h):
        row, below = sums[y * w : (y + 1) * w], sums[(y + 1) * w : (y + 2) * w]
        for x in range(w):
            below[x] += row[x]
        for x in range(w):
            row[x] = min(abs(row[x]), F(1.0))


@routine
def _sum_edges(edges, ends, box, sums):
    """Fill the same with what the edges change of coverage from one px to the next below."""
    left_side, top_side, w, h = box
    for at in range((h + 2) * w):
        sums[at] = F(0.0)
    for n in range(ends[0], ends[1]):
        x0, y0 = edges[n, 0] - float(left_side), edges[n, 1] - float(top_side)
        x1, y1 = edges[n, 2] - float(left_side), edges[n, 3] - float(top_side)
        if x0 == x1:
            continue
        way = 1.0
        if x0 > x1:
            x0, y0, x1, y1, way = x1, y1, x0, y0, -1.0
        slope = (y1 - y0) / (x1 - x0)
        if x0 < 0.0:
            x0, y0 = 0.0, y0 - x0 * slope
        x1 = min(x1, float(w))
        y = y0
        for x in range(int(x0), math.ceil(x1)):
            wide = min(float(x + 1), x1) - max(float(x), x0)
            if wide <= 0.0:
                continue
            beside = y + slope * wide
            top, bottom = max(min(y, beside), 0.0), min(max(y, beside), float(h))
            y = beside
            top, bottom = min(top, float(h)), max(bottom, 0.0)
            change = wide * way
            first = int(top)
            if bottom - float(first) <= 1.0:
                share = 1.0 - (0.5 * (top + bottom) - float(first))
                sums[first * w + x] += F(change * share)
                sums[(first + 1) * w + x] += F(change * (1.0 - share))
                continue
            # Over several px: from each to the next as the edge's area in it grows.
            per_px = 1.0 / (bottom - top)
            before = 0.0
            for i in range(first, math.ceil(bottom)):
                a, b = max(top, float(i)), min(bottom, float(i + 1))
                # Below the edge lies: a triangle in this px, and all of it beside.
                passed = (b - top) * per_px
                inside = 0.5 * ((a - top) + (b - top)) * per_px * (b - a) + passed * (float(i + 1) - b)
                sums[i * w + x] += F(change * (inside - before))
                before = inside
            sums[math.ceil(bottom) * w + x] += F(change * (1.0 - before))


@kernel
def _fill(edges, ends, px, sums, cover):
    """Add the shares of the px of boxes (n, 4) that areas of edges, between two ends each, cover."""
    for n in range(px.shape[0]):
        left, top, w, h = px[n, 0], px[n, 1], px[n, 2], px[n, 3]
        cover_box(edges, (ends[n], ends[n + 1]), (left, top, w, h), sums)
        for y in range(h):
            row, own = sums[y * w :], cover[top + y, left:]
            for x in range(w):
                own[x] = min(own[x] + row[x], F(1.0))


def coverage(areas: Polygons, width: int, height: int, *, without: Polygons | None = None) -> Array:
    """Share (height, width) of each px that polygons cover, in px from the upper left; each without another,
    which lies wholly within it. Of areas that do not overlap, or one."""
    count = np.size(areas)
    edges, ends = edges_of(areas if without is None else np.append(areas, without))
    if without is not None:
        # The other way about they take away.
        edges[ends[count] :] = edges[ends[count] :, [2, 3, 0, 1]]
        area_of = np.repeat(np.arange(2 * count) % count, np.diff(ends))
        edges = edges[np.argsort(area_of, kind="stable")]
        ends = ends[: count + 1] + ends[count:] - ends[count]
    cover, px = room((height, width), zeroed=True), boxes_of(edges, ends, width, height)
    if len(px):
        _fill(edges, ends, px, room_for_sums(px), cover)
    return cover


def room_for_sums(px: NDArray[np.int64]) -> Array:
    """What `cover_box` fills for the largest of these boxes (n, 4)."""
    return room((int((px[:, 2] * (px[:, 3] + 2)).max()),))


def boxes_of(
    edges: NDArray[np.float64], ends: NDArray[np.intp], width: int, height: int
) -> NDArray[np.int64]:
    """The boxes (n, 4) within a picture that hold edges: of each stretch of them between two ends (n + 1,)
    the left and top side, the width and the height in px; of none 0. Raises ValueError for edges that end
    nowhere, of which kernels would make any place."""
    boxes = np.zeros((len(ends) - 1, 4), np.int64)
    some = np.flatnonzero(ends[:-1] < ends[1:])
    if len(some):
        low = np.minimum.reduceat(np.minimum(edges[:, :2], edges[:, 2:]), ends[some])
        high = np.maximum.reduceat(np.maximum(edges[:, :2], edges[:, 2:]), ends[some])
        if not (np.isfinite(low).all() and np.isfinite(high).all()):
            raise ValueError("an outline has a point that is nowhere")
        begin = np.clip(np.floor(low), 0, (width, height)).astype(np.int64)
        boxes[some, :2] = begin
        boxes[some, 2:] = np.clip(np.ceil(high), begin, (width, height)).astype(np.int64) - begin
    return boxes


def edges_of(areas: Polygons) -> tuple[NDArray[np.float64], NDArray[np.intp]]:
    """The edges (n, 4) of the polygons in areas, around each the same way, around their holes the other;
    where those of each area begin, and the last one's end."""
    parts, area_of = shapely.get_parts(areas, return_index=True)
    polygons = shapely.get_type_id(parts) == shapely.GeometryType.POLYGON
    rings, part_of = shapely.get_rings(shapely.orient_polygons(parts[polygons]), return_index=True)
    points, ring_of = shapely.get_coordinates(rings, return_index=True)
    joined = ring_of[1:] == ring_of[:-1]
    number = area_of[polygons][part_of[ring_of[:-1][joined]]]
    ends = np.searchsorted(number, np.arange(np.size(areas) + 1))
    return np.hstack([points[:-1][joined], points[1:][joined]]), ends
