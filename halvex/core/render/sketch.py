"""Keeping a draft up to date: only what an edit has changed is traced again (see draft.py)."""

from collections.abc import Callable
from concurrent.futures import Executor

import numpy as np
from numpy.typing import NDArray

from halvex.core.piece.digest import digest
from halvex.core.piece.light import Lamp
from halvex.core.piece.material import Glass
from halvex.core.piece.model import Block, Piece
from halvex.core.render.draft import SURFACE_CHANNELS, first_surfaces, ground_light, shade, spread_ground, visibility
from halvex.core.render.work import run_tiles, scratch
from halvex.core.render.world import World
from halvex.core.scene.scene import part_materials

ROWS = 12


class Sketcher:
    """Draws drafts of one piece as it is edited, keeping first surfaces and shadows between them."""

    def __init__(self) -> None:
        self._geometry = ""
        self._lamps: list[str] = []
        self._surfaces = np.zeros((0, 0, SURFACE_CHANNELS), np.float32)
        self._seen = np.zeros((0, 0, 1, 3), np.float32)

    def draw(
        self, piece: Piece, world: World, width: int, height: int, *, pool: Executor, cancelled: Callable[[], bool] = lambda: False
    ) -> NDArray[np.float32]:
        """Linear light (height, width, 3) over the backdrop. Raises CancelledError."""
        self._see(piece, world, width, height, pool, cancelled)
        picture = np.empty((height, width, 3), np.float32)
        lit = np.zeros((*self._seen.shape[:2], 3), np.float32)
        spread = np.empty((lit.shape[0] + 1, lit.shape[1] + 1, 3), np.float32)
        run_tiles(pool, lambda a, b: ground_light(world, self._surfaces, self._seen, lit, a, b, scratch()), _bands(len(lit)), cancelled)
        run_tiles(pool, lambda a, b: spread_ground(world, self._surfaces, lit, spread, a, b), _bands(len(spread)), cancelled)
        run_tiles(pool, lambda a, b: shade(world, self._surfaces, self._seen, lit, spread, picture, a, b, scratch()), _bands(height), cancelled)
        return picture

    def _see(self, piece: Piece, world: World, width: int, height: int, pool: Executor, cancelled: Callable[[], bool]) -> None:
        solid = [[b.model_dump(mode="json", exclude={"surface"}), _glassy(b)] for b in piece.blocks]
        ground = [piece.backdrop.ground, piece.backdrop.gap]
        geometry = digest(piece.canvas, piece.view, solid, world.materials_of.tolist(), ground, width, height)
        lamps = [_place_of(lamp) for lamp in piece.light.lamps if lamp.on]
        half = ((height + 1) // 2, (width + 1) // 2)
        if geometry != self._geometry:
            self._geometry = ""
            surfaces = np.zeros((height + height % 2, width + width % 2, SURFACE_CHANNELS), np.float32)
            run_tiles(pool, lambda a, b: first_surfaces(world, surfaces, a, b, scratch()), _bands(surfaces.shape[0]), cancelled)
            self._surfaces, self._lamps = surfaces, []
            self._seen = np.ones((*half, 1, 3), np.float32)
        known = {name: index for index, name in enumerate(self._lamps)}
        fresh = self._geometry == "" and not self._lamps
        seen = np.ones((*half, len(lamps) + 1, 3), np.float32)
        wanted = np.zeros(len(lamps) + 1, np.uint8)
        for index, name in enumerate(lamps):
            if name in known and not fresh:
                seen[:, :, index] = self._seen[:, :, known[name]]
            else:
                wanted[index] = 1
        if fresh:
            wanted[-1] = 1
        else:
            seen[:, :, -1] = self._seen[:, :, -1]
        if wanted.any():
            run_tiles(pool, lambda a, b: visibility(world, self._surfaces, seen, wanted, a, b, scratch()), _bands(half[0]), cancelled)
        self._seen, self._lamps, self._geometry = seen, lamps, geometry


def _bands(rows: int) -> list[tuple[int, int]]:
    return [(y, min(y + ROWS, rows)) for y in range(0, rows, ROWS)]


def _place_of(lamp: Lamp) -> str:
    """A lamp without what only changes its brightness and colour."""
    return digest(lamp.model_dump(mode="json", exclude={"strength", "kelvin", "colour", "name", "id", "in_reflections"}))


def _glassy(block: Block) -> object:
    """Which parts are glass, and how it tints: shadows depend on that much of a surface."""
    return [part.model_dump(mode="json") if isinstance(part, Glass) else None for part in part_materials(block.surface)]
