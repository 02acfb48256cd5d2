"""A piece and its bodies as arrays: camera, lamps, surround, ground, placements."""

from halvex.core.scene.scene import Placement, Scene, build_scene, place_letters

__all__ = ["Placement", "Scene", "build_scene", "place_letters"]
