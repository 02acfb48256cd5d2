"""The world: a scene with its trees, as the one argument that every kernel takes."""

from functools import lru_cache
from typing import NamedTuple

import numpy as np

from halvex.core.optics.material import Materials
from halvex.core.optics.tone import light_shown_as
from halvex.core.render.tree import Tree, build_tree
from halvex.core.scene import Scene
from halvex.core.scene.camera import Camera
from halvex.core.scene.ground import Ground
from halvex.core.scene.lamps import Lamps
from halvex.core.scene.surround import Surround
from halvex.core.solids import Mesh

STACK_DEPTH = 192


class World(NamedTuple):
    """Kernel arrays. Bodies are concatenated; node and triangle indices are already absolute.

    corners (t, 9) triangle corners in the body's frame; corner_normals (t, 9); part (t,);
    body_* the trees of all bodies; root (i,), offset (i, 3), materials_of (i, 4) per placement;
    place_* the tree over the placements (in the lettering's frame); turn (3, 3) float32 lettering → world;
    has_glass: whether shadow rays must look for glass.
    """

    corners: np.ndarray
    corner_normals: np.ndarray
    part: np.ndarray
    body_boxes: np.ndarray
    body_child: np.ndarray
    body_count: np.ndarray
    root: np.ndarray
    offset: np.ndarray
    materials_of: np.ndarray
    place_boxes: np.ndarray
    place_child: np.ndarray
    place_count: np.ndarray
    turn: np.ndarray
    materials: Materials
    lamps: Lamps
    surround: Surround
    ground: Ground
    camera: Camera
    backdrop: np.ndarray
    has_glass: bool


class _Body(NamedTuple):
    tree: Tree
    corners: np.ndarray
    normals: np.ndarray
    part: np.ndarray


class _MeshKey:
    """A mesh hashed by identity: meshes are immutable and themselves cached."""

    def __init__(self, mesh: Mesh):
        self.mesh = mesh

    def __hash__(self) -> int:
        return id(self.mesh)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _MeshKey) and other.mesh is self.mesh


@lru_cache(maxsize=1024)
def _body(key: _MeshKey) -> _Body:
    mesh = key.mesh
    corners = mesh.positions.astype(np.float32)[mesh.triangles]
    tree = build_tree(corners.min(axis=1), corners.max(axis=1))
    order = tree.order
    return _Body(tree, corners[order].reshape(-1, 9), mesh.normals[order].reshape(-1, 9), mesh.part[order])


class _Geometry(NamedTuple):
    """The fields of a World that depend on bodies and their places only, and the order of its placements."""

    corners: np.ndarray
    corner_normals: np.ndarray
    part: np.ndarray
    body_boxes: np.ndarray
    body_child: np.ndarray
    body_count: np.ndarray
    root: np.ndarray
    offset: np.ndarray
    places: Tree


@lru_cache(maxsize=8)
def _geometry(placed: tuple[tuple[_MeshKey, tuple[float, float, float]], ...]) -> _Geometry:
    """Kept while no body changes or moves: a lamp, a material or the view finds it as it was."""
    bodies = {key: _body(key) for key, _ in placed}
    roots, nodes, triangles = {}, 0, 0
    boxes, child, count = [], [], []
    for key, body in bodies.items():
        roots[key] = nodes
        tree = body.tree
        inner = tree.items == 0
        lonely = (tree.child < 0) & inner  # the empty side of a one-leaf tree
        child.append(np.where(inner & ~lonely, tree.child + nodes, ~(~tree.child + triangles)))
        boxes.append(tree.boxes)
        count.append(tree.items)
        nodes += len(tree.boxes)
        triangles += len(body.corners)
    low = np.array([bodies[key].corners.reshape(-1, 3).min(axis=0) + offset for key, offset in placed], np.float32)
    high = np.array([bodies[key].corners.reshape(-1, 3).max(axis=0) + offset for key, offset in placed], np.float32)
    places = build_tree(low, high, 1)
    return _Geometry(
        np.vstack([b.corners for b in bodies.values()]),
        np.vstack([b.normals for b in bodies.values()]),
        np.concatenate([b.part for b in bodies.values()]),
        np.vstack(boxes),
        np.vstack(child).astype(np.int32),
        np.vstack(count).astype(np.int32),
        np.array([roots[placed[i][0]] for i in places.order], np.int32),
        np.array([placed[i][1] for i in places.order], np.float32),
        places,
    )


def make_world(scene: Scene) -> World:
    """Trees over the scene's bodies and placements; a body keeps its tree as long as it is the same."""
    geometry = _geometry(tuple((_MeshKey(p.body), p.offset) for p in scene.placements))
    places = geometry.places
    return World(
        *geometry[:-1],
        np.array([scene.placements[i].materials for i in places.order], np.int32),
        places.boxes,
        places.child,
        places.items,
        scene.turn.astype(np.float32),
        scene.materials,
        scene.lamps,
        scene.surround,
        scene.ground,
        scene.camera,
        light_shown_as(scene.backdrop, scene.exposure).astype(np.float32),
        scene.has_glass,
    )
