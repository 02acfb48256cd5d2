"""The lid: face and bevel over a slope, as they lie at the front, open at the foot."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from halvex.core.piece.form import Bevel
from halvex.core.piece.part import SHORTEST_LENGTH_PX
from halvex.core.solids.faults import SolidError
from halvex.core.solids.kernels.bevel import SNAP_EM, Profile, lay, pieces_of
from halvex.core.solids.mesh import MOST_TRIANGLES
from halvex.core.solids.profiles import Array, Curve, profile_curve
from halvex.core.solids.slope import Slope


@dataclass(frozen=True)
class Edging:
    """A bevel ready to be laid: its curve, its width over the slope and its height, both in em."""

    curve: Curve
    width: float
    height: float


@dataclass(frozen=True)
class Lid:
    """positions (n, 3) in em, the foot at z = 0; triangles (m, 3); is_face (m,); normals (m, 3, 3);
    rim (r, 2): the edges of the foot, always in the same order for one slope; rim_inward (r, 4):
    the horizontal inward directions at both ends of each; uv (m, 3, 2) in em, and rim_u (r, 2) how far
    along the outline the ends of the rim's edges lie."""

    positions: Array
    triangles: NDArray[np.int32]
    is_face: NDArray[np.uint8]
    normals: NDArray[np.float32]
    rim: NDArray[np.int64]
    rim_inward: Array
    uv: NDArray[np.float32]
    rim_u: Array


def edging(bevel: Bevel, *, width: float, size: float, px_scale: float) -> Edging | None:
    """The edging of a bevel `width` em wide at `size` px per em; None where there is no bevel."""
    if width * size < SHORTEST_LENGTH_PX or bevel.height < SHORTEST_LENGTH_PX:
        return None
    return Edging(
        profile_curve(bevel, max(width * size, bevel.height) * px_scale), width, bevel.height / size
    )


def make_lid(slope: Slope, edge: Edging | None) -> Lid:
    """Face and bevel over a slope. Without an edging all is face."""
    if edge is None and slope.inset:
        return _flat_lid(slope)
    if edge is None:
        levels, rise, tangents, width, tall = np.zeros(1), np.zeros((1, 2)), np.zeros((1, 4)), 0.0, 0.0
    else:
        levels, rise, tangents = _bands(edge.curve)
        levels, width, tall = (
            _clear_of_nodes(levels * edge.width, rise, slope.height),
            edge.width,
            edge.height,
        )
    if 3 * pieces_of(slope.triangles, slope.height, levels) > MOST_TRIANGLES:
        raise SolidError("this profile is too fine for so intricate an outline; take fewer steps")
    profile = Profile(levels, rise, tangents, width, tall)
    positions, laid = lay(slope.nodes, slope.height, slope.triangles, slope.face, slope.facets, profile)
    return Lid(positions, *laid)


def _flat_lid(slope: Slope) -> Lid:
    """All face, over the whole of an inset slope: what `lay` would give, without the work."""
    positions = np.column_stack([slope.nodes, np.zeros(len(slope.nodes))])
    foot = slope.height < SNAP_EM
    starts, ends = slope.triangles, slope.triangles[:, [1, 2, 0]]
    at, side = np.nonzero(foot[starts] & foot[ends])
    count = len(slope.triangles)
    up = np.broadcast_to(np.array([0.0, 0.0, 1.0], np.float32), (count, 3, 3))
    rim = np.column_stack([starts[at, side], ends[at, side]]).astype(np.int64)
    uv = slope.nodes[slope.triangles].astype(np.float32)
    facet = slope.face[at]
    return Lid(
        positions,
        slope.triangles,
        np.ones(count, np.uint8),
        up,
        rim,
        slope.facets.wall_turn[facet],
        uv,
        _along_rim(slope, rim, facet),
    )


def _along_rim(slope: Slope, rim: NDArray[np.int64], facet: NDArray[np.int32]) -> Array:
    """(r, 2) how far along the outline the ends of the foot's edges lie."""
    tracks, arcs = slope.facets.tracks[facet], slope.facets.arcs[facet]
    place = np.einsum("rj,rkj->rk", tracks[:, :2], slope.nodes[rim])
    return np.asarray(arcs[:, :1] + np.clip(place - tracks[:, 2:3], 0.0, (arcs[:, 1] - arcs[:, 0])[:, None]))


def _clear_of_nodes(levels: Array, rise: Array, height: Array) -> Array:
    """Levels at which the profile stands upright, moved by a hair off the roof's nodes.

    Where two slopes meet in one point of such a level, the risers would share an upright edge
    between four walls.
    """
    for k in range(1, len(levels)):
        upright = rise[k, 0] != rise[k - 1, 1] and height.max() > levels[k] + SNAP_EM
        while upright and np.abs(height - levels[k]).min() < 2.0 * SNAP_EM:
            levels[k] += 4.0 * SNAP_EM
    return levels


def _bands(curve: Curve) -> tuple[Array, Array, Array]:
    """The pieces of a profile that run inwards, as bands; upright ones are the jumps between them."""
    runs = np.diff(curve.points[:, 0]) > 0.0
    levels = np.append(curve.points[:-1, 0][runs], 1.0)
    rise = np.column_stack([curve.points[:-1, 1][runs], curve.points[1:, 1][runs]])
    tangents = np.hstack([curve.leave[runs], curve.arrive[runs]])
    return levels, np.vstack([rise, [1.0, 1.0]]), np.vstack([tangents, [1.0, 0.0, 1.0, 0.0]])
