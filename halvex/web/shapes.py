"""What the API says and takes, as models: the OpenAPI document and the front end's types come from these."""

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from halvex.core.piece.backdrop import Backdrop
from halvex.core.piece.effects import AnyEffect
from halvex.core.piece.fields import Kind
from halvex.core.piece.light import AnySurround, SetupName
from halvex.core.piece.material import Material
from halvex.core.piece.model import Canvas, Piece
from halvex.core.piece.paints import NamedPaint
from halvex.core.piece.view import View
from halvex.studio.edits import Edit


class PieceEntry(BaseModel):
    id: str
    name: str
    updated: float


class PieceList(BaseModel):
    pieces: list[PieceEntry]
    deleted: list[PieceEntry]


class SummaryRun(BaseModel):
    text: str
    strong: bool


class SectionPiece(BaseModel):
    part: str
    outline: list[tuple[float, float]]


class SectionDrawing(BaseModel):
    """A cut through one stroke: its mark, letter and width, where it lies on the face and its
    direction across; a point on each part."""

    mark: str
    letter: str
    stroke: float
    x: float
    y: float
    across: tuple[float, float]
    pieces: list[SectionPiece]
    points: dict[str, tuple[float, float]]


class PartState(BaseModel):
    """What a part is made of; without a material of its `own` it is as the part it `follows`. The
    rear of layered glass has none to name."""

    part: str
    follows: str | None
    own: bool
    name: str
    material: Material | None


class LetterPlace(BaseModel):
    """A letter by the number of its character, what it is and what it starts; its ink's left, bottom, right
    and top in px about the block's place, where it has any; and the letter whose kern parts it from its
    neighbour at the left."""

    letter: int
    text: str
    starts: Literal["", "word", "line"]
    box: tuple[float, float, float, float] | None
    kerned: int | None


class Guide(BaseModel):
    """A line over the canvas, px from its middle."""

    family: str
    way: Literal["level", "upright"]
    at: float


# A 3 × 3 matrix, row by row.
Homography = tuple[float, float, float, float, float, float, float, float, float]


class GradientLine(BaseModel):
    """Where a linear gradient of a part begins and ends, in px of the block's face; of other gradients and of
    pictures, which are `centred`, their middle and how far they reach. `path` is its pointer."""

    path: str
    part: str
    of: Literal["gradient", "picture"]
    centred: bool
    ends: tuple[tuple[float, float], tuple[float, float]]


class BlockDrawing(BaseModel):
    """`plane` is the homography from the block's face plane to the canvas, row by row, `ground`
    that from the plane of all lettering at its height; `box` is its ink about its place, `span` as
    it stands on the canvas, from the canvas' middle; both are null where it cannot be set.
    `outline` is a guide's rings, each as x, y, x, y, … about its place. `profile` is its bevel's
    curve in shares; `unit` are the numbers of all blocks that move with it, its own among them.
    """

    plane: Homography
    ground: Homography
    box: tuple[float, float, float, float] | None
    span: tuple[float, float, float, float] | None
    letters: list[LetterPlace]
    outline: list[list[float]]
    profile: list[tuple[float, float]]
    sections: list[SectionDrawing]
    gradients: list[GradientLine]
    parts: list[PartState]
    unit: list[int]


class BackdropDrawing(BaseModel):
    """What can be moved on the stage of the backdrop: `plane` leads from px about the canvas' middle, y up,
    to the canvas, `box` is the canvas in them; over it lie `gradients` and `meshes`, by their pointers, and
    the `washes` of Finish."""

    plane: Homography
    box: tuple[float, float, float, float]
    gradients: list[GradientLine]
    washes: list[GradientLine]
    meshes: list[str]


class TargetEntry(BaseModel):
    """What an effect can work on, and what that is called."""

    target: str
    name: str


class SightLine(BaseModel):
    distance: float
    angle: float
    width: float
    height: float
    projection: str
    turn: tuple[float, float, float]
    eye: tuple[float, float]
    shift: tuple[float, float]
    zoom: float
    focus: float
    blur: float
    canvas: list[float]


class LampPlace(BaseModel):
    """A lamp in the world, px: its aim, its centre and its half-extents."""

    id: str
    kind: str
    on: bool
    aim: tuple[float, float, float]
    centre: tuple[float, float, float]
    across: tuple[float, float, float]
    up: tuple[float, float, float]


class AdviceAct(BaseModel):
    label: str
    edits: list[Edit]


class Advice(BaseModel):
    """What there is to say of a block, or of the piece (None), the one act that helps, and the letters it is
    about."""

    station: str
    block: int | None
    text: str
    act: AdviceAct | None
    letters: list[int] = []


class Drawings(BaseModel):
    """`px_per_unit` is how many px the canvas' unit has; `curves` are those of tones by the place of their
    effect, nothing for others."""

    blocks: list[BlockDrawing]
    backdrop: BackdropDrawing
    targets: list[TargetEntry]
    curves: list[list[tuple[float, float]]]
    view: SightLine
    lamps: list[LampPlace]
    guides: list[Guide]
    px_per_unit: float
    advice: list[Advice]


class PieceState(BaseModel):
    """A piece as it stands, with its history's neighbours, its recipe line and its drawings."""

    type: Literal["state"] = "state"
    id: str
    revision: int
    seq: int = 0
    document: Piece
    undo: str | None
    redo: str | None
    recipe: dict[str, list[list[SummaryRun]]]
    placement: str | None
    drawings: Drawings


class HistoryEntry(BaseModel):
    """A state of a piece: the edit that led to it, in words; `kept` tells states on the way to or
    from the present one."""

    id: int
    parent: int | None
    label: str
    created: float
    present: bool
    kept: bool


