"""Spots: what of the lettering the camera sees at a point of the picture."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import kernel
from halvex.core.optics.vectors import F
from halvex.core.references import by_reference
from halvex.core.render.camera_rays import camera_ray
from halvex.core.render.hits import FAR, LETTER, first_hit
from halvex.core.render.interaction import facing, surface_at
from halvex.core.render.work import scratch
from halvex.core.render.world import World
from halvex.core.scene import SceneError

Vector = NDArray[np.float64]


class Spot(NamedTuple):
    """A spot of the lettering that the camera sees: point (3,) in px, unit normal (3,), unit
    direction (3,) of the sight line."""

    point: Vector
    normal: Vector
    sight: Vector

    @property
    def mirrored(self) -> Vector:
        """The direction of the sight line after it is mirrored here, unit (3,)."""
        return np.asarray(self.sight - 2 * (self.sight @ self.normal) * self.normal)


@kernel
def _spot(world, x, y, found, scratch):
    """Fill found (9,) with point, normal and sight line of the letter at (x, y) of the picture;
    returns whether there is one."""
    world, scratch = by_reference(world), by_reference(scratch)
    o, d = camera_ray(world.camera, F(x), F(y))
    hit = first_hit(world, o, d, FAR, scratch)
    if hit.kind != LETTER:
        return False
    si = surface_at(world, o, d, hit)
    ns = facing(si.ns, si.ng, (-d[0], -d[1], -d[2]))
    for c in range(3):
        found[c], found[3 + c], found[6 + c] = si.p[c], ns[c], d[c]
    return True


def spot_at(world: World, x: float, y: float) -> Spot:
    """The spot of the lettering at (x, y) of the picture, px from its top left. Raises SceneError
    where there is none."""
    found = np.zeros(9, np.float32)
    if not _spot(world, F(x), F(y), found, scratch()):
        raise SceneError("there is no lettering at this spot; point at a letter")
    point, normal, sight = found.astype(float).reshape(3, 3)
    return Spot(point, normal / np.linalg.norm(normal), sight / np.linalg.norm(sight))
