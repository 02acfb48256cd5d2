"""A small picture with one letter for effects to work on."""

from collections.abc import Iterable

import numpy as np
import shapely
from numpy.typing import NDArray

from halvex.core.finish.covering import coverage
from halvex.core.finish.effects import ON_DISPLAY, ON_LIGHT, work_on
from halvex.core.finish.lines import lines_along
from halvex.core.finish.plate import NothingSeen, Plate
from halvex.core.piece.effects import AnyEffect, Keyline
from halvex.core.render.work import shared_pool
from halvex.core.scene.finish import DEPTH, Frame
from halvex.core.scene.outlines import FaceSeen

Array = NDArray[np.float32]
POOL = shared_pool()
ORANGE = np.array([0.7, 0.4, 0.1], np.float32)
# A letter of sorts on a canvas of 320 × 180 px: a frame with a round hole.
LETTER = shapely.box(90, 50, 230, 130).difference(shapely.Point(160, 90).buffer(25, quad_segs=32))


class LetterSeen(NothingSeen):
    """What effects ask of a scene with one face."""

    def __init__(self, face: shapely.Geometry):
        self.face = face

    def faces(self) -> tuple[FaceSeen, ...]:
        return (FaceSeen(self.face, 0),)


def area_along(face: shapely.Geometry, line: Keyline, scale: float) -> shapely.Geometry:
    """The area of a keyline along a face."""
    return shapely.union_all(
        [shapely.difference(one.outer, one.inner) for one in lines_along([face], line, scale)]
    )


def plate_of(scale: float = 1.0, *, clear: bool = False, ground: float = 0.1, **covers: np.ndarray) -> Plate:
    """A plate of 320 × 180 px of canvas with the letter, orange with a spot of bright light."""
    width, height = round(320 * scale), round(180 * scale)
    face = shapely.transform(LETTER, lambda points: points * scale)
    letters = coverage(face, width, height)
    light = np.full((height, width, 3), ground, np.float32)
    # A clear picture is not premultiplied: its colours are whole where they cover a part of a pixel.
    light += (letters[..., None] > 0 if clear else letters[..., None]) * (ORANGE - light)
    spot = coverage(shapely.box(100 * scale, 60 * scale, 108 * scale, 66 * scale), width, height)
    light += spot[..., None] * np.float32(6)
    return Plate(
        light,
        letters.copy() if clear else None,
        {"letters": letters, DEPTH: np.where(letters > 0.5, 0, -200).astype(np.float32), **covers},
        Frame(scale, 0.0, 0.0, 320.0, 180.0),
        1.0,
        LetterSeen(face),
        POOL,
    )


def worked(effects: Iterable[AnyEffect], plate: Plate) -> Plate:
    """A plate that a stack has worked on; what is brighter than white shows as white."""
    stack = tuple(effects)
    work_on(plate, stack, ON_LIGHT)
    plate.light = np.clip(plate.light, 0, 1)
    work_on(plate, stack, ON_DISPLAY)
    return plate
