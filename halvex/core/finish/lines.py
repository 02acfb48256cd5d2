"""Effects that follow the outlines of the letters' faces: keylines and gloss."""

import math
from collections.abc import Iterable, Mapping, Sequence
from typing import Any, NamedTuple, TypeVar

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from halvex.core.finish.blurring import blurred
from halvex.core.finish.covering import boxes_of, cover_box, coverage, edges_of, room_for_sums
from halvex.core.finish.edges import line_cover
from halvex.core.finish.plate import Level, Plate
from halvex.core.kernels import kernel
from halvex.core.memory import Kept, latest_kept
from halvex.core.optics.vectors import F
from halvex.core.piece.effects import Gloss, Keyline
from halvex.core.render.work import shared_pool
from halvex.core.room import room
from halvex.core.scene.finish import DEPTH
from halvex.core.scene.outlines import FaceSeen

Array = NDArray[np.float32]

# Corners are mitred up to so many times the line's width (the limit of SVG's stroke-miterlimit is 4).
MITRE_LIMIT = 6.0
# Sides of a quarter circle of a round corner: off by under 1/500 of the radius.
QUARTER_SIDES = 16
# Dashes shorter than this in px of the picture, or more of them, are drawn as one line.
SHORTEST_DASH_PX = 1.0
MOST_DASHES = 20_000
# Covers that are kept of each kind: those of the stage's effects, while the hand changes something else.
MOST_KEPT = 4
# A soft edge has faded, to one and from the other side, by about this many standard deviations.
EDGE_SIGMAS = 4.0

E = TypeVar("E", Keyline, Gloss)
# (n,), each a shapely.Geometry.
Areas = NDArray[np.object_]
S = TypeVar("S", shapely.Geometry, Areas)


class Line(NamedTuple):
    """The area of a keyline, in px of the picture: what lies within `outer` and not within `inner`."""

    outer: shapely.Geometry
    inner: shapely.Geometry


class Band(NamedTuple):
    """How far down a gloss' band reaches, as shares of the height of what it lies over: its height, how far
    its edge is bowed and waved; and how much it fades towards it."""

    height: np.float32
    bowed: np.float32
    waved: np.float32
    fade: np.float32


def keyline_cover(plate: Plate, line: Keyline) -> Array:
    """What a keyline covers (h, w)."""
    if line.around == "tones":
        edges = plate.tone_edges_of(line.target)
        cover = line_cover(edges, plate.covers[DEPTH], plate.letters, line.width * plate.scale, line.join)
        return _softened(cover, line, plate.scale)
    levels = plate.levels_of(line.target, line.around)
    return _kept_if_small(_line_cover, plate, levels, _shape_of(line), plate.scale)


def _softened(cover: Array, line: Keyline, scale: float) -> Array:
    if line.softness == 0:
        return cover
    return blurred(cover[..., np.newaxis], line.softness * scale / EDGE_SIGMAS, shared_pool())[..., 0]


def _kept_if_small(cover_of: Kept[..., Array], plate: Plate, *given: Any) -> Array:
    """What an effect covers of a plate (h, w): kept, as letters often stay where they are while light,
    materials and colours change, but not of large pictures."""
    height, width = plate.shape
    work = cover_of if plate.is_small else cover_of.__wrapped__
    return work(height, width, *given)


def _shape_of(effect: E) -> E:
    """An effect without what changes nothing about where it is."""
    return effect.model_copy(update={"colour": "#ffffff", "blend": "normal", "strength": 100.0})


@latest_kept(MOST_KEPT)
def _line_cover(height: int, width: int, levels: tuple[Level, ...], line: Keyline, scale: float) -> Array:
    most: Array | None = None
    for level in levels:
        lines = lines_along([face.area for face in level.faces], line, scale)
        if not lines or line.width == 0:
            continue
        outer, inner = zip(*lines, strict=True)
        own = coverage(outer, width, height, without=inner)
        most = _larger(most, _but_for(_softened(own, line, scale), level.before))
    return room((height, width), zeroed=True) if most is None else most


def _but_for(own: Array, before: shapely.Geometry) -> Array:
    """What a level covers (h, w) but for what stands before it."""
    if not before.is_empty:
        hidden = coverage(before, own.shape[1], own.shape[0])
        own *= np.subtract(1, hidden, out=hidden)
    return own


