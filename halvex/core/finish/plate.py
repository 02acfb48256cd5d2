"""The plate: a picture while effects work on it."""

from collections.abc import Callable, Mapping
from concurrent.futures import Executor, Future
from functools import partial
from typing import Any, Literal, NamedTuple, Protocol

import numpy as np
import shapely
from numpy.typing import NDArray

from halvex.core.finish.blurring import Reduction
from halvex.core.finish.tone import encode_rows, flat, in_bands, store_rows, turn_code
from halvex.core.optics.texels import NO_PICTURES, Pictures
from halvex.core.piece.effects import AnyEffect
from halvex.core.render.layers import LETTERS
from halvex.core.room import room
from halvex.core.scene.finish import Frame
from halvex.core.scene.outlines import SAME_HEIGHT_PX, Box, FaceSeen
from halvex.core.scene.tone_edges import NO_EDGES, ToneEdges

Array = NDArray[np.float32]

# In place of a share of each px (h, w): all of it; in place of alpha: none.
EVERYWHERE = OPAQUE = np.zeros((0, 0), np.float32)

# Finds what an effect covers of a plate (h, w), whatever it shows.
CoverOf = Callable[["Plate", Any], Array]
# Px that go through all work that waits at a time, about: more would leave the cache, fewer ask for each work
# more often.
SETTLED_PX = 100_000
# What effects make of larger pictures is not kept: these are not of the stage.
MOST_KEPT_PX = 4_000_000
# Works on rows y0..y1-1 of a picture, given y0 and y1.
RowsOf = Callable[[int, int], None]
# Changes rows y0..y1-1 of light (h, 3 · w) and of alpha (h, w), or OPAQUE, given these and y0 and y1.
RowWork = Callable[[Array, Array, int, int], None]


class Level(NamedTuple):
    """Faces that stand side by side, and what covers some of the picture before them."""

    faces: tuple[FaceSeen, ...]
    before: shapely.Geometry


class Seen(Protocol):
    """What effects ask of a scene, besides its picture."""

    @property
    def blocks(self) -> tuple[str, ...]:
        """The names of the blocks that faces are of."""

    @property
    def effect_pictures(self) -> Pictures:
        """The pictures in its effects."""

    def faces(self) -> tuple[FaceSeen, ...]:
        """The outlines of the letters' faces in px of the picture."""

    def silhouettes(self, *, plates: bool) -> tuple[FaceSeen, ...]:
        """Those of whole letters, or of the plates and slabs behind them."""

    def in_front(self, height: float, box: Box) -> shapely.Geometry:
        """What bodies cover, about a box in px of the picture, that rise higher in the lettering."""

    def tone_edges(self, block: str | None = None) -> ToneEdges:
        """The edges of graphic tones, of one block or all."""


class NothingSeen:
    """The same of no scene."""

    blocks: tuple[str, ...] = ()
    effect_pictures = NO_PICTURES

    def faces(self) -> tuple[FaceSeen, ...]:
        return ()

    def silhouettes(self, *, plates: bool) -> tuple[FaceSeen, ...]:
        return ()

    def in_front(self, height: float, box: Box) -> shapely.Geometry:
        return shapely.MultiPolygon()

    def tone_edges(self, block: str | None = None) -> ToneEdges:
        return NO_EDGES


