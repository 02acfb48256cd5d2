"""SVG files: reading them into the parts of a mark."""

from halvex.core.lettering.svg.centring import ReadMark
from halvex.core.lettering.svg.reader import LARGEST_SVG_BYTES, PATTERN_NAME, read_svg

__all__ = ["LARGEST_SVG_BYTES", "PATTERN_NAME", "ReadMark", "read_svg"]
