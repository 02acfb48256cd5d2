"""Shares: a piece lit by one of its lights alone; what glows still does.

Light adds up: all shares together make the picture.
"""

from halvex.core.piece.light import Lamp
from halvex.core.piece.model import Piece
from halvex.core.piece.reading import PieceError

# Surroundings this far down give nothing that could be seen.
DARK_STOPS = -30.0


def lit_by_lamp(piece: Piece, ident: str) -> Piece:
    """The piece lit by one lamp, which is on. Raises PieceError for a lamp there is not."""
    lamps = tuple(lamp.model_copy(update={"on": True}) for lamp in piece.light.lamps if lamp.id == ident)
    if not lamps:
        names = ", ".join(lamp.id for lamp in piece.light.lamps) or "there are none"
        raise PieceError("/light/lamps", f"there is no lamp “{ident}”; take one of: {names}")
    return _lit(piece, lamps, DARK_STOPS)


def lit_by_surroundings(piece: Piece) -> Piece:
    """The piece lit by its surroundings."""
    return _lit(piece, (), piece.light.surround.strength)


def _lit(piece: Piece, lamps: tuple[Lamp, ...], surroundings_stops: float) -> Piece:
    surround = piece.light.surround.model_copy(update={"strength": surroundings_stops})
    light = piece.light.model_copy(update={"lamps": lamps, "surround": surround})
    return piece.model_copy(update={"light": light})
