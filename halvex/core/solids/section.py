"""The section drawing: a cut across one straight stroke, through all that the form makes of it."""

from dataclasses import dataclass

import numpy as np

from halvex.core.piece.form import Bevel, Form
from halvex.core.solids.profiles import profile_curve

# Radius in px of the picture for which profiles are drawn: fine enough for any drawing.
DRAWN_RADIUS_PX = 60.0
Point = tuple[float, float]


@dataclass(frozen=True)
class Piece:
    """One body cut: which part it is, and its closed outline (across, z) in px, the stroke's middle
    at 0, the face plane at z = 0."""

    part: str
    outline: list[Point]


def section(form: Form, stroke: float, ridge: float = 0.0) -> list[Piece]:
    """The bodies cut across a straight stroke `stroke` px wide; `ridge` is the width in px of a
    bevel to the ridge."""
    half = stroke / 2
    if form.kind == "tube":
        pieces = [_tube(form)]
    elif form.incised:
        return [_incised(form, half, ridge)]
    elif form.kind == "rim":
        out = {"inside": half, "centred": half + form.rim.width / 2, "outside": half + form.rim.width}[
            form.rim.side
        ]
        inner = out - form.rim.width
        walls = [(-out, -inner), (inner, out)] if inner > 0 else [(-out, out)]
        pieces = [
            Piece(
                "body", [(x + (a + b) / 2, z) for x, z in _body(form.bevel, form.depth, (b - a) / 2, ridge)]
            )
            for a, b in walls
        ]
    else:
        spread = form.bevel.width if form.bevel.side == "outset" and form.bevel.height > 0 else 0.0
        pieces = [Piece("body", _body(form.bevel, form.depth, half + spread, ridge))]
    back = min(z for piece in pieces for _, z in piece.outline)
    for plate in form.plates:
        back -= plate.gap
        pieces.append(
            Piece(
                "plate",
                [(x, z + back) for x, z in _body(plate.bevel, plate.depth, half + plate.distance, 0.0)],
            )
        )
        back -= plate.depth
    if form.stands == "raised":
        reach = half * 1.5 + max((plate.distance for plate in form.plates), default=0.0)
        pieces.append(
            Piece(
                "slab",
                [
                    (-reach, back - form.slab.depth),
                    (reach, back - form.slab.depth),
                    (reach, back),
                    (-reach, back),
                ],
            )
        )
    return pieces


def part_points(form: Form, pieces: list[Piece]) -> dict[str, Point]:
    """A point (across, z) on every part that the cut shows, on the right where a part has two sides."""
    found: dict[str, Point] = {}
    for piece in pieces:
        across, depth = np.array(piece.outline).T
        right, top, bottom = float(across.max()), float(depth.max()), float(depth.min())
        if piece.part != "body":
            # The pit of a slab is what the lettering's own parts are.
            found.setdefault(piece.part, (right, (top + bottom) / 2))
            continue
        edged = (
            form.kind != "tube"
            and form.bevel.front
            and form.bevel.height > 0
            and (form.bevel.width or form.bevel.to_ridge or form.bevel.cushion)
        )
        foot = -form.bevel.height if edged else 0.0
        found["face"] = (float(np.interp(0.25, [0, 1], [(right + across.min()) / 2, right])), top)
        if edged:
            found["bevel"] = (_rightmost(piece.outline, foot / 2), foot / 2)
        found["return"] = (_rightmost(piece.outline, (foot + bottom) / 2), (foot + bottom) / 2)
        found["back"] = (float(across.min() + 0.6 * (right - across.min())), bottom)
    return found


def _rightmost(outline: list[Point], z: float) -> float:
    """The greatest `across` at which a closed outline crosses depth z."""
    crossings = [0.0]
    for (x0, z0), (x1, z1) in zip(outline, [*outline[1:], outline[0]], strict=True):
        if min(z0, z1) <= z <= max(z0, z1):
            crossings.append(max(x0, x1) if z0 == z1 else x0 + (x1 - x0) * (z - z0) / (z1 - z0))
    return max(crossings)


def _body(bevel: Bevel, depth: float, half: float, ridge: float) -> list[Point]:
    """Outline of a solid stroke, counter-clockwise."""
    tall = bevel.height if bevel.height and (bevel.width or bevel.to_ridge or bevel.cushion) else 0.0
    deep = max(depth, tall * (bevel.front + bevel.back))
    front = [(half - a, r - tall) for a, r in _edge(bevel, half, ridge)] if bevel.front else [(half, 0.0)]
    back = (
        [(half - a, tall - r - deep) for a, r in _edge(bevel, half, ridge)] if bevel.back else [(half, -deep)]
    )
    side = back[::-1] + front
    return side + [(-x, z) for x, z in reversed(side)]


def _edge(bevel: Bevel, half: float, ridge: float) -> list[Point]:
    """The bevel from the foot inwards, to the stroke's middle at most: (distance, rise) in px."""
    width = ridge or half
    if not bevel.to_ridge:
        width = bevel.width
    if bevel.cushion and bevel.side == "inset":
        width = half
    if width <= 0 or bevel.height <= 0:
        return [(0.0, 0.0)]
    tall = bevel.height * (half / ridge if bevel.cushion and ridge else 1.0)
    points = profile_curve(bevel, DRAWN_RADIUS_PX).points
    end = half / width
    kept = [(float(a), float(r)) for a, r in points if a <= end]
    if end < 1.0:
        kept.append((end, float(np.interp(end, *points.T))))
    return [(a * width, r * tall) for a, r in kept]


def _incised(form: Form, half: float, ridge: float) -> Piece:
    reach = half * 1.7
    if form.stands == "v-cut":
        by_angle = 1.0 / np.tan(np.radians(form.incision.angle) / 2)
        steep = by_angle if form.incision.by == "angle" else form.incision.depth / max(ridge, half)
        pit: list[Point] = [(half, 0.0), (0.0, -half * steep), (-half, 0.0)]
    else:
        wall = form.bevel.model_copy(update={"height": form.incision.depth})
        falls = (
            _edge(wall, half, ridge)
            if form.bevel.width > 0 or form.bevel.to_ridge
            else [(0.0, 0.0), (0.0, form.incision.depth)]
        )
        right = [(half - a, -r) for a, r in falls]
        pit = right + [(-x, z) for x, z in reversed(right)]
    depth = max(form.slab.depth, 1.1 * -min(z for _, z in pit))
    return Piece("slab", [(-reach, 0.0), (-reach, -depth), (reach, -depth), (reach, 0.0), *pit])


def _tube(form: Form) -> Piece:
    r = form.tube.radius
    turns = np.linspace(0, 2 * np.pi, 49)[:-1]
    circle = {
        "round": [(float(r * np.cos(a)), float(r * np.sin(a) - r)) for a in turns],
        "square": [(r, -2 * r), (r, 0.0), (-r, 0.0), (-r, -2 * r)],
        "half round": [(float(r * np.cos(a)), float(r * np.sin(a) - r)) for a in np.linspace(0, np.pi, 25)],
    }[form.tube.section]
    return Piece("body", circle)
