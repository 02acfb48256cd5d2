"""The mitred roof over an outline: its straight skeleton with heights.

Every edge of the outline carries a plane that rises inwards at 45°; the roof is what lies lowest.
Its height at a point is the mitred distance from the outline, so every bevel, of any width, is cut
from the same roof, and where two sides meet they meet in a true ridge.

The wavefront (package `wavefront`) is exact but for rounding. `roof_over` therefore tries a short
ladder of tolerances and accepts only a roof that passes every check: faces close, arcs are shared by
exactly two faces, areas add up to the outline's and nodes lie on their planes.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from halvex.core.lettering.outlines import Outline
from halvex.core.solids.wavefront.faces import chain_faces, triangulate_faces
from halvex.core.solids.wavefront.run import shrink
from halvex.core.solids.wavefront.state import NODES, OVERFLOW, new_wave

# (contact tolerance in em, angle within which edges count as parallel in radians)
LADDER = ((1e-11, 2e-6), (1e-10, 2e-6), (1e-9, 2e-6), (1e-12, 2e-6), (1e-8, 2e-6), (1e-10, 2e-5), (1e-11, 0.0))
JITTERS_EM = (1e-8, 5e-8, 5e-7)
AREA_TOLERANCE = 1e-9
PLANE_TOLERANCE_EM = 1e-6


class SolidError(ValueError):
    """A body that cannot be made; the message names the outline."""


@dataclass(frozen=True)
class Roof:
    """Nodes (k, 3) as x, y, height in em; triangles (m, 3) of nodes; face (m,) the outline edge each lies over.

    Nodes 0..E-1 are the outline's own corners. `edge_next` (E,) is the node at the end of edge i,
    `edge_before` (E,) the edge before it; `normals` (E, 2) point inwards.
    """

    nodes: NDArray[np.float64]
    triangles: NDArray[np.int32]
    face: NDArray[np.int32]
    edge_next: NDArray[np.int64]
    edge_before: NDArray[np.int64]
    normals: NDArray[np.float64]

    @property
    def ridge(self) -> float:
        """Greatest height in em: half of the widest stroke."""
        return float(self.nodes[:, 2].max())


@lru_cache(maxsize=2048)
def roof_of(outline: "OutlineKey") -> Roof:
    """The roof of an outline, kept by the outline's digest."""
    return roof_over(outline.outline.rings, name=outline.outline.digest)


class OutlineKey:
    """An outline hashed by its digest alone, so that caches need not read its points."""

    def __init__(self, outline: Outline):
        self.outline = outline

    def __hash__(self) -> int:
        return hash(self.outline.digest)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, OutlineKey) and other.outline.digest == self.outline.digest


def roof_over(rings: tuple[NDArray[np.float64], ...], *, name: str = "outline") -> Roof:
    """The roof over rings of shape (n, 2), ink on the left, in units where 1 is about the outline's size.

    Raises SolidError where no tolerance gives a roof that passes the checks.
    """
    points = np.vstack(rings)
    ring_of = np.repeat(np.arange(len(rings)), [len(ring) for ring in rings])
    nxt = _next_index(ring_of)
    # Far from the origin the offsets of the lines lose digits that the ladder's tolerances need.
    centre = (points.min(axis=0) + points.max(axis=0)) / 2
    for epsilon, angle in LADDER:
        roof = _attempt(points - centre, ring_of, nxt, epsilon, angle)
        if roof is not None:
            return _moved(roof, centre)
    random = np.random.default_rng(0)
    for jitter in JITTERS_EM:
        roof = _attempt(points - centre + random.uniform(-jitter, jitter, points.shape), ring_of, nxt, 1e-10, 2e-6)
        if roof is not None:
            # The corners stay the outline's own, so that letters meet what they met before.
            roof.nodes[: len(points), :2] = points - centre
            return _moved(roof, centre)
    raise SolidError(f"no roof could be made over {name}; another size or typeface will do")


def _moved(roof: Roof, centre: NDArray[np.float64]) -> Roof:
    roof.nodes[:, :2] += centre
    return roof


def _next_index(ring_of: NDArray[np.int64]) -> NDArray[np.int64]:
    nxt = np.arange(len(ring_of)) + 1
    last = np.append(np.flatnonzero(np.diff(ring_of)), len(ring_of) - 1)
    nxt[last] = np.append(0, last[:-1] + 1)
    return nxt


