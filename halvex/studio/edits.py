"""Edits: small changes to a piece, checked as a whole before they count.

An edit is a JSON Patch operation (RFC 6902: replace, add, remove); or `enter`: what a person typed
into a field of a number, with units and arithmetic, or of a colour, in a notation of CSS; or one of the
acts of acts.py.
"""

import re
from collections.abc import Iterator
from contextlib import contextmanager
from copy import deepcopy
from typing import Annotated, Any, Literal

import jsonpatch
import jsonpointer
from jsonpatch import JsonPatchException
from jsonpointer import JsonPointerException
from pydantic import BaseModel, ConfigDict, Field

from halvex.core.lettering import LetteringError
from halvex.core.lettering.retyping import carried
from halvex.core.optics.typed_colour import ColourError, typed_colour
from halvex.core.piece import Piece, PieceError, piece_from_values, to_json
from halvex.core.piece.lettering import Lettering, LetterSetting
from halvex.core.piece.part import PAINT_PREFIX, Part
from halvex.core.piece.quantity import QuantityError, parse_quantity, px_per_unit
from halvex.core.piece.reading import values_of
from halvex.core.solids import SolidError
from halvex.studio.acting import refuse_locked
from halvex.studio.acts import ACTS, act
from halvex.studio.palette import toned_anew

CANVAS_SIDES = ("/canvas/width", "/canvas/height")
LETTERING_WORDS = re.compile(r"/blocks/\d+/words")
AXIS = re.compile(r"/blocks/\d+/(?:axes|features)/\w{4}")
# What may be changed of a locked block.
LOCKED_BLOCK = re.compile(r"/blocks/(\d+)(?!/(?:locked|hidden|guide|group)$)(/|$)")
SWITCHES = {
    "hidden": ("Hid a block", "Showed a block"),
    "guide": ("Took a block as a guide", "Took a block into the picture"),
    "locked": ("Locked a block", "Unlocked a block"),
    "group": ("Grouped blocks", "Ungrouped blocks"),
}
# What the lists of a document hold, as the history calls one that is added or taken away.
LISTED = {
    "lamps": "a lamp",
    "blocks": "a block",
    "strokes": "a stroke",
    "layers": "a layer",
    "stops": "a stop",
    "paints": "a paint",
    "finish": "an effect",
}
INDEX = re.compile(r"[0-9]{1,9}")
COLOUR = re.compile(rf"#[0-9a-f]{{6}}|{PAINT_PREFIX}[a-z0-9-]+")
LETTER_NUMBER = re.compile(r"(/blocks/\d+/letters)/(\d+)/")

Pointer = Annotated[str, Field(pattern=r"^(/[^/]*)+$", max_length=200)]


class Edit(BaseModel):
    """One operation on the document.

    `value` is what `replace` and `add` put there, the text of `enter`, [x, y, z] in px of `stand`,
    the canvas of `recut`, [across, up] in px of `shift`, the factor of `scale`, the degrees of
    `turn`, the place in the list of `reorder`, an arrangement (blocks, how, to) of `arrange`, the
    id of the drawn strokes of `follow`, which blocks (blocks, together) of `group`, the id or the values of
    the block whose `look` is taken, the picture that is to `cover` a block's face, the part whose colour
    another takes (`colour-as`), the lamp's `kind`,
    [x, y] in px of the canvas from its top left of `highlight`, the `setup` (name, follows). `alone`
    switches all lamps but one off, or all on where they are. The name of the `paint` that the colour at
    the pointer becomes; `unpaint` takes a paint away, `tones` adds those of one, `shift-paints` is by
    lightness, chroma and hue; the two ends of a gradient to `lay-along`.
    """

    model_config = ConfigDict(extra="forbid")

    op: Literal[
        "replace",
        "add",
        "remove",
        "enter",
        "stand",
        "recut",
        "shift",
        "scale",
        "turn",
        "reorder",
        "arrange",
        "follow",
        "group",
        "look",
        "cover",
        "colour-as",
        "kind",
        "highlight",
        "alone",
        "setup",
        "paint",
        "unpaint",
        "tones",
        "shift-paints",
        "lay-along",
    ]
    path: Pointer
    value: Any = None


