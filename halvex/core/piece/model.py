"""The piece: the whole document, as one immutable value.

Conventions: lengths in px of the canvas, x right, y up, z towards the viewer; the face plane is
z = 0 and the canvas centre is the origin; angles in degrees; colours as sRGB `#rrggbb`.
Everything is a few numbers; nothing derived is ever stored.
"""

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, ValidationInfo, field_validator, model_validator

from halvex.core.piece.fields import number
from halvex.core.piece.form import MOST_POINTS, Form
from halvex.core.piece.light import Light
from halvex.core.piece.material import Surface
from halvex.core.piece.part import LONGEST_LENGTH_PX, Colour, Ident, Part
from halvex.core.piece.view import View

FORMAT_VERSION: Literal[1] = 1

# 32 768 px is what a 2.5 m banner has at 333 ppi; past it a picture no longer opens elsewhere.
LONGEST_CANVAS_SIDE_PX = 32_768
LARGEST_CANVAS_PX = 200_000_000
MOST_LETTERS = 2_000
MOST_BLOCKS = 64
MOST_STROKES = 64


class Canvas(Part):
    """The picture's size in px, the resolution it is printed at, and the unit it is spoken of in."""

    width: int = number(1280, label="Width", unit="px", comfort=(100, 4000), ge=16, le=LONGEST_CANVAS_SIDE_PX)
    height: int = number(720, label="Height", unit="px", comfort=(100, 4000), ge=16, le=LONGEST_CANVAS_SIDE_PX)
    ppi: float = number(96, label="Resolution", unit="ppi", comfort=(72, 600), ge=1, le=10_000)
    unit: Literal["px", "mm", "in", "pt"] = "px"

    @model_validator(mode="after")
    def _check_area(self) -> "Canvas":
        if self.width * self.height > LARGEST_CANVAS_PX:
            raise ValueError(f"width × height may be {LARGEST_CANVAS_PX // 10**6} megapixels at most; make one side smaller")
        return self


class Place(Part):
    """Where a block stands, from the canvas centre."""

    x: float = number(0, label="Across", unit="px", comfort=(-600, 600), ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX)
    y: float = number(0, label="Up", unit="px", comfort=(-400, 400), ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX)
    z: float = number(0, label="Forward", unit="px", comfort=(-200, 200), ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX)


def _check_words(value: str) -> str:
    words = value.replace("\r\n", "\n").replace("\r", "\n")
    if len(words) > MOST_LETTERS:
        raise ValueError(f"a block holds {MOST_LETTERS} characters at most; divide the words into several blocks")
    if any(ord(c) < 32 and c != "\n" for c in words) or any(0xD800 <= ord(c) <= 0xDFFF for c in words):
        raise ValueError("the words hold control characters; retype them as plain text")
    return words


class Block(Part):
    """What every block has: a name of its own, a place, a form and a surface. A hidden block is in no picture."""

    id: Ident = "lettering"
    hidden: bool = False
    place: Place = Place()
    form: Form = Form()
    surface: Surface = Surface()


class LetterSetting(Part):
    """How one letter differs from the rest of its words. `kern` is the space added between it and the next one."""

    size: float = number(100, label="Letter size", unit="%", comfort=(50, 200), ge=1, le=5_000)
    shift: float = number(0, label="Raise", unit="/1000 em", comfort=(-300, 300), step=5, ge=-20_000, le=20_000)
    turn: float = number(0, label="Turn", unit="°", comfort=(-45, 45), ge=-360, le=360)
    kern: float = number(0, label="Kern", unit="/1000 em", comfort=(-200, 200), step=5, ge=-20_000, le=20_000)


