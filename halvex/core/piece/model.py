"""The piece: the whole document, as one immutable value.

Conventions: lengths in px of the canvas, x right, y up, z towards the viewer; the face plane is
z = 0 and the canvas centre is the origin; angles in degrees; colours as sRGB `#rrggbb`.
Everything is a few numbers; nothing derived is ever stored.
"""

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field, model_validator

from halvex.core.piece.fields import number

FORMAT_VERSION: Literal[1] = 1

# 32 768 px is what a 2.5 m banner has at 333 ppi; past it a picture no longer opens elsewhere.
LONGEST_CANVAS_SIDE_PX = 32_768
LARGEST_CANVAS_PX = 200_000_000
MOST_LETTERS = 2_000
MOST_BLOCKS = 64
MOST_LAMPS = 32
# A body larger than this is past what single precision can hold to a hundredth of a px.
LONGEST_LENGTH_PX = 100_000.0


class Part(BaseModel):
    """Base of every part of the document: unknown names and non-finite numbers are refused."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)


def _check_ident(value: str) -> str:
    if not value or len(value) > 40 or not value.replace("-", "").isalnum() or not value.isascii():
        raise ValueError("an id has 1 to 40 letters, digits or dashes")
    return value


Ident = Annotated[str, AfterValidator(_check_ident)]
Colour = Annotated[
    str,
    BeforeValidator(lambda value: value.strip().lower() if isinstance(value, str) else value),
    Field(pattern=r"^#[0-9a-f]{6}$", description="sRGB colour as #rrggbb"),
]


class Canvas(Part):
    """The picture's size in px, the resolution it is printed at, and the unit it is spoken of in."""

    width: int = number(1280, label="Width", unit="px", comfort=(100, 4000), ge=16, le=LONGEST_CANVAS_SIDE_PX)
    height: int = number(720, label="Height", unit="px", comfort=(100, 4000), ge=16, le=LONGEST_CANVAS_SIDE_PX)
    ppi: float = number(96, label="Resolution", unit="ppi", comfort=(72, 600), ge=1, le=10_000)
    unit: Literal["px", "mm", "in", "pt"] = "px"

    @model_validator(mode="after")
    def _check_area(self) -> "Canvas":
        if self.width * self.height > LARGEST_CANVAS_PX:
            raise ValueError(f"width × height may be {LARGEST_CANVAS_PX // 10**6} megapixels at most; make one side smaller")
        return self


class Bevel(Part):
    """The edge between face and return: `width` inwards from the outline, `height` along the depth."""

    profile: Literal["chamfer", "ovolo"] = "chamfer"
    width: float = number(8, label="Bevel width", unit="px", comfort=(0, 40), step=1, ge=0, le=LONGEST_LENGTH_PX)
    height: float = number(8, label="Bevel height", unit="px", comfort=(0, 40), step=1, ge=0, le=LONGEST_LENGTH_PX)
    front: bool = True
    back: bool = False


class Form(Part):
    depth: float = number(60, label="Depth", unit="px", comfort=(0, 200), step=2, gt=0, le=LONGEST_LENGTH_PX)
    bevel: Bevel = Bevel()


class Metal(Part):
    kind: Literal["metal"] = "metal"
    metal: Literal["gold", "silver", "copper", "aluminium", "chromium"] = "gold"
    roughness: float = number(0.2, label="Roughness", comfort=(0, 1), step=0.02, ge=0, le=1)


class Plastic(Part):
    kind: Literal["plastic"] = "plastic"
    colour: Colour = "#c8402f"
    roughness: float = number(0.15, label="Roughness", comfort=(0, 1), step=0.02, ge=0, le=1)


class Glass(Part):
    kind: Literal["glass"] = "glass"
    index: float = number(1.5, label="Index", comfort=(1.3, 2.0), step=0.02, gt=1, le=4)
    tint: Colour = "#d8efe6"
    tint_depth: float = number(100, label="Tint depth", unit="px", comfort=(10, 400), step=5, gt=0, le=LONGEST_LENGTH_PX)
    roughness: float = number(0.0, label="Roughness", comfort=(0, 1), step=0.02, ge=0, le=1)


Material = Annotated[Metal | Plastic | Glass, Field(discriminator="kind")]


class Surface(Part):
    """A material for each part; a part left out follows its neighbour (bevel: face, return: bevel, back: return)."""

    face: Material = Metal()
    bevel: Material | None = None
    return_: Material | None = Field(None, alias="return")
    back: Material | None = None

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False, populate_by_name=True)


class Place(Part):
    """Where a block stands, from the canvas centre."""

    x: float = number(0, label="Across", unit="px", comfort=(-600, 600), ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX)
    y: float = number(0, label="Up", unit="px", comfort=(-400, 400), ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX)
    z: float = number(0, label="Forward", unit="px", comfort=(-200, 200), ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX)


def _check_words(value: str) -> str:
    words = value.replace("\r\n", "\n").replace("\r", "\n")
    if len(words) > MOST_LETTERS:
        raise ValueError(f"a block holds {MOST_LETTERS} characters at most; divide the words into several blocks")
    if any(ord(c) < 32 and c != "\n" for c in words) or any(0xD800 <= ord(c) <= 0xDFFF for c in words):
        raise ValueError("the words hold control characters; retype them as plain text")
    return words


