"""How what stands behind the letters is shown: its flat share, the letters' shade and reflection on it, and
the canvas that its layers are laid over."""

from typing import NamedTuple

import numpy as np

from halvex.core.optics.colour import hex_to_linear
from halvex.core.optics.tone import CURVES
from halvex.core.piece.backdrop import Shade
from halvex.core.piece.resolving import ResolvedPiece
from halvex.core.scene.camera import Camera

NOTHING_BEHIND = -1


class Backing(NamedTuple):
    """How ground and backdrop are shown.

    material: row of what is seen past everything, NOTHING_BEHIND where that is one colour. middle (2,): where
    the canvas's middle looks, in px of the face plane; half (2,): half the canvas. lit: share of the lamps'
    light that the ground takes, the rest being shown flat, by the tone curve. Of the letters' shade on the
    ground: changed, whether anything is; shading (blocks,), which blocks have any; density of that of lamps,
    and contact, of all other lights; tint (3,), the share of light that the deepest shade leaves; softness,
    the deviation in px over which it is spread; moved (2,), along the ground. Of their reflection: its
    strength, its roughness, and how high above the ground, in px, what is mirrored is gone.
    """

    material: int
    middle: tuple[np.float32, np.float32]
    half: tuple[np.float32, np.float32]
    lit: np.float32
    curve: int
    changed: bool
    shading: np.ndarray
    density: np.float32
    contact: np.float32
    tint: tuple[np.float32, np.float32, np.float32]
    softness: np.float32
    moved: tuple[np.float32, np.float32]
    mirrored: np.float32
    mirror_alpha: np.float32
    fade: np.float32


def make_backing(piece: ResolvedPiece, camera: Camera, material: int) -> Backing:
    """How the backdrop of a piece is shown, its canvas seen whole by a camera; `material` as in `Backing`."""
    backdrop, canvas, curve = piece.backdrop, piece.canvas, piece.light.tone
    f, shade, reflection = np.float32, backdrop.shade, backdrop.reflection
    shading = np.array([own.block.shades_ground for own in piece.blocks], np.uint8)
    tint = hex_to_linear(shade.tint)
    return Backing(
        material,
        camera.shift,
        (f(canvas.width / 2), f(canvas.height / 2)),
        f(backdrop.lit / 100),
        CURVES[curve],
        shade != Shade() or not shading.all(),
        shading,
        f(shade.density / 100),
        f(shade.contact / 100),
        (f(tint[0]), f(tint[1]), f(tint[2])),
        f(shade.softness),
        (f(shade.x), f(shade.y)),
        f(reflection.strength / 100 if reflection else 0),
        f(reflection.roughness**2 if reflection else 0),
        f(reflection.fade if reflection else 1),
    )
