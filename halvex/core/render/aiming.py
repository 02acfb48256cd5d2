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
# From so far off, squared, a lamp is a point; squares of distances must stay numbers.
VERY_FAR2 = F(1e20)


@helper
def is_aimed_at(lamps, k, p):
    """Whether a matt surface at p samples lamp k as `aimed` says, and only that way."""
    if lamps.kind[k] == SUN:
        return True
    to = sub(row3(lamps.centre, k), p)
    u, v = row3(lamps.u, k), row3(lamps.v, k)
    return dot(to, to) > FAR_ENOUGH * (dot(u, u) + dot(v, v))


@helper
def _sent(n, corner, least, middle2):
    """About what light from a corner is worth to a surface of normal n, its height being so much at least and
    the middle's distance, squared, middle2; that is 0 for light that comes evenly from all directions."""
    nearer = middle2 / dot(corner, corner) if middle2 > F(0.0) else F(1.0)
    return max(dot(n, corner), least) * nearer * nearer


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
    to = sub(row3(lamps.centre, k), p)
    middle2 = dot(to, to)
    if kind == SUN or middle2 > VERY_FAR2:
        return u1, u2, F(1.0)
    if kind == BULB:
        middle2 = F(0.0)
        to, _, wide = bulb_cone(row3(lamps.centre, k), lamps.size[k], p)
        u, v = basis(to)
        r = ON_RIM * math.sqrt(wide * (F(2.0) - wide))
        to, u, v = scale(to, F(1.0) - wide), scale(u, r), scale(v, r)
    else:
        r = ON_RIM if kind == ROUND else F(1.0)
        u, v = scale(row3(lamps.u, k), r), scale(row3(lamps.v, k), r)
    low, high = sub(to, v), add(to, v)
    a, b, c, d = sub(low, u), add(low, u), sub(high, u), add(high, u)
    least = LEAST_CORNER * max(max(dot(n, a), dot(n, b)), max(dot(n, c), dot(n, d)))
    if least <= F(0.0):
        return u1, u2, F(1.0)
    wa, wb = _sent(n, a, least, middle2), _sent(n, b, least, middle2)
    wc, wd = _sent(n, c, least, middle2), _sent(n, d, least, middle2)
    y = _rising(u2, wa + wb, wc + wd)
    left, right = wa + (wc - wa) * y, wb + (wd - wb) * y
    x = _rising(u1, left, right)
    return x, y, F(4.0) * (left + (right - left) * x) / (wa + wb + wc + wd)
