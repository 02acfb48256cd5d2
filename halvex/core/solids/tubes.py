"""Tubes: a section carried along a path, closed at the ends; paths that cross are lifted over each other."""

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from halvex.core.piece.form import Tube
from halvex.core.solids.faults import SolidError
from halvex.core.solids.mesh import MOST_TRIANGLES, Mesh, PartOf
from halvex.core.solids.paths import tangents_of
from halvex.core.solids.profiles import steps_for
from halvex.core.stopping import stop_if_overtaken

Array = NDArray[np.float64]

FEWEST_FACETS = 16
CAP_RINGS = 6
# A strand begins to rise this many times its height of lift before a crossing.
LIFT_REACH = 3.0
# Points of all strands of a block, and places where they cross: a script of 200 letters has 20 000 and 400.
MOST_STRAND_POINTS, MOST_CROSSINGS = 60_000, 4000


@dataclass(frozen=True)
class Strand:
    """A centre line: points (n, 3) in px, radii (n,) and whether it closes on itself (its first
    point is then not repeated)."""

    points: Array
    radii: Array
    closed: bool


@dataclass(frozen=True)
class _Section:
    """Corners (k, 2) for a radius of 1 (across, up), counter-clockwise about the path, and the normals (k, 2)
    at the start and the end of each side."""

    corners: Array
    at_start: Array
    at_end: Array


