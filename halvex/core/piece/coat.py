"""A clear coat over a material: lacquer, varnish, candy."""

from halvex.core.piece.fields import number, plain
from halvex.core.piece.part import Colour, Part


class Coat(Part):
    """A coat that lies over a material and mirrors like glass. `tint` is what is left of white light that has
    gone straight in and out through it at a thickness of 100 %; at a slant the way is longer.

    What has a gloss of its own loses it under a coat: between two layers of one index nothing is mirrored.
    """

    index: float = number(1.5, label="Index", comfort=(1.3, 2.0), step=0.02, ge=1.01, le=4)
    roughness: float = number(0.05, label="Roughness", comfort=(0, 1), step=0.02, ge=0, le=1)
    tint: Colour = plain("#ffffff", label="Tint")
    thickness: float = number(100, label="Thickness", unit="%", comfort=(0, 300), step=5, ge=0, le=10_000)
