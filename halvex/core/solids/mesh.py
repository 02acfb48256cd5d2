"""Mesh: what every form becomes and what the renderer and the exporters read."""

from dataclasses import dataclass, replace
from enum import IntEnum
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import ConvexHull, QhullError

# Triangles of one body, and of all bodies of a piece: about 1 GB with their trees.
MOST_TRIANGLES, MOST_TRIANGLES_IN_ALL = 2_000_000, 5_000_000
# A hull of these takes 50 ms at most; that of a tube of 64,000 points took 7 s.
MOST_HULL_POINTS = 5000


class PartOf(IntEnum):
    """Which part of a body a triangle belongs to."""

    FACE = 0
    BEVEL = 1
    RETURN = 2
    BACK = 3
    PLATE = 4
    SLAB = 5


@dataclass(frozen=True, eq=False)
class Mesh:
    """A closed body, or what of one is of one material, outward-facing counter-clockwise; one is
    the same as another only if it is that one.

    positions (n, 3) float64 in px; triangles (m, 3) int32; part (m,) uint8 of PartOf;
    normals (m, 3, 3) float32, unit, one per corner of each triangle; uv (m, 3, 2) float32 in px, one per
    corner: on faces, backs and cushions the place in the body's plane, on bevels and returns (length along
    the outline, distance across), on tubes (length, way around).
    """

    positions: NDArray[np.float64]
    triangles: NDArray[np.int32]
    part: NDArray[np.uint8]
    normals: NDArray[np.float32]
    uv: NDArray[np.float32]

    @property
    def volume(self) -> float:
        """Volume in px³ by the divergence theorem."""
        a, b, c = (self.positions[self.triangles[:, i]] for i in range(3))
        return float(np.einsum("ij,ij->", a, np.cross(b, c)) / 6.0)

    @property
    def area(self) -> float:
        """Area of its surface in px²."""
        a, b, c = (self.positions[self.triangles[:, i]] for i in range(3))
        return float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2)

    @cached_property
    def bounds(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Its lowest and its highest corner, (3,) px each."""
        return self.positions.min(axis=0), self.positions.max(axis=0)

    @cached_property
    def finite(self) -> bool:
        """Whether all of its points have a place."""
        return bool(np.isfinite(self.bounds).all())

    @cached_property
    def hull(self) -> NDArray[np.float64]:
        """Its points (h, 3) that no turn hides behind others: the corners of its convex hull, or all where
        they are so many that the hull would take longer than it saves."""
        if len(self.positions) > MOST_HULL_POINTS:
            return self.positions
        try:
            return np.asarray(self.positions[ConvexHull(self.positions).vertices])
        except QhullError:  # all in one plane
            return self.positions

    def all_of(self, part: PartOf) -> "Mesh":
        """The same body as one part."""
        return replace(self, part=np.full_like(self.part, part))

    def moved(self, x: float, y: float, z: float) -> "Mesh":
        return replace(self, positions=self.positions + (x, y, z))

    def chosen(self, which: NDArray[np.bool_]) -> "Mesh":
        """Those of its triangles (m,) with the points that they use."""
        used, name = np.unique(self.triangles[which], return_inverse=True)
        triangles = name.reshape(-1, 3).astype(np.int32)
        corners = self.part[which], self.normals[which], self.uv[which]
        return Mesh(self.positions[used], triangles, *corners)


def merged(meshes: list[Mesh]) -> Mesh:
    """Several meshes as one, positions kept apart."""
    offsets = np.cumsum([0] + [len(mesh.positions) for mesh in meshes[:-1]])
    return Mesh(
        np.vstack([mesh.positions for mesh in meshes]),
        np.vstack([mesh.triangles + offset for mesh, offset in zip(meshes, offsets, strict=True)]).astype(
            np.int32
        ),
        np.concatenate([mesh.part for mesh in meshes]),
        np.concatenate([mesh.normals for mesh in meshes]),
        np.concatenate([mesh.uv for mesh in meshes]),
    )


def rings_along(edges: NDArray[np.int64]) -> list[list[int]]:
    """Directed edges (n, 2) of closed rings, chained: the vertices of each ring in order."""
    follow: dict[int, list[int]] = {}
    for a, b in edges.tolist():
        follow.setdefault(a, []).append(b)
    rings = []
    while follow:
        start = here = next(iter(follow))
        ring = []
        while True:
            ring.append(here)
            ends = follow[here]
            following = ends.pop()
            if not ends:
                del follow[here]
            here = following
            if here == start or here not in follow:
                break
        rings.append(ring)
    return rings


def open_edges(triangles: NDArray[np.int32]) -> NDArray[np.int64]:
    """Directed edges (n, 2) of triangles that no other triangle uses the other way."""
    starts = triangles.ravel().astype(np.int64)
    ends = np.roll(triangles, -1, axis=1).ravel().astype(np.int64)
    span = int(triangles.max()) + 1 if len(triangles) else 1
    lonely = np.isin(ends * span + starts, starts * span + ends, invert=True)
    return np.column_stack([starts[lonely], ends[lonely]])
