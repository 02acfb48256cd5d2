"""Blocks: what every block of a piece has, and the plain ones: shapes and drawn strokes."""

from typing import Annotated, Literal

from pydantic import Field

from halvex.core.piece.fields import number, plain
from halvex.core.piece.form import MOST_POINTS, Form
from halvex.core.piece.material import Surface
from halvex.core.piece.part import LONGEST_LENGTH_PX, Ident, Part
from halvex.core.piece.view import Turn

MOST_STROKES = 64


class Place(Part):
    """Where a block stands, from the canvas centre, and its own turn about that point, within the
    turn of the whole piece."""

    x: float = number(
        0, label="Across", unit="px", comfort=(-600, 600), ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX
    )
    y: float = number(
        0, label="Up", unit="px", comfort=(-400, 400), ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX
    )
    z: float = number(
        0, label="Forward", unit="px", comfort=(-200, 200), ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX
    )
    turn: Turn = Turn()


class Block(Part):
    """What every block has: a name of its own, a place, a form and a surface.

    A hidden block is in no picture; nor is a guide, whose outlines are seen on the stage to draw
    over. A locked block is left as it is until it is unlocked; blocks that name the same group are
    picked and moved together. A block that shades no ground still shades other letters.
    """

    id: Ident = "lettering"
    hidden: bool = False
    guide: bool = False
    locked: bool = False
    group: str = Field("", max_length=40)
    shades_ground: bool = True
    place: Place = Place()
    form: Form = Form()
    surface: Surface = Surface()

    @property
    def in_picture(self) -> bool:
        return not (self.hidden or self.guide)


class Shape(Block):
    """A plain shape."""

    kind: Literal["shape"] = "shape"
    shape: Literal["rectangle", "ellipse", "polygon", "star"] = plain("star", label="Shape")
    width: float = number(200, label="Shape width", unit="px", comfort=(20, 800), step=2, gt=0.5, le=20_000)
    height: float = number(200, label="Shape height", unit="px", comfort=(20, 800), step=2, gt=0.5, le=20_000)
    corner_radius: float = number(
        0,
        label="Corner radius",
        unit="px",
        comfort=(0, 100),
        ge=0,
        le=20_000,
        when={"shape": ("rectangle", "polygon", "star")},
    )
    sides: int = number(5, label="Sides", comfort=(3, 12), ge=3, le=200, when={"shape": ("polygon", "star")})
    inner: float = number(
        45,
        label="Inner radius",
        unit="%",
        comfort=(20, 90),
        step=5,
        ge=1,
        le=100,
        when={"shape": ("star",)},
    )


class StrokePoint(Part):
    """A point of a drawn stroke in px from the block's place, and its handles as offsets from it."""

    x: float = number(
        0, label="Across", unit="px", comfort=(-600, 600), ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX
    )
    y: float = number(
        0, label="Up", unit="px", comfort=(-400, 400), ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX
    )
    in_x: float = Field(0, ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX)
    in_y: float = Field(0, ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX)
    out_x: float = Field(0, ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX)
    out_y: float = Field(0, ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX)


class Stroke(Part):
    """One drawn line. `smoothing` evens out a freehand line over that many px."""

    points: Annotated[tuple[StrokePoint, ...], Field(min_length=2, max_length=MOST_POINTS)]
    closed: bool = plain(False, label="closed")
    smoothing: float = number(0, label="Smoothing", unit="px", comfort=(0, 40), ge=0, le=10_000)


class Strokes(Block):
    """Drawn strokes: centre lines for tubes, or lines of a width for any other form."""

    kind: Literal["strokes"] = "strokes"
    strokes: Annotated[tuple[Stroke, ...], Field(min_length=1, max_length=MOST_STROKES)]
    width: float = number(24, label="Stroke width", unit="px", comfort=(2, 100), gt=0.1, le=20_000)
    form: Form = Form(kind="tube")
