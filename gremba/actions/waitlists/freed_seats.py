"""Offers a freed seat to the first eligible student on the waitlist."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from functools import partial

import structlog

from gremba.actions.context import ActionContext
from gremba.actions.term_moved import with_terms_as_they_are
from gremba.actions.waitlists.seat_giving import (
    Locked,
    decide_promotion,
    give_seat,
    itself_for,
    lock_for,
    why_refused,
)
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.messages import MessageKind, message
from gremba.core.registration.rules.seats import seat_to_take
from gremba.core.states import Blocked, WaitlistEventKind, WaitlistState
from gremba.core.waitlists.deadlines import offer_until
from gremba.core.waitlists.policy import waitlist_policy
from gremba.core.waitlists.promotion import linked_sections_are_full, seat_for, why_reserved
from gremba.core.wording import listed, moment, times_text
from gremba.store.database import Unavailable, connected
from gremba.store.messages.inbox import put_message
from gremba.store.registration.situations import lock_seats
from gremba.store.waitlists.entries import (
    EntryRow,
    change_entry,
    clear_freed_seat,
    first_in_line,
    pass_over,
    vacant_pools,
)

log = structlog.get_logger()

AT_A_TIME = 12
"""So many of those who wait for a pool are looked at in one transaction."""

MOST_ROUNDS = 100
"""Rounds of all pools in one go. Where seats come free all the time, offers must lapse in between; the notes
that are left are taken up by the next."""


def fill_freed_seats(context: ActionContext) -> int:
    """Fill every pool that has a free seat and a waitlist; returns how many entries were promoted.

    Any number of processes may do so at once, with the same result. A pool that fails keeps its note,
    and delays no other; nor does one with a long line of those who may not: each gets a step in turn, and
    those whose seat has come meanwhile are looked at in the next round.
    """
    promoted = 0
    seen: dict[int, set[int]] = {}
    done: set[int] = set()
    for _ in range(MOST_ROUNDS):
        with connected(context.database) as database:
            pools = [pool for pool in vacant_pools(database) if pool not in done]
        if not pools:
            break
        for pool in pools:
            try:
                many, is_done = with_terms_as_they_are(
                    context, partial(_promote_some, context, pool, seen.setdefault(pool, set()))
                )
                promoted += many
            except Unavailable as problem:
                # Two may have waited for one another, and the database ended this one.
                log.warning("a freed seat could not be filled", pool=pool, problem=str(problem).strip())
                is_done = True
            except Exception:
                log.exception("a freed seat could not be filled", pool=pool)
                is_done = True
            if is_done:
                done.add(pool)
    return promoted


def _promote_some(context: ActionContext, pool: int, seen: set[int]) -> tuple[int, bool]:
    """Gives the free seats of a pool to the first eligible students on its waitlist; returns how many were
    promoted, and whether the pool is done. New registrations are kept out while anybody waits.

    Whoever may not is passed over, told why, and not looked at again until something changes for
    them. A transaction looks at a few, locks them in the order that all keep to, and looks again.

    Args:
        seen: entries that could be neither promoted nor passed over; more are put into it.
    """
    with connected(context.database) as database:
        first = first_in_line(database, pool, AT_A_TIME, seen)
        if not first:
            with database.atomic():
                lock_seats(database, [pool])
                return 0, clear_freed_seat(database, pool, seen)
    term = context.term(first[0].term)
    with connected(context.database) as database, database.atomic():
        locked = lock_for(context, term, first, [pool])
        promoted = 0
        for entry in first_in_line(database, pool, AT_A_TIME, seen):
            if entry.id not in locked.entries:
                # Somebody has been moved up, or may have it again: begin with them.
                break
            if not locked.seats[pool].left:
                clear_freed_seat(database, pool)
                return promoted, True
            promoted += _promote_one(context, term, entry, locked, seen)
        return promoted, False


def _promote_one(
    context: ActionContext, term: TermCatalogue, entry: EntryRow, locked: Locked, seen: set[int]
) -> int:
    """Gives or offers the seat to one student if they may have it, or passes them over; returns how many were
    promoted."""
    section = term.by_id[entry.section]
    situation = locked.situations[entry.student_term_id]
    figures = locked.seats[section.pool]
    today = term.calendar.local_date(locked.now)
    until = None
    if not section.cancelled:
        until = offer_until(locked.now, section.session, term.calendar, term.policy)
    if until is None:
        # Its entries are about to be closed, all of them.
        seen.add(entry.id)
        return 0
    if not seat_for(figures, situation, today):
        why = why_reserved(figures, situation, today)
        _pass_over(context, entry, section, Blocked.RESERVED, why, locked.now)
        return 0
    if waitlist_policy(section).asks_first:
        _offer(context, term, entry, section, until, locked)
        return 1
    decision = decide_promotion(term, entry, locked)
    stop = why_refused(decision)
    if stop is not None:
        _pass_over(context, entry, section, Blocked.STOPPED, stop.text, locked.now)
        return 0
    give_seat(context, term, entry, decision, locked, itself_for(situation))
    return 1


def _pass_over(
    context: ActionContext, entry: EntryRow, section: Section, blocked: Blocked, why: str, now: datetime
) -> None:
    if pass_over(context.database, entry, blocked, why, now):
        put_message(context.database, entry, message(MessageKind.PASSED_OVER, section, why=why), now)


def _offer(
    context: ActionContext,
    term: TermCatalogue,
    entry: EntryRow,
    section: Section,
    until: datetime,
    locked: Locked,
) -> None:
    figures = locked.seats[section.pool]
    situation = locked.situations[entry.student_term_id]
    reserved_seats, _ = seat_to_take(figures, situation.student, term.calendar.local_date(locked.now))
    change_entry(
        context.database,
        entry,
        WaitlistState.OFFERED,
        WaitlistEventKind.OFFERED,
        locked.now,
        offer_until=until,
        reserved_seats=reserved_seats,
    )
    figures = replace(figures, waiting=max(0, figures.waiting - 1))
    locked.seats[section.pool] = figures.offering(1, reserved_seats)
    when = moment(until.astimezone(term.calendar.zone))
    full = linked_sections_are_full(situation, section, locked.seats)
    told = message(
        MessageKind.OFFERED,
        section,
        times=times_text(section.meetings),
        until=when,
        full=listed(full, "and every") if full else None,
    )
    put_message(context.database, entry, told, locked.now, until)
