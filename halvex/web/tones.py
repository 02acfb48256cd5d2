"""Routes of tones: how light parts are, and light by tones."""

from dataclasses import asdict
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from halvex.core.advice.tones import tone_advice
from halvex.studio import store
from halvex.studio.edits import Edit
from halvex.studio.toning import lit_by_tones, measured_tones
from halvex.web.operations import operation


class ToneEntry(BaseModel):
    """A part of the lettering, or the backdrop: its mean L* in the finished picture, how far L* spreads over
    it, and the share of it that is shown as white."""

    part: str
    tone: float
    spread: float
    clipped: float


class ToneAdviceEntry(BaseModel):
    """What there is to say about tones, the act that helps by name, and the tones it wants."""

    text: str
    label: str
    wanted: dict[str, float]


class Tones(BaseModel):
    """How light the parts are, and what there is to say about it."""

    parts: list[ToneEntry]
    advice: list[ToneAdviceEntry]


class TonesOrder(BaseModel):
    """The L* that parts are to have."""

    model_config = ConfigDict(extra="forbid")

    tones: dict[str, Annotated[float, Field(ge=0, le=100)]] = Field(max_length=8)


class ReachedTone(BaseModel):
    """A part, the L* wanted and reached (null: it is not seen), and why they differ."""

    part: str
    wanted: float
    reached: float | None
    reason: str


class LightByTones(BaseModel):
    """What light by tones reaches, and the edits that bring it."""

    reached: list[ReachedTone]
    edits: list[Edit]


@operation("GET", "/pieces/<ident>/tones", "How light the parts of a piece are", gives=Tones)
def get_tones(ident: str) -> Tones:
    measured = measured_tones(store.load_piece(ident))
    spread, clipped = measured.spread(), measured.clipped()
    parts = [
        ToneEntry(
            part=name, tone=round(tone, 1), spread=round(spread[name], 1), clipped=round(clipped[name], 3)
        )
        for name, tone in measured.lightness().items()
    ]
    return Tones(parts=parts, advice=[ToneAdviceEntry(**asdict(said)) for said in tone_advice(measured)])


@operation(
    "POST",
    "/pieces/<ident>/tones",
    "Light that gives parts their tones, as a proposal",
    takes=TonesOrder,
    gives=LightByTones,
)
def post_tones(ident: str, body: TonesOrder) -> LightByTones:
    solved, edits = lit_by_tones(store.load_piece(ident), body.tones)
    reached = [
        ReachedTone(part=part.region, wanted=part.wanted, reached=part.reached, reason=part.reason)
        for part in solved.reached
    ]
    return LightByTones(reached=reached, edits=edits)
