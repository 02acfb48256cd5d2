"""A piece and its bodies as arrays: camera, lamps, surround, ground, placements."""

from halvex.core.scene.panorama import SceneError
from halvex.core.scene.scene import Placement, Scene, build_scene, place_letters

__all__ = ["Placement", "Scene", "SceneError", "build_scene", "place_letters"]
