"""Errors as problem details (RFC 9457): one clear sentence, the field at fault and the remedy."""

import logging

from flask import Flask, Response
from pydantic import BaseModel, ValidationError
from werkzeug.exceptions import HTTPException

from halvex.core.finish.orders import RenderError
from halvex.core.lettering import LetteringError
from halvex.core.piece import PieceError
from halvex.core.piece.reading import first_fault
from halvex.core.scene import SceneError
from halvex.core.solids import SolidError
from halvex.studio.faults import StoreError

log = logging.getLogger(__name__)
FAULT = (
    "this could not be done because of a fault in Halvex, which the server's log records; nothing was changed"
)


class Problem(BaseModel):
    """A problem detail. `field` is a JSON Pointer or the name of what is at fault, empty where
    nothing single is."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    field: str = ""


def problem(status: int, title: str, detail: str, field: str = "") -> Response:
    body = Problem(title=title, status=status, detail=detail, field=field)
    return Response(body.model_dump_json(), status, mimetype="application/problem+json")


def describe(fault: Exception) -> Problem:
    """Any error as a problem. What is none of Halvex' own is a fault of the program, and logged."""
    match fault:
        case PieceError():
            return Problem(
                title="The piece cannot take that", status=422, detail=fault.remedy, field=fault.field
            )
        case ValidationError():
            return describe(first_fault(fault))
        case StoreError() if fault.field == "id":
            return Problem(title="Not found", status=404, detail=fault.remedy, field="id")
        case StoreError() if fault.field == "history":
            return Problem(title="No further", status=409, detail=fault.remedy, field="history")
        case StoreError() if fault.field == "disk":
            return Problem(title="Not stored", status=507, detail=fault.remedy, field="disk")
        case StoreError() | RenderError() | LetteringError():
            return Problem(title="That cannot be done", status=422, detail=fault.remedy, field=fault.field)
        case SolidError() | SceneError():
            return Problem(title="That cannot be done", status=422, detail=str(fault))
        case _:
            log.error("a fault", exc_info=fault)
            return Problem(title="A fault in Halvex", status=500, detail=FAULT)


def register(app: Flask) -> None:
    for kind in (
        PieceError,
        ValidationError,
        StoreError,
        RenderError,
        LetteringError,
        SolidError,
        SceneError,
    ):
        app.register_error_handler(kind, _own)
    app.register_error_handler(HTTPException, _http)
    app.register_error_handler(Exception, _own)


def _own(fault: Exception) -> Response:
    said = describe(fault)
    return problem(said.status, said.title, said.detail, said.field)


def _http(fault: HTTPException) -> Response:
    answer = problem(fault.code or 500, fault.name, fault.description or fault.name)
    for name, value in fault.get_headers():
        if name.lower() == "allow":
            answer.headers[name] = value
    return answer


__all__ = ["Problem", "describe", "problem", "register"]