class Plate:
    """A picture of h × w px while effects work on it.

    light (h, w, 3): linear, first that of the scene, then what is displayed, 0 to 1; alpha (h, w), of which
    light is not premultiplied, or None where the picture has none; covers: shares (h, w) of each px that the
    letters make, and what else effects work on (RenderLayers.covers); gain: what light is multiplied by to be
    exposed; seen: what effects ask of the scene.

    Work that needs no more than the rows it changes waits until the whole picture is asked for; then each
    band of rows goes through all of it at once, while it is in a core's own memory.
    """

    def __init__(
        self,
        light: Array,
        alpha: Array | None,
        covers: Mapping[str, Array],
        frame: Frame,
        gain: float,
        seen: Seen,
        pool: Executor,
    ):
        self._light, self._alpha = np.ascontiguousarray(light), alpha
        self.covers, self.frame, self.gain, self.seen, self.pool = covers, frame, gain, seen, pool
        # What waits, and whether light is sRGB values after it.
        self._waiting: list[RowsOf] = []
        self._is_encoded = False
        self._sought: dict[AnyEffect, Future[Array]] = {}

    def seek_cover(self, effect: AnyEffect, cover_of: CoverOf) -> None:
        """Begin to find what an effect covers of the picture, on another thread."""
        self._sought[effect] = self.pool.submit(cover_of, self, effect)

    def cover_of(self, effect: AnyEffect, cover_of: CoverOf) -> Array:
        """What an effect covers of the picture (h, w)."""
        if effect in self._sought:
            return self._sought[effect].result()
        return cover_of(self, effect)

    @property
    def light(self) -> Array:
        self._decode()
        self.settle()
        return self._light

    @light.setter
    def light(self, light: Array) -> None:
        self.settle()
        self._light, self._is_encoded = np.ascontiguousarray(light), False

    @property
    def alpha(self) -> Array | None:
        self.settle()
        return self._alpha

    @alpha.setter
    def alpha(self, alpha: Array | None) -> None:
        self.settle()
        self._alpha = alpha

    @property
    def has_alpha(self) -> bool:
        return self._alpha is not None

    def by_rows(self, work: RowWork) -> None:
        """Work on all rows, a band at a time: at once or later, but before anything else sees the picture."""
        self._decode()
        alpha = OPAQUE if self._alpha is None else self._alpha
        self._waiting.append(partial(work, flat(self._light), alpha))

    def by_encoded_rows(self, work: Callable[[Array, int, int], None]) -> None:
        """The same on sRGB values (h, 3 · w) of what is displayed: they are until light is asked for."""
        shown = flat(self._light)
        if not self._is_encoded:
            self._waiting.append(partial(turn_code, shown, to_light=False))
        self._waiting.append(partial(work, shown))
        self._is_encoded = True

    def _decode(self) -> None:
        if self._is_encoded:
            self._waiting.append(partial(turn_code, flat(self._light), to_light=True))
        self._is_encoded = False

    def turn_into(self, out: Array, work: Callable[[Array, Array, int, int], None]) -> None:
        """Fill the rows of another array (h, w, 3), or of the light's own, with what becomes of the light's,
        given both (h, 3 · w); it is the plate's light from now on."""
        self._decode()
        self._waiting.append(partial(work, flat(self._light), flat(out)))
        self._light = out

    def show(self, out: NDArray[Any]) -> None:
        """Fill out (h, w, 3) with the displayed picture's sRGB values: as floats in [0, 1], or with 8 bits a
        channel."""
        store = store_rows if self._is_encoded else encode_rows
        self._waiting.append(partial(store, flat(self._light), flat(out)))
        self.settle()

    def reduced(self, k: int) -> Array:
        """The light, of which each px is the mean of k × k."""
        self._decode()
        if k == 1:
            return self.light
        reduction = Reduction(self._light, k)
        self.read(k, lambda light, *rows: reduction.fill(*rows))
        return reduction.picture

    def read(self, k: int, work: Callable[[Array, int, int], None]) -> None:
        """Do what waits, and work that makes one row of k of the light's (h, 3 · w), given that and the
        numbers of the rows to be made."""
        self._decode()
        light = flat(self._light)
        self._waiting.append(lambda y0, y1: work(light, y0 // k, -(-y1 // k)))
        self.settle(k)

    def settle(self, step: int = 1) -> None:
        """Do all work that waits; bands begin at multiples of so many rows."""
        waiting, self._waiting = self._waiting, []

        def band(y0: int, y1: int) -> None:
            for work in waiting:
                work(y0, y1)

        if waiting:
            height, width = self.shape
            in_bands(self.pool, band, height, band_rows=max(SETTLED_PX // width, 1), step=step)

    @property
    def shape(self) -> tuple[int, int]:
        """Height and width in px."""
        height, width, _ = self._light.shape
        return height, width

    @property
    def is_small(self) -> bool:
        """Whether what effects make of the picture alone may be kept, for the next one."""
        return self._light.shape[0] * self._light.shape[1] <= MOST_KEPT_PX

    @property
    def scale(self) -> float:
        """Px of the picture per px of the canvas."""
        return self.frame.scale

    @property
    def letters(self) -> Array:
        """The share (h, w) of each px that the letters cover."""
        return self.covers[LETTERS]

    def share_of(self, target: str) -> Array:
        """The share (h, w) of each px that an effect works on; EVERYWHERE for all of all."""
        if target == "picture":
            return EVERYWHERE
        if target == "backdrop":
            return np.subtract(np.float32(1), self.letters, out=room(self.letters.shape))
        return self.covers[target]

    def shape_of(self, target: str) -> Array:
        """The share (h, w) of each px that is covered by what an effect goes around: a part, a block or what
        a light makes, or else all letters."""
        return self.covers.get(target, self.letters)

    def levels_of(
        self, target: str, around: Literal["face", "silhouette", "plate"] = "face"
    ) -> tuple[Level, ...]:
        """The outlines that an effect follows: of one block, or all; of faces, letters or plates."""
        block = _block_of(target)
        faces = self.seen.faces() if around == "face" else self.seen.silhouettes(plates=around == "plate")
        if block is not None:
            faces = tuple(face for face in faces if self.seen.blocks[face.block] == block)
        levels: list[list[FaceSeen]] = []
        for face in sorted(faces, key=lambda face: face.height):
            if not levels or face.height > levels[-1][-1].height + SAME_HEIGHT_PX:
                levels.append([])
            levels[-1].append(face)
        return tuple(self._level(tuple(each)) for each in levels)

    def tone_edges_of(self, target: str) -> ToneEdges:
        """The edges of graphic tones that an effect follows: of one block, or all."""
        return self.seen.tone_edges(_block_of(target))

    def _level(self, faces: tuple[FaceSeen, ...]) -> Level:
        box = shapely.total_bounds([face.area for face in faces])
        return Level(faces, self.seen.in_front(faces[-1].height, tuple(box)))


def _block_of(target: str) -> str | None:
    """The name of the one block that an effect works on."""
    of, _, name = target.partition(":")
    return name if of == "block" else None
