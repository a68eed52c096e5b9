"""Routes of advisors, instructors and the cashier, each limited to their own students or sections."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query, Request

from gremba.actions.permission import codes as consent
from gremba.actions.permission.to_answer import count_to_answer
from gremba.actions.students import offices
from gremba.actions.students.advising_day import look_at_day
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import Section
from gremba.core.states import Waiver
from gremba.core.wording import times_text
from gremba.formats.decision_json import outcome_data, title_of
from gremba.store.database import connected, reading
from gremba.store.permission.codes import PermissionCodeLine
from gremba.store.registration.situations import read_seats
from gremba.store.students.people import (
    AdviseeLine,
    find_students,
    read_roster,
    sections_of_instructors,
)
from gremba.store.students.people import (
    list_advisees as read_advisees,
)
from gremba.store.waitlists.lines import waiting_for
from gremba.web.access.guard import SignedIn
from gremba.web.access.subject import actor_of
from gremba.web.once import OnceKey
from gremba.web.registration.responses import hold_response
from gremba.web.schemas import (
    AdviseeResponse,
    Advisees,
    AdvisingDayResponse,
    FeeHolds,
    FeeWanted,
    FoundStudent,
    Lifted,
    Limit,
    PermissionCodeResponse,
    PermissionCodesWanted,
    PlanToAgree,
    Release,
    Released,
    ReleaseMany,
    RosterEntry,
    StoppedCartResponse,
    TaughtResponse,
    TaughtSection,
    WaitingEntry,
)
from gremba.web.services import services_of
from gremba.web.values import campus_time, known_id

router = APIRouter(prefix="/api")

Search = Annotated[str, Query(max_length=100)]
_MOST = 60


@router.get("/terms/{term}/advisees")
def list_advisees(request: Request, session: SignedIn, term: str, search: Search = "") -> Advisees:
    """List the advisor's students, by name."""
    context = services_of(request).context
    found = context.term(term)
    with connected(context.database) as database:
        lines = read_advisees(
            database, session.person.id, found.id, context.clock.now(), search.strip(), _MOST + 1
        )
    views = [_advisee(a) for a in lines]
    return Advisees(students=views[:_MOST], more=len(views) > _MOST)


@router.get("/terms/{term}/advising-day")
def read_advising_day(request: Request, session: SignedIn, term: str) -> AdvisingDayResponse:
    """Who needs the advisor: students not cleared with a window near, blocked carts, requests, and plans to
    agree to."""
    context = services_of(request).context
    day = look_at_day(context, session.person.id, term)
    return AdvisingDayResponse(
        unreleased=[_advisee(a) for a in day.unreleased],
        stopped=[
            StoppedCartResponse.model_validate(
                {
                    "student": _advisee(cart.student),
                    "stops": list(cart.stops),
                    "passing": cart.passing,
                    "outcomes": [outcome_data(o) for o in cart.decision.outcomes],
                }
            )
            for cart in day.stopped
        ],
        requests=count_to_answer(context, actor_of(session), context.term(term)),
        plans=[PlanToAgree(student=student, full_name=name) for student, name in day.plans],
    )


@router.post("/terms/{term}/advisees/releases")
def release_students(request: Request, session: SignedIn, term: str, wanted: ReleaseMany) -> Released:
    """Clear several students to register, all or none."""
    context = services_of(request).context
    many = offices.release_many(context, session.person.id, wanted.students, term)
    return Released(released=many)


@router.put("/terms/{term}/advisees/{student}/release", status_code=204)
def release_student(request: Request, session: SignedIn, term: str, student: int, release: Release) -> None:
    """Clear a student to register, or withdraw that."""
    context = services_of(request).context
    offices.set_release(context, session.person.id, known_id(student), term, release.released)


@router.put("/terms/{term}/advisees/{student}/limit", status_code=204)
def limit_student(request: Request, session: SignedIn, term: str, student: int, limit: Limit) -> None:
    """Set a student's own credit limit, or return to the default."""
    context = services_of(request).context
    offices.set_limit(context, session.person.id, known_id(student), term, limit.credits)


def _advisee(line: AdviseeLine) -> AdviseeResponse:
    return AdviseeResponse.model_validate(line, from_attributes=True)


@router.get("/terms/{term}/taught")
def list_taught_sections(request: Request, session: SignedIn, term: str) -> list[TaughtSection]:
    """List the sections an instructor teaches."""
    context = services_of(request).context
    found = context.term(term)
    with reading(context.database) as database:
        ids = sections_of_instructors(database, [session.person.id], found.id)
        sections = [found.by_id[i] for i in ids]
        seats = read_seats(database, {s.pool for s in sections})
    return [_taught(s, seats[s.pool]) for s in sections]


