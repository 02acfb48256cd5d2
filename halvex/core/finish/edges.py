"""Lines along edges within letters, hidden by what stands before them."""

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.ndimage import minimum_filter

from halvex.core.finish.covering import coverage
from halvex.core.scene.outlines import GRID_PX
from halvex.core.scene.tone_edges import ToneEdges

Array = NDArray[np.float32]

# An edge is looked at about once a px, and hidden where all that is seen about it lies nearer by so many px.
NEARER_PX = 1.0
# A contour is one within letters if so many px about it are theirs, at least by half.
WITHIN_PX, LEAST_COVER = 2, 0.5
# Sides of a quarter of a round end.
QUARTER_SIDES = 8
# How often all edges are looked at, at the most: the longest less than once a px.
MOST_PIECES = 2_000_000


def line_cover(edges: ToneEdges, depth: Array, letters: Array, width_px: float, join: str) -> Array:
    """Share (h, w) of each px that a line covers along edges, and along contours within the letters. depth
    (h, w) is the z of what is seen, letters (h, w) the share of each px that they cover."""
    within = minimum_filter(letters, size=2 * WITHIN_PX + 1)
    # The farthest of what is seen about a px.
    farthest = minimum_filter(depth, size=3)
    pieces = np.concatenate(
        [
            _seen_pieces(edges.inner, farthest, letters),
            _seen_pieces(edges.contours, farthest, within),
        ]
    )
    if not len(pieces):
        return np.zeros(depth.shape, np.float32)
    # On one grid, so that pieces of a line meet.
    lines = shapely.line_merge(shapely.MultiLineString(list(np.round(pieces / GRID_PX) * GRID_PX)))
    style = "mitre" if join == "mitred" else "round"
    area = shapely.buffer(lines, width_px / 2, quad_segs=QUARTER_SIDES, cap_style="round", join_style=style)
    return coverage(area, depth.shape[1], depth.shape[0])


def _seen_pieces(edges: NDArray[np.float64], farthest: Array, cover: Array) -> NDArray[np.float64]:
    """What is seen of edges (n, 2, 3) where at least half of a px is covered, as pieces (m, 2, 2)."""
    h, w = farthest.shape
    low, high = edges[..., :2].min(axis=1), edges[..., :2].max(axis=1)
    edges = edges[(high >= 0).all(axis=1) & (low <= (w, h)).all(axis=1)]
    if not len(edges):
        return np.zeros((0, 2, 2))
    lengths = np.linalg.norm(edges[:, 1, :2] - edges[:, 0, :2], axis=1).clip(0, w + h)
    step = max(float(lengths.sum()) / MOST_PIECES, 1.0)
    counts = np.ceil(lengths / step).astype(np.int64).clip(1)
    # The places along each edge, from 0 to its count.
    edge = np.repeat(np.arange(len(edges)), counts + 1)
    first = np.cumsum(counts + 1) - (counts + 1)
    by = ((np.arange(len(edge)) - first[edge]) / counts[edge])[:, None]
    places = edges[edge, 0] + by * (edges[edge, 1] - edges[edge, 0])
    seen = _is_seen(places, farthest, cover)
    whole = np.bitwise_and.reduceat(seen, first)
    # Of what is hidden in part, the pieces between two places that are seen.
    broken = np.flatnonzero(seen[:-1] & seen[1:] & (edge[:-1] == edge[1:]) & ~whole[edge[:-1]])
    pieces = np.stack([places[broken, :2], places[broken + 1, :2]], axis=1)
    return np.concatenate([edges[whole][..., :2], pieces])


def _is_seen(places: NDArray[np.float64], farthest: Array, cover: Array) -> NDArray[np.bool_]:
    """Whether places (n, 3) are covered, and not behind all that is seen about them."""
    h, w = farthest.shape
    column, row = (
        np.floor(places[:, axis]).astype(np.int64).clip(0, side - 1) for axis, side in ((0, w), (1, h))
    )
    return np.asarray(
        (places[:, 2] >= farthest[row, column] - NEARER_PX) & (cover[row, column] >= LEAST_COVER)
    )
