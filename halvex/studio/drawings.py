"""The stations' drawings, as numbers computed from the piece: section, sight lines, lighting plot."""

from typing import Any

from halvex.core.lettering import LetteringError, set_block
from halvex.core.piece.model import Piece
from halvex.core.scene.camera import angle_of_view, camera_distance
from halvex.core.scene.lamps import lamp_direction
from halvex.core.solids import SolidError
from halvex.core.solids.roof import OutlineKey, roof_of
from halvex.core.solids.section import section


def drawings(piece: Piece) -> dict[str, Any]:
    """Numbers behind the drawings of Form, View and Light; what cannot be drawn is null."""
    return {"section": _section(piece), "view": _view(piece), "lamps": _lamps(piece), "advice": _advice(piece)}


def widest_stroke(piece: Piece) -> float:
    """Width in px of the thickest stroke of the first block: twice its roof's ridge."""
    letters = set_block(piece.blocks[0]).letters
    return max(2.0 * roof_of(OutlineKey(letter.outline)).ridge * letter.size for letter in letters)


def _section(piece: Piece) -> dict[str, Any] | None:
    try:
        stroke = widest_stroke(piece)
    except (LetteringError, SolidError):
        return None
    form = piece.blocks[0].form
    return {"stroke": round(stroke, 1), "outline": [(round(x, 2), round(z, 2)) for x, z in section(form, stroke)], "depth": form.depth}


def _view(piece: Piece) -> dict[str, Any]:
    canvas, view = piece.canvas, piece.view
    return {
        "distance": round(camera_distance(view.focal_length, canvas)),
        "angle": round(angle_of_view(view.focal_length), 1),
        "width": canvas.width,
        "height": canvas.height,
        "parallel": view.projection == "parallel",
        "turn": [view.turn.x, view.turn.y, view.turn.z],
    }


def _lamps(piece: Piece) -> list[dict[str, Any]]:
    return [
        {
            "id": lamp.id,
            "kind": lamp.kind,
            "on": lamp.on,
            "direction": [round(float(v), 4) for v in lamp_direction(lamp.bearing, lamp.elevation)],
            "distance": lamp.distance,
            "width": lamp.width,
            "height": lamp.height if lamp.kind == "softbox" else lamp.width,
        }
        for lamp in piece.light.lamps
    ]


def _advice(piece: Piece) -> list[dict[str, str]]:
    try:
        stroke = widest_stroke(piece)
    except (LetteringError, SolidError) as fault:
        return [{"station": "set", "text": str(fault)}]
    bevel = piece.blocks[0].form.bevel
    if bevel.width > stroke / 2 and (bevel.front or bevel.back):
        return [{"station": "form", "text": f"Thickest stroke {stroke:.1f} px: a bevel over {stroke / 2:.1f} px meets in a ridge everywhere."}]
    return []