def apply_edits(piece: Piece, edits: list[Edit], since: Piece | None = None) -> tuple[Piece, str]:
    """The edited piece and a label for the history, in words. Raises PieceError; nothing is changed then.

    `since` is the piece before the gesture that the edits go on with: what was set for single
    letters is carried over from its words, so that deleting a word and typing it again loses
    nothing.
    """
    begun = piece if since is None else since
    if all(edit.op in ACTS for edit in edits):
        # The hand drags: nothing needs to become plain values in between.
        done, label = _acted(piece, edits, begun)
        return toned_anew(done), label
    values = values_of(piece, checked=piece)
    labels = []
    for edit in edits:
        if edit.op in ACTS:
            done, label = _acted(piece_from_values(values), [edit], begun)
            values = values_of(done, checked=done)
        else:
            with _naming(edit.path):
                values, label = _patched(values, edit, piece, begun)
        labels.append(label)
    return toned_anew(piece_from_values(values)), "; ".join(dict.fromkeys(labels))


@contextmanager
def _naming(path: str) -> Iterator[None]:
    """Turn whatever a value that does not fit brings about into one error that names the field."""
    try:
        yield
    except (PieceError, LetteringError, SolidError):
        raise
    except (
        JsonPatchException,
        JsonPointerException,
        LookupError,
        TypeError,
        AttributeError,
        ValueError,
        ArithmeticError,
        RecursionError,
    ) as fault:
        raise PieceError(
            path,
            f"there is nothing to change here, or the value does not fit ({fault!s:.80}); reload the piece",
        ) from None


def _patched(values: dict[str, Any], edit: Edit, piece: Piece, begun: Piece) -> tuple[dict[str, Any], str]:
    """The document after one operation of JSON Patch, or one entry, and the edit in words."""
    _make_plain(values, edit.path)
    refuse_locked(edit.path, [_is_locked(values, edit.path)])
    field = field_at(piece, edit.path)
    operation = edit.op
    value = edit.value
    if operation == "enter":
        operation = "replace"
        old = str(jsonpointer.resolve_pointer(values, edit.path, None))
        value = _colour_entered(piece, edit) if COLOUR.fullmatch(old) else _entered(piece, edit, field)
    _give_letter_a_setting(values, edit.path)
    if operation == "replace" and AXIS.fullmatch(edit.path):
        # An axis that was never set has no value to replace.
        operation = "add"
    before = jsonpointer.resolve_pointer(values, edit.path, None)
    patch = [{"op": operation, "path": edit.path, "value": deepcopy(value)}]
    values = jsonpatch.apply_patch(values, patch, in_place=True)
    if LETTERING_WORDS.fullmatch(edit.path):
        _carry_letters(values, edit.path, before, begun)
    done = "replace" if AXIS.fullmatch(edit.path) else operation
    return values, _label(edit.path, done, {**field, "of": _letter_named(values, edit.path)}, before, value)


def _acted(piece: Piece, edits: list[Edit], begun: Piece) -> tuple[Piece, str]:
    labels = []
    for edit in edits:
        with _naming(edit.path):
            piece, label = act(edit.op, piece, begun, edit.path, edit.value)
        labels.append(label)
    return piece, "; ".join(dict.fromkeys(labels))


def _make_plain(values: dict[str, Any], path: str) -> None:
    """Make plain values of the part of a document that a path leads to or into, if they are not yet."""
    name, *rest = path.removeprefix("/").split("/", 2)
    if name not in values:
        return
    held = values[name]
    if not isinstance(held, list):
        values[name] = _plain(held)
    elif rest and INDEX.fullmatch(rest[0]) and int(rest[0]) < len(held):
        held[int(rest[0])] = _plain(held[int(rest[0])])
    elif not rest:
        values[name] = [_plain(part) for part in held]


def _plain(value: Any) -> Any:
    return to_json(value) if isinstance(value, Part) else value


def _is_locked(values: dict[str, Any], path: str) -> bool:
    """Whether the path leads to what may not be changed of a locked block."""
    found = LOCKED_BLOCK.match(path)
    block = jsonpointer.resolve_pointer(values, f"/blocks/{found[1]}", None) if found else None
    return isinstance(block, dict) and bool(block.get("locked"))


def _give_letter_a_setting(values: dict[str, Any], path: str) -> None:
    """A letter that is set for the first time has a setting to change."""
    found = LETTER_NUMBER.match(path)
    letters = jsonpointer.resolve_pointer(values, found[1], None) if found else None
    if found and isinstance(letters, dict):
        letters.setdefault(found[2], LetterSetting().model_dump())


