"""How a number of the document is described once, for every one who shows or checks it.

`number()` makes a pydantic field whose JSON Schema carries the unit, the comfortable range of its
slider, the nudge step and the label. Hard limits are physical; the comfortable range is no limit.
"""

from typing import Any

from pydantic import Field


def number(
    default: float | None,
    *,
    label: str,
    unit: str = "",
    comfort: tuple[float, float],
    step: float = 1.0,
    ge: float | None = None,
    gt: float | None = None,
    lt: float | None = None,
    le: float | None = None,
) -> Any:
    """A numeric field with its label, unit, comfortable range and nudge step in the schema."""
    return Field(
        default,
        ge=ge,
        gt=gt,
        lt=lt,
        le=le,
        title=label,
        json_schema_extra={"unit": unit, "comfort": list(comfort), "step": step},
    )
