"""Marks: drawings brought from an SVG file, part by part."""

from typing import Annotated, Literal

from pydantic import Field

from halvex.core.piece.block import Block
from halvex.core.piece.fields import number
from halvex.core.piece.material import Material
from halvex.core.piece.part import LONGEST_LENGTH_PX, SHORTEST_LENGTH_PX, Part

MOST_PARTS = 200
MOST_CLIPS, MOST_CLIP_SHAPES = 8, 50
LONGEST_PATH = 200_000
# A mark larger than this has no place on any canvas.
LARGEST_MARK_PX = 10 * LONGEST_LENGTH_PX

Length = Annotated[float, Field(ge=0, le=LONGEST_LENGTH_PX)]
Coefficient = Annotated[float, Field(ge=-1e9, le=1e9)]
Matrix = tuple[Coefficient, Coefficient, Coefficient, Coefficient, Coefficient, Coefficient]
Path = Annotated[str, Field(min_length=1, max_length=LONGEST_PATH)]
Rule = Literal["nonzero", "evenodd"]


class LineStyle(Part):
    """How the line of a part is drawn, as SVG 2 says, in the part's own units."""

    width: float = Field(1, ge=SHORTEST_LENGTH_PX, le=LONGEST_LENGTH_PX)
    cap: Literal["butt", "round", "square"] = "butt"
    join: Literal["miter", "round", "bevel"] = "miter"
    miter_limit: float = Field(4, ge=1, le=1e6)
    dashes: Annotated[tuple[Length, ...], Field(max_length=64)] = ()
    dash_offset: float = Field(0, ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX)


class ClipShape(Part):
    """An area that shows what lies within it; path, rule and matrix as of a part."""

    path: Path
    rule: Rule = "nonzero"
    matrix: Matrix = (1, 0, 0, 1, 0, 0)


Clip = Annotated[tuple[ClipShape, ...], Field(max_length=MOST_CLIP_SHAPES)]


class MarkPart(Part):
    """One filled area or one line of a mark.

    `path` is SVG path data in units of its own, y down; `matrix` (a b c d e f, as in SVG) takes it
    to px about the middle of the mark, y still down. It is cut to what lies within all its `clips`, each
    several shapes together. Without a depth (of its body, or of a flat
    cut) or a material of its own it has the block's. `lift` is how far its face stands before the
    face plane.
    """

    name: str = Field("", max_length=80)
    path: Path
    rule: Rule = "nonzero"
    line: LineStyle | None = None
    matrix: Matrix = (1, 0, 0, 1, 0, 0)
    clips: Annotated[tuple[Clip, ...], Field(max_length=MOST_CLIPS)] = ()
    hidden: bool = False
    lift: float = number(
        0, label="Lift", unit="px", comfort=(-60, 60), ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX
    )
    depth: float | None = number(
        None,
        label="Own depth",
        unit="px",
        comfort=(0, 200),
        step=2,
        ge=SHORTEST_LENGTH_PX,
        le=LONGEST_LENGTH_PX,
    )
    material: Material | None = None


class Mark(Block):
    """An imported mark. `left_out` names what its file holds that is not shown."""

    kind: Literal["mark"] = "mark"
    name: str = Field("mark", max_length=80)
    scale: float = number(100, label="Scale", unit="%", comfort=(10, 400), step=5, gt=0.01, le=100_000)
    parts: Annotated[tuple[MarkPart, ...], Field(min_length=1, max_length=MOST_PARTS)]
    left_out: Annotated[tuple[str, ...], Field(max_length=100)] = ()
