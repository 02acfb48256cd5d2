"""Bounding volume trees: binned surface-area heuristic over boxes, two children to a node.

One tree is built per distinct body, and a small one over the placed bodies. A node keeps the boxes
of both its children, so that a ray fetches one node to test two boxes (Wald, IEEE RT 2007, for the
binned build).
"""

from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

BINS = 12
LEAF = 4
FAR = np.float32(3.0e38)


class Tree(NamedTuple):
    """boxes (n, 12): low xyz and high xyz of the left, then of the right child; child (n, 2): a node, or ~first of a leaf;
    items (n, 2): items of a leaf, 0 for a node; order: items in leaf order."""

    boxes: np.ndarray
    child: np.ndarray
    items: np.ndarray
    order: np.ndarray


def build_tree(low: NDArray[np.float32], high: NDArray[np.float32], leaf: int = LEAF) -> Tree:
    """The tree over boxes low, high (n, 3)."""
    low, high = np.ascontiguousarray(low, np.float32), np.ascontiguousarray(high, np.float32)
    return Tree(*_build(low, high, leaf))


@njit(cache=True, nogil=True)
def _area(b):
    dx, dy, dz = b[3] - b[0], b[4] - b[1], b[5] - b[2]
    if dx < 0.0:
        return np.float32(0.0)
    return dx * dy + dy * dz + dz * dx


@njit(cache=True, nogil=True)
def _grow(box, low, high):
    for k in range(3):
        box[k] = min(box[k], low[k])
        box[3 + k] = max(box[3 + k], high[k])


@njit(cache=True, nogil=True)
def _empty(box):
    for k in range(3):
        box[k], box[3 + k] = FAR, -FAR


@njit(cache=True, nogil=True)
def _split(low, high, middle, order, start, end, leaf):
    """Partition order[start:end]; returns the middle index, or -1 where a leaf is cheaper."""
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
        return -1 if n <= 4 * leaf else start + n // 2
    if n <= leaf and best >= _area(whole) * (n - np.float32(1.0)):
        return -1
    scale = np.float32(BINS) * np.float32(0.9999) / (cmax[best_axis] - cmin[best_axis])
    i, j = start, end - 1
    while i <= j:
        if int((middle[order[i], best_axis] - cmin[best_axis]) * scale) <= best_bin:
            i += 1
        else:
            order[i], order[j] = order[j], order[i]
            j -= 1
    return i


@njit(cache=True, nogil=True)
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
        if end - start > 1:
            cut = _split(low, high, middle, order, start, end, leaf)
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
