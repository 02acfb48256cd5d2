"""Place the highlight: where a lamp must stand for its reflection to fall on a spot of the lettering.

The sight line to the spot is mirrored at its surface (the angle of incidence is the angle of
reflection), and the lamp goes to where the mirrored line is as far from the lamp's aim as it now is.
"""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.vectors import F, kernel
from halvex.core.piece.light import Lamp
from halvex.core.piece.model import Piece
from halvex.core.render.hits import FAR, LETTER, camera_ray, facing, first_hit, surface_at
from halvex.core.render.work import scratch
from halvex.core.render.world import World, make_world
from halvex.core.scene import SceneError, build_scene
from halvex.core.scene.lamps import angles_of

Vector = NDArray[np.float64]


class Spot(NamedTuple):
    """A spot of the lettering that the camera sees: point (3,) in px, unit normal (3,), unit direction (3,) of the sight line."""

    point: Vector
    normal: Vector
    sight: Vector

    @property
    def mirrored(self) -> Vector:
        """Where the sight line goes on from here, unit (3,)."""
        return np.asarray(self.sight - 2 * (self.sight @ self.normal) * self.normal)


@kernel
def _spot(world, x, y, found, scratch):
    """Fill found (9,) with point, normal and sight line of the letter at (x, y) of the picture; returns whether there is one."""
    o, d = camera_ray(world.camera, F(x), F(y))
    kind, t, place, tri, b1, b2 = first_hit(world, o, d, FAR, scratch)
    if kind != LETTER:
        return False
    p, ns, ng, _ = surface_at(world, kind, o, d, t, place, tri, b1, b2)
    ns = facing(ns, ng, (-d[0], -d[1], -d[2]))
    for c in range(3):
        found[c], found[3 + c], found[6 + c] = p[c], ns[c], d[c]
    return True


def spot_at(world: World, x: float, y: float) -> Spot:
    """The spot of the lettering at (x, y) of the picture, px from its top left. Raises SceneError where there is none."""
    found = np.zeros(9, np.float32)
    if not _spot(world, F(x), F(y), found, scratch()):
        raise SceneError("there is no lettering at this spot; point at a letter")
    point, normal, sight = found.astype(float).reshape(3, 3)
    return Spot(point, normal / np.linalg.norm(normal), sight / np.linalg.norm(sight))


def lamp_for(lamp: Lamp, spot: Spot, turn: Vector) -> Lamp:
    """The lamp, moved about its aim so that its middle is mirrored at the spot; `turn` (3, 3) is the lettering's.

    Raises SceneError where the lamp is too near to its aim to get there.
    """
    fixed = turn if lamp.fixed_to == "lettering" else np.eye(3)
    aim = fixed @ np.array([lamp.aim.x, lamp.aim.y, lamp.aim.z])
    towards = spot.mirrored
    if lamp.kind != "sun":
        # |point + s · mirrored - aim| = distance, for the farther s.
        from_aim = spot.point - aim
        along = float(from_aim @ towards)
        beside = float(from_aim @ from_aim) - along * along
        left = lamp.distance**2 - beside
        if left <= 0 or math.sqrt(left) <= along:
            raise SceneError(f"the lamp is too near to its aim to be mirrored here; set its distance over {math.ceil(np.linalg.norm(from_aim))} px")
        towards = (from_aim + (math.sqrt(left) - along) * towards) / lamp.distance
    bearing, elevation = angles_of(fixed.T @ towards)
    return lamp.model_copy(update={"bearing": bearing, "elevation": elevation})


def place_highlight(piece: Piece, lamp_id: str, x: float, y: float) -> Lamp:
    """The lamp of a piece, moved so that its reflection is seen at (x, y) of the canvas, px from its top left.

    Raises SceneError, LetteringError, SolidError.
    """
    lamp = next((lamp for lamp in piece.light.lamps if lamp.id == lamp_id), None)
    if lamp is None:
        raise SceneError(f"there is no lamp “{lamp_id}”; take one of the piece's own")
    scene = build_scene(piece)
    return lamp_for(lamp, spot_at(make_world(scene), x, y), scene.turn)
