"""Registers a student from a waitlist: the locks it needs, the request it makes, the rows it writes."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

import orjson

from gremba.actions.actor import Actor
from gremba.actions.context import ActionContext
from gremba.actions.term_moved import hold_term
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.messages import MessageKind, message
from gremba.core.permission.permission_code import PermissionCode
from gremba.core.registration.changes import Mode
from gremba.core.registration.findings import Finding, Severity
from gremba.core.registration.outcome import Decision, Result
from gremba.core.registration.rules.codes import RuleCode
from gremba.core.registration.situation import Situation
from gremba.core.states import WaitlistEventKind, WaitlistState
from gremba.core.waitlists.promotion import for_entry, promote
from gremba.core.wording import times_text
from gremba.formats.confirmation import confirmation_data
from gremba.store.messages.inbox import put_message
from gremba.store.registration.situations import (
    lock_permission_codes,
    lock_seats,
    lock_student_terms,
    read_permission_codes,
    read_seats,
    read_situations,
)
from gremba.store.registration.writing.batch import write
from gremba.store.registration.writing.confirmations import ask_confirmation_ids
from gremba.store.registration.writing.decided import Writing
from gremba.store.waitlists.entries import EntryRow, change_entry, lock_entries

ITSELF = "the waitlist"
"""Who registers a student whose turn has come, as the confirmation has it."""


@dataclass(frozen=True, slots=True)
class Locked:
    """Locked students, pools, and entries, as read."""

    situations: dict[int, Situation]
    seats: dict[int, SeatFigures]
    entries: dict[int, EntryRow]
    now: datetime


def lock_for(
    context: ActionContext, term: TermCatalogue, entries: Sequence[EntryRow], more: Iterable[int] = ()
) -> Locked:
    """Lock everything that promoting these entries can change, in the usual order: students, then pools, each
    by ascending id, then entries, then the term. Seven statements.

    Args:
        more: pools beside those of the entries.

    Raises:
        TermMoved: the term has changed since it was read.
    """
    database = context.database
    ids = {p.student_term_id for p in entries}
    lock_student_terms(database, ids)
    permission_codes: dict[str, PermissionCode] = {}
    codes = [p.permission_code for p in entries if p.permission_code]
    if codes:
        lock_permission_codes(database, codes)
        permission_codes.update(read_permission_codes(database, codes))
    seats: dict[int, SeatFigures] = {}
    situations = read_situations(database, dict.fromkeys(ids, term), seats, permission_codes)
    pools = set(more)
    for entry in entries:
        pools |= pools_of_entry(term, entry, situations[entry.student_term_id])
    lock_seats(database, pools)
    seats.update(read_seats(database, pools))
    found = lock_entries(database, [p.id for p in entries])
    hold_term(context, term)
    return Locked(situations, seats, found, context.clock.now())


def pools_of_entry(term: TermCatalogue, entry: EntryRow, situation: Situation) -> set[int]:
    """The pools that promoting an entry can change: its own, those of linked sections, and those of the
    student's sections, any of which may be given up."""
    section = term.by_id[entry.section]
    pools = {section.pool} | {h.section.pool for h in situation.held}
    pools |= {term.by_number[n].pool for n in section.linked_sections if n in term.by_number}
    given = term.by_id.get(entry.in_exchange) if entry.in_exchange else None
    return pools if given is None else pools | {given.pool}


def decide_promotion(
    term: TermCatalogue,
    entry: EntryRow,
    locked: Locked,
    *,
    in_exchange: Section | None = None,
    chosen_linked_sections: Sequence[Section] = (),
) -> Decision:
    """Decide what an entry asks for, with a seat of its pool free.

    Args:
        in_exchange: in the place of what the entry itself would give up.
        chosen_linked_sections: linked sections chosen instead of those named for the entry; none but these
            will do.
    """
    section = term.by_id[entry.section]
    if in_exchange is None and entry.in_exchange:
        in_exchange = term.by_id.get(entry.in_exchange)
    own = [term.by_id[n] for n in entry.chosen_linked_sections if n in term.by_id]
    usual = section.course.gradings[0]
    varies = section.course.credits_least < section.course.credits_most and section.carries_credit
    return promote(
        for_entry(locked.situations[entry.student_term_id], section, locked.seats, locked.now),
        section,
        locked.now,
        in_exchange=in_exchange,
        chosen_linked_sections=tuple(chosen_linked_sections or own),
        grading=entry.grading if entry.grading not in (None, "", usual) else None,
        credits=entry.credits if varies else None,
        permission_code=entry.permission_code,
        any_linked_section=not chosen_linked_sections,
    )


