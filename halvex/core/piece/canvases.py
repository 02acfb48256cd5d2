"""Canvases of the trade by name, and changing to one without losing the composition."""

from dataclasses import dataclass, replace
from typing import Literal

from halvex.core.piece.model import Canvas, Piece
from halvex.core.piece.quantity import px_per_unit

Unit = Literal["px", "mm", "in", "pt"]


@dataclass(frozen=True)
class NamedCanvas:
    """A canvas by its name and the family it is listed in; a book's cover has a spine of so many px
    in its middle."""

    name: str
    family: str
    canvas: Canvas
    spine: float = 0.0


def _screen(name: str, width: int, height: int) -> NamedCanvas:
    return NamedCanvas(name, "screen", Canvas(width=width, height=height))


def _paper(name: str, width: float, height: float, unit: Unit, ppi: float = 300) -> NamedCanvas:
    """A sheet of `width` × `height` mm or in, to the nearest px at its resolution."""
    per_unit = px_per_unit(unit, ppi)
    return NamedCanvas(
        name,
        "paper",
        Canvas(width=round(width * per_unit), height=round(height * per_unit), ppi=ppi, unit=unit),
    )


SPINE_IN = 0.75

# Screen sizes are common practice; sheets are ISO 216 (A series) and ANSI/ASME Y14.1 (letter). The
# book cover is a trade paperback of 6 × 9 in with a spine of 0.75 in and 1/8 in of bleed all
# around, common practice of printers.
CANVASES = (
    _screen("thumbnail", 1280, 720),
    _screen("full HD", 1920, 1080),
    _screen("ultra HD", 3840, 2160),
    _screen("square", 1080, 1080),
    _screen("story", 1080, 1920),
    _screen("banner", 1500, 500),
    _screen("favicon", 512, 512),
    _paper("A3", 297, 420, "mm"),
    _paper("A4", 210, 297, "mm"),
    _paper("A5", 148, 210, "mm"),
    _paper("A6", 105, 148, "mm"),
    _paper("letter", 8.5, 11, "in"),
    replace(
        _paper("book cover with spine", 2 * 6 + SPINE_IN + 2 * 0.125, 9 + 2 * 0.125, "in"),
        spine=SPINE_IN * 300,
    ),
)


def fitted(piece: Piece, canvas: Canvas) -> Piece:
    """The piece on another canvas, the picture scaled so that all the old canvas showed fits:
    nothing else in it changes.

    The camera keeps its distance and the frame is enlarged or reduced about its middle, so
    perspective, light and every number of the lettering stay as they are.
    """
    old, view = piece.canvas, piece.view
    zoom = min(canvas.width / old.width, canvas.height / old.height)
    # The longer side spans the frame, so the distance is the focal length times that side.
    focal = view.focal_length * max(old.width, old.height) / max(canvas.width, canvas.height)
    changed = view.model_copy(update={"zoom": view.zoom * zoom, "focal_length": focal})
    return piece.model_copy(update={"canvas": canvas, "view": changed})
