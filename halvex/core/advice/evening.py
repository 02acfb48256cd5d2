"""Evening: kerning that gives all pairs of a lettering as much white between them, as a proposal.

The white of a pair is measured level by level between the two letters, over the height that both
have ink at or between; where it is far wider than at its narrowest (over an L, under a T) it counts
up to a limit only, as the eye does not see all of it as space between the letters. Common practice
of lettering; the limits are ours.
"""

import math
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from halvex.core.advice.collisions import parting_space, spread_of
from halvex.core.assets import SHIPPED, Assets
from halvex.core.lettering import set_block
from halvex.core.lettering.placed import PlacedOutline
from halvex.core.piece.lettering import Along, Lettering, LetterSetting, Stagger

LEVELS = 48
# How much wider than at its narrowest white still counts, and the least distance a proposal leaves, in em.
DEEPEST_EM = 0.2
LEAST_GAP_EM = 0.02
# Kerning of less than this is not worth a proposal, in 1/1000 em.
WORTH = 3.0


@dataclass(frozen=True)
class KernProposal:
    """The kerning proposed after a letter, in 1/1000 em, and what it is now."""

    letter: int
    pair: str
    now: float
    proposed: float


def evening(block: Lettering, assets: Assets = SHIPPED) -> list[KernProposal]:
    """Proposals for the pairs whose white differs, in the order of the words; none makes a pair
    collide. Raises LetteringError."""
    straight = block.model_copy(update={"along": Along(), "stagger": Stagger()})
    shapes = _shapes(set_block(straight, assets=assets).letters)
    pairs = [
        (a, a + 1)
        for a in sorted(shapes)
        if a + 1 in shapes and shapely.distance(shapes[a], shapes[a + 1]) > 0.0
    ]
    if len(pairs) < 2:
        return []
    # Right-to-left words run against their numbers: what counts is which one stands on the left.
    sides = {
        (a, b): (shapes[a], shapes[b])
        if shapes[a].centroid.x < shapes[b].centroid.x
        else (shapes[b], shapes[a])
        for a, b in pairs
    }
    white = {pair: _white(*sides[pair], block.size) for pair in pairs}
    even = float(np.median(list(white.values())))
    gap = LEAST_GAP_EM * block.size + 2.0 * spread_of(block.form)[0]
    found = []
    for pair in pairs:
        now = block.letters.get(pair[0], LetterSetting()).kern
        added = _free(*sides[pair], even - white[pair], gap)
        proposed = round(now + math.ceil(added / block.size * 1000), 1)
        if abs(proposed - now) >= WORTH:
            found.append(
                KernProposal(pair[0], f"{block.words[pair[0]]}{block.words[pair[1]]}", now, proposed)
            )
    return found


def _shapes(letters: tuple[PlacedOutline, ...]) -> dict[int, shapely.Geometry]:
    """What each letter covers, its accents with it, in px."""
    parts: dict[int, list[shapely.Geometry]] = {}
    for letter in letters:
        parts.setdefault(letter.letter, []).append(letter.area)
    return {letter: shapely.union_all(areas) for letter, areas in parts.items()}


def _white(left: shapely.Geometry, right: shapely.Geometry, size: float) -> float:
    """The mean width of the white between two letters, in px."""
    low = max(left.bounds[1], right.bounds[1])
    high = min(left.bounds[3], right.bounds[3])
    if high <= low:
        low, high = min(left.bounds[1], right.bounds[1]), max(left.bounds[3], right.bounds[3])
    levels = low + (np.arange(LEVELS) + 0.5) / LEVELS * (high - low)
    between = _side(right, levels, 0) - _side(left, levels, 2)
    return float(np.minimum(between, between.min() + DEEPEST_EM * size).mean())


def _side(area: shapely.Geometry, levels: NDArray[np.float64], side: int) -> NDArray[np.float64]:
    """Where the ink ends on the left (side 0) or the right (2) at each level; far beyond where
    there is none."""
    left, _, right, _ = area.bounds
    lines = shapely.linestrings([[(left - 1, y), (right + 1, y)] for y in levels])
    cut = shapely.bounds(shapely.intersection(area, lines))[:, side]
    return np.where(np.isnan(cut), right if side == 0 else left, cut)


def _free(left: shapely.Geometry, right: shapely.Geometry, wanted: float, gap: float) -> float:
    """The space to add between two letters: as wanted, or as much more as leaves `gap` px between them."""
    moved = shapely.transform(right, lambda points: points + (wanted, 0.0))
    return wanted + parting_space(left, moved, gap)
