"""What acts on a piece have in common: what one is, and how its value is checked."""

import math
import re
from collections.abc import Callable, Sequence
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from halvex.core.piece import Piece, PieceError
from halvex.core.piece.reading import first_fault

M = TypeVar("M", bound=BaseModel)
_IN_BLOCK = re.compile(r"/blocks/(\d{1,9})(?:/|$)")

# An act takes the piece, the piece before the gesture, the pointer and the value; it gives the new
# piece and its name in words.
Act = Callable[[Piece, Piece, str, Any], tuple[Piece, str]]


def checked(model: type[M], path: str, value: Any) -> M:
    try:
        return model.model_validate(value)
    except ValidationError as fault:
        first = first_fault(fault, value)
        raise PieceError(f"{path}{first.field}", first.remedy) from None


def numbers(value: Any, count: int) -> bool:
    """Whether a value is a list of so many finite numbers."""
    return (
        isinstance(value, list)
        and len(value) == count
        and all(isinstance(v, (int, float)) and not isinstance(v, bool) and math.isfinite(v) for v in value)
    )


def refuse_locked(path: str, locked: Sequence[bool]) -> None:
    """Raises PieceError if one of the blocks that an edit would change is locked."""
    if any(locked):
        raise PieceError(
            path,
            "this block is locked; unlock it first"
            if len(locked) == 1
            else "one of these blocks is locked; unlock it first",
        )


def refuse_locked_at(piece: Piece, path: str) -> None:
    """Raises PieceError if a pointer leads into a block that is locked."""
    found = _IN_BLOCK.match(path)
    if found and int(found[1]) < len(piece.blocks):
        refuse_locked(path, [piece.blocks[int(found[1])].locked])
