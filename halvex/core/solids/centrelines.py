"""Centre lines: the strokes of a letter as lines, read off the ridges of its roof.

The ridges of the rounded roof are the medial axis: the middles of all discs that touch the outline on both
sides. Short twigs that say no more than their neighbours are pruned; what is left is walked into lines
that go straight on where strokes meet, and smoothed. Around a meeting the middles are drawn towards it;
there a line is bridged from where it runs freely to where it does so again, as a bent tube would.
"""

import itertools
import math
from collections import defaultdict
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from halvex.core.lettering.lines import evened, spaced
from halvex.core.memory import kept
from halvex.core.solids.roof import OutlineKey, roof_of
from halvex.core.solids.skeleton.arcs import skeleton_arcs

Array = NDArray[np.float64]

# A twig must reach this much further than the disc it grows from, in shares of that disc's radius.
TWIG_REACH = 0.75
# One that is cut and reached so far stood in a corner, which draws the line towards it too.
CORNER_REACH = 0.2
# At a meeting of strokes a line goes on into one that turns by less.
STRAIGHT_ON_DEG = 60.0
# Around a meeting the middles of so many half-widths are drawn towards it; a line's direction beside them is
# taken over as much as that.
DRAWN_REACH, DIRECTION_REACH = 1.1, 0.6
SPACING_EM = 0.012
WELD_EM = 1e-6
MOST_PASSES = 400


@dataclass(frozen=True)
class CentreLine:
    """points (n, 2) in em; half (n,) the stroke's half-width there; closed lines do not repeat their first
    point; `free` says whether the start and the end are ends of a stroke (not meetings); drawn (m, 2):
    where along the line, in em, something draws it off the stroke's middle, and how far to both sides."""

    points: Array
    half: Array
    closed: bool
    free: tuple[bool, bool]
    drawn: Array = field(default_factory=lambda: np.zeros((0, 2)))


@dataclass
class _Graph:
    """Nodes (n, 2) and half-widths (n,), which node is linked to which, and those that draw a line off the
    stroke's middle besides its meetings."""

    xy: Array
    half: Array
    links: dict[int, set[int]]
    corners: set[int]


@kept
def centre_lines(key: OutlineKey) -> tuple[CentreLine, ...]:
    """The strokes of an outline, unsmoothed. A dot is a line of two points."""
    roof = roof_of(key, "rounded")
    graph = _graph(roof.nodes, *skeleton_arcs(roof.triangles, roof.face, roof.nodes[:, 2]))
    _prune(graph)
    lines = _walk(graph)
    if not lines:
        top = int(np.argmax(roof.nodes[:, 2]))
        half = roof.nodes[top, 2]
        points = roof.nodes[top, :2] + np.array([[-0.05, 0.0], [0.05, 0.0]]) * half
        lines = [CentreLine(points, np.full(2, half), False, (True, True))]
    return tuple(lines)


def _graph(nodes: Array, low: NDArray[np.int64], high: NDArray[np.int64]) -> _Graph:
    _, first, name = np.unique(
        np.round(nodes[:, :2] / WELD_EM), axis=0, return_index=True, return_inverse=True
    )
    links: dict[int, set[int]] = defaultdict(set)
    for a, b in zip(name[low].tolist(), name[high].tolist(), strict=True):
        if a != b:
            links[a].add(b)
            links[b].add(a)
    return _Graph(nodes[first, :2], nodes[first, 2], links, set())


def _distance(graph: _Graph, a: int, b: int) -> float:
    return math.hypot(*(graph.xy[a] - graph.xy[b]))


def _twig(graph: _Graph, leaf: int) -> tuple[list[int], float]:
    """From a leaf to the first meeting of three: the nodes, the meeting last, and the length."""
    nodes, length = [leaf], 0.0
    before, here = leaf, next(iter(graph.links[leaf]))
    while True:
        length += _distance(graph, before, here)
        nodes.append(here)
        if len(graph.links[here]) != 2:
            return nodes, length
        before, here = here, next(n for n in graph.links[here] if n != before)
        if here == leaf:
            return nodes, length


