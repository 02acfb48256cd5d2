"""The cushion: a profile spread over the full local half-width of a stroke, for balloon letters.

A point's share t goes from 0 on the outline to 1 on the ridge above it; the local half-width there is
h / t, with h the point's height on the roof. The surface rises to the profile at t, in proportion to the
local half-width, so that wide strokes swell more than narrow ones.
"""

import numpy as np

from halvex.core.solids.bevel import Edging, Lid
from halvex.core.solids.kernels.bevel import Profile, lay
from halvex.core.solids.normals import smooth_normals
from halvex.core.solids.profiles import Array
from halvex.core.solids.roof import Corner, OutlineKey, roof_of
from halvex.core.solids.skeleton.arcs import skeleton_arcs
from halvex.core.solids.slope import Slope

# A line of the skeleton that climbs faster than this is a hip that leads up to a ridge, not a ridge.
HIP_SLOPE = 0.5
# Cushions have no crease but where strokes meet outlines.
CREASE_DEG = 40.0
LEAST_LEVELS = 9
# Where a profile stands upright a cushion leans by this share of the half-width.
LEAN = 0.004


def cushion_lid(key: OutlineKey, slope: Slope, edge: Edging, corner: Corner, ridge: float) -> Lid:
    """A cushion over an inset slope, `edge.height` em high where the roof is `ridge` em high (0:
    its own ridge)."""
    roof = roof_of(key, corner)
    height = slope.height
    share = _share_of_ridge(slope)
    points = _leaning(edge.curve.points)
    levels = _levels(points[:, 0])
    profile = Profile(levels, np.zeros((len(levels), 2)), np.ones((len(levels), 4)), 1.0, 1.0)
    plan, laid = lay(slope.nodes, share, slope.triangles, slope.face, slope.facets, profile)
    # The same cuts once more, with the share and the roof's height in place of the plan, to carry both along.
    both = np.column_stack([share, height])
    carried, _ = lay(both, share, slope.triangles, slope.face, slope.facets, profile)
    t, h = carried[:, 0], carried[:, 1]
    rise = np.interp(t, *points.T)
    local = np.where(t > 1e-9, h / np.maximum(t, 1e-9), 0.0)
    positions = plan.copy()
    positions[:, 2] = rise * local / (ridge or roof.ridge) * edge.height
    triangles = laid.triangles
    return Lid(
        positions,
        triangles,
        np.zeros(len(triangles), np.uint8),
        smooth_normals(positions, triangles, CREASE_DEG),
        laid.rim,
        laid.rim_inward,
        # A cushion is all top: its uv is its place, as on a face.
        positions[triangles, :2].astype(np.float32),
        laid.rim_u,
    )


def _leaning(points: Array) -> Array:
    """A profile's points with upright pieces leaning a little, so that each distance has one rise."""
    leaning = points.copy()
    for i in range(1, len(points)):
        if points[i, 0] - points[i - 1, 0] < LEAN and points[i, 1] != points[i - 1, 1]:
            leaning[i - 1, 0] = max(leaning[i - 1, 0] - LEAN, 0.0)
    return leaning


def _levels(places: Array) -> Array:
    """The profile's places and evenly spread ones, none closer together than half a lean."""
    spread = np.sort(np.concatenate([places, np.linspace(0.0, 1.0, LEAST_LEVELS)]))
    kept = [0.0]
    for place in spread:
        if place - kept[-1] > LEAN / 2 and 1.0 - place > LEAN / 2:
            kept.append(float(place))
    return np.array([*kept, 1.0])


def _share_of_ridge(slope: Slope) -> Array:
    """(k,) for each node its height as a share of the ridge that the hip through it leads up to."""
    height = slope.height
    above = height.copy()
    low, high = skeleton_arcs(slope.triangles, slope.face, height)
    length = np.hypot(*(slope.nodes[high] - slope.nodes[low]).T)
    climb = (height[high] - height[low]) / np.maximum(length, 1e-12)
    # From the highest down, so that what a hip leads up to is known before the hip.
    for arc in np.lexsort((climb, -height[low])):
        if climb[arc] > HIP_SLOPE:
            above[low[arc]] = above[high[arc]]
    return np.where(height > 0.0, height / np.maximum(above, 1e-12), 0.0)
