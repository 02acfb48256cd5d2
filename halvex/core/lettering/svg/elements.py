"""Elements of an SVG file: what they are, and what they refer to."""

from collections.abc import Mapping
from xml.etree.ElementTree import Element

SVG = "http://www.w3.org/2000/svg"
# Paint servers take what they lack from others, so deep at most.
_DEEPEST = 16
_LINK = "{http://www.w3.org/1999/xlink}href"


def tag_of(element: Element) -> str:
    """The local name of an SVG element; empty for those of other vocabularies."""
    name = element.tag if isinstance(element.tag, str) else ""
    space, _, local = name.rpartition("}")
    return local if space in ("", "{" + SVG) else ""


def linked_id(element: Element) -> str:
    """The id of the element of the same file that one refers to; empty where it refers to none."""
    link = element.get("href") or element.get(_LINK) or ""
    return link[1:] if link.startswith("#") else ""


def chain_of(element: Element, named: Mapping[str | None, Element], kind: str) -> list[Element]:
    """A paint server and those that it takes what it lacks from, whose tags all end with `kind`."""
    chain = [element]
    while len(chain) < _DEEPEST:
        link = linked_id(chain[-1])
        further = named.get(link) if link else None
        if further is None or further in chain or not tag_of(further).endswith(kind):
            break
        chain.append(further)
    return chain


def first_of(chain: list[Element], name: str, default: str) -> str:
    """An attribute of the first element that has it."""
    return next((element.get(name, "") for element in chain if element.get(name)), default)
