"""Turns permission requests into responses."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from gremba.actions.permission.answer import latest_until_of
from gremba.actions.permission.ask import AskingLook
from gremba.actions.permission.to_answer import Answerable, ToAnswer, Told
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.permission.answering import MOST_WORDS
from gremba.core.registration.outcome import Result
from gremba.core.states import PermissionState
from gremba.core.wording import times_text
from gremba.formats.decision_json import title_of
from gremba.store.permission.requests import DelegateRow
from gremba.web.schemas import (
    AskingResponse,
    DelegateResponse,
    OpenElsewhere,
    RequestResponse,
    RequestsToAnswer,
    RequestToAnswer,
    SectionToAnswer,
)

MOST_OF_RECORD = 40


def asking_response(look: AskingLook) -> AskingResponse:
    """What a request for a section would cover."""
    section, asking = look.section, look.asking
    by_number = look.situation.catalogue.by_number
    with_it = [
        f"{c.kind.value} {by_number[c.number].name if c.number in by_number else c.number}"
        for c in look.request.changes
        if c.number != section.reference_number
    ]
    return AskingResponse.model_validate(
        {
            "number": section.reference_number,
            "name": section.name,
            "title": title_of(section),
            "times": times_text(section.meetings),
            "waives": [w.value for w in asking.waives],
            "lifted": list(asking.lifted),
            "who": list(look.who),
            "otherwise": list(asking.otherwise),
            "with_it": with_it,
            "why_not": asking.why_not,
            "may_wait": asking.may_wait,
            "open_request": None if look.open is None else look.open.id,
            "most_words": MOST_WORDS,
        }
    )


def request_data(told: Told, now: datetime) -> dict[str, Any]:
    """A RequestResponse as plain data."""
    row, section = told.row, told.section
    is_granted = row.state is PermissionState.GRANTED
    return {
        "id": row.id,
        "version": row.version,
        "number": section.reference_number,
        "name": section.name,
        "title": title_of(section),
        "state": row.state.value,
        "waives": list(row.waives),
        "who": told.who,
        "asked_at": row.asked_at,
        "since": row.since,
        "good_until": row.good_until,
        "is_good": is_granted and row.used_at is None and row.good_until is not None and now < row.good_until,
        "used_at": row.used_at,
        "confirmation": row.confirmation,
        "goes_through": row.goes_through,
        "words": row.words,
        "otherwise": list(row.otherwise),
        "events": [
            {
                "what": e.what.value,
                "at": e.at,
                "by": e.by,
                "stands_for": e.stands_for,
                "words": e.words,
            }
            for e in told.events
        ],
        "files": [{"id": f.id, "name": f.name, "size": f.size} for f in told.files],
    }


def request_response(told: Told, now: datetime) -> RequestResponse:
    """A request as its student sees it."""
    return RequestResponse.model_validate(request_data(told, now))


def _to_answer(one: ToAnswer, names: Mapping[int, str], now: datetime) -> RequestToAnswer:
    situation, student = one.situation, one.situation.student
    attempts = list(reversed(situation.record.attempts))[:MOST_OF_RECORD]
    number = one.told.section.reference_number
    goes = all(o.result is Result.ACCEPTED for o in one.granted.outcomes if o.change.number == number)
    stands_for = one.having.stands_for if one.having is not None else None
    return RequestToAnswer.model_validate(
        {
            **request_data(one.told, now),
            "student": student.name,
            "program": student.program,
            "class_standing": situation.class_standing,
            "standing": student.standing,
            "credits_earned": situation.credits_earned,
            "record": [
                {"course": a.course, "term": a.term, "grade": a.grade or "", "credits": a.credits}
                for a in attempts
            ],
            "credits_before": one.granted.before.credits,
            "credits_after": one.granted.after.credits,
            "credit_limit": situation.credit_limit,
            "goes": goes,
            "still_stops": list(one.otherwise),
            "week": [f"{h.section.name} {times_text(h.section.meetings)}" for h in situation.held],
            "is_mine": one.having is not None,
            "stands_for": names.get(stands_for, "") if stands_for is not None else "",
        }
    )


def answerable_response(
    found: Answerable,
    delegates: list[DelegateRow],
    elsewhere: list[tuple[TermCatalogue, int]],
    me: int,
    now: datetime,
) -> RequestsToAnswer:
    """Everything somebody has to decide: sections with open requests first, then by name."""
    sections: dict[int, list[ToAnswer]] = {}
    for one in found.requests:
        sections.setdefault(one.told.section.id, []).append(one)
    shown = [_section(found, requests, now) for requests in sections.values()]
    shown.sort(key=lambda s: (not any(r.is_mine for r in s.requests), s.name, s.number))
    return RequestsToAnswer(
        open=sum(one.having is not None for one in found.requests),
        sections=shown,
        delegates=[
            DelegateResponse(
                id=d.id,
                person=d.person_name,
                delegate=d.delegate_name,
                from_on=d.from_on,
                until_on=d.until_on,
                is_mine=d.person == me,
            )
            for d in delegates
        ],
        latest_until=latest_until_of(found.term, now),
        more=found.more,
        elsewhere=[OpenElsewhere(term=t.code, name=t.name, open=many) for t, many in elsewhere],
    )


def _section(found: Answerable, requests: list[ToAnswer], now: datetime) -> SectionToAnswer:
    section = requests[0].told.section
    room = found.rooms[section.pool]
    seats = requests[0].situation.seats.get(section.pool, SeatFigures(0, 0))
    return SectionToAnswer(
        number=section.reference_number,
        name=section.name,
        title=title_of(section),
        times=times_text(section.meetings),
        limit=room.limit,
        taken=room.taken,
        offered=room.offered,
        promised=room.promised,
        waiting=seats.waiting,
        room=room.capacity,
        room_left=room.left,
        let_in=found.let_in.get(section.id, 0),
        requests=[_to_answer(r, found.names, now) for r in requests],
    )
