"""The roof over an outline: its straight skeleton with heights.

Every edge of the outline carries a plane that rises inwards at 45°; the roof is what lies lowest.
Its height at a point is the mitred distance from the outline, so every bevel, of any width, is cut
from the same roof, and where two sides meet they meet in a true ridge.

At a reflex corner (an inner corner of the letter's ground, where the planes part) a fan of edges of
no length may be set in. A fan of small turns makes the corner round: the roof is then the Euclidean
one, to within the fan's facets. A fan of few large turns only keeps a very sharp corner from running
far out (`MITRE_LIMIT_TURN_DEG`).

The wavefront (package `skeleton`) is exact but for rounding. `roof_over` therefore tries a short
ladder of tolerances and accepts only a roof that passes every check: faces close, arcs are shared by
exactly two faces, areas add up to the outline's and nodes lie on their planes.
"""

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from halvex.core.lettering.outlines import Outline
from halvex.core.memory import kept
from halvex.core.solids.faults import SolidError
from halvex.core.solids.kernels.checks import inspect
from halvex.core.solids.skeleton.faces import chain_faces, triangulate_faces
from halvex.core.solids.skeleton.run import OUT_OF_STEPS, shrink
from halvex.core.solids.skeleton.state import NODES, OVERFLOW, STEPS, new_wave
from halvex.core.stopping import stop_flag, stop_if_overtaken

Array = NDArray[np.float64]
Index = NDArray[np.int64]
Corner = Literal["mitred", "rounded"]

# (contact tolerance in em, angle within which edges count as parallel in radians)
LADDER = (
    *((1e-11, 2e-6), (1e-10, 2e-6), (1e-9, 2e-6), (1e-12, 2e-6), (1e-8, 2e-6), (1e-10, 2e-5)),
    *((1e-11, 0.0), (1e-10, 0.0), (1e-9, 0.0), (1e-12, 0.0)),
)
# The last is for rings of concentric facets, all of which collapse at one moment.
JITTERS_EM = (1e-8, 5e-8, 5e-7, 1e-5)
AREA_TOLERANCE = 1e-9
PLANE_TOLERANCE_EM = 1e-6
# A mitre at a turn of 120° runs out at twice the bevel's speed; sharper corners are blunted to that.
MITRE_LIMIT_TURN_DEG = 120.0
# Rounded corners turn by less than this from facet to facet; vertices of flattened curves turn by
# less anyway.
ROUND_FACET_TURN_DEG = 8.0
CURVE_TURN_DEG = 25.0
# Corners closer than this are one point where rings touch.
TOUCHING_EM = 1e-9
# Inner nodes closer than this are one that rounding has parted: far below a px of any picture.
WELDS_EM = (1e-6, 1e-7, 1e-8, 1e-9)
FOLD_EM2 = 1e-14
# Triangles less high than this over their longest side have no area worth the name.
FLAT_EM = 1e-9


# A joined script of fourteen letters has so many edges on the largest covers. The roof over them
# takes four seconds, that over twice as many four times as long.
MOST_EDGES = 9000
# Steps of all attempts at one roof together. An attempt at a letter of n points takes some 10 n², one
# whose corners are rounded up to 350 n²; only made-up outlines take more.
FEWEST_STEPS, STEPS_OF_TWO_POINTS = 50_000_000, 1500
# What one over MOST_EDGES edges of letters takes twice over, some ten seconds.
MOST_STEPS = 4_000_000_000
# An attempt takes two seconds where 5,000 edges meet in the middle all at once, and that grows by their
# square. After the first attempt, none is begun by which all would have tried more pairs of edges than this.
MOST_PAIRS_TRIED = 20_000_000
_TOO_INTRICATE = "an outline is too intricate: its sides meet in too many places; simplify it"


