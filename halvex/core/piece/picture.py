"""Pictures laid over a surface."""

from typing import Annotated, Literal

from pydantic import Field

from halvex.core.piece.fields import number, plain
from halvex.core.piece.layer import Blend, Sheet, angle, masks, percentage, shift, stretch
from halvex.core.piece.part import Part

# The name of a picture that ships with Halvex, or the SHA-256 of one's own.
PictureName = Annotated[str, Field(pattern=r"^[a-z0-9-]{1,80}$")]


class Picture(Part):
    """A picture, fitted to what it is laid over: filling it, wholly within it, one of its px to a px of the
    canvas, or stretched to its shape. Past its edges there is nothing, or it comes again, or mirrored, or its
    edge goes on. It is blurred by a share of its longer side."""

    kind: Literal["picture"] = "picture"
    picture: PictureName = "harbour"
    span: Sheet = plain("block", label="Over")
    fit: Literal["fill", "fit", "natural", "stretch"] = plain("fill", label="Fitted")
    edges: Literal["tiled", "mirrored", "held", "clear"] = plain("mirrored", label="Past its edges")
    x: float = shift("Moved across")
    y: float = shift("Moved up")
    scale: float = stretch("Scale")
    turn: float = angle(0, "Turn")
    blur: float = number(0, label="Blur", unit="%", comfort=(0, 10), step=0.5, ge=0, le=50)
    strength: float = percentage(100, "Strength")
    masks: bool = masks()
    blend: Blend = plain("normal", label="Blend mode")
