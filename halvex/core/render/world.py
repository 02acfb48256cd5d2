"""The world: a scene with its trees, as the one argument that every kernel takes."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.memory import kept
from halvex.core.optics.colour import luminance
from halvex.core.optics.eight import LANES
from halvex.core.optics.material import GLOW, Materials
from halvex.core.optics.tone import light_shown_as
from halvex.core.render.lanes import NODE_FLOATS
from halvex.core.render.sampler import DIMENSIONS
from halvex.core.render.tree import NOWHERE, Tree, build_tree
from halvex.core.scene import Scene
from halvex.core.scene.camera import Camera
from halvex.core.scene.ground import Ground
from halvex.core.scene.lamps import Lamps
from halvex.core.scene.surround import Surround
from halvex.core.solids import Mesh

# Each level of a tree leaves up to seven siblings on the stack: those of the placements' tree, then those of a body's (tree.py).
STACK_DEPTH = 1024
# Leaves that the rays of one pixel are tried against without a search (beams.py).
MOST_LEAVES = 24
# Bytes that a processor's cache holds together.
CACHE_LINE = 64
# Half an ulp of 1 in single precision, and the operations that a point goes through (`error_bound`): barycentrics 7, the
# offset twice, the turn there and back 2 × 3, each of these over sums that the turn makes up to √3 times as large, the
# start itself 1, the triangle test 3.
EPSILON = 2.0**-24
ROUNDINGS = 32


class Scratch(NamedTuple):
    """One thread's working memory: a traversal stack (STACK_DEPTH,) int64; results of eight tests (3 · LANES,) float32 with a
    view of the same bits as int32; the leaves that a pixel may show (MOST_LEAVES, 3) int32, bits of a distance, placement and
    packet; the sampler's numbers (DIMENSIONS · 2 · LANES,), in rows of eight, and which block of samples each two rows are of,
    drawn (DIMENSIONS,)."""

    stack: np.ndarray
    lanes: np.ndarray
    bits: np.ndarray
    leaves: np.ndarray
    numbers: np.ndarray
    drawn: np.ndarray


def on_lines(numbers: NDArray[np.float32]) -> NDArray[np.float32]:
    """A copy (n,) that begins with a line of the processor's cache: no row of eight lies across two of them, which would take twice
    as long to read."""
    room = np.empty(numbers.nbytes + CACHE_LINE, np.uint8)
    begin = -room.ctypes.data % CACHE_LINE
    copy = room[begin : begin + numbers.nbytes].view(numbers.dtype)
    copy[:] = numbers
    return copy


def make_scratch() -> Scratch:
    lanes = on_lines(np.zeros(3 * LANES, np.float32))
    numbers, drawn = on_lines(np.zeros(DIMENSIONS * 2 * LANES, np.float32)), np.full(DIMENSIONS, -1, np.int32)
    return Scratch(np.zeros(STACK_DEPTH, np.int64), lanes, lanes.view(np.int32), np.zeros((MOST_LEAVES, 3), np.int32), numbers, drawn)


class Bodies(NamedTuple):
    """Trees and triangles of several bodies end to end, numbered through.

    corners, normals (t, 9) of triangles in the body's frame; part (t,); packets (p · PACKET_FLOATS,) the same corners as
    lanes.py reads them, first (p,): a packet's first triangle; boxes, child: the trees.
    """

    corners: np.ndarray
    normals: np.ndarray
    part: np.ndarray
    packets: np.ndarray
    first: np.ndarray
    boxes: np.ndarray
    child: np.ndarray


class Letters(NamedTuple):
    """Bodies and their places.

    Per placement its body's root (i,), offset (i, 3) and span (i, 2), its first triangle and the one after its last;
    place_boxes, place_child: the tree over the placements, in the lettering's frame; error: how far in px a point computed
    on a triangle may lie off it (`error_bound`).
    """

    bodies: Bodies
    error: np.float32
    root: np.ndarray
    offset: np.ndarray
    span: np.ndarray
    place_boxes: np.ndarray
    place_child: np.ndarray


class Glows(NamedTuple):
    """Triangles that shine: placement and triangle (g,); share (g + 1,) their cumulative chance, by area and luminance;
    power: that chance per px² and luminance."""

    placement: np.ndarray
    triangle: np.ndarray
    share: np.ndarray
    power: np.float32


class World(NamedTuple):
    """Kernel arrays. materials_of (i, parts) per placement; turn (3, 3) lettering → world; has_glass: shadow rays must look for glass."""

    letters: Letters
    materials_of: np.ndarray
    turn: np.ndarray
    materials: Materials
    lamps: Lamps
    surround: Surround
    glows: Glows
    ground: Ground
    camera: Camera
    backdrop: np.ndarray
    has_glass: bool


class _Body(NamedTuple):
    tree: Tree
    corners: np.ndarray
    normals: np.ndarray
    part: np.ndarray
    packets: np.ndarray


@kept
def _body(mesh: Mesh) -> _Body:
    corners = mesh.positions.astype(np.float32)[mesh.triangles]
    tree = build_tree(corners.min(axis=1), corners.max(axis=1))
    order = tree.order
    sorted_corners = corners[order].reshape(-1, 9)
    return _Body(tree, sorted_corners, mesh.normals[order].reshape(-1, 9).astype(np.float32), mesh.part[order], _packed(sorted_corners, tree))


def _packed(corners: NDArray[np.float32], tree: Tree) -> NDArray[np.float32]:
    """Packets (leaves · PACKET_FLOATS,) of a tree's leaves; lanes without a triangle hold an empty one."""
    lane = np.arange(LANES)
    taken = lane[None] < tree.many[:, None]
    triangle = np.where(taken, tree.first[:, None] + lane[None], 0)
    packets = np.where(taken[..., None], corners[triangle], np.float32(0))
    return np.ascontiguousarray(packets.transpose(0, 2, 1)).reshape(-1)


