"""Routes of waitlists, offers and messages."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from pydantic import StringConstraints

from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.actions.waitlists import offers
from gremba.actions.waitlists.offers import Acceptance, OfferOutcome
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.messages import OF_MONEY, MessageKind
from gremba.core.plain_text import has_odd_signs
from gremba.core.waitlists.chances import Chances
from gremba.core.waitlists.deadlines import closes_at
from gremba.core.waitlists.policy import waitlist_policy
from gremba.core.wording import times_text
from gremba.formats import calendar_file
from gremba.formats.decision_json import title_of
from gremba.store.access.sessions import Session
from gremba.store.database import connected, reading
from gremba.store.messages.inbox import count_news, mark_read, read_messages
from gremba.store.messages.outbox import refused_mail
from gremba.store.waitlists.lines import EntryLine, read_entries
from gremba.web.access.guard import SignedIn
from gremba.web.access.subject import SubjectId, actor_of
from gremba.web.registration.responses import due_change
from gremba.web.registration.submission_routes import Key
from gremba.web.schemas import (
    MessagesResponse,
    NewsResponse,
    OfferChoice,
    OfferResponse,
    ReadUpTo,
    RefusedMailResponse,
    WaitlistEntriesResponse,
    WaitlistEntryResponse,
)
from gremba.web.services import services_of

router = APIRouter(prefix="/api")

Numbers = Annotated[list[Annotated[str, StringConstraints(pattern=r"^[0-9]{5}$")]], Query(max_length=4)]
Number = Annotated[str | None, Query(pattern=r"^[0-9]{5}$")]


@router.get("/terms/{term}/waitlist-entries")
def list_entries(request: Request, subject_id: SubjectId, term: str) -> WaitlistEntriesResponse:
    """A student's waitlist entries, open ones first."""
    services = services_of(request)
    context = services.context
    found = context.term(term)
    row = context.student_term(subject_id, found)
    with reading(context.database) as database:
        lines = read_entries(database, row)
    return WaitlistEntriesResponse(
        entries=[_entry_response(services.chances, found, p) for p in lines if p.section in found.by_id]
    )


def _entry_response(chances: Chances, term: TermCatalogue, entry: EntryLine) -> WaitlistEntryResponse:
    section = term.by_id[entry.section]
    in_exchange = term.by_id.get(entry.in_exchange) if entry.in_exchange else None
    zone = term.calendar.zone
    chance = None
    if entry.state == "waiting":
        chance = chances.of(section, entry.position)
    return WaitlistEntryResponse.model_validate(
        {
            "id": entry.id,
            "section": _named(section),
            "title": title_of(section),
            "times": times_text(section.meetings),
            "state": entry.state,
            "how": waitlist_policy(section).while_waiting,
            "joined_at": entry.joined_at.astimezone(zone),
            "ended_at": entry.ended_at and entry.ended_at.astimezone(zone),
            "offer_until": entry.offer_until and entry.offer_until.astimezone(zone),
            "closes_at": closes_at(section.session, term.calendar, term.policy),
            "position": entry.position,
            "waiting": entry.waiting,
            "in_exchange": in_exchange and _named(in_exchange),
            "chosen_linked_sections": [
                _named(term.by_id[n]) for n in entry.chosen_linked_sections if n in term.by_id
            ],
            "events": [
                {"what": e.what, "at": e.at.astimezone(zone), "cause": e.cause, "by": e.by}
                for e in entry.events
            ],
            "chance": chance
            and {
                "sentence": chance.sentence,
                "came_up": chance.came_up,
                "of": chance.of,
                "low": chance.low,
                "high": chance.high,
            },
        }
    )


def _named(section: Section) -> dict[str, str]:
    return {"name": section.name, "number": section.reference_number}


@router.get("/waitlist-entries/{entry_id}/offer")
def look_at_offer(
    request: Request,
    subject_id: SubjectId,
    entry_id: int,
    in_exchange: Number = None,
    chosen_linked_sections: Numbers = [],  # noqa: B006
) -> OfferResponse:
    """Preview accepting an offer. Nothing is changed."""
    context = services_of(request).context
    how = Acceptance(in_exchange or "", tuple(chosen_linked_sections))
    return _offer_response(offers.look_at_offer(context, subject_id, entry_id, how))


@router.get(
    "/waitlist-entries/{entry_id}/deadline",
    responses={200: {"description": "A calendar (RFC 5545)", "content": {"text/calendar": {}}}},
    response_class=Response,
)
def download_deadline(request: Request, subject_id: SubjectId, entry_id: int) -> Response:
    """Download an open offer's deadline as an iCalendar file with an alarm."""
    context = services_of(request).context
    body = offers.deadline_of(context, subject_id, entry_id)
    return Response(
        body,
        media_type=calendar_file.MEDIA_TYPE,
        headers={"Content-Disposition": 'attachment; filename="deadline.ics"'},
    )


