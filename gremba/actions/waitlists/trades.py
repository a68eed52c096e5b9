"""Completes trades of waitlisted swaps: every student of a trade at once, or none."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace
from itertools import chain

import structlog

from gremba.actions.context import ActionContext
from gremba.actions.term_moved import with_terms_as_they_are
from gremba.actions.waitlists.seat_giving import (
    Locked,
    decide_promotion,
    itself_for,
    lock_for,
    seat_writing,
    why_refused,
)
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.messages import MessageKind, message
from gremba.core.registration.outcome import Decision
from gremba.core.registration.situation import Registration
from gremba.core.states import Blocked, WaitlistEventKind, WaitlistState
from gremba.core.waitlists.deadlines import closes_at
from gremba.core.waitlists.promotion import exchanged_with
from gremba.core.waitlists.trades import Trade, WaitingSwap, find_trades
from gremba.core.wording import counted
from gremba.store.database import Unavailable, connected
from gremba.store.messages.inbox import put_message
from gremba.store.registration.writing.batch import write
from gremba.store.waitlists.entries import EntryRow, pass_over, read_entry, waiting_swaps

log = structlog.get_logger()

AT_A_TIME = 200
"""Trades that are tried in one go at the most; whoever was stopped in one is left out of the next."""


def close_trades(context: ActionContext, term: TermCatalogue) -> int:
    """Find and carry out trades among a term's waitlist swaps; returns how many entries were promoted.
    Several processes can do so at once. One statement if there are no waitlist swaps.

    Who is stopped is left out until something changes for them, so that a trade that fails is not
    tried again and again.
    """
    with connected(context.database) as database:
        waiting = waiting_swaps(database, term.id)
    if len(waiting) < 2:
        return 0
    now = context.clock.now()
    swaps = [
        WaitingSwap(p.id, p.pool, term.by_id[p.in_exchange].pool)
        for p in waiting
        if p.in_exchange is not None
        and not term.by_id[p.section].cancelled
        and now < closes_at(term.by_id[p.section].session, term.calendar, term.policy)
    ]

    def close(trade: Trade) -> Collection[int]:
        try:
            return with_terms_as_they_are(context, lambda: _close(context, context.term(term.code), trade))
        except Unavailable as problem:
            log.warning("a trade could not be closed", problem=str(problem).strip())
        except Exception:
            log.exception("a trade could not be closed")
        # Not now: all of it is left out of this go.
        return [w.entry for w in trade]

    return sum(map(len, find_trades(swaps, close, AT_A_TIME)))


def _close(context: ActionContext, term: TermCatalogue, trade: Trade) -> Collection[int]:
    """Carries out one trade in one transaction; returns the members for whom that failed, in which case
    nothing else is changed."""
    with connected(context.database) as database, database.atomic():
        entries = [p for w in trade if (p := read_entry(database, w.entry)) is not None]
        locked = lock_for(context, term, entries)
        there = [locked.entries[p.id] for p in entries]
        moved = [p.id for p in there if p.state != WaitlistState.WAITING or not _given_up(term, p, locked)]
        if moved or len(there) < len(trade):
            return moved or [w.entry for w in trade]
        decisions = _decide_all(term, there, locked)
        stopped = [
            (entry, stop)
            for entry, decision in zip(there, decisions, strict=False)
            if (stop := why_refused(decision)) is not None
        ]
        for entry, stop in stopped:
            # A trade is no seat that came: it is noted, and no message tells of it.
            pass_over(database, entry, Blocked.STOPPED, stop.text, locked.now)
        if stopped:
            return [p.id for p, _ in stopped]
        _write(context, term, there, decisions, locked)
        return []


def _write(
    context: ActionContext,
    term: TermCatalogue,
    there: list[EntryRow],
    decisions: list[Decision],
    locked: Locked,
) -> None:
    others = counted(len(there) - 1, "other", "others")
    # One writing for all: seats are first given up by everybody and then taken.
    writings = [
        seat_writing(
            context,
            term,
            entry,
            decision,
            locked,
            WaitlistEventKind.REGISTERED,
            itself_for(locked.situations[entry.student_term_id]),
            f"in a trade with {others}: all changed places in one step",
        )
        for entry, decision in zip(there, decisions, strict=True)
    ]
    write(context.database, writings, locked.now)
    for entry, writing in zip(there, writings, strict=True):
        section = term.by_id[entry.section]
        given = term.by_id[entry.in_exchange].name if entry.in_exchange else ""
        told = message(
            MessageKind.SEATS_TRADED, section, others=others, dropped=given, confirmation=writing.confirmation
        )
        put_message(context.database, entry, told, locked.now)


def _given_up(term: TermCatalogue, entry: EntryRow, locked: Locked) -> list[Registration]:
    """What a member gives up: the section, then linked sections exchanged with it. Empty if the section is no
    longer registered."""
    situation = locked.situations[entry.student_term_id]
    for held in situation.held:
        if held.section.id == entry.in_exchange:
            section = term.by_id[entry.section]
            return [held, *exchanged_with(situation, section, held.section)]
    return []


def _decide_all(term: TermCatalogue, entries: list[EntryRow], locked: Locked) -> list[Decision]:
    """Every member's decision, with what all others give up freed; up to the first that is blocked, since the
    others depend on it."""
    given = [_given_up(term, p, locked) for p in entries]
    decisions = _decide_with(term, entries, locked, given)
    gone = [{g.held.section.id for o in d.outcomes for g in o.drops} for d in decisions]
    if all({h.section.id for h in all_} <= ids for all_, ids in zip(given, gone, strict=False)):
        return decisions
    # Somebody keeps a lab whose seat the others may have counted on.
    return _decide_with(term, entries, locked, [held[:1] for held in given])


def _decide_with(
    term: TermCatalogue, entries: list[EntryRow], locked: Locked, given: list[list[Registration]]
) -> list[Decision]:
    seats = dict(locked.seats)
    for held in chain.from_iterable(given):
        seats[held.section.pool] = seats[held.section.pool].after(-1, held.reserved_seats)
    decisions = []
    for entry, own in zip(entries, given, strict=True):
        # What this member gives up stands in the figures as given up already; the decision gives it
        # up once more, so here it is still taken.
        for held in own:
            seats[held.section.pool] = seats[held.section.pool].after(1, held.reserved_seats)
        decision = decide_promotion(term, entry, replace(locked, seats=seats))
        decisions.append(decision)
        if why_refused(decision) is not None:
            break
        decision.move_seats(seats)
    return decisions
