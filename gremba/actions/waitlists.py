"""Waitlists: a freed seat goes to the head, offers are answered, places are left."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

import orjson
import structlog

from gremba.actions.desk import Desk
from gremba.actions.problem import Problem
from gremba.core.catalogue import Section, TermCatalogue
from gremba.core.findings import Severity
from gremba.core.outcome import Decision, Result
from gremba.core.promotion import for_place, seat_for, serve
from gremba.core.situation import Consent, Held, SeatFigures, Situation
from gremba.core.waitlist import offer_until
from gremba.core.wording import moment, times_text
from gremba.formats.deadline_file import deadline_file
from gremba.formats.decision_json import decision_data
from gremba.store.database import connected, rows
from gremba.store.places import (
    PlaceRow,
    change_place,
    freed_pools,
    heads,
    lock_places,
    note_event,
    put_message,
    read_place,
    settle_pool,
)
from gremba.store.registrations import Writing, ask_receipt_ids, write
from gremba.store.situations import (
    lock_consents,
    lock_seats,
    lock_student_terms,
    read_consents,
    read_seats,
    read_situations,
)

log = structlog.get_logger()

ITSELF = "the waitlist"
"""Who registers a student whose turn has come, as the receipt has it."""

AT_A_TIME = 12
"""So many of those who wait for a pool are looked at in one transaction."""


@dataclass(frozen=True, slots=True)
class Locked:
    """Students, pools and places, locked and read."""

    situations: dict[int, Situation]
    seats: dict[int, SeatFigures]
    places: dict[int, PlaceRow]
    now: datetime


def lock_for(desk: Desk, term: TermCatalogue, places: Sequence[PlaceRow], more: Iterable[int] = ()) -> Locked:
    """Lock everything that serving these places can touch, in the order that all keep to: the
    students, the pools, each in ascending id, then the places. Six statements.

    Args:
        more: pools beside those of the places.
    """
    database = desk.database
    ids = {p.student_term_id for p in places}
    pools = set(more)
    for place in places:
        section = term.by_id[place.section]
        pools.add(section.pool)
        pools |= {term.by_number[n].pool for n in section.companions if n in term.by_number}
    lock_student_terms(database, ids)
    seats: dict[int, SeatFigures] = {}
    codes = [p.consent for p in places if p.consent]
    consents: dict[str, Consent] = {}
    if codes:
        lock_consents(database, codes)
        consents.update(read_consents(database, codes))
    situations = read_situations(database, dict.fromkeys(ids, term), seats, consents)
    for place in places:
        # What would be given up, and what goes along with it.
        given = term.by_id.get(place.gives_up) if place.gives_up else None
        pools |= {h.section.pool for h in situations[place.student_term_id].held}
        if given is not None:
            pools.add(given.pool)
    lock_seats(database, pools)
    seats.update(read_seats(database, pools))
    found = lock_places(database, [p.id for p in places])
    return Locked(situations, seats, found, desk.clock.now())


def serve_freed(desk: Desk) -> int:
    """Serve every pool with a seat that somebody waits for; gives how many places were served.
    Any number of processes may do so at once, with the same result."""
    with connected(desk.database) as database:
        pools = freed_pools(database)
    return sum(serve_pool(desk, pool) for pool in pools)


def serve_pool(desk: Desk, pool: int) -> int:
    """Give the free seats of a pool to those at the head of its waitlist, in one transaction, so
    that no newcomer slips in between; gives how many were served."""
    with connected(desk.database) as database:
        first = heads(database, pool, AT_A_TIME)
        code = first[0].term if first else ""
        if not first:
            with database.atomic():
                lock_seats(database, [pool])
                if not heads(database, pool, 1):
                    settle_pool(database, pool)
            return 0
    term = desk.term(code)
    with connected(desk.database) as database, database.atomic():
        locked = lock_for(desk, term, first)
        waiting = heads(database, pool, AT_A_TIME)
        served, settled = 0, False
        for place in waiting:
            if place.id not in locked.places:
                # Somebody has been moved up meanwhile: begin again with them.
                break
            if not locked.seats[pool].left:
                settled = True
                break
            served += _serve_one(desk, term, place, locked)
        else:
            automatic = any(term.by_id[p.section].waitlist_way == "automatic" for p in waiting)
            # Those passed over are tried again when something changes for them.
            settled = not automatic and len(waiting) < AT_A_TIME
        if settled or not locked.seats[pool].left:
            settle_pool(database, pool)
        return served


def _serve_one(desk: Desk, term: TermCatalogue, place: PlaceRow, locked: Locked) -> int:
    """Give the seat to one place; gives 0 if it is passed over."""
    section = term.by_id[place.section]
    situation = locked.situations[place.student_term_id]
    figures = locked.seats[section.pool]
    today = term.calendar.local_date(locked.now)
    until = offer_until(locked.now, section.block, term.calendar, term.policy)
    if until is None or section.cancelled or not seat_for(figures, situation, today):
        return 0
    if section.waitlist_way == "offer":
        _offer(desk, term, place, section, until, locked)
        return 1
    decision = serve_for(term, place, locked, locked.now)
    refused = [o for o in decision.outcomes if o.result is not Result.ACCEPTED]
    if not refused:
        give_seat(desk, term, place, decision, locked, "registered", (situation.student.id, ITSELF))
        return 1
    stops = [f.text for o in refused for f in o.findings if f.severity is Severity.STOP]
    why = stops[0] if stops else "It could not be put through."
    if why != place.passed_why:
        change_place(desk.database, place, "waiting", "passed over", locked.now, why)
        put_message(
            desk.database, place, f"Passed over for {section.name}",
            f"A seat came for {section.name} {section.reference_number}, but you could not be "
            f"registered: {why} You keep your place and are tried again when that has changed.",
            locked.now,
        )  # fmt: skip
    return 0


def _offer(
    desk: Desk,
    term: TermCatalogue,
    place: PlaceRow,
    section: Section,
    until: datetime,
    locked: Locked,
) -> None:
    change_place(desk.database, place, "offered", "offered", locked.now, offer_until=until)
    figures = locked.seats[section.pool]
    locked.seats[section.pool] = replace(
        figures, offered=figures.offered + 1, waiting=max(0, figures.waiting - 1)
    )
    when = moment(until.astimezone(term.calendar.zone))
    put_message(
        desk.database, place, f"A seat for you in {section.name}",
        f"A seat has come in {section.name} {section.reference_number}, {times_text(section)}. It is "
        f"held for you until {when}. Accept or decline it under Waitlists; after that it goes to "
        "the next.",
        locked.now, until,
    )  # fmt: skip


def serve_for(
    term: TermCatalogue, place: PlaceRow, locked: Locked, now: datetime
) -> Decision:
    """Decide what a place asks for, with a seat of its pool free in the figures."""
    situation = locked.situations[place.student_term_id]
    section = term.by_id[place.section]
    return serve(
        for_place(situation, section, locked.seats, now), section, now,
        gives_up=term.by_id.get(place.gives_up) if place.gives_up else None,
        names=tuple(term.by_id[n] for n in place.names if n in term.by_id),
        grading=_own_grading(place, section), credits=_own_credits(place, section),
        consent=place.consent,
    )  # fmt: skip


def _own_grading(place: PlaceRow, section: Section) -> str | None:
    usual = section.course.gradings[0]
    return place.grading if place.grading not in (None, "", usual) else None


def _own_credits(place: PlaceRow, section: Section) -> float | None:
    varies = section.course.credits_least < section.course.credits_most
    return place.credits if varies and section.carries_credit else None


def give_seat(
    desk: Desk,
    term: TermCatalogue,
    place: PlaceRow,
    decision: Decision,
    locked: Locked,
    what: str,
    by: tuple[int, str],
) -> int:
    """Write the registration that a place has led to; gives the receipt's number.

    Args:
        what: "accepted", or "registered" where it came by itself and the student is to be told.
        by: id and name that the receipt is to show.
    """
    writing = seat_writing(desk, term, place, decision, locked, what, by)
    write(desk.database, [writing], locked.now)
    if what == "registered":
        section = term.by_id[place.section]
        given = [g.held.section.name for o in decision.outcomes for g in o.gives_up]
        swapped = f" {given[0]} was given up for it." if given else ""
        put_message(
            desk.database, place, f"You are registered for {section.name}",
            f"A seat came in {section.name} {section.reference_number}, {times_text(section)}, and "
            f"you were registered.{swapped} Receipt {writing.receipt}.",
            locked.now,
        )  # fmt: skip
    return writing.receipt


def seat_writing(
    desk: Desk,
    term: TermCatalogue,
    place: PlaceRow,
    decision: Decision,
    locked: Locked,
    what: str,
    by: tuple[int, str],
    cause: str = "",
) -> Writing:
    """End a place that is given its seat, and prepare what is to be written of the decision; the
    figures that are locked move with it.

    Args:
        cause: goes into the history of the place.
    """
    now = locked.now
    # First the place: the seat it held is the one that is taken.
    change_place(desk.database, place, "given", what, now, cause)
    (receipt,) = ask_receipt_ids(desk.database, 1)()
    by_id, by_name = by
    body = {"mode": "all", "sent_by": by_name, **decision_data(decision)}
    key = f"place-{place.id}-{receipt}"
    _move_figures(term, place, decision, locked)
    return Writing(
        receipt, place.student_term_id, term.id, key, hashlib.sha256(key.encode()).digest(), by_id,
        replace(decision, leaves=tuple(p for p in decision.leaves if p.id != place.id)),
        orjson.dumps(body),
    )  # fmt: skip


def _move_figures(
    term: TermCatalogue, place: PlaceRow, decision: Decision, locked: Locked
) -> None:
    seats = locked.seats
    decision.move_seats(seats)
    figures = seats[term.by_id[place.section].pool]
    if place.state == "offered":
        figures = replace(figures, offered=max(0, figures.offered - 1))
    else:
        figures = replace(figures, waiting=max(0, figures.waiting - 1))
    seats[term.by_id[place.section].pool] = figures


@dataclass(frozen=True, slots=True)
class Answer:
    """What accepting an offer leads, or would lead, to.

    Attributes:
        held: what the student is registered for, before it.
        receipt: number of the receipt; None if nothing was put through.
    """

    term: TermCatalogue
    place: PlaceRow
    decision: Decision
    held: tuple[Held, ...]
    receipt: int | None

    @property
    def is_possible(self) -> bool:
        """Whether all of it goes through."""
        return all(o.result is Result.ACCEPTED for o in self.decision.outcomes)


def look_at_offer(
    desk: Desk, student_id: int, place_id: int, gives_up: str = "", names: Sequence[str] = ()
) -> Answer:
    """What accepting an offer would lead to, as it is, with these companions, or as a swap.

    Raises:
        Problem: there is no such offer of the student's, or it has ended.
    """
    term, place = _own_place(desk, student_id, place_id, "offered")
    with connected(desk.database) as database:
        seats: dict[int, SeatFigures] = {}
        situation = read_situations(database, {place.student_term_id: term}, seats)
        section = term.by_id[place.section]
        pools = {section.pool, *(h.section.pool for h in situation[place.student_term_id].held)}
        pools |= {term.by_number[n].pool for n in section.companions if n in term.by_number}
        seats.update(read_seats(database, pools))
    locked = Locked(situation, seats, {place.id: place}, desk.clock.now())
    decision = _accepting(term, place, locked, gives_up, names)
    return Answer(term, place, decision, situation[place.student_term_id].held, None)


def deadline_of(desk: Desk, student_id: int, place_id: int) -> bytes:
    """An open offer's deadline as a calendar file.

    Raises:
        Problem: there is no such offer of the student's, or it has ended.
    """
    term, place = _own_place(desk, student_id, place_id, "offered")
    if place.offer_until is None:
        raise _gone()
    section = term.by_id[place.section]
    return deadline_file(place.id, section, place.offer_until, desk.clock.now())


def accept_offer(
    desk: Desk,
    student_id: int,
    place_id: int,
    gives_up: str = "",
    names: Sequence[str] = (),
    by: tuple[int, str] | None = None,
) -> Answer:
    """Accept an offer; where the decision does not agree nothing changes, and the clock runs on.

    Args:
        by: id and name of who accepts it for the student, if that is somebody else.

    Raises:
        Problem: there is no such offer of the student's, or it has ended.
    """
    term, place = _own_place(desk, student_id, place_id, "offered")
    with connected(desk.database) as database, database.atomic():
        locked = lock_for(desk, term, [place])
        now_there = locked.places[place.id]
        _still(now_there, "offered", locked.now)
        decision = _accepting(term, now_there, locked, gives_up, names)
        held = locked.situations[place.student_term_id].held
        answer = Answer(term, now_there, decision, held, None)
        if not answer.is_possible:
            return answer
        student = locked.situations[place.student_term_id].student
        who = by or (student.id, student.name)
        receipt = give_seat(desk, term, now_there, decision, locked, "accepted", who)
        return replace(answer, receipt=receipt)


def _accepting(
    term: TermCatalogue, place: PlaceRow, locked: Locked, gives_up: str, names: Sequence[str]
) -> Decision:
    section = term.by_id[place.section]
    figures = locked.seats[section.pool]
    # The seat that is held for the offer is the one that is taken.
    seats = {**locked.seats, section.pool: replace(figures, offered=max(0, figures.offered - 1))}
    situation = for_place(locked.situations[place.student_term_id], section, seats, locked.now)
    chosen = term.by_number.get(gives_up) or (
        term.by_id.get(place.gives_up) if place.gives_up else None
    )
    own_names = [term.by_number[n] for n in names if n in term.by_number]
    named = own_names or [term.by_id[n] for n in place.names if n in term.by_id]
    return serve(
        situation, section, locked.now, gives_up=chosen, names=tuple(named),
        grading=_own_grading(place, section), credits=_own_credits(place, section),
        consent=place.consent, any_companion=not own_names,
    )  # fmt: skip


def end_place(desk: Desk, student_id: int, place_id: int, decline: bool) -> None:
    """Decline an offer, or leave a waitlist; a seat that was held goes to the next.

    Raises:
        Problem: there is no such place of the student's.
    """
    term, place = _own_place(desk, student_id, place_id, "offered" if decline else "")
    with connected(desk.database) as database, database.atomic():
        locked = lock_for(desk, term, [place])
        now_there = locked.places[place.id]
        _still(now_there, "offered" if decline else now_there.state, locked.now)
        if decline:
            change_place(database, now_there, "declined", "declined", locked.now)
        else:
            change_place(database, now_there, "left", "left", locked.now, "left by the student")


def move_place(desk: Desk, place_id: int, before: int, person: str, reason: str) -> None:
    """An office moves a waiting place in front of another, with a reason that is recorded.

    Raises:
        Problem: one of the two does not wait in the same waitlist.
    """
    with connected(desk.database) as database, database.atomic():
        places = lock_places(database, [place_id, before])
        one, other = places.get(place_id), places.get(before)
        if (
            one is None or other is None or one.pool != other.pool
            or one.state != "waiting" or other.state != "waiting"
        ):  # fmt: skip
            raise _gone()
        rows(
            database,
            "UPDATE places SET ranked_at = (SELECT coalesce(ranked_at, joined_at) - "
            "interval '1 microsecond' FROM places WHERE id = %s) WHERE id = %s RETURNING id",
            (before, place_id),
        )
        note_event(database, place_id, "moved", desk.clock.now(), f"{person}: {reason}")


def _own_place(
    desk: Desk, student_id: int, place_id: int, state: str
) -> tuple[TermCatalogue, PlaceRow]:
    with connected(desk.database) as database:
        place = read_place(database, place_id) if 0 < place_id < 2**62 else None
        owner = rows(
            database,
            "SELECT student_id FROM student_terms WHERE id = %s",
            (place.student_term_id if place else 0,),
        )
    if place is None or not owner or owner[0][0] != student_id:
        raise Problem("place-unknown", "No such place of yours",
                      "Look at your waitlists as they are now.", 404)  # fmt: skip
    _still(place, state or place.state, desk.clock.now())
    return desk.term(place.term), place


def _still(place: PlaceRow, state: str, now: datetime) -> None:
    over = place.state == "offered" and place.offer_until is not None and place.offer_until < now
    if place.state not in ("waiting", "offered") or place.state != state or (
        over and state == "offered"
    ):
        raise _gone()


def _gone() -> Problem:
    return Problem(
        "place-moved",
        "This has changed meanwhile",
        "The offer has been answered or has lapsed, or the place has ended. Look at your waitlists "
        "as they are now.",
        409,
    )
