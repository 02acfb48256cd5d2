"""Collisions: neighbours that a bevel, a rim or a plate makes run into each other, and the space
that frees them."""

import math
from dataclasses import dataclass

import numpy as np
import shapely

from halvex.core.piece.form import Form
from halvex.core.piece.lettering import Lettering, LetterSetting
from halvex.core.solids.inks import Ink, overlap

# Space to a hundredth of a px.
SPACE_TOLERANCE_PX = 0.01
# Facets of round spreads may fall short of the true distance by this share.
CLEAR = 1e-9


@dataclass(frozen=True)
class Collision:
    """Two letters whose spreads meet, and the px by which the second must move away from the first.

    `letters` are the numbers of their characters in the words, -1 for what is of none.
    """

    first: str
    second: str
    space: float
    letters: tuple[int, int] = (-1, -1)


def spread_of(form: Form) -> tuple[float, str]:
    """How far the form reaches beyond the outlines, in px, and what it is that does."""
    reach, name = 0.0, ""
    if form.kind == "rim" and form.rim.side != "inside":
        reach, name = form.rim.width * (1.0 if form.rim.side == "outside" else 0.5), "rims"
    if (
        form.bevel.side == "outset"
        and (form.bevel.front or form.bevel.back)
        and form.bevel.width > 0
        and form.bevel.height > 0
        and not form.bevel.to_ridge
    ):
        reach, name = reach + form.bevel.width, name or "bevels"
    return reach, name


def collisions(inks: list[Ink], reach: float, *, joined: bool = False) -> list[Collision]:
    """Pairs whose outlines spread by `reach` px overlap, from left to right, and the sideways space
    that parts each.

    Where the form has letters `joined`, those that overlap as they are, such as a script's, are meant to.
    """
    if reach <= 0.0 or len(inks) < 2:
        return []
    order = sorted(range(len(inks)), key=lambda i: inks[i].box[0])
    boxes = np.array([inks[i].box for i in order])
    shapes = {}
    found = []
    for a in range(len(order)):
        for b in range(a + 1, len(order)):
            if boxes[b, 0] - boxes[a, 2] >= 2.0 * reach:
                # All that follow begin further right still.
                break
            if max(boxes[b, 1] - boxes[a, 3], boxes[a, 1] - boxes[b, 3]) >= 2.0 * reach:
                continue
            if joined and overlap(inks[order[a]], inks[order[b]]):
                continue
            for i in (a, b):
                if i not in shapes:
                    shapes[i] = inks[order[i]].area
            space = parting_space(shapes[a], shapes[b], 2.0 * reach)
            if space > SPACE_TOLERANCE_PX:
                first, second = inks[order[a]], inks[order[b]]
                found.append(
                    Collision(first.outline.name, second.outline.name, space, (first.letter, second.letter))
                )
    return found


def freeing_kerns(found: list[Collision], block: Lettering) -> dict[int, float]:
    """The kerning in 1/1000 em, by letter, that parts colliding neighbours of a line by exactly the
    space they need."""
    kerns = {}
    for pair in found:
        first = min(pair.letters)
        if first >= 0 and abs(pair.letters[0] - pair.letters[1]) == 1:
            # Rounded up, so that they are free.
            added = math.ceil(pair.space / block.size * 1e5) / 100
            kerns[first] = round(block.letters.get(first, LetterSetting()).kern + added, 2)
    return kerns


def parting_space(first: shapely.Geometry, second: shapely.Geometry, gap: float) -> float:
    """The least px by which `second` must move to the right to be `gap` px from `first`; 0 where it
    is already."""

    def free(space: float) -> bool:
        moved = shapely.transform(second, lambda points: points + (space, 0.0))
        return bool(shapely.distance(first, moved) >= gap * (1.0 - CLEAR))

    if free(0.0):
        return 0.0
    low, high = 0.0, gap
    while not free(high):
        high *= 2.0
    while high - low > SPACE_TOLERANCE_PX / 4:
        middle = (low + high) / 2
        low, high = (low, middle) if free(middle) else (middle, high)
    return high
