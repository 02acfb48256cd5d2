"""Lettering: words in a typeface, the line they stand on, and single letters that differ."""

from typing import Annotated, Literal

from pydantic import AfterValidator, Field, ValidationInfo, field_validator, model_validator

from halvex.core.piece.block import Block, Stroke
from halvex.core.piece.fields import number, plain
from halvex.core.piece.material import Material
from halvex.core.piece.part import Ident, Part

MOST_LETTERS = 2_000


def _check_words(value: str) -> str:
    words = value.replace("\r\n", "\n").replace("\r", "\n")
    if len(words) > MOST_LETTERS:
        raise ValueError(
            f"a block holds {MOST_LETTERS} characters at most; divide the words into several blocks"
        )
    if any(ord(c) < 32 and c != "\n" for c in words) or any(0xD800 <= ord(c) <= 0xDFFF for c in words):
        raise ValueError("the words hold control characters; retype them as plain text")
    return words


class LetterSetting(Part):
    """How one letter differs from the rest of its words. `kern` is the space added between it and
    the next one.

    With a material of its own it is made of that all over, its plates and slab aside.
    """

    size: float = number(100, label="Letter size", unit="%", comfort=(50, 200), ge=1, le=5_000)
    shift: float = number(
        0, label="Raise", unit="/1000 em", comfort=(-300, 300), step=5, ge=-20_000, le=20_000
    )
    turn: float = number(0, label="Turn", unit="°", comfort=(-45, 45), ge=-360, le=360)
    kern: float = number(0, label="Kern", unit="/1000 em", comfort=(-200, 200), step=5, ge=-20_000, le=20_000)
    material: Material | None = None


class Along(Part):
    """What a line of words stands on: a straight line; an arc, the longest line spanning `bend`
    degrees of a circle (negative: a valley); or a drawn curve, in px from the block's place.
    `upright`, the letters do not turn with it.
    """

    kind: Literal["line", "arc", "curve"] = "line"
    bend: float = number(90, label="Bend", unit="°", comfort=(-180, 180), step=5, ge=-359, le=359)
    curve: Stroke | None = None
    upright: bool = False

    @model_validator(mode="after")
    def _check_curve(self) -> "Along":
        if self.kind == "curve" and self.curve is None:
            raise ValueError("draw the curve that the words follow first")
        return self


class Stagger(Part):
    """Letters off the line and turned: every other one up and down alternately, or each at random,
    from a seed."""

    rise: float = number(0, label="Stagger", unit="/1000 em", comfort=(0, 200), step=5, ge=-20_000, le=20_000)
    turn: float = number(0, label="Stagger turn", unit="°", comfort=(-20, 20), ge=-360, le=360)
    by: Literal["turns", "chance"] = plain("turns", label="Stagger by")
    seed: int = number(1, label="Seed", comfort=(1, 99), ge=0, le=2**31 - 1, when={"by": ("chance",)})


class Lettering(Block):
    """Words in a typeface.

    `script` is an ISO 15924 code, where it must not be guessed from the words; `language` is a BCP 47
    tag, for forms that differ by language; `features` are OpenType features turned on or off;
    `letters` are those that differ from the rest, by the number of their character in the words.
    """

    kind: Literal["lettering"] = "lettering"
    words: Annotated[str, AfterValidator(_check_words)] = "Port Sorrel"
    typeface: Ident = "alfa-slab-one"
    axes: dict[Annotated[str, Field(pattern=r"^[A-Za-z0-9]{4}$")], float] = Field(
        default_factory=dict, max_length=16
    )
    size: float = number(200, label="Size", unit="px", comfort=(20, 500), step=2, gt=0.5, le=20_000)
    tracking: float = number(
        0, label="Tracking", unit="/1000 em", comfort=(-100, 300), step=5, ge=-2000, le=20_000
    )
    leading: float = number(1.0, label="Leading", unit="×", comfort=(0.6, 2), step=0.02, ge=-20, le=20)
    align: Literal["left", "centre", "right"] = plain("centre", label="Align")
    case: Literal["as typed", "capitals", "small capitals"] = plain("as typed", label="Case")
    along: Along = Along()
    stagger: Stagger = Stagger()
    script: str = Field("", pattern=r"^([A-Za-z]{4})?$")
    language: str = Field("", pattern=r"^([A-Za-z]{2,8}(-[A-Za-z0-9]{1,8})*)?$", max_length=35)
    features: dict[Annotated[str, Field(pattern=r"^[A-Za-z0-9]{4}$")], bool] = Field(
        default_factory=dict, max_length=32
    )
    letters: dict[Annotated[int, Field(ge=0)], LetterSetting] = Field(
        default_factory=dict, max_length=MOST_LETTERS
    )

    @field_validator("letters", mode="after")
    @classmethod
    def _keep_what_differs(
        cls, letters: dict[int, LetterSetting], info: ValidationInfo
    ) -> dict[int, LetterSetting]:
        count = len(info.data.get("words", ""))
        return {at: letters[at] for at in sorted(letters) if at < count and letters[at] != LetterSetting()}
