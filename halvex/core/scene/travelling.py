"""Scenes as bytes, for another process or machine: arrays in numpy's own format, and nothing that is run.

A scene that has travelled renders to the same film as the one it came from. Bodies that instances share
travel once; surroundings travel as the arrays that they were made into, so no file is needed to render.
"""

import io
import json
from typing import Any
from zipfile import BadZipFile

import numpy as np

from halvex.core.optics.material import Materials
from halvex.core.scene.backing import Backing
from halvex.core.scene.camera import Camera
from halvex.core.scene.finish import Finish, Frame
from halvex.core.scene.ground import Ground
from halvex.core.scene.instances import Instance
from halvex.core.scene.lamps import Lamps
from halvex.core.scene.panorama import SceneError
from halvex.core.scene.scene import Scene
from halvex.core.scene.surround import Surround
from halvex.core.solids import Mesh

FORMAT = 6
GROUPS: dict[str, type[tuple[Any, ...]]] = {
    "materials": Materials,
    "lamps": Lamps,
    "surround": Surround,
    "ground": Ground,
    "backing": Backing,
    "camera": Camera,
}
MESH_FIELDS = ("positions", "triangles", "part", "normals", "uv")
NAMES = ("lights", "blocks", "bodies_key", "surround_key", "pictures_key")


def scene_to_bytes(scene: Scene) -> bytes:
    """A scene as an .npz archive, without the effects that finish it."""
    meshes = list(dict.fromkeys(instance.body for instance in scene.instances))
    number = {mesh: at for at, mesh in enumerate(meshes)}
    arrays: dict[str, Any] = {
        "names": np.array(
            json.dumps(
                {
                    "format": FORMAT,
                    "finish": scene.finish[:3],
                    "frame": scene.finish.frame,
                    **{name: getattr(scene, name) for name in NAMES},
                }
            )
        ),
        "turn": scene.turn,
        "frames": scene.frames,
        "spans": scene.spans,
        "instances.body": np.array([number[instance.body] for instance in scene.instances]),
        "instances.transform": np.array([instance.transform for instance in scene.instances]),
        "instances.bounds": np.array([instance.bounds for instance in scene.instances]),
        "instances.materials": np.array([instance.materials for instance in scene.instances]),
        "instances.block": np.array([instance.block for instance in scene.instances]),
    }
    for at, mesh in enumerate(meshes):
        arrays |= {f"mesh{at}.{field}": getattr(mesh, field) for field in MESH_FIELDS}
    for group in GROUPS:
        arrays |= _arrays(group, getattr(scene, group))
    out = io.BytesIO()
    np.savez(out, **arrays)
    return out.getvalue()


def _arrays(group: str, values: Any) -> dict[str, Any]:
    """The fields of a named tuple, and of those within it, by name."""
    found: dict[str, Any] = {}
    for name, value in values._asdict().items():
        found |= (
            _arrays(f"{group}.{name}", value) if hasattr(value, "_fields") else {f"{group}.{name}": value}
        )
    return found


def scene_from_bytes(data: bytes) -> Scene:
    """The scene of `scene_to_bytes`, from a process that is trusted: indices are not checked again. Raises
    SceneError for bytes that hold no scene."""
    try:
        with np.load(io.BytesIO(data), allow_pickle=False) as archive:
            arrays = dict(archive)
        return _scene(arrays)
    except (BadZipFile, ValueError, KeyError, OSError, EOFError, TypeError, IndexError) as fault:
        raise SceneError("these bytes are no scene of this Halvex; make them again") from fault


def _scene(arrays: dict[str, Any]) -> Scene:
    names = json.loads(str(arrays["names"]))
    if names["format"] != FORMAT:
        raise ValueError(names["format"])
    bodies = arrays["instances.body"].tolist()
    meshes = [Mesh(*(arrays[f"mesh{at}.{field}"] for field in MESH_FIELDS)) for at in range(max(bodies) + 1)]
    columns = (arrays[f"instances.{name}"] for name in ("transform", "bounds", "materials", "block"))
    instances = tuple(
        Instance(meshes[body], transform, bounds, tuple(materials.tolist()), int(block))
        for body, transform, bounds, materials, block in zip(bodies, *columns, strict=True)
    )
    groups = {group: _group(arrays, group, kind) for group, kind in GROUPS.items()}
    return Scene(
        instances=instances,
        frames=arrays["frames"],
        spans=arrays["spans"],
        turn=arrays["turn"],
        finish=Finish(*names["finish"])._replace(frame=Frame(*names["frame"])),
        lights=tuple(names["lights"]),
        blocks=tuple(names["blocks"]),
        bodies_key=names["bodies_key"],
        surround_key=names["surround_key"],
        pictures_key=names["pictures_key"],
        **groups,
    )


def _group(arrays: dict[str, Any], group: str, kind: Any) -> Any:
    """A named tuple of arrays, and of named tuples of them; of what was a number or a tuple of numbers, that
    again."""
    values = []
    for name in kind._fields:
        inner, key = kind.__annotations__[name], f"{group}.{name}"
        values.append(_group(arrays, key, inner) if hasattr(inner, "_fields") else _value(arrays[key], group))
    return kind(*values)


def _value(array: Any, group: str) -> Any:
    if array.ndim == 0:
        return array[()] if array.dtype.kind == "f" else array.item()
    # Of these, tuples of numbers; only what they hold by the block is an array.
    if group in ("ground", "backing", "camera") and array.dtype == np.float32:
        return tuple(array)
    return array
