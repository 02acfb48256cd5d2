"""The slope: the ground a profile is laid over, from the outer edge of a bevel to the ridge.

Inset, it is the roof of the outline itself. Outset, the outline stays the face: the roof of the ground
around it comes first, its heights counted down from the bevel's width, and the outline's own roof
continues above. Either way a profile needs the slope's heights only.

The slope also knows which way each point faces, so that curves are shaded smooth: see `Facets`.
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from halvex.core.memory import kept
from halvex.core.solids.kernels.bevel import Facets
from halvex.core.solids.roof import CURVE_TURN_DEG, Array, Corner, OutlineKey, Roof, roof_of, roof_over

# Mitres run out at most twice as fast as the bevel, so this box around an outset is never reached by it.
BOX_MARGIN = 3.0


@dataclass(frozen=True)
class Slope:
    """nodes (k, 2) in em; height (k,) from the outer edge; triangles (m, 3); face (m,) in [0, F).

    `inset`: the foot is the outline itself.
    """

    nodes: Array
    height: Array
    triangles: NDArray[np.int32]
    face: NDArray[np.int32]
    facets: Facets
    inset: bool


@kept
def inset_slope(key: OutlineKey, corner: Corner) -> Slope:
    """The slope that starts on the outline and rises inwards."""
    roof = roof_of(key, corner)
    # Contiguous, as the kernel is compiled for.
    nodes, height = np.ascontiguousarray(roof.nodes[:, :2]), np.ascontiguousarray(roof.nodes[:, 2])
    tracks = _tracks(roof)
    facets = Facets(tracks, _turn(roof), _wall_turn(roof), _arcs(roof, tracks))
    return Slope(nodes, height, roof.triangles, roof.face, facets, True)


@kept
def outset_slope(key: OutlineKey, corner: Corner, width: float) -> Slope:
    """The slope that starts `width` em outside the outline and rises across it. Raises SolidError."""
    inner = inset_slope(key, corner)
    # Rounded up, so that a width under the hand does not ask for a new roof at every px.
    around = surrounding_roof(key, corner, 2.0 ** math.ceil(math.log2(width)))
    rings = key.outline.rings
    outer_nodes = len(around.nodes)
    inner_roof = roof_of(key, corner)
    # Corners of the outline are nodes of both roofs; the outer one lists its rings backwards.
    same = np.full(outer_nodes, -1, np.int64)
    real_inner, real_outer = (
        inner_roof.start[inner_roof.start != inner_roof.end],
        around.start[around.start != around.end][4:],
    )
    first = 0
    for ring in rings:
        span = slice(first, first + len(ring))
        same[real_outer[span]] = real_inner[span][::-1]
        first += len(ring)
    name = np.where(same >= 0, same, np.cumsum(same < 0) - 1 + len(inner.nodes))
    keep = around.face >= 4
    outer_height = width - around.nodes[:, 2]
    tracks = _tracks(around)
    # Facets around the outline begin where the bevel does, and are as long as they are there.
    arcs = _arcs(around, tracks, width)
    tracks[:, [2, 4]] += width * tracks[:, [3, 5]]
    tracks[:, [3, 5]] *= -1
    turns = np.vstack([inner.facets.turn, -_turn(around)])
    nodes = np.vstack([inner.nodes, around.nodes[same < 0, :2]])
    height = np.concatenate([inner.height + width, outer_height[same < 0]])
    inner_tracks, inner_arcs = inner.facets.tracks.copy(), inner.facets.arcs.copy()
    inner_arcs[:, 4] = width
    inner_tracks[:, [2, 4]] -= width * inner_tracks[:, [3, 5]]
    return Slope(
        nodes,
        height,
        np.vstack([inner.triangles, name[around.triangles[keep]]]).astype(np.int32),
        np.concatenate([inner.face, around.face[keep] + len(inner_tracks)]).astype(np.int32),
        Facets(np.vstack([inner_tracks, tracks]), turns, turns, np.vstack([inner_arcs, arcs])),
        False,
    )


@kept
def surrounding_roof(key: OutlineKey, corner: Corner, reach: float) -> Roof:
    """The roof of the ground around an outline, true up to a height of `reach` em.

    Its first four edges are those of a far box; then follow the outline's rings, each backwards.
    """
    points = np.vstack(key.outline.rings)
    margin = BOX_MARGIN * reach + 0.1
    (left, bottom), (right, top) = points.min(axis=0) - margin, points.max(axis=0) + margin
    box = np.array([(left, bottom), (right, bottom), (right, top), (left, top)])
    return roof_over((box, *(ring[::-1] for ring in key.outline.rings)), corner=corner, name=key.outline.name)


def _along(roof: Roof) -> Array:
    return np.column_stack([roof.normals[:, 1], -roof.normals[:, 0]])


def _tracks(roof: Roof) -> Array:
    n, along = roof.normals, _along(roof)
    before = n[roof.before]
    velocity = (before + n) / np.maximum(1.0 + np.einsum("ij,ij->i", before, n), 1e-6)[:, None]
    start, end = (np.einsum("ij,ij->i", along, roof.nodes[at, :2]) for at in (roof.start, roof.end))
    start_speed = np.einsum("ij,ij->i", along, velocity)
    end_speed = np.einsum("ij,ij->i", along, velocity[roof.after])
    return np.column_stack([along, start, start_speed, end, end_speed])


def _arcs(roof: Roof, tracks: Array, height: float = 0.0) -> Array:
    """(F, 5) how far along its ring each edge of a roof begins and ends at a height, 1 where it goes on
    smoothly there, and 0, the height that facets begin at."""
    length = np.maximum(tracks[:, 4] - tracks[:, 2] + height * (tracks[:, 5] - tracks[:, 3]), 0.0)
    ends = np.cumsum(length)
    # Rings stand one after another: an edge whose next is not the one behind it is the last of its ring.
    at = np.arange(len(length))
    first = np.append(0, np.flatnonzero(roof.after != at + 1) + 1)[:-1]
    ring = np.cumsum(np.isin(at, first)) - 1
    before = np.append(0.0, ends)[first]
    end = ends - before[ring]
    soft = _is_soft(roof.normals, roof.before)
    return np.column_stack([end - length, end, soft, soft[roof.after], np.zeros(len(length))])


def _is_soft(normals: Array, before: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Whether each edge continues the one before as a curve does."""
    turn = np.einsum("ij,ij->i", normals[before], normals)
    return np.asarray(turn > np.cos(np.radians(CURVE_TURN_DEG)))