@dataclass(frozen=True)
class Roof:
    """Nodes (k, 3) as x, y, height in em; triangles (m, 3) of nodes; face (m,) the edge each lies over.

    Edge i runs from node `start[i]` to node `end[i]`; edges of a fan start and end at one node. `before`
    and `after` (E,) are an edge's neighbours round its ring; `normals` (E, 2) point inwards.
    """

    nodes: Array
    triangles: NDArray[np.int32]
    face: NDArray[np.int32]
    start: Index
    end: Index
    before: Index
    after: Index
    normals: Array

    @property
    def ridge(self) -> float:
        """Greatest height in em: half of the widest stroke."""
        return float(self.nodes[:, 2].max())


@dataclass(frozen=True, eq=False)
class OutlineKey:
    """An outline hashed by its digest alone, so that caches need not read its points."""

    outline: Outline

    def __hash__(self) -> int:
        return hash(self.outline.digest)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, OutlineKey) and other.outline.digest == self.outline.digest


def roof_of(outline: OutlineKey, corner: Corner = "mitred") -> Roof:
    """The roof of an outline, kept by the outline's digest. Raises SolidError as `roof_over` does."""
    roof = roof_or_fault(outline, corner)
    if isinstance(roof, str):
        raise SolidError(roof)
    return roof


@kept
def roof_or_fault(outline: OutlineKey, corner: Corner) -> Roof | str:
    """The roof of an outline, or why there is none: to find that out takes longest of all."""
    if corner == "rounded" and not _has_inner_corners(outline.outline.rings):
        return roof_or_fault(outline, "mitred")
    name = outline.outline.name or outline.outline.digest
    try:
        return roof_over(outline.outline.rings, corner=corner, name=name)
    except SolidError as fault:
        stop_if_overtaken()  # which is no fault of the outline
        return str(fault)


def _has_inner_corners(rings: tuple[Array, ...]) -> bool:
    """Whether any inner corner turns by more than the facets of a curve, to be rounded by a fan."""
    for ring in rings:
        ahead = np.roll(ring, -1, axis=0) - ring
        behind = np.roll(ahead, 1, axis=0)
        turn = -np.arctan2(
            behind[:, 0] * ahead[:, 1] - behind[:, 1] * ahead[:, 0], np.einsum("ij,ij->i", behind, ahead)
        )
        # A roof's own edges may be turned by a hair.
        if turn.max() > np.radians(0.99 * CURVE_TURN_DEG):
            return True
    return False


def roof_over(rings: tuple[Array, ...], *, corner: Corner = "mitred", name: str = "outline") -> Roof:
    """The roof over rings of shape (n, 2), ink on the left, in units where 1 is about the outline's size.

    Raises SolidError for an outline of over MOST_EDGES points, and where no tolerance gives a roof
    that passes the checks.
    """
    points = np.vstack(rings)
    if len(points) > MOST_EDGES:
        raise SolidError(
            f"{name} has {len(points)} points, over {MOST_EDGES}; simplify it, or let letters "
            "that overlap stay single"
        )
    ring_of = np.repeat(np.arange(len(rings)), [len(ring) for ring in rings])
    # Far from the origin the offsets of the lines lose digits that the ladder's tolerances need.
    centre = (points.min(axis=0) + points.max(axis=0)) / 2
    steps = _Steps(min(MOST_STEPS, FEWEST_STEPS + STEPS_OF_TWO_POINTS * len(points) ** 2))
    for epsilon, angle in LADDER:
        stop_if_overtaken()
        roof = _attempt(points - centre, ring_of, corner, epsilon, angle, steps)
        if roof is not None:
            return _moved(roof, centre)
    random = np.random.default_rng(0)
    for jitter in JITTERS_EM:
        shaken = points - centre + random.uniform(-jitter, jitter, points.shape)
        roof = _attempt(shaken, ring_of, corner, 1e-10, 2e-6, steps)
        roof = roof or _attempt(shaken, ring_of, corner, 1e-10, 0.0, steps)
        if roof is not None:
            # The corners stay the outline's own, so that letters meet what they met before.
            real = roof.start != roof.end
            roof.nodes[roof.start[real], :2] = points - centre
            return _moved(roof, centre)
    raise SolidError(f"no body could be made of {name}; another size or typeface will do")


