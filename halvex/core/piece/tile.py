"""Tiles: one's own letters, shape or mark, again and again over a surface."""

from typing import Annotated, Literal

from pydantic import Field

from halvex.core.piece.fields import number, plain
from halvex.core.piece.layer import Blend, Sheet, angle, masks, percentage, shift
from halvex.core.piece.part import LONGEST_LENGTH_PX, Colour, Part


class Tile(Part):
    """The ink of a block of the piece as a tile, in one colour; the block itself may be hidden. Size is how
    far a tile is from the next, in px; every second row can stand half a tile aside."""

    kind: Literal["tile"] = "tile"
    # Of no block, or one that is gone, a checker stands in its place.
    block: Annotated[str, Field(max_length=40)] = ""
    span: Sheet = plain("surface", label="Over")
    colour: Colour = plain("#b8322a", label="Colour")
    size: float = number(40, label="Size", unit="px", comfort=(10, 200), step=1, ge=0.5, le=LONGEST_LENGTH_PX)
    spacing: float = number(30, label="Spacing", unit="%", comfort=(0, 200), step=5, ge=0, le=1000)
    staggered: bool = plain(True, label="staggered")
    bearing: float = angle(0, "Bearing")
    x: float = shift("Moved along")
    y: float = shift("Moved across")
    strength: float = percentage(100, "Strength")
    masks: bool = masks()
    blend: Blend = plain("normal", label="Blend mode")
