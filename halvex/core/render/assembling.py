"""Assembling the world: trees over the bodies of a scene and over their instances.

A body keeps its tree as long as it is the same, and all bodies together theirs; only the small tree over
the instances is built again when something moves.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.memory import kept
from halvex.core.optics.colour import luminance
from halvex.core.optics.eight import LANES
from halvex.core.optics.material import CORE, FLAT, GLOW
from halvex.core.optics.sources import ACROSS, RUN, SPAN, SURFACE
from halvex.core.render.beads import Beads, Gathered, PlacedBeads, gather, grouped, no_beads
from halvex.core.render.glows import Glowing, Glows, in_tree, lit, no_glows
from halvex.core.render.tree import Tree, build_tree
from halvex.core.render.world import Bodies, Frames, Letters, World, on_lines
from halvex.core.scene import Scene
from halvex.core.scene.ground import COVE, WALL
from halvex.core.scene.lamps import towards_key
from halvex.core.scene.surround import Surround
from halvex.core.scene.surroundings import facing
from halvex.core.solids import Mesh
from halvex.core.solids.extents import extents_of

# Half an ulp of 1 in single precision, and the operations that a point goes through
# (`error_bound`): barycentrics 7, the offset twice, the piece's turn there and back 2 × 3, each of
# these over sums that the turn makes up to √3 times as large, the start itself 1, the triangle test
# 3; an instance's own turn there and back 2 × 3 once more.
EPSILON = 2.0**-24
ROUNDINGS, ROUNDINGS_TURNED = 32, 48
# How wide beads are at least, of their body's longest side.
LEAST_BEAD = 1e-5


class _Body(NamedTuple):
    tree: Tree
    corners: np.ndarray
    normals: np.ndarray
    uv: np.ndarray
    part: np.ndarray
    packets: np.ndarray


@kept
def _body(mesh: Mesh) -> _Body:
    corners = mesh.positions.astype(np.float32)[mesh.triangles]
    # Several times as fast as `min` and `max` over an axis of three.
    first, second, third = corners.transpose(1, 0, 2)
    low = np.minimum(np.minimum(first, second), third)
    high = np.maximum(np.maximum(first, second), third)
    tree = build_tree(low, high)
    order = tree.order
    sorted_corners = corners[order].reshape(-1, 9)
    return _Body(
        tree,
        sorted_corners,
        mesh.normals[order].reshape(-1, 9).astype(np.float32),
        mesh.uv[order].reshape(-1, 6).astype(np.float32),
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
        np.vstack([b.uv for b in bodies.values()]),
        np.concatenate([b.part for b in bodies.values()]),
        on_lines(np.concatenate([b.packets for b in bodies.values()])),
        np.concatenate(first).astype(np.int32),
        on_lines(np.concatenate([b.tree.boxes for b in bodies.values()])),
        np.concatenate(child).astype(np.int32),
    )
    return _Joined(joined, roots, spans)


class _Placed:
    """The instances of a scene, the same as others where bodies and places are."""

    def __init__(self, scene: Scene):
        self.instances, self.key = scene.instances, scene.bodies_key

    def __hash__(self) -> int:
        return hash(self.key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Placed) and other.key == self.key


@kept
def _letters(placed: _Placed) -> tuple[Letters, NDArray[np.int32]]:
    """The letters, and which instance of the scene each of theirs is. Kept while no body changes or
    moves."""
    instances = placed.instances
    transforms = np.array([instance.transform for instance in instances])
    matrix, offset = transforms[:, :, :3], transforms[:, :, 3]
    straight = _straight(transforms)
    joined = _joined(tuple(dict.fromkeys(instance.body for instance in instances)))
    bounds = np.array([instance.bounds for instance in instances])
    error = error_bound(np.array([instance.body.bounds for instance in instances]), transforms)
    # The boxes of what is turned are as much wider as rounding may move its points.
    slack = np.where(straight, 0.0, float(error))[:, None]
    low, high = (bounds[:, 0] - slack).astype(np.float32), (bounds[:, 1] + slack).astype(np.float32)
    places = build_tree(low, high, 1)
    order = places.order[places.first]
    inverse = np.linalg.inv(matrix)
    bodies = [instances[i].body for i in order]
    letters = Letters(
        joined.bodies,
        error,
        np.array([joined.root[body] for body in bodies], np.int32),
        np.array([joined.span[body] for body in bodies], np.int32),
        offset[order].astype(np.float32),
        matrix[order].astype(np.float32),
        inverse[order].astype(np.float32),
        straight[order].astype(np.uint8),
        np.linalg.norm(inverse[order, 0], axis=1).astype(np.float32),
        on_lines(places.boxes),
        places.child,
    )
    return letters, order


def _straight(transforms: NDArray[np.float64]) -> NDArray[np.bool_]:
    """(i,) which transforms (i, 3, 4) neither turn nor scale."""
    return np.asarray((transforms[:, :, :3] == np.eye(3)).all(axis=(1, 2)))


def error_bound(bounds: NDArray[np.float64], transforms: NDArray[np.float64]) -> np.float32:
    """Bound in px of the rounding error of a point on any triangle, as a ray that leaves it sees
    that triangle again.

    The point goes from barycentrics through the instance's transform (i, 3, 4) and the piece's turn
    into the world and back, and the triangle test subtracts it from the corners. Each operation
    adds at most one ulp of the coordinates' sum, so n operations are within γ(n) = nε / (1 - nε) of
    it (Pharr, Jakob & Humphreys, Physically Based Rendering 4, 6.8).
    """
    if not len(transforms):
        return np.float32(0)
    sides = np.abs(bounds).max(axis=1)
    scales = np.linalg.norm(transforms[:, :, 0], axis=1)
    reach = sides.sum(axis=1) * scales + np.abs(transforms[:, :, 3]).sum(axis=1)
    roundings = np.where(_straight(transforms), ROUNDINGS, ROUNDINGS_TURNED) * EPSILON
    return np.float32((roundings / (1 - roundings) * reach).max())


@kept
def _glowing(
    placed: _Placed, materials: tuple[tuple[int, ...], ...], shining: tuple[int, ...]
) -> Glowing | None:
    """The tree over the triangles of shining materials; materials (i, parts) of the letters' instances. Kept
    while no body changes or moves."""
    letters, _ = _letters(placed)
    corners, instances, triangles = [], [], []
    for number, (begin, end) in enumerate(letters.span):
        parts = [part for part, material in enumerate(materials[number]) if material in shining]
        own = begin + np.flatnonzero(np.isin(letters.bodies.part[begin:end], parts))
        if len(own):
            of_body = letters.bodies.corners[own].reshape(-1, 3, 3).astype(float)
            corners.append(of_body @ letters.matrix[number].T + letters.offset[number])
            instances.append(np.full(len(own), number))
            triangles.append(own)
    if not corners:
        return None
    return in_tree(np.concatenate(corners), np.concatenate(instances), np.concatenate(triangles))


def _glows(scene: Scene, letters: Letters, materials_of: NDArray[np.int32]) -> Glows:
    shining = tuple(np.flatnonzero(scene.materials.kind == GLOW).tolist())
    glowing = _glowing(_Placed(scene), tuple(map(tuple, materials_of.tolist())), shining) if shining else None
    if glowing is None:
        return no_glows()
    own = materials_of[glowing.instance, letters.bodies.part[glowing.triangle]]
    bright, core = luminance(scene.materials.params[own, :3]), scene.materials.params[own, CORE]
    if not (glowing.area * bright).sum() > 0:
        return no_glows()
    return lit(glowing, bright, core, letters.span[:, 0], letters.span[:, 1])


@kept
def _own_beads(mesh: Mesh, parts: tuple[int, ...]) -> Gathered | None:
    """The beads of those parts of a body, of the triangles in the order of its tree; None if it has none."""
    body = _body(mesh)
    own = np.flatnonzero(np.isin(body.part, parts))
    if not len(own):
        return None
    low, high = mesh.bounds
    # Twice the volume over the surface is a tube's radius, or half of what a plate is thick. Of what is far
    # longer than that, cubes could not be numbered.
    thickness = max(4 * abs(mesh.volume) / max(mesh.area, 1e-12), LEAST_BEAD * float((high - low).max()))
    found = gather(body.corners[own].reshape(-1, 3, 3), thickness)
    return found._replace(triangle=own[found.triangle])


def _beads(scene: Scene, letters: Letters, order: NDArray[np.int32]) -> Beads:
    """The beads of all that glows."""
    shining = np.flatnonzero(scene.materials.kind == GLOW).tolist()
    found = [no_beads()]
    for number, i in enumerate(order):
        instance = scene.instances[i]
        for material in shining:
            parts = tuple(part for part, own in enumerate(instance.materials) if own == material)
            own = _own_beads(instance.body, parts)
            if own is None:
                continue
            turn, offset = scene.turn @ instance.transform[:, :3], scene.turn @ instance.transform[:, 3]
            scale, count = float(np.linalg.norm(instance.transform[:, 0])), len(own.area)
            found.append(
                PlacedBeads(
                    own.place @ turn.T + offset,
                    scale * own.vector @ turn.T,
                    scale**2 * own.area,
                    turn @ own.moments @ turn.T,
                    np.full(count, scale * own.side),
                    np.full(count, scene.materials.params[material, CORE]),
                    np.full(count, number),
                    letters.span[number][0] + own.triangle,
                )
            )
    return grouped(PlacedBeads(*(np.concatenate(values) for values in zip(*found, strict=True))))


def _boxes(spans: NDArray[np.float64]) -> NDArray[np.float32]:
    """Middle, half sides, front and depth (i, PLANES, 6) of boxes (i, PLANES, 2, 3)."""
    low, high = spans[:, :, 0], spans[:, :, 1]
    middle, half = (low + high) / 2, (high - low) / 2
    ahead = np.stack([high[..., 2], high[..., 2] - low[..., 2]], axis=-1)
    return np.concatenate([middle[..., :2], half[..., :2], ahead], axis=-1).astype(np.float32)


def _extents(scene: Scene) -> NDArray[np.float32]:
    """Extents (t, 4) of all triangles, in their order in `_joined`; none where no layer follows a body."""
    if not np.isin(scene.materials.sources.layers[:, SPAN], (RUN, ACROSS, SURFACE)).any():
        return np.zeros((0, 4), np.float32)
    meshes = dict.fromkeys(instance.body for instance in scene.instances)
    return np.vstack([extents_of(mesh)[_body(mesh).tree.order] for mesh in meshes])


def _surround(scene: Scene) -> Surround:
    """The scene's surround with tables for faces, of which a wall has the normal, and for floors."""
    normals = [scene.turn[:, 2]]
    if scene.ground.kind == COVE:
        normals += [np.array([0.0, 1.0, 0.0]), np.array([0.0, 0.0, 1.0])]
    return facing(scene.surround, normals)


