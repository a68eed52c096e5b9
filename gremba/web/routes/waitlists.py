"""Waitlists: places, offers and their answers, messages."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from pydantic import StringConstraints

from gremba.actions import offers
from gremba.actions.offers import Acceptance, Answer
from gremba.actions.problem import Problem
from gremba.core.catalogue import Section, TermCatalogue
from gremba.core.chances import Chances
from gremba.core.plain_text import has_odd_signs
from gremba.core.waitlist import closes_at
from gremba.core.wording import times_text
from gremba.formats import calendar_file
from gremba.formats.decision_json import title_of
from gremba.store.database import connected
from gremba.store.outbox import refused_mail
from gremba.store.waitlists import PlaceLine, count_news, mark_read, read_messages, read_places
from gremba.web.access import SignedIn
from gremba.web.routes.submissions import Key
from gremba.web.schemas import (
    MessagesView,
    NewsView,
    OfferChoice,
    OfferView,
    PlacesView,
    PlaceView,
    ReadUpTo,
    RefusedMail,
)
from gremba.web.services import services_of
from gremba.web.subject import SubjectId, actor_of

router = APIRouter(prefix="/api")

Numbers = Annotated[
    list[Annotated[str, StringConstraints(pattern=r"^[0-9]{5}$")]], Query(max_length=4)
]
Number = Annotated[str | None, Query(pattern=r"^[0-9]{5}$")]


@router.get("/terms/{term}/places")
def list_places(request: Request, subject_id: SubjectId, term: str) -> PlacesView:
    """The student's places on waitlists, open ones first, then those that have ended."""
    services = services_of(request)
    desk = services.desk
    found = desk.term(term)
    row = desk.student_term(subject_id, found)
    with connected(desk.database) as database:
        lines = read_places(database, row)
    return PlacesView(
        places=[_place_view(services.chances, found, p) for p in lines if p.section in found.by_id]
    )


def _place_view(chances: Chances, term: TermCatalogue, place: PlaceLine) -> PlaceView:
    section = term.by_id[place.section]
    in_exchange = term.by_id.get(place.in_exchange) if place.in_exchange else None
    zone = term.calendar.zone
    chance = None
    if place.state == "waiting":
        chance = chances.of(section, place.position)
    return PlaceView.model_validate(
        {
            "id": place.id,
            "section": _named(section),
            "title": title_of(section),
            "times": times_text(section),
            "state": place.state,
            "way": section.waitlist_way,
            "joined_at": place.joined_at.astimezone(zone),
            "ended_at": place.ended_at and place.ended_at.astimezone(zone),
            "offer_until": place.offer_until and place.offer_until.astimezone(zone),
            "closes_at": closes_at(section.block, term.calendar, term.policy),
            "position": place.position,
            "waiting": place.waiting,
            "in_exchange": in_exchange and _named(in_exchange),
            "names": [_named(term.by_id[n]) for n in place.names if n in term.by_id],
            "events": [
                {"what": e.what, "at": e.at.astimezone(zone), "cause": e.cause, "by": e.by}
                for e in place.events
            ],
            "chance": chance and {
                "sentence": chance.sentence, "came_up": chance.came_up, "of": chance.of,
                "low": chance.low, "high": chance.high,
            },
        }
    )  # fmt: skip


def _named(section: Section) -> dict[str, str]:
    return {"name": section.name, "number": section.reference_number}


@router.get("/places/{place_id}/offer")
def look_at_offer(
    request: Request,
    subject_id: SubjectId,
    place_id: int,
    in_exchange: Number = None,
    names: Numbers = [],  # noqa: B006
) -> OfferView:
    """What accepting an offer would lead to; nothing is changed."""
    desk = services_of(request).desk
    how = Acceptance(in_exchange or "", tuple(names))
    return _offer_view(offers.look_at_offer(desk, subject_id, place_id, how))


@router.get(
    "/places/{place_id}/deadline",
    responses={200: {"description": "A calendar (RFC 5545)", "content": {"text/calendar": {}}}},
    response_class=Response,
)
def download_deadline(request: Request, subject_id: SubjectId, place_id: int) -> Response:
    """An open offer's deadline as a calendar file, with an alarm."""
    desk = services_of(request).desk
    body = offers.deadline_of(desk, subject_id, place_id)
    return Response(
        body, media_type=calendar_file.MEDIA_TYPE,
        headers={"Content-Disposition": 'attachment; filename="deadline.ics"'},
    )  # fmt: skip


