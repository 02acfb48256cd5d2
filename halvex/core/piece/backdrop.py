"""The backdrop: what stands behind the letters, the ground that catches their shade, what is seen past it."""

from typing import Annotated, Any, Literal

from pydantic import Field

from halvex.core.piece.fields import When, number, plain
from halvex.core.piece.layer import percentage
from halvex.core.piece.material import Flat, Metal, Paint, Plaster, Plastic, Stone, Wood
from halvex.core.piece.part import LONGEST_LENGTH_PX, Colour, Part
from halvex.core.piece.source import ColourSource

ON_A_GROUND: When = {"ground": ("wall", "floor")}
ON_A_FLOOR: When = {"ground": ("floor",)}
# What a wall or a floor can be made of: what light neither leaves from nor goes through.
GROUND_KINDS = (Metal, Plastic, Paint, Stone, Wood, Plaster, Flat)
AnyGroundMaterial = Metal | Plastic | Paint | Stone | Wood | Plaster | Flat
GroundMaterial = Annotated[AnyGroundMaterial, Field(discriminator="kind")]
# What its layers are laid over: the canvas as the camera sees it, or the ground itself. All other spans than
# the second are of letters, and count as the first.
SPANS_ON_GROUND = ("canvas", "surface")


def _moved(label: str) -> Any:
    """How far something is moved along the ground, in px."""
    return number(
        0,
        label=label,
        unit="px",
        comfort=(-100, 100),
        step=2,
        ge=-LONGEST_LENGTH_PX,
        le=LONGEST_LENGTH_PX,
    )


class Shade(Part):
    """The shade of the letters on the ground, as the lamps make it or changed: how dark that of the lamps
    is, and that of the surroundings, which is darkest where letters touch the ground; the colour that it goes
    towards; how much softer than the lamps make it; and how far it is moved along the ground."""

    density: float = percentage(100, "Cast shade")
    contact: float = percentage(100, "Contact shade")
    tint: Colour = plain("#000000", label="Shade colour")
    softness: float = number(
        0, label="Softness added", unit="px", comfort=(0, 100), step=2, ge=0, le=LONGEST_LENGTH_PX
    )
    x: float = _moved("Shade across")
    y: float = _moved("Shade up")


class Reflection(Part):
    """The letters mirrored in the ground, besides what its own gloss mirrors: weaker the higher above it they
    are, until `fade` px."""

    strength: float = percentage(40, "Strength")
    roughness: float = number(0.1, label="Roughness", comfort=(0, 1), step=0.02, ge=0, le=1)
    fade: float = number(
        200, label="Gone above", unit="px", comfort=(20, 600), step=10, gt=1, le=LONGEST_LENGTH_PX
    )


class Backdrop(Part):
    """What stands behind.

    `wall` is parallel to the faces, turns with them and touches their backs; `floor` is a level floor under
    the letters and a wall behind them, one sweeping up into the other (a photographer's cove) or, without a
    sweep, meeting it in a corner. Either is painted in the backdrop's colour, or made of a material; `wall`
    is that of a floor's wall where it is another. Where there is no ground, the colour alone is seen.
    """

    colour: ColourSource = plain("#24424a", label="Colour")
    ground: Literal["none", "wall", "floor"] = "wall"
    gap: float = number(
        0,
        label="Gap",
        unit="px",
        comfort=(0, 200),
        ge=0,
        le=LONGEST_LENGTH_PX,
        when=ON_A_GROUND,
        group="ground",
    )
    distance: float = number(
        300,
        label="Wall behind",
        unit="%",
        comfort=(20, 600),
        step=10,
        ge=1,
        le=10_000,
        when=ON_A_FLOOR,
        group="ground",
    )
    sweep: float = number(
        150,
        label="Sweep",
        unit="%",
        comfort=(0, 300),
        step=10,
        ge=0,
        le=10_000,
        when=ON_A_FLOOR,
        group="ground",
    )
    lit: float = number(
        100,
        label="Takes the light",
        unit="%",
        comfort=(0, 100),
        step=5,
        ge=0,
        le=100,
        when=ON_A_GROUND,
        group="ground",
    )
    material: GroundMaterial | None = None
    wall: GroundMaterial | None = None
    shade: Shade = Shade()
    reflection: Reflection | None = None