def _reach(graph: _Graph, leaf: int) -> tuple[float, list[int]]:
    """How far beyond the disc it grows from a leaf's twig reaches, in radii of that disc, and the
    twig's nodes; infinitely far where it grows from no meeting."""
    nodes, length = _twig(graph, leaf)
    root = nodes[-1]
    if len(graph.links[root]) < 3:
        return math.inf, nodes
    return (length + graph.half[leaf] - graph.half[root]) / max(graph.half[root], 1e-9), nodes


def _prune(graph: _Graph) -> None:
    """Cut twigs, least first, until every one left reaches well beyond the disc it grows from."""
    twigs = {leaf: _reach(graph, leaf) for leaf, links in graph.links.items() if len(links) == 1}
    while twigs:
        leaf = min(twigs, key=lambda leaf: twigs[leaf][0])
        reach, cut = twigs.pop(leaf)
        if reach >= TWIG_REACH:
            return
        if reach > CORNER_REACH:
            graph.corners.add(cut[-1])
        for a, b in itertools.pairwise(cut):
            graph.links[a].discard(b)
            graph.links[b].discard(a)
        # Only what grew from the same meeting has changed.
        for other, (_, nodes) in twigs.items():
            if nodes[-1] == cut[-1]:
                twigs[other] = _reach(graph, other)


def _walk(graph: _Graph) -> list[CentreLine]:
    """Use every link once: first from the ends of strokes and the meetings, then the rings that are left."""
    left = {a: set(links) for a, links in graph.links.items() if links}
    starts = sorted((n for n in left if len(left[n]) != 2), key=lambda n: (len(left[n]), n))
    lines = []
    for start in starts:
        while left[start]:
            lines.append(_follow(graph, left, start))
    for start in sorted(left):
        if left[start]:
            lines.append(_follow(graph, left, start))
    return lines


def _follow(graph: _Graph, left: dict[int, set[int]], start: int) -> CentreLine:
    nodes = [start]
    here = min(left[start])
    _take(left, start, here)
    while True:
        nodes.append(here)
        if here == start:
            break
        following = _straight_on(graph, left, nodes)
        if following is None:
            break
        _take(left, here, following)
        here = following
    closed = nodes[-1] == start and len(nodes) > 3
    kept = nodes[:-1] if closed else nodes
    return CentreLine(
        graph.xy[kept],
        graph.half[kept],
        closed,
        (len(graph.links[nodes[0]]) == 1, len(graph.links[nodes[-1]]) == 1),
        _drawn(graph, nodes),
    )


def _drawn(graph: _Graph, nodes: list[int]) -> Array:
    """Where along a line it meets others or a corner, and how far that draws it (m, 2)."""
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(graph.xy[nodes], axis=0).T))])
    drawing = [
        (along[at], DRAWN_REACH * graph.half[node])
        for at, node in enumerate(nodes)
        if len(graph.links[node]) > 2 or (node in graph.corners and len(graph.links[node]) == 2)
    ]
    return np.array(drawing).reshape(-1, 2)


def _take(left: dict[int, set[int]], a: int, b: int) -> None:
    left[a].discard(b)
    left[b].discard(a)


def _straight_on(graph: _Graph, left: dict[int, set[int]], nodes: list[int]) -> int | None:
    here = nodes[-1]
    choices = left[here]
    if not choices:
        return None
    if len(graph.links[here]) == 2:
        return next(iter(choices))
    # Directions are taken over about the stroke's half-width: nearer, the lines bend towards the meeting.
    arriving = graph.xy[here] - graph.xy[_far_back(graph, nodes)]
    best, chosen = math.cos(math.radians(STRAIGHT_ON_DEG)), None
    for n in sorted(choices):
        leaving = graph.xy[_ahead(graph, here, n)] - graph.xy[here]
        cosine = float(arriving @ leaving / max(np.hypot(*arriving) * np.hypot(*leaving), 1e-12))
        if cosine > best:
            best, chosen = cosine, n
    return chosen


def _far_back(graph: _Graph, nodes: list[int]) -> int:
    here = nodes[-1]
    for n in reversed(nodes[:-1]):
        if _distance(graph, n, here) > graph.half[here]:
            return n
    return nodes[0]


def _ahead(graph: _Graph, here: int, following: int) -> int:
    before, n = here, following
    while _distance(graph, n, here) <= graph.half[here] and len(graph.links[n]) == 2:
        before, n = n, next(m for m in graph.links[n] if m != before)
        if n == here:
            break
    return n


