"""Submits what was granted, for students who asked for that beforehand."""

from __future__ import annotations

from datetime import datetime

import orjson

from gremba.actions.context import ActionContext
from gremba.actions.permission.changes import changes_from_data
from gremba.actions.permission.telling import tell_student
from gremba.actions.problem import Problem
from gremba.actions.registration.look_at_cart import pools_in_sight
from gremba.actions.registration.process_submissions import process_submissions
from gremba.actions.registration.submission import Submission
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.messages import MessageKind
from gremba.core.permission.asking import still_stopping
from gremba.core.registration.changes import Request
from gremba.core.registration.decision import decide
from gremba.core.registration.outcome import Result
from gremba.core.states import PermissionEventKind
from gremba.core.wording import moment
from gremba.store.database import connected
from gremba.store.permission.requests import (
    SUBMITTED_AS,
    RequestRow,
    claim_trying,
    events_of,
    lock_request,
    put_event,
)
from gremba.store.registration.situations import read_seats, read_situations


def put_through(context: ActionContext, row: RequestRow) -> bool:
    """Register an approved request if nothing blocks it; returns whether it did.

    It is decided beforehand with nothing locked, so that what cannot go through yet leaves no confirmation of
    a refusal behind. The student is told the first time it cannot. Any number of processes may try: one
    of them does.
    """
    now = context.clock.now()
    with connected(context.database) as database:
        if not claim_trying(database, row, now):
            return False
        why = _why_not(context, row, now)
    if not why:
        confirmation = _submit(context, row, now)
        if confirmation is not None:
            tell_done(context, row, confirmation)
            return True
        why = "something has changed in between."
    if row.tried_at is None:
        _tell_stuck(context, row, why, now)
    return False


def _why_not(context: ActionContext, row: RequestRow, now: datetime) -> str:
    """What blocks it now, in a sentence; "" for nothing."""
    term, database = context.term(row.term), context.database
    request = Request(changes_from_data(row.changes))
    seats: dict[int, SeatFigures] = {}
    situation = read_situations(database, {row.student_term_id: term}, seats)[row.student_term_id]
    seats.update(read_seats(database, pools_in_sight(situation, request)))
    decision = decide(situation, request, now)
    if all(o.result is Result.ACCEPTED for o in decision.outcomes):
        return ""
    stops = still_stopping(decision)
    return stops[0] if stops else "it would only wait for a seat."


def _submit(context: ActionContext, row: RequestRow, now: datetime) -> int | None:
    """Submits it; returns the confirmation, or None if it was refused after all."""
    term = context.term(row.term)
    submission = Submission(
        student_term_id=row.student_term_id,
        term=term,
        request=Request(changes_from_data(row.changes)),
        key=f"{SUBMITTED_AS}{row.id}-{row.version}-{int(now.timestamp())}",
        by=row.student_id,
        by_name=f"{row.student}’s request, granted",
    )
    (answer,) = process_submissions(context, [submission])
    if isinstance(answer, Problem):
        return None
    number = term.by_id[row.section].reference_number
    outcomes = orjson.loads(answer.body)["outcomes"]
    is_done = any(o["number"] == number and o["result"] == Result.ACCEPTED for o in outcomes)
    return answer.id if is_done else None


def tell_done(context: ActionContext, row: RequestRow, confirmation: int) -> bool:
    """Record and tell that a request was registered; returns whether this was new."""
    section = context.term(row.term).by_id[row.section]
    now = context.clock.now()
    with connected(context.database) as database, database.atomic():
        lock_request(database, row.id)
        events = events_of(database, [row.id]).get(row.id, ())
        if any(event.what is PermissionEventKind.PUT_THROUGH for event in events):
            return False
        put_event(
            database, row.id, PermissionEventKind.PUT_THROUGH, now, None, f"Confirmation {confirmation}"
        )
        tell_student(database, row, section, MessageKind.REQUEST_THROUGH, now, confirmation=confirmation)
    return True


def _tell_stuck(context: ActionContext, row: RequestRow, why: str, now: datetime) -> None:
    term = context.term(row.term)
    until = "" if row.good_until is None else moment(row.good_until.astimezone(term.calendar.zone))
    with connected(context.database) as database, database.atomic():
        put_event(database, row.id, PermissionEventKind.STUCK, now, None, why)
        stuck = MessageKind.REQUEST_STUCK
        tell_student(database, row, term.by_id[row.section], stuck, now, why=why, until=until)