def make_world(scene: Scene, *, sampled: bool = True) -> World:
    """Trees over the scene's bodies and instances; a body keeps its tree as long as it is the same. Where
    lights are not `sampled` what glows has none, as drafts light with its beads, and the surround no tables
    but its own."""
    letters, order = _letters(_Placed(scene))
    materials_of = np.array([scene.instances[i].materials for i in order], np.int32)
    # The ground's frame comes last: walls turn with the lettering, floors and what is seen past them do not.
    own = scene.turn.T if scene.ground.kind != WALL else np.eye(3)
    frames = np.concatenate([scene.frames, np.hstack([own, np.zeros((3, 1))])[None]])
    return World(
        letters,
        materials_of,
        np.array([scene.instances[i].block for i in order], np.int32),
        _boxes(scene.spans[order]),
        _extents(scene),
        Frames(
            (scene.turn @ frames[:, :, :3]).astype(np.float32),
            (frames[:, :, 3] @ scene.turn.T).astype(np.float32),
        ),
        scene.turn.astype(np.float32),
        scene.materials,
        scene.lamps,
        _surround(scene) if sampled else scene.surround,
        _glows(scene, letters, materials_of) if sampled else no_glows(),
        _beads(scene, letters, order),
        scene.ground,
        scene.backing,
        scene.camera,
        towards_key(scene.lamps),
        scene.finish.flat_gain if (scene.materials.kind == FLAT).any() else np.float32(1),
        scene.has_glass,
    )