def smoothed(line: CentreLine, *, amount: float, reach: float) -> CentreLine:
    """Evenly spaced and smoothed over `amount` times the stroke's half-width, bridged at meetings; free ends
    run on so that a tube of radius `reach` em ends where the stroke does."""
    points = np.vstack([line.points, line.points[:1]]) if line.closed else line.points
    half = np.append(line.half, line.half[0]) if line.closed else line.half
    length = float(np.hypot(*np.diff(points, axis=0).T).sum())
    count = max(math.ceil(length / SPACING_EM), 8 if line.closed else 2) + 1
    even, _ = spaced(np.column_stack([points, half]), count)
    if line.closed:
        even = even[:-1]
    step = length / max(count - 1, 1)
    if amount > 0:
        off = np.abs(step * np.arange(len(even))[:, None] - line.drawn[:, 0])
        if line.closed:
            off = np.minimum(off, length - off)
        even = _bridged(even, np.asarray((off <= line.drawn[:, 1]).any(axis=1)), line.closed)
    even = evened(
        even,
        deviation=amount * float(even[:, 2].mean()) / max(step, 1e-9),
        closed=line.closed,
        most=MOST_PASSES,
    )
    points, half = even[:, :2], even[:, 2]
    if not line.closed:
        points, half = _run_on(points, half, line.free, reach)
    return CentreLine(points, half, line.closed, line.free)


def _bridged(even: Array, drawn: NDArray[np.bool_], closed: bool) -> Array:
    """Evenly spaced points (n, 3: x, y, half-width) with a cubic (Hermite) in the place of those that were
    `drawn` (n,) off the middle."""
    if drawn.all() or not drawn.any():
        return even
    # A ring is cut where it runs freely.
    cut = int(np.argmin(drawn)) if closed else 0
    line, drawn = np.roll(even, -cut, axis=0), np.roll(drawn, -cut)
    if closed:
        line, drawn = np.vstack([line, line[:1]]), np.append(drawn, False)
    edges = np.flatnonzero(np.diff(np.concatenate([[False], drawn, [False]])))
    bridged = line.copy()
    for first, last in zip(edges[::2].tolist(), (edges[1::2] - 1).tolist(), strict=True):
        before, after = max(first - 1, 0), min(last + 1, len(line) - 1)
        chord = line[after, :2] - line[before, :2]
        length = float(np.hypot(*chord))
        if length < WELD_EM:
            continue
        leaving = chord / length if drawn[before] else _direction(line, drawn, before, -1)
        arriving = chord / length if drawn[after] else _direction(line, drawn, after, 1)
        u = (np.arange(before + 1, after) - before)[:, None] / (after - before)
        bridged[before + 1 : after, :2] = (
            (2 * u**3 - 3 * u**2 + 1) * line[before, :2]
            + (u**3 - 2 * u**2 + u) * leaving * length
            + (3 * u**2 - 2 * u**3) * line[after, :2]
            + (u**3 - u**2) * arriving * length
        )
    return np.roll(bridged[:-1], cut, axis=0) if closed else bridged


def _direction(line: Array, drawn: NDArray[np.bool_], at: int, side: int) -> Array:
    """The direction in which a line runs at a point, seen over the free points to one `side` of it."""
    end, reach = at, DIRECTION_REACH * line[at, 2]
    while (
        0 <= end + side < len(line)
        and not drawn[end + side]
        and math.hypot(*(line[end, :2] - line[at, :2])) < reach
    ):
        end += side
    if end == at:
        end, side = at - side, -side
    way = (line[end, :2] - line[at, :2]) * side
    return np.asarray(way / max(float(np.hypot(*way)), 1e-12))


def _run_on(points: Array, half: Array, free: tuple[bool, bool], reach: float) -> tuple[Array, Array]:
    for end, is_free in ((-1, free[1]), (0, free[0])):
        more = half[end] - reach
        if not is_free or more <= 1e-6:
            continue
        inner = points[max(-len(points), -4) if end else min(len(points) - 1, 3)]
        along = points[end] - inner
        length = float(np.hypot(*along))
        if length < 1e-9:
            continue
        extra = (points[end] + along / length * more)[None]
        points = np.vstack([points, extra]) if end else np.vstack([extra, points])
        half = np.append(half, half[-1]) if end else np.append(half[0], half)
    return points, half
