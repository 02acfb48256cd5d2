"""Acts on the paints of a piece: a colour made into a paint, a paint taken away, its tones, all paints
shifted."""

import re
from typing import Any

import jsonpointer
from pydantic import BaseModel, ConfigDict, Field

from halvex.core.piece import Piece, PieceError, piece_from_values, to_json
from halvex.core.piece.paints import NamedPaint, painted, references_in
from halvex.core.piece.part import PAINT_PREFIX
from halvex.studio.acting import Act, checked, refuse_locked_at
from halvex.studio.palette import fresh_id, shifted, with_tonal_set

PAINT = re.compile(r"/paints/(\d+)")
COLOUR = re.compile(r"#[0-9a-f]{6}")
LONGEST_NAME = 40


class Shift(BaseModel):
    """How all paints are shifted: lightness and hue are added, chroma is multiplied."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    lightness: float = Field(0, ge=-1, le=1)
    chroma: float = Field(1, ge=0, le=10)
    hue: float = Field(0, ge=-3600, le=3600)


def _paint(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    """Make the colour at a pointer a paint, which it then refers to."""
    refuse_locked_at(piece, path)
    name = value.strip() if isinstance(value, str) and value.strip() else "Paint"
    values = to_json(piece)
    colour = jsonpointer.resolve_pointer(values, path, None)
    if not isinstance(colour, str) or not COLOUR.fullmatch(colour):
        raise PieceError(path, "there is no colour of its own that could become a paint; write one first")
    ident = fresh_id(piece, name)
    values["paints"].append({"id": ident, "name": name[:LONGEST_NAME], "colour": colour})
    jsonpointer.set_pointer(values, path, f"{PAINT_PREFIX}{ident}")
    done = piece_from_values(values)
    if (path, ident) not in references_in(done):
        raise PieceError(path, "what stands there is no colour; name one")
    return done, f"Paint {name[:LONGEST_NAME]}"


def _paint_at(piece: Piece, path: str) -> NamedPaint:
    found = PAINT.fullmatch(path)
    if not found or int(found[1]) >= len(piece.paints):
        raise PieceError(path, "there is no such paint; name one of the piece's own")
    return piece.paints[int(found[1])]


def _unpaint(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    """Take a paint and its tones away; what referred to them keeps their colours."""
    paint = _paint_at(piece, path)
    gone = {other.id: other.colour for other in piece.paints if paint.id in (other.id, other.of)}
    left = painted(piece, gone)
    kept = tuple(other for other in piece.paints if other.id not in gone)
    return left.model_copy(update={"paints": kept}), f"Removed the paint {paint.name}"


def _tones(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    paint = _paint_at(piece, path)
    if paint.of is not None:
        raise PieceError(path, "a tone has no tones of its own; take those of its paint")
    return with_tonal_set(piece, paint), f"Tones of {paint.name}"


def _shift_paints(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    if path != "/paints":
        raise PieceError(path, "only all paints are shifted together; name /paints")
    shift = checked(Shift, path, value)
    return shifted(piece, shift.lightness, shift.chroma, shift.hue), "Shifted all paints"


PAINT_ACTS: dict[str, Act] = {
    "paint": _paint,
    "unpaint": _unpaint,
    "tones": _tones,
    "shift-paints": _shift_paints,
}
