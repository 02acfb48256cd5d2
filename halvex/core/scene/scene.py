"""The scene: all that a picture depends on, as the numbers that the renderer reads."""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from halvex.core.assets import SHIPPED, Assets
from halvex.core.optics.material import GLASS, Materials, pack_materials
from halvex.core.optics.texels import NO_PICTURES, Pictures
from halvex.core.piece.backdrop import AnyGroundMaterial, Backdrop
from halvex.core.piece.material import Flat, Plastic
from halvex.core.piece.model import Piece
from halvex.core.piece.resolving import ResolvedPiece, resolve
from halvex.core.piece.source import base_of
from halvex.core.piece.turning import rotation
from halvex.core.scene.backing import NOTHING_BEHIND, Backing, make_backing
from halvex.core.scene.camera import Camera, make_camera
from halvex.core.scene.drawn import with_drawn
from halvex.core.scene.finish import Finish, Frame, covers_wanted
from halvex.core.scene.ground import NO_GROUND, Ground, front_of, make_ground
from halvex.core.scene.instances import Instance, place_bodies
from halvex.core.scene.keys import SceneKeys, content_key
from halvex.core.scene.lamps import Lamps, pack_lamps, towards_key
from halvex.core.scene.outlines import Box, FaceSeen, Outlines
from halvex.core.scene.picture import pictures_named
from halvex.core.scene.spans import spans_of
from halvex.core.scene.surround import Surround
from halvex.core.scene.surroundings import make_surround, surround_key
from halvex.core.scene.tone_edges import Facing, ToneEdges, Tones, tone_edges, tones_of

Array = NDArray[np.float64]

# Walls and floors are painted dead satin.
GROUND_PAINT = Plastic(roughness=0.85)
# Pictures are at most this many times as wide or as high as the canvas where parallel rays are placed.
WIDEST_PICTURE = 4.0
# Lights under this level count as off (the path integrator omits those of a sixteenth of it).
OFF = 2.0**-16