def why_refused(decision: Decision) -> Finding | None:
    """What blocks a decision on an entry: first what blocks a change itself, then what blocks one because of
    another. None if all of it succeeds."""
    stops = [
        f
        for o in decision.outcomes
        if o.result is not Result.ACCEPTED
        for f in o.findings
        if f.severity is Severity.STOP
    ]
    return min(stops, key=lambda f: f.code == RuleCode.TOGETHER_STOPPED, default=None)


def give_seat(
    context: ActionContext,
    term: TermCatalogue,
    entry: EntryRow,
    decision: Decision,
    locked: Locked,
    by: Actor,
    key: str = "",
    digest: bytes = b"",
) -> Writing:
    """Write the registration of a promoted entry.

    Args:
        by: who has accepted; the waitlist itself where nobody was asked, and then the student is told.
        key, digest: of the acceptance.
    """
    by_itself = by.name == ITSELF
    what = WaitlistEventKind.REGISTERED if by_itself else WaitlistEventKind.ACCEPTED
    writing = seat_writing(context, term, entry, decision, locked, what, by, key=key, digest=digest)
    write(context.database, [writing], locked.now)
    if by_itself:
        section = term.by_id[entry.section]
        given = [g.held.section.name for o in decision.outcomes for g in o.drops]
        told = message(
            MessageKind.REGISTERED,
            section,
            times=times_text(section.meetings),
            dropped=given[0] if given else None,
            confirmation=writing.confirmation,
        )
        put_message(context.database, entry, told, locked.now)
    return writing


def itself_for(situation: Situation) -> Actor:
    """The waitlist as the actor, for a student."""
    return Actor(situation.student.id, ITSELF)


def seat_writing(
    context: ActionContext,
    term: TermCatalogue,
    entry: EntryRow,
    decision: Decision,
    locked: Locked,
    what: WaitlistEventKind,
    by: Actor,
    cause: str = "",
    key: str = "",
    digest: bytes = b"",
) -> Writing:
    """End a promoted entry and prepare the rows of its decision; the locked figures are updated as well.

    Args:
        what: that it was accepted, or registered by itself.
        cause: goes into the history of the entry.
        key, digest: of the acceptance; made up where there was none.
    """
    (confirmation,) = ask_confirmation_ids(context.database, 1)()
    # First the entry: the seat it held is the one that is taken.
    change_entry(
        context.database,
        entry,
        WaitlistState.GIVEN,
        what,
        locked.now,
        cause,
        confirmation=confirmation,
        by=by.kept_id,
    )
    body = confirmation_data(decision, Mode.ALL, by.signature)
    key = key or f"entry-{entry.id}-{confirmation}"
    _move_figures(term, entry, decision, locked)
    return Writing(
        confirmation,
        entry.student_term_id,
        term.id,
        key,
        digest or hashlib.sha256(key.encode()).digest(),
        by.id,
        replace(decision, leaves=tuple(p for p in decision.leaves if p.id != entry.id)),
        orjson.dumps(body),
    )


def _move_figures(term: TermCatalogue, entry: EntryRow, decision: Decision, locked: Locked) -> None:
    seats = locked.seats
    decision.move_seats(seats)
    figures = seats[term.by_id[entry.section].pool]
    if entry.state == WaitlistState.OFFERED:
        figures = figures.offering(-1, entry.reserved_seats)
    else:
        figures = replace(figures, waiting=max(0, figures.waiting - 1))
    seats[term.by_id[entry.section].pool] = figures
