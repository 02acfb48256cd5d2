"""The lines of gradients and pictures on the stage: where one begins and ends on its block's face, or its
middle and how far it reaches from there, and the act that lays it along another.

A gradient is as long as its box is along its bearing, from corner to corner (CSS Images 4, 3.1), by its
length.
"""

import math
from collections.abc import Callable, Iterator
from typing import Any

import jsonpointer

from halvex.core.lettering import SetBlock, set_block
from halvex.core.lettering.placed import Box
from halvex.core.optics.material import source_of
from halvex.core.piece import Piece, PieceError, piece_from_values, to_json
from halvex.core.piece.block import Block
from halvex.core.piece.effects import Wash
from halvex.core.piece.gradient import Gradient
from halvex.core.piece.material import source_field
from halvex.core.piece.mesh import Mesh
from halvex.core.piece.model import Canvas
from halvex.core.piece.picture import Picture
from halvex.core.piece.source import AnyLayer, layers_of
from halvex.core.scene.picture import checker, open_or_checker
from halvex.studio.acting import Act, checked, numbers, refuse_locked_at
from halvex.studio.assets import assets

Point = tuple[float, float]
Line = tuple[Point, Point]
# Ends nearer than this, in px, are one point.
_LEAST_PX = 0.1
# Texels of a picture to a px along it, by those that its width and its height would have.
_PER_PX: dict[str, Callable[[tuple[float, float]], float]] = {
    "fill": min,
    "fit": max,
    "natural": lambda by_sides: 1.0,
    "stretch": lambda by_sides: by_sides[0],
}
_MOST_SCALE, _MOST_MOVED = 10_000.0, 1000.0


def line_of(layer: Gradient | Picture, box: Box) -> Line:
    """Where a linear gradient begins and ends over a box (left, bottom, right, top), in px; of any other, and
    of a picture, its middle, and how far and which way it reaches from there.

    >>> line_of(Gradient(bearing=0), (0, 0, 200, 100))
    ((0.0, 50.0), (200.0, 50.0))
    """
    left, bottom, right, top = box
    x = (left + right) / 2 + (right - left) * layer.x / 100
    y = (bottom + top) / 2 + (top - bottom) * layer.y / 100
    angle = math.radians(_turn_of(layer))
    c, s = math.cos(angle), math.sin(angle)
    if is_centred(layer):
        radius = _radius(layer, box) * (1.0 if _keeps_length(layer) else layer.scale / 100)
        return (x, y), (x + c * radius, y + s * radius)
    half = _reach(box, c, s) * layer.scale / 200
    return (x - c * half, y - s * half), (x + c * half, y + s * half)


def laid_along(layer: Gradient | Picture, box: Box, line: Line) -> Gradient | Picture:
    """The gradient or picture that lies there: the inverse of `line_of`."""
    (x0, y0), (x1, y1) = line
    left, bottom, right, top = box
    length = math.hypot(x1 - x0, y1 - y0)
    c, s = (x1 - x0) / length, (y1 - y0) / length
    across, up = max(right - left, _LEAST_PX), max(top - bottom, _LEAST_PX)
    middle = (x0, y0) if is_centred(layer) else ((x0 + x1) / 2, (y0 + y1) / 2)
    moved = ((middle[0] - (left + right) / 2) / across, (middle[1] - (bottom + top) / 2) / up)
    x, y = (min(max(100 * share, -_MOST_MOVED), _MOST_MOVED) for share in moved)
    whole = _radius(layer, box) if is_centred(layer) else _reach(box, c, s)
    scale = layer.scale if _keeps_length(layer) else 100 * length / max(whole, _LEAST_PX)
    turn = "turn" if is_centred(layer) else "bearing"
    return layer.model_copy(
        update={
            turn: round(math.degrees(math.atan2(s, c)) % 360, 2),
            "scale": round(min(max(scale, 0.1), _MOST_SCALE), 2),
            "x": round(x, 2),
            "y": round(y, 2),
        }
    )


def is_centred(layer: Gradient | Picture) -> bool:
    """Whether a line leads from the middle of a layer, and not from where it begins to where it ends."""
    return isinstance(layer, Picture) or layer.shape != "linear"


def _keeps_length(layer: Gradient | Picture) -> bool:
    """Whether a layer is as large wherever its line ends: colours around a point have no length."""
    return isinstance(layer, Gradient) and layer.shape == "conic"


def _turn_of(layer: Gradient | Picture) -> float:
    return layer.bearing if isinstance(layer, Gradient) and layer.shape == "linear" else layer.turn


def _radius(layer: Gradient | Picture, box: Box) -> float:
    """How far a layer of 100 % reaches from its middle, in px: a picture to its right edge."""
    left, bottom, right, top = box
    width, height = right - left, top - bottom
    if isinstance(layer, Picture):
        across, down = _size_of(layer.picture)
        by_sides = (across / max(width, _LEAST_PX), down / max(height, _LEAST_PX))
        return 0.5 * across / _PER_PX[layer.fit](by_sides)
    if layer.shape == "oval":
        return width / math.sqrt(2)
    return min(width, height) / 2 if layer.shape == "conic" else math.hypot(width, height) / 2


def _size_of(name: str) -> tuple[int, int]:
    """Width and height of a picture; of the checker where it is missing."""
    file = assets().pictures.get(name)
    return (checker() if file is None else open_or_checker(file)).sizes[0]


