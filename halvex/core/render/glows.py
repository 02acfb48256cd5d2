"""What glows, in a tree: light of what is near, large and turned to a place is chosen there more often.

A node of the tree knows in which box its triangles lie, how they are turned and how bright they are together.
Which leaf lights a place is chosen from the root down, each time between two nodes by how much they may send
there (Conty Estevez & Kulla, "Importance Sampling of Many Lights with Adaptive Tree Splitting", HPG 2018),
and which triangle of the leaf by area and light.
"""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import helper
from halvex.core.optics.vectors import F, add, dot

Array = NDArray[np.float64]

# Triangles of a leaf, and how many leaves there are at most.
LEAF, MOST_LEAVES = 4, 1 << 13
# Columns of a node: the middle of its box and its half sides; the mean of its triangles' normals, and the
# cosine of the widest angle between that and most of theirs; the share that it has of all light, and how much
# of its own comes from the middle of tubes (`shining`).
MIDDLE, HALF, AXIS, SPREAD, POWER, FOCUS, NODE_COLUMNS = 0, 3, 6, 9, 10, 11, 12
# Most triangles are turned less far apart than the two that are the farthest. Those that are turned farther
# than the second of these, in radians, count as turned all ways.
USUAL_SPREAD, WIDEST_SPREAD, ALL_WAYS = 0.7, 1.3, F(-1.0)
# A node is at least so far off, as a share of half its diagonal; and one that is turned away is still chosen
# now and then, in case rounding says that it is.
LEAST_DISTANCE, LEAST_FACING = F(0.1), F(0.003)


class Glowing(NamedTuple):
    """Triangles that shine, in the order of the tree: instance and triangle (g,), area (g,) in px²; `first`
    (leaves + 1,) of each leaf; nodes (2 · leaves, NODE_COLUMNS) in the lettering's frame, their light left
    out: the root is 1, the nodes below k are 2 k and 2 k + 1, the leaves come last."""

    instance: NDArray[np.int32]
    triangle: NDArray[np.int32]
    area: Array
    first: NDArray[np.int32]
    nodes: NDArray[np.float32]


class Glows(NamedTuple):
    """Triangles that shine: instance and triangle (g,), leaf (g,); share (g,), that of their leaf's light
    that those up to each have together; density (g,), the chance per px² to choose a place of it, once its
    leaf is chosen; first and nodes as in `Glowing`. The triangle t of instance i is found at
    number[before[i] + t - the instance's first], number (n,), before (i,). power: radiance times area of all
    together, in px²."""

    instance: np.ndarray
    triangle: np.ndarray
    leaf: np.ndarray
    share: np.ndarray
    density: np.ndarray
    first: np.ndarray
    nodes: np.ndarray
    number: np.ndarray
    before: np.ndarray
    power: np.float32


