"""Mesh: what every form becomes and what the renderer and the exporters read."""

from dataclasses import dataclass
from enum import IntEnum

import numpy as np
from numpy.typing import NDArray


class PartOf(IntEnum):
    """Which part of a body a triangle belongs to."""

    FACE = 0
    BEVEL = 1
    RETURN = 2
    BACK = 3


@dataclass(frozen=True)
class Mesh:
    """A closed body, outward-facing counter-clockwise.

    positions (n, 3) float64 in px; triangles (m, 3) int32; part (m,) uint8 of PartOf;
    normals (m, 3, 3) float32, unit, one per corner of each triangle.
    """

    positions: NDArray[np.float64]
    triangles: NDArray[np.int32]
    part: NDArray[np.uint8]
    normals: NDArray[np.float32]

    @property
    def volume(self) -> float:
        """Volume in px³ by the divergence theorem."""
        a, b, c = (self.positions[self.triangles[:, i]] for i in range(3))
        return float(np.einsum("ij,ij->", a, np.cross(b, c)) / 6.0)


def merged(meshes: list[Mesh]) -> Mesh:
    """Several meshes as one, positions kept apart."""
    offsets = np.cumsum([0] + [len(mesh.positions) for mesh in meshes[:-1]])
    return Mesh(
        np.vstack([mesh.positions for mesh in meshes]),
        np.vstack([mesh.triangles + offset for mesh, offset in zip(meshes, offsets, strict=True)]).astype(np.int32),
        np.concatenate([mesh.part for mesh in meshes]),
        np.concatenate([mesh.normals for mesh in meshes]),
    )
