"""Bringing a mark into a piece: an SVG file becomes a block that fits its canvas."""

from collections.abc import Mapping

from halvex.core.lettering.svg import ReadMark
from halvex.core.piece import Piece
from halvex.core.piece.form import Bevel, Form
from halvex.core.piece.mark import Mark, MarkPart
from halvex.core.piece.material import Plastic
from halvex.core.piece.picture import Picture
from halvex.core.piece.source import Layered

# A mark larger than the canvas is scaled to this share of it.
FITTED_SHARE = 0.8
# What a small mark's body starts with, as shares of its longer side.
DEPTH_SHARE, BEVEL_SHARE = 0.12, 0.012


def mark_of(read: ReadMark, name: str, piece: Piece, pictures: Mapping[str, str]) -> Mark:
    """What was read of a file as a block for this piece, in its middle; pictures: what those of the file are
    kept as."""
    canvas = piece.canvas
    share = min(canvas.width / max(read.width, 1e-6), canvas.height / max(read.height, 1e-6))
    scale = 100.0 if share >= 1.0 else round(100 * share * FITTED_SHARE, 2)
    longer = max(read.width, read.height) * scale / 100
    bevel = round(longer * BEVEL_SHARE, 1)
    form = Form(depth=max(round(longer * DEPTH_SHARE), 1), bevel=Bevel(width=bevel, height=bevel))
    taken = {block.id for block in piece.blocks}
    ident = next(f"mark-{n}" for n in range(1, len(taken) + 2) if f"mark-{n}" not in taken)
    parts = tuple(_with_pictures(part, pictures) for part in read.parts)
    return Mark(
        id=ident, name=name[:80] or "mark", scale=scale, parts=parts, left_out=read.left_out, form=form
    )


def _with_pictures(part: MarkPart, idents: Mapping[str, str]) -> MarkPart:
    """A part whose layers name pictures as they are kept: one may have been there by another name."""
    material = part.material
    if not (isinstance(material, Plastic) and isinstance(material.colour, Layered)):
        return part
    layers = tuple(
        layer.model_copy(update={"picture": idents[layer.picture]}) if isinstance(layer, Picture) else layer
        for layer in material.colour.layers
    )
    colour = material.colour.model_copy(update={"layers": layers})
    return part.model_copy(update={"material": material.model_copy(update={"colour": colour})})
