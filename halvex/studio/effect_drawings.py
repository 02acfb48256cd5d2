"""Small drawings of what an effect does: the piece's own picture, before it at the left and after it at the
right."""

from dataclasses import dataclass

import numpy as np

from halvex.core.finish.orders import DraftOrder, picture_size
from halvex.core.finish.picture import Picture, finish
from halvex.core.memory import Values
from halvex.core.piece import Piece, PieceError, to_json
from halvex.core.piece.digest import digest
from halvex.core.render.draft.sketch import Sketcher
from halvex.core.render.layers import RenderLayers
from halvex.core.render.work import shared_pool
from halvex.core.scene import Scene, scene_of
from halvex.studio.assets import assets


@dataclass(frozen=True)
class _Draft:
    """What all drawings of a piece are finished from: one draft serves them all."""

    scene: Scene
    layers: RenderLayers


_drafts: Values[_Draft] = Values()
# The line between before and after is white and so many px wide.
LINE_PX = 2


def effect_drawing(piece: Piece, number: str, width: int) -> Picture:
    """The picture of a piece, `width` px wide, without its effects from `number` on at the left, and with
    that one too at the right. Raises PieceError, LetteringError, SolidError, SceneError."""
    if not number.isdecimal() or int(number) >= len(piece.finish):
        raise PieceError("/finish", f"there is no effect {number}; the piece has {len(piece.finish)}")
    at = int(number)
    shown = piece.finish[at].model_copy(update={"on": True})
    draft = _draft(piece, width)
    scene, layers = draft.scene, draft.layers
    before, after = (
        finish(layers, scene.finish._replace(effects=scene.finish.effects[:at] + more), scene)
        for more in ((), (shown,))
    )
    middle = before.display.shape[1] // 2
    display = np.array(before.display)
    display[:, middle:] = after.display[:, middle:]
    display[:, middle - LINE_PX // 2 : middle + LINE_PX // 2] = 1.0
    return Picture(display, before.linear, None)


def _draft(piece: Piece, width: int) -> _Draft:
    # With all of them on, each finds what it asks for.
    whole = piece.model_copy(
        update={"finish": tuple(effect.model_copy(update={"on": True}) for effect in piece.finish)}
    )
    key = digest(to_json(whole)), width
    found = _drafts.find(key)
    if found is None:
        across, down, px_scale = picture_size(whole, DraftOrder(width=width))
        scene = scene_of(whole, px_scale=px_scale, assets=assets()).for_picture(across, down, px_scale)
        found = _Draft(scene, Sketcher().draw(scene, across, down, pool=shared_pool()))
        _drafts.put(key, found)
    return found