def _attempt(points: NDArray[np.float64], ring_of: NDArray[np.int64], nxt: NDArray[np.int64], epsilon: float, angle: float) -> Roof | None:
    normals, offsets, corners = _lines(points, nxt, angle)
    segments = np.hstack([corners, corners[nxt]])
    for room in (6, 24):
        wave = new_wave(normals, offsets, segments, room)
        done = shrink(wave, ring_of, corners, epsilon)
        if done or not wave.tally[OVERFLOW]:
            break
    if not done or wave.tally[OVERFLOW]:
        return None
    edges = np.arange(len(points))
    closed, first, ring_nodes = chain_faces(wave, edges, nxt)
    if not closed:
        return None
    count = int(wave.tally[NODES])
    xy, height = wave.node_xy[:count].copy(), wave.node_t[:count].copy()
    cut, triangles, face = triangulate_faces(first, ring_nodes, xy, height, normals)
    if not cut:
        return None
    before = np.empty(len(points), np.int64)
    before[nxt] = edges
    roof = Roof(np.column_stack([xy, height]), triangles, face, nxt, before, normals)
    return roof if _passes(roof, offsets, corners) else None


def _lines(points: NDArray[np.float64], nxt: NDArray[np.int64], angle: float) -> tuple[NDArray[np.float64], ...]:
    """Edges as lines, with directions that are all but parallel made exactly so.

    Two sides of a stem that differ by 1e-7 rad would meet in a vertex of speed 1e7 whose place is noise.
    """
    along = points[nxt] - points
    length = np.hypot(*along.T)
    direction = along / length[:, None]
    if angle > 0.0:
        direction = _snap_directions(direction, length, angle)
    normals = np.column_stack([-direction[:, 1], direction[:, 0]])
    offsets = np.einsum("ij,ij->i", normals, (points + points[nxt]) / 2)
    before = np.empty_like(nxt)
    before[nxt] = np.arange(len(points))
    n1, n2, c1, c2 = normals[before], normals, offsets[before], offsets
    cross = n1[:, 0] * n2[:, 1] - n1[:, 1] * n2[:, 0]
    sharp = np.abs(cross) > 1e-4
    corners = points.copy()
    safe = np.where(sharp, cross, 1.0)
    meet = np.column_stack([(c1 * n2[:, 1] - c2 * n1[:, 1]) / safe, (n1[:, 0] * c2 - n2[:, 0] * c1) / safe])
    corners[sharp] = meet[sharp]
    return normals, offsets, corners


def _snap_directions(direction: NDArray[np.float64], length: NDArray[np.float64], angle: float) -> NDArray[np.float64]:
    heading = np.arctan2(direction[:, 1], direction[:, 0]) % np.pi
    heading[heading > np.pi - angle] -= np.pi
    order = np.argsort(heading)
    groups = np.split(order, np.flatnonzero(np.diff(heading[order]) > angle) + 1)
    snapped = direction.copy()
    for group in groups:
        if len(group) < 2 or np.ptp(heading[group]) > 2 * angle:
            continue
        axis_parallel = group[(direction[group] == 0.0).any(axis=1)]
        leader = direction[axis_parallel[0]] if len(axis_parallel) else direction[group[np.argmax(length[group])]]
        snapped[group] = leader * np.sign(direction[group] @ leader)[:, None]
    return snapped


def _passes(roof: Roof, offsets: NDArray[np.float64], corners: NDArray[np.float64]) -> bool:
    nodes, triangles, face = roof.nodes, roof.triangles, roof.face
    a, b, c = (nodes[triangles[:, i]] for i in range(3))
    areas = 0.5 * ((b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0]))
    x, y = corners.T
    outline_area = 0.5 * float(np.sum(x * y[roof.edge_next] - y * x[roof.edge_next]))
    if abs(areas.sum() - outline_area) > AREA_TOLERANCE * max(outline_area, 1e-12) or areas.min() < -AREA_TOLERANCE:
        return False
    for corner in (a, b, c):
        on_plane = np.einsum("ij,ij->i", roof.normals[face], corner[:, :2]) - offsets[face]
        if np.abs(on_plane - corner[:, 2]).max() > PLANE_TOLERANCE_EM:
            return False
    return _arcs_twinned(triangles, len(corners), roof.edge_next)


def _arcs_twinned(triangles: NDArray[np.int32], edges: int, nxt: NDArray[np.int64]) -> bool:
    """Every inner edge is used once each way and every base edge once."""
    starts = triangles.ravel().astype(np.int64)
    ends = np.roll(triangles, -1, axis=1).ravel().astype(np.int64)
    span = int(triangles.max()) + 1
    forward, backward = np.sort(starts * span + ends), ends * span + starts
    if len(np.unique(forward)) != len(forward):
        return False
    lonely = np.isin(backward, forward, invert=True, assume_unique=True)
    return int(lonely.sum()) == edges and bool((nxt[starts[lonely]] == ends[lonely]).all())
