"""What is promised of each kind of input: it is used, or refused with one clear error; nothing else
may happen.

A target takes the bytes of one input, raises a refusal, or returns. Any other exception is a fault.
"""

import json
import tempfile
from collections.abc import Callable
from pathlib import Path

from pydantic import ValidationError

from halvex.core.assets import INDEX
from halvex.core.finish.orders import DraftOrder
from halvex.core.finish.render_piece import render_piece
from halvex.core.lettering import LetteringError
from halvex.core.lettering.own_typefaces import read_fonts
from halvex.core.lettering.svg import read_svg
from halvex.core.output.bundle import read_bundle
from halvex.core.piece import Piece, PieceError, piece_from_json, piece_from_values, to_json
from halvex.core.piece.mark import Mark
from halvex.core.render.assembling import make_world
from halvex.core.scene import SceneError, scene_of
from halvex.core.scene.panorama import read_panorama
from halvex.core.scene.picture import read_picture
from halvex.core.solids import SolidError
from halvex.studio.assets import TYPEFACES, assets, open_assets
from halvex.studio.drawings import drawings
from halvex.studio.edits import Edit, apply_edits
from halvex.studio.recipe import recipe
from halvex.studio.samples import demo_piece
from halvex.web.messages import WindowMessage

REFUSALS = (PieceError, LetteringError, SolidError, SceneError, ValidationError)
SIDE = 48
LONGEST_REFUSAL = 600


def opened(piece: Piece) -> None:
    """What opening a piece does: its state is written out whole, whatever is wrong with its bodies;
    then it is drawn."""
    json.dumps(
        {"document": to_json(piece), "drawings": drawings(piece), "recipe": recipe(piece)}, allow_nan=False
    )
    wide = piece.canvas.width >= piece.canvas.height
    render_piece(
        piece, DraftOrder(width=SIDE if wide else None, height=None if wide else SIDE), assets=assets()
    )


def bodies(data: bytes) -> None:
    """What of a document writes most arrays: outlines, roofs, lids, tubes, trees."""
    make_world(scene_of(piece_from_json(data)))


def document(data: bytes) -> None:
    opened(piece_from_json(data))


def edit(data: bytes) -> None:
    """A demo piece's name and edits of it."""
    values = json.loads(data)
    piece = demo_piece(values["demo"])
    changed, _ = apply_edits(piece, [Edit.model_validate(entry) for entry in values["edits"]])
    assert piece_from_values(to_json(changed)) == changed
    opened(changed)


def svg(data: bytes) -> None:
    read = read_svg(data)
    mark = Mark(parts=read.parts, left_out=read.left_out)
    opened(
        piece_from_values(
            {"canvas": {"width": 96, "height": 54}, "blocks": [mark.model_dump(mode="json", by_alias=True)]}
        )
    )


def font(data: bytes) -> None:
    """A font that is taken can be set in."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / TYPEFACES
        (face, *_) = read_fonts(data)
        (folder / "own").mkdir(parents=True)
        (folder / "own/font.ttf").write_bytes(face.data)
        (folder / INDEX).write_text(
            json.dumps([{"id": "own", "name": face.name, "kind": "own", "files": ["font.ttf"]}])
        )
        open_assets(Path(name))
        assert "own" in assets().typefaces
        opened(
            piece_from_values(
                {
                    "canvas": {"width": 96, "height": 54},
                    "blocks": [{"words": "Rg", "size": 40, "typeface": "own"}],
                }
            )
        )


def panorama(data: bytes) -> None:
    read_panorama(data)


def picture(data: bytes) -> None:
    read_picture(data)


def bundle(data: bytes) -> None:
    read_bundle(data)


def message(data: bytes) -> None:
    WindowMessage.model_validate(json.loads(data))


TARGETS: dict[str, Callable[[bytes], None]] = {
    "document": document,
    "bodies": bodies,
    "edit": edit,
    "svg": svg,
    "font": font,
    "panorama": panorama,
    "picture": picture,
    "bundle": bundle,
    "message": message,
}


def refusal_of(kind: str, data: bytes) -> str:
    """How an input is refused; "" where it is taken. Raises whatever else happens, which is a fault."""
    try:
        TARGETS[kind](data)
    except REFUSALS as refusal:
        said = str(refusal)
        if not said.strip() or (len(said) > LONGEST_REFUSAL and not isinstance(refusal, ValidationError)):
            raise AssertionError(f"a refusal that says nothing, or too much: {said[:200]!r}") from refusal
        return said
    return ""
