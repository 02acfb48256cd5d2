"""The cascade: what style an element of an SVG file has, from its attributes, the file's rules and
its parent.

Presentation attributes count less than any rule, a `style` attribute more than any selector,
`!important` more than all (CSS Cascading and Inheritance 4). Selectors are matched by cssselect2,
values read by tinycss2.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import cssselect2
import tinycss2
from tinycss2.color4 import parse_color

Style = Mapping[str, str]
Declared = tuple[str, str, bool]

INITIAL: dict[str, str] = {
    "color": "black",
    "fill": "",  # nothing said: black in the file, but the block's own surface here
    "fill-rule": "nonzero",
    "clip-rule": "nonzero",
    "fill-opacity": "1",
    "stroke": "none",
    "stroke-width": "1",
    "stroke-linecap": "butt",
    "stroke-linejoin": "miter",
    "stroke-miterlimit": "4",
    "stroke-dasharray": "none",
    "stroke-dashoffset": "0",
    "stroke-opacity": "1",
    "visibility": "visible",
    "paint-order": "normal",
    "marker-start": "none",
    "marker-mid": "none",
    "marker-end": "none",
}
# Properties that a child does not take from its parent.
OWN: dict[str, str] = {
    "display": "inline",
    "opacity": "1",
    "transform": "",
    "transform-origin": "",
    "clip-path": "none",
    "mask": "none",
    "filter": "none",
    "vector-effect": "none",
    "mix-blend-mode": "normal",
}


class Rules:
    """The rules of a file's style elements. What else they ask for is passed to `left_out`."""

    def __init__(self, sheets: list[str], left_out: Callable[[str], None]):
        self._matcher = cssselect2.Matcher()
        self.count = 0
        for sheet in sheets:
            for rule in tinycss2.parse_stylesheet(sheet, skip_comments=True, skip_whitespace=True):
                if rule.type == "at-rule":
                    left_out(f"@{rule.lower_at_keyword} in a style sheet")
                elif rule.type == "error":
                    left_out("a style rule that cannot be read")
                else:
                    self._add(rule, left_out)

    def _add(self, rule: tinycss2.ast.QualifiedRule, left_out: Callable[[str], None]) -> None:
        try:
            selectors = cssselect2.compile_selector_list(rule.prelude)
        except cssselect2.SelectorError:
            left_out("a style rule that cannot be read")
            return
        declared = declarations(rule.content)
        self.count += len(selectors)
        for selector in selectors:
            self._matcher.add_selector(selector, declared)

    def style(self, element: cssselect2.ElementWrapper, parent: Style) -> Style:
        """The style of an element whose parent has style `parent`."""
        known = {**INITIAL, **OWN}
        attributes = element.etree_element.attrib
        layers: list[Declared] = [
            (name, value.strip(), False) for name, value in attributes.items() if name in known
        ]
        for _, _, _, declared in sorted(self._matcher.match(element), key=lambda match: match[:2]):
            layers += declared
        layers += declarations(attributes.get("style", ""))
        style = {**{name: parent.get(name, value) for name, value in INITIAL.items()}, **OWN}
        for name, value, _ in sorted(layers, key=lambda declared: declared[2]):
            if name not in known:
                continue
            low = value.lower()
            if low in ("inherit", "unset", "initial"):
                value = (
                    parent.get(name, known[name])
                    if low == "inherit" or (low == "unset" and name in INITIAL)
                    else known[name]
                )
            style[name] = value
        return style


def declarations(content: object) -> list[Declared]:
    """Declarations as (property, value, important)."""
    found = tinycss2.parse_declaration_list(content, skip_comments=True, skip_whitespace=True)
    return [
        (d.lower_name, tinycss2.serialize(d.value).strip(), d.important)
        for d in found
        if d.type == "declaration"
    ]


@dataclass(frozen=True)
class Paint:
    """What an area or a line is painted with: an sRGB colour as #rrggbb, "" where nothing was said;
    its opacity; the id of a paint server that was asked for instead."""

    colour: str
    opacity: float = 1.0
    server: str = ""


def paint_of(text: str, current: str) -> Paint | None:
    """A fill or a stroke; None for none. `current` is the colour property. Raises ValueError for
    what is no paint."""
    text = text.strip()
    if text == "":
        return Paint("")
    if text.lower().startswith("url("):
        inside, _, fallback = text[4:].partition(")")
        other = paint_of(fallback, current) if fallback.strip() else None
        return Paint(other.colour if other else "", server=inside.strip("\"' ").removeprefix("#"))
    if text.lower() == "none":
        return None
    colour = parse_color(text)
    if colour == "currentcolor":
        colour = parse_color(current)
    if colour is None or isinstance(colour, str):
        raise ValueError(f"“{text[:40]}” is no colour Halvex can read")
    try:
        red, green, blue = colour.to("srgb").coordinates
    except NotImplementedError:
        raise ValueError(f"“{text[:40]}” is no colour Halvex can read") from None
    return Paint(
        "#" + "".join(f"{round(min(max(v or 0.0, 0.0), 1.0) * 255):02x}" for v in (red, green, blue)),
        float(colour.alpha),
    )


def share_of(text: str) -> float:
    """An opacity. Raises ValueError."""
    value = float(text[:-1]) / 100 if text.endswith("%") else float(text)
    return min(max(value, 0.0), 1.0)