class HistoryList(BaseModel):
    """States of a piece, the newest first."""

    entries: list[HistoryEntry]


class EditRequest(BaseModel):
    """Edits that count together or not at all. Edits with the same gesture are one step of history."""

    model_config = ConfigDict(extra="forbid")

    edits: list[Edit] = Field(min_length=1, max_length=200)
    gesture: str | None = Field(None, max_length=60)


class NewPiece(BaseModel):
    """A new piece: from a whole document, or from the default one."""

    model_config = ConfigDict(extra="forbid")

    document: dict[str, Any] | None = None


class FieldInfo(BaseModel):
    """A numeric field: what the number field needs to know."""

    label: str
    unit: str
    comfort: tuple[float, float]
    step: float
    default: float | None


class Condition(BaseModel):
    """A field has a meaning where another of its model has one of these values; null: any value but none
    and 0."""

    field: str
    values: list[Any] | None


class PlainField(BaseModel):
    """A field as a panel shows it: its conditions, all of which must hold; the options of a choice; the group
    that it is folded away with; the model of a number that differs from place to place."""

    name: str
    kind: Kind
    label: str
    group: str
    when: list[Condition]
    options: list[str]
    varies: str


class AxisEntry(BaseModel):
    tag: str
    name: str
    minimum: float
    default: float
    maximum: float


class FeatureEntry(BaseModel):
    """An OpenType feature that is a choice, and whether it is on unless turned off."""

    tag: str
    name: str
    default: bool


class TypefaceEntry(BaseModel):
    """A typeface; `heaviness` is its stem to the height of its capitals, as drawn at its default axes."""

    id: str
    name: str
    kind: str
    heaviness: float
    axes: list[AxisEntry]
    features: list[FeatureEntry]


class DamagedTypeface(BaseModel):
    """A typeface that is kept but can no longer be read, and why."""

    id: str
    name: str
    text: str


class SpecimenFit(BaseModel):
    """A block's words in a typeface: the thinnest stem in px, its letter, what is too thin for the
    form ("": nothing) and the stem that the form would want."""

    stem: float
    letter: str
    text: str
    wanted: float


class KernEntry(BaseModel):
    """The kerning proposed after a letter, in 1/1000 em, and what it is now."""

    letter: int
    pair: str
    now: float
    proposed: float


class Evening(BaseModel):
    """Kerning that evens the spaces of a lettering, as a proposal, and the edits that take it."""

    kerns: list[KernEntry]
    edits: list[Edit]


class KeptTypefaces(BaseModel):
    """Ids of typefaces that were just kept, and all that there are now."""

    ids: list[str]
    typefaces: list[TypefaceEntry]


class PlacementEntry(BaseModel):
    """A named projection: its family, and the view that it is, framing aside."""

    name: str
    family: Literal["isometric", "dimetric", "oblique"]
    view: View


class Moulding(BaseModel):
    """A bevel profile as a drawn curve, in shares of width and height."""

    name: str
    points: list[tuple[float, float]]


class CouponEntry(BaseModel):
    """A sample of a material, by name."""

    name: str
    family: str
    material: Material


class CouponOrder(BaseModel):
    """A sample of one material, under the piece's own lamps."""

    model_config = ConfigDict(extra="forbid")

    material: Material


class SurroundOrder(BaseModel):
    """Surroundings to look at, and the paints that their colours may refer to."""

    model_config = ConfigDict(extra="forbid")

    surround: AnySurround
    paints: tuple[NamedPaint, ...] = ()


class PanoramaList(BaseModel):
    """Names of the panoramas there are."""

    names: list[str]


class PictureEntry(BaseModel):
    """A picture that may be laid over a surface, by what pieces call it, and its name."""

    id: str
    name: str


class PictureList(BaseModel):
    """The pictures there are, one's own first."""

    pictures: list[PictureEntry]


class CanvasEntry(BaseModel):
    """A canvas of the trade by its name."""

    name: str
    family: str
    canvas: Canvas


class UsualEffectEntry(BaseModel):
    """An effect as it is often set, by its name."""

    name: str
    effect: AnyEffect = Field(discriminator="kind")


class UsualBackdropEntry(BaseModel):
    """A backdrop as it is often set, by name."""

    name: str
    backdrop: Backdrop


class SetupEntry(BaseModel):
    """A lighting setup by its name, and what it does."""

    name: SetupName
    says: str


class Opening(BaseModel):
    """How far Halvex is on its way to its first draft, as a share, and about how many seconds are left."""

    share: float
    seconds: float


class Workshop(BaseModel):
    """What the screen offers: typefaces, every kind of material as it starts, coupons, mouldings, named
    placements, effects and backdrops as they are often set, what a ground can be made of (kinds) and what
    its layers can be laid over; all numeric fields by `Model.name`, and the fields of each
    model in their order."""

    typefaces: list[TypefaceEntry]
    damaged: list[DamagedTypeface]
    materials: list[Material]
    coupons: list[CouponEntry]
    mouldings: list[Moulding]
    placements: list[PlacementEntry]
    canvases: list[CanvasEntry]
    setups: list[SetupEntry]
    usual_effects: list[UsualEffectEntry]
    usual_backdrops: list[UsualBackdropEntry]
    ground_materials: list[str]
    ground_spans: list[str]
    fields: dict[str, FieldInfo]
    models: dict[str, list[PlainField]]


class ExportState(BaseModel):
    id: str
    status: Literal["waiting", "rendering", "done", "failed", "cancelled"]
    share: float
    message: str
    format: str
