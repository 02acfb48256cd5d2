"""A body: face, bevels, returns and back over one outline.

The front is a lid over the slope; the back is another, mirrored; the returns join their feet. All points
on a cut are shared between the triangles that meet there, so a body is closed by construction.
"""

import itertools

import numpy as np
from numpy.typing import NDArray

from halvex.core.memory import kept
from halvex.core.piece.form import Bevel, Form
from halvex.core.solids.bending import Bend, bent
from halvex.core.solids.bevel import Edging, Lid, edging, make_lid
from halvex.core.solids.cushion import cushion_lid
from halvex.core.solids.faults import SolidError
from halvex.core.solids.mesh import MOST_TRIANGLES, Mesh, PartOf
from halvex.core.solids.roof import OutlineKey, roof_of
from halvex.core.solids.slope import Slope, inset_slope, outset_slope

Array = NDArray[np.float64]
Index = NDArray[np.int64]

# Where bevels use up the whole depth, the return that is left, in em.
THINNEST_RETURN_EM = 1e-4


def outline_body(
    key: OutlineKey,
    *,
    size: float,
    depth: float,
    bevel: Bevel,
    ridge: float = 0.0,
    px_scale: float = 1.0,
    bend: Bend | None = None,
) -> Mesh:
    """The body over one outline at `size` px per em, its origin the outline's own, its face at z = 0.

    `depth` in px; `ridge` is the height in em to which a bevel `to_ridge` reaches (0: this outline's own);
    `px_scale` is px of the picture per px of the canvas, for the fineness of curved profiles. Where front
    and back bevel are together higher than the depth, the depth grows to hold them. Raises SolidError.
    """
    return _outline_body(
        key, size, depth, bevel, ridge if bevel.to_ridge or bevel.cushion else 0.0, px_scale, bend
    )


def letter_body(outline: object, *, size: float, form: Form, px_scale: float = 1.0) -> Mesh:
    """The plain body of one outline in a form."""
    return outline_body(OutlineKey(outline), size=size, depth=form.depth, bevel=form.bevel, px_scale=px_scale)  # type: ignore[arg-type]


@kept
def _outline_body(
    key: OutlineKey, size: float, depth: float, bevel: Bevel, ridge: float, px_scale: float, bend: Bend | None
) -> Mesh:
    width = bevel_width(key, bevel, size=size, ridge=ridge)
    edge = edging(bevel, width=width, size=size, px_scale=px_scale)
    slope = (
        outset_slope(key, bevel.corner, width)
        if edge and bevel.side == "outset"
        else inset_slope(key, bevel.corner)
    )
    front, back = (
        _lid(key, slope, edge if present else None, bevel, ridge) for present in (bevel.front, bevel.back)
    )
    tall = (edge.height if edge else 0.0) * np.array([bevel.front, bevel.back])
    # A bend has an extent of its own: the length of its curve.
    deep = max((bend.length if bend and bend.length else depth) / size, tall.sum() + THINNEST_RETURN_EM)
    pieces = 1 if bend is None else bend.pieces
    body = closed_body(front, back, tall[0], tall[1], deep, pieces=pieces, size=size)
    return body if bend is None else bent(body, bend, deep * size)


def bevel_width(key: OutlineKey, bevel: Bevel, *, size: float, ridge: float) -> float:
    """Width of a bevel in em: as given, or to the ridge."""
    if not bevel.to_ridge:
        return bevel.width / size
    return ridge or roof_of(key, bevel.corner).ridge


def _lid(key: OutlineKey, slope: Slope, edge: Edging | None, bevel: Bevel, ridge: float) -> Lid:
    if edge is not None and bevel.cushion and bevel.side == "inset":
        return cushion_lid(key, slope, edge, bevel.corner, ridge)
    return make_lid(slope, edge)


