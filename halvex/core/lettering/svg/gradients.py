"""Gradients of an SVG file as layers of a source (SVG 2, 14.2).

A gradient of the file is laid out in units of its own and then bent by the matrices around it; here one is
laid over the box of its part. Linear ones come over exactly, also where they are sheared; radial ones where
they stay circles, or ellipses of the proportions of the box.
"""

import math
from collections.abc import Callable, Mapping
from xml.etree.ElementTree import Element

import numpy as np
import tinycss2
from fontTools.misc.transform import Identity, Transform
from numpy.typing import NDArray

from halvex.core.lettering.svg.elements import chain_of, first_of
from halvex.core.lettering.svg.measures import length_of, transform_of
from halvex.core.lettering.svg.style import paint_of, share_of
from halvex.core.piece.gradient import MOST_STOPS, Gradient, Stop

Array = NDArray[np.float64]
Box = tuple[float, float, float, float]

# No drawing is as large, in px.
_FARTHEST = 1e12
# A circle is one, and an ellipse one of the box, to this share.
_ALIKE = 0.02
_MOST_SCALE, _LEAST_SCALE, _MOST_MOVED = 10_000.0, 0.1, 1000.0


class GradientError(ValueError):
    """A gradient that cannot be laid over a box; the text says why."""


def gradient_of(
    element: Element,
    named: Mapping[str | None, Element],
    *,
    drawn: Box,
    viewport: tuple[float, float],
    matrix: Transform,
    box: Box,
    leave_out: Callable[[str], None],
) -> Gradient:
    """The gradient that an element describes, over the box of a part.

    drawn: the bounding box of the path (left, top, right, bottom) in its own units, y down; matrix takes
    these to px of the mark, y down; box: that of the part in px of the mark (left, bottom, right, top), y up.
    Raises GradientError, also for one without stops, ValueError for numbers that cannot be read.
    """
    chain = chain_of(element, named, "Gradient")
    stops = _stops(chain)
    radial = element.tag.endswith("radialGradient")
    units = first_of(chain, "gradientUnits", "objectBoundingBox")
    own = transform_of(first_of(chain, "gradientTransform", ""))
    whole = viewport
    if units == "objectBoundingBox":
        wide, high = drawn[2] - drawn[0], drawn[3] - drawn[1]
        if wide <= 0 or high <= 0:
            raise GradientError("it is on a line, which has no box")
        own = Transform(wide, 0, 0, high, drawn[0], drawn[1]).transform(own)
        whole = (1.0, 1.0)
    # To px of the mark, y up.
    onto = Identity.scale(1, -1).transform(matrix).transform(own)
    if not all(abs(number) < _FARTHEST for number in onto):
        raise GradientError("its transforms take it out of all bounds")
    spread = first_of(chain, "spreadMethod", "pad")
    if spread != "pad":
        # What comes again is all of the line, not only from the first stop to the last.
        first, last = stops[0], stops[-1]
        stops = (first.model_copy(update={"at": 0.0}), *stops, last.model_copy(update={"at": 100.0}))
    # A reflected gradient is one twice as long, there and back.
    there_and_back = 2.0 if spread == "reflect" else 1.0

    def place(name: str, default: str, side: float) -> float:
        return length_of(first_of(chain, name, default), side, 0.0)

    laid = (
        _radial(place, onto, whole, box, there_and_back, leave_out, chain)
        if radial
        else _linear(place, onto, whole, box, there_and_back)
    )
    return Gradient(
        span="letter",
        mix="srgb",
        stops=stops,
        mirrored=spread == "reflect",
        repeated=spread in ("repeat", "reflect"),
        **laid,
    )


def first_colour(element: Element, named: Mapping[str | None, Element]) -> str:
    """The colour of a gradient's first stop; "" where it has none."""
    try:
        return _stops(chain_of(element, named, "Gradient"))[0].colour
    except ValueError:
        return ""


