"""What all parts of the document share: their base, names, colours and physical bounds."""

from typing import Annotated

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field

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


def all_parts() -> list[type[Part]]:
    """Every kind of part there is, the general before the special."""
    found: list[type[Part]] = [Part]
    for kind in found:
        found += [special for special in kind.__subclasses__() if special not in found]
    return found