def _reach(box: Box, c: float, s: float) -> float:
    left, bottom, right, top = box
    return abs((right - left) * c) + abs((top - bottom) * s)


def _box_of(layer: Gradient | Picture, placed: SetBlock) -> Box | None:
    """What a layer is laid over, of a block that has its ink for a body; of letters the first."""
    boxes = placed.letter_boxes
    if layer.span == "block":
        return placed.box
    return boxes[min(boxes)] if layer.span == "letter" and boxes else None


def gradient_lines(number: int, block: Block, placed: SetBlock) -> Iterator[dict[str, Any]]:
    """The lines of a block's gradients and pictures over the block or its letters, by the pointer of each."""
    if block.form.kind == "tube" or block.form.plates or block.form.stands != "free":
        return
    for name, part in type(block.surface).model_fields.items():
        material = getattr(block.surface, name)
        if material is None:
            continue
        for at, layer in enumerate(layers_of(source_of(material))):
            if isinstance(layer, Gradient | Picture) and not layer.masks:
                box = _box_of(layer, placed)
                if box is not None:
                    shown = part.alias or name
                    path = f"/blocks/{number}/surface/{shown}/{source_field(material)}/layers/{at}"
                    yield _drawn(path, shown, layer, box)


def _drawn(path: str, part: str, layer: Gradient | Picture, box: Box) -> dict[str, Any]:
    centred, ends = is_centred(layer), line_of(layer, box)
    return {"path": path, "part": part, "of": layer.kind, "centred": centred, "ends": ends}


def canvas_box(canvas: Canvas) -> Box:
    """The canvas about its middle: left, bottom, right, top."""
    return -canvas.width / 2, -canvas.height / 2, canvas.width / 2, canvas.height / 2


def backdrop_lines(piece: Piece) -> Iterator[dict[str, Any]]:
    """The lines of the gradients and pictures that the backdrop lays over the canvas."""
    for path, layer in _on_backdrop(piece):
        if isinstance(layer, Gradient | Picture) and _lies_on_canvas(layer):
            yield _drawn(path, "backdrop", layer, canvas_box(piece.canvas))


def wash_lines(piece: Piece) -> Iterator[dict[str, Any]]:
    """The lines of the gradients and pictures of washes, which all lie over the canvas."""
    for number, effect in enumerate(piece.finish):
        if isinstance(effect, Wash):
            for at, layer in enumerate(effect.layers):
                if isinstance(layer, Gradient | Picture) and not layer.masks:
                    path = f"/finish/{number}/layers/{at}"
                    yield _drawn(path, "wash", layer, canvas_box(piece.canvas))


def backdrop_meshes(piece: Piece) -> Iterator[str]:
    """The pointers of the meshes of colours on the backdrop."""
    for path, layer in _on_backdrop(piece):
        if isinstance(layer, Mesh):
            yield path


def _on_backdrop(piece: Piece) -> Iterator[tuple[str, AnyLayer]]:
    """(pointer, layer) of what is laid over what stands behind the letters."""
    backdrop = piece.backdrop
    path, source = "/backdrop/colour", backdrop.colour
    if backdrop.ground != "none" and backdrop.material is not None:
        path, source = f"/backdrop/material/{source_field(backdrop.material)}", source_of(backdrop.material)
    for at, layer in enumerate(layers_of(source)):
        yield f"{path}/layers/{at}", layer


def _lies_on_canvas(layer: Gradient | Picture) -> bool:
    return not layer.masks and layer.span not in ("surface", "depth", "run", "across", "facing")


def _lay_along(piece: Piece, since: Piece, path: str, value: Any) -> tuple[Piece, str]:
    refuse_locked_at(piece, path)
    steps = path.split("/")
    values = to_json(piece)
    layer = jsonpointer.resolve_pointer(values, path, None)
    kind = layer.get("kind") if isinstance(layer, dict) else None
    if steps[1] not in ("blocks", "backdrop", "finish") or kind not in ("gradient", "picture"):
        raise PieceError(
            path,
            "there is no gradient and no picture; name one of a surface, of the backdrop or of a wash",
        )
    laid: Gradient | Picture
    laid = checked(Gradient, path, layer) if kind == "gradient" else checked(Picture, path, layer)
    if steps[1] != "blocks":
        on_canvas = steps[1] == "finish" or _lies_on_canvas(laid)
        box = canvas_box(piece.canvas) if on_canvas else None
    else:
        box = _box_of(laid, set_block(piece.blocks[int(steps[2])], assets=assets()))
    if box is None:
        raise PieceError(path, "only what is laid over a block, a letter or the canvas has a line to move")
    if not isinstance(value, list) or len(value) != 2 or not all(numbers(end, 2) for end in value):
        raise PieceError(path, "a line is two ends, [[x, y], [x, y]] in px of the block's face")
    begin, end = value
    if math.hypot(end[0] - begin[0], end[1] - begin[1]) < _LEAST_PX:
        raise PieceError(path, "the two ends are one; draw them apart")
    laid = laid_along(laid, box, ((begin[0], begin[1]), (end[0], end[1])))
    jsonpointer.set_pointer(values, path, to_json(laid))
    return piece_from_values(values), f"{kind.capitalize()} laid along another line"


LINE_ACTS: dict[str, Act] = {"lay-along": _lay_along}