def _section(kind: str, facets: int) -> _Section:
    turns = np.linspace(0.0, 2.0 * np.pi, facets, endpoint=False)
    circle = np.column_stack([np.cos(turns), np.sin(turns)])
    if kind == "round":
        return _Section(circle, circle, np.roll(circle, -1, axis=0))
    if kind == "square":
        corners = np.array([(1, -1), (1, 1), (-1, 1), (-1, -1)], float)
        normals = np.array([(1, 0), (0, 1), (-1, 0), (0, -1)], float)
        return _Section(corners, normals, normals)
    half = np.linspace(0.0, np.pi, facets // 2 + 1)
    arc = np.column_stack([np.cos(half), np.sin(half)])
    normals = np.vstack([arc, (0.0, -1.0)])
    return _Section(arc, normals[[*range(len(arc) - 1), len(arc)]], normals[[*range(1, len(arc)), len(arc)]])


def check_room(strands: list[Strand], tube: Tube, px_scale: float) -> None:
    """Raises SolidError where strands would make more triangles than a block may have."""
    points = sum(len(strand.points) for strand in strands)
    if (
        points > MOST_STRAND_POINTS
        or sum(2 * len(strand.points) * _facets(strand, px_scale) for strand in strands) > MOST_TRIANGLES
    ):
        raise SolidError(
            "the lines are too long and intricate for tubes; simplify them, or take a solid or a rim"
        )


def _facets(strand: Strand, px_scale: float) -> int:
    return max(FEWEST_FACETS, 2 * steps_for(float(strand.radii.max()) * px_scale))


@dataclass(frozen=True)
class _Rings:
    """A section carried along a strand.

    corners (n, k, 3); across, up and tangent (n, 3); normals (n, k, 3) at the start and the end of each side;
    length (n + 1,) along the path, way (k + 1,) around a section of radius 1.
    """

    strand: Strand
    section: _Section
    corners: Array
    across: Array
    up: Array
    tangent: Array
    at_start: Array
    at_end: Array
    length: Array
    way: Array


@dataclass(frozen=True)
class _Sides:
    """Triangles (t, 3), the normals (t, 3, 3) and the uv (t, 3, 2) of their corners."""

    triangles: NDArray[np.int64]
    normals: Array
    uv: Array


def tube_body(strand: Strand, tube: Tube, *, px_scale: float) -> Mesh:
    """One strand as a closed body in px."""
    rings = _rings(strand, _section(tube.section, _facets(strand, px_scale)))
    positions, sides = [rings.corners.reshape(-1, 3)], [_walls(rings)]
    if not strand.closed:
        cap = _round_cap if tube.caps == "round" else _flat_cap
        count = len(positions[0])
        for at, way in ((0, -1.0), (len(strand.points) - 1, 1.0)):
            end = _End.of(rings, at, way)
            more, triangles, normals = cap(end, rings.section, at * len(rings.corners[0]), count)
            if way > 0:
                triangles, normals = triangles[:, ::-1], normals[:, ::-1]
            positions.append(more)
            sides.append(_Sides(triangles, normals, _cap_uv(triangles, np.vstack(positions), end)))
            count += len(more)
    faces = np.vstack([side.triangles for side in sides]).astype(np.int32)
    normals = np.concatenate([side.normals for side in sides])
    normals /= np.maximum(np.linalg.norm(normals, axis=2, keepdims=True), 1e-30)
    return Mesh(
        np.vstack(positions),
        faces,
        np.full(len(faces), PartOf.FACE, np.uint8),
        normals.astype(np.float32),
        np.concatenate([side.uv for side in sides]).astype(np.float32),
    )


def _rings(strand: Strand, section: _Section) -> _Rings:
    points, radii = strand.points, strand.radii
    path = np.vstack([points, points[:1]]) if strand.closed else points
    tangent = tangents_of(path, closed=strand.closed)[: len(points)]
    across, up = _frame(tangent)
    along = _along(points)
    slope = (
        np.gradient(radii) / np.maximum(np.gradient(along), 1e-12)
        if len(points) > 1 and not strand.closed
        else np.zeros(len(points))
    )
    corners = points[:, None] + radii[:, None, None] * (
        section.corners[None, :, :1] * across[:, None] + section.corners[None, :, 1:] * up[:, None]
    )
    start, end = (
        _carried(normals, across, up, tangent, slope) for normals in (section.at_start, section.at_end)
    )
    # A closed tube ends where it has come round.
    length = np.append(along, along[-1] + np.linalg.norm(points[0] - points[-1]))
    way = _along(np.vstack([section.corners, section.corners[:1]]))
    return _Rings(strand, section, corners, across, up, tangent, start, end, length, way)


def _walls(rings: _Rings) -> _Sides:
    """The sides between one ring and the next."""
    n, k = rings.corners.shape[:2]
    last = n if rings.strand.closed else n - 1
    i = np.repeat(np.arange(last), k)
    j = (i + 1) % n
    a = np.tile(np.arange(k), last)
    b = (a + 1) % k
    start, end = rings.at_start, rings.at_end
    near, far, near_next, far_next = (
        np.stack([rings.length[at], rings.way[round_at] * rings.strand.radii[at % n]], axis=1)
        for at, round_at in ((i, a), (i + 1, a), (i, a + 1), (i + 1, a + 1))
    )
    return _Sides(
        np.vstack(
            [
                np.column_stack([i * k + a, j * k + b, i * k + b]),
                np.column_stack([i * k + a, j * k + a, j * k + b]),
            ]
        ),
        np.concatenate(
            [
                np.stack([start[i, a], end[j, a], end[i, a]], axis=1),
                np.stack([start[i, a], start[j, a], end[j, a]], axis=1),
            ]
        ),
        np.concatenate(
            [np.stack([near, far_next, near_next], axis=1), np.stack([near, far, far_next], axis=1)]
        ),
    )


@dataclass(frozen=True)
class _End:
    """An end of a strand: its ring (k, 3), centre and radius; directions (3,) out of it, across and up."""

    ring: Array
    centre: Array
    radius: float
    outwards: Array
    across: Array
    up: Array

    @classmethod
    def of(cls, rings: _Rings, at: int, way: float) -> "_End":
        """The end at ring `at`; way: 1 if the strand runs out of it, -1 if it begins there."""
        strand = rings.strand
        return cls(
            rings.corners[at],
            strand.points[at],
            float(strand.radii[at]),
            rings.tangent[at] * way,
            rings.across[at],
            rings.up[at],
        )


def _cap_uv(triangles: NDArray[np.int64], positions: Array, end: _End) -> Array:
    """(t, 3, 2) the place of a cap's corners in the plane across the path."""
    away = positions[triangles] - end.centre
    return np.stack([away @ end.across, away @ end.up], axis=-1)


def _along(points: Array) -> Array:
    return np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])


