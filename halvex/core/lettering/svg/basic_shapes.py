"""Basic shapes of SVG as path data, as SVG 2 (chapter 10) draws them."""

from collections.abc import Callable, Mapping

from halvex.core.lettering.svg.measures import diagonal, length_of, numbers_of

Attributes = Mapping[str, str]


def path_of(tag: str, attributes: Attributes, width: float, height: float) -> str | None:
    """Path data of an element in a viewport of this size; None where it draws nothing. Raises ValueError."""
    return SHAPES[tag](attributes, width, height)


def _path(attributes: Attributes, width: float, height: float) -> str | None:
    return attributes.get("d", "").strip() or None


def _rectangle(attributes: Attributes, width: float, height: float) -> str | None:
    x, y = length_of(attributes.get("x"), width), length_of(attributes.get("y"), height)
    w, h = length_of(attributes.get("width"), width), length_of(attributes.get("height"), height)
    if w <= 0 or h <= 0:
        return None
    rx, ry = length_of(attributes.get("rx"), width, -1), length_of(attributes.get("ry"), height, -1)
    rx, ry = (ry if rx < 0 else rx), (rx if ry < 0 else ry)
    rx, ry = min(max(rx, 0), w / 2), min(max(ry, 0), h / 2)
    if rx == 0 or ry == 0:
        return f"M{x} {y}H{x + w}V{y + h}H{x}Z"
    arc = f"A{rx} {ry} 0 0 1"
    right, bottom = x + w, y + h
    return (
        f"M{x + rx} {y}H{right - rx}{arc} {right} {y + ry}V{bottom - ry}{arc} {right - rx} {bottom}"
        f"H{x + rx}{arc} {x} {bottom - ry}V{y + ry}{arc} {x + rx} {y}Z"
    )


def _round(cx: float, cy: float, rx: float, ry: float) -> str | None:
    if rx <= 0 or ry <= 0:
        return None
    arc = f"A{rx} {ry} 0 0 1"
    return f"M{cx + rx} {cy}{arc} {cx} {cy + ry}{arc} {cx - rx} {cy}{arc} {cx} {cy - ry}{arc} {cx + rx} {cy}Z"


def _circle(attributes: Attributes, width: float, height: float) -> str | None:
    r = length_of(attributes.get("r"), diagonal(width, height))
    return _round(length_of(attributes.get("cx"), width), length_of(attributes.get("cy"), height), r, r)


def _ellipse(attributes: Attributes, width: float, height: float) -> str | None:
    rx, ry = length_of(attributes.get("rx"), width, -1), length_of(attributes.get("ry"), height, -1)
    rx, ry = (ry if rx < 0 else rx), (rx if ry < 0 else ry)
    return _round(length_of(attributes.get("cx"), width), length_of(attributes.get("cy"), height), rx, ry)


def _line(attributes: Attributes, width: float, height: float) -> str | None:
    x1, x2 = (length_of(attributes.get(name), width) for name in ("x1", "x2"))
    y1, y2 = (length_of(attributes.get(name), height) for name in ("y1", "y2"))
    return f"M{x1} {y1}L{x2} {y2}"


def _corners(attributes: Attributes, width: float, height: float) -> str | None:
    values = numbers_of(attributes.get("points", ""))
    pairs = [f"{x} {y}" for x, y in zip(values[::2], values[1::2], strict=False)]
    return f"M{'L'.join(pairs)}" if pairs else None


def _polygon(attributes: Attributes, width: float, height: float) -> str | None:
    open_path = _corners(attributes, width, height)
    return f"{open_path}Z" if open_path else None


SHAPES: dict[str, Callable[[Attributes, float, float], str | None]] = {
    "path": _path,
    "rect": _rectangle,
    "circle": _circle,
    "ellipse": _ellipse,
    "line": _line,
    "polyline": _corners,
    "polygon": _polygon,
}
