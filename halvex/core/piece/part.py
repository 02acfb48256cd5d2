"""What all parts of the document share: their base, names, colours and physical bounds."""

from collections.abc import Callable, Mapping
from operator import itemgetter
from typing import Annotated, Any, ClassVar

from pydantic import (
    AfterValidator,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    ValidationInfo,
    field_validator,
)
from pydantic.fields import FieldInfo

# A body larger than this is past what single precision can hold to a hundredth of a px.
LONGEST_LENGTH_PX = 100_000.0
# A length under this shows nowhere and counts as none.
SHORTEST_LENGTH_PX = 1e-4
MOST_SEED = 99_999


class Part(BaseModel):
    """Base of every part of the document: unknown names and non-finite numbers are refused."""

    # A part stays as it is, and most parts of a piece stay from edit to edit, so each is hashed once.
    __slots__ = ("_hash",)

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)

    # Fields of lengths in px that may be 0.
    _lengths: ClassVar[frozenset[str]] = frozenset()
    _values: ClassVar[Callable[[Mapping[str, Any]], Any]] = tuple

    @classmethod
    def __pydantic_init_subclass__(cls, **kwargs: Any) -> None:
        super().__pydantic_init_subclass__(**kwargs)
        cls._lengths = frozenset(name for name, info in cls.model_fields.items() if _may_be_no_length(info))
        if cls.model_fields:
            cls._values = itemgetter(*cls.model_fields)

    def __hash__(self) -> int:
        own: int | None = getattr(self, "_hash", None)
        if own is None:
            own = hash(type(self)._values(vars(self)))
            object.__setattr__(self, "_hash", own)
        return own

    @field_validator("*", mode="after")
    @classmethod
    def _drop_what_does_not_show(cls, value: Any, info: ValidationInfo) -> Any:
        if (
            isinstance(value, float)
            and -SHORTEST_LENGTH_PX < value < SHORTEST_LENGTH_PX
            and info.field_name in cls._lengths
        ):
            return 0.0
        return value


def _may_be_no_length(info: FieldInfo) -> bool:
    extra = info.json_schema_extra
    if not isinstance(extra, dict) or extra.get("unit") != "px" or "varies" in extra:
        return False
    return all(getattr(bound, "ge", -1) <= 0 and getattr(bound, "gt", -1) < 0 for bound in info.metadata)


def _check_ident(value: str) -> str:
    if not value or len(value) > 40 or not value.replace("-", "").isalnum() or not value.isascii():
        raise ValueError("an id has 1 to 40 letters, digits or dashes")
    return value


Ident = Annotated[str, AfterValidator(_check_ident)]
# What a colour begins with that refers to a paint of the piece (paints.py).
PAINT_PREFIX = "paint:"
_lower = BeforeValidator(lambda value: value.strip().lower() if isinstance(value, str) else value)
PickedColour = Annotated[str, _lower, Field(pattern=r"^#[0-9a-f]{6}$", description="sRGB colour as #rrggbb")]
Colour = Annotated[
    str,
    _lower,
    Field(
        pattern=r"^(#[0-9a-f]{6}|paint:[a-z0-9-]{1,40})$",
        description="sRGB colour as #rrggbb, or paint:ID for that of a paint",
    ),
]


def all_parts() -> list[type[Part]]:
    """Every kind of part there is, the general before the special."""
    found: list[type[Part]] = [Part]
    for kind in found:
        found += [special for special in kind.__subclasses__() if special not in found]
    return found
