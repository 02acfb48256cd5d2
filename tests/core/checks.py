"""What every body must be, checked with other people's code."""

import json
import subprocess
import sys

import manifold3d
import numpy as np
import trimesh

from halvex.core.solids import Mesh

# CGAL runs in a process of its own: it can crash on hard input.
CGAL_OFFSET_AREAS = """
import json, sys
from compas.geometry import Polygon
from compas_cgal.straight_skeleton_2 import offset_polygon, offset_polygon_with_holes
rings, distances = json.load(sys.stdin)
area = lambda polygon: Polygon(polygon.points).area
outer, *holes = [[[x, y, 0] for x, y in ring] for ring in rings]
def left(d):
    if not holes:
        return sum(area(p) for p in offset_polygon(outer, d))
    pieces = offset_polygon_with_holes(outer, holes, d)
    return sum(area(p) - sum(area(h) for h in inner) for p, inner in pieces)
print(json.dumps([left(d) for d in distances]))
"""

SMALLEST_TRIANGLE_PX2 = 1e-12


def cgal_inset_areas(rings: tuple[np.ndarray, ...], distances: list[float]) -> list[float]:
    """Areas of the mitred insets of one polygon, its outer ring first, by CGAL."""
    question = json.dumps([[ring.tolist() for ring in rings], list(map(float, distances))])
    answer = subprocess.run(
        [sys.executable, "-c", CGAL_OFFSET_AREAS], input=question, capture_output=True, text=True, timeout=300
    )
    if answer.returncode:
        raise RuntimeError(answer.stderr[-300:])
    return [float(area) for area in json.loads(answer.stdout)]


def fault_of(mesh: Mesh) -> str:
    """What is wrong with a body, or nothing: by trimesh closed, two-manifold, oriented; outward, as its
    volume is more than nothing (divergence theorem); by manifold3d a solid; no triangle of no area; corner
    normals of unit length, none on the far side of its triangle."""
    body = trimesh.Trimesh(mesh.positions, mesh.triangles, process=False)
    if not body.is_watertight:
        return "open"
    if not body.is_winding_consistent:
        return "inconsistently wound"
    corners = mesh.positions[mesh.triangles]
    flat = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    if (corners[:, 0] * flat).sum() <= 0:
        return "inside out"
    twice = np.linalg.norm(flat, axis=1)
    if (twice < 2 * SMALLEST_TRIANGLE_PX2).any():
        return f"{int((twice < 2 * SMALLEST_TRIANGLE_PX2).sum())} triangles without area"
    if np.abs(np.linalg.norm(mesh.normals, axis=2) - 1).max() > 1e-4:
        return "normals that are not unit"
    facing = np.einsum("mi,mci->mc", flat / twice[:, None], mesh.normals).min(axis=1)
    # A sliver's own direction is noise; what shows is larger.
    if (facing[twice > 1e-3] < 0).any():
        return f"{int((facing[twice > 1e-3] < 0).sum())} normals that look inwards"
    if len(np.unique(mesh.positions.round(9), axis=0)) == len(mesh.positions):
        solid = manifold3d.Manifold(manifold3d.Mesh64(mesh.positions, mesh.triangles.astype(np.uint64)))
        if solid.status() != manifold3d.Error.NoError:
            return f"no solid to manifold3d: {solid.status()}"
        if abs(solid.volume() / mesh.volume - 1) > 1e-9:
            return "another volume to manifold3d"
    return ""
