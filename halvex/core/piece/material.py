"""Materials: what each part of a body is made of, as a few numbers.

Every kind is one class; `optics` turns them into what the renderer reads. Roughness is that of the
trade's sample cards: 0 a mirror, 1 dead matt.
"""

from typing import Annotated, Any, Literal

from pydantic import ConfigDict, Field

from halvex.core.piece.coat import Coat
from halvex.core.piece.embossing import Embossing
from halvex.core.piece.fields import When, number, plain
from halvex.core.piece.part import LONGEST_LENGTH_PX, MOST_SEED, SHORTEST_LENGTH_PX, Part
from halvex.core.piece.source import ColourSource
from halvex.core.piece.varying import Bearing, Depth, Relief, Roughness, Strength

# What makes sense only where an inner layer is not one plain colour.
PATTERNED: When = {"pattern": ("stripes", "dots", "checks")}


def _roughness(default: float) -> Any:
    return number(default, label="Roughness", comfort=(0, 1), step=0.02, varies="VariedRoughness")


def _seed() -> Any:
    return number(1, label="Seed", comfort=(1, 100), ge=0, le=MOST_SEED)


def _relief(default: float) -> Any:
    return number(default, label="Relief", comfort=(0, 1), step=0.05, varies="VariedRelief")


def _grain(default: float, label: str, when: When | None = None) -> Any:
    return number(
        default,
        label=label,
        unit="px",
        comfort=(2, 200),
        step=2,
        ge=SHORTEST_LENGTH_PX,
        le=LONGEST_LENGTH_PX,
        when=when,
    )


class Metal(Part):
    """A metal by its measured indices. `brushed` draws the reflection out across the brush's direction."""

    kind: Literal["metal"] = "metal"
    metal: Literal[
        "gold",
        "silver",
        "copper",
        "brass",
        "bronze",
        "aluminium",
        "chromium",
        "nickel",
        "steel",
        "iron",
        "tungsten",
        "titanium",
    ] = "gold"
    roughness: Roughness = _roughness(0.2)
    brushed: float = number(0, label="Brushed", unit="%", comfort=(0, 100), step=5, ge=0, le=100)
    brush_bearing: Bearing = number(
        0, label="Brush bearing", unit="°", comfort=(0, 180), step=5, varies="VariedBearing"
    )
    tint: ColourSource = plain("#ffffff", label="Tint")
    coat: Coat | None = None
    embossing: Embossing | None = None


class Plastic(Part):
    """A clear coat over a coloured base; `pearl` is the share of shimmering flake in the base."""

    kind: Literal["plastic"] = "plastic"
    colour: ColourSource = plain("#c8402f", label="Colour")
    roughness: Roughness = _roughness(0.15)
    pearl: float = number(0, label="Pearl", unit="%", comfort=(0, 100), step=5, ge=0, le=100)
    pearl_colour: ColourSource = plain("#f4e9c8", label="Pearl colour", when={"pearl": ...})
    coat: Coat | None = None
    embossing: Embossing | None = None


class InnerLayer(Part):
    """A painted layer on the rear of a glass body, seen through it."""

    pattern: Literal["plain", "stripes", "dots", "checks"] = plain("plain", label="Pattern")
    colour: ColourSource = plain("#b8322a", label="Layer colour")
    second: ColourSource = plain("#f3efe4", label="Second colour", when=PATTERNED)
    size: float = _grain(24, "Pattern size", when=PATTERNED)
    bearing: float = number(
        0,
        label="Pattern bearing",
        unit="°",
        comfort=(0, 180),
        step=5,
        ge=-3600,
        le=3600,
        when=PATTERNED,
    )


class Glass(Part):
    """Glass or acrylic: `tint` is what is left of white light after `tint_depth`; an Abbe number of
    0 leaves out dispersion.

    Thin walls do not bend light: the body is hollow, a pane's thickness everywhere.
    """

    kind: Literal["glass"] = "glass"
    index: float = number(1.5, label="Index", comfort=(1.3, 2.0), step=0.02, gt=1, le=4)
    tint: ColourSource = plain("#d8efe6", label="Tint")
    tint_depth: Depth = number(
        100, label="Tint depth", unit="px", comfort=(10, 400), step=5, varies="VariedDepth"
    )
    roughness: Roughness = _roughness(0.0)
    abbe: float = number(0, label="Abbe number", comfort=(0, 90), step=5, ge=0, le=1000)
    thin: bool = plain(False, label="thin walls")
    layer: InnerLayer | None = None
    embossing: Embossing | None = None