def _moved(roof: Roof, centre: Array) -> Roof:
    roof.nodes[:, :2] += centre
    return roof


def _next_index(ring_of: Index) -> Index:
    nxt = np.arange(len(ring_of)) + 1
    last = np.append(np.flatnonzero(np.diff(ring_of)), len(ring_of) - 1)
    nxt[last] = np.append(0, last[:-1] + 1)
    return nxt


@dataclass
class _Steps:
    """How many steps are left for the attempts at a roof, and how many pairs of edges were tried."""

    left: int
    pairs: int = 0


def _attempt(
    points: Array, ring_of: Index, corner: Corner, epsilon: float, angle: float, steps: _Steps
) -> Roof | None:
    normals, offsets, corners = _lines(points, _next_index(ring_of), angle)
    fan_of = np.arange(len(corners))
    normals, offsets, corners, ring_of, fan_of = _with_fans(normals, offsets, corners, ring_of, corner)
    nxt = _next_index(ring_of)
    segments = np.hstack([corners, corners[nxt]])
    pairs = len(corners) ** 2
    if steps.pairs > 0 and steps.pairs + pairs > MOST_PAIRS_TRIED:
        raise SolidError(_TOO_INTRICATE)
    steps.pairs += pairs
    for room in (6, 24):
        wave = new_wave(normals, offsets, segments, room)
        with stop_flag() as stop:
            done = shrink(wave, ring_of, fan_of, corners, epsilon, stop, steps.left)
        steps.left -= int(wave.tally[STEPS])
        if stop[0] == OUT_OF_STEPS:
            raise SolidError(_TOO_INTRICATE)
        if done or not wave.tally[OVERFLOW]:
            break
    if not done or wave.tally[OVERFLOW]:
        return None
    edges = np.arange(len(corners))
    closed, first, ring_nodes = chain_faces(wave, edges, nxt)
    if not closed:
        return None
    count = int(wave.tally[NODES])
    xy, height = wave.node_xy[:count].copy(), wave.node_t[:count].copy()
    start = fan_of
    if len(np.unique(fan_of)) < len(fan_of):
        # All corners of a fan are one point, and its edges have no length to keep.
        first, ring_nodes = _without_fan_edges(first, ring_nodes, start, start[nxt])
    cut, triangles, face = triangulate_faces(first, ring_nodes, xy, height, normals)
    if not cut:
        return None
    before = np.empty(len(corners), np.int64)
    before[nxt] = edges
    roof = Roof(np.column_stack([xy, height]), triangles, face, start, start[nxt], before, nxt, normals)
    return _accepted(roof, offsets, corners)


def _accepted(roof: Roof, offsets: Array, corners: Array) -> Roof | None:
    """The roof, mended where rounding has left nodes apart or in line; None where it fails a check."""
    looked = (roof.nodes, roof.triangles, roof.face, roof.normals, offsets, len(roof.start))
    total, least, off_plane, flattest, shortest = inspect(*looked)
    x, y = corners.T
    outline_area = 0.5 * float(np.sum(x * y[roof.after] - y * x[roof.after]))
    if (
        abs(total - outline_area) > AREA_TOLERANCE * max(outline_area, 1e-12)
        or least < -AREA_TOLERANCE
        or off_plane > PLANE_TOLERANCE_EM
    ):
        return None
    if not _arcs_twinned(roof):
        return None
    welded = _welded(roof) if shortest < WELDS_EM[0] else roof
    return _without_flats(welded) if welded is not roof or flattest < FLAT_EM else roof


def _welded(roof: Roof) -> Roof:
    """Inner nodes that rounding has parted become one, where that folds nothing and leaves every
    edge its twin."""
    for nearness in WELDS_EM:
        welded = _weld(roof, nearness)
        if welded is roof or (_plan_areas(welded).min() > -FOLD_EM2 and _arcs_twinned(welded)):
            return welded
    return roof


