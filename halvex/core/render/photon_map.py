"""Light that letters send to the ground, kept in a map of the ground.

A path from the camera finds what polished letters throw on a wall only where it happens to leave the wall
towards a letter that happens to mirror a lamp there. Photons run the other way (photons.py), and few of them
are lost (Jensen, "Global illumination using photon maps", EGWR 1996). The map holds light that met opaque
letters alone between a light and the ground; paths find all other light and leave this out (path.py).
"""

from typing import NamedTuple

import numpy as np

from halvex.core.kernels import helper
from halvex.core.optics.material import MATTE, PLASTIC
from halvex.core.optics.scattering import matte_leaving
from halvex.core.optics.vectors import F, add, dot, mul, scale
from halvex.core.render.direct import NONE_OF_IT, add_light_sample
from halvex.core.render.frames import AT
from halvex.core.render.lights import is_off, light_count

# The light of ground that its relief tilts, its normal's cosine to the true one being less than this, depends
# on where it comes from, which a map does not know.
LEVEL = F(0.9999)


class PhotonMap(NamedTuple):
    """Flux per px² that enters the ground's matte part, light (lights, rows, columns, 3), each light at 0
    stops and white; the middle of the first texel lies at (u, v) of the ground in px (`uv_on_ground`), and
    there are `per_px` of them to a px. Without texels nothing is mapped."""

    light: np.ndarray
    u: np.float32
    v: np.float32
    per_px: np.float32


def no_photons() -> PhotonMap:
    return PhotonMap(np.zeros((0, 0, 0, 3), np.float32), F(0), F(0), F(1))


@helper
def place_in_map(photons, uv):
    """(x, y) in texels of a point of the ground; the middle of the first is at (0, 0)."""
    return (uv[0] - photons.u) * photons.per_px, (uv[1] - photons.v) * photons.per_px


@helper
def is_mapped(world, photons, si):
    """Whether the map knows the light at a point of the ground."""
    x, y = place_in_map(photons, si.uv)
    rows, columns = photons.light.shape[1], photons.light.shape[2]
    if x < F(0.0) or y < F(0.0) or x >= F(columns - 1) or y >= F(rows - 1):
        return False
    kind = world.materials.kind[si.material]
    return kind in (MATTE, PLASTIC) and dot(si.ns, si.ng) > LEVEL


@helper
def mapped_light(world, pixel, beta, vertex, photons):
    """Light (rgb) from the map that the ground's matte part sends back along the path, added to the pixel's
    shares."""
    si, total = vertex.si, NONE_OF_IT
    x, y = place_in_map(photons, si.uv)
    column, row = int(x), int(y)
    x, y = x - F(column), y - F(row)
    leaving = matte_leaving(world.materials, si.material, vertex.base, vertex.lo)
    for k in range(light_count(world)):
        if is_off(world, k):
            continue
        upper = _between(photons.light[k, AT(row)], column, x)
        lower = _between(photons.light[k, AT(row + 1)], column, x)
        entering = add(scale(upper, F(1.0) - y), scale(lower, y))
        total = add(total, add_light_sample(world, pixel, k, beta, mul(leaving, entering)))
    return total


@helper
def _between(texels, column, x):
    """Texels of a row (columns, 3) mixed, x of the way from a column to the next."""
    one, other = texels[AT(column)], texels[AT(column + 1)]
    y = F(1.0) - x
    return one[0] * y + other[0] * x, one[1] * y + other[1] * x, one[2] * y + other[2] * x