@dataclass(frozen=True, eq=False)
class Scene:
    """All that a picture depends on.

    `turn` (3, 3) takes the lettering's frame to the world, whose coordinates are those of the canvas;
    frames (blocks, 3, 4) take each block's frame to the lettering's; spans (instances, PLANES, 2, 3) are the
    boxes that gradients are laid over (spans.py). `lights` names the lights in their
    order: the lamps, the surround, glowing parts; `blocks` names the blocks. `bodies_key`,
    `surround_key` and `pictures_key` name what is too large to be read for a key. `effect_pictures` are those
    that effects lay over the picture.
    """

    instances: tuple[Instance, ...]
    frames: Array
    spans: Array
    turn: Array
    materials: Materials
    lamps: Lamps
    surround: Surround
    ground: Ground
    backing: Backing
    camera: Camera
    finish: Finish
    lights: tuple[str, ...]
    blocks: tuple[str, ...]
    bodies_key: str
    surround_key: str
    pictures_key: str
    # Those of surfaces are held here, so that they are not read anew while the scene is looked at.
    pictures: Pictures = NO_PICTURES
    effect_pictures: Pictures = NO_PICTURES
    # Of materials, by their numbers.
    tones: tuple[Tones | None, ...] = ()

    @property
    def has_glass(self) -> bool:
        return bool((self.materials.kind == GLASS).any())

    @cached_property
    def keys(self) -> SceneKeys:
        """What a renderer keeps its work by."""
        rows = np.array([instance.materials for instance in self.instances])
        places = tuple(column for name, column in self.lamps._asdict().items() if name != "level")
        paints = content_key(self.materials[:-2], self.pictures_key)
        return SceneKeys(
            bodies=self.bodies_key,
            paints=paints,
            materials=content_key(paints, rows, self.spans),
            light_geometry=content_key(places, self.surround_key, self.surround.turn, self.turn),
            light_levels=content_key(self.lamps.level, self.surround.level),
            camera=content_key(self.camera, self.turn),
            ground=content_key(self.ground if self.ground.kind != NO_GROUND else NO_GROUND),
            backing=content_key(self.backing),
            backdrop=self.finish.backdrop,
        )

    @property
    def covered_blocks(self) -> int:
        """Of how many blocks a film keeps the share of each pixel."""
        return len(self.blocks) if self.finish.asks_for_blocks else 0

    @property
    def film_key(self) -> tuple[object, ...]:
        """Films of scenes with the same key hold the same samples: light is linear in its levels,
        but lights that are off are not sampled."""
        lit = np.append(self.lamps.level.max(axis=1, initial=0.0), self.surround.level) > OFF
        keys = self.keys
        return (
            keys.bodies,
            keys.materials,
            keys.light_geometry,
            keys.camera,
            keys.ground,
            keys.backing,
            lit.tobytes(),
            self.covered_blocks,
        )

    def for_picture(self, width: int, height: int, px_scale: float) -> "Scene":
        """The scene seen by a picture of another shape than the canvas: it shows more at its sides,
        and is never stretched."""
        camera = self.camera._replace(
            width=np.float32(width / px_scale), height=np.float32(height / px_scale)
        )
        frame = self.finish.frame
        sides = {
            "left": (frame.width - width / px_scale) / 2,
            "top": (frame.height - height / px_scale) / 2,
        }
        return replace(self, camera=camera, finish=self._framed(scale=px_scale, **sides))

    def _framed(self, **changes: float) -> Finish:
        return self.finish._replace(frame=self.finish.frame._replace(**changes))

    def faces(self) -> tuple[FaceSeen, ...]:
        """The faces of the letters that the camera sees, in px of the picture."""
        return self._outlines.faces()

    def silhouettes(self, *, plates: bool) -> tuple[FaceSeen, ...]:
        """What letters cover, or the plates and slabs behind them, in px of the picture."""
        return self._outlines.silhouettes(plates=plates)

    def in_front(self, height: float, box: Box) -> shapely.Geometry:
        """What bodies cover, about a box in px of the picture, that rise higher in the lettering."""
        return self._outlines.in_front(height, box)

    def tone_edges(self, block: str | None = None) -> ToneEdges:
        """The edges of graphic tones, of one block or all."""
        own = [each for each in self.instances if block is None or self.blocks[each.block] == block]
        facing = Facing(self.frames, self.turn, self.camera, np.array(towards_key(self.lamps), float))
        return tone_edges(own, self.tones, facing)

    @cached_property
    def _outlines(self) -> Outlines:
        return Outlines(self.instances, self.frames, self.turn, self.camera)

    def for_part(self, left: float, top: float, width: float, height: float) -> "Scene":
        """The scene seen by a picture of a part of the canvas, in px of the canvas from its top left."""
        whole = self.camera
        across, up = left + (width - float(whole.width)) / 2, (float(whole.height) - height) / 2 - top
        shift = (
            np.float32(float(whole.shift[0]) + across / float(whole.zoom)),
            np.float32(float(whole.shift[1]) + up / float(whole.zoom)),
        )
        camera = whole._replace(width=np.float32(width), height=np.float32(height), shift=shift)
        return replace(self, camera=camera, finish=self._framed(left=left, top=top))

    def at_scale(self, px_scale: float) -> "Scene":
        """The same scene for a picture of `px_scale` px per px of canvas."""
        camera = self.camera._replace(px_scale=np.float32(px_scale))
        return replace(self, camera=camera, finish=self._framed(scale=px_scale))


def scene_of(
    piece: Piece, *, px_scale: float = 1.0, detail: float | None = None, assets: Assets = SHIPPED
) -> Scene:
    """The scene of a document. Raises LetteringError, SolidError, SceneError."""
    return build_scene(resolve(piece, assets), px_scale=px_scale, detail=detail)


