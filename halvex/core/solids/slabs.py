"""Slabs: what letters stand on, or are cut into.

An incised slab is one body: the slab's face is what its edge bevel leaves, less the letters; each letter is
a pit whose walls fall as the roof over it would rise, so a V is deeper where the stroke is wider.
"""

import math
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from halvex.core.lettering.outlines import Outline, flattening_tolerance, outline_of, polygon_of
from halvex.core.lettering.shapes import rectangle
from halvex.core.piece.form import Bevel, Form, Slab
from halvex.core.piece.material import AnyMaterial
from halvex.core.solids.bevel import Edging, Lid, edging, make_lid
from halvex.core.solids.body import THINNEST_RETURN_EM, closed_body
from halvex.core.solids.faults import SolidError
from halvex.core.solids.mesh import Mesh, PartOf, merged, open_edges, rings_along
from halvex.core.solids.profiles import chamfer
from halvex.core.solids.roof import OutlineKey, roof_of
from halvex.core.solids.slope import inset_slope

Array = NDArray[np.float64]
Box = tuple[float, float, float, float]

# What a slab keeps under the deepest cut, as a share of that cut.
FLOOR_SHARE = 0.1
WELD_DIGITS = 7


@dataclass(frozen=True)
class Cutter:
    """One outline that is cut in: its place in px from the block's and px per em; a flat cut's own
    depth in px and the material of its walls and floor, where it has any of its own."""

    key: OutlineKey
    size: float
    x: float
    y: float
    depth: float | None = None
    material: AnyMaterial | None = None


def slab_outline(slab: Slab, box: Box, *, px_scale: float) -> tuple[Outline, float, float, float]:
    """The slab's outline in units of its longer side: (outline, px per unit, x, y of its middle in px)."""
    left, bottom, right, top = box
    width = slab.width if slab.width is not None else right - left + 2 * slab.margin
    height = slab.height if slab.height is not None else top - bottom + 2 * slab.margin
    size = max(width, height)
    ring = rectangle(
        width / size, height / size, slab.corner_radius / size, flattening_tolerance(size, px_scale)
    )
    return outline_of((ring,), "the slab"), size, (left + right) / 2, (bottom + top) / 2


def plain_slab(slab: Slab, box: Box, *, px_scale: float) -> Mesh:
    """The slab by itself, its face at z = 0, about the middle of `box`."""
    outline, size, x, y = slab_outline(slab, box, px_scale=px_scale)
    body, _ = _slab_body(OutlineKey(outline), slab.bevel, size, slab.depth, px_scale)
    return body.moved(x, y, 0.0).all_of(PartOf.SLAB)


def _slab_body(
    key: OutlineKey, bevel: Bevel, size: float, depth: float, px_scale: float
) -> tuple[Mesh, float]:
    """The slab in px about its middle, and how far its edge bevel reaches in."""
    roof_height = roof_of(key).ridge
    width = roof_height if bevel.to_ridge else min(bevel.width / size, roof_height)
    edge = edging(bevel, width=width, size=size, px_scale=px_scale)
    slope = inset_slope(key, "mitred")
    tall = edge.height if edge else 0.0
    front, back = (
        make_lid(slope, edge if bevel.front else None),
        make_lid(slope, edge if bevel.back else None),
    )
    talls = (tall if bevel.front else 0.0, tall if bevel.back else 0.0)
    deep = max(depth / size, sum(talls) + THINNEST_RETURN_EM)
    return closed_body(front, back, *talls, deep, pieces=1, size=size), width * size


def incised_slab(
    form: Form, cutters: list[Cutter], box: Box, *, px_scale: float
) -> dict[AnyMaterial | None, Mesh]:
    """A slab with letters cut into it, its face at z = 0: its own surface, and that of the cuts of
    each other material.

    Together they are one closed body. Raises SolidError where letters reach over its face.
    """
    pits = _pits(form, cutters, px_scale)
    deepest = -min(pit.positions[:, 2].min() for pit in pits)
    outline, size, x, y = slab_outline(form.slab, box, px_scale=px_scale)
    whole, _ = _slab_body(
        OutlineKey(outline),
        form.slab.bevel,
        size,
        max(form.slab.depth, deepest * (1 + FLOOR_SHARE)),
        px_scale,
    )
    whole = whole.moved(x, y, 0.0)
    face = whole.part == PartOf.FACE
    shell = Mesh(
        whole.positions,
        whole.triangles[~face],
        np.full(int((~face).sum()), PartOf.SLAB, np.uint8),
        whole.normals[~face],
        whole.uv[~face],
    )
    rings = [whole.positions[ring, :2] for ring in rings_along(open_edges(whole.triangles[face]))]
    # The foot of every pit is what is open of it, seen from above.
    pit_rings = [pit.positions[ring, :2] for pit in pits for ring in rings_along(open_edges(pit.triangles))]
    area, ground = polygon_of([*rings, *pit_rings]), polygon_of(rings)
    if not rings or not all(
        shapely.contains_properly(ground, shapely.linearrings(ring)) for ring in pit_rings
    ):
        raise SolidError(
            "the letters reach over the face of the slab; give the slab more margin or a larger size"
        )
    materials = [None, None, *(cutter.material for cutter in cutters)]
    return _welded([shell, _flat(area), *pits], materials)


