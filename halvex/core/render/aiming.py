"""Which spots of a lamp a matt surface samples: more often those that light it more.

A matt surface takes light by cosine and distance alone, which over a lamp that is not too near change almost
bilinearly. Spots chosen that way (Hart et al., "Practical product sampling by fitting and composing warps",
CGF 39(4), 2020) all bring nearly as much: what is not in shadow has almost no noise, and there is no need to
count lamps that scattered rays happen to meet, which had.
"""

import math

from halvex.core.kernels import helper
from halvex.core.optics.vectors import F, add, basis, dot, row3, scale, sub
from halvex.core.render.lights import bulb_cone
from halvex.core.scene.lamps import BULB, ROUND, SUN

# A corner counts at least this share of what the brightest does, as light does not end where a corner sets.
LEAST_CORNER = F(0.05)
# From how far on, in its half diagonals squared, a lamp's light is near enough to bilinear.
FAR_ENOUGH = F(2.25)
# Corners of the square lie on the rim of the disc.
ON_RIM = F(0.70710678)


@helper
def is_aimed_at(lamps, k, p):
    """Whether a matt surface at p samples lamp k as `aimed` says, and only that way."""
    if lamps.kind[k] == SUN:
        return True
    to = sub(row3(lamps.centre, k), p)
    u, v = row3(lamps.u, k), row3(lamps.v, k)
    return dot(to, to) > FAR_ENOUGH * (dot(u, u) + dot(v, v))


@helper
def _sent(n, corner, least, of_area):
    """What light from a corner is worth to a surface of normal n, its height being so much at least; of an
    even area of lamp, or else of directions."""
    inverse = F(1.0) / dot(corner, corner) if of_area else F(1.0)
    return max(dot(n, corner), least) * inverse * inverse


@helper
def _rising(u, a, b):
    """Where from 0 to 1 a share u of a density lies before it that changes evenly from a to b."""
    x = u * (a + b) / max(a + math.sqrt(a * a + u * (b * b - a * a)), F(1e-30))
    return min(x, F(0.99999994))


@helper
def aimed(lamps, k, p, n, u1, u2):
    """((u1, u2) moved to where more of lamp k's light on a matt surface at p with normal n comes from, the
    density of that)."""
    kind = lamps.kind[k]
    if kind == SUN:
        return u1, u2, F(1.0)
    if kind == BULB:
        to, _, wide = bulb_cone(row3(lamps.centre, k), lamps.size[k], p)
        u, v = basis(to)
        r = ON_RIM * math.sqrt(wide * (F(2.0) - wide))
        to, u, v = scale(to, F(1.0) - wide), scale(u, r), scale(v, r)
    else:
        r = ON_RIM if kind == ROUND else F(1.0)
        to, u, v = sub(row3(lamps.centre, k), p), scale(row3(lamps.u, k), r), scale(row3(lamps.v, k), r)
    low, high = sub(to, v), add(to, v)
    a, b, c, d = sub(low, u), add(low, u), sub(high, u), add(high, u)
    least = LEAST_CORNER * max(max(dot(n, a), dot(n, b)), max(dot(n, c), dot(n, d)))
    if least <= F(0.0):
        return u1, u2, F(1.0)
    card = kind != BULB
    wa, wb = _sent(n, a, least, card), _sent(n, b, least, card)
    wc, wd = _sent(n, c, least, card), _sent(n, d, least, card)
    y = _rising(u2, wa + wb, wc + wd)
    left, right = wa + (wc - wa) * y, wb + (wd - wb) * y
    x = _rising(u1, left, right)
    return x, y, F(4.0) * (left + (right - left) * x) / (wa + wb + wc + wd)
