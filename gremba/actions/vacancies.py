"""A seat that has come free goes to the first of those who wait who may have it."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

import structlog

from gremba.actions.desk import Desk
from gremba.actions.seat_giving import (
    Locked,
    give_seat,
    itself_for,
    lock_for,
    serve_for,
    why_refused,
)
from gremba.core.catalogue import Section, TermCatalogue
from gremba.core.promotion import companions_are_full, kept_for_others, seat_for
from gremba.core.rules.seats import seat_to_take
from gremba.core.states import Blocked, WaitlistEventKind, WaitlistState, WaitlistWay
from gremba.core.waitlist import offer_until
from gremba.core.wording import listed, moment, times_text
from gremba.store.database import Unavailable, connected
from gremba.store.places import (
    PlaceRow,
    change_place,
    clear_vacancy,
    heads,
    pass_over,
    put_message,
    vacant_pools,
)
from gremba.store.situations import lock_seats

log = structlog.get_logger()

AT_A_TIME = 12
"""So many of those who wait for a pool are looked at in one transaction."""


def fill_vacancies(desk: Desk) -> int:
    """Serve every pool with a seat that somebody waits for; gives how many places were served.

    Any number of processes may do so at once, with the same result. A pool that fails keeps its note,
    and delays no other.
    """
    with connected(desk.database) as database:
        pools = vacant_pools(database)
    served = 0
    for pool in pools:
        try:
            served += serve_pool(desk, pool)
        except Unavailable as problem:
            # Two may have waited for one another, and the database ended this one.
            log.warning("a pool could not be served", pool=pool, problem=str(problem).strip())
        except Exception:
            log.exception("a pool could not be served", pool=pool)
    return served


def serve_pool(desk: Desk, pool: int) -> int:
    """Give the free seats of a pool to the first who may have them, however many before them may
    not; gives how many were served. Newcomers are kept off while anybody waits.

    Whoever may not is passed over, told why, and not looked at again until something changes for
    them. Each transaction looks at a few, locks them in the order that all keep to, and looks again.
    """
    served = 0
    seen: set[int] = set()
    while True:
        many, done = _serve_some(desk, pool, seen)
        served += many
        if done:
            return served


def _serve_some(desk: Desk, pool: int, seen: set[int]) -> tuple[int, bool]:
    """Look at those at the head; gives how many were served, and whether that is all there is to do.

    Args:
        seen: places that could be neither served nor passed over; more are put into it.
    """
    with connected(desk.database) as database:
        first = heads(database, pool, AT_A_TIME, seen)
        if not first:
            with database.atomic():
                lock_seats(database, [pool])
                return 0, clear_vacancy(database, pool, seen)
    term = desk.term(first[0].term)
    with connected(desk.database) as database, database.atomic():
        locked = lock_for(desk, term, first, [pool])
        served = 0
        for place in heads(database, pool, AT_A_TIME, seen):
            if place.id not in locked.places:
                # Somebody has been moved up, or may have it again: begin with them.
                break
            if not locked.seats[pool].left:
                clear_vacancy(database, pool)
                return served, True
            served += _serve_one(desk, term, place, locked, seen)
        return served, False


def _serve_one(
    desk: Desk, term: TermCatalogue, place: PlaceRow, locked: Locked, seen: set[int]
) -> int:
    """Give or offer the seat to one place if its student may have it, or pass it over; gives how many
    were served."""
    section = term.by_id[place.section]
    situation = locked.situations[place.student_term_id]
    figures = locked.seats[section.pool]
    today = term.calendar.local_date(locked.now)
    until = None
    if not section.cancelled:
        until = offer_until(locked.now, section.block, term.calendar, term.policy)
    if until is None:
        # Its places are about to be closed, all of them.
        seen.add(place.id)
        return 0
    if not seat_for(figures, situation, today):
        kept = kept_for_others(figures, situation, today)
        _pass_over(desk, place, section, Blocked.KEPT, kept, locked.now)
        return 0
    if section.waitlist_way == WaitlistWay.OFFER:
        _offer(desk, term, place, section, until, locked)
        return 1
    decision = serve_for(term, place, locked)
    stop = why_refused(decision)
    if stop is not None:
        _pass_over(desk, place, section, Blocked.STOPPED, stop.text, locked.now)
        return 0
    give_seat(desk, term, place, decision, locked, itself_for(situation))
    return 1


def _pass_over(
    desk: Desk, place: PlaceRow, section: Section, blocked: Blocked, why: str, now: datetime
) -> None:
    if pass_over(desk.database, place, blocked, why, now):
        put_message(
            desk.database, place, f"Passed over for {section.name}",
            f"A seat came for {section.name} {section.reference_number}, but you could not have it: "
            f"{why} You keep your position and are looked at again when that has changed.",
            now,
        )  # fmt: skip


def _offer(
    desk: Desk,
    term: TermCatalogue,
    place: PlaceRow,
    section: Section,
    until: datetime,
    locked: Locked,
) -> None:
    figures = locked.seats[section.pool]
    situation = locked.situations[place.student_term_id]
    part, _ = seat_to_take(figures, situation.student, term.calendar.local_date(locked.now))
    change_place(
        desk.database, place, WaitlistState.OFFERED, WaitlistEventKind.OFFERED, locked.now,
        offer_until=until, part=part,
    )  # fmt: skip
    figures = replace(figures, waiting=max(0, figures.waiting - 1))
    locked.seats[section.pool] = figures.offering(1, part)
    when = moment(until.astimezone(term.calendar.zone))
    full = companions_are_full(situation, section, locked.seats)
    but = f" At the moment every {listed(full, 'and every')} that goes with it is full." if full else ""
    put_message(
        desk.database, place, f"A seat for you in {section.name}",
        f"A seat has come in {section.name} {section.reference_number}, {times_text(section)}. It is "
        f"held for you until {when}. Accept or decline it under Waitlists; after that it goes to "
        f"the next.{but}",
        locked.now, until,
    )  # fmt: skip
