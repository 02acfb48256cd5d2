"""How a field of the document is described once, for every one who shows or checks it.

`number()` and `plain()` make pydantic fields whose JSON Schema carries the label, and for a number its unit,
the comfortable range of its slider and the nudge step. Hard limits are physical; the comfortable range is no
limit. `fields_of` lists what a model's fields are, for panels that are made from them.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from types import EllipsisType, NoneType, UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel, Field
from pydantic.fields import FieldInfo

# Values of other fields of the same model under which a field has a meaning; `...` is any value but none
# and 0.
When = Mapping[str, tuple[Any, ...] | EllipsisType]
Kind = Literal["number", "colour", "source", "choice", "tick", "text", "target"]


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
    when: When | None = None,
    group: str = "",
    varies: str = "",
) -> Any:
    """A numeric field with its label, unit, comfortable range and nudge step in the schema. `varies` names
    the model that stands in its place where it differs from place to place; its type then has the limits."""
    extra = {"unit": unit, "comfort": list(comfort), "step": step, **_shown(when, group)}
    if varies:
        extra["varies"] = varies
    return Field(default, ge=ge, gt=gt, lt=lt, le=le, title=label, json_schema_extra=extra)


def plain(default: Any, *, label: str, when: When | None = None, group: str = "") -> Any:
    """A colour, a choice, a switch or a text with its label in the schema."""
    return Field(default, title=label, json_schema_extra=_shown(when, group))


def _shown(when: When | None, group: str) -> dict[str, Any]:
    conditions = [
        {"field": field, "values": None if values is ... else list(values)}
        for field, values in (when or {}).items()
    ]
    return {**({"when": conditions} if conditions else {}), **({"group": group} if group else {})}


@dataclass(frozen=True)
class Described:
    """A field as a panel shows it: `when` are conditions (field, values; none for any value but none and 0)
    that all hold where it has a meaning; `options` are those of a choice; `group` is what it is folded away
    with; `varies` is the model of a number that differs from place to place."""

    name: str
    kind: Kind
    label: str
    group: str
    when: tuple[tuple[str, tuple[Any, ...] | None], ...]
    options: tuple[str, ...]
    varies: str


def fields_of(model: type[BaseModel]) -> list[Described]:
    """The fields of a model that have a label, in the order of its schema."""
    found = []
    for name, info in model.model_fields.items():
        if info.title is None or not isinstance(info.json_schema_extra, dict):
            continue
        extra: dict[str, Any] = info.json_schema_extra
        when = tuple(
            (entry["field"], None if entry["values"] is None else tuple(entry["values"]))
            for entry in extra.get("when", [])
        )
        kind, options = _kind_of(info, extra)
        found.append(
            Described(
                info.alias or name,
                kind,
                info.title,
                str(extra.get("group", "")),
                when,
                options,
                str(extra.get("varies", "")),
            )
        )
    return found


def _is_model(annotation: Any) -> bool:
    if get_origin(annotation) is Annotated:
        annotation = get_args(annotation)[0]
    return isinstance(annotation, type) and issubclass(annotation, BaseModel)


def _kind_of(info: FieldInfo, extra: Mapping[str, Any]) -> tuple[Kind, tuple[str, ...]]:
    if "comfort" in extra:
        return "number", ()
    if extra.get("kind") == "target":
        return "target", ()
    annotation = info.annotation
    if get_origin(annotation) in (Union, UnionType):
        if any(_is_model(arm) for arm in get_args(annotation)):
            return "source", ()
        annotation = next(arm for arm in get_args(annotation) if arm is not NoneType)
    if annotation is bool:
        return "tick", ()
    if get_origin(annotation) is Literal:
        return "choice", get_args(annotation)
    colour = "#" in str(info.metadata) or "#" in str(annotation)
    return ("colour" if colour else "text"), ()