def _flat(area: shapely.Geometry) -> Mesh:
    """A flat area at z = 0 as triangles that use its own points only."""
    triangles = shapely.get_parts(shapely.constrained_delaunay_triangles(area))
    corners = shapely.get_coordinates(triangles).reshape(-1, 4, 2)[:, :3]
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    clockwise = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) < (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    corners[clockwise] = corners[clockwise][:, ::-1]
    points = np.column_stack([corners.reshape(-1, 2), np.zeros(3 * len(corners))])
    count = len(corners)
    up = np.tile(np.array([0, 0, 1], np.float32), (count, 3, 1))
    return Mesh(
        points,
        np.arange(3 * count, dtype=np.int32).reshape(-1, 3),
        np.full(count, PartOf.SLAB, np.uint8),
        up,
        corners.astype(np.float32),
    )


def _pits(form: Form, cutters: list[Cutter], px_scale: float) -> list[Mesh]:
    steepness = _steepness(form, cutters)
    pits = []
    for cutter in cutters:
        slope = inset_slope(cutter.key, form.bevel.corner)
        if form.stands == "v-cut":
            reach = roof_of(cutter.key, form.bevel.corner).ridge
            pits.append(_pit(make_lid(slope, Edging(chamfer(), reach, reach * steepness)), 0.0, cutter))
            continue
        width = (
            roof_of(cutter.key, form.bevel.corner).ridge
            if form.bevel.to_ridge
            else form.bevel.width / cutter.size
        )
        depth = form.incision.depth if cutter.depth is None else cutter.depth
        wall = form.bevel.model_copy(update={"height": depth})
        edge = edging(wall, width=width, size=cutter.size, px_scale=px_scale)
        pits.append(_pit(make_lid(slope, edge), 0.0 if edge else depth / cutter.size, cutter))
    return pits


def _steepness(form: Form, cutters: list[Cutter]) -> float:
    """How far a V goes down for each px from the outline: 1 / tan of half its included angle."""
    if form.incision.by == "angle":
        return 1.0 / math.tan(math.radians(form.incision.angle) / 2)
    widest = max(roof_of(cutter.key, form.bevel.corner).ridge * cutter.size for cutter in cutters)
    return form.incision.depth / widest


def _pit(lid: Lid, upright: float, cutter: Cutter) -> Mesh:
    """A lid upside down as a pit with its foot at z = 0, under upright walls of `upright` em where
    there are any."""
    positions = lid.positions * (1.0, 1.0, -1.0) - (0.0, 0.0, upright)
    normals = lid.normals * np.array([-1, -1, 1], np.float32)
    triangles = lid.triangles
    part = np.where(lid.is_face, PartOf.FACE, PartOf.BEVEL).astype(np.uint8)
    uv = lid.uv
    if upright > 0.0:
        i, j = lid.rim.T
        corners = np.unique(i)
        foot = np.zeros(len(positions), np.int64)
        foot[corners] = np.arange(len(corners)) + len(positions)
        top = positions[corners] * (1, 1, 0)
        walls = np.vstack([np.column_stack([foot[i], foot[j], j]), np.column_stack([foot[i], j, i])])
        flat = np.zeros(len(i))
        at_i, at_j = (
            np.column_stack([lid.rim_inward[:, :2], flat]),
            np.column_stack([lid.rim_inward[:, 2:], flat]),
        )
        inward = np.concatenate([np.stack([at_i, at_j, at_j], axis=1), np.stack([at_i, at_j, at_i], axis=1)])
        positions = np.vstack([positions, top])
        triangles = np.vstack([triangles, walls]).astype(np.int32)
        normals = np.concatenate([normals, inward.astype(np.float32)])
        part = np.concatenate([part, np.full(len(walls), PartOf.RETURN, np.uint8)])
        (u_i, u_j), down = lid.rim_u.T, np.full(len(i), upright)
        top_i, top_j = np.stack([u_i, 0 * down], axis=1), np.stack([u_j, 0 * down], axis=1)
        foot_i, foot_j = np.stack([u_i, down], axis=1), np.stack([u_j, down], axis=1)
        sides = [np.stack([top_i, top_j, foot_j], axis=1), np.stack([top_i, foot_j, foot_i], axis=1)]
        uv = np.concatenate([uv, *sides])
    placed = positions * cutter.size + (cutter.x, cutter.y, 0.0)
    # Floors lie in the block's plane.
    shift = np.where((part == PartOf.FACE)[:, None, None], (cutter.x, cutter.y), 0.0)
    return Mesh(placed, triangles, part, normals, (uv * cutter.size + shift).astype(np.float32))


def _welded(pieces: list[Mesh], materials: list[AnyMaterial | None]) -> dict[AnyMaterial | None, Mesh]:
    """Pieces that meet in the very same points as one body, which falls into a surface of each material."""
    whole = merged(pieces)
    _, first, name = np.unique(
        np.round(whole.positions, WELD_DIGITS), axis=0, return_index=True, return_inverse=True
    )
    welded = Mesh(
        whole.positions[first],
        name[whole.triangles].astype(np.int32),
        whole.part,
        whole.normals,
        whole.uv,
    )
    of_piece = np.repeat(np.arange(len(pieces)), [len(piece.triangles) for piece in pieces])
    return {
        material: welded.chosen(
            np.isin(of_piece, [i for i, other in enumerate(materials) if other == material])
        )
        for material in dict.fromkeys(materials)
    }
