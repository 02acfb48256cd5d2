"""Lamps: from bearing, elevation and stops to places and radiance.

A lamp's strength is what arrives: at 0 stops a lamp alone lights a white card at the origin that
faces it to radiance 1, whatever its distance and size. Size changes only the softness.
"""

import math
from typing import NamedTuple

import numpy as np

from halvex.core.optics.colour import black_body
from halvex.core.piece.model import Lamp

ROUND, RECTANGLE, SUN = 0, 1, 2
# Lamps of this temperature are white: photographic daylight.
WHITE_BALANCE_K = 5500.0


class Lamps(NamedTuple):
    """Packed lamps: kind (L,), centre (L, 3), u and v half-extent vectors (L, 3), normal (L, 3), radiance (L, 3), size (L,).

    `size` is the area in px² of a round or rectangular lamp and the solid angle of a sun.
    """

    kind: np.ndarray
    centre: np.ndarray
    u: np.ndarray
    v: np.ndarray
    normal: np.ndarray
    radiance: np.ndarray
    size: np.ndarray


def lamp_direction(bearing_deg: float, elevation_deg: float) -> np.ndarray:
    """Unit vector (3,) towards a lamp: bearing counter-clockwise from the right, elevation over the face plane."""
    b, e = math.radians(bearing_deg), math.radians(elevation_deg)
    return np.array([math.cos(e) * math.cos(b), math.cos(e) * math.sin(b), math.sin(e)])


def rectangle_form_factor(width: float, height: float, distance: float) -> float:
    """Share of a card's hemisphere filled by a parallel rectangle centred over it.

    Four corner-over-the-point rectangles (Howell, A Catalog of Radiation Heat Transfer Configuration
    Factors).
    """
    a, b = width / 2 / distance, height / 2 / distance
    ra, rb = math.sqrt(1 + a * a), math.sqrt(1 + b * b)
    return 4 * (a / ra * math.atan(b / ra) + b / rb * math.atan(a / rb)) / (2 * math.pi)


def pack_lamps(lamps: tuple[Lamp, ...]) -> Lamps:
    """Pack the lamps that are on."""
    rows = [_pack(lamp) for lamp in lamps if lamp.on]
    columns: list[tuple[object, ...]] = list(zip(*rows, strict=True)) if rows else [() for _ in Lamps._fields]
    shapes = {"kind": (-1,), "size": (-1,)}
    return Lamps(
        *(
            np.array(column, np.int32 if name == "kind" else np.float32).reshape(shapes.get(name, (-1, 3)))
            for name, column in zip(Lamps._fields, columns, strict=True)
        )
    )


def _pack(lamp: Lamp) -> tuple[object, ...]:
    towards = lamp_direction(lamp.bearing, lamp.elevation)
    colour = black_body(lamp.kelvin) / black_body(WHITE_BALANCE_K)
    level = 2.0**lamp.strength
    # A lamp hangs upright: its long side stays level where it can.
    level_axis = np.cross([0.0, 1.0, 0.0], towards)
    level_axis = level_axis / np.linalg.norm(level_axis) if np.linalg.norm(level_axis) > 1e-6 else np.array([1.0, 0.0, 0.0])
    up = np.cross(towards, level_axis)
    centre = towards * lamp.distance
    if lamp.kind == "sun":
        half = math.radians(lamp.angular_size / 2)
        share = math.sin(half) ** 2
        return SUN, towards, level_axis * math.sin(half), up * math.sin(half), -towards, colour * level / share, 2 * math.pi * (1 - math.cos(half))
    if lamp.kind == "round":
        radius = lamp.width / 2
        share = radius**2 / (radius**2 + lamp.distance**2)
        return ROUND, centre, level_axis * radius, up * radius, -towards, colour * level / share, math.pi * radius**2
    share = rectangle_form_factor(lamp.width, lamp.height, lamp.distance)
    return RECTANGLE, centre, level_axis * lamp.width / 2, up * lamp.height / 2, -towards, colour * level / share, lamp.width * lamp.height
