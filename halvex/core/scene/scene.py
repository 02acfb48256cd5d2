"""The scene: a piece and its bodies as the arrays that the renderer reads.

World coordinates are those of the canvas. Letters that share a body are placements of it.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from halvex.core.lettering import set_block
from halvex.core.optics.material import GLASS, Materials, pack_materials
from halvex.core.piece.material import AnyMaterial, Glass, InnerLayer, Plastic, Surface
from halvex.core.piece.model import Piece
from halvex.core.scene.camera import Camera, make_camera
from halvex.core.scene.ground import Ground, make_ground
from halvex.core.scene.lamps import Lamps, pack_lamps
from halvex.core.scene.surround import Surround, make_surround
from halvex.core.scene.turning import rotation
from halvex.core.solids import Mesh, block_bodies

Array = NDArray[np.float64]

# Walls and floors are painted dead satin.
GROUND_PAINT = Plastic(roughness=0.85)

# Parts of a body, in the order of `PartOf` and of every list of materials.
PART_NAMES = ("face", "bevel", "return", "back", "plate", "slab")
# The part whose material a part without one of its own takes.
FOLLOWS = {"bevel": "face", "return": "bevel", "back": "return", "plate": "return", "slab": "plate"}

# What a part can be made of: a material, or the layer painted on the rear of glass.
Stuff = AnyMaterial | InnerLayer


@dataclass(frozen=True)
class Placement:
    """One letter: its body, its offset (3,) in the lettering's own frame and the material of each part (in the order of PartOf)."""

    body: Mesh
    offset: tuple[float, float, float]
    materials: tuple[int, ...]


@dataclass(frozen=True)
class Scene:
    """All that a picture depends on. `turn` (3, 3) takes the lettering's frame to the world."""

    placements: tuple[Placement, ...]
    turn: Array
    materials: Materials
    lamps: Lamps
    surround: Surround
    ground: Ground
    camera: Camera
    backdrop: str
    exposure: float

    @property
    def has_glass(self) -> bool:
        return bool((self.materials.kind == GLASS).any())


def place_letters(piece: Piece, *, px_scale: float = 1.0) -> tuple[list[Placement], list[Stuff]]:
    """Every letter of a piece as a placement, and the materials they refer to by number.

    Raises LetteringError and SolidError.
    """
    materials: list[Stuff] = []
    placements: list[Placement] = []
    for block in piece.blocks:
        if block.hidden:
            continue
        rows = []
        for material in part_materials(block.surface):
            if material not in materials:
                materials.append(material)
            rows.append(materials.index(material))
        for body in block_bodies(set_block(block, px_scale=px_scale), block.form, px_scale=px_scale):
            offset = (body.offset[0] + block.place.x, body.offset[1] + block.place.y, body.offset[2] + block.place.z)
            placements.append(Placement(body.mesh, offset, tuple(rows)))
    return placements, materials


def part_materials(surface: Surface) -> tuple[Stuff, ...]:
    """Materials of face, bevel, return, back, plate and slab, each left-out part following its neighbour.

    A glass face with an inner layer carries it on its back.
    """
    bevel = surface.bevel or surface.face
    side = surface.return_ or bevel
    plate = surface.plate or side
    layer = surface.face.layer if isinstance(surface.face, Glass) else None
    return surface.face, bevel, side, surface.back or layer or side, plate, surface.slab or plate


def build_scene(piece: Piece, *, px_scale: float = 1.0) -> Scene:
    """The scene of a piece for a picture of `px_scale` px per px of canvas. Raises LetteringError, SolidError, SceneError."""
    placements, materials = place_letters(piece, px_scale=px_scale)
    turn = rotation(piece.view.turn)
    corners = _corners(placements) @ turn.T
    ground = make_ground(piece.backdrop.ground, piece.backdrop.gap, corners, turn, len(materials))
    return Scene(
        tuple(placements),
        turn,
        pack_materials([*materials, GROUND_PAINT.model_copy(update={"colour": piece.backdrop.colour})], exposure=piece.light.exposure),
        pack_lamps(piece.light.lamps, turn),
        make_surround(piece.light.surround),
        ground,
        make_camera(piece.view, piece.canvas, px_scale),
        piece.backdrop.colour,
        piece.light.exposure,
    )


def _corners(placements: list[Placement]) -> Array:
    """Corners (8 per letter, 3) of the letters' boxes in the lettering's frame."""
    corners = []
    boxes = {id(p.body): (p.body.positions.min(axis=0), p.body.positions.max(axis=0)) for p in placements}
    for placement in placements:
        low, high = boxes[id(placement.body)]
        grid = np.array(np.meshgrid(*zip(low, high, strict=True))).reshape(3, -1).T
        corners.append(grid + placement.offset)
    return np.vstack(corners)
