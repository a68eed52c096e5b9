"""Stores waitlist entries, their events and the messages about them."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from peewee import fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.states import Blocked, TermState, WaitlistEventKind, WaitlistState
from gremba.store.database import fetch_sql, run_sql
from gremba.store.models import (
    FreedSeat,
    ReservedSeats,
    SeatPool,
    StudentTerm,
    Term,
    WaitlistEntry,
    WaitlistEvent,
)
from gremba.store.models.base import literal
from gremba.store.queries import columns, fetch, fetch_one, fetch_values, one_of, write


@dataclass(frozen=True, slots=True)
class EntryRow:
    """An entry in its waitlist.

    Attributes:
        term: code of the term.
        in_exchange: id of the section given up for the seat; None for a plain entry.
        chosen_linked_sections: ids of linked sections named for it.
        confirmation: the confirmation of the registration that it has led to.
        reserved_seats: the reserved seats that the seat offered comes from; None for an open seat.
    """

    id: int
    student_term_id: int
    term: str
    section: int
    pool: int
    state: WaitlistState
    in_exchange: int | None
    grading: str | None
    credits: float | None
    permission_code: str
    chosen_linked_sections: tuple[int, ...]
    offer_until: datetime | None
    passed_why: str
    confirmation: int | None
    reserved_seats: int | None


RANK = fn.COALESCE(WaitlistEntry.ranked, WaitlistEntry.id)
"""The order of a waitlist, and then the id: of entry, but for entries that an office has moved."""

_ENTRIES = WaitlistEntry.select(
    *columns(
        EntryRow,
        WaitlistEntry,
        term=Term.code,
        section=WaitlistEntry.section_id,
        pool=WaitlistEntry.pool_id,
        in_exchange=WaitlistEntry.in_exchange,
    )
).join(Term, on=Term.id == WaitlistEntry.term_id)

_IS_LOOKED_AT = (WaitlistEntry.state == literal(WaitlistState.WAITING)) & WaitlistEntry.blocked.is_null()


def read_entry(
    database: PooledPostgresqlDatabase, entry_id: int, student_id: int | None = None
) -> EntryRow | None:
    """An entry in any state; None if it does not exist or is another student's. One statement.

    Args:
        student_id: whose it must be; None where anybody's will do.
    """
    query = _ENTRIES.where(WaitlistEntry.id == entry_id)
    if student_id is not None:
        own = StudentTerm.select(StudentTerm.id).where(StudentTerm.student == student_id)
        query = query.where(WaitlistEntry.student_term_id.in_(own))
    return fetch_one(database, query, EntryRow)


def first_in_line(
    database: PooledPostgresqlDatabase, pool: int, most: int, apart_from: Collection[int] = ()
) -> list[EntryRow]:
    """The first entries of a pool's waitlist that are to be considered. One statement.

    Args:
        apart_from: entries that have been looked at and could be neither served nor passed over.
    """
    query = _ENTRIES.where(WaitlistEntry.pool_id == pool, _IS_LOOKED_AT)
    if apart_from:
        query = query.where(~one_of(WaitlistEntry.id, apart_from))
    return fetch(database, query.order_by(RANK, WaitlistEntry.id).limit(most), EntryRow)


def waiting_swaps(database: PooledPostgresqlDatabase, term_id: int) -> list[EntryRow]:
    """All waitlist swaps of a term that are to be considered, longest waiting first."""
    query = _ENTRIES.where(
        WaitlistEntry.term_id == term_id, _IS_LOOKED_AT, ~WaitlistEntry.in_exchange.is_null()
    )
    return fetch(database, query.order_by(RANK, WaitlistEntry.id), EntryRow)


def pass_over(
    database: PooledPostgresqlDatabase, entry: EntryRow, blocked: Blocked, why: str, at: datetime
) -> bool:
    """Leave a locked entry in its position and skip it until something changes for it. One statement, and
    one if the reason is new; returns whether it is."""
    write(database, WaitlistEntry.update(blocked=blocked, passed_why=why).where(WaitlistEntry.id == entry.id))
    if why == entry.passed_why:
        return False
    note_event(database, entry.id, WaitlistEventKind.PASSED_OVER, at, why)
    return True


def rank_before(database: PooledPostgresqlDatabase, entry_id: int, before: int) -> None:
    """Move an entry directly in front of another. Its pool must be locked. If several are moved in front
    of the same entry, they keep the order in which they were moved. One statement."""
    run_sql(
        database,
        # Half of a sum, not a quotient: numeric multiplication is exact, however often.
        "UPDATE waitlist_entries w SET ranked = (b.rank + coalesce((SELECT max(coalesce(o.ranked, o.id)) "
        "FROM waitlist_entries o WHERE o.pool_id = b.pool_id AND o.id <> w.id AND o.id <> b.id "
        "AND o.state = 'waiting' AND coalesce(o.ranked, o.id) <= b.rank), b.rank - 2)) * 0.5 "
        "FROM (SELECT id, pool_id, coalesce(ranked, id) AS rank FROM waitlist_entries WHERE id = %s) b "
        "WHERE w.id = %s",
        (before, entry_id),
    )


def change_entry(
    database: PooledPostgresqlDatabase,
    entry: EntryRow,
    state: WaitlistState,
    what: WaitlistEventKind,
    at: datetime,
    cause: str = "",
    offer_until: datetime | None = None,
    confirmation: int | None = None,
    by: int | None = None,
    reserved_seats: int | None = None,
) -> None:
    """Write the new state of a locked entry and its event. Two statements; triggers update the pool's
    figures.

    Args:
        confirmation: of the registration that it has led to.
        by: id of who did it, if that was not the student.
        reserved_seats: the reserved seats that a seat offered comes from.
    """
    now: dict[str, Any] = {
        "state": state,
        "ended_at": None if state.is_open else at,
        "passed_why": "",
        "confirmation": confirmation,
        "reserved_seats": reserved_seats,
    }
    if offer_until is not None:
        now["offer_until"] = offer_until
    if state == WaitlistState.OFFERED:
        now["offered_at"] = at
    write(database, WaitlistEntry.update(now).where(WaitlistEntry.id == entry.id))
    note_event(database, entry.id, what, at, cause, by)


def note_event(
    database: PooledPostgresqlDatabase,
    entry_id: int,
    what: WaitlistEventKind,
    at: datetime,
    cause: str = "",
    by: int | None = None,
) -> None:
    """Write an event of an entry. One statement."""
    write(database, WaitlistEvent.insert(entry=entry_id, what=what, at=at, cause=cause, by=by))


def vacant_pools(database: PooledPostgresqlDatabase) -> list[int]:
    """Pools with a free seat and a waitlist, longest free first; those of terms that are not open wait
    until they are. One statement."""
    query = FreedSeat.select(FreedSeat.pool).join(SeatPool).join(Term)
    query = query.where(Term.state == literal(TermState.OPEN))
    return fetch_values(database, query.order_by(FreedSeat.at, FreedSeat.pool))


def clear_freed_seat(database: PooledPostgresqlDatabase, pool: int, apart_from: Collection[int] = ()) -> bool:
    """Clear a locked pool's freed seat. Two statements; returns False, and keeps it, if meanwhile an entry
    is to be considered.

    Args:
        apart_from: entries that have been looked at and could be neither served nor passed over.
    """
    write(database, FreedSeat.delete().where(FreedSeat.pool == pool))
    # Only now: whoever made it so has written the note as well, and either this has waited for them
    # or their note comes afterwards.
    left = fetch_sql(
        database,
        "INSERT INTO freed_seats (pool_id) SELECT p.id FROM seat_pools p WHERE p.id = %s "
        "AND p.taken + p.offered < p.seat_limit AND EXISTS (SELECT 1 FROM waitlist_entries w "
        "WHERE w.pool_id = p.id AND w.state = 'waiting' AND w.blocked IS NULL AND NOT w.id = ANY(%s)) "
        "ON CONFLICT DO NOTHING RETURNING pool_id",
        (pool, list(apart_from)),
    )
    return not left


def note_released_seats(database: PooledPostgresqlDatabase, today: date) -> int:
    """Add the pools whose reserved seats are released since a date, each once. Two statements; returns how
    many reservations there were."""
    # The clock of a demo may go back.
    own = ReservedSeats
    later = own.released & (own.release_on > today)
    write(database, own.update(released=False).where(later))
    return run_sql(
        database,
        "WITH open AS (UPDATE reserved_seats SET released = true "
        "WHERE NOT released AND release_on <= %s RETURNING pool_id), "
        "again AS (UPDATE waitlist_entries w SET blocked = NULL FROM open o "
        "WHERE w.pool_id = o.pool_id AND w.state = 'waiting' AND w.blocked = 'reserved') "
        "INSERT INTO freed_seats (pool_id) SELECT DISTINCT p.id FROM open o "
        "JOIN seat_pools p ON p.id = o.pool_id AND p.taken + p.offered < p.seat_limit "
        "WHERE EXISTS (SELECT 1 FROM waitlist_entries w WHERE w.pool_id = p.id AND w.state = 'waiting') "
        "ON CONFLICT (pool_id) DO UPDATE SET at = freed_seats.at",
        (today,),
    )


def due_offers(database: PooledPostgresqlDatabase, now: datetime, most: int) -> list[EntryRow]:
    """Offers past their deadline. A response in the very second of the deadline still counts."""
    due = (WaitlistEntry.state == literal(WaitlistState.OFFERED)) & (WaitlistEntry.offer_until < now)
    query = _ENTRIES.where(due).order_by(WaitlistEntry.offer_until, WaitlistEntry.id)
    return fetch(database, query.limit(most), EntryRow)


def open_entries(
    database: PooledPostgresqlDatabase,
    sections: Collection[int],
    states: Collection[WaitlistState],
) -> list[EntryRow]:
    """Entries of these sections in one of these states."""
    query = _ENTRIES.where(one_of(WaitlistEntry.section_id, sections), WaitlistEntry.state.in_(list(states)))
    return fetch(database, query.order_by(WaitlistEntry.id), EntryRow)


def lock_entries(database: PooledPostgresqlDatabase, ids: Collection[int]) -> dict[int, EntryRow]:
    """Lock these entries and read their current state."""
    named = one_of(WaitlistEntry.id, ids)
    fetch_values(
        database, WaitlistEntry.select(WaitlistEntry.id).where(named).order_by(WaitlistEntry.id).for_update()
    )
    return {entry.id: entry for entry in fetch(database, _ENTRIES.where(named), EntryRow)}