def in_tree(corners: Array, instance: NDArray[np.int32], triangle: NDArray[np.int32]) -> Glowing:
    """The tree of triangles with corners (g, 3, 3) in the lettering's frame."""
    leaves = min(1 << max((len(corners) // LEAF).bit_length() - 1, 0), MOST_LEAVES)
    first = np.arange(leaves + 1) * len(corners) // leaves
    order = _halved(corners.mean(axis=1), first)
    corners = corners[order]
    normal = 0.5 * np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(normal, axis=1)
    nodes = np.zeros((2 * leaves, NODE_COLUMNS))
    low, high, axis = (np.zeros((2 * leaves, 3)) for _ in range(3))
    low[leaves:] = np.minimum.reduceat(corners.min(axis=1), first[:-1])
    high[leaves:] = np.maximum.reduceat(corners.max(axis=1), first[:-1])
    axis[leaves:] = np.add.reduceat(normal, first[:-1])
    for level in _levels(leaves):
        low[level] = np.minimum(*_below(low, level))
        high[level] = np.maximum(*_below(high, level))
        axis[level] = np.add(*_below(axis, level))
    axis /= np.maximum(np.linalg.norm(axis, axis=1), 1e-30)[:, None]
    unit = normal / np.maximum(area, 1e-30)[:, None]
    leaf = np.repeat(np.arange(leaves), np.diff(first))
    # A triangle without area is turned nowhere.
    apart = np.where(area > 0, _angle(unit, axis[leaves:][leaf]), 0.0)
    spread = np.zeros(2 * leaves)
    spread[leaves:] = np.maximum.reduceat(apart, first[:-1])
    for level in _levels(leaves):
        one, other = (
            _angle(axis[level], below) + wide
            for below, wide in zip(_below(axis, level), _below(spread, level), strict=True)
        )
        spread[level] = np.minimum(np.maximum(one, other), math.pi)
    nodes[:, MIDDLE : MIDDLE + 3], nodes[:, HALF : HALF + 3] = (low + high) / 2, (high - low) / 2
    nodes[:, AXIS : AXIS + 3] = axis
    usual = USUAL_SPREAD * spread
    nodes[:, SPREAD] = np.where(usual < WIDEST_SPREAD, np.cos(usual), ALL_WAYS)
    return Glowing(
        instance[order].astype(np.int32),
        triangle[order].astype(np.int32),
        area,
        first.astype(np.int32),
        nodes.astype(np.float32),
    )


def _levels(leaves: int) -> list[slice]:
    """The nodes of each level above the leaves, the lowest first."""
    return [slice(1 << k, 2 << k) for k in range(leaves.bit_length() - 2, -1, -1)]


def _below(values: Array, level: slice) -> tuple[Array, Array]:
    """The values of both nodes below each of a level."""
    below = values[2 * level.start : 2 * level.stop]
    return below[::2], below[1::2]


def _angle(one: Array, other: Array) -> Array:
    return np.asarray(np.arccos(np.clip((one * other).sum(axis=1), -1.0, 1.0)))


def _halved(places: Array, first: NDArray[np.int64]) -> NDArray[np.int64]:
    """An order of places (n, 3) in which leaves that begin at `first` (leaves + 1,) are compact: all places,
    then each half of them, are halved across where they spread widest."""
    leaves = len(first) - 1
    order = np.arange(len(places))
    parts = 1
    while parts < leaves:
        cuts = first[:: leaves // parts]
        part = np.repeat(np.arange(parts), np.diff(cuts))
        low = np.minimum.reduceat(places[order], cuts[:-1])
        spread = np.maximum.reduceat(places[order], cuts[:-1]) - low
        widest = spread.argmax(axis=1)
        beyond = places[order, widest[part]] - low[np.arange(parts), widest][part]
        # One key for both: the part, and where in it.
        within = beyond / np.maximum(spread.max(axis=1), 1e-30)[part]
        order = order[np.argsort(part + 0.999 * within)]
        parts *= 2
    return order


def lit(
    glowing: Glowing,
    bright: Array,
    core: Array,
    begin: NDArray[np.int32],
    end: NDArray[np.int32],
) -> Glows:
    """The same with luminances and cores (g,), as of `shining`, some luminance more than 0; begin, end (i,)
    are the instances' first triangles and those after their last."""
    weight = glowing.area * bright / (glowing.area * bright).sum()
    leaves = len(glowing.first) - 1
    sums = np.zeros((2 * leaves, 2))
    sums[leaves:] = np.add.reduceat(np.column_stack([weight, weight * core]), glowing.first[:-1])
    for level in _levels(leaves):
        sums[level] = np.add(*_below(sums, level))
    nodes = glowing.nodes.copy()
    nodes[:, POWER] = sums[:, 0]
    nodes[:, FOCUS] = sums[:, 1] / np.maximum(sums[:, 0], 1e-30)
    leaf = np.repeat(np.arange(leaves), np.diff(glowing.first))
    of_leaf = sums[leaves:, 0][leaf]
    own = of_leaf * glowing.area
    up_to = np.cumsum(weight)
    share = (up_to - (up_to - weight)[glowing.first[:-1]][leaf]) / np.maximum(of_leaf, 1e-300)
    counts = np.zeros(len(begin), np.int64)
    shines = np.unique(glowing.instance)
    counts[shines] = (end - begin)[shines]
    before = np.cumsum(counts) - counts
    number = np.zeros(counts.sum(), np.int32)
    number[before[glowing.instance] + glowing.triangle - begin[glowing.instance]] = np.arange(len(weight))
    return Glows(
        glowing.instance,
        glowing.triangle,
        leaf.astype(np.int32),
        share.astype(np.float32),
        np.divide(weight, own, out=np.zeros(len(own)), where=own > 0).astype(np.float32),
        glowing.first,
        nodes,
        number,
        before.astype(np.int32),
        np.float32((glowing.area * bright).sum()),
    )


def no_glows() -> Glows:
    numbers, one = np.zeros(0, np.int32), np.zeros(1, np.int32)
    shares, rows = np.zeros(0, np.float32), np.zeros((2, NODE_COLUMNS), np.float32)
    return Glows(numbers, numbers, numbers, shares, shares, one, rows, numbers, numbers, np.float32(0.0))


@helper
def _less(sine_a, cosine_a, sine_b, cosine_b):
    """(Sine, cosine) of how much an angle a, up to 180°, is wider than b; of 0 where it is not."""
    if cosine_a >= cosine_b:
        return F(0.0), F(1.0)
    return sine_a * cosine_b - cosine_a * sine_b, cosine_a * cosine_b + sine_a * sine_b


@helper
def _sent(nodes, k, p):
    """About how much of its light node k sends to a point p (3,) of the lettering's frame."""
    to = (p[0] - nodes[k, MIDDLE], p[1] - nodes[k, MIDDLE + 1], p[2] - nodes[k, MIDDLE + 2])
    half = (nodes[k, HALF], nodes[k, HALF + 1], nodes[k, HALF + 2])
    way = (abs(to[0]), abs(to[1]), abs(to[2]))
    outside = (max(way[0] - half[0], F(0.0)), max(way[1] - half[1], F(0.0)), max(way[2] - half[2], F(0.0)))
    across, reach, off = add(way, half), dot(half, half), dot(to, to)
    near = max(dot(outside, outside), LEAST_DISTANCE * LEAST_DISTANCE * reach)
    # The mean of 1 / d² along a line that begins and ends so far off.
    light = nodes[k, POWER] / math.sqrt(max(near * dot(across, across), F(1e-30)))
    spread = nodes[k, SPREAD]
    if spread == ALL_WAYS or off <= reach:
        return light
    # Of the angle between the axis and p, what neither the triangles' turns nor their places make up for.
    inverse, axis = F(1.0) / math.sqrt(off), (nodes[k, AXIS], nodes[k, AXIS + 1], nodes[k, AXIS + 2])
    cosine = min(max(dot(to, axis) * inverse, F(-1.0)), F(1.0))
    sine, cosine = _less(
        math.sqrt(F(1.0) - cosine * cosine), cosine, math.sqrt(F(1.0) - spread * spread), spread
    )
    seen = reach * inverse * inverse
    _, cosine = _less(sine, cosine, math.sqrt(seen), math.sqrt(F(1.0) - seen))
    cosine, focus = max(cosine, F(0.0)), nodes[k, FOCUS]
    return light * max(cosine * (F(1.0) - focus + focus * cosine * cosine * cosine), LEAST_FACING)


@helper
def light_sent(glows, p):
    """About how much light all that glows sends to a point p (3,) of the lettering's frame."""
    return glows.power * _sent(glows.nodes, 1, p)


@helper
def _left_share(nodes, left, p):
    """How often the left of two nodes is chosen at a point."""
    one, other = _sent(nodes, left, p), _sent(nodes, left + 1, p)
    return one / (one + other) if one + other > F(0.0) else F(0.5)


@helper
def choose_leaf(glows, p, u):
    """(A leaf, chosen by the light that it may send to a point p (3,) of the lettering's frame; its chance;
    what is left of u, uniform again)."""
    nodes = glows.nodes
    leaves, k, chance = nodes.shape[0] >> 1, 1, F(1.0)
    while k < leaves:
        share = _left_share(nodes, 2 * k, p)
        if u < share:
            k, u, chance = 2 * k, u / share, chance * share
        else:
            k, u, chance = 2 * k + 1, (u - share) / (F(1.0) - share), chance * (F(1.0) - share)
        u = min(max(u, F(0.0)), F(0.99999994))
    return k - leaves, chance, u


@helper
def chance_of_leaf(glows, p, leaf):
    """The chance with which `choose_leaf` chooses a leaf."""
    nodes = glows.nodes
    k, chance = leaf + (nodes.shape[0] >> 1), F(1.0)
    while k > 1:
        left = _left_share(nodes, k & ~1, p)
        chance *= left if k & 1 == 0 else F(1.0) - left
        k >>= 1
    return chance
