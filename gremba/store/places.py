"""Places on waitlists: joining, what becomes of them, and the messages about it."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.database import ask, rows, run

ORDER = "coalesce(w.ranked, w.id), w.id"
"""The order of a waitlist: of entry, but for places that an office has moved."""

JOIN = """
WITH joined AS (
    INSERT INTO places (student_term_id, term_id, section_id, pool_id, state, joined_at,
                        gives_up_section_id, grading, credits, consent, names)
    SELECT row, term, section, pool, 'waiting', %s, gives_up, grading, credits, consent,
           string_to_array(names, ' ')::int[]
    FROM unnest(%s::int[], %s::int[], %s::int[], %s::int[], %s::int[], %b::text[], %s::numeric[],
                %b::text[], %b::text[])
         AS t (row, term, section, pool, gives_up, grading, credits, consent, names)
    RETURNING id, joined_at
)
INSERT INTO place_events (place_id, what, at) SELECT id, 'joined', joined_at FROM joined
"""


@dataclass(frozen=True, slots=True)
class PlaceRow:
    """A place as it stands in its waitlist.

    Attributes:
        term: code of the term.
        gives_up: id of the section given up for the seat; None for a plain place.
        names: ids of companions named for it.
        receipt: the receipt of the registration that it has led to.
        part: the reserved part that the seat offered comes from; None for an open seat.
    """

    id: int
    student_term_id: int
    term: str
    section: int
    pool: int
    state: str
    gives_up: int | None
    grading: str | None
    credits: float | None
    consent: str
    names: tuple[int, ...]
    offer_until: datetime | None
    passed_why: str
    receipt: int | None
    part: int | None


_READ = (
    "SELECT w.id, w.student_term_id, t.code, w.section_id, w.pool_id, w.state, "
    "w.gives_up_section_id, w.grading, w.credits::float, w.consent, w.names, w.offer_until, "
    "w.passed_why, w.receipt_id, w.part_id FROM places w JOIN terms t ON t.id = w.term_id WHERE "
)


def _place(row: Sequence[Any]) -> PlaceRow:
    values: list[Any] = list(row)
    values[10] = tuple(values[10])
    return PlaceRow(*values)


def read_place(
    database: PooledPostgresqlDatabase, place_id: int, student_id: int | None = None
) -> PlaceRow | None:
    """A place, whatever its state; None if there is none, or it is not that student's. One statement.

    Args:
        student_id: whose it must be; None where anybody's will do.
    """
    found = rows(
        database,
        f"{_READ} w.id = %s AND (%s::int IS NULL OR w.student_term_id IN "
        "(SELECT id FROM student_terms WHERE student_id = %s))",
        (place_id, student_id, student_id),
    )
    return _place(found[0]) if found else None


def heads(
    database: PooledPostgresqlDatabase, pool: int, most: int, apart_from: Collection[int] = ()
) -> list[PlaceRow]:
    """Those who wait for a pool and are to be looked at, the first first. One statement.

    Args:
        apart_from: places that have been looked at and could be neither served nor passed over.
    """
    return [
        _place(row)
        for row in rows(
            database,
            f"{_READ} w.pool_id = %s AND w.state = 'waiting' AND w.blocked IS NULL "
            f"AND NOT w.id = ANY(%s::bigint[]) ORDER BY {ORDER} LIMIT %s",
            (pool, list(apart_from), most),
        )
    ]


def waiting_swaps(database: PooledPostgresqlDatabase, term_id: int) -> list[PlaceRow]:
    """Everybody of a term who waits by swap and is to be looked at, those who have waited longest
    first."""
    return [
        _place(row)
        for row in rows(
            database,
            f"{_READ} w.term_id = %s AND w.state = 'waiting' AND w.blocked IS NULL "
            f"AND w.gives_up_section_id IS NOT NULL ORDER BY {ORDER}",
            (term_id,),
        )
    ]


def pass_over(
    database: PooledPostgresqlDatabase, place: PlaceRow, blocked: str, why: str, at: datetime
) -> bool:
    """Leave a place, which must be locked, in its position and look at it no more until something
    changes for it. One statement, and one where the reason is new; gives whether it is.

    Args:
        blocked: "kept" or "stopped", see the table.
    """
    run(
        database,
        "UPDATE places SET blocked = %s, passed_why = %s WHERE id = %s",
        (blocked, why, place.id),
    )
    if why == place.passed_why:
        return False
    note_event(database, place.id, "passed over", at, why)
    return True


def rank_before(database: PooledPostgresqlDatabase, place_id: int, before: int) -> None:
    """Put a place between another and the one in front of that. Its pool must be locked; any number
    may be put before the same one, and each stands behind those put there earlier. One statement."""
    run(
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
    state: str,
    what: str,
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
    open_still = state in ("waiting", "offered")
    run(
        database,
        "UPDATE places SET state = %s, ended_at = %s, offer_until = coalesce(%s, offer_until), "
        "offered_at = CASE WHEN %s = 'offered' THEN %s ELSE offered_at END, passed_why = '', "
        "receipt_id = %s, part_id = %s WHERE id = %s",
        (state, None if open_still else at, offer_until, state, at, receipt, part, place.id),
    )
    note_event(database, place.id, what, at, cause, by)


def note_event(
    database: PooledPostgresqlDatabase,
    place_id: int,
    what: str,
    at: datetime,
    cause: str = "",
    by: int | None = None,
) -> None:
    """Write an event of a place. One statement."""
    run(
        database,
        "INSERT INTO place_events (place_id, what, at, cause, by_id) VALUES (%s, %s, %s, %s, %s)",
        (place_id, what, at, cause, by),
    )


def put_message(
    database: PooledPostgresqlDatabase,
    place: PlaceRow,
    title: str,
    body: str,
    at: datetime,
    until: datetime | None = None,
) -> None:
    """Leave a message for the student; it is mailed from the same table. One statement."""
    run(
        database,
        "INSERT INTO messages (student_term_id, place_id, title, body, until, made_at) "
        "VALUES (%s, %s, %s, %s, %s, %s)",
        (place.student_term_id, place.id, title, body, until, at),
    )
    run(database, "SELECT pg_notify('gremba_messages', %s)", (str(place.student_term_id),))


def freed_pools(database: PooledPostgresqlDatabase) -> list[int]:
    """Pools with a seat that somebody waits for, the longest free first. One statement."""
    return [row[0] for row in rows(database, "SELECT pool_id FROM freed_pools ORDER BY at, pool_id")]


def settle_pool(
    database: PooledPostgresqlDatabase, pool: int, apart_from: Collection[int] = ()
) -> bool:
    """The freed seats of a pool, which is locked, have gone where they could. Two statements; False,
    and the note stays, if meanwhile somebody is to be looked at.

    Args:
        apart_from: places that have been looked at and could be neither served nor passed over.
    """
    run(database, "DELETE FROM freed_pools WHERE pool_id = %s", (pool,))
    # Only now: whoever made it so has written the note as well, and either this has waited for them
    # or their note comes afterwards.
    left = rows(
        database,
        "INSERT INTO freed_pools (pool_id) SELECT p.id FROM seat_pools p WHERE p.id = %s "
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
    run(
        database,
        "UPDATE seat_reservations SET released = false WHERE released AND release_on > %s",
        (today,),
    )
    return run(
        database,
        "WITH open AS (UPDATE seat_reservations SET released = true "
        "WHERE NOT released AND release_on <= %s RETURNING pool_id), "
        "again AS (UPDATE places w SET blocked = NULL FROM open o "
        "WHERE w.pool_id = o.pool_id AND w.state = 'waiting' AND w.blocked = 'kept') "
        "INSERT INTO freed_pools (pool_id) SELECT DISTINCT p.id FROM open o "
        "JOIN seat_pools p ON p.id = o.pool_id AND p.taken + p.offered < p.seat_limit "
        "WHERE EXISTS (SELECT 1 FROM places w WHERE w.pool_id = p.id AND w.state = 'waiting') "
        "ON CONFLICT (pool_id) DO UPDATE SET at = freed_pools.at",
        (today,),
    )


def due_offers(database: PooledPostgresqlDatabase, now: datetime, most: int) -> list[PlaceRow]:
    """Offers past their deadline. An answer in the very second of it still counts."""
    return [
        _place(row)
        for row in rows(
            database,
            f"{_READ} w.state = 'offered' AND w.offer_until < %s ORDER BY w.offer_until, w.id LIMIT %s",
            (now, most),
        )
    ]


def open_places(
    database: PooledPostgresqlDatabase, sections: Sequence[int], states: Sequence[str]
) -> list[PlaceRow]:
    """Places of these sections that are in one of these states."""
    return [
        _place(row)
        for row in rows(
            database,
            f"{_READ} w.section_id = ANY(%s) AND w.state = ANY(%s) ORDER BY w.id",
            (list(sections), list(states)),
        )
    ]


def lock_places(database: PooledPostgresqlDatabase, ids: Sequence[int]) -> dict[int, PlaceRow]:
    """Lock these places, and read them as they are now."""
    ask(database, "SELECT id FROM places WHERE id = ANY(%s) ORDER BY id FOR UPDATE", (sorted(ids),))
    return {
        row[0]: _place(row) for row in rows(database, f"{_READ} w.id = ANY(%s)", (list(ids),))
    }
