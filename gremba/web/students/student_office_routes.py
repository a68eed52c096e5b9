"""Routes of the registrar's students."""

from __future__ import annotations

from fastapi import APIRouter, Request

from gremba.actions.permission.let_in import let_in
from gremba.actions.students import students
from gremba.actions.students.offices import lift
from gremba.core.plain_text import plain
from gremba.core.states import Stopped, Waiver
from gremba.web.access.guard import SignedIn
from gremba.web.access.subject import actor_of
from gremba.web.once import OnceKey
from gremba.web.registration.responses import hold_response
from gremba.web.schemas import (
    HoldWanted,
    Lifted,
    LimitWanted,
    OfficeEventResponse,
    OfficeStudent,
    OwnWindowResponse,
    RulesLifted,
)
from gremba.web.services import services_of
from gremba.web.values import campus_time, known_id

router = APIRouter(prefix="/api/office/terms/{term}/students/{student}")


def _seen(request: Request, term: str, student: int) -> OfficeStudent:
    context = services_of(request).context
    seen = students.see_student(context, term, known_id(student))
    zone, situation = seen.term.calendar.zone, seen.situation
    return OfficeStudent(
        id=seen.student.id,
        username=seen.student.username,
        full_name=seen.student.full_name,
        program=seen.student.program,
        cohort=seen.student.cohort,
        is_expected=situation is not None,
        standing=situation.student.standing if situation else "",
        credits_earned=situation.credits_earned if situation else 0.0,
        credits=situation.credits if situation else 0.0,
        credit_limit=situation.credit_limit if situation else 0.0,
        own_limit=situation.student.credit_limit if situation else None,
        registered=[f"{h.section.name} {h.section.reference_number}" for h in situation.held]
        if situation
        else [],
        waiting=len(situation.waitlist_entries) if situation else 0,
        windows=[
            OwnWindowResponse(
                opens_at=window.opens_at.astimezone(zone),
                closes_at=window.closes_at.astimezone(zone),
                was_assigned=window.was_assigned,
            )
            for window in seen.windows or ()
        ],
        holds=[hold_response(hold, None) for hold in seen.holds],
        events=[OfficeEventResponse.model_validate(event, from_attributes=True) for event in seen.events],
    )


@router.get("")
def see_student(request: Request, term: str, student: int) -> OfficeStudent:
    """A student's windows, holds, and what offices did."""
    return _seen(request, term, student)


@router.put("/limit")
def allow_limit(
    request: Request, session: SignedIn, term: str, student: int, wanted: LimitWanted
) -> OfficeStudent:
    """Set a student's own credit limit."""
    context = services_of(request).context
    reason = plain(wanted.reason).strip()
    students.allow_limit(context, term, known_id(student), wanted.credits, reason, session.person.id)
    request.state.detail = plain(f"{term}: credit limit {wanted.credits or 'of the standing'}: {reason}")
    return _seen(request, term, student)


@router.post("/holds")
def place_office_hold(
    request: Request, session: SignedIn, term: str, student: int, wanted: HoldWanted, key: OnceKey
) -> OfficeStudent:
    """Place a registrar's hold. The same key places it only once."""
    context = services_of(request).context
    reason, contact = plain(wanted.reason).strip(), plain(wanted.contact).strip()
    stops = [stop for stop in Stopped if stop.value in wanted.stops]
    students.place_hold(context, known_id(student), reason, contact, stops, session.person.id, key)
    request.state.detail = plain(f"hold placed, stops {', '.join(stops)}: {reason}")
    return _seen(request, term, student)


@router.post("/holds/{hold_id}/lifting")
def lift_office_hold(
    request: Request, session: SignedIn, term: str, student: int, hold_id: int, lifted: Lifted
) -> OfficeStudent:
    """Lift any hold."""
    context = services_of(request).context
    why = plain(lifted.why).strip()
    lift(context, session.person.id, known_id(student), known_id(hold_id), why)
    request.state.detail = plain(f"hold {hold_id} lifted: {why}")
    return _seen(request, term, student)


@router.post("/lifted-rules")
def lift_rules(
    request: Request, session: SignedIn, term: str, student: int, wanted: RulesLifted, key: OnceKey
) -> OfficeStudent:
    """Override rules for a student in one section, once and until a date. The same key does it only once."""
    context = services_of(request).context
    found = context.term(term)
    seen = students.see_student(context, term, known_id(student))
    let_in(
        context,
        actor_of(session),
        found,
        wanted.number,
        seen.student.username,
        [Waiver(what) for what in wanted.waives],
        wanted.words,
        campus_time(wanted.until, found),
        key=key,
    )
    request.state.detail = plain(f"{term} {wanted.number}: lifted {', '.join(wanted.waives)}. {wanted.words}")
    return _seen(request, term, student)