def _frame(tangent: Array) -> tuple[Array, Array]:
    """Across and up at each point, up as near to the viewer as can be: planar paths never spin,
    closed ones meet."""
    viewer = np.array([0.0, 0.0, 1.0])
    across = np.cross(tangent, viewer)
    across /= np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-12)
    return across, np.cross(across, tangent)


def _carried(normals: Array, across: Array, up: Array, tangent: Array, slope: Array) -> Array:
    """Normals (k, 2) of the section at every point of the path, leaning back where the tube widens:
    (n, k, 3)."""
    flat = normals[None, :, :1] * across[:, None] + normals[None, :, 1:] * up[:, None]
    leaning = flat - slope[:, None, None] * tangent[:, None]
    return np.asarray(leaning / np.maximum(np.linalg.norm(leaning, axis=2, keepdims=True), 1e-30))


def _flat_cap(end: _End, section: _Section, first: int, count: int) -> tuple[Array, NDArray[np.int64], Array]:
    """Points (p, 3), triangles (t, 3) and normals (t, 3, 3) that close an end whose ring begins at the point
    `first`; its own points begin at `count`."""
    k = len(end.ring)
    a = np.arange(k)
    sides = np.column_stack([first + a, first + (a + 1) % k, np.full(k, count)])
    # The middle of the section, which for a half round is not the path itself.
    return end.ring.mean(axis=0)[None], sides, np.broadcast_to(end.outwards, (k, 3, 3)).copy()


def _round_cap(
    end: _End, section: _Section, first: int, count: int
) -> tuple[Array, NDArray[np.int64], Array]:
    """The same for half of the section turned about its axis: a hemisphere for a round tube."""
    ring, outwards = end.ring, end.outwards
    k = len(ring)
    turns = np.linspace(0.0, np.pi / 2, CAP_RINGS + 1)[1:-1]
    flat_start = section.at_start[:, :1] * end.across + section.at_start[:, 1:] * end.up
    flat_end = section.at_end[:, :1] * end.across + section.at_end[:, 1:] * end.up
    middle = ring.mean(axis=0) if section.corners[:, 1].min() > -0.5 else end.centre
    rings = [middle + (ring - middle) * np.cos(t) + outwards * end.radius * np.sin(t) for t in turns]
    tip = middle + outwards * end.radius
    positions = np.vstack([*rings, tip[None]])
    names = [first + np.arange(k)] + [count + r * k + np.arange(k) for r in range(len(turns))]
    lean = [0.0, *turns, np.pi / 2]
    starts = [flat_start * np.cos(t) + outwards * np.sin(t) for t in lean]
    ends = [flat_end * np.cos(t) + outwards * np.sin(t) for t in lean]
    sides, shading = [], []
    a = np.arange(k)
    b = (a + 1) % k
    for r in range(len(turns)):
        lower, upper = names[r], names[r + 1]
        sides += [
            np.column_stack([lower[a], lower[b], upper[b]]),
            np.column_stack([lower[a], upper[b], upper[a]]),
        ]
        shading += [
            np.stack([starts[r][a], ends[r][a], ends[r + 1][a]], axis=1),
            np.stack([starts[r][a], ends[r + 1][a], starts[r + 1][a]], axis=1),
        ]
    r = len(turns)
    sides.append(np.column_stack([names[r][a], names[r][b], np.full(k, count + r * k)]))
    shading.append(np.stack([starts[r][a], ends[r][a], starts[r + 1][a]], axis=1))
    return positions, np.vstack(sides), np.concatenate(shading)