def _turn(roof: Roof) -> Array:
    return _averaged(roof.normals, roof.before, roof.after)


def _wall_turn(roof: Roof) -> Array:
    """As `_turn`, but across fans: at its foot a fanned corner is as sharp as the outline's."""
    real = np.flatnonzero(roof.start != roof.end)
    if len(real) == len(roof.start):
        return _turn(roof)
    rank = np.full(len(roof.start), -1)
    rank[real] = np.arange(len(real))
    before, after = roof.before[real], roof.after[real]
    while (rank[before] < 0).any():
        before = np.where(rank[before] < 0, roof.before[before], before)
    while (rank[after] < 0).any():
        after = np.where(rank[after] < 0, roof.after[after], after)
    turn = np.zeros((len(roof.start), 4))
    turn[real] = _averaged(roof.normals[real], rank[before], rank[after])
    return turn


def _averaged(normals: Array, before: NDArray[np.int64], after: NDArray[np.int64]) -> Array:
    """Inward directions at the start and the end of each edge, averaged across corners that belong
    to a curve."""
    mean = normals + normals[before]
    mean /= np.maximum(np.linalg.norm(mean, axis=1, keepdims=True), 1e-12)
    soft = _is_soft(normals, before)
    at_start = np.where(soft[:, None], mean, normals)
    at_end = np.where(soft[after][:, None], mean[after], normals)
    return np.hstack([at_start, at_end])