@router.get("/terms/{term}/taught/{number}")
def read_taught_section(request: Request, session: SignedIn, term: str, number: str) -> TaughtResponse:
    """One's own section: its roster and permission codes."""
    context = services_of(request).context
    found = context.term(term)
    codes = consent.codes_of(context, session.person.id, found, number)
    section = found.by_number[number]
    with reading(context.database) as database:
        roster = read_roster(database, section.id)
        seats = read_seats(database, {section.pool})
        waiting = waiting_for(database, section.id)
    return TaughtResponse(
        section=_taught(section, seats[section.pool]),
        waitlist=[
            WaitingEntry.model_validate(
                {
                    "full_name": line.full_name,
                    "state": line.state,
                    "since": line.joined_at,
                    "until": line.offer_until,
                }
            )
            for line in waiting
        ],
        roster=[RosterEntry.model_validate(r, from_attributes=True) for r in roster],
        permission_codes=[_permission_code_response(c, context.clock.now()) for c in codes],
    )


@router.post("/terms/{term}/taught/{number}/permission-codes")
def insert_permission_codes(
    request: Request, session: SignedIn, term: str, number: str, wanted: PermissionCodesWanted
) -> TaughtResponse:
    """Create permission codes for one's own section."""
    context = services_of(request).context
    found = context.term(term)
    consent.give_permission_codes(
        context,
        session.person.id,
        found,
        number,
        [Waiver(w) for w in wanted.waives],
        wanted.many,
        wanted.student,
        campus_time(wanted.expires_at, found),
    )
    return read_taught_section(request, session, term, number)


@router.delete("/terms/{term}/taught/{number}/permission-codes/{permission_code_id}")
def take_back_code(
    request: Request, session: SignedIn, term: str, number: str, permission_code_id: int
) -> TaughtResponse:
    """Withdraw an unused permission code."""
    context = services_of(request).context
    found = context.term(term)
    consent.take_back_permission_code(context, session.person.id, found, number, known_id(permission_code_id))
    return read_taught_section(request, session, term, number)


def _taught(section: Section, seats: SeatFigures) -> TaughtSection:
    return TaughtSection(
        number=section.reference_number,
        name=section.name,
        title=title_of(section),
        times=times_text(section.meetings),
        limit=seats.limit,
        taken=seats.taken,
        waiting=seats.waiting,
    )


def _permission_code_response(line: PermissionCodeLine, now: datetime) -> PermissionCodeResponse:
    if line.used_at is not None:
        state = "used"
    elif line.withdrawn_at is not None:
        state = "taken back"
    else:
        state = "expired" if line.expires_at is not None and line.expires_at <= now else "open"
    return PermissionCodeResponse.model_validate(
        {
            "id": line.id,
            "code": line.code,
            "waives": list(line.waives),
            "student": line.student,
            "given_at": line.given_at,
            "expires_at": line.expires_at,
            "state": state,
            "used_by": line.used_by,
            "used_at": line.used_at,
        }
    )


@router.get("/students")
def find_students_to_bill(
    request: Request, session: SignedIn, search: Annotated[str, Query(max_length=100)]
) -> list[FoundStudent]:
    """Find students by name, with at least two letters."""
    if len(search.strip()) < 2:
        return []
    with connected(services_of(request).context.database) as database:
        found = find_students(database, search.strip(), 30)
    return [FoundStudent.model_validate(s, from_attributes=True) for s in found]


@router.get("/students/{student}/fee-holds")
def read_fee_holds(request: Request, session: SignedIn, student: int) -> FeeHolds:
    """The fee holds of a student."""
    found, holds = offices.fee_holds_of(services_of(request).context, known_id(student))
    return FeeHolds(
        student=FoundStudent.model_validate(found, from_attributes=True),
        holds=[hold_response(h, None) for h in holds],
    )


@router.post("/students/{student}/fee-holds")
def place_fee_hold(
    request: Request, session: SignedIn, student: int, wanted: FeeWanted, key: OnceKey
) -> FeeHolds:
    """Place a fee hold. The same key places it only once."""
    context = services_of(request).context
    offices.place_fee_hold(
        context, session.person.id, known_id(student), wanted.reason, wanted.amount_cents, key
    )
    return read_fee_holds(request, session, student)


@router.post("/students/{student}/fee-holds/{hold_id}/lifting")
def lift_fee_hold(
    request: Request, session: SignedIn, student: int, hold_id: int, lifted: Lifted
) -> FeeHolds:
    """Lift a fee hold."""
    context = services_of(request).context
    offices.lift_fee_hold(context, session.person.id, known_id(student), known_id(hold_id), lifted.why)
    return read_fee_holds(request, session, student)
