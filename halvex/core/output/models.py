"""Model files: the piece's bodies as GLB, PLY, STL or OBJ, turned as in the view, lengths in px.

glTF lengths are metres; 1 px is written as 1 mm, so that a piece opens at a size one can handle.
"""

import numpy as np
import trimesh
from trimesh.visual.material import PBRMaterial

from halvex.core.assets import SHIPPED, Assets
from halvex.core.optics.colour import linear_to_srgb
from halvex.core.optics.material import linear_albedo
from halvex.core.optics.sources import mean_number
from halvex.core.piece.material import Glass, Glow, Metal
from halvex.core.piece.model import Piece
from halvex.core.piece.resolving import PartMaterial, resolve
from halvex.core.piece.turning import rotation
from halvex.core.scene import place_bodies
from halvex.core.solids import PartOf

METRES_PER_PX = 0.001
MODEL_FORMATS = ("glb", "ply", "stl", "obj")


def encode_model(piece: Piece, kind: str, assets: Assets = SHIPPED) -> bytes:
    """The piece's bodies as a model file of `kind`. Raises ValueError, LetteringError, SolidError."""
    if kind not in MODEL_FORMATS:
        raise ValueError(f"there is no model format “{kind}”; take one of {', '.join(MODEL_FORMATS)}")
    placed = place_bodies(resolve(piece, assets))
    turn = rotation(piece.view.turn)
    scene = trimesh.Scene()
    for number, instance in enumerate(placed.instances):
        body = instance.body
        positions = (instance.positions @ turn.T) * METRES_PER_PX
        if kind != "glb":
            scene.add_geometry(
                trimesh.Trimesh(positions, body.triangles, process=False), geom_name=f"letter-{number}"
            )
            continue
        for part in PartOf:
            chosen = body.part == part
            if chosen.any():
                # One vertex per corner, so that creases stay crisp.
                corners = positions[body.triangles[chosen]].reshape(-1, 3)
                normals = instance.normals[chosen].reshape(-1, 3) @ turn.T
                mesh = trimesh.Trimesh(
                    corners, np.arange(len(corners)).reshape(-1, 3), vertex_normals=normals, process=False
                )
                mesh.visual = trimesh.visual.TextureVisuals(
                    material=_pbr(placed.materials[instance.materials[part]])
                )
                scene.add_geometry(mesh, geom_name=f"letter-{number}-{part.name.lower()}")
    if kind == "glb":
        return bytes(scene.export(file_type="glb", include_normals=True))
    exported = scene.to_geometry().export(file_obj=None, file_type=kind)
    return exported.encode() if isinstance(exported, str) else bytes(exported)


def _pbr(material: PartMaterial) -> PBRMaterial:
    colour = linear_to_srgb(np.clip(linear_albedo(material), 0, 1)).tolist()
    return PBRMaterial(
        name=material.metal if isinstance(material, Metal) else getattr(material, "kind", "layer"),
        baseColorFactor=[*colour, 0.3 if isinstance(material, Glass) else 1.0],
        emissiveFactor=colour if isinstance(material, Glow) else None,
        metallicFactor=1.0 if isinstance(material, Metal) else 0.0,
        roughnessFactor=mean_number(getattr(material, "roughness", 1.0)),
        alphaMode="BLEND" if isinstance(material, Glass) else "OPAQUE",
    )
