"""Plain shapes as outlines: rectangle, ellipse, polygon, star, about their middle, in units of
their longer side."""

import math

import numpy as np
from numpy.typing import NDArray

from halvex.core.lettering.flattening import GREATEST_FACET_TURN_DEG
from halvex.core.lettering.outlines import Outline
from halvex.core.piece.block import Shape

Array = NDArray[np.float64]


def shape_outline(shape: Shape, tolerance: float) -> Outline:
    """The outline of a shape, curves flattened to `tolerance` and to the turn of a letter's facets."""
    size = max(shape.width, shape.height)
    half = np.array([shape.width, shape.height]) / size / 2
    if shape.shape == "rectangle":
        ring = rectangle(2 * float(half[0]), 2 * float(half[1]), shape.corner_radius / size, tolerance)
    elif shape.shape == "ellipse":
        ring = _circle(_facets(float(half.max()), 2 * math.pi, tolerance)) * half
    else:
        corners = {
            "polygon": lambda: _spread(_turned(shape.sides), half),
            "star": lambda: _spread(
                _turned(2 * shape.sides) * np.tile([1.0, shape.inner / 100], shape.sides)[:, None], half
            ),
        }[shape.shape]()
        ring = _rounded(corners, shape.corner_radius / size, tolerance)
    numbers = (shape.width / size, shape.height / size, shape.corner_radius / size, shape.sides, shape.inner)
    return Outline((ring,), f"{shape.shape}:{numbers}:{tolerance:.3g}", f"the {shape.shape}")


def rectangle(width: float, height: float, radius: float, tolerance: float) -> Array:
    """The ring of a rectangle about its middle, its corners rounded as far as its sides have room."""
    return _rounded(
        np.array([(1, 1), (-1, 1), (-1, -1), (1, -1)]) * (width / 2, height / 2), radius, tolerance
    )


def _circle(count: int) -> Array:
    turns = np.linspace(0.0, 2.0 * math.pi, count, endpoint=False)
    return np.column_stack([np.cos(turns), np.sin(turns)])


def _turned(count: int) -> Array:
    """Corners of a regular polygon, the first one on top, counter-clockwise."""
    turns = math.pi / 2 + np.linspace(0.0, 2.0 * math.pi, count, endpoint=False)
    return np.column_stack([np.cos(turns), np.sin(turns)])


def _spread(points: Array, half: Array) -> Array:
    """Points stretched to fill the box of these half sides, middle on middle."""
    low, high = points.min(axis=0), points.max(axis=0)
    return np.asarray((points - (low + high) / 2) / (high - low) * 2 * half)


def _facets(radius: float, turn: float, tolerance: float) -> int:
    """Facets of an arc: none off by more than the tolerance (sagitta r(1 - cos(a/2))), none turning
    too far."""
    finest = 2.0 * math.acos(max(1.0 - tolerance / max(radius, 1e-9), 0.0))
    return max(math.ceil(turn / min(finest, math.radians(GREATEST_FACET_TURN_DEG))), 1)


def _rounded(corners: Array, radius: float, tolerance: float) -> Array:
    """A polygon with every corner rounded by `radius`, or by as much as the shorter of its sides
    has room for."""
    if radius <= 0.0:
        return corners
    ring: list[Array] = []
    count = len(corners)
    for i in range(count):
        before, here, after = corners[i - 1], corners[i], corners[(i + 1) % count]
        back, on = before - here, after - here
        room = min(np.hypot(*back), np.hypot(*on)) / 2
        back, on = back / np.hypot(*back), on / np.hypot(*on)
        inner = math.acos(float(np.clip(back @ on, -1.0, 1.0)))
        # The arc leaves the sides at radius / tan(inner / 2) from the corner.
        reach = min(radius / math.tan(inner / 2), 0.999 * room)
        fitted = reach * math.tan(inner / 2)
        middle = here + (back + on) / np.hypot(*(back + on)) * (fitted / math.sin(inner / 2))
        start, turn = here + back * reach - middle, math.pi - inner
        if back[0] * on[1] - back[1] * on[0] > 0:
            turn = -turn
        pieces = _facets(fitted, abs(turn), tolerance)
        for k in range(pieces + 1):
            a = turn * k / pieces
            ring.append(
                middle
                + (
                    start[0] * math.cos(a) - start[1] * math.sin(a),
                    start[0] * math.sin(a) + start[1] * math.cos(a),
                )
            )
    return np.array(ring)