@router.post("/waitlist-entries/{entry_id}/acceptance")
def accept_offer(
    request: Request,
    session: SignedIn,
    subject_id: SubjectId,
    entry_id: int,
    choice: OfferChoice,
    key: Key,
) -> OfferResponse:
    """Accept an offer. If a rule blocks it, nothing is changed and the offer stands. Repeating it returns the
    first confirmation."""
    context = services_of(request).context
    how = Acceptance(choice.in_exchange or "", tuple(choice.chosen_linked_sections))
    return _offer_response(offers.accept_offer(context, subject_id, entry_id, how, actor_of(session), key))


def _offer_response(answer: OfferOutcome) -> OfferResponse:
    term = answer.term
    section = term.by_id[answer.entry.section]
    return OfferResponse.model_validate(
        {
            "possible": answer.is_possible,
            **answer.decision,
            "due": due_change(answer.due, term.calendar.zone),
            "full": list(answer.full),
            "linked_sections": [
                _named(s)
                for group in term.linked_sections_of(section).values()
                for s in group
                if not s.cancelled
            ],
            "swaps": [_named(h.section) for h in answer.held if h.section.carries_credit],
            "confirmation": answer.confirmation,
        }
    )


@router.post("/waitlist-entries/{entry_id}/refusal", status_code=204)
def decline_offer(request: Request, session: SignedIn, subject_id: SubjectId, entry_id: int) -> None:
    """Decline an offer; the seat is offered to the next student."""
    services = services_of(request)
    offers.decline_offer(services.context, subject_id, entry_id, actor_of(session))
    services.sweeper.wake()


@router.delete("/waitlist-entries/{entry_id}", status_code=204)
def leave_waitlist(request: Request, session: SignedIn, subject_id: SubjectId, entry_id: int) -> None:
    """Leave a waitlist."""
    services = services_of(request)
    offers.leave_waitlist(services.context, subject_id, entry_id, actor_of(session))
    services.sweeper.wake()


@router.get("/terms/{term}/messages")
def list_messages(request: Request, session: SignedIn, subject_id: SubjectId, term: str) -> MessagesResponse:
    """A student's messages, newest first. Those about payments are hidden from advisors."""
    context = services_of(request).context
    found = context.term(term)
    row = context.student_term(subject_id, found)
    with connected(context.database) as database:
        messages = read_messages(database, row, _left_out(session, subject_id))
    return MessagesResponse.model_validate({"messages": list(messages)}, from_attributes=True)


def _left_out(session: Session, subject_id: int) -> frozenset[MessageKind]:
    return frozenset() if session.person.id == subject_id else OF_MONEY


@router.put("/terms/{term}/messages/read")
def mark_messages_read(
    request: Request, session: SignedIn, subject_id: SubjectId, term: str, up_to: ReadUpTo
) -> NewsResponse:
    """Mark messages up to this one as read."""
    context = services_of(request).context
    row = context.student_term(subject_id, context.term(term))
    with connected(context.database) as database:
        mark_read(database, row, up_to.id, context.clock.now())
    return read_news(request, session, subject_id, term)


@router.get("/terms/{term}/news")
def read_news(request: Request, session: SignedIn, subject_id: SubjectId, term: str) -> NewsResponse:
    """The number of unread messages, and open offers."""
    context = services_of(request).context
    found = context.term(term)
    row = context.student_term(subject_id, found)
    with connected(context.database) as database:
        unread, offers, first = count_news(database, row, _left_out(session, subject_id))
    lapses = first and first.astimezone(found.calendar.zone)
    return NewsResponse(unread=unread, offers=offers, first_lapses=lapses)


@router.put("/terms/{term}/waitlist-entries/{entry_id}/rank", status_code=204)
def move_entry(
    request: Request, session: SignedIn, term: str, entry_id: int, before: int, reason: str = ""
) -> None:
    """Move a waitlist entry in front of another; the reason is recorded."""
    if len(reason.strip()) < 5 or len(reason) > 400 or has_odd_signs(reason):
        raise Problem(ProblemKind.REASON_MISSING, "Give the reason in a plain sentence.")
    services = services_of(request)
    offers.move_entry(services.context, entry_id, before, actor_of(session), reason.strip())


@router.get("/mail/refused")
def list_refused_mail(
    request: Request, before: Annotated[int | None, Query(ge=1, le=2**62)] = None
) -> RefusedMailResponse:
    """List mail to students that was permanently rejected, with the mail server's answer, fifty at a time.
    The messages are still in Gremba."""
    most = 50
    with connected(services_of(request).context.database) as database:
        found = refused_mail(database, before, most + 1)
    return RefusedMailResponse.model_validate(
        {"mails": list(found[:most]), "more": len(found) > most}, from_attributes=True
    )
