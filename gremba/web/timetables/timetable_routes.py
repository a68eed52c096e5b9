"""Routes of Timetables. A question is a POST because it has nested parts; it changes nothing."""

from __future__ import annotations

from dataclasses import replace

from fastapi import APIRouter, Request
from starlette.concurrency import run_in_threadpool

from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.actions.timetables.ask import Asked, Fitted, put_timetable
from gremba.store.database import connected
from gremba.store.timetables.demand import count_demand
from gremba.web.access.guard import SignedIn
from gremba.web.access.subject import About, SubjectId
from gremba.web.catalogue.find_responses import Rows
from gremba.web.registration.cart_routes import reported
from gremba.web.schemas import AskedSchema, CourseDemand, DemandResponse, PastedResponse, TimetablesResponse
from gremba.web.services import Services, services_of
from gremba.web.timetables.responses import question_of, timetables_response

router = APIRouter(prefix="/api/terms/{term}/timetables")


def asked_of(student_id: int, term: str, asked: AskedSchema) -> Asked:
    """A question as actions take it."""
    return Asked(student_id, term, question_of(asked), asked.first, asked.many, tuple(asked.show))


@router.post("")
async def find_timetables(
    request: Request, session: SignedIn, subject_id: SubjectId, term: str, asked: AskedSchema
) -> TimetablesResponse:
    """Find every timetable with the courses wanted: how many there are, the best in order, and the sections
    they depend on; or why there is none."""
    services = services_of(request)
    try:
        question = replace(asked_of(subject_id, term, asked), is_own=session.person.role == "student")
        fitted = await services.timetable_queue.put(question)
    except Problem as problem:
        if problem.kind in (ProblemKind.TOO_MANY, ProblemKind.TOO_MANY_YOURS):
            raise _busy() from problem
        raise
    if isinstance(fitted, Problem):
        raise fitted
    return await run_in_threadpool(_response, services, fitted)


def _response(services: Services, fitted: Fitted) -> TimetablesResponse:
    term, finder = fitted.term, services.finder
    today = term.calendar.local_date(services.context.clock.now())
    return timetables_response(fitted, Rows(finder.index(term), finder.seats, finder.fit(term, ()), today))


def _busy() -> Problem:
    return Problem(
        ProblemKind.FITS_BUSY,
        "What you asked is kept in the address of the page; it is asked again in a moment.",
        retry_after=2,
    )


@router.post("/cart")
def take_timetable(request: Request, about: About, term: str, asked: AskedSchema) -> PastedResponse:
    """Add the timetable named with “show” to the cart as adds and swaps, the scarcest section first, each
    with backup sections that still fit."""
    services = services_of(request)
    reports = put_timetable(services.context, services.board, about, asked_of(about.student_id, term, asked))
    return reported(request, about.student_id, term, reports)


@router.get("/demand")
def read_demand(request: Request, term: str) -> DemandResponse:
    """How many students want each course, in Timetables or in their carts. No names are kept."""
    context = services_of(request).context
    found = context.term(term)
    with connected(context.database) as database:
        counted = count_demand(database, found.id)
    return DemandResponse(
        courses=[CourseDemand(course=f"{d.subject} {d.number}", wants=d.wants) for d in counted]
    )
