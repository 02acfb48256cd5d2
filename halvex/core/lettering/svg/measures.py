"""Lengths, transforms and viewports of SVG files."""

import math
import re

import numpy as np
from fontTools.misc.transform import Identity, Transform

# CSS Values and Units 4: 1 in = 96 px = 2.54 cm = 25.4 mm = 101.6 Q = 72 pt = 6 pc.
_PX_PER_UNIT = {
    "": 1.0,
    "px": 1.0,
    "in": 96.0,
    "cm": 96 / 2.54,
    "mm": 96 / 25.4,
    "q": 96 / 101.6,
    "pt": 96 / 72,
    "pc": 16.0,
}
PHYSICAL_UNITS = ("in", "cm", "mm", "q", "pt", "pc")
# The size of type that em and ex refer to, where a file says nothing (CSS: medium).
EM_PX = 16.0

NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
_LENGTH = re.compile(rf"\s*({NUMBER})\s*([a-zA-Z%]*)\s*")
_FUNCTION = re.compile(
    r"\s*,?\s*(matrix|translate|translateX|translateY|scale|scaleX|scaleY|rotate|skewX|skewY)\s*\(([^()]*)\)"
)
_ANGLES = {"": 1.0, "deg": 1.0, "rad": 180 / math.pi, "grad": 0.9, "turn": 360.0}


def length_of(text: str | None, whole: float, default: float = 0.0) -> float:
    """A length in CSS px; percentages are of `whole`. Raises ValueError for what is no length."""
    if text is None or text.strip() in ("", "auto"):
        return default
    found = _LENGTH.fullmatch(text)
    if not found:
        raise ValueError(f"“{text[:40]}” is no length")
    value, unit = float(found[1]), found[2].lower()
    if unit == "%":
        return value / 100 * whole
    if unit in ("em", "rem"):
        return value * EM_PX
    if unit == "ex":
        return value * EM_PX / 2
    if unit not in _PX_PER_UNIT:
        raise ValueError(f"“{text[:40]}” is in a unit Halvex does not know")
    return value * _PX_PER_UNIT[unit]


def unit_of(text: str | None) -> str:
    found = _LENGTH.fullmatch(text or "")
    return found[2].lower() if found else ""


def numbers_of(text: str) -> list[float]:
    """Numbers separated by spaces or commas. Raises ValueError where there is anything else."""
    found = re.findall(NUMBER, text)
    if re.sub(NUMBER, "", text).strip(" ,\t\r\n\f"):
        raise ValueError(f"“{text[:40]}” is no list of numbers")
    return [float(value) for value in found]


def transform_of(text: str | None) -> Transform:
    """A list of SVG or CSS transforms as one matrix. Raises ValueError for what is no transform."""
    whole = Identity
    at = 0
    text = (text or "").strip()
    if text == "none":
        return whole
    while at < len(text):
        found = _FUNCTION.match(text, at)
        if not found:
            raise ValueError(f"“{text[at : at + 40]}” is no transform")
        whole = whole.transform(_function(found[1], found[2]))
        at = found.end()
    return whole


def _function(name: str, inside: str) -> Transform:
    values = [_argument(part, name) for part in re.split(r"\s*,\s*|\s+(?=[-+.\d])", inside.strip()) if part]
    match name, values:
        case "matrix", [a, b, c, d, e, f]:
            return Transform(a, b, c, d, e, f)
        case (("translate" | "translateX"), [x]):
            return Identity.translate(x, 0)
        case "translateY", [y]:
            return Identity.translate(0, y)
        case "translate", [x, y]:
            return Identity.translate(x, y)
        case "scale", [s]:
            return Identity.scale(s, s)
        case "scaleX", [s]:
            return Identity.scale(s, 1)
        case "scaleY", [s]:
            return Identity.scale(1, s)
        case "scale", [x, y]:
            return Identity.scale(x, y)
        case "rotate", [a]:
            return Identity.rotate(math.radians(a))
        case "rotate", [a, x, y]:
            return Identity.translate(x, y).rotate(math.radians(a)).translate(-x, -y)
        case "skewX", [a]:
            return Identity.skew(math.radians(a), 0)
        case "skewY", [a]:
            return Identity.skew(0, math.radians(a))
    raise ValueError(f"“{name}({inside[:40]})” is no transform")


def _argument(text: str, function: str) -> float:
    found = re.fullmatch(rf"({NUMBER})([a-z]*)", text.strip())
    units = _ANGLES if function in ("rotate", "skewX", "skewY") else {"": 1.0, "px": 1.0}
    if not found or found[2] not in units:
        raise ValueError(f"“{function}({text[:40]})” is no transform")
    return float(found[1]) * units[found[2]]


def fit_of(box: str, keep: str | None, width: float, height: float) -> Transform:
    """What takes a viewBox to a viewport of this size at the origin, by preserveAspectRatio (SVG 2,
    8.2). Raises ValueError."""
    values = numbers_of(box)
    if len(values) != 4 or min(values[2:]) <= 0.0:
        raise ValueError(f"“{box[:40]}” is no viewBox")
    x, y, wide, high = values
    sx, sy = width / wide, height / high
    words = (keep or "xMidYMid meet").split()
    if words[0] == "none":
        return Identity.scale(sx, sy).translate(-x, -y)
    found = re.fullmatch(r"x(Min|Mid|Max)Y(Min|Mid|Max)", words[0])
    if not found:
        raise ValueError(f"“{keep}” is no way to keep the ratio of sides")
    scale = max(sx, sy) if words[1:] == ["slice"] else min(sx, sy)
    share = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}
    left = (width - wide * scale) * share[found[1]]
    top = (height - high * scale) * share[found[2]]
    return Identity.translate(left, top).scale(scale, scale).translate(-x, -y)


def diagonal(width: float, height: float) -> float:
    """What percentages of neither width nor height are of (SVG 2, 8.9)."""
    return float(np.hypot(width, height) / math.sqrt(2))
