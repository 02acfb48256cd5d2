"""What of the letters a bundle of rays may meet, so that these need not be searched ray by ray.

Trees are laid out by tree.py; `scratch` is the calling thread's working memory (world.py).
"""

import numpy as np

from halvex.core.kernels import helper
from halvex.core.optics.eight import LANES
from halvex.core.optics.vectors import F, row3, sub
from halvex.core.render.frames import AT
from halvex.core.render.hits import FAR, SEARCH
from halvex.core.render.lanes import NODE_FLOATS
from halvex.core.render.traversal import in_frame_of, one_over, walk_body, walk_letters
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
def _list_leaf(asked, leaf, near, found, scratch, base):
    """Put a leaf into the list, which is sorted by distance."""
    far, count = found
    if count == MOST_LEAVES:
        return (far, np.int64(SEARCH)), True
    leaves, distance, i = scratch.leaves, np.int32(near), count
    while i > 0 and leaves[AT(i - 1), 0] > distance:
        for c in range(3):
            leaves[AT(i), c] = leaves[AT(i - 1), c]
        i -= 1
    leaves[AT(i), 0], leaves[AT(i), 1], leaves[AT(i), 2] = distance, asked, leaf
    return (far, count + 1), False


@helper
def _list_leaves(asked, i, near, found, scratch, base):
    world, ray, spread = asked
    letters = world.letters
    o, _, inverse = in_frame_of(letters, i, ray)
    wider = spread if letters.straight[AT(i)] != 0 else spread * letters.unit[AT(i)]
    found = walk_body(
        (letters.bodies.boxes, letters.bodies.child, letters.root[AT(i)], letters.bodies.packets),
        (o, inverse, wider),
        False,
        _list_leaf,
        np.int64(i),
        found,
        scratch,
        base,
    )
    return found, found[1] == SEARCH


@helper
def leaves_in_beam(world, o, d, spread, scratch):
    """List the leaves that rays no farther than `spread` px from (o, d) may meet, the nearest
    first: how many, or SEARCH for too many."""
    _, count = walk_letters(world, (o, d, spread), False, _list_leaves, spread, (FAR, np.int64(0)), scratch)
    return count
