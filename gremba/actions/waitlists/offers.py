"""Previews, accepts and declines offers; leaves a waitlist; moves a student within one."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

import orjson

from gremba.actions.account.due_ahead import due_ahead, read_money
from gremba.actions.actor import Actor
from gremba.actions.context import ActionContext
from gremba.actions.problem import Problem, key_used
from gremba.actions.problem_kinds import ProblemKind
from gremba.actions.term_moved import with_terms_as_they_are
from gremba.actions.waitlists.seat_giving import (
    Locked,
    decide_promotion,
    give_seat,
    lock_for,
    pools_of_entry,
    why_refused,
)
from gremba.core.account.due import DueChange
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.registration.outcome import Decision
from gremba.core.registration.situation import Registration
from gremba.core.states import WaitlistEventKind, WaitlistState
from gremba.core.waitlists.promotion import linked_sections_are_full
from gremba.formats.deadline_file import deadline_file
from gremba.formats.decision_json import decision_data
from gremba.store.database import connected, reading
from gremba.store.registration.confirmations import find_confirmation
from gremba.store.registration.situations import (
    lock_seats,
    read_permission_codes,
    read_seats,
    read_situations,
)
from gremba.store.registration.writing.confirmations import ask_earlier_confirmations
from gremba.store.waitlists.entries import (
    EntryRow,
    change_entry,
    lock_entries,
    note_event,
    rank_before,
    read_entry,
)


@dataclass(frozen=True, slots=True)
class Acceptance:
    """How an offer is accepted.

    Attributes:
        in_exchange: number of a section to be given up for it; else what the entry says.
        chosen_linked_sections: numbers of the linked sections chosen; else those of the entry, or any that
            fit.
    """

    in_exchange: str = ""
    chosen_linked_sections: tuple[str, ...] = ()

    def digest(self, entry_id: int) -> bytes:
        """Identifies the acceptance, to detect a key reused for another one."""
        return hashlib.sha256(
            orjson.dumps([entry_id, self.in_exchange, self.chosen_linked_sections])
        ).digest()


@dataclass(frozen=True, slots=True)
class OfferOutcome:
    """The result of accepting an offer, done or previewed.

    Attributes:
        decision: as plain data.
        is_possible: whether all of it goes through.
        held: what the student is registered for, before it.
        full: components that go with the section and are full at the moment.
        confirmation: number of the confirmation; None if nothing was put through.
        due: what it would do to what is due next; None once accepted, and where there are no due dates.
    """

    term: TermCatalogue
    entry: EntryRow
    decision: Mapping[str, Any]
    is_possible: bool
    held: tuple[Registration, ...]
    full: Sequence[str] = ()
    confirmation: int | None = None
    due: DueChange | None = None


def look_at_offer(
    context: ActionContext, student_id: int, entry_id: int, how: Acceptance | None = None
) -> OfferOutcome:
    """Preview accepting an offer: the same decision on the same facts, without locks.

    Raises:
        Problem: there is no such offer of the student's, or it has ended.
    """
    term, entry = _own_entry(context, student_id, entry_id)
    _still(entry, WaitlistState.OFFERED, context.clock.now())
    row = entry.student_term_id
    with reading(context.database) as database:
        seats: dict[int, SeatFigures] = {}
        permission_codes = read_permission_codes(database, [entry.permission_code])
        situations = read_situations(database, {row: term}, seats, permission_codes)
        seats.update(read_seats(database, pools_of_entry(term, entry, situations[row])))
        money = read_money(database, term, row)
    locked = Locked(situations, seats, {entry.id: entry}, context.clock.now())
    decision = _accepting(term, entry, locked, how or Acceptance())
    due = due_ahead(money, situations[row], decision, locked.now)
    return replace(_answer(term, entry, locked, decision), due=due)


def deadline_of(context: ActionContext, student_id: int, entry_id: int) -> bytes:
    """An open offer's deadline as an iCalendar file.

    Raises:
        Problem: there is no such offer of the student's, or it has ended.
    """
    term, entry = _own_entry(context, student_id, entry_id)
    _still(entry, WaitlistState.OFFERED, context.clock.now())
    if entry.offer_until is None:
        raise _gone()
    section = term.by_id[entry.section]
    return deadline_file(entry.id, section, entry.offer_until, context.clock.now())


def accept_offer(
    context: ActionContext,
    student_id: int,
    entry_id: int,
    how: Acceptance,
    by: Actor,
    key: str,
) -> OfferOutcome:
    """Accept an offer; if the decision refuses it, nothing changes and the deadline stands.

    Repeated, it answers with the confirmation of the first time.

    Args:
        key: the sender's own name for it, as with any sending.

    Raises:
        Problem: there is no such offer of the student's, it has ended, or the key was used for
            something else.
    """
    return with_terms_as_they_are(context, lambda: _accept(context, student_id, entry_id, how, by, key))


def _accept(
    context: ActionContext, student_id: int, entry_id: int, how: Acceptance, by: Actor, key: str
) -> OfferOutcome:
    term, entry = _own_entry(context, student_id, entry_id)
    with connected(context.database) as database, database.atomic():
        locked = lock_for(context, term, [entry])
        now_there = locked.entries[entry.id]
        digest = how.digest(entry.id)
        earlier = ask_earlier_confirmations(database, [(entry.student_term_id, key)])()
        for confirmation in earlier.values():
            if confirmation.digest != digest:
                raise key_used()
            return _repeated(context, term, now_there, locked, confirmation.id, student_id)
        if now_there.confirmation is not None:
            return _repeated(context, term, now_there, locked, now_there.confirmation, student_id)
        _still(now_there, WaitlistState.OFFERED, locked.now)
        decision = _accepting(term, now_there, locked, how)
        answer = _answer(term, now_there, locked, decision)
        if not answer.is_possible:
            return answer
        writing = give_seat(context, term, now_there, decision, locked, by, key, digest)
        return replace(answer, confirmation=writing.confirmation)


def _repeated(
    context: ActionContext,
    term: TermCatalogue,
    entry: EntryRow,
    locked: Locked,
    confirmation: int,
    student_id: int,
) -> OfferOutcome:
    found = find_confirmation(context.database, confirmation, student_id)
    if found is None:
        raise _gone()
    held = locked.situations[entry.student_term_id].held
    told = {name: found.body[name] for name in ("outcomes", "before", "after")}
    return OfferOutcome(term, entry, told, True, held, confirmation=confirmation)


def _answer(term: TermCatalogue, entry: EntryRow, locked: Locked, decision: Decision) -> OfferOutcome:
    situation = locked.situations[entry.student_term_id]
    full = linked_sections_are_full(situation, term.by_id[entry.section], locked.seats)
    return OfferOutcome(
        term, entry, decision_data(decision), why_refused(decision) is None, situation.held, full
    )


def _accepting(term: TermCatalogue, entry: EntryRow, locked: Locked, how: Acceptance) -> Decision:
    pool = term.by_id[entry.section].pool
    # The seat that is held for the offer is the one that is taken.
    seats = {**locked.seats, pool: locked.seats[pool].offering(-1, entry.reserved_seats)}
    return decide_promotion(
        term,
        entry,
        replace(locked, seats=seats),
        in_exchange=term.by_number.get(how.in_exchange),
        chosen_linked_sections=[term.by_number[n] for n in how.chosen_linked_sections if n in term.by_number],
    )


def decline_offer(context: ActionContext, student_id: int, entry_id: int, by: Actor) -> None:
    """Decline an offer; the seat goes to the next student.

    Raises:
        Problem: there is no such offer of the student's.
    """

    def decline(entry: EntryRow, now: datetime) -> None:
        _still(entry, WaitlistState.OFFERED, now)
        change_entry(
            context.database, entry, WaitlistState.DECLINED, WaitlistEventKind.DECLINED, now, by=by.kept_id
        )

    _end(context, student_id, entry_id, decline)


def leave_waitlist(context: ActionContext, student_id: int, entry_id: int, by: Actor) -> None:
    """Leave a waitlist; a seat on offer goes to the next student.

    Raises:
        Problem: there is no such entry of the student's.
    """

    def leave(entry: EntryRow, now: datetime) -> None:
        _still(entry, entry.state, now)
        cause = f"left by {by.signature}" if by.acts_for_another else "left by the student"
        change_entry(
            context.database, entry, WaitlistState.LEFT, WaitlistEventKind.LEFT, now, cause, by=by.kept_id
        )

    _end(context, student_id, entry_id, leave)


def _end(
    context: ActionContext, student_id: int, entry_id: int, change: Callable[[EntryRow, datetime], None]
) -> None:
    """Changes the locked entry in a transaction."""

    def work() -> None:
        term, entry = _own_entry(context, student_id, entry_id)
        with connected(context.database) as database, database.atomic():
            locked = lock_for(context, term, [entry])
            change(locked.entries[entry.id], locked.now)

    with_terms_as_they_are(context, work)


def move_entry(context: ActionContext, entry_id: int, before: int, by: Actor, reason: str) -> None:
    """Move a waitlist entry in front of another, for an office; the reason is recorded.

    Raises:
        Problem: one of the two does not wait in the same waitlist.
    """
    with connected(context.database) as database, database.atomic():
        there = read_entry(database, before) if 0 < before < 2**62 else None
        lock_seats(database, [there.pool] if there else [])
        entries = lock_entries(database, [entry_id, before]) if there else {}
        one, other = entries.get(entry_id), entries.get(before)
        if (
            one is None
            or other is None
            or one is other
            or one.pool != other.pool
            or one.state != WaitlistState.WAITING
            or other.state != WaitlistState.WAITING
        ):
            raise _gone()
        rank_before(database, entry_id, before)
        note_event(
            database, entry_id, WaitlistEventKind.MOVED, context.clock.now(), f"{by.name}: {reason}", by.id
        )


def _own_entry(context: ActionContext, student_id: int, entry_id: int) -> tuple[TermCatalogue, EntryRow]:
    with reading(context.database) as database:
        entry = read_entry(database, entry_id, student_id) if 0 < entry_id < 2**62 else None
    if entry is None:
        raise Problem(ProblemKind.WAITLIST_ENTRY_UNKNOWN, "Look at your waitlists as they are now.")
    return context.term(entry.term), entry


def _still(entry: EntryRow, state: WaitlistState, now: datetime) -> None:
    is_offered = entry.state == WaitlistState.OFFERED
    over = is_offered and entry.offer_until is not None and entry.offer_until < now
    if not entry.state.is_open or entry.state != state or over:
        raise _gone()


def _gone() -> Problem:
    return Problem(
        ProblemKind.WAITLIST_ENTRY_MOVED,
        "The offer has been answered or has lapsed, or the place has ended. Look at your waitlists "
        "as they are now.",
    )
