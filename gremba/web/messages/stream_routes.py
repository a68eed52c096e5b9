"""Routes of the event stream."""

from __future__ import annotations

from collections.abc import AsyncIterator
from typing import Annotated

import orjson
from fastapi import APIRouter, Query, Request, Response
from fastapi.exceptions import RequestValidationError
from pydantic import TypeAdapter, ValidationError
from starlette.concurrency import run_in_threadpool

from gremba.actions.access.sessions import token_digest
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.catalogue.term import TermCatalogue
from gremba.store.access.sessions import Session
from gremba.web.access.guard import guard
from gremba.web.access.subject import find_student_id
from gremba.web.catalogue.find_schemas import Numbers
from gremba.web.messages.event_stream import MEDIA_TYPE, PING, EventStream, event
from gremba.web.requests.limits import Slots, address_of
from gremba.web.services import Services, services_of

router = APIRouter(prefix="/api/terms/{term}")

_NUMBERS = TypeAdapter(Numbers)
_STUDENT: TypeAdapter[int | None] = TypeAdapter(int | None)


@router.get(
    "/stream",
    response_class=Response,
    responses={
        200: {
            "description": "Server-sent events. “seats”: an object of SeatsResponse by reference number; all "
            "of them first, then those that have changed. “changed”: a list of what is another now: "
            "“cart”, “week”, “waitlists”, “messages”, “clearance”, “clock”, “term”; and “signed out”, "
            "after which nothing more comes",
            "content": {MEDIA_TYPE: {"schema": {"type": "string"}}},
        }
    },
)
async def follow_term(
    request: Request,
    term: str,
    numbers: Numbers = "",
    student: Annotated[
        int | None, Query(description="For advisors: the id of one of their own students")
    ] = None,
) -> Response:
    """Stream the seats of sections and changes of the student's own data."""
    services = services_of(request)
    session: Session | None = request.state.session
    catalogue = services.context.catalogue.known(term)
    if catalogue is None:
        catalogue = await run_in_threadpool(services.context.term, term)
    row = await _row_of(request, services, session, catalogue, student)
    digest = token_digest(services.session_cookie.read(request)) if session else b""
    slots: Slots = services.streams_of_session if session else services.streams_of_address
    key = digest or address_of(request)
    if not slots.take(key):
        raise Problem(
            ProblemKind.TOO_MANY_STREAMS,
            "Close some of them. This one is kept up to date all the same, only more slowly.",
            retry_after=30,
        )
    pages = _events(services, catalogue, [n for n in numbers.split(",") if n], row, digest)
    return EventStream(pages, lambda: slots.give_back(key))


async def answer_stream(request: Request) -> Response:
    """The same, on the fast path (see :mod:`gremba.web.requests.fast_path`)."""
    await guard(request)
    try:
        numbers = _NUMBERS.validate_python(request.query_params.get("numbers", ""))
        student = _STUDENT.validate_python(request.query_params.get("student"))
    except ValidationError as problem:
        raise RequestValidationError(problem.errors(include_context=False)) from None
    return await follow_term(request, request.path_params["term"], numbers, student)


async def _row_of(
    request: Request,
    services: Services,
    session: Session | None,
    term: TermCatalogue,
    student: int | None,
) -> int | None:
    """The student's term row to follow; None for a page about nobody."""
    if session is None or (session.person.role != "student" and student is None):
        return None
    if session.person.role == "student" and student is None:
        return session.terms.get(term.code)
    student_id = await find_student_id(request, session, student)
    return await run_in_threadpool(services.context.student_term, student_id, term)


async def _events(
    services: Services, term: TermCatalogue, numbers: list[str], row: int | None, session: bytes
) -> AsyncIterator[bytes]:
    async for news in services.live.follow(term, numbers, row, session):
        if news is None:
            yield PING
            continue
        pieces = []
        if news.seats or not news.changed:
            today = term.calendar.local_date(services.context.clock.now())
            # The catalogue may have been read anew since.
            now = services.context.catalogue.known(term.code) or term
            words = services.seats_told.tell(now, news.seats, services.finder.seats, today)
            pieces.append(event("seats", words))
        if news.changed:
            pieces.append(event("changed", orjson.dumps(news.changed)))
        yield b"".join(pieces)