class Lettering(Part):
    id: Ident = "lettering"
    kind: Literal["lettering"] = "lettering"
    words: Annotated[str, AfterValidator(_check_words)] = "Port Sorrel"
    typeface: Ident = "alfa-slab-one"
    axes: dict[Annotated[str, Field(pattern=r"^[A-Za-z0-9]{4}$")], float] = Field(default_factory=dict, max_length=16)
    size: float = number(200, label="Size", unit="px", comfort=(20, 500), step=2, gt=0.5, le=20_000)
    tracking: float = number(0, label="Tracking", unit="/1000 em", comfort=(-100, 300), step=5, ge=-2000, le=20_000)
    leading: float = number(1.0, label="Leading", unit="×", comfort=(0.6, 2), step=0.02, ge=-20, le=20)
    align: Literal["left", "centre", "right"] = "centre"
    place: Place = Place()
    form: Form = Form()
    surface: Surface = Surface()


class Turn(Part):
    """Exact turns of the lettering about its own middle: first z, then y, then x (right-handed)."""

    x: float = number(0, label="Turn x", unit="°", comfort=(-90, 90), ge=-3600, le=3600)
    y: float = number(0, label="Turn y", unit="°", comfort=(-90, 90), ge=-3600, le=3600)
    z: float = number(0, label="Turn z", unit="°", comfort=(-180, 180), ge=-3600, le=3600)


class View(Part):
    """Camera and turn. The focal length is of a 36 × 24 mm frame; the face keeps its scale when it changes."""

    turn: Turn = Turn()
    projection: Literal["central", "parallel"] = "central"
    focal_length: float = number(50, label="Focal length", unit="mm", comfort=(18, 200), ge=4, le=5000)


class Lamp(Part):
    """One lamp. Strength 0 means: it alone lights a white card at the origin that faces it to full white."""

    id: Ident = "key"
    name: str = Field("key", max_length=60)
    kind: Literal["round", "softbox", "sun"] = "softbox"
    bearing: float = number(120, label="Bearing", unit="°", comfort=(0, 360), step=5, ge=-3600, le=3600)
    elevation: float = number(40, label="Elevation", unit="°", comfort=(0, 90), step=5, ge=-90, le=90)
    distance: float = number(1500, label="Distance", unit="px", comfort=(300, 4000), step=50, gt=1, le=LONGEST_LENGTH_PX)
    width: float = number(500, label="Width", unit="px", comfort=(20, 2000), step=20, gt=0.5, le=LONGEST_LENGTH_PX)
    height: float = number(500, label="Height", unit="px", comfort=(20, 2000), step=20, gt=0.5, le=LONGEST_LENGTH_PX)
    angular_size: float = number(0.53, label="Angular size", unit="°", comfort=(0.2, 20), step=0.5, ge=0.05, le=120)
    strength: float = number(0, label="Strength", unit="stops", comfort=(-5, 5), step=0.5, ge=-30, le=30)
    kelvin: float = number(5500, label="Colour", unit="K", comfort=(2000, 10000), step=100, ge=1000, le=25_000)
    on: bool = True


class Surround(Part):
    kind: Literal["studio", "plain"] = "studio"
    strength: float = number(-1, label="Strength", unit="stops", comfort=(-6, 4), step=0.5, ge=-30, le=30)


class Light(Part):
    lamps: tuple[Lamp, ...] = Field((Lamp(),), max_length=MOST_LAMPS)
    surround: Surround = Surround()
    exposure: float = number(0, label="Exposure", unit="stops", comfort=(-4, 4), step=0.25, ge=-30, le=30)

    @model_validator(mode="after")
    def _check_ids(self) -> "Light":
        if len({lamp.id for lamp in self.lamps}) != len(self.lamps):
            raise ValueError("two lamps have the same id; give each its own")
        return self


class Backdrop(Part):
    """What stands behind: a colour, and a ground painted with it.

    `wall` is parallel to the faces, turns with them and touches their backs; `floor` is a level
    floor under the letters that sweeps up into a wall behind them (a photographer's cove).
    """

    colour: Colour = "#24424a"
    ground: Literal["none", "wall", "floor"] = "wall"
    gap: float = number(0, label="Gap", unit="px", comfort=(0, 200), ge=0, le=LONGEST_LENGTH_PX)


class Piece(Part):
    """The document. `halvex schema` prints this as JSON Schema."""

    format: Literal["halvex-piece"] = "halvex-piece"
    version: Literal[1] = FORMAT_VERSION
    name: str = Field("Untitled", min_length=1, max_length=120)
    canvas: Canvas = Canvas()
    blocks: tuple[Lettering, ...] = Field((Lettering(),), min_length=1, max_length=MOST_BLOCKS)
    view: View = View()
    light: Light = Light()
    backdrop: Backdrop = Backdrop()

    @model_validator(mode="after")
    def _check_ids(self) -> "Piece":
        if len({block.id for block in self.blocks}) != len(self.blocks):
            raise ValueError("two blocks have the same id; give each its own")
        return self


def to_json(piece: Piece) -> dict[str, Any]:
    """The piece as plain JSON values, with every number written out."""
    return piece.model_dump(mode="json", by_alias=True)


def json_schema() -> dict[str, Any]:
    """The piece format as JSON Schema (draft 2020-12)."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **Piece.model_json_schema(by_alias=True)}
