"""The world: a scene with its trees, as the one argument that every kernel takes."""

from collections.abc import Sequence
from typing import Any, NamedTuple

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

# Each level of a tree leaves up to seven siblings on the stack: those of the placements' tree, then
# those of a body's (tree.py).
STACK_DEPTH = 1024
# Leaves that the rays of one pixel are tried against without a search (beams.py).
MOST_LEAVES = 24
# Bytes that a processor's cache holds together.
CACHE_LINE = 64
# Half an ulp of 1 in single precision, and the operations that a point goes through
# (`error_bound`): barycentrics 7, the offset twice, the piece's turn there and back 2 × 3, each of
# these over sums that the turn makes up to √3 times as large, the start itself 1, the triangle test
# 3; an instance's own turn there and back 2 × 3 once more.
EPSILON = 2.0**-24
ROUNDINGS, ROUNDINGS_TURNED = 32, 48


class Scratch(NamedTuple):
    """One thread's working memory: a traversal stack (STACK_DEPTH,) int64; results of eight tests
    (3 · LANES,) float32 with a view of the same bits as int32; the leaves that a pixel may show
    (MOST_LEAVES, 3) int32, bits of a distance, instance and packet; the sampler's numbers
    (DIMENSIONS · 2 · LANES,), in rows of eight, and which block of samples each two rows are of,
    drawn (DIMENSIONS,)."""

    stack: np.ndarray
    lanes: np.ndarray
    bits: np.ndarray
    leaves: np.ndarray
    numbers: np.ndarray
    drawn: np.ndarray


def on_lines(numbers: NDArray[np.float32]) -> NDArray[np.float32]:
    """A copy (n,) that begins with a line of the processor's cache: no row of eight lies across two
    of them, which would take twice as long to read."""
    room = np.empty(numbers.nbytes + CACHE_LINE, np.uint8)
    begin = -room.ctypes.data % CACHE_LINE
    copy = room[begin : begin + numbers.nbytes].view(numbers.dtype)
    copy[:] = numbers
    return copy


def make_scratch() -> Scratch:
    lanes = on_lines(np.zeros(3 * LANES, np.float32))
    numbers, drawn = on_lines(np.zeros(DIMENSIONS * 2 * LANES, np.float32)), np.full(DIMENSIONS, -1, np.int32)
    return Scratch(
        np.zeros(STACK_DEPTH, np.int64),
        lanes,
        lanes.view(np.int32),
        np.zeros((MOST_LEAVES, 3), np.int32),
        numbers,
        drawn,
    )


class Bodies(NamedTuple):
    """Trees and triangles of several bodies end to end, numbered through.

    corners, normals (t, 9) of triangles in the body's frame; part (t,); packets (p ·
    PACKET_FLOATS,) the same corners as lanes.py reads them, first (p,): a packet's first triangle;
    boxes, child: the trees.
    """

    corners: np.ndarray
    normals: np.ndarray
    part: np.ndarray
    packets: np.ndarray
    first: np.ndarray
    boxes: np.ndarray
    child: np.ndarray


class Letters(NamedTuple):
    """Bodies and their instances.

    Per instance its body's root (i,) and span (i, 2), its first triangle and the one after its
    last. A point of a body is matrix (i, 3, 3) · point + offset (i, 3) in the lettering's frame,
    and back by inverse (i, 3, 3); straight (i,): it is neither turned nor scaled; unit (i,): px of
    the body per px. place_boxes, place_child: the tree over the instances, in the lettering's
    frame; error: how far in px a point computed on a triangle may lie off it (`error_bound`).
    """

    bodies: Bodies
    error: np.float32
    root: np.ndarray
    span: np.ndarray
    offset: np.ndarray
    matrix: np.ndarray
    inverse: np.ndarray
    straight: np.ndarray
    unit: np.ndarray
    place_boxes: np.ndarray
    place_child: np.ndarray


