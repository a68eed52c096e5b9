"""Places on waitlists: joining, what becomes of them, and the messages about it."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from peewee import fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.states import Blocked, WaitlistEventKind, WaitlistState
from gremba.store.database import fetch_sql, run_sql
from gremba.store.models import (
    Message,
    Place,
    PlaceEvent,
    SeatReservation,
    StudentTerm,
    Term,
    Vacancy,
)
from gremba.store.models.base import literal
from gremba.store.queries import columns, fetch, fetch_one, fetch_values, notify, one_of, write

JOIN = """
WITH joined AS (
    INSERT INTO places (student_term_id, term_id, section_id, pool_id, state, joined_at,
                        in_exchange_id, grading, credits, consent, names)
    SELECT row, term, section, pool, 'waiting', %s, in_exchange, grading, credits, consent,
           string_to_array(names, ' ')::int[]
    FROM unnest(%s::int[], %s::int[], %s::int[], %s::int[], %s::int[], %b::text[], %s::numeric[],
                %b::text[], %b::text[])
         AS t (row, term, section, pool, in_exchange, grading, credits, consent, names)
    RETURNING id, joined_at
)
INSERT INTO place_events (place_id, what, at) SELECT id, 'joined', joined_at FROM joined
"""


@dataclass(frozen=True, slots=True)
class PlaceRow:
    """A place as it stands in its waitlist.

    Attributes:
        term: code of the term.
        in_exchange: id of the section given up for the seat; None for a plain place.
        names: ids of companions named for it.
        receipt: the receipt of the registration that it has led to.
        part: the reserved part that the seat offered comes from; None for an open seat.
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
    consent: str
    names: tuple[int, ...]
    offer_until: datetime | None
    passed_why: str
    receipt: int | None
    part: int | None


RANK = fn.COALESCE(Place.ranked, Place.id)
"""The order of a waitlist, and then the id: of entry, but for places that an office has moved."""

_PLACES = Place.select(
    *columns(
        PlaceRow, Place, term=Term.code, section=Place.section_id, pool=Place.pool_id,
        in_exchange=Place.in_exchange,
    )
).join(Term, on=Term.id == Place.term_id)  # fmt: skip

_IS_LOOKED_AT = (Place.state == literal(WaitlistState.WAITING)) & Place.blocked.is_null()


def read_place(
    database: PooledPostgresqlDatabase, place_id: int, student_id: int | None = None
) -> PlaceRow | None:
    """A place, whatever its state; None if there is none, or it is not that student's. One statement.

    Args:
        student_id: whose it must be; None where anybody's will do.
    """
    query = _PLACES.where(Place.id == place_id)
    if student_id is not None:
        own = StudentTerm.select(StudentTerm.id).where(StudentTerm.student == student_id)
        query = query.where(Place.student_term_id.in_(own))
    return fetch_one(database, query, PlaceRow)


def heads(
    database: PooledPostgresqlDatabase, pool: int, most: int, apart_from: Collection[int] = ()
) -> list[PlaceRow]:
    """Those who wait for a pool and are to be looked at, the first first. One statement.

    Args:
        apart_from: places that have been looked at and could be neither served nor passed over.
    """
    query = _PLACES.where(Place.pool_id == pool, _IS_LOOKED_AT)
    if apart_from:
        query = query.where(~one_of(Place.id, apart_from))
    return fetch(database, query.order_by(RANK, Place.id).limit(most), PlaceRow)


def waiting_swaps(database: PooledPostgresqlDatabase, term_id: int) -> list[PlaceRow]:
    """Everybody of a term who waits by swap and is to be looked at, those who have waited longest
    first."""
    query = _PLACES.where(
        Place.term_id == term_id, _IS_LOOKED_AT, ~Place.in_exchange.is_null()
    )
    return fetch(database, query.order_by(RANK, Place.id), PlaceRow)


def pass_over(
    database: PooledPostgresqlDatabase, place: PlaceRow, blocked: Blocked, why: str, at: datetime
) -> bool:
    """Leave a place, which must be locked, in its position and look at it no more until something
    changes for it. One statement, and one where the reason is new; gives whether it is."""
    write(database, Place.update(blocked=blocked, passed_why=why).where(Place.id == place.id))
    if why == place.passed_why:
        return False
    note_event(database, place.id, WaitlistEventKind.PASSED_OVER, at, why)
    return True


def rank_before(database: PooledPostgresqlDatabase, place_id: int, before: int) -> None:
    """Put a place between another and the one in front of that. Its pool must be locked; any number
    may be put before the same one, and each stands behind those put there earlier. One statement."""
    run_sql(
        database,
        # Half of a sum, not a quotient: numeric multiplication is exact, however often.
        "UPDATE places w SET ranked = (b.rank + coalesce((SELECT max(coalesce(o.ranked, o.id)) "
        "FROM places o WHERE o.pool_id = b.pool_id AND o.id <> w.id AND o.id <> b.id "
        "AND o.state = 'waiting' AND coalesce(o.ranked, o.id) <= b.rank), b.rank - 2)) * 0.5 "
        "FROM (SELECT id, pool_id, coalesce(ranked, id) AS rank FROM places WHERE id = %s) b "
        "WHERE w.id = %s",
        (before, place_id),
    )


