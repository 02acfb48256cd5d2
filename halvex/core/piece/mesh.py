"""Meshes of colours: each holds at its own point, and they flow into each other between."""

from typing import Literal

from pydantic import field_validator

from halvex.core.piece.fields import number, plain
from halvex.core.piece.layer import Blend, Plane, masks, percentage
from halvex.core.piece.part import Colour, Part

MOST_POINTS = 64


class MeshPoint(Part):
    """A colour at a place of what the mesh is laid over, in % from its left and from its bottom."""

    x: float = number(50, label="Across", unit="%", comfort=(0, 100), step=1, ge=-100, le=200)
    y: float = number(50, label="Up", unit="%", comfort=(0, 100), step=1, ge=-100, le=200)
    colour: Colour = plain("#ffffff", label="Colour")
    opacity: float = percentage(100, "Opacity")


class Mesh(Part):
    """Colours at freely placed points, four corners to begin with, mixed smoothly between."""

    kind: Literal["mesh"] = "mesh"
    span: Plane = plain("block", label="Over")
    blend: Blend = plain("normal", label="Blend mode")
    strength: float = percentage(100, "Strength")
    masks: bool = masks()
    points: tuple[MeshPoint, ...] = (
        MeshPoint(x=0, y=100, colour="#f2b56b"),
        MeshPoint(x=100, y=100, colour="#c8506a"),
        MeshPoint(x=0, y=0, colour="#3f6f8c"),
        MeshPoint(x=100, y=0, colour="#2b2350"),
    )

    @field_validator("points")
    @classmethod
    def _check_points(cls, points: tuple[MeshPoint, ...]) -> tuple[MeshPoint, ...]:
        if not points:
            raise ValueError("a mesh needs a point at least; add one, or take the mesh away")
        if len(points) > MOST_POINTS:
            raise ValueError(f"a mesh has {MOST_POINTS} points at most; take some away")
        return points
