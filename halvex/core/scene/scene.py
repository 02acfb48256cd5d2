"""The scene: a piece and its bodies as the arrays that the renderer reads.

World coordinates are those of the canvas. Letters that share a body are placements of it.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from halvex.core.lettering import set_block
from halvex.core.memory import kept
from halvex.core.optics.material import GLASS, Materials, pack_materials
from halvex.core.piece.block import Block
from halvex.core.piece.lettering import Lettering
from halvex.core.piece.mark import Mark
from halvex.core.piece.material import AnyMaterial, Glass, InnerLayer, Plastic, Surface
from halvex.core.piece.model import Piece
from halvex.core.piece.turning import rotation
from halvex.core.piece.view import Turn
from halvex.core.scene.camera import Camera, make_camera
from halvex.core.scene.ground import Ground, front_of, make_ground
from halvex.core.scene.lamps import Lamps, pack_lamps
from halvex.core.scene.surround import Surround, make_surround
from halvex.core.solids import Mesh, SolidError, block_bodies
from halvex.core.solids.mesh import MOST_TRIANGLES_IN_ALL
from halvex.core.stopping import stop_if_overtaken

Array = NDArray[np.float64]

# Walls and floors are painted dead satin.
GROUND_PAINT = Plastic(roughness=0.85)

STRAIGHT = Turn()
# How many times as wide or as high as the canvas a picture is taken to be at most, when parallel rays are placed.
WIDEST_PICTURE = 4.0

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

    Raises LetteringError and SolidError, and CancelledError when the work was overtaken.
    """
    materials: list[Stuff] = []
    placements: list[Placement] = []
    for block in piece.blocks:
        if not block.in_picture:
            continue
        turn = rotation(block.place.turn)
        place = np.array([block.place.x, block.place.y, block.place.z])
        rows_of: dict[AnyMaterial | None, tuple[int, ...]] = {}
        for body in block_bodies(set_block(block, px_scale=px_scale), block.form, px_scale=px_scale):
            if body.material not in rows_of:
                rows_of[body.material] = _rows(part_materials(surface_with(block.surface, body.material)), materials)
            mesh = turned_mesh(body.mesh, block.place.turn) if block.place.turn != STRAIGHT else body.mesh
            x, y, z = (turn @ np.array(body.offset) + place).tolist()
            placements.append(Placement(mesh, (x, y, z), rows_of[body.material]))
        stop_if_overtaken()
        if sum(len(mesh.triangles) for mesh in {placement.body for placement in placements}) > MOST_TRIANGLES_IN_ALL:
            raise SolidError("the bodies of this piece are too many and too fine together; simplify their bevels or runs, or set fewer letters")
    return placements, materials


def _rows(parts: tuple[Stuff, ...], materials: list[Stuff]) -> tuple[int, ...]:
    """The number of each part's material in the list of all, which it joins where it is new."""
    for material in parts:
        if material not in materials:
            materials.append(material)
    return tuple(materials.index(material) for material in parts)


@kept
def turned_mesh(mesh: Mesh, turn: Turn) -> Mesh:
    """A body turned about its own origin; kept, so that what was built of it stays."""
    matrix = rotation(turn)
    return replace(mesh, positions=mesh.positions @ matrix.T, normals=(mesh.normals @ matrix.T).astype(np.float32))


def surface_with(surface: Surface, material: AnyMaterial | None) -> Surface:
    """The surface of a block, or of its part that is made of a material of its own all over, plates and slab aside."""
    if material is None:
        return surface
    _, _, _, _, plate, slab = part_materials(surface)
    return Surface(face=material, plate=plate, slab=slab)


def stuffs_of(block: Block) -> list[Stuff]:
    """All that a block is made of: part by part, then the same of its letters or parts that have materials of their own."""
    own: list[AnyMaterial | None] = []
    if isinstance(block, Lettering):
        own = [letter.material for letter in block.letters.values()]
    elif isinstance(block, Mark):
        own = [part.material for part in block.parts if not part.hidden]
    return [stuff for material in dict.fromkeys([None, *own]) for stuff in part_materials(surface_with(block.surface, material))]


def part_materials(surface: Surface) -> tuple[Stuff, ...]:
    """Materials of face, bevel, return, back, plate and slab, each left-out part following its neighbour.

    A glass face with an inner layer carries it on its back.
    """
    bevel = surface.bevel or surface.face
    side = surface.return_ or bevel
    plate = surface.plate or side
    layer = surface.face.layer if isinstance(surface.face, Glass) else None
    return surface.face, bevel, side, surface.back or layer or side, plate, surface.slab or plate


def build_scene(piece: Piece, *, px_scale: float = 1.0, detail: float | None = None) -> Scene:
    """The scene of a piece for a picture of `px_scale` px per px of canvas, its bodies as fine as for one of `detail`.

    Raises LetteringError, SolidError, SceneError.
    """
    placements, materials = place_letters(piece, px_scale=detail or px_scale)
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
        _camera(piece, px_scale, ground, float(corners[:, 2].max())),
        piece.backdrop.colour,
        piece.light.exposure,
    )


def _camera(piece: Piece, px_scale: float, ground: Ground, front: float) -> Camera:
    """The camera, its parallel rays starting right before the letters (their greatest z: `front`) and the ground."""
    camera = make_camera(piece.view, piece.canvas, px_scale)
    if not camera.parallel:
        return camera
    # A picture of another shape than the canvas shows more at its sides.
    half = WIDEST_PICTURE * np.array([piece.canvas.width, piece.canvas.height]) / float(camera.zoom) / 2
    frame = np.array(camera.shift, float) + half * [(-1, -1), (1, -1), (-1, 1), (1, 1)]
    lean = (float(camera.lean[0]), float(camera.lean[1]))
    return make_camera(piece.view, piece.canvas, px_scale, front=max(front, front_of(ground, frame, lean)) + 1.0)


def _corners(placements: list[Placement]) -> Array:
    """Corners (8 per letter, 3) of the letters' boxes in the lettering's frame."""
    offsets = np.array([p.offset for p in placements])
    sides = np.array([p.body.bounds for p in placements]) + offsets[:, None]
    corner = np.array(list(np.ndindex(2, 2, 2)))
    return sides[:, corner, np.arange(3)].reshape(-1, 3)
