"""Giving a seat to a place: what must be locked, what the place asks for, and what is written."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

import orjson

from gremba.actions.actor import Actor
from gremba.actions.desk import Desk
from gremba.core.catalogue import Section, TermCatalogue
from gremba.core.changes import Mode
from gremba.core.findings import Finding, Severity
from gremba.core.outcome import Decision, Result
from gremba.core.promotion import for_place, serve
from gremba.core.situation import Consent, SeatFigures, Situation
from gremba.core.states import WaitlistEventKind, WaitlistState
from gremba.core.wording import times_text
from gremba.formats.receipt import receipt_data
from gremba.store.places import PlaceRow, change_place, lock_places, put_message
from gremba.store.registrations import Writing, ask_receipt_ids, write
from gremba.store.situations import (
    lock_consents,
    lock_seats,
    lock_student_terms,
    read_consents,
    read_seats,
    read_situations,
)

ITSELF = "the waitlist"
"""Who registers a student whose turn has come, as the receipt has it."""


@dataclass(frozen=True, slots=True)
class Locked:
    """Students, pools and places, locked and read."""

    situations: dict[int, Situation]
    seats: dict[int, SeatFigures]
    places: dict[int, PlaceRow]
    now: datetime


def lock_for(
    desk: Desk, term: TermCatalogue, places: Sequence[PlaceRow], more: Iterable[int] = ()
) -> Locked:
    """Lock everything that serving these places can touch, in the order that all keep to: the
    students, the pools, each in ascending id, then the places. Six statements.

    Args:
        more: pools beside those of the places.
    """
    database = desk.database
    ids = {p.student_term_id for p in places}
    lock_student_terms(database, ids)
    consents: dict[str, Consent] = {}
    codes = [p.consent for p in places if p.consent]
    if codes:
        lock_consents(database, codes)
        consents.update(read_consents(database, codes))
    seats: dict[int, SeatFigures] = {}
    situations = read_situations(database, dict.fromkeys(ids, term), seats, consents)
    pools = set(more)
    for place in places:
        pools |= pools_of_place(term, place, situations[place.student_term_id])
    lock_seats(database, pools)
    seats.update(read_seats(database, pools))
    found = lock_places(database, [p.id for p in places])
    return Locked(situations, seats, found, desk.clock.now())


def pools_of_place(term: TermCatalogue, place: PlaceRow, situation: Situation) -> set[int]:
    """The pools that serving a place can touch: its own, those of the sections that go with it, and
    those of what its student has, any of which may be given up."""
    section = term.by_id[place.section]
    pools = {section.pool} | {h.section.pool for h in situation.held}
    pools |= {term.by_number[n].pool for n in section.companions if n in term.by_number}
    given = term.by_id.get(place.in_exchange) if place.in_exchange else None
    return pools if given is None else pools | {given.pool}


def serve_for(
    term: TermCatalogue,
    place: PlaceRow,
    locked: Locked,
    *,
    in_exchange: Section | None = None,
    names: Sequence[Section] = (),
) -> Decision:
    """Decide what a place asks for, with a seat of its pool free in the figures.

    Args:
        in_exchange: in the place of what the place itself would give up.
        names: companions chosen instead of those named for the place; none but these will do.
    """
    section = term.by_id[place.section]
    if in_exchange is None and place.in_exchange:
        in_exchange = term.by_id.get(place.in_exchange)
    own = [term.by_id[n] for n in place.names if n in term.by_id]
    usual = section.course.gradings[0]
    varies = section.course.credits_least < section.course.credits_most and section.carries_credit
    return serve(
        for_place(locked.situations[place.student_term_id], section, locked.seats, locked.now),
        section, locked.now,
        in_exchange=in_exchange,
        names=tuple(names or own),
        grading=place.grading if place.grading not in (None, "", usual) else None,
        credits=place.credits if varies else None,
        consent=place.consent,
        any_companion=not names,
    )  # fmt: skip


def why_refused(decision: Decision) -> Finding | None:
    """What stops a decision on a place: first what stops a change itself, then what stops one only
    because of another. None if all of it goes through."""
    stops = [
        f for o in decision.outcomes if o.result is not Result.ACCEPTED
        for f in o.findings if f.severity is Severity.STOP
    ]  # fmt: skip
    return min(stops, key=lambda f: f.code == "together.stopped", default=None)


def give_seat(
    desk: Desk,
    term: TermCatalogue,
    place: PlaceRow,
    decision: Decision,
    locked: Locked,
    by: Actor,
    key: str = "",
    digest: bytes = b"",
) -> Writing:
    """Write the registration that a place has led to.

    Args:
        by: who has accepted; the waitlist itself where nobody was asked, and then the student is told.
        key, digest: of the acceptance.
    """
    by_itself = by.name == ITSELF
    what = WaitlistEventKind.REGISTERED if by_itself else WaitlistEventKind.ACCEPTED
    writing = seat_writing(
        desk, term, place, decision, locked, what, by, key=key, digest=digest
    )
    write(desk.database, [writing], locked.now)
    if by_itself:
        section = term.by_id[place.section]
        given = [g.held.section.name for o in decision.outcomes for g in o.drops]
        swapped = f" {given[0]} was given up for it." if given else ""
        put_message(
            desk.database, place, f"You are registered for {section.name}",
            f"A seat came in {section.name} {section.reference_number}, {times_text(section)}, and "
            f"you were registered.{swapped} Receipt {writing.receipt}.",
            locked.now,
        )  # fmt: skip
    return writing


def itself_for(situation: Situation) -> Actor:
    """The waitlist, acting for a student without having been asked."""
    return Actor(situation.student.id, ITSELF)


def seat_writing(
    desk: Desk,
    term: TermCatalogue,
    place: PlaceRow,
    decision: Decision,
    locked: Locked,
    what: WaitlistEventKind,
    by: Actor,
    cause: str = "",
    key: str = "",
    digest: bytes = b"",
) -> Writing:
    """End a place that is given its seat, and prepare what is to be written of the decision; the
    figures that are locked move with it.

    Args:
        what: that it was accepted, or registered by itself.
        cause: goes into the history of the place.
        key, digest: of the acceptance; made up where there was none.
    """
    (receipt,) = ask_receipt_ids(desk.database, 1)()
    # First the place: the seat it held is the one that is taken.
    change_place(
        desk.database, place, WaitlistState.GIVEN, what, locked.now, cause, receipt=receipt, by=by.kept_id
    )
    body = receipt_data(decision, Mode.ALL, by.signature)
    key = key or f"place-{place.id}-{receipt}"
    _move_figures(term, place, decision, locked)
    return Writing(
        receipt, place.student_term_id, term.id, key,
        digest or hashlib.sha256(key.encode()).digest(), by.id,
        replace(decision, leaves=tuple(p for p in decision.leaves if p.id != place.id)),
        orjson.dumps(body),
    )  # fmt: skip


def _move_figures(
    term: TermCatalogue, place: PlaceRow, decision: Decision, locked: Locked
) -> None:
    seats = locked.seats
    decision.move_seats(seats)
    figures = seats[term.by_id[place.section].pool]
    if place.state == WaitlistState.OFFERED:
        figures = figures.offering(-1, place.part)
    else:
        figures = replace(figures, waiting=max(0, figures.waiting - 1))
    seats[term.by_id[place.section].pool] = figures
