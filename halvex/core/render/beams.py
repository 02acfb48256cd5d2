"""What of the letters a bundle of rays may meet, so that these need not be searched ray by ray.

Trees are laid out by tree.py; `scratch` is the calling thread's working memory (world.py).
"""

import numpy as np

from halvex.core.kernels import helper
from halvex.core.optics.eight import LANES
from halvex.core.optics.vectors import F, row3, sub
from halvex.core.render.hits import AT, FAR, SEARCH, into_body, one_over, push_children, to_frame
from halvex.core.render.lanes import NODE_FLOATS, eight_boxes
from halvex.core.render.world import MOST_LEAVES


@helper
def _stretch(first, last, low, high, inverse_low, inverse_high, box_low, box_high):
    """The stretch first..last of the ways of a beam, less where they are all beside a box along one axis.

    low, high: where the beam starts; inverse_low, inverse_high: one over how far its edges run.
    """
    enters, leaves = (box_low - high) * inverse_high, (box_high - low) * inverse_low
    if inverse_high > F(0.0):
        first = max(first, enters)
    else:
        last = min(last, enters)
    if inverse_low > F(0.0):
        return first, min(last, leaves)
    return max(first, leaves), last


@helper
def _enters(boxes, at, low, high, a, b):
    """Whether ways of a beam, low..high at its start, one over how far its edges run a and b, may
    enter the box in a lane of a node."""
    first, last = _stretch(
        F(0.0), F(1.0), low[0], high[0], a[0], b[0], boxes[AT(at)], boxes[AT(at + 3 * LANES)]
    )
    first, last = _stretch(
        first, last, low[1], high[1], a[1], b[1], boxes[AT(at + LANES)], boxes[AT(at + 4 * LANES)]
    )
    first, last = _stretch(
        first, last, low[2], high[2], a[2], b[2], boxes[AT(at + 2 * LANES)], boxes[AT(at + 5 * LANES)]
    )
    return first <= last


@helper
def clear_of_letters(world, low, high, end_low, end_high, scratch):
    """Whether no straight way from a box low..high to a box end_low..end_high, in the lettering's
    frame, comes near a letter: enters a box at the root of its tree, or that of the whole letter
    where it is turned."""
    letters, stack = world.letters, scratch.stack
    a, b = one_over(sub(end_low, low)), one_over(sub(end_high, high))
    stack[0] = 0
    top = 1
    while top > 0:
        top -= 1
        node = np.int32(stack[AT(top)])
        for lane in range(LANES):
            if not _enters(letters.place_boxes, node * NODE_FLOATS + lane, low, high, a, b):
                continue
            child = letters.place_child[AT(node * LANES + lane)]
            if child >= 0:
                stack[AT(top)] = child
                top += 1
                continue
            if letters.straight[AT(~child)] == 0:
                return False
            shift, root = row3(letters.offset, AT(~child)), letters.root[AT(~child)]
            own_low, own_high = sub(low, shift), sub(high, shift)
            for own in range(LANES):
                if _enters(letters.bodies.boxes, root * NODE_FLOATS + own, own_low, own_high, a, b):
                    return False
    return True


@helper
def leaves_in_beam(world, o, d, spread, scratch):
    """List the leaves that rays no farther than `spread` px from (o, d) may meet, the nearest
    first: how many, or SEARCH for too many."""
    letters, leaves = world.letters, scratch.leaves
    stack, lanes, bits = scratch.stack, scratch.lanes, scratch.bits
    lo, ld = to_frame(world.turn, o), to_frame(world.turn, d)
    inverse = one_over(ld)
    found = 0
    stack[0] = 0
    top = 1
    while top > 0:
        top -= 1
        node = np.int32(stack[AT(top)])
        if node >= 0:
            mask = eight_boxes(
                letters.place_boxes,
                node,
                lo[0],
                lo[1],
                lo[2],
                inverse[0],
                inverse[1],
                inverse[2],
                spread,
                FAR,
                lanes,
            )
            top = push_children(stack, top, bits, letters.place_child, node, mask, True)
            continue
        instance, base = ~node, top
        own, own_inverse, wide = sub(lo, row3(letters.offset, AT(instance))), inverse, spread
        if letters.straight[AT(instance)] == 0:
            own, own_inverse = into_body(letters, instance, own), one_over(into_body(letters, instance, ld))
            wide = spread * letters.unit[AT(instance)]
        stack[AT(top)] = letters.root[AT(instance)]
        top += 1
        while top > base:
            top -= 1
            entry = stack[AT(top)]
            node = np.int32(entry)
            if node >= 0:
                mask = eight_boxes(
                    letters.bodies.boxes,
                    node,
                    own[0],
                    own[1],
                    own[2],
                    own_inverse[0],
                    own_inverse[1],
                    own_inverse[2],
                    wide,
                    FAR,
                    lanes,
                )
                top = push_children(stack, top, bits, letters.bodies.child, node, mask, True)
                continue
            if found == MOST_LEAVES:
                return SEARCH
            near, i = np.int32(entry >> 32), found
            while i > 0 and leaves[AT(i - 1), 0] > near:
                leaves[AT(i), 0], leaves[AT(i), 1], leaves[AT(i), 2] = (
                    leaves[AT(i - 1), 0],
                    leaves[AT(i - 1), 1],
                    leaves[AT(i - 1), 2],
                )
                i -= 1
            leaves[AT(i), 0], leaves[AT(i), 1], leaves[AT(i), 2] = near, instance, ~node
            found += 1
    return found