@router.post("/places/{place_id}/acceptance")
def accept_offer(
    request: Request,
    session: SignedIn,
    subject_id: SubjectId,
    place_id: int,
    choice: OfferChoice,
    key: Key,
) -> OfferView:
    """Accept an offer. Where the rules do not agree nothing is changed and the offer stands; repeated,
    it answers with the first receipt."""
    desk = services_of(request).desk
    how = Acceptance(choice.in_exchange or "", tuple(choice.names))
    return _offer_view(offers.accept_offer(desk, subject_id, place_id, how, actor_of(session), key))


def _offer_view(answer: Answer) -> OfferView:
    term = answer.term
    section = term.by_id[answer.place.section]
    return OfferView.model_validate(
        {
            "possible": answer.is_possible,
            **answer.decision,
            "full": list(answer.full),
            "companions": [
                _named(s) for group in term.companions_of(section).values() for s in group
                if not s.cancelled
            ],
            "swaps": [_named(h.section) for h in answer.held if h.section.carries_credit],
            "receipt": answer.receipt,
        }
    )  # fmt: skip


@router.post("/places/{place_id}/refusal", status_code=204)
def decline_offer(request: Request, session: SignedIn, subject_id: SubjectId, place_id: int) -> None:
    """Decline an offer: the seat goes to the next at once."""
    services = services_of(request)
    offers.decline_offer(services.desk, subject_id, place_id, actor_of(session))
    services.sweeper.wake()


@router.delete("/places/{place_id}", status_code=204)
def leave_waitlist(request: Request, session: SignedIn, subject_id: SubjectId, place_id: int) -> None:
    """Leave a waitlist."""
    services = services_of(request)
    offers.leave_waitlist(services.desk, subject_id, place_id, actor_of(session))
    services.sweeper.wake()


@router.get("/terms/{term}/messages")
def list_messages(request: Request, subject_id: SubjectId, term: str) -> MessagesView:
    """The student's messages, newest first."""
    desk = services_of(request).desk
    found = desk.term(term)
    row = desk.student_term(subject_id, found)
    with connected(desk.database) as database:
        messages = read_messages(database, row)
    return MessagesView.model_validate({"messages": list(messages)}, from_attributes=True)


@router.put("/terms/{term}/messages/read")
def mark_messages_read(request: Request, subject_id: SubjectId, term: str, up_to: ReadUpTo) -> NewsView:
    """Messages up to this one have been read."""
    desk = services_of(request).desk
    row = desk.student_term(subject_id, desk.term(term))
    with connected(desk.database) as database:
        mark_read(database, row, up_to.id, desk.clock.now())
    return read_news(request, subject_id, term)


@router.get("/terms/{term}/news")
def read_news(request: Request, subject_id: SubjectId, term: str) -> NewsView:
    """Messages not read, and open offers."""
    desk = services_of(request).desk
    found = desk.term(term)
    row = desk.student_term(subject_id, found)
    with connected(desk.database) as database:
        unread, offers, first = count_news(database, row)
    lapses = first and first.astimezone(found.calendar.zone)
    return NewsView(unread=unread, offers=offers, first_lapses=lapses)


@router.put("/terms/{term}/places/{place_id}/rank", status_code=204)
def move_place(
    request: Request, session: SignedIn, term: str, place_id: int, before: int, reason: str = ""
) -> None:
    """Move a waiting place in front of another; the reason is recorded."""
    if len(reason.strip()) < 5 or len(reason) > 400 or has_odd_signs(reason):
        raise Problem("reason-missing", "Why?", "Give the reason in a plain sentence.", 422)
    services = services_of(request)
    offers.move_place(services.desk, place_id, before, actor_of(session), reason.strip())


@router.get("/mail/refused")
def list_refused_mail(
    request: Request, before: Annotated[int | None, Query(ge=1, le=2**62)] = None
) -> RefusedMail:
    """Mail to students that was refused for good, with what the server said; fifty at a time. The
    students find the messages in Gremba all the same."""
    most = 50
    with connected(services_of(request).desk.database) as database:
        found = refused_mail(database, before, most + 1)
    return RefusedMail.model_validate(
        {"mails": list(found[:most]), "more": len(found) > most}, from_attributes=True
    )
