"""The sweep: does what has become due by the passing of time, or was left by a process that died.

Any number may run at once and end anywhere: each step takes its locks, looks again, and does what
is still to be done in one transaction.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import structlog

from gremba.actions.account.due_dates import OFTEN as DUE_DATES_OFTEN
from gremba.actions.account.due_dates import DueDates
from gremba.actions.context import ActionContext
from gremba.actions.permission.follow import OFTEN as REQUESTS_OFTEN
from gremba.actions.permission.follow import RequestFollower
from gremba.actions.waitlists.freed_seats import fill_freed_seats
from gremba.actions.waitlists.trades import close_trades
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.messages import MessageKind, message
from gremba.core.states import TermState, WaitlistEventKind, WaitlistState
from gremba.core.waitlists.deadlines import closes_at
from gremba.store.database import Unavailable, connected
from gremba.store.long_lived_thread import LongLivedThread
from gremba.store.messages.inbox import put_message
from gremba.store.registration.situations import lock_seats, lock_student_terms
from gremba.store.waitlists.entries import (
    EntryRow,
    change_entry,
    due_offers,
    lock_entries,
    note_released_seats,
    open_entries,
)

log = structlog.get_logger()

OFTEN = 1.0
"""Seconds between two sweeps, where nothing asks for one sooner."""

TRADES_OFTEN = 20.0
"""Seconds between two looks for trades, where nothing asks for one sooner."""

_MANY = 200


def sweep(context: ActionContext, terms: Sequence[TermCatalogue]) -> int:
    """Expire offers, close waitlists, and give freed seats; returns how many entries moved.

    Statements where there is nothing to do: two, and two a term; one or two more where waitlists
    have closed or sections are cancelled.
    """
    moved = _lapse(context)
    for term in terms:
        moved += _close(context, term)
        with connected(context.database) as database:
            note_released_seats(database, term.calendar.local_date(context.clock.now()))
    return moved + fill_freed_seats(context)


def _lapse(context: ActionContext) -> int:
    with connected(context.database) as database:
        due = due_offers(database, context.clock.now(), _MANY)

    return _end_all(context, due, WaitlistState.LAPSED, MessageKind.LAPSED, "not answered in time")


_WAITING = (WaitlistState.WAITING,)
_OPEN = (WaitlistState.WAITING, WaitlistState.OFFERED)


def _close(context: ActionContext, term: TermCatalogue) -> int:
    now = context.clock.now()
    over = [
        section
        for session, sections in term.waited_for.items()
        if now >= closes_at(session, term.calendar, term.policy)
        for section in sections
    ]
    with connected(context.database) as database:
        entries = open_entries(database, over, _WAITING) if over else []
        gone = open_entries(database, term.cancelled, _OPEN) if term.cancelled else []

    closed = WaitlistState.CLOSED
    moved = _end_all(context, gone, closed, MessageKind.CANCELLED, "the section was cancelled")
    return moved + _end_all(context, entries, closed, MessageKind.CLOSED, "the waitlist closed")


def _end_all(
    context: ActionContext, entries: Sequence[EntryRow], state: WaitlistState, kind: MessageKind, cause: str
) -> int:
    """Ends entries one by one, so that a failure delays no other. Returns how many ended."""
    ended = 0
    for entry in entries:
        try:
            ended += _end(context, entry, entry.state, state, kind, cause)
        except Unavailable as problem:
            log.warning("a waitlist entry was not ended", entry=entry.id, problem=str(problem).strip())
        except Exception:
            log.exception("a waitlist entry could not be ended", entry=entry.id)
    return ended


def _end(
    context: ActionContext,
    entry: EntryRow,
    was: WaitlistState,
    state: WaitlistState,
    kind: MessageKind,
    cause: str,
) -> int:
    """Ends an entry unless it has changed."""
    with connected(context.database) as database, database.atomic():
        # The student's row too: no decision on them speaks of an entry that ends meanwhile.
        lock_student_terms(database, [entry.student_term_id])
        lock_seats(database, [entry.pool])
        now_there = lock_entries(database, [entry.id])[entry.id]
        now = context.clock.now()
        due = (
            was != WaitlistState.OFFERED
            or state != WaitlistState.LAPSED
            or (now_there.offer_until is not None and now_there.offer_until < now)
        )
        if now_there.state != was or not due:
            return 0
        change_entry(database, now_there, state, WaitlistEventKind(state), now, cause)
        section = context.term(entry.term).by_id[entry.section]
        put_message(database, entry, message(kind, section), now)
        return 1


class Sweeper(LongLivedThread):
    """A thread that does something over and over for all terms.

    Args:
        work: what it does.
        often: seconds between two times, where nothing wakes it.
        patience: seconds that one time may take.
    """

    def __init__(
        self,
        name: str,
        work: Callable[[Sequence[TermCatalogue]], object],
        terms: Callable[[], Sequence[TermCatalogue]],
        often: float,
        patience: float = 300.0,
    ) -> None:
        super().__init__(name, often, patience)
        self._work = work
        self._terms = terms

    def turn(self) -> None:
        """Do it once."""
        self._work(self._terms())


def _close_trades(context: ActionContext, terms: Sequence[TermCatalogue]) -> None:
    for term in terms:
        if term.state is TermState.OPEN:
            close_trades(context, term)


class Sweepers:
    """The threads that give seats, find trades, act on due dates, and follow requests. They are separate so
    that slow work delays no other."""

    def __init__(self, context: ActionContext, terms: Callable[[], Sequence[TermCatalogue]]) -> None:
        self._due_dates = DueDates(context)
        # A drop for nonpayment of a whole college takes long, and is no trouble.
        self._dues = Sweeper("due dates", self._due_dates.work, terms, DUE_DATES_OFTEN, patience=7_200.0)
        self._offers = Sweeper("sweeper", lambda found: sweep(context, found), terms, OFTEN)
        self._requests = Sweeper("requests", RequestFollower(context).work, terms, REQUESTS_OFTEN)
        self._trades = Sweeper("trades", lambda found: _close_trades(context, found), terms, TRADES_OFTEN)

    @property
    def threads(self) -> tuple[LongLivedThread, ...]:
        """All threads."""
        return (self._offers, self._trades, self._dues, self._requests)

    def start(self) -> None:
        """Start them."""
        for thread in self.threads:
            thread.start()

    def wake(self, _: str = "") -> None:
        """Start the next pass now."""
        self._offers.wake()
        self._trades.wake()

    def clock_moved(self) -> None:
        """Start over after the clock was set."""
        self._due_dates.forget()
        self._dues.wake()
        self._requests.wake()
        self.wake()

    def stop(self) -> None:
        """End them."""
        for thread in self.threads:
            thread.stop()
