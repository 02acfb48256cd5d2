"""Inks: the outlines that bodies are made of, letters that overlap as one or set apart.

Letters of one material, depth and lift that overlap are joined. Of two that differ, the
override is raised in front: free letters by OVERLAP_BIAS_PX, in a slab the other's cut ends before it.
"""

from collections.abc import Sequence
from dataclasses import fields, replace
from functools import cached_property

import numpy as np
import shapely

from halvex.core.lettering.outlines import Outline, outline_of, polygon_of
from halvex.core.lettering.placed import Box, PlacedOutline
from halvex.core.lettering.setting import SetBlock
from halvex.core.memory import kept
from halvex.core.piece.form import Form
from halvex.core.solids import areas
from halvex.core.solids.roof import OutlineKey

# Overlaps smaller than this, in em², are letters that merely touch.
OVERLAP_EM2 = 1e-6
# How far an override stands in front of a letter that it overlaps, and the width of the ridge between
# the two in a slab.
OVERLAP_BIAS_PX = 0.05
LAND_PX = 0.5
LONGEST_TITLE = 24
OUTLINE_FIELDS = tuple(field.name for field in fields(PlacedOutline))


class Ink(PlacedOutline):
    """An outline of one letter or of several that overlap; `letter` is -1 where it is of several or
    of none."""

    @property
    def key(self) -> OutlineKey:
        return OutlineKey(self.outline)

    @property
    def title(self) -> str:
        """What it is called in messages."""
        name = self.outline.name or "an outline"
        name = name if len(name) <= LONGEST_TITLE else f"{name[: LONGEST_TITLE - 1]}…"
        return name if " " in name else f"“{name}”"

    @cached_property
    def box(self) -> Box:
        """left, bottom, right, top in px from the block's place."""
        low, high = outline_box(self.key)
        return (
            low[0] * self.size + self.x,
            low[1] * self.size + self.y,
            high[0] * self.size + self.x,
            high[1] * self.size + self.y,
        )

    @property
    def own(self) -> tuple[object, ...]:
        """What sets it apart from others of its block."""
        return self.material, self.depth, self.lift


@kept
def outline_box(key: OutlineKey) -> tuple[tuple[float, float], tuple[float, float]]:
    points = np.vstack(key.outline.rings)
    (left, bottom), (right, top) = points.min(axis=0).tolist(), points.max(axis=0).tolist()
    return (left, bottom), (right, top)


def ink_of(block: SetBlock, form: Form) -> list[Ink]:
    """The letters of a block; those that overlap are one where the form joins them and nothing sets
    them apart."""
    if form.incised:
        return list(_parted(block))
    return list(_layered(block, form.joined))


def single_inks(block: SetBlock) -> list[Ink]:
    """The letters of a block one by one, also those that overlap."""
    return list(_inks(block, False))


@kept
def _layered(block: SetBlock, joined: bool) -> tuple[Ink, ...]:
    """Inks whose faces would share a plane where two materials meet, one a hair before the other."""
    inks = _inks(block, joined)
    level = [0] * len(inks)
    for i, j in _contested(inks):
        if inks[i].lift == inks[j].lift and inks[i].material != inks[j].material:
            level[j] = max(level[j], level[i] + 1)
    return tuple(
        replace(ink, lift=ink.lift + OVERLAP_BIAS_PX * up) if up else ink
        for ink, up in zip(inks, level, strict=True)
    )


@kept
def _parted(block: SetBlock) -> tuple[Ink, ...]:
    """Inks for cuts, which cannot cross: of two that differ, the hinder one ends before the other."""
    inks = _inks(block, True)
    left: dict[int, Outline | None] = {i: ink.outline for i, ink in enumerate(inks)}
    for i, j in _contested(inks):
        if (outline := left[i]) is not None:
            nearer = shapely.buffer(inks[j].area, LAND_PX, join_style="mitre")
            left[i] = areas.cut(outline, nearer, size=inks[i].size, x=inks[i].x, y=inks[i].y)
    return tuple(replace(inks[i], outline=outline) for i, outline in left.items() if outline is not None)


def _contested(inks: Sequence[Ink]) -> list[tuple[int, int]]:
    """Pairs that overlap and yet are apart, the hinder first; in such an order that all behind one
    come before it."""
    before = sorted(range(len(inks)), key=lambda i: (inks[i].lift, inks[i].material is not None, i))
    rank = {i: number for number, i in enumerate(before)}
    pairs = [
        tuple(sorted(pair, key=rank.__getitem__))
        for pair in _near(inks)
        if inks[pair[0]].own != inks[pair[1]].own
    ]
    return [(i, j) for i, j in sorted(pairs, key=lambda pair: rank[pair[0]]) if overlap(inks[i], inks[j])]


@kept
def _inks(block: SetBlock, joined: bool) -> tuple[Ink, ...]:
    inks = [Ink(**{name: getattr(letter, name) for name in OUTLINE_FIELDS}) for letter in block.letters]
    if not joined or len(inks) < 2:
        return tuple(inks)
    group = list(range(len(inks)))
    for i, j in _near(inks):
        if inks[i].own == inks[j].own and overlap(inks[i], inks[j]):
            a, b = _root(group, i), _root(group, j)
            group[max(a, b)] = min(a, b)
    members: dict[int, list[Ink]] = {}
    for i, ink in enumerate(inks):
        members.setdefault(_root(group, i), []).append(ink)
    return tuple(parts[0] if len(parts) == 1 else _merge(parts) for parts in members.values())


def _root(group: list[int], i: int) -> int:
    while group[i] != i:
        i = group[i]
    return i


def _near(inks: Sequence[Ink]) -> list[tuple[int, int]]:
    """Pairs whose boxes overlap."""
    if len(inks) < 2:
        return []
    boxes = np.array([ink.box for ink in inks])
    low, high = boxes[:, :2], boxes[:, 2:]
    meet = (low[:, None] < high[None]).all(axis=2) & (low[None] < high[:, None]).all(axis=2)
    return [(int(i), int(j)) for i, j in np.argwhere(np.triu(meet, 1))]


def overlap(a: Ink, b: Ink) -> bool:
    """Whether two inks cover more than a trace of each other."""
    scale = b.size / a.size
    return _overlap_em(a.key, b.key, round((b.x - a.x) / a.size, 9), round((b.y - a.y) / a.size, 9), scale)


@kept
def _overlap_em(a: OutlineKey, b: OutlineKey, x: float, y: float, scale: float) -> bool:
    other = shapely.transform(_polygon(b), lambda points: points * scale + (x, y))
    return bool(shapely.area(shapely.intersection(_polygon(a), other)) > OVERLAP_EM2)


@kept
def _polygon(key: OutlineKey) -> shapely.Geometry:
    return polygon_of(key.outline.rings)


def parts_in_em(inks: list[Ink]) -> list[tuple[Outline, float, float]]:
    """Inks as outlines in em of the first one, about its origin."""
    first = inks[0]
    return [
        (
            ink.outline
            if ink.size == first.size
            else outline_of(tuple(ring * (ink.size / first.size) for ring in ink.outline.rings)),
            round((ink.x - first.x) / first.size, 9),
            round((ink.y - first.y) / first.size, 9),
        )
        for ink in inks
    ]


def _merge(inks: list[Ink]) -> Ink:
    first = inks[0]
    return replace(
        first, outline=areas.joined(parts_in_em(inks), "".join(ink.outline.name for ink in inks)), letter=-1
    )
