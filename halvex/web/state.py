"""The state of a piece as the API reports it."""

from functools import lru_cache

from halvex.core.advice.heaviness import heaviness
from halvex.core.assets import Typeface
from halvex.core.lettering import LetteringError
from halvex.core.lettering.features import features_of
from halvex.core.lettering.typefaces import opened
from halvex.core.piece import Piece
from halvex.core.piece.backdrop import GROUND_KINDS, SPANS_ON_GROUND
from halvex.core.piece.canvases import CANVASES
from halvex.core.piece.fields import fields_of
from halvex.core.piece.form import Bevel
from halvex.core.piece.material import MATERIAL_KINDS
from halvex.core.piece.part import Part, all_parts
from halvex.core.piece.turning import DIMETRIC_TURN, ISOMETRIC_TURNS
from halvex.core.piece.view import Oblique, View
from halvex.core.scene.setups import SETUPS
from halvex.core.solids.profiles import PROFILES
from halvex.studio.assets import assets
from halvex.studio.coupons import COUPONS, first_of
from halvex.studio.drawings import drawings, profile_points
from halvex.studio.recipe import OBLIQUE_NAMES, placement_name, recipe
from halvex.studio.store import Revision, head_of, history, piece_of, present_line
from halvex.studio.usual_backdrops import USUAL_BACKDROPS
from halvex.studio.usual_effects import USUAL_EFFECTS
from halvex.web.shapes import (
    AxisEntry,
    CanvasEntry,
    Condition,
    CouponEntry,
    DamagedTypeface,
    Drawings,
    FeatureEntry,
    FieldInfo,
    HistoryEntry,
    HistoryList,
    Moulding,
    PieceState,
    PlacementEntry,
    PlainField,
    SetupEntry,
    SummaryRun,
    TypefaceEntry,
    UsualBackdropEntry,
    UsualEffectEntry,
    Workshop,
)


def state_of(ident: str, seq: int = 0) -> PieceState:
    head = head_of(ident)
    return state_at(ident, head, piece_of(head), seq)


def state_at(ident: str, head: Revision, piece: Piece, seq: int = 0) -> PieceState:
    """The state of a piece whose newest revision and its document are known."""
    following = Revision.get_or_none(Revision.id == head.last_child) if head.last_child else None
    plain = piece.in_colours
    lines = {
        name: [[SummaryRun(text=text, strong=strong) for text, strong in line] for line in lines]
        for name, lines in recipe(plain).items()
    }
    return PieceState(
        id=ident,
        revision=head.id,
        seq=seq,
        document=piece,
        undo=head.label if head.parent_id is not None else None,
        redo=following.label if following else None,
        recipe=lines,
        placement=placement_name(piece),
        drawings=Drawings.model_validate(drawings(plain)),
    )


def history_of(ident: str) -> HistoryList:
    """All states that are listed, and which of them undo and redo lead through."""
    head, found = head_of(ident), history(ident)
    line = present_line(head, found)
    return HistoryList(
        entries=[
            HistoryEntry(
                id=r.id,
                parent=r.parent_id,
                label=r.label,
                created=r.created,
                present=r.id == head.id,
                kept=r.id in line,
            )
            for r in found
        ]
    )


@lru_cache(maxsize=1)
def workshop() -> Workshop:
    faces, damaged = [], []
    for face in assets().typefaces.values():
        try:
            faces.append(_typeface_entry(face))
        except LetteringError as fault:
            damaged.append(DamagedTypeface(id=face.id, name=face.name, text=fault.remedy))
    mouldings = [
        Moulding(name=name, points=profile_points(Bevel.model_validate({"profile": name})))
        for name in PROFILES
    ]
    return Workshop(
        typefaces=faces,
        damaged=damaged,
        materials=[first_of(kind().kind) for kind in MATERIAL_KINDS],
        coupons=[
            CouponEntry(name=coupon.name, family=coupon.family, material=coupon.material)
            for coupon in COUPONS.values()
        ],
        mouldings=mouldings,
        placements=_placements(),
        setups=[SetupEntry(name=setup.name, says=setup.says) for setup in SETUPS.values()],
        usual_effects=[UsualEffectEntry(name=usual.name, effect=usual.effect) for usual in USUAL_EFFECTS],
        usual_backdrops=[
            UsualBackdropEntry(name=usual.name, backdrop=usual.backdrop) for usual in USUAL_BACKDROPS
        ],
        ground_materials=[kind.model_fields["kind"].default for kind in GROUND_KINDS],
        ground_spans=list(SPANS_ON_GROUND),
        canvases=[CanvasEntry(name=c.name, family=c.family, canvas=c.canvas) for c in CANVASES],
        fields=_fields(),
        models={kind.__name__: _plain_fields(kind) for kind in all_parts()},
    )


def _typeface_entry(face: Typeface) -> TypefaceEntry:
    return TypefaceEntry(
        id=face.id,
        name=face.name,
        kind=face.kind,
        heaviness=heaviness(face),
        axes=[
            AxisEntry(tag=a.tag, name=a.name, minimum=a.minimum, default=a.default, maximum=a.maximum)
            for a in opened(face)[0].axes
        ],
        features=[FeatureEntry(tag=f.tag, name=f.name, default=f.default) for f in features_of(face)],
    )


def _placements() -> list[PlacementEntry]:
    isometric = [
        PlacementEntry(name=name, family="isometric", view=View(turn=turn, projection="parallel"))
        for name, turn in ISOMETRIC_TURNS.items()
    ]
    dimetric = PlacementEntry(
        name="dimetric", family="dimetric", view=View(turn=DIMETRIC_TURN, projection="parallel")
    )
    oblique = [
        PlacementEntry(
            name=name, family="oblique", view=View(projection="oblique", oblique=Oblique(scale=scale))
        )
        for scale, name in OBLIQUE_NAMES.items()
    ]
    return [*isometric, dimetric, *oblique]


def _fields() -> dict[str, FieldInfo]:
    """Every numeric field by `Model.name`."""
    found = {}
    for kind in all_parts():
        for name, info in kind.model_fields.items():
            extra = info.json_schema_extra
            if isinstance(extra, dict) and "comfort" in extra:
                found[f"{kind.__name__}.{name}"] = FieldInfo.model_validate(
                    {"label": info.title, "default": info.default, **extra}
                )
    return found


def _plain_fields(kind: type[Part]) -> list[PlainField]:
    return [
        PlainField(
            name=field.name,
            kind=field.kind,
            label=field.label,
            group=field.group,
            when=[
                Condition(field=of, values=None if values is None else list(values))
                for of, values in field.when
            ],
            options=list(field.options),
            varies=field.varies,
        )
        for field in fields_of(kind)
    ]
