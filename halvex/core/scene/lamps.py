"""Lamps: from bearing, elevation and stops to places and radiance.

A lamp's strength is what arrives: at 0 stops a lamp alone lights a white card at its aim that faces
it to radiance 1, whatever its distance and size. Size changes only the softness.
"""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.colour import black_body, hex_to_linear
from halvex.core.piece.light import MOST_LAMPS, Lamp

ROUND, RECTANGLE, SUN, BULB = range(4)
# Lamps of this temperature are white: photographic daylight.
WHITE_BALANCE_K = 5500.0
# Lamps, the surround and what glows.
MOST_LIGHTS = MOST_LAMPS + 2


class Lamps(NamedTuple):
    """Packed lamps: kind (L,), centre (L, 3), u and v half-extent vectors (L, 3), normal (L, 3),
    radiance (L,), level (L, 3), mirrored (L,), size (L,).

    `radiance` is that of a white lamp of 0 stops, `level` (linear rgb) what colour and strength
    make of it: light groups stay apart until they are developed. `size` is the area in px² of a
    round or rectangular lamp, the solid angle of a sun and the radius in px of a bulb. `mirrored`:
    reflections show it.
    """

    kind: np.ndarray
    centre: np.ndarray
    u: np.ndarray
    v: np.ndarray
    normal: np.ndarray
    radiance: np.ndarray
    level: np.ndarray
    mirrored: np.ndarray
    size: np.ndarray


def lamp_direction(bearing_deg: float, elevation_deg: float) -> np.ndarray:
    """Unit vector (3,) towards a lamp: bearing counter-clockwise from the right, elevation over the
    face plane."""
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


def lamp_level(lamp: Lamp) -> NDArray[np.float64]:
    """Linear rgb (3,) by which a white lamp of 0 stops is multiplied: its colour, of luminance 1 by
    temperature, and strength."""
    colour = (
        hex_to_linear(lamp.colour) if lamp.colour else black_body(lamp.kelvin) / black_body(WHITE_BALANCE_K)
    )
    return np.asarray(colour * 2.0**lamp.strength)


def lamp_frame(
    lamp: Lamp, turn: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """(towards the lamp, its level axis, its upright axis), unit vectors in the world; `turn` (3,
    3) is the lettering's."""
    towards = lamp_direction(lamp.bearing, lamp.elevation)
    # A lamp hangs upright: its long side stays level where it can.
    level = np.cross([0.0, 1.0, 0.0], towards)
    level = level / np.linalg.norm(level) if np.linalg.norm(level) > 1e-6 else np.array([1.0, 0.0, 0.0])
    up = np.cross(towards, level)
    roll = math.radians(lamp.roll)
    axes = towards, level * math.cos(roll) + up * math.sin(roll), up * math.cos(roll) - level * math.sin(roll)
    return axes if lamp.fixed_to == "viewer" else (turn @ axes[0], turn @ axes[1], turn @ axes[2])


def lamp_stood_at(lamp: Lamp, point: NDArray[np.float64], turn: NDArray[np.float64]) -> Lamp:
    """The lamp moved to a point (3,) of the world, still looking at its aim: its bearing, elevation
    and distance change.

    A sun keeps its distance, of which it has none. A point at the aim itself leaves the lamp where it is.
    """
    fixed = np.eye(3) if lamp.fixed_to == "viewer" else turn
    away = fixed.T @ point - np.array([lamp.aim.x, lamp.aim.y, lamp.aim.z])
    distance = float(np.linalg.norm(away))
    if distance < 1e-6:
        return lamp
    bearing, elevation = angles_of(away / distance)
    return lamp.model_copy(
        update={"bearing": bearing, "elevation": elevation}
        | ({} if lamp.kind == "sun" else {"distance": distance})
    )


def angles_of(direction: NDArray[np.float64]) -> tuple[float, float]:
    """(bearing, elevation) in degrees of a unit vector (3,), bearing from 0 up to 360: the inverse
    of `lamp_direction`."""
    return math.degrees(math.atan2(direction[1], direction[0])) % 360, math.degrees(
        math.asin(min(max(float(direction[2]), -1.0), 1.0))
    )


def towards_key(lamps: Lamps) -> tuple[np.float32, np.float32, np.float32]:
    """The direction of the first lamp from the middle of the canvas; to the viewer where there is none."""
    centre = lamps.centre[0] if len(lamps.centre) else np.array([0.0, 0.0, 1.0])
    x, y, z = (centre / max(float(np.linalg.norm(centre)), 1e-9)).astype(np.float32)
    return x, y, z


def pack_lamps(lamps: tuple[Lamp, ...], turn: NDArray[np.float64] | None = None) -> Lamps:
    """Pack the lamps that are on; `turn` (3, 3) is the lettering's, for lamps fixed to it."""
    turn = np.eye(3) if turn is None else turn
    rows = [_pack(lamp, turn) for lamp in lamps if lamp.on]
    columns: list[tuple[object, ...]] = list(zip(*rows, strict=True)) if rows else [() for _ in Lamps._fields]
    whole = {"kind": np.int32, "mirrored": np.uint8}
    flat = {"kind", "mirrored", "radiance", "size"}
    return Lamps(
        *(
            np.array(column, whole.get(name, np.float32)).reshape((-1,) if name in flat else (-1, 3))
            for name, column in zip(Lamps._fields, columns, strict=True)
        )
    )


def _pack(lamp: Lamp, turn: NDArray[np.float64]) -> tuple[object, ...]:
    towards, across, up = lamp_frame(lamp, turn)
    aim = np.array([lamp.aim.x, lamp.aim.y, lamp.aim.z])
    centre = (aim if lamp.fixed_to == "viewer" else turn @ aim) + towards * lamp.distance
    level, mirrored = lamp_level(lamp), lamp.in_reflections
    match lamp.kind:
        case "sun":
            half = math.radians(lamp.angular_size / 2)
            sine = math.sin(half)
            return (
                SUN,
                towards,
                across * sine,
                up * sine,
                -towards,
                1 / sine**2,
                level,
                mirrored,
                2 * math.pi * (1 - math.cos(half)),
            )
        case "bulb":
            radius = lamp.width / 2
            # A sphere lights a facing card to π L (r/d)² (Howell's catalogue).
            return (
                BULB,
                centre,
                across * radius,
                up * radius,
                -towards,
                (lamp.distance / radius) ** 2,
                level,
                mirrored,
                radius,
            )
        case "round":
            radius = lamp.width / 2
            share = radius**2 / (radius**2 + lamp.distance**2)
            return (
                ROUND,
                centre,
                across * radius,
                up * radius,
                -towards,
                1 / share,
                level,
                mirrored,
                math.pi * radius**2,
            )
        case _:
            share = rectangle_form_factor(lamp.width, lamp.height, lamp.distance)
            area = lamp.width * lamp.height
            return (
                RECTANGLE,
                centre,
                across * lamp.width / 2,
                up * lamp.height / 2,
                -towards,
                1 / share,
                level,
                mirrored,
                area,
            )
