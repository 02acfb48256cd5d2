"""Instances: bodies that repeat, each with its own place in the piece."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from halvex.core.lettering import set_block
from halvex.core.lettering.setting import typeface_set_in
from halvex.core.piece.block import Block
from halvex.core.piece.material import AnyMaterial
from halvex.core.piece.resolving import PartMaterial, ResolvedPiece
from halvex.core.piece.turning import rotation
from halvex.core.scene.keys import content_key
from halvex.core.solids import Mesh, SolidError, block_bodies
from halvex.core.solids.mesh import MOST_TRIANGLES_IN_ALL
from halvex.core.stopping import stop_if_overtaken

Array = NDArray[np.float64]

STRAIGHT = np.eye(3)
# Which of two sides, along x, y and z, each corner of a box lies on.
CORNERS = np.array(list(np.ndindex(2, 2, 2)))
# What a block's bodies and their places within it do not depend on.
_NOT_OF_BODIES = {"id", "hidden", "guide", "locked", "group", "shades_ground", "place", "surface"}


@dataclass(frozen=True, eq=False)
class Instance:
    """A body at its place.

    transform (3, 4) takes the body's own frame to the lettering's: a turn, an even scale and an
    offset in px; bounds (2, 3) are its lowest and its highest corner there. `materials` are the
    numbers of each part's material (in the order of PartOf), `block` is the number of its block.
    """

    body: Mesh
    transform: Array
    bounds: Array
    materials: tuple[int, ...]
    block: int

    @property
    def positions(self) -> Array:
        """The body's points (n, 3) in the lettering's frame."""
        return np.asarray(self.body.positions @ self.transform[:, :3].T + self.transform[:, 3])

    @property
    def normals(self) -> Array:
        """Unit normals (m, 3, 3) in the lettering's frame, one per corner of each triangle."""
        turned = self.body.normals @ self.transform[:, :3].T
        return np.asarray(turned / np.linalg.norm(turned, axis=-1, keepdims=True))


@dataclass(frozen=True, eq=False)
class Placed:
    """Every body of a piece at its place, the materials that the instances name by number, and the
    frame of each block: frames (blocks, 3, 4) take it to the lettering's. `key` names bodies and
    places."""

    instances: tuple[Instance, ...]
    materials: list[PartMaterial]
    frames: Array
    key: str

    @property
    def corners(self) -> Array:
        """Corners (8 · instances, 3) of the instances' boxes in the lettering's frame."""
        bounds = np.array([instance.bounds for instance in self.instances])
        return np.asarray(bounds[:, CORNERS, np.arange(3)].reshape(-1, 3))


def place_bodies(piece: ResolvedPiece, *, px_scale: float = 1.0) -> Placed:
    """The bodies of a piece, as fine as a picture of `px_scale` px per px of canvas needs them.

    A block's own turn is in the transforms: a block that is moved or turned keeps its bodies.
    Raises LetteringError and SolidError, and CancelledError when the work was overtaken.
    """
    materials: dict[PartMaterial, int] = {}
    instances: list[Instance] = []
    frames, keys = [], []
    meshes: set[Mesh] = set()
    triangles = 0
    for number, resolved in enumerate(piece.blocks):
        block = resolved.block
        frame = _frame(block)
        bodies = block_bodies(
            set_block(block, px_scale=px_scale, assets=piece.assets), block.form, px_scale=px_scale
        )
        boxes = _boxes(list(dict.fromkeys(body.mesh for body in bodies)), frame[:, :3])
        offsets = np.array([body.offset for body in bodies]) @ frame[:, :3].T + frame[:, 3]
        bounds = np.array([boxes[body.mesh] for body in bodies]) + offsets[:, None]
        transforms = np.repeat(frame[None], len(bodies), axis=0)
        transforms[:, :, 3] = offsets
        rows_of: dict[AnyMaterial | None, tuple[int, ...]] = {}
        for body, transform, box in zip(bodies, transforms, bounds, strict=True):
            if body.material not in rows_of:
                rows_of[body.material] = _rows(resolved.materials_with(body.material), materials)
            instances.append(Instance(body.mesh, transform, box, rows_of[body.material], number))
        stop_if_overtaken()
        fresh = {body.mesh for body in bodies} - meshes
        meshes |= fresh
        triangles += sum(len(mesh.triangles) for mesh in fresh)
        if triangles > MOST_TRIANGLES_IN_ALL:
            raise SolidError(
                "the bodies of this piece are too many and too fine together; simplify their "
                "bevels or runs, or set fewer letters"
            )
        frames.append(frame)
        typeface = typeface_set_in(block, piece.assets)
        # Another typeface may have been brought along under the same name.
        digests = [file.digest for file in typeface.files] if typeface else []
        keys.append((type(block).__name__, block.model_dump_json(exclude=_NOT_OF_BODIES), digests))
    whole = np.array(frames)
    return Placed(tuple(instances), list(materials), whole, content_key(keys, px_scale, whole))


def _boxes(meshes: list[Mesh], turn: Array) -> dict[Mesh, Array]:
    """The lowest and the highest corner (2, 3) of each body, turned (3, 3)."""
    if (turn == STRAIGHT).all():
        return {mesh: np.array(mesh.bounds) for mesh in meshes}
    hulls = [mesh.hull for mesh in meshes]
    points = np.concatenate(hulls) @ turn.T
    begins = np.cumsum([0, *(len(hull) for hull in hulls[:-1])])
    corners = np.stack([np.minimum.reduceat(points, begins), np.maximum.reduceat(points, begins)], axis=1)
    return dict(zip(meshes, corners, strict=True))


def _frame(block: Block) -> Array:
    """A block's own turn and place (3, 4)."""
    place = block.place
    return np.column_stack([rotation(place.turn), [place.x, place.y, place.z]])


def _rows(parts: tuple[PartMaterial, ...], numbers: dict[PartMaterial, int]) -> tuple[int, ...]:
    """The number of each part's material among all, which it joins where it is new."""
    # Most parts share one: each is compared by what it is only once.
    each = {id(material): material for material in parts}
    number_of = {own: numbers.setdefault(material, len(numbers)) for own, material in each.items()}
    return tuple(number_of[id(material)] for material in parts)
