"""Bending: a straight body made to taper, drift, or run along a curve.

All three are one map of space. A point at depth share u (0 at the face, 1 at the back) is scaled and
turned about the block's middle as the form says for u, then carried to where the run is at u. Normals
go through the same map by its cofactors, so bent bodies are shaded exactly.
"""

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from halvex.core.memory import kept
from halvex.core.piece.form import Form, RunPoint
from halvex.core.solids.mesh import Mesh
from halvex.core.solids.paths import frames_along, smooth_path, turning

Array = NDArray[np.float64]

FACET_TURN_DEG = 5.0
MOST_PIECES = 600
# Step of the difference quotient along the depth, in shares of it.
SMALL = 1e-5


@dataclass(frozen=True)
class Bend:
    """What bends a body whose origin lies at (x, y) px from the block's place. Angles in radians."""

    x: float
    y: float
    taper: float
    taper_centre: tuple[float, float]
    drift: tuple[float, float]
    points: tuple[RunPoint, ...]
    scale: float
    turn: float
    following: bool

    @property
    def length(self) -> float:
        """Length of the run in px; 0 where there is none."""
        return _path(self.points)[2] if self.points else 0.0

    @property
    def pieces(self) -> int:
        """Pieces the returns are divided into, so that none turns by more than a few degrees."""
        turn = abs(math.degrees(self.turn))
        if self.points:
            turn += math.degrees(turning(_path(self.points)[0]))
        return min(max(math.ceil(turn / FACET_TURN_DEG), 1), MOST_PIECES)


def bend_of(form: Form, x: float, y: float) -> Bend | None:
    """The bend of a form for a body with its origin at (x, y) px from the block's place; None where
    it is straight."""
    taper, drift, run = form.taper, form.drift, form.run
    running = bool(run.points)
    if not (taper.amount or drift.x or drift.y or running or run.turn or run.scale != 100):
        return None
    # A drift alone is the same for every letter, so letters may go on sharing their bodies.
    shared = not (taper.amount or running or run.turn or run.scale != 100)
    return Bend(
        0.0 if shared else x,
        0.0 if shared else y,
        taper.amount / 100,
        (taper.x, taper.y),
        (drift.x, drift.y),
        run.points,
        run.scale / 100,
        math.radians(run.turn),
        run.following,
    )


@kept
def _path(points: tuple[RunPoint, ...]) -> tuple[Array, Array, float]:
    """The run as points (n, 3) evenly spaced along it, frames (n, 3, 3) and its length in px."""
    through = np.array([(0.0, 0.0, 0.0), *((p.x, p.y, p.z) for p in points)])
    # The run leaves the face square to it.
    path, length = smooth_path(through, leaving=np.array([0.0, 0.0, -1.0]))
    return path, frames_along(path), length


def _mapped(bend: Bend, x: Array, y: Array, u: Array, deep: float) -> Array:
    """Where points at (x, y) from the body's origin and depth share u go, from the body's origin."""
    px, py = x + bend.x, y + bend.y
    shrink = 1.0 - bend.taper * u
    px = bend.taper_centre[0] + (px - bend.taper_centre[0]) * shrink + bend.drift[0] * u
    py = bend.taper_centre[1] + (py - bend.taper_centre[1]) * shrink + bend.drift[1] * u
    scale, angle = 1.0 + (bend.scale - 1.0) * u, bend.turn * u
    cos, sin = np.cos(angle) * scale, np.sin(angle) * scale
    px, py = cos * px - sin * py, sin * px + cos * py
    if not bend.points:
        return np.column_stack([px - bend.x, py - bend.y, -u * deep])
    path, frames, _ = _path(bend.points)
    at = np.clip(u, 0.0, 1.0) * (len(path) - 1)
    low = np.minimum(at.astype(np.int64), len(path) - 2)
    share = (at - low)[:, None]
    centre = path[low] * (1 - share) + path[low + 1] * share
    # Beyond the ends (a difference quotient looks there) the path goes on straight.
    over = (u - np.clip(u, 0.0, 1.0))[:, None] * (len(path) - 1)
    centre = centre + over * (path[low + 1] - path[low])
    if not bend.following:
        return centre + np.column_stack([px - bend.x, py - bend.y, np.zeros_like(px)])
    frame = frames[low] * (1 - share[..., None]) + frames[low + 1] * share[..., None]
    carried = np.einsum("nij,nj->ni", frame, np.column_stack([px, py, np.zeros_like(px)]))
    return centre + carried - (bend.x, bend.y, 0.0)


def bent(mesh: Mesh, bend: Bend, deep: float) -> Mesh:
    """A straight body of depth `deep` px through the map."""
    x, y = mesh.positions[:, 0], mesh.positions[:, 1]
    u = -mesh.positions[:, 2] / deep
    moved = _mapped(bend, x, y, u, deep)
    # The map is linear in x and y at one depth: its columns are differences over any step.
    a = _mapped(bend, x + 1.0, y, u, deep) - moved
    b = _mapped(bend, x, y + 1.0, u, deep) - moved
    c = -(_mapped(bend, x, y, u + SMALL, deep) - _mapped(bend, x, y, u - SMALL, deep)) / (2.0 * SMALL * deep)
    cofactors = np.stack([np.cross(b, c), np.cross(c, a), np.cross(a, b)], axis=1)
    normals = np.einsum("mcj,mcjk->mck", mesh.normals.astype(np.float64), cofactors[mesh.triangles])
    normals /= np.maximum(np.linalg.norm(normals, axis=2, keepdims=True), 1e-30)
    return replace(mesh, positions=moved, normals=normals.astype(np.float32))