class Frames(NamedTuple):
    """The frame of each block, and last that of the ground: a point of it is turn (f, 3, 3) · point
    + origin (f, 3) in the world. Textures and brushes lie in them."""

    turn: np.ndarray
    origin: np.ndarray


class Glows(NamedTuple):
    """Triangles that shine: instance and triangle (g,); share (g + 1,) their cumulative chance, by
    area and luminance; power: that chance per px² and luminance."""

    instance: np.ndarray
    triangle: np.ndarray
    share: np.ndarray
    power: np.float32


class World(NamedTuple):
    """Kernel arrays. Per instance materials_of (i, parts) and frame_of (i,), the frame of its
    block; turn (3, 3) takes the lettering's frame to the world; has_glass: shadow rays must look
    for glass."""

    letters: Letters
    materials_of: np.ndarray
    frame_of: np.ndarray
    frames: Frames
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
    return _Body(
        tree,
        sorted_corners,
        mesh.normals[order].reshape(-1, 9).astype(np.float32),
        mesh.part[order],
        _packed(sorted_corners, tree),
    )


def _packed(corners: NDArray[np.float32], tree: Tree) -> NDArray[np.float32]:
    """Packets (leaves · PACKET_FLOATS,) of a tree's leaves; lanes without a triangle hold an empty one."""
    lane = np.arange(LANES)
    taken = lane[None] < tree.many[:, None]
    triangle = np.where(taken, tree.first[:, None] + lane[None], 0)
    packets = np.where(taken[..., None], corners[triangle], np.float32(0))
    return np.ascontiguousarray(packets.transpose(0, 2, 1)).reshape(-1)


class _Joined(NamedTuple):
    """Bodies, and where each of them is among them: its tree's root, the span of its triangles; and
    its low and high corner."""

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
    bounds = {
        mesh: (body.corners.reshape(-1, 3).min(axis=0), body.corners.reshape(-1, 3).max(axis=0))
        for mesh, body in bodies.items()
    }
    return _Joined(joined, roots, spans, bounds)


@kept
def _letters(placed: tuple[tuple[Mesh, bytes], ...]) -> tuple[Letters, NDArray[np.int32]]:
    """The letters from bodies and the bytes of their transforms (3, 4), and which of `placed` each
    instance is. Kept while no body changes or moves."""
    meshes = [mesh for mesh, _ in placed]
    transforms = np.frombuffer(b"".join(bits for _, bits in placed)).reshape(-1, 3, 4)
    matrix, offset = transforms[:, :, :3], transforms[:, :, 3]
    straight = (matrix == np.eye(3)).all(axis=(1, 2))
    joined = _joined(tuple(dict.fromkeys(meshes)))
    bounds = [joined.bounds[mesh] for mesh in meshes]
    low, high = (np.array([pair[end] for pair in bounds]) + offset for end in (0, 1))
    for i in np.flatnonzero(~straight):
        points = meshes[i].hull @ matrix[i].T + offset[i]
        low[i], high[i] = points.min(axis=0), points.max(axis=0)
    error = error_bound(bounds, transforms)
    # The boxes of what is turned are as much wider as rounding may move its points.
    slack = np.where(straight, 0.0, float(error))[:, None]
    places = build_tree((low - slack).astype(np.float32), (high + slack).astype(np.float32), 1)
    order = places.order[places.first]
    inverse = np.linalg.inv(matrix)
    letters = Letters(
        joined.bodies,
        error,
        np.array([joined.root[meshes[i]] for i in order], np.int32),
        np.array([joined.span[meshes[i]] for i in order], np.int32),
        offset[order].astype(np.float32),
        matrix[order].astype(np.float32),
        inverse[order].astype(np.float32),
        straight[order].astype(np.uint8),
        np.linalg.norm(inverse[order, 0], axis=1).astype(np.float32),
        on_lines(places.boxes),
        places.child,
    )
    return letters, order


