"""Acts: edits of a piece that are more than one value put in its place.

`stand`: a lamp is put at a point of the world. `recut`: the canvas becomes another and the picture
is fitted into it. `shift`, `scale`, `turn`: a block, and with it its group, is moved by px, scaled
by a factor or turned by degrees, against what it was when the gesture began. `reorder`: a block
comes to another place in the list. `arrange`: blocks are aligned or spread out. `follow`: a block's
run follows a drawn stroke. `group`: blocks become one group, or leave theirs. `look`: a block takes
the look of another. `kind`: a lamp becomes one of another kind. `highlight`: a lamp moves to where it
is mirrored at a spot of the lettering. `alone`: all lamps but one go off, or all on. `setup`: lamps and
surroundings become those of a lighting setup, fitted to the piece.
"""

import itertools
import re
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from halvex.core.advice.highlight import place_highlight
from halvex.core.lettering import LetteringError
from halvex.core.lettering.arranging import How, arranged, scaled, shifted, span_of, turned_about, unit_of
from halvex.core.lettering.placed import union
from halvex.core.lettering.strokes import run_along
from halvex.core.optics.material import source_of
from halvex.core.piece import Piece, PieceError, piece_from_values
from halvex.core.piece.block import Strokes
from halvex.core.piece.canvases import fitted
from halvex.core.piece.light import FittedSetup, Lamp
from halvex.core.piece.material import AnyMaterial, InnerLayer, source_field
from halvex.core.piece.model import AnyBlock
from halvex.core.piece.picture import Picture
from halvex.core.piece.reading import values_of
from halvex.core.piece.resolving import PART_NAMES, part_materials, resolve
from halvex.core.piece.source import ColourSource, Layered, base_of, layers_of
from halvex.core.piece.turning import rotation
from halvex.core.scene import SceneError
from halvex.core.scene.lamps import lamp_stood_at
from halvex.core.scene.setups import lit_by
from halvex.studio.acting import Act, checked, numbers, refuse_locked, refuse_locked_at
from halvex.studio.assets import assets
from halvex.studio.gradient_lines import LINE_ACTS
from halvex.studio.paint_acts import PAINT_ACTS

BLOCK = re.compile(r"/blocks/(\d+)")
PART = re.compile(r"(/blocks/\d+)/surface/(\w+)")
LAMP = re.compile(r"/light/lamps/(\d+)")
# What of a block is its look: all but what it says and where it stands.
LOOK = ("form", "surface")
# A strip is a softbox of another shape; one that is still square becomes this wide against its height.
STRIP_SHAPE = 1 / 6


class Arrangement(BaseModel):
    """Which blocks are arranged, by id, how, and whether to the canvas or to each other."""

    model_config = ConfigDict(extra="forbid")

    blocks: list[str] = Field(min_length=1, max_length=64)
    how: How
    to: str = Field("canvas", pattern="^(canvas|each other)$")


class Grouping(BaseModel):
    """Blocks, by id, that become one group of their own, or leave the groups they are in."""

    model_config = ConfigDict(extra="forbid")

    blocks: list[str] = Field(min_length=1, max_length=64)
    together: bool


