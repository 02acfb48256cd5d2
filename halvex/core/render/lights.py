"""Sampling what shines: lamps by area, the sun by its cone, the surround by its light.

Densities are per solid angle, so that lamp sampling and surface sampling can be weighed against each
other (Veach & Guibas, SIGGRAPH 1995). The surround counts as one more light after the lamps.
"""

import math

from halvex.core.optics.microfacet import PI
from halvex.core.optics.vectors import F, add, along, dot, helper, row3, scale, sub
from halvex.core.render.hits import FAR
from halvex.core.scene.lamps import ROUND, SUN
from halvex.core.scene.surround import from_uv, lookup, to_uv


@helper
def light_count(world):
    return world.lamps.kind.shape[0] + 1


@helper
def _disc(u1, u2):
    """A point on the unit disc (Shirley & Chiu's concentric map), which keeps strata together."""
    a, b = F(2.0) * u1 - F(1.0), F(2.0) * u2 - F(1.0)
    if a == F(0.0) and b == F(0.0):
        return F(0.0), F(0.0)
    if abs(a) > abs(b):
        r, phi = a, PI / F(4.0) * (b / a)
    else:
        r, phi = b, PI / F(2.0) - PI / F(4.0) * (a / b)
    return r * math.cos(phi), r * math.sin(phi)


@helper
def sample_lamp(lamps, k, p, u1, u2):
    """(direction, distance, radiance, pdf) towards a point of lamp k from p; pdf 0 behind the lamp."""
    zero = (F(0.0), F(0.0), F(0.0))
    kind = lamps.kind[k]
    centre, u, v = row3(lamps.centre, k), row3(lamps.u, k), row3(lamps.v, k)
    if kind == SUN:
        # Uniform over the cone: the sine of the half angle is the length of u.
        s2 = dot(u, u)
        cos_max = math.sqrt(max(F(1.0) - s2, F(0.0)))
        # 1 - cos without cancellation, for a cone of half a degree.
        height = s2 / (F(1.0) + cos_max) * u1
        r = math.sqrt(height * (F(2.0) - height))
        phi = F(2.0) * PI * u2
        inverse = F(1.0) / math.sqrt(s2)
        a, b = r * math.cos(phi) * inverse, r * math.sin(phi) * inverse
        d = add(scale(centre, F(1.0) - height), add(scale(u, a), scale(v, b)))
        return d, FAR, row3(lamps.radiance, k), F(1.0) / lamps.size[k]
    if kind == ROUND:
        a, b = _disc(u1, u2)
    else:
        a, b = F(2.0) * u1 - F(1.0), F(2.0) * u2 - F(1.0)
    q = add(centre, add(scale(u, a), scale(v, b)))
    to = sub(q, p)
    d2 = dot(to, to)
    distance = math.sqrt(d2)
    d = scale(to, F(1.0) / distance)
    cos_l = -dot(d, row3(lamps.normal, k))
    if cos_l <= F(1e-6):
        return d, distance, zero, F(0.0)
    return d, distance, row3(lamps.radiance, k), d2 / (cos_l * lamps.size[k])


@helper
def hit_lamp(lamps, k, o, d):
    """(distance or FAR, pdf that `sample_lamp` would have had) of a ray that meets lamp k's front."""
    kind = lamps.kind[k]
    centre, u, v, n = row3(lamps.centre, k), row3(lamps.u, k), row3(lamps.v, k), row3(lamps.normal, k)
    if kind == SUN:
        gap = sub(d, centre)
        s2 = dot(u, u)
        # |d - axis|² = 2(1 - cos) for unit vectors.
        inside = dot(gap, gap) * F(0.5) <= s2 / (F(1.0) + math.sqrt(max(F(1.0) - s2, F(0.0))))
        return (F(0.5) * FAR if inside else FAR), F(1.0) / lamps.size[k]
    cos_l = -dot(d, n)
    if cos_l <= F(1e-6):
        return FAR, F(0.0)
    t = -dot(sub(centre, o), n) / cos_l
    if t <= F(0.0):
        return FAR, F(0.0)
    q = sub(along(o, d, t), centre)
    a, b = dot(q, u) / dot(u, u), dot(q, v) / dot(v, v)
    inside = a * a + b * b <= F(1.0) if kind == ROUND else max(abs(a), abs(b)) <= F(1.0)
    if not inside:
        return FAR, F(0.0)
    return t, t * t / (cos_l * lamps.size[k])


@helper
def _find(cumulative, x):
    """Index i with cumulative[i] <= x < cumulative[i + 1]."""
    lo, hi = 0, cumulative.shape[0] - 1
    while hi - lo > 1:
        mid = (lo + hi) >> 1
        if cumulative[mid] <= x:
            lo = mid
        else:
            hi = mid
    return lo


@helper
def sample_surround(surround, u1, u2):
    """(direction, radiance, pdf) in proportion to the surround's light."""
    height, width = surround.image.shape[0], surround.image.shape[1]
    i = _find(surround.rows, u1)
    row_share = surround.rows[i + 1] - surround.rows[i]
    columns = surround.columns[i]
    j = _find(columns, u2)
    column_share = columns[j + 1] - columns[j]
    v = (F(i) + (u1 - surround.rows[i]) / row_share) / F(height)
    u = (F(j) + (u2 - columns[j]) / column_share) / F(width)
    d, sine = from_uv(u, v)
    pdf = row_share * F(height) * column_share * F(width) / (F(2.0) * PI * PI * max(sine, F(1e-6)))
    return d, lookup(surround.image, d), pdf


@helper
def surround_pdf(surround, d):
    height, width = surround.image.shape[0], surround.image.shape[1]
    u, v = to_uv(d)
    i = min(int(v * F(height)), height - 1)
    j = min(int(u * F(width)), width - 1)
    share = (surround.rows[i + 1] - surround.rows[i]) * (surround.columns[i, j + 1] - surround.columns[i, j])
    sine = math.sqrt(max(F(1.0) - d[1] * d[1], F(1e-12)))
    return share * F(height) * F(width) / (F(2.0) * PI * PI * sine)
