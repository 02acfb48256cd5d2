"""The lines of linear gradients on the stage: where one begins and ends on its block's face, and the act that
lays it along another.

A gradient is as long as its box is along its bearing, from corner to corner (CSS Images 4, 3.1), by its
length.
"""

import math
from collections.abc import Iterator
from typing import Any

import jsonpointer

from halvex.core.lettering import SetBlock, set_block
from halvex.core.lettering.placed import Box
from halvex.core.optics.material import source_of
from halvex.core.piece import Piece, PieceError, piece_from_values, to_json
from halvex.core.piece.block import Block
from halvex.core.piece.gradient import Gradient
from halvex.core.piece.material import source_field
from halvex.core.piece.source import layers_of
from halvex.studio.acting import Act, checked, numbers, refuse_locked_at
from halvex.studio.assets import assets

Point = tuple[float, float]
Line = tuple[Point, Point]
# Ends nearer than this, in px, are one point.
_LEAST_PX = 0.1
_MOST_SCALE, _MOST_MOVED = 10_000.0, 1000.0


def line_of(gradient: Gradient, box: Box) -> Line:
    """Where a linear gradient begins and ends over a box (left, bottom, right, top), in px.

    >>> line_of(Gradient(bearing=0), (0, 0, 200, 100))
    ((0.0, 50.0), (200.0, 50.0))
    """
    left, bottom, right, top = box
    angle = math.radians(gradient.bearing)
    c, s = math.cos(angle), math.sin(angle)
    half = _reach(box, c, s) * gradient.scale / 200
    x = (left + right) / 2 + (right - left) * gradient.x / 100
    y = (bottom + top) / 2 + (top - bottom) * gradient.y / 100
    return (x - c * half, y - s * half), (x + c * half, y + s * half)


def laid_along(gradient: Gradient, box: Box, line: Line) -> Gradient:
    """The gradient that begins and ends there: the inverse of `line_of`."""
    (x0, y0), (x1, y1) = line
    left, bottom, right, top = box
    length = math.hypot(x1 - x0, y1 - y0)
    c, s = (x1 - x0) / length, (y1 - y0) / length
    across, up = max(right - left, _LEAST_PX), max(top - bottom, _LEAST_PX)
    moved = ((x0 + x1 - left - right) / 2 / across, (y0 + y1 - bottom - top) / 2 / up)
    x, y = (min(max(100 * share, -_MOST_MOVED), _MOST_MOVED) for share in moved)
    scale = min(100 * length / max(_reach(box, c, s), _LEAST_PX), _MOST_SCALE)
    return gradient.model_copy(
        update={
            "bearing": round(math.degrees(math.atan2(s, c)) % 360, 2),
            "scale": round(max(scale, 0.1), 2),
            "x": round(x, 2),
            "y": round(y, 2),
        }
    )


def _reach(box: Box, c: float, s: float) -> float:
    left, bottom, right, top = box
    return abs((right - left) * c) + abs((top - bottom) * s)


def _box_of(gradient: Gradient, placed: SetBlock) -> Box | None:
    """What a gradient is laid over, of a block that has its ink for a body; of letters the first."""
    boxes = placed.letter_boxes
    if gradient.span == "block":
        return placed.box
    return boxes[min(boxes)] if gradient.span == "letter" and boxes else None


def gradient_lines(number: int, block: Block, placed: SetBlock) -> Iterator[dict[str, Any]]:
    """The lines of a block's linear gradients over the block or its letters, by the pointer of each."""
    if block.form.kind == "tube" or block.form.plates or block.form.stands != "free":
        return
    for name, part in type(block.surface).model_fields.items():
        material = getattr(block.surface, name)
        if material is None:
            continue
        for at, layer in enumerate(layers_of(source_of(material))):
            if isinstance(layer, Gradient) and layer.shape == "linear":
                box = _box_of(layer, placed)
                if box is not None:
                    shown = part.alias or name
                    path = f"/blocks/{number}/surface/{shown}/{source_field(material)}/layers/{at}"
                    yield {"path": path, "part": shown, "ends": line_of(layer, box)}


def _lay_along(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    refuse_locked_at(piece, path)
    steps = path.split("/")
    values = to_json(piece)
    layer = jsonpointer.resolve_pointer(values, path, None)
    if steps[1] != "blocks" or not isinstance(layer, dict) or layer.get("kind") != "gradient":
        raise PieceError(path, "there is no gradient; name one of a block's surface")
    gradient = checked(Gradient, path, layer)
    box = _box_of(gradient, set_block(piece.blocks[int(steps[2])], assets=assets()))
    if box is None or gradient.shape != "linear":
        raise PieceError(path, "only a linear gradient over a block or a letter has a line to move")
    if not isinstance(value, list) or len(value) != 2 or not all(numbers(end, 2) for end in value):
        raise PieceError(path, "a line is two ends, [[x, y], [x, y]] in px of the block's face")
    begin, end = value
    if math.hypot(end[0] - begin[0], end[1] - begin[1]) < _LEAST_PX:
        raise PieceError(path, "the two ends are one; draw them apart")
    laid = laid_along(gradient, box, ((begin[0], begin[1]), (end[0], end[1])))
    jsonpointer.set_pointer(values, path, laid.model_dump(mode="json", by_alias=True))
    return piece_from_values(values), "Gradient laid along another line"


LINE_ACTS: dict[str, Act] = {"lay-along": _lay_along}
