"""Follows open permission requests: sends reminders, closes those that expired, retries what was granted."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from datetime import timedelta

import structlog

from gremba.actions.context import ActionContext
from gremba.actions.permission.deciders import deciders_of
from gremba.actions.permission.put_through import put_through, tell_done
from gremba.actions.permission.telling import tell_deciders, tell_student
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.messages import MessageKind
from gremba.core.permission.answering import why_over, working_days_between
from gremba.core.states import PermissionEventKind, PermissionState, Waiver
from gremba.core.wording import moment
from gremba.store.database import Unavailable, connected
from gremba.store.permission.requests import (
    RequestRow,
    change_request,
    lock_request,
    note_reminded,
    open_requests,
    put_event,
    requests_to_put_through,
    requests_untold,
)
from gremba.store.registration.situations import lock_student_terms
from gremba.store.students.people import sections_held

log = structlog.get_logger()

OFTEN = 15.0
"""Seconds between two looks, where nothing asks for one sooner."""
TRIED_AGAIN_AFTER = timedelta(minutes=10)
"""Of the campus: so long after one try what was granted is tried again."""
_MANY = 100

_TOLD_WITHIN = timedelta(days=7)
"""Of the campus: what went through longer ago is not looked for any more."""


class RequestFollower:
    """Goes through open requests and unused approvals in batches.

    Any number of processes may do so at once, with the same result.
    """

    def __init__(self, context: ActionContext) -> None:
        self._context = context
        self._after = 0

    def work(self, terms: Sequence[TermCatalogue]) -> int:
        """One pass; returns how many requests moved. Four statements if there is nothing to do."""
        context = self._context
        now = context.clock.now()
        with connected(context.database) as database:
            rows = open_requests(database, self._after, _MANY)
            held = sections_held(database, [row.student_term_id for row in rows])
            granted = requests_to_put_through(database, now, TRIED_AGAIN_AFTER, _MANY)
            untold = requests_untold(database, now - _TOLD_WITHIN, _MANY)
        # The next look goes on where this one ended, and from the beginning after the last.
        self._after = rows[-1].id if len(rows) == _MANY else 0
        moved = 0
        for row in rows:
            moved += self._one(row, held[row.student_term_id], terms)
        for row in granted:
            moved += self._try(row)
        for row in untold:
            moved += self._tell(row)
        return moved

    def _tell(self, row: RequestRow) -> int:
        try:
            return int(row.confirmation is not None and tell_done(self._context, row, row.confirmation))
        except Unavailable as problem:
            log.warning("a request was not told of", request=row.id, problem=str(problem).strip())
        except Exception:
            log.exception("a request could not be told of", request=row.id)
        return 0

    def _try(self, row: RequestRow) -> int:
        try:
            return int(put_through(self._context, row))
        except Unavailable as problem:
            log.warning("a request was not put through", request=row.id, problem=str(problem).strip())
        except Exception:
            log.exception("a request could not be put through", request=row.id)
        return 0

    def _one(self, row: RequestRow, held: Collection[int], terms: Sequence[TermCatalogue]) -> int:
        """Handles each request separately, so that a failure delays no other."""
        try:
            return int(self._close(row, held) or self._remind(row, terms))
        except Unavailable as problem:
            log.warning("a request was not followed", request=row.id, problem=str(problem).strip())
        except Exception:
            log.exception("a request could not be followed", request=row.id)
        return 0

    def _close(self, row: RequestRow, held: Collection[int]) -> bool:
        context = self._context
        term = context.term(row.term)
        section = term.by_id[row.section]
        waives = [Waiver(w) for w in row.waives]
        now = context.clock.now()
        today = term.calendar.local_date(now)
        if not why_over(section, [term.by_id[s] for s in held], waives, today):
            return False
        own = row.student_term_id
        with connected(context.database) as database, database.atomic():
            lock_student_terms(database, [own])
            there = lock_request(database, row.id)
            # Looked at again: it is locked now.
            held = sections_held(database, [own])[own]
            why = why_over(section, [term.by_id[s] for s in held], waives, today)
            if there is None or not there.state.is_open or not why:
                return False
            change_request(database, row, PermissionState.CLOSED, since=now)
            put_event(database, row.id, PermissionEventKind.CLOSED, now, None, why)
            tell_student(database, row, section, MessageKind.REQUEST_CLOSED, now, why=why)
        return True

    def _remind(self, row: RequestRow, terms: Sequence[TermCatalogue]) -> bool:
        context = self._context
        term = context.term(row.term)
        now = context.clock.now()
        calendar = term.calendar
        last = calendar.local_date(row.reminded_at or row.since)
        days = working_days_between(last, calendar.local_date(now), [t.calendar for t in terms])
        if row.state is not PermissionState.OPEN or days < term.policy.permission.reminded_after_days:
            return False
        with connected(context.database) as database, database.atomic():
            there = lock_request(database, row.id)
            if there is None or there.version != row.version or there.reminded_at != row.reminded_at:
                return False
            note_reminded(database, row.id, now)
            put_event(database, row.id, PermissionEventKind.REMINDED, now, None)
            since = moment(row.since.astimezone(calendar.zone))
            waits, section = MessageKind.REQUEST_WAITS, term.by_id[row.section]
            tell_deciders(database, deciders_of(context, term, [row]), row, section, waits, now, since=since)
        return True
