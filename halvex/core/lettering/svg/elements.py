"""Elements of an SVG file: what they are, and what they refer to."""

from xml.etree.ElementTree import Element

SVG = "http://www.w3.org/2000/svg"
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
