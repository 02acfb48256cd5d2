"""The piece: the whole document, as one immutable value.

Conventions: lengths in px of the canvas, x right, y up, z towards the viewer; the face plane is
z = 0 and the canvas centre is the origin; angles in degrees; colours as sRGB `#rrggbb`.
Everything is a few numbers; nothing derived is ever stored.
"""

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from halvex.core.piece.backdrop import Backdrop
from halvex.core.piece.block import Shape, Strokes
from halvex.core.piece.effects import Effects
from halvex.core.piece.fields import number
from halvex.core.piece.lettering import Lettering
from halvex.core.piece.light import Light
from halvex.core.piece.mark import Mark
from halvex.core.piece.paints import MOST_PAINTS, NamedPaint, colours_of, painted, references_in
from halvex.core.piece.part import Part
from halvex.core.piece.view import View

FORMAT_VERSION: Literal[1] = 1

# 32 768 px is what a 2.5 m banner has at 333 ppi; past it a picture no longer opens elsewhere.
LONGEST_CANVAS_SIDE_PX = 32_768
LARGEST_CANVAS_PX = 200_000_000
MOST_BLOCKS = 64


class Canvas(Part):
    """The picture's size in px, the resolution it is printed at, and the unit it is spoken of in."""

    width: int = number(1280, label="Width", unit="px", comfort=(100, 4000), ge=16, le=LONGEST_CANVAS_SIDE_PX)
    height: int = number(
        720, label="Height", unit="px", comfort=(100, 4000), ge=16, le=LONGEST_CANVAS_SIDE_PX
    )
    ppi: float = number(96, label="Resolution", unit="ppi", comfort=(72, 600), ge=1, le=10_000)
    unit: Literal["px", "mm", "in", "pt"] = "px"

    @model_validator(mode="after")
    def _check_area(self) -> "Canvas":
        if self.width * self.height > LARGEST_CANVAS_PX:
            raise ValueError(
                f"width × height may be {LARGEST_CANVAS_PX // 10**6} megapixels at most; make one "
                "side smaller"
            )
        return self


AnyBlock = Annotated[Lettering | Shape | Strokes | Mark, Field(discriminator="kind")]


class Piece(Part):
    """The document. `halvex schema` prints this as JSON Schema."""

    format: Literal["halvex-piece"] = "halvex-piece"
    version: Literal[1] = FORMAT_VERSION
    name: str = Field("Untitled", min_length=1, max_length=120)
    canvas: Canvas = Canvas()
    blocks: tuple[AnyBlock, ...] = Field((Lettering(),), min_length=1, max_length=MOST_BLOCKS)
    view: View = View()
    light: Light = Light()
    backdrop: Backdrop = Backdrop()
    finish: Effects = ()
    paints: tuple[NamedPaint, ...] = Field((), max_length=MOST_PAINTS)

    @model_validator(mode="after")
    def _check_paints(self) -> "Piece":
        known = {paint.id: paint for paint in self.paints}
        if len(known) != len(self.paints):
            raise ValueError("two paints have the same id; give each its own")
        for paint in self.paints:
            if paint.of is not None and (paint.of not in known or known[paint.of].of is not None):
                raise ValueError(
                    f"the paint “{paint.name}” is a tone of “{paint.of}”, which is no paint of its own; "
                    "give it a colour"
                )
        for path, ident in references_in(self):
            if ident not in known:
                raise ValueError(
                    f"{path} refers to the paint “{ident}”, which the piece has not; write a colour there"
                )
        return self

    @property
    def in_colours(self) -> "Piece":
        """The same piece with the colours of its paints wherever it refers to them."""
        return painted(self, colours_of(self.paints)) if self.paints else self

    @model_validator(mode="after")
    def _check_blocks(self) -> "Piece":
        if len({block.id for block in self.blocks}) != len(self.blocks):
            raise ValueError("two blocks have the same id; give each its own")
        if not any(block.in_picture for block in self.blocks):
            raise ValueError("every block is hidden or a guide; show one of them")
        return self


def to_json(part: Part) -> dict[str, Any]:
    """A piece, or a part of one, as plain JSON values, with every number written out."""
    return part.model_dump(mode="json", by_alias=True)


def json_schema() -> dict[str, Any]:
    """The piece format as JSON Schema (draft 2020-12)."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **Piece.model_json_schema(by_alias=True),
    }
