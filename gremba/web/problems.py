"""Turns every error into a problem document (RFC 9457)."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import structlog
from fastapi import APIRouter, FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from fastapi.routing import APIRoute
from pydantic import BaseModel, Field
from starlette.concurrency import run_in_threadpool
from starlette.exceptions import HTTPException
from starlette.requests import ClientDisconnect
from starlette.responses import Response

from gremba.actions.problem import Problem, records_away
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.catalogue.term import TermMoved
from gremba.store.database import Refused, Unavailable, Unstorable
from gremba.web.registration.cart_schemas import MOST_NAMED

log = structlog.get_logger()

MEDIA_TYPE = "application/problem+json"


class WrongField(BaseModel):
    """A part of a request that is not valid."""

    where: str
    what: str


class ProblemDocument(BaseModel):
    """What went wrong, and what to do (RFC 9457)."""

    type: str = Field(
        description="A stable name for the kind of problem",
        json_schema_extra={"enum": [f"/problems/{kind.code}" for kind in ProblemKind]},
    )
    title: str
    status: int
    detail: str
    fields: list[WrongField] = []
    now: dict[str, Any] | None = Field(
        None, description="What it is about as it is now, such as the cart that has moved on"
    )


def document_of(
    problem: Problem, fields: list[WrongField] | None = None, status: int | None = None
) -> ProblemDocument:
    """The document for a problem; see :func:`respond`."""
    return ProblemDocument(
        type=f"/problems/{problem.kind.code}",
        title=problem.title,
        status=status or problem.kind.status,
        detail=problem.detail,
        fields=fields or [],
        now=problem.now if isinstance(problem.now, dict) else None,
    )


def respond(
    problem: Problem, fields: list[WrongField] | None = None, status: int | None = None
) -> JSONResponse:
    """The response to a problem.

    Args:
        status: an HTTP status other than the usual one of its kind.
    """
    document = document_of(problem, fields, status)
    headers = {"Cache-Control": "no-store"}
    if problem.retry_after is not None:
        headers["Retry-After"] = str(problem.retry_after)
    return JSONResponse(document.model_dump(), document.status, headers, media_type=MEDIA_TYPE)


def response_for(problem: Exception, path: str) -> Response:
    """The response to any exception; an unexpected one is logged and answered in general words."""
    if isinstance(problem, Problem):
        return respond(problem)
    if isinstance(problem, RequestValidationError):
        return respond(_UNREADABLE, _wrong_fields(problem))
    if isinstance(problem, HTTPException):
        return respond(_from_http(problem), status=problem.status_code)
    if isinstance(problem, ClientDisconnect):
        # Whoever asked has gone; nobody reads this.
        return Response(status_code=400)
    if isinstance(problem, Unavailable):
        log.warning("the database is away", problem=str(problem).strip())
        return respond(records_away())
    if isinstance(problem, TermMoved):
        return respond(records_away())
    if isinstance(problem, Refused):
        # Of two at the same moment the tables have taken one.
        log.error("the tables refused something", path=path, problem=str(problem).partition("\n")[0])
        return respond(_MEANWHILE)
    if isinstance(problem, Unstorable):
        return respond(_UNSTORABLE)
    log.error("unforeseen", path=path, exc_info=problem)
    return respond(_UNFORESEEN)


def install(app: FastAPI, routers: Iterable[APIRouter]) -> None:
    """Answer every exception with a problem document.

    Args:
        routers: those of the API.
    """
    methods = _Methods(routers)

    async def on_problem(request: Request, problem: Exception) -> Response:
        if isinstance(problem, Problem) and problem.kind in _NOT_YOURS:
            # Told as if there were none, and put on record as what it is.
            request.state.was_refused = True
        if isinstance(problem, TermMoved):
            # So that the next try finds it as it is.
            catalogue = request.app.state.services.context.catalogue
            for code in problem.codes:
                await run_in_threadpool(catalogue.catch_up, code)
        response = response_for(problem, request.url.path)
        if response.status_code in (404, 405):
            allowed = methods.of(request.url.path)
            if allowed and request.method not in allowed:
                response = respond(_OF_STATUS[405])
                response.headers["Allow"] = ", ".join(sorted(allowed))
        return response

    for kind in (
        Problem,
        RequestValidationError,
        HTTPException,
        ClientDisconnect,
        TermMoved,
        *Unavailable,
        *Unstorable,
        *Refused,
        Exception,
    ):
        app.add_exception_handler(kind, on_problem)


class _Methods:
    """The methods each API path supports (RFC 9110, section 10.2.1)."""

    def __init__(self, routers: Iterable[APIRouter]) -> None:
        self._routes = [
            (route.path_regex, frozenset(route.methods or ()))
            for router in routers
            for route in router.routes
            if isinstance(route, APIRoute)
        ]

    def of(self, path: str) -> frozenset[str]:
        """The methods of a path; none if there is no such path."""
        found: frozenset[str] = frozenset()
        for pattern, methods in self._routes:
            if pattern.fullmatch(path):
                found |= methods
        # As GET, and the server leaves the body out of the answer.
        return found | {"HEAD"} if "GET" in found and not path.endswith("/stream") else found


_NOT_YOURS = frozenset({ProblemKind.STUDENT_NOT_YOURS, ProblemKind.SECTION_NOT_YOURS})

_UNREADABLE = Problem(
    ProblemKind.UNREADABLE, "Something in it is missing or not as expected; see the fields named."
)
_MEANWHILE = Problem(
    ProblemKind.MEANWHILE, "Nothing was changed. Look at it again, and do it once more if it is still wanted."
)
_UNSTORABLE = Problem(
    ProblemKind.UNSTORABLE, "Take out what cannot be seen, such as a NUL character, and send it again."
)
_UNFORESEEN = Problem(
    ProblemKind.UNFORESEEN, "Your cart and your registrations are kept. Try again in a moment."
)


_OF_FIELD = {
    "number": "A reference number has five digits, such as 30412.",
    "in_exchange": "The section given up is named by its reference number, five digits such as 30412.",
    "credits": "Credits are a number from 0 to 30, such as 3 or 1.5.",
    "changes": f"Name at least one change, and no more than {MOST_NAMED}.",
    "kind": "A change is one of add, drop, swap, adjust and wait.",
    "mode": "Choose “each” or “all”.",
    "alternatives": "Name next choices by reference number, each with its linked sections.",
    "Idempotency-Key": "Send a key of 8 to 200 signs without blanks, a new one for each sending.",
}
"""What to do about a value that cannot be read, by the name of its field."""

_OF_KIND = {
    "missing": "It is missing.",
    "extra_forbidden": "There is no such field here.",
    "json_invalid": "It is not well-formed JSON.",
    "string_type": "It is a text.",
    "int_parsing": "It is a whole number.",
    "int_type": "It is a whole number.",
    "bool_parsing": "It is true or false.",
    "bool_type": "It is true or false.",
    "list_type": "It is a list.",
}
"""The same for those that have nothing of their own to say, by what is the matter."""


def _wrong_fields(problem: RequestValidationError) -> list[WrongField]:
    return [
        WrongField(where=".".join(str(p) for p in e["loc"]), what=_sentence(e)) for e in problem.errors()[:20]
    ]


def _sentence(error: dict[str, Any]) -> str:
    """What is wrong with a value, in our own words."""
    kind, limits = str(error["type"]), error.get("ctx", {})
    if kind == "value_error":
        return str(error["msg"]).removeprefix("Value error, ")
    names = [p for p in error["loc"] if isinstance(p, str)]
    if kind not in ("missing", "extra_forbidden"):
        for name in reversed(names):
            if name in _OF_FIELD:
                return _OF_FIELD[name]
    if kind in _OF_KIND:
        return _OF_KIND[kind]
    match limits:
        case {"expected": expected}:
            return f"It is one of {expected}."
        case {"max_length": most}:
            return f"It is too long: no more than {most} are read."
        case {"min_length": least}:
            return f"It is too short: at least {least} are needed."
        case {"ge": least} | {"gt": least}:
            return f"It is too small: at least {least}."
        case {"le": most} | {"lt": most}:
            return f"It is too large: at most {most}."
    return "It cannot be read as what is expected here."


def too_large() -> Problem:
    """The problem for a request body over the limit."""
    return Problem(ProblemKind.TOO_LARGE, "Paste fewer lines; what you had is kept in the field.")


def _from_http(problem: HTTPException) -> Problem:
    if problem.status_code == 413:
        return too_large()
    return _OF_STATUS.get(problem.status_code) or Problem(ProblemKind.REFUSED, "Check the request.")


_OF_STATUS = {
    404: Problem(ProblemKind.NOT_FOUND, "Check the address."),
    405: Problem(ProblemKind.METHOD, "Check the method of the request."),
    400: Problem(ProblemKind.MALFORMED, "It is not well-formed."),
}


DESCRIBED: dict[int | str, dict[str, object]] = {
    "default": {"model": ProblemDocument, "description": "What went otherwise, and what to do about it"}
}
"""The response that stands in the OpenAPI document for every problem of every operation."""


def name_media_type(document: dict[str, Any]) -> None:
    """Describe problems as ``application/problem+json`` in an OpenAPI document.

    FastAPI puts their schema under the media type of each route.
    """
    for operations in document["paths"].values():
        for operation in operations.values():
            described = operation["responses"].get("default")
            if described is not None:
                (schema,) = described["content"].values()
                described["content"] = {MEDIA_TYPE: schema}
