"""Reading a piece from outside: text or JSON values in, a valid piece or one clear error out."""

import json
from typing import Any

from pydantic import ValidationError

from halvex.core.piece.model import FORMAT_VERSION, Piece, to_json
from halvex.core.piece.part import Part
from halvex.core.piece.source import DEFAULT_LAYER, LAYERED
from halvex.core.piece.varying import VARIED

LARGEST_DOCUMENT_BYTES = 2_000_000


class PieceError(ValueError):
    """A document that is no piece: `field` is the JSON Pointer of the first fault, the text the remedy."""

    def __init__(self, field: str, remedy: str):
        super().__init__(f"{field}: {remedy}" if field else remedy)
        self.field = field
        self.remedy = remedy


def piece_from_json(text: str | bytes) -> Piece:
    """Read a piece from JSON text. Raises PieceError."""
    if len(text) > LARGEST_DOCUMENT_BYTES:
        raise PieceError(
            "", f"the document is over {LARGEST_DOCUMENT_BYTES // 10**6} MB; no piece is that large"
        )
    try:
        values = json.loads(text, parse_constant=_refuse_constant)
    except PieceError:
        raise
    except (ValueError, RecursionError) as fault:
        raise PieceError("", f"this is not JSON: {fault}") from None
    return piece_from_values(values)


def values_of(piece: Piece, checked: Piece) -> dict[str, Any]:
    """The fields of a piece as plain JSON values, but for the parts that a piece which was `checked` has too:
    they are left as they are, and `piece_from_values` does not check them again."""
    held = [part if isinstance(part, tuple) else (part,) for part in vars(checked).values()]
    known = {id(part) for parts in held for part in parts}

    def plain(value: Any) -> Any:
        if isinstance(value, tuple | list):
            return [plain(part) for part in value]
        return to_json(value) if isinstance(value, Part) and id(value) not in known else value

    return {name: plain(value) for name, value in vars(piece).items()}


def piece_from_values(values: Any) -> Piece:
    """Check JSON values as a piece; parts among them are taken as checked. Raises PieceError."""
    if not isinstance(values, dict):
        raise PieceError("", "a piece is a JSON object; print one with `halvex demo NAME`")
    version = values.get("version", FORMAT_VERSION)
    if isinstance(version, int) and version > FORMAT_VERSION:
        raise PieceError(
            "/version",
            f"the piece has format version {version}, this Halvex reads up to "
            f"{FORMAT_VERSION}; update Halvex",
        )
    whole = _with_kinds(values)
    try:
        return Piece.model_validate(whole)
    except ValidationError as fault:
        raise first_fault(fault, whole) from None
    except (OverflowError, RecursionError) as fault:
        raise PieceError(
            "", f"the document holds a number or a nesting that no piece can have ({fault})"
        ) from None


def _with_kinds(values: dict[str, Any]) -> dict[str, Any]:
    """Blocks without a kind are lettering, and surroundings a studio."""
    whole = dict(values)
    blocks, light = values.get("blocks"), values.get("light")
    if isinstance(blocks, list):
        whole["blocks"] = [
            {"kind": "lettering", **block} if isinstance(block, dict) else block for block in blocks
        ]
    if isinstance(light, dict) and isinstance(light.get("surround"), dict):
        whole["light"] = {**light, "surround": {"kind": "studio", **light["surround"]}}
    return whole


def _steps(location: tuple[int | str, ...], values: Any) -> list[int | str]:
    """The steps of a fault's location that the document has: where a part is one of several kinds,
    pydantic adds the kind it tried, and what it tried of a source."""
    steps: list[int | str] = []
    at = values
    for number, step in enumerate(location):
        if isinstance(at, str | int | float):
            break
        # A metal has a field “metal”, in which nothing more can be.
        last = number == len(location) - 1
        tried = isinstance(at, dict) and step in (at.get("kind", DEFAULT_LAYER), LAYERED, VARIED)
        if tried and (step not in at or not (last or isinstance(at[step], dict | list))):
            continue
        steps.append(step)
        try:
            at = at[step]
        except (KeyError, IndexError, TypeError):
            at = None
    return steps


def first_fault(fault: ValidationError, values: Any = None) -> PieceError:
    """The first fault pydantic found in `values`, as one error with a JSON Pointer."""
    first = fault.errors(include_url=False, include_context=False)[0]
    pointer = "".join(f"/{step}" for step in _steps(first["loc"], values))
    message = str(first["msg"]).removeprefix("Value error, ")
    given = first.get("input")
    shown = (
        f" (it is {given!r:.60})"
        if isinstance(given, (int, float, str)) and first["type"] != "value_error"
        else ""
    )
    return PieceError(pointer, f"{message}{shown}")


def _refuse_constant(name: str) -> float:
    raise PieceError("", f"{name} is no number a piece can hold; use a finite number")
