"""Bounding volume trees: binned surface-area heuristic over boxes, eight children to a node.

One tree is built per distinct body, and a small one over the placed bodies. It is built with two
children to a node (Wald, IEEE RT 2007, for the binned build), then nodes are drawn together until
they have eight (Wald, Benthin & Boulos, IEEE RT 2008), which a ray tests at once (lanes.py).
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import allocating_kernel, exact_helper
from halvex.core.optics.eight import LANES
from halvex.core.render.lanes import NODE_FLOATS, eight_least, eight_least_spread, swap_eight

BINS = 8
# Below this level nodes are halved as they lie, so that no tree is deeper than this and the
# logarithm of its items: of two million it has 61 levels. A body's tree and that over the instances
# together fit STACK_DEPTH (world.py).
DEEPEST_SPLIT = 40
FAR = np.float32(3.0e38)
# Rays end far nearer than this; a box of nothing lies beyond it.
NOWHERE = np.float32(2.0e38)


class Tree(NamedTuple):
    """A tree of n nodes and m leaves over k items.

    boxes (n · NODE_FLOATS,) as lanes.py reads them; child (n · LANES,) int32: a node, or ~leaf;
    first, many (m,): a leaf's items in `order` (k,).
    """

    boxes: np.ndarray
    child: np.ndarray
    first: np.ndarray
    many: np.ndarray
    order: np.ndarray


def build_tree(low: NDArray[np.float32], high: NDArray[np.float32], leaf: int = LANES) -> Tree:
    """The tree over boxes low, high (n, 3), up to `leaf` items to a leaf."""
    boxes, child, items, order = _build(
        np.ascontiguousarray(low, np.float32), np.ascontiguousarray(high, np.float32), leaf
    )
    wide, children, first, many = _draw_together(boxes, child, items)
    return Tree(wide, children, first, many, order)


@allocating_kernel
def _draw_together(boxes, child, items):
    """Nodes of eight children from nodes of two: the child of the largest area is opened until
    there are eight."""
    n = len(child)
    wide_boxes = np.empty((n, NODE_FLOATS // LANES, LANES), np.float32)
    wide_child = np.zeros((n, LANES), np.int32)
    first, many = np.zeros(2 * n, np.int32), np.zeros(2 * n, np.int32)
    todo = np.empty((n, 2), np.int32)  # (node of two, node of eight)
    todo[0, :] = 0
    top, nodes, leaves = 1, 1, 0
    slots = np.empty((LANES, 2), np.int32)  # (node of two, side)
    while top > 0:
        top -= 1
        old, new = todo[top, 0], todo[top, 1]
        slots[:2, 0] = old
        slots[0, 1], slots[1, 1] = 0, 1
        count = 2
        while count < LANES:
            widest, most = -1, np.float32(-1.0)
            for k in range(count):
                node, side = slots[k, 0], slots[k, 1]
                if items[node, side] == 0 and child[node, side] >= 0:
                    area = _area(boxes[node, 6 * side : 6 * side + 6])
                    if area > most:
                        widest, most = k, area
            if widest < 0:
                break
            inner = child[slots[widest, 0], slots[widest, 1]]
            slots[widest, 0], slots[widest, 1] = inner, 0
            slots[count, 0], slots[count, 1] = inner, 1
            count += 1
        for k in range(LANES):
            wide_boxes[new, :, k] = NOWHERE
            wide_child[new, k] = -1
        used = 0
        for k in range(count):
            node, side = slots[k, 0], slots[k, 1]
            if items[node, side] == 0 and child[node, side] < 0:
                continue  # the empty side of a tree of one leaf
            wide_boxes[new, :, used] = boxes[node, 6 * side : 6 * side + 6]
            if items[node, side] > 0:
                wide_child[new, used] = ~leaves
                first[leaves], many[leaves] = ~child[node, side], items[node, side]
                leaves += 1
            else:
                wide_child[new, used] = nodes
                todo[top, 0], todo[top, 1] = child[node, side], nodes
                top += 1
                nodes += 1
            used += 1
    flat_boxes, flat_child = wide_boxes[:nodes].copy().reshape(-1), wide_child[:nodes].copy().reshape(-1)
    return flat_boxes, flat_child, first[:leaves].copy(), many[:leaves].copy()


@allocating_kernel
def _area(b):
    dx, dy, dz = b[3] - b[0], b[4] - b[1], b[5] - b[2]
    if dx < 0.0:
        return np.float32(0.0)
    return dx * dy + dy * dz + dz * dx


# While a tree is built, a box is a row of eight floats: its low corner, nothing, its high corner
# with the sign turned, nothing. The least of two rows, lane by lane, is then the box around both,
# and a box of nothing is FAR everywhere.
_HIGH = 4


@exact_helper
def _row_area(rows, r):
    dx = -rows[r + _HIGH] - rows[r]
    dy = -rows[r + _HIGH + 1] - rows[r + 1]
    dz = -rows[r + _HIGH + 2] - rows[r + 2]
    return dx * dy + dy * dz + dz * dx if dx >= np.float32(0.0) else np.float32(0.0)


@exact_helper
def _empty(rows, r):
    for k in range(LANES):
        rows[r + k] = FAR


@exact_helper
def _bin_scale(bounds, axis):
    extent = -bounds[LANES + _HIGH + axis] - bounds[LANES + axis]
    return np.float32(BINS) * np.float32(0.9999) / extent if extent > np.float32(0.0) else np.float32(0.0)


@exact_helper
def _bin_of(items, i, axis, low, scale):
    """The bin of item i along an axis: by twice its centre. Always one of the bins, whatever
    rounding makes of it."""
    b = int((items[LANES * i + axis] - items[LANES * i + _HIGH + axis] - low) * scale)
    return min(max(b, 0), BINS - 1)


@exact_helper
def _bounds(items, start, end, into):
    """The box around items[start:end] to the first row of `into`, that around twice their centres
    to the second."""
    _empty(into, 0)
    _empty(into, LANES)
    for i in range(start, end):
        eight_least(into, 0, items, LANES * i)
        eight_least_spread(into, LANES, items, LANES * i)


@exact_helper
def _fill_bins(items, start, end, bounds, bins, counts):
    """Sort items[start:end] into bins (3 · BINS rows) and counts (3 · BINS,) along all three axes
    in one pass."""
    sx, sy, sz = _bin_scale(bounds, 0), _bin_scale(bounds, 1), _bin_scale(bounds, 2)
    lx, ly, lz = bounds[LANES], bounds[LANES + 1], bounds[LANES + 2]
    for b in range(3 * BINS):
        counts[b] = 0
        _empty(bins, LANES * b)
    for i in range(start, end):
        bx = _bin_of(items, i, 0, lx, sx)
        by = _bin_of(items, i, 1, ly, sy) + BINS
        bz = _bin_of(items, i, 2, lz, sz) + 2 * BINS
        counts[bx] += 1
        counts[by] += 1
        counts[bz] += 1
        eight_least(bins, LANES * bx, items, LANES * i)
        eight_least(bins, LANES * by, items, LANES * i)
        eight_least(bins, LANES * bz, items, LANES * i)


@exact_helper
def _cheapest(bins, counts, n, box, right_area):
    """(axis, last bin to the left) of the cheapest cut between bins; axis -1 where all centres fall
    into one."""
    best, best_axis, best_bin = FAR, -1, 0
    for axis in range(3):
        first = axis * BINS
        _empty(box, 0)
        right = 0
        for b in range(BINS - 1, 0, -1):
            eight_least(box, 0, bins, LANES * (first + b))
            right += counts[first + b]
            right_area[b] = _row_area(box, 0) * right
        _empty(box, 0)
        left = 0
        for b in range(BINS - 1):
            eight_least(box, 0, bins, LANES * (first + b))
            left += counts[first + b]
            if left == 0 or left == n:
                continue
            cost = _row_area(box, 0) * left + right_area[b + 1]
            if cost < best:
                best, best_axis, best_bin = cost, axis, b
    return best_axis, best_bin


@exact_helper
def _partition(items, order, start, end, plane, lefts, rights):
    """Move what falls into bins up to the last one of a plane (axis, begin of the bins, their scale, last) to
    the front of items[start:end]; returns where the rest begins.

    `lefts` and `rights` get the bounds of the two halves, as `_bounds` would make them.
    """
    axis, low, scale, last = plane
    for row in range(0, 2 * LANES, LANES):
        _empty(lefts, row)
        _empty(rights, row)
    i, j = start, end - 1
    while i <= j:
        at = LANES * i
        if _bin_of(items, i, axis, low, scale) <= last:
            eight_least(lefts, 0, items, at)
            eight_least_spread(lefts, LANES, items, at)
            i += 1
            continue
        eight_least(rights, 0, items, at)
        eight_least_spread(rights, LANES, items, at)
        swap_eight(items, at, LANES * j)
        order[i], order[j] = order[j], order[i]
        j -= 1
    return i


@exact_helper
def _give_box(boxes, node, side, box):
    for k in range(3):
        boxes[node, 6 * side + k], boxes[node, 6 * side + 3 + k] = box[k], -box[_HIGH + k]


@exact_helper
def _hang(todo, at, start, end, node, side, level):
    """Put items[start:end] on the list of what is to be hung on one side of a node."""
    todo[at, 0], todo[at, 1], todo[at, 2], todo[at, 3], todo[at, 4] = start, end, node, side, level


@allocating_kernel
def _boxes_in_lanes(low, high):
    """Boxes low, high (n, 3) as rows of LANES: low corners, high ones negated, FAR in the other lanes."""
    items = np.full(max(len(low), 1) * LANES, FAR, np.float32)
    for i in range(len(low)):
        for k in range(3):
            items[LANES * i + k], items[LANES * i + _HIGH + k] = low[i, k], -high[i, k]
    return items


@allocating_kernel
def _build(low, high, leaf):
    """Nodes of two children over boxes low, high (n, 3): (boxes, child, count, order)."""
    n = len(low)
    items = _boxes_in_lanes(low, high)
    boxes = np.empty((max(n, 1), 12), np.float32)
    child = np.zeros((max(n, 1), 2), np.int32)
    count = np.zeros((max(n, 1), 2), np.int32)
    order = np.arange(n).astype(np.int32)
    bins, counts = np.empty(3 * BINS * LANES, np.float32), np.empty(3 * BINS, np.int64)
    box, right_area = np.empty(LANES, np.float32), np.empty(BINS, np.float32)
    # (start, end, the node and side to hang it on, the level), and the bounds of the same.
    todo, bounds = np.empty((2 * n + 4, 5), np.int64), np.empty((2 * n + 4, 2 * LANES), np.float32)
    todo[0] = (0, n, -1, 0, 0)
    _bounds(items, 0, n, bounds[0])
    top, nodes = 1, 0
    own, rights = np.empty(2 * LANES, np.float32), np.empty(2 * LANES, np.float32)
    while top > 0:
        top -= 1
        start, end, parent, side, level = todo[top, 0], todo[top, 1], todo[top, 2], todo[top, 3], todo[top, 4]
        for k in range(2 * LANES):
            own[k] = bounds[top, k]
        if parent >= 0:
            _give_box(boxes, parent, side, own)
        if end - start <= leaf:
            if parent < 0:
                # A tree of one leaf: its other child has an empty box that no ray meets.
                _give_box(boxes, 0, 0, own)
                boxes[0, 6:] = FAR
                child[0, 0], child[0, 1], count[0, 0], nodes = ~start, ~start, end - start, 1
            else:
                child[parent, side], count[parent, side] = ~start, end - start
            continue
        _fill_bins(items, start, end, own, bins, counts)
        axis, last = _cheapest(bins, counts, end - start, box, right_area)
        if axis >= 0 and level < DEEPEST_SPLIT:
            plane = axis, own[LANES + axis], _bin_scale(own, axis), last
            cut = _partition(items, order, start, end, plane, bounds[top], rights)
        else:
            # Items that all have one centre are halved as they lie, and those that are parted too unevenly.
            cut = start + (end - start) // 2
            _bounds(items, start, cut, bounds[top])
            _bounds(items, cut, end, rights)
        for k in range(2 * LANES):
            bounds[top + 1, k] = rights[k]
        if parent >= 0:
            child[parent, side] = nodes
        _hang(todo, top, start, cut, nodes, 0, level + 1)
        _hang(todo, top + 1, cut, end, nodes, 1, level + 1)
        nodes += 1
        top += 2
    return boxes[:nodes], child[:nodes], count[:nodes], order
