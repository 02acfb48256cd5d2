"""The subject of a picture, as whoever lights it sees it: where its faces, bevels and returns look, how far
what they mirror spans, and what they are made of.

A polished flat face mirrors one small patch of the room: around the mirrored line of sight at its middle,
spread by how the line of sight turns over its width and height.
"""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from halvex.core.lettering import set_block
from halvex.core.optics.colour import luminance
from halvex.core.optics.material import linear_albedo
from halvex.core.piece.form import Bevel
from halvex.core.piece.material import Metal
from halvex.core.piece.resolving import PartMaterial, ResolvedPiece
from halvex.core.piece.turning import rotation
from halvex.core.scene.camera import camera_distance

Vector = NDArray[np.float64]
Substance = Literal["metal", "gloss", "matte", "glass", "glow", "flat"]

WARM_METALS = ("gold", "copper", "brass", "bronze")
SIDES = ("up", "left", "down", "right")
_OUTWARD = {"up": (0.0, 1.0), "left": (-1.0, 0.0), "down": (0.0, -1.0), "right": (1.0, 0.0)}
# Shares of a bevel's rise at which it is looked at: a round one turns through all directions.
_STEEPEST_DEG, _GENTLEST_DEG = 80.0, 15.0


@dataclass(frozen=True)
class Subject:
    """Directions are unit vectors (3,) of the viewer's frame: x right, y up, z towards the viewer.

    face: what the middle of the face mirrors; `up_axis` and `across_axis`: which way the mirrored direction
    moves as the spot moves up or to the right over the face, `rise_deg` and `span_deg` how far over the whole
    of it; bevels: what the middle of the bevels of each side mirrors; width, height of the lettering in px;
    substance: what the largest block's face is, as far as light is concerned; warm: whether it is a yellow or
    red metal; albedo: the luminance of its colour.
    """

    face: Vector
    up_axis: Vector
    across_axis: Vector
    rise_deg: float
    span_deg: float
    bevels: dict[str, Vector]
    width: float
    height: float
    substance: Substance
    warm: bool
    albedo: float


def subject_of(piece: ResolvedPiece) -> Subject:
    """The subject of a piece. Raises LetteringError where a block cannot be set."""
    turn = rotation(piece.view.turn)
    corners, areas = [], []
    for resolved in piece.blocks:
        block = resolved.block
        left, bottom, right, top = set_block(block, assets=piece.assets).box
        own = turn @ rotation(block.place.turn)
        place = turn @ np.array([block.place.x, block.place.y, block.place.z])
        box = np.array([(left, bottom, 0.0), (right, bottom, 0.0), (left, top, 0.0), (right, top, 0.0)])
        corners.append(box @ own.T + place)
        areas.append((right - left) * (top - bottom))
    largest = piece.blocks[int(np.argmax(areas))]
    normal = turn @ rotation(largest.block.place.turn) @ np.array([0.0, 0.0, 1.0])
    spots = np.concatenate(corners)
    inverse = turn.T
    flat = spots @ inverse.T
    low, high = flat.min(axis=0), flat.max(axis=0)
    middle = (low + high) / 2

    def mirrored(x: float, y: float, facing: Vector = normal) -> Vector:
        return _mirrored(_to_eye(piece, turn @ np.array([x, y, middle[2]])), facing)

    face = mirrored(middle[0], middle[1])
    up_axis, rise = _way(mirrored(middle[0], low[1]), mirrored(middle[0], high[1]), turn[:, 1])
    across_axis, span = _way(mirrored(low[0], middle[1]), mirrored(high[0], middle[1]), turn[:, 0])
    bevels = {
        side: mirrored(
            middle[0],
            middle[1],
            turn @ _leaning(_lean(largest.block.form.bevel), _OUTWARD[side]),
        )
        for side in SIDES
    }
    return Subject(
        face,
        up_axis,
        across_axis,
        rise,
        span,
        bevels,
        float(high[0] - low[0]),
        float(high[1] - low[1]),
        substance_of(largest.materials[0]),
        isinstance(largest.materials[0], Metal) and largest.materials[0].metal in WARM_METALS,
        float(luminance(linear_albedo(largest.materials[0]))),
    )


def _to_eye(piece: ResolvedPiece, spot: Vector) -> Vector:
    view = piece.view
    if view.projection == "central":
        eye = np.array([view.across, view.up, camera_distance(view.focal_length, piece.canvas)])
        away = eye - spot
        return np.asarray(away / np.linalg.norm(away))
    lean = np.zeros(2)
    if view.projection == "oblique":
        angle = math.radians(view.oblique.angle)
        lean = view.oblique.scale * np.array([math.cos(angle), math.sin(angle)])
    towards = np.array([lean[0], lean[1], 1.0])
    return np.asarray(towards / np.linalg.norm(towards))


def _mirrored(towards_eye: Vector, normal: Vector) -> Vector:
    return np.asarray(2 * float(towards_eye @ normal) * normal - towards_eye)


def _way(begin: Vector, end: Vector, otherwise: Vector) -> tuple[Vector, float]:
    """The direction from one mirrored direction to another, and the angle between them in degrees; in a
    parallel view there is none, and the direction is that of the face's own axis."""
    angle = math.degrees(math.acos(min(max(float(begin @ end), -1.0), 1.0)))
    along = end - begin
    if angle < 1e-3:
        along = otherwise
    middle = begin + end
    middle = middle / np.linalg.norm(middle)
    along = along - float(along @ middle) * middle
    length = float(np.linalg.norm(along))
    return (along / length if length > 1e-9 else otherwise), angle


def _lean(bevel: Bevel) -> float:
    """Degrees by which the middle of a bevel leans from the face."""
    lean = math.degrees(math.atan2(bevel.height, bevel.width)) if bevel.width or bevel.height else 45.0
    return min(max(lean, _GENTLEST_DEG), _STEEPEST_DEG)


def _leaning(lean_deg: float, outward: tuple[float, float]) -> Vector:
    lean = math.radians(lean_deg)
    return np.array([math.sin(lean) * outward[0], math.sin(lean) * outward[1], math.cos(lean)])


def substance_of(material: PartMaterial) -> Substance:
    """What light does to a material: whether it is mirrored, scattered, let through or made."""
    match material.kind if hasattr(material, "kind") else "paint":
        case "metal":
            return "metal"
        case "glass":
            return "glass"
        case "glow":
            return "glow"
        case "flat":
            return "flat"
        case "plastic":
            return "gloss"
    return "matte"
