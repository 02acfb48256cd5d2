"""The stack of effects, in its order: on the light of the scene first, then on what is displayed."""

from collections.abc import Callable
from contextvars import copy_context
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.defocus import blur_by_distance
from halvex.core.finish.glints import add_glints
from halvex.core.finish.grading import grade
from halvex.core.finish.lens import add_grain, lay_vignette, part_colours, sharpen
from halvex.core.finish.lines import gloss_cover, keyline_cover
from halvex.core.finish.painting import lay_colour
from halvex.core.finish.plate import Plate
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

# What of a picture is covered with a colour: by outlines of letters and what lies about them, not by light.
COVERS: dict[type[AnyEffect], Callable[[Plate, Any], Array]] = {
    Keyline: keyline_cover,
    Halo: halo_cover,
    Gloss: gloss_cover,
}


def _lay(plate: Plate, effect: Keyline | Halo | Gloss) -> None:
    _lay_over(plate, effect, COVERS[type(effect)](plate, effect))


def _lay_over(plate: Plate, effect: Keyline | Halo | Gloss, cover: Array) -> None:
    lay_colour(plate, effect.colour, cover, effect.blend, effect.strength / 100)


# What happens to light before it is displayed, and what to the displayed picture.
ON_LIGHT: dict[type[AnyEffect], Work] = {Bloom: let_bloom, Blur: blur_by_distance, Glints: add_glints}
ON_DISPLAY: dict[type[AnyEffect], Work] = {
    Wash: lay_wash,
    **dict.fromkeys(COVERS, _lay),
    Tone: grade,
    Vignette: lay_vignette,
    Grain: add_grain,
    Sharpen: sharpen,
    Fringe: part_colours,
}


def shows(effect: AnyEffect) -> bool:
    return effect.on and effect.strength > 0


def found_ahead(plate: Plate, effects: tuple[AnyEffect, ...]) -> dict[type[AnyEffect], Work]:
    """ON_DISPLAY; in small pictures what is covered is found from now on, on another thread, while others
    work on light. Much of it is many short steps, which gain nothing from several threads."""
    wanted = dict.fromkeys(effect for effect in effects if shows(effect) and type(effect) in COVERS)
    if not wanted or not plate.is_small:
        return ON_DISPLAY
    # The plate as it is now: what is found is of its outlines and covers, which no effect changes.
    begun, covers = replace(plate), dict[AnyEffect, Array]()

    def find() -> dict[AnyEffect, Array]:
        return {effect: COVERS[type(effect)](begun, effect) for effect in wanted}

    ahead = plate.pool.submit(copy_context().run, find)

    def lay(plate: Plate, effect: Keyline | Halo | Gloss) -> None:
        if not covers:
            # Where no thread was free it is done here: all of them may wait as this one would.
            covers.update(find() if ahead.cancel() else ahead.result())
        _lay_over(plate, effect, covers[effect])

    return {**ON_DISPLAY, **dict.fromkeys(COVERS, lay)}


def work_on(
    plate: Plate,
    effects: tuple[AnyEffect, ...],
    works: dict[type[AnyEffect], Work],
    after_each: Callable[[], None] = lambda: None,
) -> None:
    """Let those effects work on a plate that are on and among these, in their order."""
    for effect in effects:
        if shows(effect) and type(effect) in works:
            works[type(effect)](plate, effect)
            after_each()
