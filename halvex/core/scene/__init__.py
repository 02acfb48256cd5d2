"""A piece and its bodies as arrays: camera, lamps, surround, ground, instances."""

from halvex.core.scene.instances import Instance, place_bodies
from halvex.core.scene.panorama import SceneError
from halvex.core.scene.scene import Scene, build_scene, scene_of

__all__ = ["Instance", "Scene", "SceneError", "build_scene", "place_bodies", "scene_of"]
