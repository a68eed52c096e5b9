"""Offers: looked at beforehand, accepted, declined; leaving a waitlist, and being moved in it."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

import orjson

from gremba.actions.actor import Actor
from gremba.actions.desk import Desk
from gremba.actions.problem import Problem, key_used
from gremba.actions.seat_giving import (
    Locked,
    give_seat,
    lock_for,
    pools_of_place,
    serve_for,
    why_refused,
)
from gremba.core.catalogue import TermCatalogue
from gremba.core.outcome import Decision
from gremba.core.promotion import companions_are_full
from gremba.core.situation import Registration, SeatFigures
from gremba.core.states import WaitlistEventKind, WaitlistState
from gremba.formats.deadline_file import deadline_file
from gremba.formats.decision_json import decision_data
from gremba.store.database import connected
from gremba.store.places import PlaceRow, change_place, lock_places, note_event, rank_before, read_place
from gremba.store.receipts import find_receipt
from gremba.store.registrations import ask_earlier_receipts
from gremba.store.situations import lock_seats, read_consents, read_seats, read_situations


@dataclass(frozen=True, slots=True)
class Acceptance:
    """How an offer is accepted.

    Attributes:
        in_exchange: number of a section to be given up for it; else what the place says.
        names: numbers of the companions chosen; else those of the place, or any that fit.
    """

    in_exchange: str = ""
    names: tuple[str, ...] = ()

    def digest(self, place_id: int) -> bytes:
        """Tells whether a key was used for this very acceptance."""
        return hashlib.sha256(orjson.dumps([place_id, self.in_exchange, self.names])).digest()


@dataclass(frozen=True, slots=True)
class Answer:
    """What accepting an offer leads, or would lead, to.

    Attributes:
        decision: as plain data.
        is_possible: whether all of it goes through.
        held: what the student is registered for, before it.
        full: components that go with the section and are full at the moment.
        receipt: number of the receipt; None if nothing was put through.
    """

    term: TermCatalogue
    place: PlaceRow
    decision: Mapping[str, Any]
    is_possible: bool
    held: tuple[Registration, ...]
    full: Sequence[str] = ()
    receipt: int | None = None


def look_at_offer(
    desk: Desk, student_id: int, place_id: int, how: Acceptance | None = None
) -> Answer:
    """What accepting an offer would lead to: the same decision over the same facts, on rows that are
    not locked.

    Raises:
        Problem: there is no such offer of the student's, or it has ended.
    """
    term, place = _own_place(desk, student_id, place_id)
    _still(place, WaitlistState.OFFERED, desk.clock.now())
    row = place.student_term_id
    with connected(desk.database) as database:
        seats: dict[int, SeatFigures] = {}
        consents = read_consents(database, [place.consent])
        situations = read_situations(database, {row: term}, seats, consents)
        seats.update(read_seats(database, pools_of_place(term, place, situations[row])))
    locked = Locked(situations, seats, {place.id: place}, desk.clock.now())
    return _answer(term, place, locked, _accepting(term, place, locked, how or Acceptance()))


def deadline_of(desk: Desk, student_id: int, place_id: int) -> bytes:
    """An open offer's deadline as a calendar file.

    Raises:
        Problem: there is no such offer of the student's, or it has ended.
    """
    term, place = _own_place(desk, student_id, place_id)
    _still(place, WaitlistState.OFFERED, desk.clock.now())
    if place.offer_until is None:
        raise _gone()
    section = term.by_id[place.section]
    return deadline_file(place.id, section, place.offer_until, desk.clock.now())


def accept_offer(
    desk: Desk,
    student_id: int,
    place_id: int,
    how: Acceptance,
    by: Actor,
    key: str,
) -> Answer:
    """Accept an offer; where the decision does not agree nothing changes, and the clock runs on.

    Repeated, it answers with the receipt of the first time.

    Args:
        key: the sender's own name for it, as with any sending.

    Raises:
        Problem: there is no such offer of the student's, it has ended, or the key was used for
            something else.
    """
    term, place = _own_place(desk, student_id, place_id)
    with connected(desk.database) as database, database.atomic():
        locked = lock_for(desk, term, [place])
        now_there = locked.places[place.id]
        digest = how.digest(place.id)
        earlier = ask_earlier_receipts(database, [(place.student_term_id, key)])()
        for receipt in earlier.values():
            if receipt.digest != digest:
                raise key_used()
            return _repeated(desk, term, now_there, locked, receipt.id, student_id)
        if now_there.receipt is not None:
            return _repeated(desk, term, now_there, locked, now_there.receipt, student_id)
        _still(now_there, WaitlistState.OFFERED, locked.now)
        decision = _accepting(term, now_there, locked, how)
        answer = _answer(term, now_there, locked, decision)
        if not answer.is_possible:
            return answer
        writing = give_seat(desk, term, now_there, decision, locked, by, key, digest)
        return replace(answer, receipt=writing.receipt)


def _repeated(
    desk: Desk, term: TermCatalogue, place: PlaceRow, locked: Locked, receipt: int, student_id: int
) -> Answer:
    found = find_receipt(desk.database, receipt, student_id)
    if found is None:
        raise _gone()
    held = locked.situations[place.student_term_id].held
    told = {name: found.body[name] for name in ("outcomes", "before", "after")}
    return Answer(term, place, told, True, held, receipt=receipt)


def _answer(term: TermCatalogue, place: PlaceRow, locked: Locked, decision: Decision) -> Answer:
    situation = locked.situations[place.student_term_id]
    full = companions_are_full(situation, term.by_id[place.section], locked.seats)
    return Answer(
        term, place, decision_data(decision), why_refused(decision) is None, situation.held, full
    )


def _accepting(
    term: TermCatalogue, place: PlaceRow, locked: Locked, how: Acceptance
) -> Decision:
    pool = term.by_id[place.section].pool
    # The seat that is held for the offer is the one that is taken.
    seats = {**locked.seats, pool: locked.seats[pool].offering(-1, place.part)}
    return serve_for(
        term, place, replace(locked, seats=seats),
        in_exchange=term.by_number.get(how.in_exchange),
        names=[term.by_number[n] for n in how.names if n in term.by_number],
    )  # fmt: skip


def decline_offer(desk: Desk, student_id: int, place_id: int, by: Actor) -> None:
    """Decline an offer; the seat that was held goes to the next.

    Raises:
        Problem: there is no such offer of the student's.
    """
    with _ending(desk, student_id, place_id) as (place, now):
        _still(place, WaitlistState.OFFERED, now)
        change_place(
            desk.database, place, WaitlistState.DECLINED, WaitlistEventKind.DECLINED, now, by=by.kept_id
        )


def leave_waitlist(desk: Desk, student_id: int, place_id: int, by: Actor) -> None:
    """Leave a waitlist; a seat that was held goes to the next.

    Raises:
        Problem: there is no such place of the student's.
    """
    with _ending(desk, student_id, place_id) as (place, now):
        _still(place, place.state, now)
        cause = f"left by {by.signature}" if by.acts_for_another else "left by the student"
        change_place(
            desk.database, place, WaitlistState.LEFT, WaitlistEventKind.LEFT, now, cause, by=by.kept_id
        )


@contextmanager
def _ending(
    desk: Desk, student_id: int, place_id: int
) -> Iterator[tuple[PlaceRow, datetime]]:
    """The place, locked, in a transaction."""
    term, place = _own_place(desk, student_id, place_id)
    with connected(desk.database) as database, database.atomic():
        locked = lock_for(desk, term, [place])
        yield locked.places[place.id], locked.now


def move_place(desk: Desk, place_id: int, before: int, by: Actor, reason: str) -> None:
    """An office moves a waiting place in front of another, with a reason that is recorded.

    Raises:
        Problem: one of the two does not wait in the same waitlist.
    """
    with connected(desk.database) as database, database.atomic():
        there = read_place(database, before) if 0 < before < 2**62 else None
        lock_seats(database, [there.pool] if there else [])
        places = lock_places(database, [place_id, before]) if there else {}
        one, other = places.get(place_id), places.get(before)
        if (
            one is None or other is None or one is other or one.pool != other.pool
            or one.state != WaitlistState.WAITING or other.state != WaitlistState.WAITING
        ):  # fmt: skip
            raise _gone()
        rank_before(database, place_id, before)
        note_event(
            database, place_id, WaitlistEventKind.MOVED, desk.clock.now(), f"{by.name}: {reason}", by.id
        )


def _own_place(desk: Desk, student_id: int, place_id: int) -> tuple[TermCatalogue, PlaceRow]:
    with connected(desk.database) as database:
        place = read_place(database, place_id, student_id) if 0 < place_id < 2**62 else None
    if place is None:
        raise Problem("place-unknown", "No such place of yours",
                      "Look at your waitlists as they are now.", 404)  # fmt: skip
    return desk.term(place.term), place


def _still(place: PlaceRow, state: WaitlistState, now: datetime) -> None:
    is_offered = place.state == WaitlistState.OFFERED
    over = is_offered and place.offer_until is not None and place.offer_until < now
    if not place.state.is_open or place.state != state or over:
        raise _gone()


def _gone() -> Problem:
    return Problem(
        "place-moved",
        "This has changed meanwhile",
        "The offer has been answered or has lapsed, or the place has ended. Look at your waitlists "
        "as they are now.",
        409,
    )