def _carry_letters(values: dict[str, Any], path: str, before: Any, since: Piece) -> None:
    block = jsonpointer.resolve_pointer(values, path.removesuffix("/words"))
    old = next((b for b in since.blocks if b.id == block.get("id") and isinstance(b, Lettering)), None)
    words, letters = (old.words, old.letters) if old else (before, {})
    if isinstance(words, str) and isinstance(block["words"], str):
        block["letters"] = {
            str(at): setting.model_dump() for at, setting in carried(letters, words, block["words"]).items()
        }


def field_at(piece: Piece, path: str) -> dict[str, Any]:
    """Title, unit and type of the field a pointer names; empty where it names no field."""
    here: Any = piece
    found: dict[str, Any] = {}
    for step in path.strip("/").split("/"):
        if isinstance(here, BaseModel):
            names = {info.alias or name: (name, info) for name, info in type(here).model_fields.items()}
            if step not in names:
                return {}
            name, info = names[step]
            extra = info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}
            found = {"title": info.title or step, "whole": info.annotation is int, **extra}
            here = getattr(here, name)
        elif isinstance(here, (tuple, list)) and INDEX.fullmatch(step) and int(step) < len(here):
            here, found = here[int(step)], {}
        elif isinstance(here, dict):
            here, found = (
                here.get(int(step), LetterSetting()) if INDEX.fullmatch(step) else here.get(step),
                {"title": step, "unit": ""},
            )
        else:
            return {}
    return found


def _colour_entered(piece: Piece, edit: Edit) -> str:
    """The colour that was typed, or the paint whose name it is."""
    typed = str(edit.value)
    for paint in piece.paints:
        if paint.name.casefold() == typed.strip().casefold() and not edit.path.startswith("/paints/"):
            return f"{PAINT_PREFIX}{paint.id}"
    try:
        return typed_colour(typed)
    except ColourError as fault:
        raise PieceError(edit.path, str(fault)) from None


def _entered(piece: Piece, edit: Edit, field: dict[str, Any]) -> float | int:
    if not isinstance(edit.value, str):
        raise PieceError(edit.path, "what was typed must be text")
    canvas = piece.canvas
    try:
        if edit.path in CANVAS_SIDES:
            # The canvas is spoken of in a unit of its own.
            number = parse_quantity(edit.value, unit=canvas.unit, ppi=canvas.ppi) * px_per_unit(
                canvas.unit, canvas.ppi
            )
        else:
            number = parse_quantity(edit.value, unit=field.get("unit", ""), ppi=canvas.ppi)
    except QuantityError as fault:
        raise PieceError(edit.path, str(fault)) from None
    return round(number) if field.get("whole") else number


def _letter_named(values: dict[str, Any], path: str) -> str:
    """The letter whose setting a pointer names, as it stands in the words."""
    found = LETTER_NUMBER.match(f"{path}/")
    words = (
        jsonpointer.resolve_pointer(values, f"{found[1].removesuffix('letters')}words", "") if found else ""
    )
    return (
        f"“{words[int(found[2])]}”" if found and isinstance(words, str) and int(found[2]) < len(words) else ""
    )


def _label(path: str, operation: str, field: dict[str, Any], before: Any, value: Any) -> str:
    steps = path.strip("/").split("/")
    name = str(field.get("title") or steps[-1]).replace("_", " ")
    if steps[-1] == "words":
        return f"Words “{str(value).splitlines()[0][:40] if value else ''}”"
    if steps[-2:-1] == ["features"]:
        return f"Feature {steps[-1]} {'on' if value else 'off'}"
    if steps[0] == "blocks" and steps[-1] in SWITCHES:
        return SWITCHES[steps[-1]][0 if value else 1]
    name = LISTED.get(steps[-2] if len(steps) > 1 else "", name) if operation != "replace" else name
    if operation == "add":
        return f"Added {name}"
    if operation == "remove" and steps[-2:-1] == ["letters"]:
        return f"{field.get('of') or 'A letter'} set like the others"
    if operation == "remove":
        return f"Removed {name}"
    if field.get("of"):
        name = f"{name} of {field['of']}"
    unit = field.get("unit", "")
    if isinstance(value, (bool, dict, list)) or value is None:
        return name.capitalize()
    if isinstance(value, (int, float)) and isinstance(before, (int, float)):
        return f"{name.capitalize()} {before:g} → {value:g} {unit}".strip()
    return (
        f"{name.capitalize()} {value:g}"
        if isinstance(value, (int, float))
        else f"{name.capitalize()} {value}"
    )