class Paint(Part):
    """Paint, from dead matt to satin and gloss."""

    kind: Literal["paint"] = "paint"
    colour: ColourSource = plain("#2f5d62", label="Colour")
    finish: Literal["matt", "satin", "gloss"] = plain("matt", label="Finish")
    coat: Coat | None = None
    embossing: Embossing | None = None


class Stone(Part):
    """Stone with seeded colour and relief."""

    kind: Literal["stone"] = "stone"
    stone: Literal["granite", "marble", "slate", "sandstone"] = plain("granite", label="Stone")
    colour: ColourSource = plain("#8d8a86", label="Colour")
    second: ColourSource = plain("#3a3836", label="Second colour")
    grain: float = _grain(14, "Grain")
    relief: Relief = _relief(0.3)
    roughness: Roughness = _roughness(0.55)
    seed: int = _seed()
    coat: Coat | None = None
    embossing: Embossing | None = None


class Wood(Part):
    """Wood: growth rings around a trunk along the grain's bearing."""

    kind: Literal["wood"] = "wood"
    colour: ColourSource = plain("#b98a56", label="Early wood")
    second: ColourSource = plain("#7a4b26", label="Late wood")
    grain: float = _grain(18, "Ring width")
    grain_bearing: float = number(
        0, label="Grain bearing", unit="°", comfort=(0, 180), step=5, ge=-3600, le=3600
    )
    relief: Relief = _relief(0.25)
    roughness: Roughness = _roughness(0.5)
    seed: int = _seed()
    coat: Coat | None = None
    embossing: Embossing | None = None


class Plaster(Part):
    """Plaster or paper: dead matt, with the relief of a trowel or of fibres."""

    kind: Literal["plaster"] = "plaster"
    colour: ColourSource = plain("#e9e4d8", label="Colour")
    texture: Literal["plaster", "paper"] = plain("plaster", label="Texture")
    grain: float = _grain(24, "Grain")
    relief: Relief = _relief(0.5)
    seed: int = _seed()
    coat: Coat | None = None
    embossing: Embossing | None = None


class Glow(Part):
    """A part that shines, such as a neon tube, and lights what is near. At 0 stops it shows as
    bright as a white card fully lit. With a core, what it sends out comes more from its middle, as seen, and
    less from its edges: so does gas in a tube."""

    kind: Literal["glow"] = "glow"
    colour: ColourSource = plain("#ff5a36", label="Colour")
    strength: Strength = number(
        2, label="Strength", unit="stops", comfort=(-4, 6), step=0.5, varies="VariedStrength"
    )
    core: float = number(0, label="Core", unit="%", comfort=(0, 100), step=5, ge=0, le=100)


class Flat(Part):
    """A colour without shading, shown exactly as picked."""

    kind: Literal["flat"] = "flat"
    colour: ColourSource = plain("#e0b040", label="Colour")


MATERIAL_KINDS = (Metal, Plastic, Glass, Paint, Stone, Wood, Plaster, Glow, Flat)
AnyMaterial = Metal | Plastic | Glass | Paint | Stone | Wood | Plaster | Glow | Flat
Material = Annotated[AnyMaterial, Field(discriminator="kind")]


class Surface(Part):
    """A material for each part; a part without one follows its neighbour (bevel: face; return: bevel;
    back: return; plate: return; slab: plate)."""

    face: Material = Metal()
    bevel: Material | None = None
    return_: Material | None = Field(None, alias="return")
    back: Material | None = None
    plate: Material | None = None
    slab: Material | None = None

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False, populate_by_name=True)


def source_field(material: AnyMaterial) -> str:
    """The name of the field that holds a material's main colour."""
    return "tint" if isinstance(material, Metal | Glass) else "colour"
