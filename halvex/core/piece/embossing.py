"""Embossing: relief pressed into a surface by the tones of layers, or by a picture of normals."""

from typing import Literal

from halvex.core.piece.fields import number, plain
from halvex.core.piece.layer import percentage
from halvex.core.piece.part import Part
from halvex.core.piece.pattern import Pattern, PatternPaint
from halvex.core.piece.source import Layers

_DOTS = Pattern(pattern="dots", paints=(PatternPaint(colour="#000000"), PatternPaint(colour="#ffffff")))


class Embossing(Part):
    """How a surface is raised: by `height` where its layers are white, not at all where they are black; or
    tilted as the colours of a picture of normals say, red to the right, green up."""

    reads: Literal["tones", "normals"] = plain("tones", label="Read as")
    height: float = number(
        6,
        label="Height",
        unit="px",
        comfort=(-20, 20),
        step=1,
        ge=-10_000,
        le=10_000,
        when={"reads": ("tones",)},
    )
    softness: float = number(
        6, label="Softness", unit="px", comfort=(0, 40), step=1, ge=0, le=10_000, when={"reads": ("tones",)}
    )
    slope: float = percentage(100, "Slope", when={"reads": ("normals",)})
    layers: Layers = (_DOTS,)
