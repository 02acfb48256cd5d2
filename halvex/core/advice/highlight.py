"""Place the highlight: where a lamp must stand for its reflection to fall on a spot of the lettering.

The sight line to the spot is mirrored at its surface (the angle of incidence is the angle of
reflection), and the lamp goes to where the mirrored line is as far from the lamp's aim as it now is.
"""

import math

import numpy as np
from numpy.typing import NDArray

from halvex.core.assets import SHIPPED, Assets
from halvex.core.piece.light import Lamp
from halvex.core.piece.model import Piece
from halvex.core.render.assembling import make_world
from halvex.core.render.spots import Spot, spot_at
from halvex.core.scene import SceneError, scene_of
from halvex.core.scene.lamps import angles_of

Vector = NDArray[np.float64]


def lamp_for(lamp: Lamp, spot: Spot, turn: Vector) -> Lamp:
    """The lamp, moved about its aim so that its middle is mirrored at the spot; `turn` (3, 3) is
    the lettering's.

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
            raise SceneError(
                "the lamp is too near to its aim to be mirrored here; set its distance over "
                f"{math.ceil(np.linalg.norm(from_aim))} px"
            )
        towards = (from_aim + (math.sqrt(left) - along) * towards) / lamp.distance
    bearing, elevation = angles_of(fixed.T @ towards)
    return lamp.model_copy(update={"bearing": bearing, "elevation": elevation})


def place_highlight(piece: Piece, lamp_id: str, x: float, y: float, assets: Assets = SHIPPED) -> Lamp:
    """The lamp of a piece, moved so that its reflection is seen at (x, y) of the canvas, px from
    its top left.

    Raises SceneError, LetteringError, SolidError.
    """
    lamp = next((lamp for lamp in piece.light.lamps if lamp.id == lamp_id), None)
    if lamp is None:
        raise SceneError(f"there is no lamp “{lamp_id}”; take one of the piece's own")
    scene = scene_of(piece, assets=assets)
    return lamp_for(lamp, spot_at(make_world(scene), x, y), scene.turn)
