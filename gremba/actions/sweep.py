"""The sweep: whatever the passing of time, or a process that died, has left to be done.

Any number may run at once and end anywhere: each step takes its locks, looks again, and does what
is still to be done in one transaction.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Sequence

import structlog

from gremba.actions.desk import Desk
from gremba.actions.rings import serve_rings
from gremba.actions.vacancies import fill_vacancies
from gremba.core.catalogue import TermCatalogue
from gremba.core.states import WaitlistEventKind, WaitlistState
from gremba.core.waitlist import closes_at
from gremba.store.database import Unavailable, connected
from gremba.store.places import (
    PlaceRow,
    change_place,
    due_offers,
    lock_places,
    note_released_parts,
    open_places,
    put_message,
)
from gremba.store.situations import lock_seats, lock_student_terms

log = structlog.get_logger()

OFTEN = 1.0
"""Seconds between two sweeps, where nothing asks for one sooner."""

RINGS_OFTEN = 20.0
"""Seconds between two looks for rings, where nothing asks for one sooner."""

_MANY = 200


def sweep(desk: Desk, terms: Sequence[TermCatalogue]) -> int:
    """Let offers lapse, close waitlists, serve freed seats; gives how many places moved.

    Statements where there is nothing to do: two, and two a term; one or two more where waitlists
    have closed or sections are cancelled.
    """
    moved = _lapse(desk)
    for term in terms:
        moved += _close(desk, term)
        with connected(desk.database) as database:
            note_released_parts(database, term.calendar.local_date(desk.clock.now()))
    return moved + fill_vacancies(desk)


def _lapse(desk: Desk) -> int:
    with connected(desk.database) as database:
        due = due_offers(database, desk.clock.now(), _MANY)

    def tell(place: PlaceRow, term: TermCatalogue) -> tuple[str, str]:
        section = term.by_id[place.section]
        return (
            f"The offer for {section.name} has lapsed",
            f"Nobody answered in time, so the seat in {section.name} {section.reference_number} "
            "went to the next. You may join its waitlist again, at the end.",
        )

    return _end_all(desk, due, WaitlistState.LAPSED, "not answered in time", tell)


_WAITING = (WaitlistState.WAITING,)
_OPEN = (WaitlistState.WAITING, WaitlistState.OFFERED)


def _close(desk: Desk, term: TermCatalogue) -> int:
    now = desk.clock.now()
    over = [
        section
        for block, sections in term.waited_for.items()
        if now >= closes_at(block, term.calendar, term.policy)
        for section in sections
    ]
    with connected(desk.database) as database:
        places = open_places(database, over, _WAITING) if over else []
        gone = (
            open_places(database, term.cancelled, _OPEN) if term.cancelled else []
        )

    def tell_over(place: PlaceRow, term: TermCatalogue) -> tuple[str, str]:
        section = term.by_id[place.section]
        return (
            f"The waitlist for {section.name} has closed",
            f"No seat came in {section.name} {section.reference_number} in time. Should one be free "
            "now, whoever comes first has it.",
        )

    def tell_cancelled(place: PlaceRow, term: TermCatalogue) -> tuple[str, str]:
        section = term.by_id[place.section]
        return (
            f"{section.name} {section.reference_number} is cancelled",
            "It does not take place, so your place on its waitlist has ended. Look for another "
            "section of the course.",
        )

    moved = _end_all(desk, gone, WaitlistState.CLOSED, "the section was cancelled", tell_cancelled)
    return moved + _end_all(desk, places, WaitlistState.CLOSED, "the waitlist closed", tell_over)


Tell = Callable[[PlaceRow, TermCatalogue], tuple[str, str]]


def _end_all(
    desk: Desk, places: Sequence[PlaceRow], state: WaitlistState, cause: str, tell: Tell
) -> int:
    """End places, each by itself: one that fails delays no other. Gives how many were ended."""
    ended = 0
    for place in places:
        try:
            ended += _end(desk, place, place.state, state, cause, tell)
        except Unavailable as problem:
            log.warning("a place was not ended", place=place.id, problem=str(problem).strip())
        except Exception:
            log.exception("a place could not be ended", place=place.id)
    return ended


def _end(
    desk: Desk,
    place: PlaceRow,
    was: WaitlistState,
    state: WaitlistState,
    cause: str,
    tell: Tell,
) -> int:
    """End a place, if it is still as it was."""
    with connected(desk.database) as database, database.atomic():
        # The student's row too: no decision on them speaks of a place that ends meanwhile.
        lock_student_terms(database, [place.student_term_id])
        lock_seats(database, [place.pool])
        now_there = lock_places(database, [place.id])[place.id]
        now = desk.clock.now()
        due = was != WaitlistState.OFFERED or state != WaitlistState.LAPSED or (
            now_there.offer_until is not None and now_there.offer_until < now
        )
        if now_there.state != was or not due:
            return 0
        change_place(database, now_there, state, WaitlistEventKind(state), now, cause)
        title, body = tell(place, desk.term(place.term))
        put_message(database, place, title, body, now)
        return 1


class Sweeper(threading.Thread):
    """Does something over and over: every so often, and at once when it is woken.

    Args:
        work: what it does for the terms there are.
        often: seconds between two times, where nothing wakes it.
    """

    def __init__(
        self,
        name: str,
        work: Callable[[Sequence[TermCatalogue]], object],
        terms: Callable[[], Sequence[TermCatalogue]],
        often: float,
    ) -> None:
        super().__init__(name=name, daemon=True)
        self._work = work
        self._terms = terms
        self._often = often
        self._wake = threading.Event()
        self._ending = threading.Event()

    def wake(self, _: str = "") -> None:
        """There is something to do."""
        self._wake.set()

    def run(self) -> None:
        """Work until :meth:`stop`."""
        while not self._ending.is_set():
            self._wake.wait(self._often)
            self._wake.clear()
            if self._ending.is_set():
                return
            try:
                self._work(self._terms())
            except Unavailable as problem:
                # Also where two have waited for one another and the database ended one of them.
                log.warning("a sweep was interrupted", by=self.name, problem=str(problem).strip())
            except Exception:
                log.exception("a sweep failed", by=self.name)

    def stop(self) -> None:
        """End the thread."""
        self._ending.set()
        self._wake.set()
        self.join(timeout=5)


class Sweepers:
    """Offers and lapses, and apart from them, since they are no promise to anybody, rings."""

    def __init__(self, desk: Desk, terms: Callable[[], Sequence[TermCatalogue]]) -> None:
        self._offers = Sweeper("sweeper", lambda found: sweep(desk, found), terms, OFTEN)
        self._rings = Sweeper(
            "rings", lambda found: [serve_rings(desk, term) for term in found], terms, RINGS_OFTEN
        )

    def start(self) -> None:
        """Begin."""
        self._offers.start()
        self._rings.start()

    def wake(self, _: str = "") -> None:
        """There is something to do."""
        self._offers.wake()
        self._rings.wake()

    def stop(self) -> None:
        """End both."""
        self._offers.stop()
        self._rings.stop()
