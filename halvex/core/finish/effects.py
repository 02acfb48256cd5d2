"""The stack of effects, in its order: on the light of the scene first, then on what is displayed."""

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.defocus import blur_by_distance
from halvex.core.finish.glints import add_glints
from halvex.core.finish.grading import grade
from halvex.core.finish.lens import add_grain, lay_vignette, part_colours, sharpen
from halvex.core.finish.lines import gloss_cover, keyline_cover
from halvex.core.finish.painting import lay_colour
from halvex.core.finish.plate import CoverOf, Plate
from halvex.core.finish.spreading import halo_cover, let_bloom
from halvex.core.finish.washing import lay_wash
from halvex.core.piece.effects import (
    AnyEffect,
    Bloom,
    Blur,
    Fringe,
    Glints,
    Gloss,
    Grain,
    Halo,
    Keyline,
    Sharpen,
    Tone,
    Vignette,
    Wash,
)

Array = NDArray[np.float32]
Work = Callable[[Plate, Any], None]

# How much of a picture (h, w) effects cover that lay a colour over it, whatever it shows.
COVERS: dict[type[AnyEffect], CoverOf] = {Keyline: keyline_cover, Halo: halo_cover, Gloss: gloss_cover}


def _lay(plate: Plate, effect: Any) -> None:
    cover = plate.cover_of(effect, COVERS[type(effect)])
    lay_colour(plate, effect.colour, cover, effect.blend, effect.strength / 100)


# What happens to light before it is displayed, and what to the displayed picture.
ON_LIGHT: dict[type[AnyEffect], Work] = {Bloom: let_bloom, Blur: blur_by_distance, Glints: add_glints}
ON_DISPLAY: dict[type[AnyEffect], Work] = {
    Wash: lay_wash,
    Keyline: _lay,
    Halo: _lay,
    Gloss: _lay,
    Tone: grade,
    Vignette: lay_vignette,
    Grain: add_grain,
    Sharpen: sharpen,
    Fringe: part_colours,
}


def shows(effect: AnyEffect) -> bool:
    return effect.on and effect.strength > 0


def work_on(
    plate: Plate,
    effects: tuple[AnyEffect, ...],
    works: dict[type[AnyEffect], Work],
    after_each: Callable[[Plate], None] = lambda plate: None,
) -> None:
    """Let those effects work on a plate that are on and among these, in their order."""
    for effect in effects:
        if shows(effect) and type(effect) in works:
            works[type(effect)](plate, effect)
            after_each(plate)


def seek_covers(plate: Plate, effects: tuple[AnyEffect, ...]) -> None:
    """Begin to find what effects cover of a plate, on other threads, while others work on its light: of a
    large one each takes as much room as it may, and is found when it is laid."""
    for effect in effects if plate.is_small else ():
        if shows(effect) and type(effect) in COVERS:
            plate.seek_cover(effect, COVERS[type(effect)])
