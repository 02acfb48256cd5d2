"""Pictures that a stage has finished: an export of the same piece at the same size is one of them."""

from dataclasses import dataclass

from halvex.core.finish.picture import Picture, finish
from halvex.core.finish.plate import Seen
from halvex.core.memory import Values
from halvex.core.piece import Piece, to_json
from halvex.core.piece.digest import digest
from halvex.core.render.layers import RenderLayers
from halvex.core.scene.finish import Finish


@dataclass(frozen=True)
class Developed:
    """What a picture is finished from, over its backdrop."""

    layers: RenderLayers
    settings: Finish
    seen: Seen


_developed: Values[Developed] = Values()


def keep(piece: Piece, developed: Developed) -> None:
    """Keep what the picture of a piece is finished from; whoever shows it holds it."""
    height, width = developed.layers.light.shape[:2]
    _developed.put((digest(to_json(piece)), width, height), developed)


def find(piece: Piece, width: int, height: int) -> Picture | None:
    """The picture of a piece at a size in px, where a stage has finished it."""
    developed = _developed.find((digest(to_json(piece)), width, height))
    return None if developed is None else finish(developed.layers, developed.settings, developed.seen)