def build_scene(piece: ResolvedPiece, *, px_scale: float = 1.0, detail: float | None = None) -> Scene:
    """The scene of a piece for a picture of `px_scale` px per px of canvas, its bodies as fine as
    for one of `detail`.

    Raises LetteringError, SolidError, SceneError, and CancelledError when the work was overtaken.
    """
    placed = place_bodies(piece, px_scale=detail or px_scale)
    turn = rotation(piece.view.turn)
    corners = placed.corners @ turn.T
    letters = len(placed.materials)
    behind = _materials_behind(piece.backdrop)
    rows = {name: letters + number for number, name in enumerate(behind)}
    ground = make_ground(piece.backdrop, corners, turn, letters, rows.get("wall", letters))
    surround = piece.light.surround
    materials, made, named = with_drawn([*placed.materials, *behind.values()], piece)
    pictures, pictures_key = pictures_named(named, piece.assets, made)
    effects, effects_made, effects_named = with_drawn(piece.finish, piece)
    camera = _camera(piece, px_scale, ground, float(corners[:, 2].max()))
    lights = (*(lamp.id for lamp in piece.light.lamps), "surround", "glow")
    blocks = tuple(resolved.block.id for resolved in piece.blocks)
    seen_past = rows.get("seen past", NOTHING_BEHIND)
    packed = pack_materials(materials, piece.light.tone, pictures=pictures)
    return Scene(
        instances=placed.instances,
        frames=placed.frames,
        spans=spans_of(piece, placed, packed.sources),
        turn=turn,
        materials=packed,
        lamps=pack_lamps(piece.light.lamps, turn),
        surround=make_surround(surround, piece.assets),
        ground=ground,
        backing=make_backing(piece, camera, seen_past),
        camera=camera,
        finish=Finish(
            # Layers of light come with what is rendered; nothing is to be added behind them.
            base_of(piece.backdrop.colour) if seen_past == NOTHING_BEHIND else "#000000",
            piece.light.exposure,
            piece.light.tone,
            tuple(effects),
            Frame(px_scale, 0.0, 0.0, piece.canvas.width, piece.canvas.height),
            covers_wanted(effects, blocks, lights),
        ),
        lights=lights,
        blocks=blocks,
        bodies_key=placed.key,
        surround_key=surround_key(surround, piece.assets),
        pictures_key=pictures_key,
        pictures=pictures,
        tones=tones_of(materials, packed.sources),
        effect_pictures=pictures_named(effects_named, piece.assets, effects_made)[0],
    )


def _materials_behind(backdrop: Backdrop) -> dict[str, AnyGroundMaterial]:
    """What stands behind the letters is made of, by name: the wall or floor, a floor's wall where it is
    another, and what is seen past everything where that is more than one colour."""
    found: dict[str, AnyGroundMaterial] = {"ground": GROUND_PAINT}
    if backdrop.ground == "none":
        if not isinstance(backdrop.colour, str):
            found["seen past"] = Flat(colour=backdrop.colour)
        return found
    found["ground"] = backdrop.material or GROUND_PAINT.model_copy(update={"colour": backdrop.colour})
    if backdrop.ground == "floor" and backdrop.wall is not None:
        found["wall"] = backdrop.wall
    return found


def _camera(piece: ResolvedPiece, px_scale: float, ground: Ground, front: float) -> Camera:
    """The camera, its parallel rays starting right before the letters (their greatest z: `front`)
    and the ground."""
    camera = make_camera(piece.view, piece.canvas, px_scale)
    if not camera.parallel:
        return camera
    # A picture of another shape than the canvas shows more at its sides.
    half = WIDEST_PICTURE * np.array([piece.canvas.width, piece.canvas.height]) / float(camera.zoom) / 2
    frame = np.array(camera.shift, float) + half * [(-1, -1), (1, -1), (-1, 1), (1, 1)]
    lean = (float(camera.lean[0]), float(camera.lean[1]))
    start = max(front, front_of(ground, frame, lean)) + 1.0
    return make_camera(piece.view, piece.canvas, px_scale, front=start)