def _weld(roof: Roof, nearness: float) -> Roof:
    a, b = roof.triangles.ravel().astype(np.int64), roof.triangles[:, [1, 2, 0]].ravel().astype(np.int64)
    inner = (np.minimum(a, b) >= len(roof.start)) & (a < b)
    near = inner & (np.abs(roof.nodes[a] - roof.nodes[b]).max(axis=1) < nearness)
    if not near.any():
        return roof
    name = np.arange(len(roof.nodes))
    for i, j in zip(a[near].tolist(), b[near].tolist(), strict=True):
        while name[i] != i:
            i = name[i]
        while name[j] != j:
            j = name[j]
        name[max(i, j)] = min(i, j)
    while (name[name] != name).any():
        name = name[name]
    triangles = name[roof.triangles]
    whole = (triangles != np.roll(triangles, 1, axis=1)).all(axis=1)
    return replace(roof, triangles=triangles[whole].astype(np.int32), face=roof.face[whole])


def _without_flats(roof: Roof) -> Roof:
    """Triangles of three nodes in line, undone by splitting the neighbour across their longest side
    at the middle node."""
    flat = set(np.flatnonzero(_plan_areas(roof) < FLAT_EM * _longest_sides(roof)).tolist())
    if not flat:
        return roof
    triangles, face = roof.triangles.tolist(), roof.face.tolist()
    owner = {(t[k], t[(k + 1) % 3]): i for i, t in enumerate(triangles) for k in range(3)}
    while flat:
        # Where several lie side by side, the outer ones come first: the neighbour that is split
        # must have an area itself.
        ready = [(i, *_across_longest(roof.nodes, triangles[i], owner)) for i in sorted(flat)]
        ready = [entry for entry in ready if entry[-1] not in flat]
        if not ready:
            break
        i, k, other = ready[0]
        flat.remove(i)
        if other is None:
            continue
        p, q, b = triangles[i][k], triangles[i][(k + 1) % 3], triangles[i][(k + 2) % 3]
        (d,) = (node for node in triangles[other] if node not in (p, q))
        triangles[i], triangles[other] = [q, b, d], [b, p, d]
        face[i] = face[other]
        del owner[(p, q)], owner[(q, p)]
        for t in (i, other):
            owner.update({(triangles[t][k], triangles[t][(k + 1) % 3]): t for k in range(3)})
    mended = replace(roof, triangles=np.array(triangles, np.int32), face=np.array(face, np.int32))
    return mended if _plan_areas(mended).min() > -FOLD_EM2 and _arcs_twinned(mended) else roof


def _across_longest(
    nodes: Array, triangle: list[int], owner: dict[tuple[int, int], int]
) -> tuple[int, int | None]:
    """(which side of a triangle is the longest, the triangle across it or None)."""
    sides = [math.dist(nodes[triangle[k], :2], nodes[triangle[(k + 1) % 3], :2]) for k in range(3)]
    k = sides.index(max(sides))
    return k, owner.get((triangle[(k + 1) % 3], triangle[k]))


def _longest_sides(roof: Roof) -> Array:
    corners = roof.nodes[roof.triangles, :2]
    return np.asarray(np.sqrt(((corners - corners[:, [2, 0, 1]]) ** 2).sum(axis=2).max(axis=1)))


def _plan_areas(roof: Roof) -> Array:
    a, b, c = (roof.nodes[roof.triangles[:, i]] for i in range(3))
    return np.asarray(
        0.5 * ((b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0]))
    )


def _without_fan_edges(first: Index, nodes: Index, start: Index, end: Index) -> tuple[Index, Index]:
    merged = nodes.copy()
    corner = merged < len(start)
    merged[corner] = start[merged[corner]]
    keep = np.ones(len(merged), bool)
    # A face lists its base edge first: start, end, then round.
    keep[first[:-1][start == end] + 1] = False
    counts = np.diff(np.concatenate([[0], np.cumsum(keep)])[first])
    return np.concatenate([[0], np.cumsum(counts)]), merged[keep]