def lifted(strands: list[Strand]) -> list[Strand]:
    """Strands lifted where they cross: the later one, or the later part of one, passes over."""
    result: list[Strand] = []
    met = 0
    for strand in strands:
        stop_if_overtaken()
        rise = np.zeros(len(strand.points))
        along = _along(strand.points)
        for other in [*result, strand]:
            crossings = _crossings(strand, other)
            met += len(crossings)
            if met > MOST_CROSSINGS:
                raise SolidError(
                    f"the lines cross over {MOST_CROSSINGS} times; let fewer of them cross, or take a "
                    "solid or a rim"
                )
            for mine, theirs in crossings:
                here = min(int(mine), len(rise) - 1)
                there = min(int(theirs), len(other.points) - 1)
                height = (
                    strand.radii[here] + other.radii[there] + other.points[there, 2] - strand.points[here, 2]
                )
                far = np.abs(along - np.interp(mine, np.arange(len(along)), along))
                if strand.closed:
                    far = np.minimum(far, along[-1] - far)
                reach = LIFT_REACH * max(height, 1e-9)
                rise = np.maximum(
                    rise,
                    height
                    * np.where(far < reach, np.cos(0.5 * np.pi * np.minimum(far / reach, 1.0)) ** 2, 0.0),
                )
        points = strand.points + np.column_stack([np.zeros((len(rise), 2)), rise])
        result.append(Strand(points, strand.radii, strand.closed))
    return result


def _crossings(strand: Strand, other: Strand) -> list[tuple[float, float]]:
    """Where a strand crosses another in plan, as places (index and share) on both; of its own
    crossings the later place first."""
    p, q = strand.points[:, :2], other.points[:, :2]
    if strand.closed:
        p = np.vstack([p, p[:1]])
    if other.closed:
        q = np.vstack([q, q[:1]])
    i, j = _near(p, q)
    a, c = p[i], q[j]
    r, s = p[i + 1] - a, q[j + 1] - c
    den = r[:, 0] * s[:, 1] - r[:, 1] * s[:, 0]
    safe = np.where(np.abs(den) < 1e-12, 1.0, den)
    t = ((c - a)[:, 0] * s[:, 1] - (c - a)[:, 1] * s[:, 0]) / safe
    u = ((c - a)[:, 0] * r[:, 1] - (c - a)[:, 1] * r[:, 0]) / safe
    met = (np.abs(den) >= 1e-12) & (t >= 0) & (t < 1) & (u >= 0) & (u < 1)
    places = np.column_stack([i + t, j + u])[met]
    if other is strand:
        places = places[places[:, 0] > places[:, 1] + 1.5]
        if strand.closed:
            places = places[places[:, 0] - places[:, 1] < len(p) - 2.5]
    found = []
    lengths = _along(strand.points), _along(other.points)
    for mine, theirs in places.tolist():
        # An end that only touches joins the other strand and passes under nothing.
        if (not strand.closed and _near_end(lengths[0], mine, strand.radii)) or (
            not other.closed and _near_end(lengths[1], theirs, other.radii)
        ):
            continue
        found.append((mine, theirs))
    return found


def _near(p: Array, q: Array) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Pairs (segment of p, segment of q) of two polylines (n, 2) whose boxes meet, in order."""
    tree = shapely.STRtree(shapely.linestrings(np.stack([q[:-1], q[1:]], axis=1)))
    pairs = tree.query(shapely.linestrings(np.stack([p[:-1], p[1:]], axis=1)))
    i, j = pairs[:, np.lexsort(pairs[::-1])]
    return i, j


def _near_end(along: Array, place: float, radii: Array) -> bool:
    at = float(np.interp(place, np.arange(len(along)), along))
    reach = 1.5 * float(radii[min(int(place), len(radii) - 1)])
    return at < reach or along[-1] - at < reach
