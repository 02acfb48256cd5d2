"""Arranging blocks: moved, scaled and turned as one, aligned and spread out, in the plane of the lettering.

Blocks of one group are one unit: whatever is done to one of them is done to all, about the middle
they have together.
"""

import cmath
import math
from typing import Literal, cast

import numpy as np

from halvex.core.assets import SHIPPED, Assets
from halvex.core.lettering.placed import Box, union
from halvex.core.lettering.setting import set_block
from halvex.core.piece.block import Block, Shape, Stroke, Strokes
from halvex.core.piece.lettering import Lettering
from halvex.core.piece.mark import Mark
from halvex.core.piece.model import AnyBlock, Canvas, Piece
from halvex.core.piece.turning import rotation

How = Literal["left", "centre", "right", "top", "middle", "bottom", "spread across", "spread up"]


def span_of(block: Block, assets: Assets = SHIPPED) -> Box:
    """left, bottom, right, top of a block as it stands, in px of the canvas from its middle. Raises
    LetteringError."""
    left, bottom, right, top = set_block(block, assets=assets).box
    corners = (
        np.array([(left, bottom, 0), (right, bottom, 0), (left, top, 0), (right, top, 0)])
        @ rotation(block.place.turn).T
    )
    low, high = corners[:, :2].min(axis=0).tolist(), corners[:, :2].max(axis=0).tolist()
    x, y = block.place.x, block.place.y
    return low[0] + x, low[1] + y, high[0] + x, high[1] + y


def unit_of(piece: Piece, block: Block) -> list[AnyBlock]:
    """The blocks that go with a block: those of its group, or it alone."""
    return [
        other
        for other in piece.blocks
        if other.id == block.id or (block.group and other.group == block.group)
    ]


def shifted(block: AnyBlock, dx: float, dy: float) -> AnyBlock:
    place = block.place.model_copy(
        update={"x": round(block.place.x + dx, 2), "y": round(block.place.y + dy, 2)}
    )
    return block.model_copy(update={"place": place})


def scaled(block: AnyBlock, by: float, about: complex) -> AnyBlock:
    """The block `by` times as large about a point of the canvas; its form keeps its numbers."""
    offset = (complex(block.place.x, block.place.y) - about) * (by - 1.0)
    return shifted(cast(AnyBlock, _sized(block, by)), offset.real, offset.imag)


def _sized(block: AnyBlock, by: float) -> Block:
    def round_to(value: float) -> float:
        return round(value * by, 2)

    if isinstance(block, Lettering):
        along = block.along
        if along.curve is not None:
            along = along.model_copy(update={"curve": _scaled_stroke(along.curve, by)})
        return block.model_copy(update={"size": round_to(block.size), "along": along})
    if isinstance(block, Shape):
        return block.model_copy(
            update={name: round_to(getattr(block, name)) for name in ("width", "height", "corner_radius")}
        )
    if isinstance(block, Strokes):
        return block.model_copy(
            update={
                "width": round_to(block.width),
                "strokes": tuple(_scaled_stroke(stroke, by) for stroke in block.strokes),
            }
        )
    assert isinstance(block, Mark)
    return block.model_copy(update={"scale": round_to(block.scale)})


def _scaled_stroke(stroke: Stroke, by: float) -> Stroke:
    names = ("x", "y", "in_x", "in_y", "out_x", "out_y")
    points = tuple(
        point.model_copy(update={name: round(getattr(point, name) * by, 2) for name in names})
        for point in stroke.points
    )
    return stroke.model_copy(update={"points": points, "smoothing": round(stroke.smoothing * by, 2)})


def turned_about(block: AnyBlock, degrees: float, about: complex) -> AnyBlock:
    """The block turned counter-clockwise about a point of the canvas."""
    place = complex(block.place.x, block.place.y)
    moved = about + (place - about) * cmath.exp(1j * math.radians(degrees)) - place
    turn = block.place.turn
    # Kept within a turn either way, so that turning on and on stays a number one can read.
    angle = round((turn.z + degrees + 180.0) % 360.0 - 180.0, 2)
    turned = block.model_copy(
        update={"place": block.place.model_copy(update={"turn": turn.model_copy(update={"z": angle})})}
    )
    return shifted(turned, moved.real, moved.imag)


def arranged(
    units: list[list[AnyBlock]], how: How, canvas: Canvas | None, assets: Assets = SHIPPED
) -> list[AnyBlock]:
    """Units aligned to the canvas, or to each other where there is none; or spread out with equal
    gaps between them.

    Spread out over a canvas, the outer gaps are as wide as the inner ones; among each other, the
    outer units stay.
    """
    spans = [union([span_of(block, assets) for block in unit]) for unit in units]
    whole = (
        union(spans)
        if canvas is None
        else (-canvas.width / 2, -canvas.height / 2, canvas.width / 2, canvas.height / 2)
    )
    upwards = how in ("top", "middle", "bottom", "spread up")
    low, high = (1, 3) if upwards else (0, 2)
    if how.startswith("spread"):
        moves = _spread(
            [(span[low], span[high]) for span in spans], whole[low], whole[high], outer=canvas is not None
        )
    else:
        share = {"left": 0.0, "bottom": 0.0, "centre": 0.5, "middle": 0.5, "right": 1.0, "top": 1.0}[how]
        moves = [
            (whole[low] - span[low]) * (1 - share) + (whole[high] - span[high]) * share for span in spans
        ]
    return [
        shifted(block, 0.0 if upwards else move, move if upwards else 0.0)
        for unit, move in zip(units, moves, strict=True)
        for block in unit
    ]


def _spread(sides: list[tuple[float, float]], start: float, end: float, *, outer: bool) -> list[float]:
    order = sorted(range(len(sides)), key=lambda i: sum(sides[i]))
    gaps = len(sides) + 1 if outer else len(sides) - 1
    gap = (end - start - sum(b - a for a, b in sides)) / gaps if gaps else 0.0
    at = start + (gap if outer else 0.0)
    moves = [0.0] * len(sides)
    for i in order:
        moves[i] = at - sides[i][0]
        at += sides[i][1] - sides[i][0] + gap
    return moves