def _larger(most: Array | None, own: Array) -> Array:
    """What any level covers (h, w), one more taken in."""
    return own if most is None else np.maximum(most, own, out=most)


def lines_along(areas: Iterable[shapely.Geometry], line: Keyline, scale: float) -> list[Line]:
    """A keyline along areas, all in px of the picture: areas that do not overlap."""
    apart = _apart(np.array([area for area in areas if not area.is_empty], object))
    if not len(apart):
        return []
    width, gap = line.width * scale, line.double * scale
    inner = {"inside": -width, "centred": -width / 2, "outside": 0.0}[line.place]
    # Of a double line the second lies beyond a gap, farther out, or farther in than one that lies inside.
    steps = [inner]
    if gap > 0:
        steps.append(inner - gap - width if line.place == "inside" else inner + gap + width)
    if line.dash * scale >= SHORTEST_DASH_PX and line.gap > 0:
        offsets = [_apart(_offset(apart, at + width / 2, line.join)) for at in steps]
        middles = shapely.get_parts(np.concatenate(offsets))
        if shapely.length(middles).sum() <= MOST_DASHES * (line.dash + line.gap) * scale:
            return [Line(_dashed(middles, line, scale), shapely.MultiPolygon())]
    lines = []
    for at in steps:
        far, near = _offset(apart, at + width, line.join), _offset(apart, at, line.join)
        lines += [Line(_union(far[own]), _union(near[own])) for own in _overlapping(far)]
    return lines


def _apart(areas: Areas) -> Areas:
    """Areas, of which those are joined that overlap."""
    return np.array([_union(areas[together]) for together in _overlapping(areas)], object)


def _union(areas: Areas | Sequence[shapely.Geometry]) -> shapely.Geometry:
    return areas[0] if len(areas) == 1 else shapely.union_all(areas)


def _overlapping(areas: Areas) -> Iterable[NDArray[np.intp]]:
    """The numbers of areas that overlap, or touch, directly or by way of others."""
    one, other = shapely.STRtree(areas).query(areas)
    near = one < other
    one, other = one[near], other[near]
    over = shapely.intersects(areas[one], areas[other])
    if not over.any():
        return np.arange(len(areas))[:, np.newaxis]
    one, other = one[over], other[over]
    pairs = coo_array((np.ones(len(one), np.int8), (one, other)), shape=(len(areas), len(areas)))
    count, group = connected_components(pairs, directed=False)
    order = np.argsort(group, kind="stable")
    return np.split(order, np.searchsorted(group[order], np.arange(1, count)))


def _dashed(middles: Iterable[shapely.Geometry], line: Keyline, scale: float) -> shapely.Geometry:
    """Dashes along the edges of areas. Around each ring go a whole number of them, the first half before
    where it begins: at a corner, if there is one."""
    dashes = [
        dash
        for area in middles
        for ring in (area.exterior, *area.interiors)
        if ring.length > 0
        for dash in _dashes_of(np.asarray(ring.coords)[:, :2], line.dash * scale, line.gap * scale)
    ]
    drawn = [_offset(dash, line.width * scale / 2, line.join) for dash in dashes]
    return shapely.MultiPolygon(drawn)


def _dashes_of(ring: NDArray[np.float64], dash: float, gap: float) -> Iterable[shapely.LineString]:
    """The dashes of a closed ring (n, 2), whose first point is also its last."""
    # Twice around, so that the first dash is in one piece.
    points = np.concatenate([ring, ring[1:]])
    way = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    length = way[len(ring) - 1]
    count = max(round(length / (dash + gap)), 1)
    period, half = length / count, 0.5 * dash / (dash + gap)
    ends = period * (np.arange(1, count + 1)[:, np.newaxis] + np.array([-half, half]))
    corners = np.stack([np.interp(ends, way, points[:, axis]) for axis in (0, 1)], axis=-1)
    first, last = np.searchsorted(way, ends[:, 0], "right"), np.searchsorted(way, ends[:, 1], "left")
    for (begin, end), i, j in zip(corners, first, last, strict=True):
        yield shapely.LineString([begin, *points[i:j], end])


