"""The OpenAPI document, put together from the routes' models."""

import re
from typing import Any

from pydantic.json_schema import models_json_schema

from halvex import __version__
from halvex.web.api import OPERATIONS, Operation
from halvex.web.messages import SOCKET_MODELS, WindowMessage
from halvex.web.problems import Problem


def openapi() -> dict[str, Any]:
    """OpenAPI 3.1: every route, every model, those of the live socket with them."""
    models = {model for op in OPERATIONS for model in (op.takes, op.gives) if model} | {
        Problem,
        *SOCKET_MODELS,
    }
    inputs = {op.takes for op in OPERATIONS if op.takes} | {WindowMessage}
    pairs = [
        (model, "validation" if model in inputs else "serialization")
        for model in sorted(models, key=lambda m: m.__name__)
    ]
    names, definitions = models_json_schema(pairs, by_alias=True, ref_template="#/components/schemas/{model}")  # type: ignore[arg-type]
    references = {model: schema for (model, _), schema in names.items()}
    paths: dict[str, Any] = {}
    for op in OPERATIONS:
        path = re.sub(r"<(\w+)>", r"{\1}", op.path)
        paths.setdefault(path, {})[op.method.lower()] = _operation(op, references)
    return {
        "openapi": "3.1.0",
        "info": {"title": "Halvex", "version": __version__},
        "paths": paths,
        "components": {"schemas": definitions["$defs"]},
    }


def _operation(op: Operation, references: dict[Any, Any]) -> dict[str, Any]:
    good: dict[str, Any] = {"description": op.summary}
    if op.gives:
        good["content"] = {"application/json": {"schema": references[op.gives]}}
    elif op.status != 204:
        good["content"] = {op.media: {"schema": {}}}
    bad = {
        "description": "A problem",
        "content": {"application/problem+json": {"schema": references[Problem]}},
    }
    described: dict[str, Any] = {"summary": op.summary, "responses": {str(op.status): good, "4XX": bad}}
    named = re.findall(r"<(\w+)>", op.path)
    places = [*((name, "path") for name in named), *((name, "query") for name in op.query)]
    if places:
        described["parameters"] = [
            {"name": name, "in": place, "required": place == "path", "schema": {"type": "string"}}
            for name, place in places
        ]
    if op.takes_media:
        described["requestBody"] = {
            "required": True,
            "content": {op.takes_media: {"schema": {"type": "string", "format": "binary"}}},
        }
    if op.takes:
        described["requestBody"] = {
            "required": True,
            "content": {"application/json": {"schema": references[op.takes]}},
        }
    return described
