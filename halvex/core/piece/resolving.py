"""Resolving: the document's inheritance and references made plain, once.

Later stages take a `ResolvedPiece` and never ask which part follows which, what is hidden or which
lamp is off. A block keeps the numbers that it is set and formed from as they are in the document.
"""

from dataclasses import dataclass

from halvex.core.assets import SHIPPED, Assets
from halvex.core.piece.backdrop import Backdrop
from halvex.core.piece.block import Block
from halvex.core.piece.effects import AnyEffect
from halvex.core.piece.light import Light
from halvex.core.piece.material import AnyMaterial, Glass, InnerLayer, Surface
from halvex.core.piece.model import Canvas, Piece
from halvex.core.piece.view import View

# Parts of a body, in the order of `PartOf` and of every list of materials.
PART_NAMES = ("face", "bevel", "return", "back", "plate", "slab")
# The part whose material a part without one of its own takes.
FOLLOWS = {"bevel": "face", "return": "bevel", "back": "return", "plate": "return", "slab": "plate"}

# What a part can be made of: a material, or the layer painted on the rear of glass.
PartMaterial = AnyMaterial | InnerLayer


@dataclass(frozen=True)
class ResolvedBlock:
    """A block that is in the picture, and the material of each of its parts (in the order of PART_NAMES)."""

    block: Block
    materials: tuple[PartMaterial, ...]

    def materials_with(self, own: AnyMaterial | None) -> tuple[PartMaterial, ...]:
        """The same for a letter of this block that is made of a material of its own, plates and
        slab aside."""
        if own is None:
            return self.materials
        return *part_materials(Surface(face=own))[:4], *self.materials[4:]


@dataclass(frozen=True)
class ResolvedPiece:
    """What a picture is made from: the blocks that are in it, only the lamps that are on, and the files that
    they name; `named` are all blocks, which tiles may be made of."""

    canvas: Canvas
    blocks: tuple[ResolvedBlock, ...]
    view: View
    light: Light
    backdrop: Backdrop
    finish: tuple[AnyEffect, ...] = ()
    assets: Assets = SHIPPED
    named: tuple[Block, ...] = ()


def resolve(piece: Piece, assets: Assets = SHIPPED) -> ResolvedPiece:
    """The piece with nothing left to look up."""
    piece = piece.in_colours
    blocks = tuple(
        ResolvedBlock(block, part_materials(block.surface)) for block in piece.blocks if block.in_picture
    )
    lamps = tuple(lamp for lamp in piece.light.lamps if lamp.on)
    light = piece.light.model_copy(update={"lamps": lamps})
    return ResolvedPiece(
        piece.canvas, blocks, piece.view, light, piece.backdrop, piece.finish, assets, piece.blocks
    )


def part_materials(surface: Surface) -> tuple[PartMaterial, ...]:
    """Materials of face, bevel, return, back, plate and slab, each left-out part following its neighbour.

    A glass face with an inner layer carries it on its back.
    """
    bevel = surface.bevel or surface.face
    side = surface.return_ or bevel
    plate = surface.plate or side
    layer = surface.face.layer if isinstance(surface.face, Glass) else None
    return surface.face, bevel, side, surface.back or layer or side, plate, surface.slab or plate