class _Joined(NamedTuple):
    """Bodies, and where each of them is among them: its tree's root, the span of its triangles; and its low and high corner."""

    bodies: Bodies
    root: dict[Mesh, int]
    span: dict[Mesh, tuple[int, int]]
    bounds: dict[Mesh, tuple[np.ndarray, np.ndarray]]


@kept
def _joined(meshes: tuple[Mesh, ...]) -> _Joined:
    """Kept while letters only move."""
    bodies = {mesh: _body(mesh) for mesh in meshes}
    roots, spans, nodes, packets, triangles = {}, {}, 0, 0, 0
    child, first = [], []
    for mesh, body in bodies.items():
        roots[mesh], spans[mesh] = nodes, (triangles, triangles + len(body.corners))
        inner = body.tree.child >= 0
        child.append(np.where(inner, body.tree.child + nodes, body.tree.child - packets))
        first.append(body.tree.first + triangles)
        nodes += len(body.tree.child) // LANES
        packets += len(body.tree.first)
        triangles += len(body.corners)
    joined = Bodies(
        np.vstack([b.corners for b in bodies.values()]),
        np.vstack([b.normals for b in bodies.values()]),
        np.concatenate([b.part for b in bodies.values()]),
        on_lines(np.concatenate([b.packets for b in bodies.values()])),
        np.concatenate(first).astype(np.int32),
        on_lines(np.concatenate([b.tree.boxes for b in bodies.values()])),
        np.concatenate(child).astype(np.int32),
    )
    bounds = {mesh: (body.corners.reshape(-1, 3).min(axis=0), body.corners.reshape(-1, 3).max(axis=0)) for mesh, body in bodies.items()}
    return _Joined(joined, roots, spans, bounds)