def error_bound(
    bounds: Sequence[tuple[NDArray[Any], NDArray[Any]]], transforms: NDArray[np.float64]
) -> np.float32:
    """Bound in px of the rounding error of a point on any triangle, as a ray that leaves it sees
    that triangle again.

    The point goes from barycentrics through the instance's transform (i, 3, 4) and the piece's turn
    into the world and back, and the triangle test subtracts it from the corners. Each operation
    adds at most one ulp of the coordinates' sum, so n operations are within γ(n) = nε / (1 - nε) of
    it (Pharr, Jakob & Humphreys, Physically Based Rendering 4, 6.8).
    """
    if not len(transforms):
        return np.float32(0)
    sides = np.abs(np.array(bounds, float)).max(axis=1)
    scales = np.linalg.norm(transforms[:, :, 0], axis=1)
    reach = sides.sum(axis=1) * scales + np.abs(transforms[:, :, 3]).sum(axis=1)
    straight = (transforms[:, :, :3] == np.eye(3)).all(axis=(1, 2))
    roundings = np.where(straight, ROUNDINGS, ROUNDINGS_TURNED) * EPSILON
    return np.float32((roundings / (1 - roundings) * reach).max())


def letters_bounds(letters: Letters) -> tuple[NDArray[np.float32], NDArray[np.float32]] | None:
    """The lowest and the highest corner (3,) of all letters, in the lettering's frame; None without any."""
    root = letters.place_boxes[:NODE_FLOATS].reshape(2, 3, LANES)[..., letters.place_boxes[:LANES] < NOWHERE]
    return (root[0].min(axis=1), root[1].max(axis=1)) if root.size else None


def projections_of(letters: Letters, projection: NDArray[np.float64]) -> NDArray[np.float64]:
    """From each instance's body to the picture (i, 4, 4); `projection` (4, 4) is the camera's
    `lettering_to_picture`."""
    transforms = np.zeros((len(letters.root), 4, 4))
    transforms[:, :3, :3], transforms[:, :3, 3], transforms[:, 3, 3] = letters.matrix, letters.offset, 1.0
    return np.ascontiguousarray(projection @ transforms)


def _glows(scene: Scene, letters: Letters, materials_of: NDArray[np.int32]) -> Glows:
    shining = np.flatnonzero(scene.materials.kind == GLOW)
    instances, triangles, weights = [], [], []
    if len(shining):
        for number, (begin, end) in enumerate(letters.span):
            materials = materials_of[number][letters.bodies.part[begin:end]]
            own = begin + np.flatnonzero(np.isin(materials, shining))
            if len(own):
                corners = letters.bodies.corners[own].reshape(-1, 3, 3)
                area = 0.5 * np.linalg.norm(
                    np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1
                )
                area /= letters.unit[number] ** 2
                bright = luminance(scene.materials.params[materials_of[number][letters.bodies.part[own]], :3])
                instances.append(np.full(len(own), number))
                triangles.append(own)
                weights.append(area * bright)
    if not weights or not np.concatenate(weights).sum() > 0:
        return Glows(np.zeros(0, np.int32), np.zeros(0, np.int32), np.zeros(1, np.float32), np.float32(0))
    weight = np.concatenate(weights)
    share = np.concatenate([[0.0], np.cumsum(weight)]) / weight.sum()
    power = np.float32(1 / weight.sum())
    return Glows(
        np.concatenate(instances).astype(np.int32),
        np.concatenate(triangles).astype(np.int32),
        share.astype(np.float32),
        power,
    )


def make_world(scene: Scene) -> World:
    """Trees over the scene's bodies and instances; a body keeps its tree as long as it is the same."""
    letters, order = _letters(tuple((i.body, i.transform.tobytes()) for i in scene.instances))
    materials_of = np.array([scene.instances[i].materials for i in order], np.int32)
    # The ground's frame comes last.
    frames = np.concatenate([scene.frames, np.eye(3, 4)[None]])
    return World(
        letters,
        materials_of,
        np.array([scene.instances[i].block for i in order], np.int32),
        Frames(
            (scene.turn @ frames[:, :, :3]).astype(np.float32),
            (frames[:, :, 3] @ scene.turn.T).astype(np.float32),
        ),
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
