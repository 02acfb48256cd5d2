"""A drawing that was read, put about the middle of its ink."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import TypeVar

import shapely

from halvex.core.lettering.marks import part_outline
from halvex.core.lettering.outlines import polygon_of
from halvex.core.lettering.typefaces import LetteringError
from halvex.core.piece.mark import LARGEST_MARK_PX, ClipShape, MarkPart, Matrix
from halvex.core.piece.material import AnyMaterial, Plastic
from halvex.core.piece.source import Layered

# A part painted over another stands out by this share of the mark's longer side, so that both are seen.
LIFT_SHARE = 0.012
OVERLAP_SHARE = 1e-6
P = TypeVar("P", MarkPart, ClipShape)


@dataclass(frozen=True)
class ReadMark:
    """What a file holds: its parts, about the middle of their ink, its size in px, what was omitted, and the
    pictures (PNG) that its parts name."""

    parts: tuple[MarkPart, ...]
    width: float
    height: float
    left_out: tuple[str, ...]
    pictures: Mapping[str, bytes] = field(default_factory=dict)


def _has_layers(material: AnyMaterial | None) -> bool:
    return isinstance(material, Plastic) and isinstance(material.colour, Layered)


def centred(parts: list[MarkPart], left_out: tuple[str, ...]) -> ReadMark:
    """The parts about the middle of their ink; those painted over others lifted before them; one
    colour alone is the block's."""
    materials = {part.material for part in parts}
    if len(materials) == 1 and not any(map(_has_layers, materials)):
        parts = [part.model_copy(update={"material": None}) for part in parts]
    shown: list[tuple[MarkPart, shapely.Geometry]] = []
    for part in parts:
        drawn = part_outline(part, 1.0)
        if drawn is not None:
            shown.append((part, polygon_of([ring * drawn[1] for ring in drawn[0].rings])))
    if not shown:
        raise LetteringError("file", "the areas and lines of this drawing enclose nothing")
    left, bottom, right, top = shapely.total_bounds([area for _, area in shown])
    width, height = right - left, top - bottom
    levels: list[int] = []
    for number, (_, area) in enumerate(shown):
        under = [levels[i] for i in range(number) if _overlap(area, shown[i][1], width * height)]
        levels.append(max(under) + 1 if under else 0)
    x, y = (left + right) / 2, (bottom + top) / 2
    moved = []
    if not max(width, height) <= LARGEST_MARK_PX:
        raise LetteringError("file", f"the drawing is {max(width, height):.3g} px large; make it smaller")
    for (part, _), level in zip(shown, levels, strict=True):
        lift = round(level * LIFT_SHARE * max(width, height), 3)
        clips = tuple(tuple(_moved(shape, -x, y) for shape in clip) for clip in part.clips)
        moved.append(_moved(part, -x, y).model_copy(update={"lift": lift, "clips": clips}))
    return ReadMark(tuple(moved), float(width), float(height), left_out)


def _overlap(one: shapely.Geometry, other: shapely.Geometry, whole: float) -> bool:
    return (
        bool(shapely.intersects(one, other))
        and shapely.area(shapely.intersection(one, other)) > OVERLAP_SHARE * whole
    )


def _moved(part: P, x: float, down: float) -> P:
    a, b, c, d, e, f = part.matrix
    matrix: Matrix = (a, b, c, d, float(e + x), float(f + down))
    return part.model_copy(update={"matrix": matrix})