@kept
def _letters(placed: tuple[tuple[Mesh, tuple[float, float, float]], ...]) -> tuple[Letters, NDArray[np.int32]]:
    """The letters, and which of `placed` each placement is. Kept while no body changes or moves."""
    joined = _joined(tuple(dict.fromkeys(mesh for mesh, _ in placed)))
    low, high = (np.array([joined.bounds[mesh][end] + offset for mesh, offset in placed], np.float32) for end in (0, 1))
    places = build_tree(low, high, 1)
    order = places.order[places.first]
    letters = Letters(
        joined.bodies,
        error_bound([joined.bounds[mesh] for mesh, _ in placed], [offset for _, offset in placed]),
        np.array([joined.root[placed[i][0]] for i in order], np.int32),
        np.array([placed[i][1] for i in order], np.float32),
        np.array([joined.span[placed[i][0]] for i in order], np.int32),
        on_lines(places.boxes),
        places.child,
    )
    return letters, order


def error_bound(bounds: Sequence[tuple[NDArray[np.float32], NDArray[np.float32]]], offsets: Sequence[tuple[float, float, float]]) -> np.float32:
    """Bound in px of the rounding error of a point on any triangle, as a ray that leaves it sees that triangle again.

    The point goes from barycentrics through the placement's offset and the turn into the world and back, and the
    triangle test subtracts it from the corners. Each operation adds at most one ulp of the coordinates' sum, so
    n operations are within γ(n) = nε / (1 - nε) of it (Pharr, Jakob & Humphreys, Physically Based Rendering 4, 6.8).
    """
    reach = [float(np.maximum(abs(low), abs(high)).sum() + np.abs(offset).sum()) for (low, high), offset in zip(bounds, offsets, strict=True)]
    return np.float32(ROUNDINGS * EPSILON / (1 - ROUNDINGS * EPSILON) * max(reach, default=0.0))


def letters_bounds(letters: Letters) -> tuple[NDArray[np.float32], NDArray[np.float32]] | None:
    """The lowest and the highest corner (3,) of all letters, in the lettering's frame; None without any."""
    root = letters.place_boxes[:NODE_FLOATS].reshape(2, 3, LANES)[..., letters.place_boxes[:LANES] < NOWHERE]
    return (root[0].min(axis=1), root[1].max(axis=1)) if root.size else None


def _glows(scene: Scene, letters: Letters, materials_of: NDArray[np.int32]) -> Glows:
    shining = np.flatnonzero(scene.materials.kind == GLOW)
    placements, triangles, weights = [], [], []
    if len(shining):
        for number, (begin, end) in enumerate(letters.span):
            materials = materials_of[number][letters.bodies.part[begin:end]]
            own = begin + np.flatnonzero(np.isin(materials, shining))
            if len(own):
                corners = letters.bodies.corners[own].reshape(-1, 3, 3)
                area = 0.5 * np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
                bright = luminance(scene.materials.params[materials_of[number][letters.bodies.part[own]], :3])
                placements.append(np.full(len(own), number))
                triangles.append(own)
                weights.append(area * bright)
    if not weights or not np.concatenate(weights).sum() > 0:
        return Glows(np.zeros(0, np.int32), np.zeros(0, np.int32), np.zeros(1, np.float32), np.float32(0))
    weight = np.concatenate(weights)
    share = np.concatenate([[0.0], np.cumsum(weight)]) / weight.sum()
    power = np.float32(1 / weight.sum())
    return Glows(np.concatenate(placements).astype(np.int32), np.concatenate(triangles).astype(np.int32), share.astype(np.float32), power)


def make_world(scene: Scene) -> World:
    """Trees over the scene's bodies and placements; a body keeps its tree as long as it is the same."""
    letters, order = _letters(tuple((p.body, p.offset) for p in scene.placements))
    materials_of = np.array([scene.placements[i].materials for i in order], np.int32)
    return World(
        letters,
        materials_of,
        scene.turn.astype(np.float32),
        scene.materials,
        scene.lamps,
        scene.surround,
        _glows(scene, letters, materials_of),
        scene.ground,
        scene.camera,
        light_shown_as(scene.backdrop, scene.exposure).astype(np.float32),
        scene.has_glass,
    )
