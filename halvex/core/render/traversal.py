"""The walk of a ray through a tree, the same for every question that rays ask.

Eight boxes are tested at once (lanes.py). What happens at a leaf is a function that the walk is given:
it is compiled into the walk, so that each question gets a loop of its own.
"""

import math

import numpy as np

from halvex.core.kernels import helper
from halvex.core.optics.eight import LANES
from halvex.core.optics.vectors import F, row3, sub
from halvex.core.render.frames import AT, into_body, to_frame
from halvex.core.render.lanes import (
    eight_boxes,
    lowest_bit,
    prefetch_children,
    prefetch_node,
    prefetch_packet,
)

TINY = F(1.0e-12)


@helper
def _inverse(x):
    return F(1.0) / (x if abs(x) > TINY else math.copysign(TINY, x))


@helper
def one_over(v):
    """One over each of three numbers; 0 counts as a tiny number."""
    return _inverse(v[0]), _inverse(v[1]), _inverse(v[2])


@helper
def pick(v, k):
    """v[k], without the memory round trip of a tuple indexed by a variable."""
    return v[0] if k == 0 else (v[1] if k == 1 else v[2])


@helper
def shear_of(d):
    """(kx, ky, kz, sx, sy, sz): axis order and shear that turn the ray into the z axis, for the
    watertight test."""
    ax, ay, az = abs(d[0]), abs(d[1]), abs(d[2])
    kz = 2
    if ax > ay and ax > az:
        kz = 0
    elif ay > az:
        kz = 1
    kx = kz + 1 if kz < 2 else 0
    ky = kx + 1 if kx < 2 else 0
    dz = pick(d, kz)
    if dz < F(0.0):
        kx, ky = ky, kx
    return kx, ky, kz, pick(d, kx) / dz, pick(d, ky) / dz, F(1.0) / dz


@helper
def bits_of(distance):
    """The bits of a distance: as whole numbers they are in the same order."""
    return np.int64(np.float32(distance).view(np.int32))


@helper
def push_children(scratch, top, tree, node, mask, nearest_first):
    """Put the children in `mask` on the stack, each under the bits of its distance: the nearest on top, or
    in no order. They begin to be read."""
    boxes, child, _, leaves = tree
    stack, bits, bottom = scratch.stack, scratch.bits, top
    while mask != 0:
        k = lowest_bit(mask)
        mask &= mask - 1
        below = child[AT(node * LANES + k)]
        if below >= 0:
            prefetch_node(boxes, below)
        else:
            prefetch_packet(leaves, ~below)
        entry = (np.int64(bits[AT(k)]) << 32) | (np.int64(below) & np.int64(0xFFFFFFFF))
        j = top
        while nearest_first and j > bottom and stack[AT(j - 1)] < entry:
            stack[AT(j)] = stack[AT(j - 1)]
            j -= 1
        stack[AT(j)] = entry
        top += 1
    return top


def _walk(tree, ray, nearest_first, at_leaf, asked, found, scratch, base):
    """What `at_leaf` finds in the leaves of a tree that a ray meets.

    tree: (boxes, child, root, leaves), a leaf being a row of packets, or an instance and no row; ray:
    (origin, one over the direction, how much wider boxes are); found: a tuple, first in it the distance at
    which the search ends. At each leaf the walk calls at_leaf(asked, leaf, near, found, scratch, base) for
    (found, whether that is all), `near` being the bits of the distance of its box and `base` where the stack
    is free.
    """
    boxes, child, root, _ = tree
    o, inverse, wider = ray
    stack, lanes, bits = scratch.stack, scratch.lanes, scratch.bits
    node, near, top = root, np.int64(0), base
    while True:
        if node < 0:
            found, over = at_leaf(asked, ~node, near, found, scratch, top)
            if over:
                return found
        else:
            prefetch_children(child, node)
            mask = eight_boxes(
                boxes, node, o[0], o[1], o[2], inverse[0], inverse[1], inverse[2], wider, found[0], lanes
            )
            if mask != 0 and mask & (mask - 1) == 0:
                k = lowest_bit(mask)
                node, near = child[AT(node * LANES + k)], np.int64(bits[AT(k)])
                continue
            top = push_children(scratch, top, tree, node, mask, nearest_first)
        # On to the nearest node that is left, past those that lie behind what was found.
        far = bits_of(found[0])
        while nearest_first and top > base and stack[AT(top - 1)] >> 32 >= far:
            top -= 1
        if top == base:
            return found
        top -= 1
        entry = stack[AT(top)]
        node, near = np.int32(entry), entry >> 32


# A leaf of the tree over instances is a body, which has a tree of its own: two compiled functions, since
# one cannot call itself.
walk_instances = helper(_walk)
walk_body = helper(_walk)


@helper
def in_frame_of(letters, i, ray):
    """A ray (origin, direction, one over it) of the lettering's frame in that of instance i's body."""
    o, d, inverse = ray
    o = sub(o, row3(letters.offset, AT(i)))
    if letters.straight[AT(i)] != 0:
        return o, d, inverse
    d = into_body(letters, i, d)
    return into_body(letters, i, o), d, one_over(d)


@helper
def walk_letters(world, ray, nearest_first, at_instance, asked, found, scratch):
    """`_walk` over the instances that a ray of the world meets.

    ray: (origin, direction, how much wider boxes are).
    at_instance is asked (world, ray, asked): the ray, in the lettering's frame, is (origin, direction, one
    over the direction).
    """
    letters = world.letters
    o, d, wider = ray
    lo, ld = to_frame(world.turn, o), to_frame(world.turn, d)
    inverse = one_over(ld)
    # An instance is no row of packets: what is read ahead for one is not asked for.
    return walk_instances(
        (letters.place_boxes, letters.place_child, np.int32(0), letters.place_boxes),
        (lo, inverse, wider),
        nearest_first,
        at_instance,
        (world, (lo, ld, inverse), asked),
        found,
        scratch,
        0,
    )
