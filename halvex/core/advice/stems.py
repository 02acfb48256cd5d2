"""Stems: how wide the strokes of a block are, measured between both sides on the medial axis."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from halvex.core.lettering.outlines import TooIntricateError, coarsened, outline_of
from halvex.core.memory import kept
from halvex.core.solids.centrelines import CentreLine, centre_lines
from halvex.core.solids.inks import Ink
from halvex.core.solids.roof import OutlineKey, roof_of

Array = NDArray[np.float64]

# A tapering stroke is as thin as its thinnest fifth.
THIN_SHARE = 0.2
# Outlines of more points, which letters of thousands of px have, are measured coarser: roofs of all of them
# would take seconds.
MOST_POINTS = 500
# Lines shorter than this many half-widths are joints and serifs, not stems.
STEM_REACH = 3.0


@dataclass(frozen=True)
class Stem:
    """One stroke measured: its letter, its width in px, and where: x, y in px from the block's place, and the
    unit direction across it."""

    letter: str
    width: float
    x: float
    y: float
    across: tuple[float, float]


@dataclass(frozen=True)
class _Measure:
    """In em: half-width, place and direction across of the thinnest and the widest stroke of an outline."""

    thin: tuple[float, float, float, float, float]
    wide: tuple[float, float, float, float, float]


def thinnest(inks: list[Ink]) -> Stem:
    """The thinnest stem of a block."""
    return min((_placed(ink, _measure(ink.key).thin) for ink in inks), key=lambda stem: stem.width)


def widest(inks: list[Ink]) -> Stem:
    """The widest stroke of a block: twice the highest ridge."""
    return max((_placed(ink, _measure(ink.key).wide) for ink in inks), key=lambda stem: stem.width)


def _placed(ink: Ink, found: tuple[float, float, float, float, float]) -> Stem:
    half, x, y, dx, dy = found
    return Stem(ink.outline.name, 2.0 * half * ink.size, x * ink.size + ink.x, y * ink.size + ink.y, (dx, dy))


def _coarse(key: OutlineKey) -> OutlineKey:
    try:
        rings = coarsened(key.outline.rings, MOST_POINTS)
    except TooIntricateError:
        return key
    return key if rings is key.outline.rings else OutlineKey(outline_of(rings, key.outline.name))


@kept
def _measure(key: OutlineKey) -> _Measure:
    key = _coarse(key)
    lines = centre_lines(key)
    roof = roof_of(key, "rounded")
    top = roof.nodes[int(np.argmax(roof.nodes[:, 2]))]
    line = min(lines, key=lambda line: _apart(line, top))
    at = int(np.argmin(np.hypot(*(line.points - top[:2]).T)))
    wide = (float(top[2]), float(top[0]), float(top[1]), *_across(line, at))
    stems = [line for line in lines if _length(line) > STEM_REACH * float(np.median(line.half))] or [
        max(lines, key=_length)
    ]
    thin = min((_thin_place(line) for line in stems), key=lambda found: found[0])
    return _Measure(thin, wide)


def _apart(line: CentreLine, node: Array) -> float:
    return float(np.hypot(*(line.points - node[:2]).T).min())


def _length(line: CentreLine) -> float:
    return float(np.hypot(*np.diff(line.points, axis=0).T).sum())


def _thin_place(line: CentreLine) -> tuple[float, float, float, float, float]:
    """Half-width that a fifth of the line's length does not exceed, and the point nearest its
    middle where it is so."""
    steps = np.hypot(*np.diff(line.points, axis=0).T)
    weight = np.concatenate([[0.0], steps]) / 2 + np.concatenate([steps, [0.0]]) / 2
    order = np.argsort(line.half)
    reached = np.searchsorted(np.cumsum(weight[order]), THIN_SHARE * weight.sum())
    half = float(line.half[order[min(reached, len(order) - 1)]])
    thin = np.flatnonzero(line.half <= half * 1.0001)
    at = int(thin[np.argmin(np.abs(thin - len(line.half) / 2))])
    return (half, float(line.points[at, 0]), float(line.points[at, 1]), *_across(line, at))


def _across(line: CentreLine, at: int) -> tuple[float, float]:
    """Unit direction across a line at one of its points, over about a half-width."""
    points, reach = line.points, max(float(line.half[at]) / 2, 1e-6)
    before, after = at, at
    while before > 0 and np.hypot(*(points[before] - points[at])) < reach:
        before -= 1
    while after < len(points) - 1 and np.hypot(*(points[after] - points[at])) < reach:
        after += 1
    dx, dy = (points[after] - points[before]).tolist()
    length = math.hypot(dx, dy)
    return (-dy / length, dx / length) if length > 0 else (1.0, 0.0)
