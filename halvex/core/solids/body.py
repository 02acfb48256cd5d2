"""The body of a letter: face, bevels, returns and back, cut from the roof over its outline.

The front bevel is the roof with a profile laid over its height; what lies higher than the bevel is
wide is the face. The back is the same, mirrored, and the returns join the two outlines. All points
on a cut are shared between the triangles that meet there, so a body is closed by construction.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from halvex.core.lettering.outlines import Outline
from halvex.core.piece.model import Form
from halvex.core.solids.mesh import Mesh, PartOf
from halvex.core.solids.profiles import PROFILES, steps_for
from halvex.core.solids.roof import OutlineKey, Roof, roof_of
from halvex.core.solids.wavefront.levels import cut_bands

Array = NDArray[np.float64]

# Outline corners that turn by less are part of a curve and are shaded smooth.
CREASE_ANGLE_DEG = 25.0
# Roof nodes this close to a level are on it.
LEVEL_SNAP_EM = 1e-9
# Where bevels use up the whole depth, the return that is left, in em.
THINNEST_RETURN_EM = 1e-4


@dataclass(frozen=True)
class _Edging:
    """One side's bevel in em: profile, width inwards and height along the depth (both may be 0)."""

    profile: str
    width: float
    height: float
    steps: int


def letter_body(outline: Outline, *, size: float, form: Form, px_scale: float = 1.0) -> Mesh:
    """The body of one letter at `size` px per em, its origin the outline's own, its face at z = 0.

    `px_scale` is px of the picture per px of the canvas, for the fineness of curved profiles. Where
    front and back bevel are together higher than the depth, the depth grows to hold them.
    Raises SolidError.
    """
    return _letter_body(OutlineKey(outline), size, form, px_scale)


@lru_cache(maxsize=1024)
def _letter_body(key: OutlineKey, size: float, form: Form, px_scale: float) -> Mesh:
    roof = roof_of(key)
    front = _edging(form, form.bevel.front, size, px_scale)
    back = _edging(form, form.bevel.back, size, px_scale)
    depth = max(form.depth / size, front.height + back.height + THINNEST_RETURN_EM)
    soft = _soft_corners(roof)
    top = _lid(roof, front, soft)
    bottom = _lid(roof, back, soft)
    walls = _walls(roof, soft, len(top.positions))
    top.positions[:, 2] -= front.height
    below = bottom.positions * (1, 1, -1) + (0, 0, back.height - depth)
    part_below = np.where(bottom.part == PartOf.FACE, PartOf.BACK, bottom.part)
    mirrored = bottom.triangles[:, ::-1] + len(top.positions)
    normals_below = bottom.normals[:, ::-1] * np.array([1, 1, -1], np.float32)
    return Mesh(
        np.vstack([top.positions, below]) * size,
        np.vstack([top.triangles, mirrored, walls[0]]).astype(np.int32),
        np.concatenate([top.part, part_below, np.full(len(walls[0]), PartOf.RETURN)]).astype(np.uint8),
        np.concatenate([top.normals, normals_below, walls[1]]).astype(np.float32),
    )


def _edging(form: Form, present: bool, size: float, px_scale: float) -> _Edging:
    bevel = form.bevel
    if not present or bevel.width <= 0.0 or bevel.height <= 0.0:
        return _Edging(bevel.profile, 0.0, 0.0, 1)
    steps = steps_for(max(bevel.width, bevel.height) * px_scale) if PROFILES[bevel.profile].curved else 1
    return _Edging(bevel.profile, bevel.width / size, bevel.height / size, steps)


def _lid(roof: Roof, edging: _Edging, soft: NDArray[np.bool_]) -> Mesh:
    """Face and bevel over the outline at z = 0, rising to the edging's height, in em."""
    profile = PROFILES[edging.profile]
    levels = profile.levels(edging.steps) * edging.width if edging.width else np.zeros(1)
    height = roof.nodes[:, 2].copy()
    nearest = levels[np.abs(height[:, None] - levels[None]).argmin(axis=1)]
    height = np.where(np.abs(height - nearest) < LEVEL_SNAP_EM, nearest, height)

    triangles, band, face, nodes = _cut(roof, height, levels)
    h = nodes[:, 2]
    t = np.minimum(h / edging.width, 1.0) if edging.width else np.ones_like(h)
    positions = np.column_stack([nodes[:, :2], profile.rise(t) * edging.height])

    is_face = band == len(levels) - 1
    inward = _inward_normals(roof, soft, triangles, face, nodes)
    along, up = profile.tangent(t[triangles])
    outward_share, upward_share = up * edging.height, along * edging.width
    normals = np.concatenate([-inward * outward_share[..., None], upward_share[..., None]], axis=2)
    normals[is_face] = (0.0, 0.0, 1.0)
    normals /= np.maximum(np.linalg.norm(normals, axis=2, keepdims=True), 1e-30)
    part = np.where(is_face, PartOf.FACE, PartOf.BEVEL).astype(np.uint8)
    return Mesh(positions, triangles, part, normals.astype(np.float32))


