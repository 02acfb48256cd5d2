"""Light: lamps by bearing and elevation, surroundings, exposure."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from halvex.core.piece.fields import When, number, plain
from halvex.core.piece.part import LONGEST_LENGTH_PX, Colour, Ident, Part

MOST_LAMPS = 32
MOST_CARDS = 16
# Lamps that stand somewhere; the sun only has a direction.
PLACED: When = {"kind": ("round", "softbox", "strip", "bulb")}


class Aim(Part):
    """The point a lamp looks at and is measured from, in px from the canvas centre."""

    x: float = number(
        0,
        label="Aim across",
        unit="px",
        comfort=(-600, 600),
        step=10,
        ge=-LONGEST_LENGTH_PX,
        le=LONGEST_LENGTH_PX,
    )
    y: float = number(
        0,
        label="Aim up",
        unit="px",
        comfort=(-400, 400),
        step=10,
        ge=-LONGEST_LENGTH_PX,
        le=LONGEST_LENGTH_PX,
    )
    z: float = number(
        0,
        label="Aim forward",
        unit="px",
        comfort=(-200, 200),
        step=10,
        ge=-LONGEST_LENGTH_PX,
        le=LONGEST_LENGTH_PX,
    )


class Lamp(Part):
    """One lamp. Strength 0 means: it alone lights a white card at its aim that faces it to full white.

    `width` is a round softbox's and a bulb's diameter. Fixed to the lettering, bearing and elevation
    turn with the letters. Out of reflections, a lamp gives matte light only: no highlight, no mirror image.
    """

    id: Ident = "key"
    name: str = Field("key", max_length=60, title="Name", json_schema_extra={"group": "aim"})
    kind: Literal["round", "softbox", "strip", "bulb", "sun"] = "softbox"
    bearing: float = number(120, label="Bearing", unit="°", comfort=(0, 360), step=5, ge=-3600, le=3600)
    elevation: float = number(40, label="Elevation", unit="°", comfort=(0, 90), step=5, ge=-90, le=90)
    strength: float = number(0, label="Strength", unit="stops", comfort=(-5, 5), step=0.5, ge=-30, le=30)
    kelvin: float = number(
        5500,
        label="Colour",
        unit="K",
        comfort=(2000, 10000),
        step=100,
        ge=1000,
        le=25_000,
        when={"colour": (None,)},
    )
    # A picked colour in place of the temperature.
    colour: Colour | None = plain(None, label="Colour", when={"colour": ...})
    distance: float = number(
        1500,
        label="Distance",
        unit="px",
        comfort=(300, 4000),
        step=50,
        gt=1,
        le=LONGEST_LENGTH_PX,
        when=PLACED,
    )
    aim: Aim = Aim()
    width: float = number(
        500,
        label="Width",
        unit="px",
        comfort=(20, 2000),
        step=20,
        gt=0.5,
        le=LONGEST_LENGTH_PX,
        when=PLACED,
    )
    height: float = number(
        500,
        label="Height",
        unit="px",
        comfort=(20, 2000),
        step=20,
        gt=0.5,
        le=LONGEST_LENGTH_PX,
        when={"kind": ("softbox", "strip")},
    )
    roll: float = number(
        0,
        label="Roll",
        unit="°",
        comfort=(-90, 90),
        step=5,
        ge=-3600,
        le=3600,
        when={"kind": ("round", "softbox", "strip")},
        group="aim",
    )
    angular_size: float = number(
        0.53,
        label="Angular size",
        unit="°",
        comfort=(0.2, 20),
        step=0.5,
        ge=0.05,
        le=120,
        when={"kind": ("sun",)},
    )
    fixed_to: Literal["viewer", "lettering"] = plain("viewer", label="Fixed to", group="aim")
    in_reflections: bool = plain(True, label="in reflections", group="aim")
    on: bool = plain(True, label="on", group="aim")

    @model_validator(mode="after")
    def _check_size(self) -> "Lamp":
        if self.kind == "bulb" and self.width >= 2 * self.distance:
            raise ValueError(
                "the bulb is so wide that it holds its own aim; make its width less than twice its distance"
            )
        return self


class Card(Part):
    """A bright card of a studio, where lamps of this bearing and elevation would stand; its size in
    degrees, turned by `roll` counter-clockwise as it is seen from the letters' place."""

    bearing: float = number(90, label="Card bearing", unit="°", comfort=(0, 360), step=5, ge=-3600, le=3600)
    elevation: float = number(30, label="Card elevation", unit="°", comfort=(-90, 90), step=5, ge=-90, le=90)
    width: float = number(60, label="Card width", unit="°", comfort=(2, 160), step=5, gt=0, le=360)
    height: float = number(20, label="Card height", unit="°", comfort=(2, 160), step=5, gt=0, le=180)
    softness: float = number(10, label="Card softness", unit="°", comfort=(0, 40), step=2, ge=0, le=180)
    roll: float = number(0, label="Card roll", unit="°", comfort=(-90, 90), step=5, ge=-3600, le=3600)
    kelvin: float = number(
        5500, label="Card colour", unit="K", comfort=(2000, 10000), step=100, ge=1000, le=25_000
    )
    strength: float = number(1, label="Card strength", unit="stops", comfort=(-4, 4), step=0.5, ge=-30, le=30)


