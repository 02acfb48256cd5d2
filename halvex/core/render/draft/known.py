"""What a draft depends on: what is kept of one holds for the next while that is the same."""

from typing import NamedTuple

import numpy as np

from halvex.core.optics.material import ALPHA, EVEN, GLASS, GLOW, MATTE, NO_TEXTURE
from halvex.core.optics.sources import FACING, MAIN, SPAN, SURFACE, VARIES
from halvex.core.render.draft.lamplight import DULL_ALPHA
from halvex.core.render.film import light_levels
from halvex.core.render.world import World
from halvex.core.scene import Scene
from halvex.core.scene.keys import content_key

# What shadows depend on of a lamp.
_PLACE_OF_A_LAMP = ("kind", "centre", "u", "v", "normal", "size")


class Known(NamedTuple):
    """What a draft depends on: its primary hits and shadows, its lights' places, its ground's light, and what
    its ground looks like."""

    geometry: tuple[object, ...]
    lights: list[tuple[object, ...]]
    ground: tuple[object, ...]
    look: tuple[object, ...]


NOTHING_KNOWN = Known((), [], (), ())


def known_by(scene: Scene, world: World, width: int, height: int) -> Known:
    """What a draft of so many px depends on."""
    keys, kinds, params = scene.keys, scene.materials.kind, scene.materials.params
    # Shadows depend on which parts are glass, and how it tints; which lights are traced to, on
    # what is metal or shines.
    glass = params[kinds == GLASS].tobytes()
    if not scene.materials.plain[kinds == GLASS].all():
        glass = keys.materials.encode()
    solid = keys.bodies, kinds.tobytes(), glass, world.materials_of.tobytes()
    backing = scene.backing
    shade = (backing.softness, backing.moved, backing.shading.tobytes()) if backing.changed else ()
    geometry = keys.camera, keys.ground, solid, shade, width, height
    lamps = zip(*(getattr(scene.lamps, name) for name in _PLACE_OF_A_LAMP), strict=True)
    surround = "surround", scene.surround_key, float(scene.surround.turn)
    lights = [*(tuple(number.tobytes() for number in lamp) for lamp in lamps), surround]
    # Letters shade the ground, but only those that glow light it. Ground in detail keeps all of its colours.
    paint, glowing = params[list(_rows_of(scene))].tobytes(), params[kinds == GLOW].tobytes()
    paint += keys.backing.encode()
    if in_detail(scene):
        paint += keys.materials.encode()
    if glowing and not scene.materials.plain[kinds == GLOW].all():
        glowing = keys.materials.encode()
    ground = geometry, keys.light_geometry, paint, glowing, light_levels(world).tobytes()
    return Known(geometry, lights, ground, _look_of(scene, world, width, height) if in_detail(scene) else ())


def _look_of(scene: Scene, world: World, width: int, height: int) -> tuple[object, ...]:
    """What the look of the ground depends on, where the letters make no difference."""
    keys = scene.keys
    if as_on_canvas(scene):
        return content_key(scene.camera), keys.backing, keys.paints, width, height
    # What a layer follows that goes by the angle to the key lamp.
    key = world.key if (scene.materials.sources.layers[:, SPAN] == FACING).any() else ()
    # How far back the backdrop is seen without a ground makes no difference here.
    place = content_key(scene.ground._replace(behind=np.float32(0)))
    return keys.camera, place, keys.backing, keys.paints, tuple(key), width, height


def as_on_canvas(scene: Scene) -> bool:
    """Whether each pixel shows the same of the ground's colour wherever the ground stands, as layers over the
    canvas do, and the ground's own normal."""
    rows = list(_rows_of(scene))
    if rows[0] != rows[1] or scene.materials.texture[rows[0]] != NO_TEXTURE:
        return False
    sources = scene.materials.sources
    first, count = sources.first[rows[0], MAIN]
    spans = sources.layers[first : first + count, SPAN]
    return not sources.rows[rows[0], VARIES] and not np.isin(spans, (SURFACE, FACING)).any()


def _rows_of(scene: Scene) -> tuple[int, ...]:
    """The materials of the ground."""
    return scene.ground.material, scene.ground.wall_material


def in_detail(scene: Scene) -> bool:
    """Whether the ground is looked up pixel by pixel (ground.py)."""
    materials, backing, rows = scene.materials, scene.backing, list(_rows_of(scene))
    sharp = (materials.kind[rows] != MATTE) & (materials.params[rows, ALPHA] <= DULL_ALPHA)
    uneven = (materials.evenness[rows] != EVEN) | (materials.kind[rows] >= GLASS) | sharp
    return bool(uneven.any() or rows[0] != rows[1] or backing.lit < 1 or backing.mirrored > 0)