def _with_fans(
    normals: Array, offsets: Array, corners: Array, ring_of: Index, corner: Corner
) -> tuple[Array, Array, Array, Index, Index]:
    """Set fans into reflex corners. fan_of (E,) names the first of the corners that stand at one point."""
    before = np.empty(len(corners), np.int64)
    before[_next_index(ring_of)] = np.arange(len(corners))
    a, b = normals[before], normals
    turn = -np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], np.einsum("ij,ij->i", a, b))
    least, step = (
        (CURVE_TURN_DEG, ROUND_FACET_TURN_DEG)
        if corner == "rounded"
        else (MITRE_LIMIT_TURN_DEG, MITRE_LIMIT_TURN_DEG)
    )
    extra = np.where(turn > np.radians(least), np.ceil(np.degrees(turn) / step) - 1, 0).astype(np.int64)
    if not extra.any():
        return normals, offsets, corners, ring_of, np.arange(len(corners))
    extra[_touching(corners)] = 0
    at = np.repeat(np.arange(len(corners)), extra + 1)
    fan_of = np.concatenate([[0], np.cumsum(extra + 1)[:-1]])[at]
    rank = np.arange(len(at)) - fan_of
    # The corner's own edge comes last: edges 0..extra-1 of the fan turn from the edge before towards it.
    share = (rank + 1) / (extra[at] + 1)
    heading = np.arctan2(a[at, 1], a[at, 0]) - share * turn[at]
    fanned = np.column_stack([np.cos(heading), np.sin(heading)])
    own = rank == extra[at]
    fanned[own] = normals[at[own]]
    new_corners = corners[at]
    new_offsets = np.where(own, offsets[at], np.einsum("ij,ij->i", fanned, new_corners))
    return fanned, new_offsets, new_corners, ring_of[at], fan_of


def _touching(corners: Array) -> NDArray[np.bool_]:
    """(n,) corners at which rings touch: no fan can be set there."""
    order = np.lexsort(corners.T)
    near = np.abs(np.diff(corners[order], axis=0)).max(axis=1) < TOUCHING_EM
    found = np.zeros(len(corners), bool)
    found[order[:-1][near]] = found[order[1:][near]] = True
    return found


def _lines(points: Array, nxt: Index, angle: float) -> tuple[Array, ...]:
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


def _snap_directions(direction: Array, length: Array, angle: float) -> Array:
    heading = np.arctan2(direction[:, 1], direction[:, 0]) % np.pi
    heading[heading > np.pi - angle] -= np.pi
    order = np.argsort(heading)
    first = np.concatenate([[0], np.flatnonzero(np.diff(heading[order]) > angle) + 1, [len(order)]])
    snapped = direction.copy()
    for k in np.flatnonzero(np.diff(first) > 1):
        group = order[first[k] : first[k + 1]]
        if np.ptp(heading[group]) > 2 * angle:
            continue
        axis_parallel = group[(direction[group] == 0.0).any(axis=1)]
        leader = (
            direction[axis_parallel[0]] if len(axis_parallel) else direction[group[np.argmax(length[group])]]
        )
        snapped[group] = leader * np.sign(direction[group] @ leader)[:, None]
    return snapped


def _arcs_twinned(roof: Roof) -> bool:
    """Every inner edge is used once each way and every base edge once."""
    starts = roof.triangles.ravel().astype(np.int64)
    ends = roof.triangles[:, [1, 2, 0]].ravel().astype(np.int64)
    real = roof.start != roof.end
    # The base edges the other way round are what the outside would use.
    span = len(roof.nodes)
    forward = np.concatenate([starts * span + ends, roof.end[real] * span + roof.start[real]])
    backward = np.concatenate([ends * span + starts, roof.start[real] * span + roof.end[real]])
    forward.sort()
    backward.sort()
    return bool((forward[1:] != forward[:-1]).all() and (forward == backward).all())
