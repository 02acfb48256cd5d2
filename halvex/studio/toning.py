"""Tones of a piece, and its light by tones, as the screen asks for them."""

from halvex.core.advice.light_by_tones import Solved, ToneError, light_by_tones
from halvex.core.advice.tones import Measured, measure
from halvex.core.piece import Piece, PieceError, to_json
from halvex.core.piece.resolving import resolve
from halvex.studio.assets import assets
from halvex.studio.edits import Edit


def measured_tones(piece: Piece) -> Measured:
    """A piece measured. Raises LetteringError, SolidError, SceneError."""
    return measure(resolve(piece, assets()))


def lit_by_tones(piece: Piece, wanted: dict[str, float]) -> tuple[Solved, list[Edit]]:
    """Light under which parts have these L*, and the edits that bring it. Raises PieceError for a part there
    is not, LetteringError, SolidError, SceneError."""
    if not wanted:
        raise PieceError("/tones", "name at least one part and its tone")
    try:
        solved = light_by_tones(resolve(piece, assets()), wanted)
    except ToneError as fault:
        raise PieceError("/tones", str(fault)) from None
    # Lamps that are off are no part of a resolved piece: they stay as they are.
    lit = {lamp.id for lamp in solved.light.lamps}
    dark = [lamp for lamp in piece.light.lamps if not lamp.on and lamp.id not in lit]
    light = solved.light.model_copy(update={"lamps": (*solved.light.lamps, *dark)})
    return solved, [Edit(op="replace", path="/light", value=to_json(light))]