def _stops(chain: list[Element]) -> tuple[Stop, ...]:
    """The stops of the first that has any. Raises GradientError."""
    found = next(
        (
            stops
            for element in chain
            if (stops := [child for child in element if str(child.tag).rpartition("}")[2] == "stop"])
        ),
        [],
    )
    if not found:
        raise GradientError("it has no stops")
    if len(found) > MOST_STOPS - 2:
        raise GradientError(f"it has over {MOST_STOPS - 2} stops")
    read: list[Stop] = []
    for element in found:
        declared = {name: element.get(name, "") for name in ("stop-color", "stop-opacity")}
        for entry in tinycss2.parse_declaration_list(element.get("style", ""), skip_whitespace=True):
            if entry.type == "declaration":
                declared[entry.lower_name] = tinycss2.serialize(entry.value).strip()
        paint = paint_of(declared["stop-color"] or "black", "black")
        if paint is None or not paint.colour:
            raise GradientError("a stop has no colour")
        offset = share_of(element.get("offset", "0"))
        opacity = share_of(declared["stop-opacity"] or "1") * paint.opacity
        # A stop before the one ahead of it counts as at its place.
        at = max(100 * offset, read[-1].at if read else 0.0)
        read.append(Stop(at=at, colour=paint.colour, opacity=100 * opacity))
    return tuple(read)


def _middle(box: Box) -> tuple[Array, Array]:
    """(middle, half sides) of a box."""
    left, bottom, right, top = box
    return np.array([(left + right) / 2, (bottom + top) / 2]), np.array(
        [(right - left) / 2, (top - bottom) / 2]
    )


def _linear(
    place: Callable[[str, str, float], float],
    onto: Transform,
    whole: tuple[float, float],
    box: Box,
    times: float,
) -> dict[str, float | str]:
    start = np.array([place("x1", "0%", whole[0]), place("y1", "0%", whole[1])])
    end = np.array([place("x2", "100%", whole[0]), place("y2", "0%", whole[1])])
    way = end - start
    if not way @ way > 0:
        raise GradientError("its line has no length")
    a, b, c, d, _, _ = onto
    if abs(a * d - b * c) < 1e-12:
        raise GradientError("its transforms leave nothing of it")
    # The share along the line is linear, and stays so: this is how it grows in px of the mark.
    grows = np.linalg.solve(np.array([[a, b], [c, d]]), way / (way @ way)) / times
    length = 1 / float(np.hypot(*grows))
    direction = grows * length
    middle, half = _middle(box)
    at_middle = float((middle - np.array(onto.transformPoint(tuple(start)))) @ grows)
    moved = (0.5 - at_middle) * length * direction
    return {
        "shape": "linear",
        "bearing": math.degrees(math.atan2(direction[1], direction[0])) % 360,
        "scale": _scale(length / (2 * float(np.abs(direction) @ half))),
        **_moved(moved, half),
    }


def _radial(
    place: Callable[[str, str, float], float],
    onto: Transform,
    whole: tuple[float, float],
    box: Box,
    times: float,
    leave_out: Callable[[str], None],
    chain: list[Element],
) -> dict[str, float | str]:
    centre = place("cx", "50%", whole[0]), place("cy", "50%", whole[1])
    radius = place("r", "50%", math.hypot(*whole) / math.sqrt(2)) * times
    if not 0 < radius < _FARTHEST:
        raise GradientError("its circle has no radius")
    if first_of(chain, "fx", "") or first_of(chain, "fy", "") or first_of(chain, "fr", ""):
        leave_out("focal points of gradients")
    middle, half = _middle(box)
    ellipse = np.array([[onto[0], onto[2]], [onto[1], onto[3]]]) * radius
    longer, shorter = np.linalg.svd(ellipse, compute_uv=False)
    if not shorter > 0:
        raise GradientError("its transforms leave nothing of it")
    moved = _moved(np.array(onto.transformPoint(centre)) - middle, half)
    # An upright ellipse has its axes along x and y; a turned circle is a circle.
    across, up = np.hypot(*ellipse[0]), np.hypot(*ellipse[1])
    upright = abs(float(ellipse[0] @ ellipse[1])) <= _ALIKE * across * up
    if longer > (1 + _ALIKE) * shorter:
        if upright and abs(across * half[1] - up * half[0]) <= _ALIKE * across * half[1]:
            return {"shape": "oval", "scale": _scale(across / (half[0] * math.sqrt(2))), **moved}
        leave_out("gradients that are drawn out (a round one is taken)")
    return {
        "shape": "round",
        "scale": _scale(math.sqrt(longer * shorter) / float(np.hypot(*half))),
        **moved,
    }


def _scale(share: float) -> float:
    return min(max(100 * share, _LEAST_SCALE), _MOST_SCALE)


def _moved(way: Array, half: Array) -> dict[str, float]:
    x, y = np.clip(100 * way / np.maximum(2 * half, 1e-9), -_MOST_MOVED, _MOST_MOVED)
    return {"x": float(x), "y": float(y)}