def _cut(roof: Roof, height: Array, levels: Array) -> tuple[NDArray[np.int32], NDArray[np.int32], NDArray[np.int32], Array]:
    """The roof's triangles divided at the levels: triangles, band, face, nodes (k, 3)."""
    a = roof.triangles.astype(np.int64)
    b = np.roll(a, -1, axis=1)
    low, high = np.minimum(a, b), np.maximum(a, b)
    edges, edge_of = np.unique((low * len(height) + high).ravel(), return_inverse=True)
    ends = np.column_stack(np.divmod(edges, len(height)))
    edge_heights = np.sort(height[ends], axis=1)
    cut_low = np.searchsorted(levels, edge_heights[:, 0], side="right")
    cuts = np.maximum(np.searchsorted(levels, edge_heights[:, 1], side="left") - cut_low, 0)
    cut_first = np.concatenate([[0], np.cumsum(cuts)[:-1]])
    triangles, band, face = cut_bands(roof.triangles, roof.face, height, levels, edge_of.reshape(a.shape).astype(np.int64), cut_first, cut_low, len(height))
    of_edge = np.repeat(np.arange(len(edges)), cuts)
    level = levels[cut_low[of_edge] + np.arange(len(of_edge)) - cut_first[of_edge]]
    i, j = ends[of_edge].T
    share = (level - height[i]) / np.where(height[j] == height[i], 1.0, height[j] - height[i])
    points = roof.nodes[i, :2] + share[:, None] * (roof.nodes[j, :2] - roof.nodes[i, :2])
    nodes = np.vstack([np.column_stack([roof.nodes[:, :2], height]), np.column_stack([points, level])])
    return triangles, band, face, nodes


def _soft_corners(roof: Roof) -> NDArray[np.bool_]:
    """(E,) whether the corner at the start of each outline edge belongs to a curve."""
    before, here = roof.normals[roof.edge_before], roof.normals
    return np.einsum("ij,ij->i", before, here) > np.cos(np.radians(CREASE_ANGLE_DEG))


def _end_normals(roof: Roof, soft: NDArray[np.bool_]) -> tuple[Array, Array]:
    """Inward normals (E, 2) at the start and the end of each outline edge, averaged across soft corners."""
    mean = roof.normals + roof.normals[roof.edge_before]
    mean /= np.maximum(np.linalg.norm(mean, axis=1, keepdims=True), 1e-12)
    at_start = np.where(soft[:, None], mean, roof.normals)
    at_end = np.where(soft[roof.edge_next][:, None], mean[roof.edge_next], roof.normals)
    return at_start, at_end


def _inward_normals(roof: Roof, soft: NDArray[np.bool_], triangles: NDArray[np.int32], face: NDArray[np.int32], nodes: Array) -> Array:
    """Horizontal inward normals (m, 3, 2) at triangle corners, turning along curves as the outline does.

    At height h a facet reaches from the track of its start corner to that of its end corner; the
    normal is interpolated between the two in proportion, which is exact on concentric arcs.
    """
    n = roof.normals
    along = np.column_stack([n[:, 1], -n[:, 0]])
    corners = roof.nodes[: len(n), :2]
    start = np.einsum("ij,ij->i", along, corners)
    end = np.einsum("ij,ij->i", along, corners[roof.edge_next])
    before = n[roof.edge_before]
    velocity = (before + n) / np.maximum(1.0 + np.einsum("ij,ij->i", before, n), 1e-6)[:, None]
    start_speed = np.einsum("ij,ij->i", along, velocity)
    end_speed = np.einsum("ij,ij->i", along, velocity[roof.edge_next])

    at_start, at_end = _end_normals(roof, soft)
    e = face[:, None]
    points = nodes[triangles]
    s = np.einsum("ijk,ijk->ij", along[e].repeat(3, axis=1), points[..., :2])
    s_start = start[e] + start_speed[e] * points[..., 2]
    width = end[e] + end_speed[e] * points[..., 2] - s_start
    u = np.clip((s - s_start) / np.where(np.abs(width) < 1e-12, 1.0, width), 0.0, 1.0)[..., None]
    normal = (1.0 - u) * at_start[e] + u * at_end[e]
    return normal / np.maximum(np.linalg.norm(normal, axis=2, keepdims=True), 1e-12)


def _walls(roof: Roof, soft: NDArray[np.bool_], back_offset: int) -> tuple[NDArray[np.int64], Array]:
    """The returns: two triangles per outline edge between front corner i and back corner back_offset + i."""
    i = np.arange(len(roof.normals))
    j = roof.edge_next
    first = np.column_stack([i + back_offset, j + back_offset, j])
    second = np.column_stack([i + back_offset, j, i])
    at_start, at_end = (np.column_stack([-n, np.zeros(len(n))]) for n in _end_normals(roof, soft))
    normals = np.concatenate([np.stack([at_start, at_end, at_end], axis=1), np.stack([at_start, at_end, at_start], axis=1)])
    return np.vstack([first, second]), normals