def _offset(shape: S, by: float, join: str) -> S:
    """An area, or each of several, grown by so many px, or shrunk; about a line, which ends where it ends,
    the area it becomes."""
    if abs(by) < 1e-9:
        return shape
    style = "mitre" if join == "mitred" else "round"
    return shapely.buffer(
        shape, by, quad_segs=QUARTER_SIDES, cap_style="flat", join_style=style, mitre_limit=MITRE_LIMIT
    )


def gloss_cover(plate: Plate, gloss: Gloss) -> Array:
    """What a band over the faces, from their top down to its edge, covers (h, w), and how it fades."""
    return _kept_if_small(_gloss_cover, plate, plate.levels_of(gloss.target), _shape_of(gloss))


@latest_kept(MOST_KEPT)
def _gloss_cover(height: int, width: int, levels: tuple[Level, ...], gloss: Gloss) -> Array:
    whole = _groups([face for level in levels for face in level.faces], gloss.over)
    boxes = _boxes_of(whole)
    most: Array | None = None
    for level in levels:
        own, groups = room((height, width), zeroed=True), _groups(level.faces, gloss.over)
        edges, ends = edges_of([_union([face.area for face in faces]) for faces in groups.values()])
        px = boxes_of(edges, ends, width, height)
        whole_boxes = np.array([boxes[name] for name in groups], np.float32)
        sums, reaches = room_for_sums(px), np.empty(width, np.float32)
        _lay_bands(own, edges, ends, px, whole_boxes, _band(gloss), sums, reaches)
        most = _larger(most, _but_for(own, level.before))
    return room((height, width), zeroed=True) if most is None else most


def _groups(faces: Iterable[FaceSeen], over: str) -> dict[int, list[FaceSeen]]:
    """The faces that one band lies over, by a name."""
    groups: dict[int, list[FaceSeen]] = {}
    for face in faces:
        name = {"letter": id(face), "block": face.block, "piece": 0}[over]
        groups.setdefault(name, []).append(face)
    return groups


def _boxes_of(groups: Mapping[int, Sequence[FaceSeen]]) -> dict[int, NDArray[np.float64]]:
    """The left, top, right and bottom side of each group of faces."""
    if not groups:
        return {}
    bounds = shapely.bounds([face.area for faces in groups.values() for face in faces])
    first = np.cumsum([0, *map(len, groups.values())])[:-1]
    low, high = np.fmin.reduceat(bounds[:, :2], first), np.fmax.reduceat(bounds[:, 2:], first)
    return dict(zip(groups, np.hstack([low, high]), strict=True))


def _band(gloss: Gloss) -> Band:
    height, bend = gloss.height / 100, gloss.bow / 100 * min(gloss.height / 50, 1.0)
    bowed, waved = (bend if gloss.edge == edge else 0.0 for edge in ("bowed", "waved"))
    return Band(F(height), F(bowed), F(0.5 * waved), F(gloss.fade / 100))


@kernel
def _lay_bands(opacity, edges, ends, px, boxes, band, sums, reaches):
    """Lay a band over groups of faces, whose edges are between two ends each: whole at its top, fading to its
    edge, none below. px (n, 4): the box of each in px (covering.py); boxes (n, 4): left, top, right and
    bottom side of all that a band lies over; sums and reaches are room to work in."""
    for n in range(px.shape[0]):
        left, top, w, h = px[n, 0], px[n, 1], px[n, 2], px[n, 3]
        cover_box(edges, (ends[n], ends[n + 1]), (left, top, w, h), sums)
        begin, high, farthest = boxes[n, 1], boxes[n, 3] - boxes[n, 1], F(0.0)
        across = F(2.0) / max(boxes[n, 2] - boxes[n, 0], F(1e-6))
        for x in range(w):
            u = (F(left + x) + F(0.5) - boxes[n, 0]) * across - F(1.0)
            bend = band.bowed * (u * u - F(0.5)) + band.waved * math.sin(F(math.pi) * u)
            reaches[x] = (band.height + bend) * high
            farthest = max(farthest, reaches[x])
        for y in range(h):
            down, row, own = F(top + y) + F(0.5) - begin, sums[y * w :], opacity[top + y, left:]
            if down >= farthest + F(0.5):
                break
            for x in range(w):
                edge = min(max(reaches[x] - down + F(0.5), F(0.0)), F(1.0))
                share = min(max(down / max(reaches[x], F(1e-6)), F(0.0)), F(1.0))
                own[x] = max(own[x], edge * (F(1.0) - band.fade * share) * row[x])