def closed_body(
    front: Lid, back: Lid, front_tall: float, back_tall: float, deep: float, *, pieces: int, size: float
) -> Mesh:
    """Both lids and the returns between them, all in em, as a body at `size` px per em. The returns are
    divided into `pieces` along the depth.

    Raises SolidError for more triangles than a body may have.
    """
    if 2 * pieces * len(front.rim) > MOST_TRIANGLES:
        raise SolidError("the run turns too often for so intricate an outline; let it turn less")
    top = front.positions - (0.0, 0.0, front_tall)
    below = back.positions * (1.0, 1.0, -1.0) + (0.0, 0.0, back_tall - deep)
    count = len(top)
    corners, a, b = _rim_corners(front)
    # Rings of corners from the front's foot to the back's: the first and the last are the lids' own points.
    back_of = np.zeros(len(corners), np.int64)
    back_of[a] = back.rim[:, 0] + count
    rings = [corners]
    between = []
    first = count + len(below)
    for k in range(1, pieces):
        share = k / pieces
        z = -front_tall * (1.0 - share) + (back_tall - deep) * share
        between.append(np.column_stack([top[corners, :2], np.full(len(corners), z)]))
        rings.append(first + np.arange(len(corners)))
        first += len(corners)
    rings.append(back_of)
    walls = []
    for upper, lower in itertools.pairwise(rings):
        walls += [
            np.column_stack([lower[a], lower[b], upper[b]]),
            np.column_stack([lower[a], upper[b], upper[a]]),
        ]
    wall_uv = _wall_uv(front, np.linspace(0.0, deep - front_tall - back_tall, pieces + 1))
    positions = np.vstack([top, below, *between])
    mirrored = back.normals[:, ::-1] * np.array([1, 1, -1], np.float32)
    part = np.concatenate(
        [
            np.where(front.is_face, PartOf.FACE, PartOf.BEVEL),
            np.where(back.is_face, PartOf.BACK, PartOf.BEVEL),
            np.full(2 * pieces * len(a), PartOf.RETURN),
        ]
    )
    uv = np.concatenate([front.uv, back.uv[:, ::-1], wall_uv])
    positions *= size
    uv *= np.float32(size)
    return Mesh(
        positions,
        np.vstack([front.triangles, back.triangles[:, ::-1] + count, *walls]).astype(np.int32),
        part.astype(np.uint8),
        np.concatenate([front.normals, mirrored, *_wall_normals(front) * pieces]).astype(np.float32),
        uv,
    )


def _rim_corners(lid: Lid) -> tuple[Index, Index, Index]:
    """The points of a lid's rim, in ascending order; and for each edge of the rim the places among them of
    its start and its end."""
    i, j = lid.rim.T
    corners, start = np.unique(i, return_inverse=True)
    place = np.zeros(len(lid.positions), np.int64)
    place[corners] = np.arange(len(corners))
    return corners, start, place[j]


def _wall_uv(front: Lid, across: Array) -> NDArray[np.float32]:
    """(triangles, 3, 2) along the front's foot, and across from it to the back's: `across` at each ring."""
    pieces = len(across) - 1
    uv = np.empty((pieces, 2, len(front.rim), 3, 2), np.float32)
    uv[..., 0] = front.rim_u[:, [[0, 1, 1], [0, 1, 0]]].transpose(1, 0, 2)
    uv[:, 0, :, :2, 1] = uv[:, 1, :, :1, 1] = across[1:, None, None]
    uv[:, 0, :, 2:, 1] = uv[:, 1, :, 1:, 1] = across[:-1, None, None]
    return uv.reshape(-1, 3, 2)


def _wall_normals(front: Lid) -> list[Array]:
    """Normals (edges, 3, 3) of the two triangles of a wall over each edge of the rim."""
    flat = np.zeros(len(front.rim))
    at_i, at_j = (
        np.column_stack([-front.rim_inward[:, :2], flat]),
        np.column_stack([-front.rim_inward[:, 2:], flat]),
    )
    return [np.stack([at_i, at_j, at_j], axis=1), np.stack([at_i, at_j, at_i], axis=1)]
