"""Pictures laid over a surface."""

from typing import Annotated, Literal

from pydantic import Field

from halvex.core.piece.fields import plain
from halvex.core.piece.layer import Blend, Sheet, angle, masks, percentage, shift, stretch
from halvex.core.piece.part import Part

# The name of a picture that ships with Halvex, or the SHA-256 of one's own.
PictureName = Annotated[str, Field(pattern=r"^[a-z0-9-]{1,80}$")]


class Picture(Part):
    """A picture, fitted to what it is laid over: filling it, wholly within it, or one of its px to a px of
    the canvas. Past its edges there is nothing, or it comes again, or mirrored, or its edge goes on."""

    kind: Literal["picture"] = "picture"
    picture: PictureName = "harbour"
    span: Sheet = plain("block", label="Over")
    fit: Literal["fill", "fit", "natural"] = plain("fill", label="Fitted")
    edges: Literal["tiled", "mirrored", "held", "clear"] = plain("mirrored", label="Past its edges")
    x: float = shift("Moved across")
    y: float = shift("Moved up")
    scale: float = stretch("Scale")
    turn: float = angle(0, "Turn")
    strength: float = percentage(100, "Strength")
    masks: bool = masks()
    blend: Blend = plain("normal", label="Blend mode")
