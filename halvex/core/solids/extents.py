"""How far a body's own coordinates go: the length of the ring or of the tube that a triangle belongs to, and
the way across it."""

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components, dijkstra

from halvex.core.memory import kept
from halvex.core.solids.mesh import Mesh, PartOf
from halvex.core.solids.welding import welded


@kept
def extents_of(mesh: Mesh) -> NDArray[np.float32]:
    """(m, 4) per triangle: where its uv begin, and their length, (u, v, du, dv) in px; lengths are 0 on faces
    and backs, which have none.

    A body without bevels and returns is a tube, each strand of which is by itself.
    """
    found = np.zeros((len(mesh.triangles), 4), np.float32)
    walls = np.isin(mesh.part, (PartOf.BEVEL, PartOf.RETURN))
    which = np.flatnonzero(walls if walls.any() else np.ones_like(walls))
    _, point = welded(mesh)
    corners = point[mesh.triangles[which]]
    upright = mesh.part[which] == PartOf.RETURN
    ring = _rings(corners, upright)
    # Bevels reach a little past the ends of their ring, where they turn a corner; the way across ends with
    # the part.
    exact = upright if upright.any() else np.ones_like(upright)
    across = ring * (len(PartOf) + 1) + mesh.part[which]
    for column, group, counted in ((0, ring, exact), (1, across, np.ones_like(exact))):
        found[which, column::2] = _ranges(group, mesh.uv[which, :, column], counted)
    return found


def _ranges(
    group: NDArray[np.int64], values: NDArray[np.float32], counted: NDArray[np.bool_]
) -> NDArray[np.float32]:
    """(m, 2) the lowest of the values (m, 3) of each triangle's group, and how far they go; only those of
    triangles that are `counted`."""
    _, index = np.unique(group, return_inverse=True)
    low, high = np.full(index.max() + 1, np.inf), np.full(index.max() + 1, -np.inf)
    # The ufuncs' `at` is many times as slow where it has to convert its numbers.
    first, second, third = values[counted].astype(np.float64).T
    np.minimum.at(low, index[counted], np.minimum(np.minimum(first, second), third))
    np.maximum.at(high, index[counted], np.maximum(np.maximum(first, second), third))
    none = low > high
    low[none], high[none] = 0, 0
    return np.column_stack([low[index], (high - low)[index]]).astype(np.float32)


def _rings(corners: NDArray[np.int64], upright: NDArray[np.bool_]) -> NDArray[np.int64]:
    """(m,) which ring each triangle belongs to: returns of one ring hang together, and a bevel, which may
    meet another's in a ridge, belongs to the return it is nearest to."""
    count = int(corners.max()) + 1
    seeds = upright if upright.any() else np.ones_like(upright)
    _, ring_of = connected_components(_graph(corners[seeds], count), directed=False)
    if not seeds.all():
        sources = np.unique(corners[seeds])
        _, _, nearest = dijkstra(_graph(corners, count), False, sources, True, unweighted=True, min_only=True)
        reached = nearest >= 0
        ring_of[reached] = ring_of[nearest[reached]]
    # A corner on a ridge is as near to one as to the other: the lowest corner decides.
    return np.asarray(np.where(seeds, ring_of[corners[:, 0]], np.median(ring_of[corners], axis=1)), np.int64)


def _graph(corners: NDArray[np.int64], count: int) -> coo_array:
    a, b = corners.ravel(), np.roll(corners, -1, axis=1).ravel()
    return coo_array((np.ones(len(a)), (a, b)), shape=(count, count))
