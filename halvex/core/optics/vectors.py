"""Vectors in kernels: tuples of three float32, and colours with opacity, of four. They cost nothing and read
like the textbook."""

import math

import numpy as np
from numba.core.extending import intrinsic

from halvex.core.kernels import helper

F = np.float32


@helper
def add(a, b):
    return (a[0] + b[0], a[1] + b[1], a[2] + b[2])


@helper
def sub(a, b):
    return (a[0] - b[0], a[1] - b[1], a[2] - b[2])


@helper
def mul(a, b):
    return (a[0] * b[0], a[1] * b[1], a[2] * b[2])


@helper
def scale(a, s):
    return (a[0] * s, a[1] * s, a[2] * s)


@helper
def along(o, d, t):
    """The point o + t·d."""
    return (o[0] + d[0] * t, o[1] + d[1] * t, o[2] + d[2] * t)


@helper
def sub4(a, b):
    return (a[0] - b[0], a[1] - b[1], a[2] - b[2], a[3] - b[3])


@helper
def along4(o, d, t):
    """What `along` is of three."""
    return (o[0] + d[0] * t, o[1] + d[1] * t, o[2] + d[2] * t, o[3] + d[3] * t)


@helper
def mix4(a, b, share):
    """Between two, b by a share."""
    rest = F(1.0) - share
    return (
        a[0] * rest + b[0] * share,
        a[1] * rest + b[1] * share,
        a[2] * rest + b[2] * share,
        a[3] * rest + b[3] * share,
    )


@helper
def dot(a, b):
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


@helper
def cross(a, b):
    return (a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0])


@helper
def normalise(a):
    s = F(1.0) / math.sqrt(max(dot(a, a), F(1e-30)))
    return (a[0] * s, a[1] * s, a[2] * s)


@helper
def basis(n):
    """Two unit vectors that make a right-handed frame with n (Duff et al., JCGT 6(1), 2017)."""
    sign = math.copysign(F(1.0), n[2])
    a = F(-1.0) / (sign + n[2])
    b = n[0] * n[1] * a
    return (F(1.0) + sign * n[0] * n[0] * a, sign * b, -sign * n[0]), (b, sign + n[1] * n[1] * a, -n[1])


@helper
def to_world(v, s, t, n):
    return (
        v[0] * s[0] + v[1] * t[0] + v[2] * n[0],
        v[0] * s[1] + v[1] * t[1] + v[2] * n[1],
        v[0] * s[2] + v[1] * t[2] + v[2] * n[2],
    )


@helper
def to_local(v, s, t, n):
    return (dot(v, s), dot(v, t), dot(v, n))


@helper
def reflect(d, n):
    """Mirror direction d (towards the surface) about n."""
    k = F(2.0) * dot(d, n)
    return (d[0] - n[0] * k, d[1] - n[1] * k, d[2] - n[2] * k)


@helper
def luminance_of(c):
    return F(0.2126) * c[0] + F(0.7152) * c[1] + F(0.0722) * c[2]


@helper
def arc_tangent(y, x):
    """The angle of (x, y) from the x axis, to 1e-5 (Abramowitz & Stegun, 4.4.49): much faster than
    the library's, and enough to look up a sky."""
    ax, ay = abs(x), abs(y)
    a = min(ax, ay) / max(max(ax, ay), F(1e-30))
    s = a * a
    r = ((((F(0.0208351) * s - F(0.0851330)) * s + F(0.1801410)) * s - F(0.3302995)) * s + F(0.9998660)) * a
    if ay > ax:
        r = F(0.5 * math.pi) - r
    if x < F(0.0):
        r = F(math.pi) - r
    return -r if y < F(0.0) else r


@intrinsic
def floorf(typing, x):
    """The greatest whole number that is not above x, as a float of the same kind. `math.floor` is compiled to
    a call, before which all registers are put by; this is one instruction."""

    def code(context, builder, signature, given):
        return builder.call(builder.module.declare_intrinsic("llvm.floor", [given[0].type]), given)

    return x(x), code


@helper
def floor(x):
    """The greatest whole number that is not above x, of fewer than 31 bits, as an integer."""
    whole = np.int32(x)
    return whole - np.int32(1) if x < F(whole) else whole


@helper
def cosine_and_sine(turns):
    """(cos, sin) of an angle in full turns, to 1e-7, for angles of a few turns: least-squares
    polynomials over an eighth of a turn either way and the symmetries of the circle; no call
    either."""
    quarter = floor(F(4.0) * turns + F(0.5))
    x = turns - F(0.25) * F(quarter)
    z = x * x
    c = (((F(59.424236) * z - F(85.448822)) * z + F(64.939369)) * z - F(19.739208)) * z + F(1.0)
    s = (((F(-75.401840) * z + F(81.592545)) * z - F(41.341663)) * z + F(6.2831855)) * x
    odd = quarter & 1
    a, b = (s, c) if odd != 0 else (c, s)
    return (-a if (quarter + 1) & 2 != 0 else a), (-b if quarter & 2 != 0 else b)


@helper
def row4(rows, i):
    row = rows[i]
    return (row[0], row[1], row[2], row[3])


@helper
def row3(array, i):
    return (array[i, 0], array[i, 1], array[i, 2])