class Lettering(Block):
    """Words in a typeface.

    `language` is a BCP 47 tag, for forms that differ by language; `features` are OpenType features turned on or off;
    `letters` are those that differ from the rest, by the number of their character in the words.
    """

    kind: Literal["lettering"] = "lettering"
    words: Annotated[str, AfterValidator(_check_words)] = "Port Sorrel"
    typeface: Ident = "alfa-slab-one"
    axes: dict[Annotated[str, Field(pattern=r"^[A-Za-z0-9]{4}$")], float] = Field(default_factory=dict, max_length=16)
    size: float = number(200, label="Size", unit="px", comfort=(20, 500), step=2, gt=0.5, le=20_000)
    tracking: float = number(0, label="Tracking", unit="/1000 em", comfort=(-100, 300), step=5, ge=-2000, le=20_000)
    leading: float = number(1.0, label="Leading", unit="×", comfort=(0.6, 2), step=0.02, ge=-20, le=20)
    align: Literal["left", "centre", "right"] = "centre"
    language: str = Field("", pattern=r"^([A-Za-z]{2,8}(-[A-Za-z0-9]{1,8})*)?$", max_length=35)
    features: dict[Annotated[str, Field(pattern=r"^[A-Za-z0-9]{4}$")], bool] = Field(default_factory=dict, max_length=32)
    letters: dict[Annotated[int, Field(ge=0)], LetterSetting] = Field(default_factory=dict, max_length=MOST_LETTERS)

    @field_validator("letters", mode="after")
    @classmethod
    def _keep_what_differs(cls, letters: dict[int, LetterSetting], info: ValidationInfo) -> dict[int, LetterSetting]:
        count = len(info.data.get("words", ""))
        return {at: letters[at] for at in sorted(letters) if at < count and letters[at] != LetterSetting()}


class Shape(Block):
    """A plain shape."""

    kind: Literal["shape"] = "shape"
    shape: Literal["rectangle", "ellipse", "polygon", "star"] = "star"
    width: float = number(200, label="Shape width", unit="px", comfort=(20, 800), step=2, gt=0.5, le=20_000)
    height: float = number(200, label="Shape height", unit="px", comfort=(20, 800), step=2, gt=0.5, le=20_000)
    corner_radius: float = number(0, label="Corner radius", unit="px", comfort=(0, 100), ge=0, le=20_000)
    sides: int = number(5, label="Sides", comfort=(3, 12), ge=3, le=200)
    inner: float = number(45, label="Inner radius", unit="%", comfort=(20, 90), step=5, ge=1, le=100)


class StrokePoint(Part):
    """A point of a drawn stroke in px from the block's place, and its handles as offsets from it."""

    x: float = number(0, label="Across", unit="px", comfort=(-600, 600), ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX)
    y: float = number(0, label="Up", unit="px", comfort=(-400, 400), ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX)
    in_x: float = Field(0, ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX)
    in_y: float = Field(0, ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX)
    out_x: float = Field(0, ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX)
    out_y: float = Field(0, ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX)


class Stroke(Part):
    """One drawn line. `smoothing` evens out a freehand line over that many px."""

    points: Annotated[tuple[StrokePoint, ...], Field(min_length=2, max_length=MOST_POINTS)]
    closed: bool = False
    smoothing: float = number(0, label="Smoothing", unit="px", comfort=(0, 40), ge=0, le=10_000)


class Strokes(Block):
    """Drawn strokes: centre lines for tubes, or lines of a width for any other form."""

    kind: Literal["strokes"] = "strokes"
    strokes: Annotated[tuple[Stroke, ...], Field(min_length=1, max_length=MOST_STROKES)]
    width: float = number(24, label="Stroke width", unit="px", comfort=(2, 100), gt=0.1, le=20_000)
    form: Form = Form(kind="tube")


AnyBlock = Annotated[Lettering | Shape | Strokes, Field(discriminator="kind")]


class Backdrop(Part):
    """What stands behind: a colour, and a ground painted with it.

    `wall` is parallel to the faces, turns with them and touches their backs; `floor` is a level
    floor under the letters that sweeps up into a wall behind them (a photographer's cove).
    """

    colour: Colour = "#24424a"
    ground: Literal["none", "wall", "floor"] = "wall"
    gap: float = number(0, label="Gap", unit="px", comfort=(0, 200), ge=0, le=LONGEST_LENGTH_PX)


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

    @model_validator(mode="after")
    def _check_blocks(self) -> "Piece":
        if len({block.id for block in self.blocks}) != len(self.blocks):
            raise ValueError("two blocks have the same id; give each its own")
        if all(block.hidden for block in self.blocks):
            raise ValueError("every block is hidden; show one of them")
        return self


def to_json(piece: Piece) -> dict[str, Any]:
    """The piece as plain JSON values, with every number written out."""
    return piece.model_dump(mode="json", by_alias=True)


def json_schema() -> dict[str, Any]:
    """The piece format as JSON Schema (draft 2020-12)."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **Piece.model_json_schema(by_alias=True)}
