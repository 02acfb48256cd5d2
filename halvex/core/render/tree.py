"""Bounding volume trees: binned surface-area heuristic over boxes, eight children to a node.

One tree is built per distinct body, and a small one over the placed bodies. It is built with two
children to a node (Wald, IEEE RT 2007, for the binned build), then nodes are drawn together until
they have eight (Wald, Benthin & Boulos, IEEE RT 2008), which a ray tests at once (lanes.py).
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.vectors import allocating_kernel
from halvex.core.render.lanes import LANES, NODE_FLOATS

BINS = 12
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
    low, high = np.ascontiguousarray(low, np.float32), np.ascontiguousarray(high, np.float32)
    boxes, child, items, order = _build(low, high, leaf)
    wide, children, first, many = _draw_together(boxes, child, items)
    return Tree(wide, children, first, many, order)


@allocating_kernel
def _draw_together(boxes, child, items):
    """Nodes of eight children from nodes of two: the child of the largest area is opened until there are eight."""
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


@allocating_kernel
def _grow(box, low, high):
    for k in range(3):
        box[k] = min(box[k], low[k])
        box[3 + k] = max(box[3 + k], high[k])


@allocating_kernel
def _empty(box):
    for k in range(3):
        box[k], box[3 + k] = FAR, -FAR


@allocating_kernel
def _split(low, high, middle, order, start, end):
    """Partition order[start:end]; returns the middle index."""
    n = end - start
    cmin, cmax = np.full(3, FAR, np.float32), np.full(3, -FAR, np.float32)
    whole = np.empty(6, np.float32)
    _empty(whole)
    for i in range(start, end):
        item = order[i]
        for k in range(3):
            cmin[k] = min(cmin[k], middle[item, k])
            cmax[k] = max(cmax[k], middle[item, k])
        _grow(whole, low[item], high[item])
    best, best_axis, best_bin = FAR, -1, 0
    boxes = np.empty((BINS, 6), np.float32)
    counts = np.empty(BINS, np.int64)
    right_area = np.empty(BINS, np.float32)
    box = np.empty(6, np.float32)
    for axis in range(3):
        extent = cmax[axis] - cmin[axis]
        if extent <= np.float32(0.0):
            continue
        scale = np.float32(BINS) * np.float32(0.9999) / extent
        for b in range(BINS):
            _empty(boxes[b])
            counts[b] = 0
        for i in range(start, end):
            item = order[i]
            b = int((middle[item, axis] - cmin[axis]) * scale)
            counts[b] += 1
            _grow(boxes[b], low[item], high[item])
        _empty(box)
        right = 0
        for b in range(BINS - 1, 0, -1):
            _grow(box, boxes[b, :3], boxes[b, 3:])
            right += counts[b]
            right_area[b] = _area(box) * right
        _empty(box)
        left = 0
        for b in range(BINS - 1):
            _grow(box, boxes[b, :3], boxes[b, 3:])
            left += counts[b]
            if left == 0 or left == n:
                continue
            cost = _area(box) * left + right_area[b + 1]
            if cost < best:
                best, best_axis, best_bin = cost, axis, b
    if best_axis < 0:
        return start + n // 2
    scale = np.float32(BINS) * np.float32(0.9999) / (cmax[best_axis] - cmin[best_axis])
    i, j = start, end - 1
    while i <= j:
        if int((middle[order[i], best_axis] - cmin[best_axis]) * scale) <= best_bin:
            i += 1
        else:
            order[i], order[j] = order[j], order[i]
            j -= 1
    return i


@allocating_kernel
def _build(low, high, leaf):
    n = len(low)
    boxes = np.empty((max(n, 1), 12), np.float32)
    child = np.zeros((max(n, 1), 2), np.int32)
    count = np.zeros((max(n, 1), 2), np.int32)
    order = np.arange(n).astype(np.int32)
    middle = (low + high) * np.float32(0.5)
    # (start, end, the node and side to hang it on)
    todo = np.empty((2 * n + 4, 4), np.int64)
    todo[0] = (0, n, -1, 0)
    top = 1
    nodes = 0
    box = np.empty(6, np.float32)
    while top > 0:
        top -= 1
        start, end, parent, side = todo[top]
        cut = -1
        if end - start > leaf:
            cut = _split(low, high, middle, order, start, end)
        if cut < 0 and parent >= 0:
            child[parent, side] = ~start
            count[parent, side] = end - start
        else:
            node = nodes
            nodes += 1
            if parent >= 0:
                child[parent, side] = node
            if cut < 0:
                cut = end
            todo[top] = (start, cut, node, 0)
            todo[top + 1] = (cut, end, node, 1)
            for s in range(2):
                a, b = (start, cut) if s == 0 else (cut, end)
                _empty(box)
                for i in range(a, b):
                    _grow(box, low[order[i]], high[order[i]])
                boxes[node, 6 * s : 6 * s + 6] = box
            if cut == end:
                # A tree of one leaf: its other child has an empty box that no ray meets.
                child[node, 0], count[node, 0] = ~start, end - start
                child[node, 1], count[node, 1] = ~start, 0
                boxes[node, 6:] = FAR
            else:
                top += 2
    return boxes[:nodes], child[:nodes], count[:nodes], order
