"""Numbers that differ from place to place, by the tones of layers.

To let a number vary: give it a model here, its ends with their limits, and the type that is either.
"""

from typing import Annotated

from pydantic import Discriminator, Field, Tag

from halvex.core.piece.fields import number
from halvex.core.piece.gradient import Gradient, Stop
from halvex.core.piece.part import LONGEST_LENGTH_PX, SHORTEST_LENGTH_PX, Part
from halvex.core.piece.source import Layers

VARIED = "varied"
GREYS = Gradient(mix="srgb", stops=(Stop(at=0, colour="#000000"), Stop(at=100, colour="#ffffff")))


class Varied(Part):
    """A number that is `dark` where its layers are black, or nothing, and `light` where they are white. Tones
    are those of a picture: #808080 is half-way."""

    dark: float
    light: float
    layers: Layers = (GREYS,)


def _kind_of_number(value: object) -> str:
    return VARIED if isinstance(value, dict | Varied) else "number"


_NUMBER = Tag("number")
_VARIED = Tag(VARIED)
_EITHER = Discriminator(_kind_of_number)


class VariedRoughness(Varied):
    dark: float = number(0.05, label="Where dark", comfort=(0, 1), step=0.02, ge=0, le=1)
    light: float = number(0.6, label="Where light", comfort=(0, 1), step=0.02, ge=0, le=1)


class VariedRelief(Varied):
    dark: float = number(0, label="Where dark", comfort=(0, 1), step=0.05, ge=0, le=10)
    light: float = number(1, label="Where light", comfort=(0, 1), step=0.05, ge=0, le=10)


class VariedBearing(Varied):
    dark: float = number(0, label="Where dark", unit="°", comfort=(0, 360), step=5, ge=-3600, le=3600)
    light: float = number(360, label="Where light", unit="°", comfort=(0, 360), step=5, ge=-3600, le=3600)


class VariedDepth(Varied):
    dark: float = number(
        400,
        label="Where dark",
        unit="px",
        comfort=(10, 400),
        step=5,
        ge=SHORTEST_LENGTH_PX,
        le=LONGEST_LENGTH_PX,
    )
    light: float = number(
        40,
        label="Where light",
        unit="px",
        comfort=(10, 400),
        step=5,
        ge=SHORTEST_LENGTH_PX,
        le=LONGEST_LENGTH_PX,
    )


class VariedStrength(Varied):
    dark: float = number(-4, label="Where dark", unit="stops", comfort=(-4, 6), step=0.5, ge=-30, le=30)
    light: float = number(3, label="Where light", unit="stops", comfort=(-4, 6), step=0.5, ge=-30, le=30)


Roughness = Annotated[
    Annotated[float, Field(ge=0, le=1), _NUMBER] | Annotated[VariedRoughness, _VARIED], _EITHER
]
Relief = Annotated[Annotated[float, Field(ge=0, le=10), _NUMBER] | Annotated[VariedRelief, _VARIED], _EITHER]
Bearing = Annotated[
    Annotated[float, Field(ge=-3600, le=3600), _NUMBER] | Annotated[VariedBearing, _VARIED], _EITHER
]
Depth = Annotated[
    Annotated[float, Field(gt=0, le=LONGEST_LENGTH_PX), _NUMBER] | Annotated[VariedDepth, _VARIED], _EITHER
]
Strength = Annotated[
    Annotated[float, Field(ge=-30, le=30), _NUMBER] | Annotated[VariedStrength, _VARIED], _EITHER
]


def ends_of(value: float | Varied) -> tuple[float, float]:
    """(what a number is where its layers are dark, where they are light)."""
    return (value.dark, value.light) if isinstance(value, Varied) else (value, value)