def change_place(
    database: PooledPostgresqlDatabase,
    place: PlaceRow,
    state: WaitlistState,
    what: WaitlistEventKind,
    at: datetime,
    cause: str = "",
    offer_until: datetime | None = None,
    receipt: int | None = None,
    by: int | None = None,
    part: int | None = None,
) -> None:
    """Write what became of a place, which must be locked, and its event. Two statements; the
    pool's figures follow by themselves.

    Args:
        receipt: of the registration that it has led to.
        by: id of who did it, if that was not the student.
        part: the reserved part that a seat offered comes from.
    """
    now: dict[str, Any] = {
        "state": state, "ended_at": None if state.is_open else at, "passed_why": "",
        "receipt": receipt, "part": part,
    }  # fmt: skip
    if offer_until is not None:
        now["offer_until"] = offer_until
    if state == WaitlistState.OFFERED:
        now["offered_at"] = at
    write(database, Place.update(now).where(Place.id == place.id))
    note_event(database, place.id, what, at, cause, by)


def note_event(
    database: PooledPostgresqlDatabase,
    place_id: int,
    what: WaitlistEventKind,
    at: datetime,
    cause: str = "",
    by: int | None = None,
) -> None:
    """Write an event of a place. One statement."""
    write(database, PlaceEvent.insert(place=place_id, what=what, at=at, cause=cause, by=by))


def put_message(
    database: PooledPostgresqlDatabase,
    place: PlaceRow,
    title: str,
    body: str,
    at: datetime,
    until: datetime | None = None,
) -> None:
    """Leave a message for the student; it is mailed from the same table. One statement."""
    write(
        database,
        Message.insert(
            student_term=place.student_term_id, place=place.id, title=title, body=body, until=until,
            made_at=at,
        ),
    )  # fmt: skip
    notify(database, "gremba_messages", str(place.student_term_id))


def vacant_pools(database: PooledPostgresqlDatabase) -> list[int]:
    """Pools with a seat that somebody waits for, the longest free first. One statement."""
    query = Vacancy.select(Vacancy.pool)
    return fetch_values(database, query.order_by(Vacancy.at, Vacancy.pool))


def clear_vacancy(
    database: PooledPostgresqlDatabase, pool: int, apart_from: Collection[int] = ()
) -> bool:
    """The freed seats of a pool, which is locked, have gone where they could. Two statements; False,
    and the note stays, if meanwhile somebody is to be looked at.

    Args:
        apart_from: places that have been looked at and could be neither served nor passed over.
    """
    write(database, Vacancy.delete().where(Vacancy.pool == pool))
    # Only now: whoever made it so has written the note as well, and either this has waited for them
    # or their note comes afterwards.
    left = fetch_sql(
        database,
        "INSERT INTO vacancies (pool_id) SELECT p.id FROM seat_pools p WHERE p.id = %s "
        "AND p.taken + p.offered < p.seat_limit AND EXISTS (SELECT 1 FROM places w "
        "WHERE w.pool_id = p.id AND w.state = 'waiting' AND w.blocked IS NULL AND NOT w.id = ANY(%s)) "
        "ON CONFLICT DO NOTHING RETURNING pool_id",
        (pool, list(apart_from)),
    )
    return not left


def note_released_parts(database: PooledPostgresqlDatabase, today: date) -> int:
    """Note the pools of which reserved parts are open to all since a day that has come, each once.
    Two statements; gives how many parts there were."""
    # The clock of a demo may go back.
    own = SeatReservation
    later = own.released & (own.release_on > today)
    write(database, own.update(released=False).where(later))
    return run_sql(
        database,
        "WITH open AS (UPDATE seat_reservations SET released = true "
        "WHERE NOT released AND release_on <= %s RETURNING pool_id), "
        "again AS (UPDATE places w SET blocked = NULL FROM open o "
        "WHERE w.pool_id = o.pool_id AND w.state = 'waiting' AND w.blocked = 'kept') "
        "INSERT INTO vacancies (pool_id) SELECT DISTINCT p.id FROM open o "
        "JOIN seat_pools p ON p.id = o.pool_id AND p.taken + p.offered < p.seat_limit "
        "WHERE EXISTS (SELECT 1 FROM places w WHERE w.pool_id = p.id AND w.state = 'waiting') "
        "ON CONFLICT (pool_id) DO UPDATE SET at = vacancies.at",
        (today,),
    )


def due_offers(database: PooledPostgresqlDatabase, now: datetime, most: int) -> list[PlaceRow]:
    """Offers past their deadline. An answer in the very second of it still counts."""
    due = (Place.state == literal(WaitlistState.OFFERED)) & (Place.offer_until < now)
    query = _PLACES.where(due).order_by(Place.offer_until, Place.id)
    return fetch(database, query.limit(most), PlaceRow)


def open_places(
    database: PooledPostgresqlDatabase,
    sections: Collection[int],
    states: Collection[WaitlistState],
) -> list[PlaceRow]:
    """Places of these sections that are in one of these states."""
    query = _PLACES.where(one_of(Place.section_id, sections), Place.state.in_(list(states)))
    return fetch(database, query.order_by(Place.id), PlaceRow)


def lock_places(database: PooledPostgresqlDatabase, ids: Collection[int]) -> dict[int, PlaceRow]:
    """Lock these places, and read them as they are now."""
    named = one_of(Place.id, ids)
    fetch_values(database, Place.select(Place.id).where(named).order_by(Place.id).for_update())
    return {place.id: place for place in fetch(database, _PLACES.where(named), PlaceRow)}
