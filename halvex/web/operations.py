"""How a route is registered: each names its models, so that the OpenAPI document says what is served."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from flask import Blueprint, Response, request
from pydantic import BaseModel

from halvex.core.piece import PieceError

api = Blueprint("api", __name__, url_prefix="/api")


@dataclass(frozen=True)
class Operation:
    """What the OpenAPI document says of a route; `query` are the names of its query's texts."""

    method: str
    path: str
    summary: str
    takes: type[BaseModel] | None
    gives: type[BaseModel] | None
    status: int
    media: str
    takes_media: str | None
    query: tuple[str, ...] = ()


OPERATIONS: list[Operation] = []


def operation(
    method: str,
    path: str,
    summary: str,
    *,
    takes: type[BaseModel] | None = None,
    gives: type[BaseModel] | None = None,
    status: int = 200,
    media: str = "application/json",
    takes_media: str | None = None,
    query: tuple[str, ...] = (),
) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """Register a route that takes and gives models; the body is checked before the function sees it."""

    def register(function: Callable[..., Any]) -> Callable[..., Any]:
        def answer(**parts: str) -> Any:
            if takes is not None:
                parts["body"] = takes.model_validate(_body())  # type: ignore[assignment]
            given = function(**parts)
            if isinstance(given, BaseModel):
                return Response(given.model_dump_json(by_alias=True), status, mimetype="application/json")
            return given if given is not None else Response(status=status)

        api.add_url_rule(path, function.__name__, answer, methods=[method])
        OPERATIONS.append(
            Operation(method, f"/api{path}", summary, takes, gives, status, media, takes_media, query)
        )
        return function

    return register


def _body() -> Any:
    try:
        values = request.get_json(silent=True, force=True)
    except RecursionError:
        values = None
    if not isinstance(values, dict):
        raise PieceError("", "the request's body must be a JSON object")
    return values