def _stand(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    at = _lamp_at(piece, path)
    if not numbers(value, 3):
        raise PieceError(path, "a lamp is put at a point of three numbers, x, y and z in px")
    lamps = list(piece.light.lamps)
    stood = lamp_stood_at(lamps[at], np.array(value, float), rotation(piece.view.turn))
    lamps[at] = lamps[at].model_copy(
        update={name: round(getattr(stood, name), 2) for name in ("bearing", "elevation", "distance")}
    )
    return _with_lamps(piece, lamps), f"Place of {lamps[at].name}"


def _recut(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    if path != "/canvas":
        raise PieceError(path, "only the canvas can be recut")
    canvas = piece_from_values({"canvas": value}).canvas
    return fitted(piece, canvas), f"Canvas {canvas.width} × {canvas.height} px, picture fitted"


def _shift(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    if not numbers(value, 2):
        raise PieceError(path, "a block is moved by two numbers, across and up in px")
    return _unit_changed(piece, since, path, lambda block, about: shifted(block, *value)), "Moved a block"


def _scale(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    if not numbers([value], 1) or value <= 0:
        raise PieceError(path, "a block is scaled by a number over 0")
    return _unit_changed(
        piece, since, path, lambda block, about: scaled(block, value, about)
    ), "Scaled a block"


def _turn(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    if not numbers([value], 1):
        raise PieceError(path, "a block is turned by a number of degrees")
    return _unit_changed(
        piece, since, path, lambda block, about: turned_about(block, value, about)
    ), "Turned a block"


def _unit_changed(
    piece: Piece, since: Piece, path: str, change: Callable[[AnyBlock, complex], AnyBlock]
) -> Piece:
    """The piece with a block and its group changed, each from what it was before the gesture."""
    block = _block_at(piece, path)
    before = {other.id: other for other in since.blocks}
    refuse_locked(path, [other.locked for other in unit_of(piece, block)])
    unit = [before.get(other.id, other) for other in unit_of(piece, block)]
    if len(unit) > 1:
        left, bottom, right, top = _spans(path, unit)
        about = complex(left + right, bottom + top) / 2
    else:
        about = complex(unit[0].place.x, unit[0].place.y)
    changed = {other.id: _differences(other, change(other, about)) for other in unit}
    return _with_blocks(
        piece, [other.model_copy(update=changed[other.id]) for other in piece.blocks if other.id in changed]
    )


def _with_blocks(piece: Piece, changed: list[AnyBlock]) -> Piece:
    """The piece with these blocks in the place of those of the same ids."""
    new = {block.id: block for block in changed}
    return piece.model_copy(update={"blocks": tuple(new.get(block.id, block) for block in piece.blocks)})


def _differences(before: AnyBlock, after: AnyBlock) -> dict[str, Any]:
    """What an act changed and nothing more: words that were typed since the gesture began stay."""
    return {
        name: getattr(after, name)
        for name in type(after).model_fields
        if getattr(after, name) != getattr(before, name)
    }


def _spans(path: str, unit: list[AnyBlock]) -> tuple[float, float, float, float]:
    try:
        return union([span_of(other, assets()) for other in unit])
    except LetteringError as fault:
        raise PieceError(path, f"a block of the group cannot be set ({fault})") from None


def _reorder(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    block = _block_at(piece, path)
    if not isinstance(value, int) or not 0 <= value < len(piece.blocks):
        raise PieceError(
            path, f"a block's new place in the list is a whole number from 0 to {len(piece.blocks) - 1}"
        )
    refuse_locked(path, [block.locked])
    others = [other for other in piece.blocks if other.id != block.id]
    return piece.model_copy(
        update={"blocks": (*others[:value], block, *others[value:])}
    ), "Reordered the blocks"


def _arrange(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    if path != "/blocks":
        raise PieceError(path, "only blocks can be arranged")
    wanted = checked(Arrangement, path, value)
    units = []
    for block in _named(piece, path, wanted.blocks):
        unit = unit_of(piece, block)
        if unit not in units:
            units.append(unit)
    if wanted.to == "each other" and len(units) < 2:
        raise PieceError(path, "there is only one block, or one group, to arrange; pick another one too")
    refuse_locked(path, [block.locked for unit in units for block in unit])
    try:
        moved = arranged(units, wanted.how, piece.canvas if wanted.to == "canvas" else None, assets())
    except LetteringError as fault:
        raise PieceError(path, f"a block cannot be set ({fault})") from None
    how = wanted.how if wanted.how.startswith("spread") else f"aligned {wanted.how}"
    return _with_blocks(piece, moved), f"Blocks {how}"


def _follow(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    block = _block_at(piece, path)
    drawn = next((other for other in piece.blocks if other.id == value and isinstance(other, Strokes)), None)
    if drawn is None:
        raise PieceError(path, "a run follows drawn strokes; name a block of them")
    refuse_locked(path, [block.locked])
    form = block.form.model_copy(
        update={"run": block.form.run.model_copy(update={"points": run_along(drawn, block.form.depth)})}
    )
    return _with_blocks(piece, [block.model_copy(update={"form": form})]), "Run follows drawn strokes"


def _group(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    if path != "/blocks":
        raise PieceError(path, "only blocks can be grouped")
    wanted = checked(Grouping, path, value)
    named = _named(piece, path, wanted.blocks)
    taken = {block.group for block in piece.blocks}
    name = next(name for n in itertools.count(1) if (name := f"group {n}") not in taken)
    done = [block.model_copy(update={"group": name if wanted.together else ""}) for block in named]
    return _with_blocks(piece, done), "Grouped blocks" if wanted.together else "Ungrouped blocks"


def _look(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    block = _block_at(piece, path)
    refuse_locked(path, [block.locked])
    if isinstance(value, str):
        (source,) = _named(piece, path, [value])
    else:
        # A block that was copied, maybe from another piece.
        source = piece_from_values({"blocks": [value]}).blocks[0]
    return _with_blocks(
        piece, [block.model_copy(update={name: getattr(source, name) for name in LOOK})]
    ), "Look"


def _with_source(material: AnyMaterial, path: str, source: ColourSource) -> AnyMaterial:
    """A material whose main colour comes from a source."""
    return material.model_copy(update={source_field(material): source})


def _cover(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    block = _block_at(piece, path)
    refuse_locked_at(piece, path)
    picture = checked(Picture, path, {"picture": value})
    face = block.surface.face
    source = source_of(face)
    covered = checked(Layered, path, {"base": base_of(source), "layers": [*layers_of(source), picture]})
    surface = block.surface.model_copy(update={"face": _with_source(face, path, covered)})
    return _with_blocks(piece, [block.model_copy(update={"surface": surface})]), "Picture on the face"


def _colour_as(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    """Give a part the colour of another, layers and all; what else it is made of stays."""
    found = PART.fullmatch(path)
    if not found or found[2] not in PART_NAMES or value not in PART_NAMES:
        raise PieceError(path, f"name two parts of a block: {', '.join(PART_NAMES)}")
    block = _block_at(piece, found[1])
    refuse_locked_at(piece, path)
    materials = dict(zip(PART_NAMES, part_materials(block.surface), strict=True))
    of, to = materials[value], materials[found[2]]
    if isinstance(to, InnerLayer):
        raise PieceError(path, "the back is the inner layer of the glass; change it there")
    name = "return_" if found[2] == "return" else found[2]
    surface = block.surface.model_copy(update={name: _with_source(to, path, source_of(of))})
    return (
        _with_blocks(piece, [block.model_copy(update={"surface": surface})]),
        f"Colour of the {found[2]} as the {value}",
    )


def _kind(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    at = _lamp_at(piece, path)
    lamps = list(piece.light.lamps)
    changed: dict[str, Any] = {"kind": value}
    if value == "strip" and lamps[at].width == lamps[at].height:
        changed["width"] = round(lamps[at].height * STRIP_SHAPE, 1)
    label = f"Kind of {lamps[at].name} {lamps[at].kind} → {value}"
    lamps[at] = lamps[at].model_copy(update=changed)
    return _with_lamps(piece, lamps), label


def _highlight(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    at = _lamp_at(piece, path)
    canvas = piece.canvas
    if not numbers(value, 2) or not (0 <= value[0] <= canvas.width and 0 <= value[1] <= canvas.height):
        raise PieceError(path, "point at a letter: two numbers, px of the canvas from its top left")
    lamps = list(piece.light.lamps)
    try:
        placed = place_highlight(piece, lamps[at].id, value[0], value[1], assets())
    except SceneError as fault:
        raise PieceError(path, str(fault)) from None
    lamps[at] = lamps[at].model_copy(
        update={name: round(getattr(placed, name), 3) for name in ("bearing", "elevation")}
    )
    return _with_lamps(piece, lamps), f"Highlight of {lamps[at].name} placed"


def _alone(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    at = _lamp_at(piece, path)
    lamps = piece.light.lamps
    wanted = [number == at for number in range(len(lamps))]
    label = f"{lamps[at].name} alone"
    if [lamp.on for lamp in lamps] == wanted:
        wanted, label = [True] * len(lamps), "All lamps on"
    switched = [lamp.model_copy(update={"on": on}) for lamp, on in zip(lamps, wanted, strict=True)]
    return _with_lamps(piece, switched), label


def _setup(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    if path != "/light":
        raise PieceError(path, "only the light can be set up")
    setup = checked(FittedSetup, path, value)
    try:
        light = lit_by(piece.light, setup, resolve(piece, assets()))
    except LetteringError as fault:
        raise PieceError(path, f"a block cannot be set ({fault})") from None
    return piece.model_copy(update={"light": light}), f"Lighting setup: {setup.name}"


def _with_lamps(piece: Piece, lamps: Sequence[Lamp]) -> Piece:
    light = piece.light.model_copy(update={"lamps": tuple(lamps)})
    return piece.model_copy(update={"light": light})


def _lamp_at(piece: Piece, path: str) -> int:
    found = LAMP.fullmatch(path)
    if not found or int(found[1]) >= len(piece.light.lamps):
        raise PieceError(path, "there is no such lamp; name one of the piece's own")
    return int(found[1])


def _named(piece: Piece, path: str, idents: list[str]) -> list[AnyBlock]:
    """The blocks of these ids, in the piece's order."""
    named = [block for block in piece.blocks if block.id in idents]
    if len(named) < len(set(idents)):
        raise PieceError(path, "a block that is named is not in the piece; pick it again")
    return named


def _block_at(piece: Piece, path: str) -> AnyBlock:
    found = BLOCK.fullmatch(path)
    if not found or int(found[1]) >= len(piece.blocks):
        raise PieceError(path, "there is no such block; name one of the piece's own")
    return piece.blocks[int(found[1])]


ACTS: dict[str, Act] = {
    "stand": _stand,
    "recut": _recut,
    "shift": _shift,
    "scale": _scale,
    "turn": _turn,
    "reorder": _reorder,
    "arrange": _arrange,
    "follow": _follow,
    "group": _group,
    "look": _look,
    "cover": _cover,
    "colour-as": _colour_as,
    "kind": _kind,
    "highlight": _highlight,
    "alone": _alone,
    "setup": _setup,
    **PAINT_ACTS,
    **LINE_ACTS,
}


def act(name: str, piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    """The piece after an act, and the act in words. Raises PieceError."""
    done, label = ACTS[name](piece, since, path, value)
    return piece_from_values(values_of(done, checked=piece)), label
