"""Serving rings of waiting swaps: everybody in a ring at once, or nobody."""

from __future__ import annotations

from dataclasses import replace

from gremba.actions.desk import Desk
from gremba.actions.waitlists import ITSELF, Locked, lock_for, seat_writing, serve_for
from gremba.core.catalogue import TermCatalogue
from gremba.core.outcome import Decision, Result
from gremba.core.rings import Ring, Wish, find_rings
from gremba.core.waitlist import closes_at
from gremba.core.wording import counted
from gremba.store.database import connected
from gremba.store.places import PlaceRow, put_message, read_place, waiting_swaps
from gremba.store.registrations import write


def serve_rings(desk: Desk, term: TermCatalogue) -> int:
    """Find rings among a term's waiting swaps and serve them; gives how many places were served.
    Any number of processes may do so at once. Two statements where nobody waits by swap."""
    with connected(desk.database) as database:
        waiting = waiting_swaps(database, term.id)
    if len(waiting) < 2:
        return 0
    now = desk.clock.now()
    wishes = [
        Wish(p.id, p.pool, term.by_id[p.gives_up].pool)
        for p in waiting
        if p.gives_up is not None
        and now < closes_at(term.by_id[p.section].block, term.calendar, term.policy)
    ]
    return sum(map(len, find_rings(wishes, lambda ring: _serve(desk, term, ring))))


def _serve(desk: Desk, term: TermCatalogue, ring: Ring) -> bool:
    """Serve one ring in one transaction; False, and nothing is changed, if somebody's decision does
    not agree or something has moved meanwhile."""
    with connected(desk.database) as database, database.atomic() as transaction:
        places = [p for w in ring if (p := read_place(database, w.place)) is not None]
        locked = lock_for(desk, term, places)
        there = [locked.places[p.id] for p in places]
        decisions = _decide_all(term, there, locked) if len(there) == len(ring) else None
        if decisions is None:
            transaction.rollback()
            return False
        others = counted(len(ring) - 1, "other", "others")
        # One writing for all: seats are first given up by everybody and then taken.
        writings = [
            seat_writing(desk, term, place, decision, locked, "registered",
                         (locked.situations[place.student_term_id].student.id, ITSELF),
                         f"in a ring with {others}: all changed places in one step")
            for place, decision in zip(there, decisions, strict=True)
        ]  # fmt: skip
        write(database, writings, locked.now)
        for place, writing in zip(there, writings, strict=True):
            section = term.by_id[place.section]
            given = term.by_id[place.gives_up].name if place.gives_up else ""
            put_message(
                database, place, f"You are registered for {section.name}",
                f"You and {others} each waited for what another of you had: all of you changed "
                f"places in one step. You have {section.name} {section.reference_number} now, and "
                f"{given} went to somebody who waited for it. Receipt {writing.receipt}.",
                locked.now,
            )  # fmt: skip
        return True


def _decide_all(
    term: TermCatalogue, places: list[PlaceRow], locked: Locked
) -> list[Decision] | None:
    """Every member's decision, with the seats of all others given up; None if one does not agree."""
    seats = dict(locked.seats)
    for place in places:
        held = locked.situations[place.student_term_id].held
        given = next((h for h in held if h.section.id == place.gives_up), None)
        if place.state != "waiting" or given is None:
            return None
        seats[given.section.pool] = seats[given.section.pool].after(-1, given.part)
    decisions = []
    for place in places:
        # The seat that this member gives up stands in the figures as given up already; the
        # decision gives it up once more, so here it is still taken.
        held = locked.situations[place.student_term_id].held
        given = next(h for h in held if h.section.id == place.gives_up)
        own = {**seats, given.section.pool: seats[given.section.pool].after(1, given.part)}
        decision = serve_for(term, place, replace(locked, seats=own), locked.now)
        if any(o.result is not Result.ACCEPTED for o in decision.outcomes):
            return None
        for outcome in decision.outcomes:
            for gone in outcome.gives_up:
                if gone.held.section is not given.section:
                    pool = gone.held.section.pool
                    seats[pool] = seats[pool].after(-1, gone.held.part)
            if outcome.takes is not None:
                pool = outcome.takes.section.pool
                seats[pool] = seats[pool].after(1, outcome.takes.part)
        decisions.append(decision)
    return decisions