# A large card above, a strip at either side.
STUDIO_CARDS = (
    Card(bearing=90, elevation=28, width=150, height=34, softness=12, strength=1),
    Card(bearing=170, elevation=22, width=18, height=80, softness=10, strength=0.5),
    Card(bearing=10, elevation=18, width=14, height=70, softness=10, strength=0),
)


class _Surround(Part):
    strength: float = number(-1, label="Strength", unit="stops", comfort=(-6, 4), step=0.5, ge=-30, le=30)
    turn: float = number(0, label="Turn", unit="°", comfort=(-180, 180), step=5, ge=-3600, le=3600)


class Studio(_Surround):
    """A dim room, brighter overhead, with cards."""

    kind: Literal["studio"] = "studio"
    gradient: float = number(
        2.5, label="Floor to ceiling", unit="stops", comfort=(0, 5), step=0.5, ge=0, le=20
    )
    cards: Annotated[tuple[Card, ...], Field(max_length=MOST_CARDS)] = STUDIO_CARDS


class Dusk(_Surround):
    """The sky after sunset over dark land: a warm band where the sun went down."""

    kind: Literal["dusk"] = "dusk"
    sunset: float = number(60, label="Sunset bearing", unit="°", comfort=(0, 360), step=5, ge=-3600, le=3600)
    warmth: float = number(50, label="Warmth", unit="%", comfort=(0, 100), step=5, ge=0, le=100)


class Plain(_Surround):
    """The same light from everywhere."""

    kind: Literal["plain"] = "plain"
    colour: Colour = plain("#ffffff", label="Colour")


class Horizon(_Surround):
    """Dark, light, a hard break, dark, light: the bands that chrome shows. The break stands at an
    angle over the level."""

    kind: Literal["horizon"] = "horizon"
    height: float = number(0, label="Break height", unit="°", comfort=(-45, 45), step=2, ge=-89, le=89)
    softness: float = number(2, label="Break softness", unit="°", comfort=(0, 30), step=1, ge=0, le=90)
    sky: Colour = plain("#2e5d8c", label="Sky")
    ground: Colour = plain("#4a3020", label="Ground")
    contrast: float = number(4, label="Contrast", unit="stops", comfort=(0, 7), step=0.5, ge=0, le=20)


class Panorama(_Surround):
    """A picture of all directions, latitude-longitude: one that ships, or one's own by the name it
    was stored under."""

    kind: Literal["panorama"] = "panorama"
    picture: str = Field("quayside", pattern=r"^[a-z0-9-]{1,80}$")


AnySurround = Annotated[Studio | Dusk | Plain | Horizon | Panorama, Field(discriminator="kind")]


SetupName = Literal[
    "graded face",
    "softbox and fill",
    "raking light",
    "dark field",
    "dark room",
    "copy stand",
    "window",
    "hard break",
    "low sun",
    "strip pair",
    "overcast",
    "top light",
    "bright field",
]


class FittedSetup(Part):
    """The setup that lamps and surroundings came from. While it `follows`, they are fitted anew whenever the
    view, the words or the materials change; a lamp that is changed by hand ends that."""

    name: SetupName
    follows: bool = True


class Light(Part):
    """Lamps, surroundings, and how bright light is shown."""

    setup: FittedSetup | None = None
    lamps: tuple[Lamp, ...] = Field((Lamp(),), max_length=MOST_LAMPS)
    surround: AnySurround = Studio()
    exposure: float = number(0, label="Exposure", unit="stops", comfort=(-4, 4), step=0.25, ge=-30, le=30)
    tone: Literal["neutral", "rich", "plain"] = plain("neutral", label="Tone curve")

    @model_validator(mode="after")
    def _check_ids(self) -> "Light":
        if len({lamp.id for lamp in self.lamps}) != len(self.lamps):
            raise ValueError("two lamps have the same id; give each its own")
        return self
