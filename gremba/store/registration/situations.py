"""Reads the facts of decisions for many students at once."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from datetime import date, datetime
from types import SimpleNamespace
from typing import Any

from peewee import Value, fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.account.charges import ChargeEvent
from gremba.core.catalogue.seats import ReservedSeats, SeatFigures
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.permission.permission_code import PermissionCode
from gremba.core.registration.situation import Registration, Situation
from gremba.core.states import ClearanceKind, ClearedBy, WaitlistState
from gremba.core.students.student import Hold, Student
from gremba.core.students.transcript import Attempt, PlacementScore, Record
from gremba.core.waitlists.entry import WaitlistEntry
from gremba.core.windows.opening import Window
from gremba.store import models
from gremba.store.account.charge_history import read_histories
from gremba.store.database import as_array, fetch_named, send_sql
from gremba.store.queries import fetch, fetch_value, one_of

_LOCK_STUDENT_TERMS = "SELECT id FROM student_terms WHERE id = ANY(%s::int[]) ORDER BY id FOR UPDATE"
_LOCK_SEATS = "SELECT id FROM seat_pools WHERE id = ANY(%s::int[]) ORDER BY id FOR NO KEY UPDATE"

# Few pools are waited for or have reserved seats: joined, not looked for pool by pool.
_SEATS = """
SELECT p.id, p.seat_limit, p.taken, p.offered, p.beyond, coalesce(w.many, 0) AS waiting, s.reserved
FROM seat_pools p
LEFT JOIN (SELECT pool_id, count(*) AS many FROM waitlist_entries
           WHERE pool_id = ANY(%(pools)s::int[]) AND state = 'waiting' GROUP BY pool_id) w
    ON w.pool_id = p.id
LEFT JOIN (SELECT pool_id, json_agg(json_build_array(
                      id, group_kind, group_value, seats,
                      (SELECT count(*) FROM registrations r
                       WHERE r.reserved_seats_id = reserved_seats.id AND r.state = 'registered')
                      + (SELECT count(*) FROM waitlist_entries o
                         WHERE o.reserved_seats_id = reserved_seats.id AND o.state = 'offered'),
                      release_on) ORDER BY id) AS reserved
           FROM reserved_seats WHERE pool_id = ANY(%(pools)s::int[]) GROUP BY pool_id) s
    ON s.pool_id = p.id
WHERE p.id = ANY(%(pools)s::int[])
"""

_FACTS = """
SELECT st.id, st.student_id, p.full_name, s.program, s.cohort, s.campus, st.standing,
       st.credit_limit, s.residence, s.rate_class, s.receives_aid,
       (SELECT a.full_name FROM persons a WHERE a.id = s.advisor_id) AS advisor,
       (SELECT json_agg(json_build_array(r.section_id, r.credits, r.grading, r.reserved_seats_id,
                                          r.registered_at, r.first_credits IS NOT NULL)
                        ORDER BY r.id)
        FROM registrations r WHERE r.student_term_id = st.id AND r.state = 'registered') AS registered,
       EXISTS (SELECT 1 FROM registrations r
               WHERE r.student_term_id = st.id AND r.state <> 'registered') AS has_dropped,
       (SELECT json_agg(json_build_array(w.opens_at, w.closes_at))
        FROM windows w WHERE w.student_term_id = st.id) AS windows,
       (SELECT json_agg(json_build_array(h.reason, h.office, h.contact, h.stops, h.cleared_by,
                                         h.amount_cents, h.id) ORDER BY h.id)
        FROM holds h WHERE h.student_id = s.id AND h.lifted_at IS NULL) AS holds,
       (SELECT array_agg(c.kind)
        FROM clearance_items c WHERE c.student_term_id = st.id AND c.done_at IS NULL) AS open_items,
       (SELECT array_agg(ARRAY[e.course, e.term_name, e.grade, e.credits::text] ORDER BY e.id)
        FROM record_entries e WHERE e.student_id = s.id) AS attempts,
       (SELECT json_agg(json_build_array(t.test, t.score, t.taken_on))
        FROM placement_scores t WHERE t.student_id = s.id) AS placements,
       (SELECT json_agg(json_build_array(w.id, w.section_id, w.state, w.in_exchange_id)
                        ORDER BY w.id)
        FROM waitlist_entries w WHERE w.student_term_id = st.id 
            AND w.state IN ('waiting', 'offered')) AS entries,
       EXISTS (SELECT 1 FROM permission_codes c
               WHERE c.student_id = s.id AND c.is_grant AND c.withdrawn_at IS NULL) AS has_grants
FROM student_terms st
JOIN students s ON s.id = st.student_id
JOIN persons p ON p.id = s.id
WHERE st.id = ANY(%s::int[])
"""

_PERMISSION_CODES = """
SELECT c.id, c.code, c.section_id AS section, c.waives, p.full_name AS given_by, c.student_id AS student,
       least(c.expires_at, c.withdrawn_at) AS ends_at, u.permission_code_id IS NOT NULL AS is_used
FROM permission_codes c JOIN persons p ON p.id = c.given_by
LEFT JOIN permission_code_uses u ON u.permission_code_id = c.id
WHERE c.code = ANY(%b)
"""
# A code is locked before it is read, so that of two that use it at once the second sees the first.
_LOCK_PERMISSION_CODES = "SELECT id FROM permission_codes WHERE code = ANY(%b) ORDER BY id FOR NO KEY UPDATE"


def find_student_term(database: PooledPostgresqlDatabase, student_id: int, term_code: str) -> int | None:
    """The row that stands for a student in a term, and that is locked when deciding; None if the student
    is not expected there."""
    own = models.StudentTerm
    query = own.select(own.id).join(models.Term)
    found = fetch_value(database, query.where(own.student == student_id, models.Term.code == term_code))
    return None if found is None else int(found)


def lock_student_terms(database: PooledPostgresqlDatabase, ids: Iterable[int]) -> None:
    """Lock the students' rows, in ascending id, until the transaction ends."""
    send_sql(database, _LOCK_STUDENT_TERMS, (as_array(ids),))


def lock_seats(database: PooledPostgresqlDatabase, pools: Iterable[int]) -> None:
    """Lock these pools, in ascending id, until the transaction ends.

    Their figures are to be read in a statement of its own afterwards: then they stay true.
    """
    send_sql(database, _LOCK_SEATS, (as_array(pools),))


def ask_seats(
    database: PooledPostgresqlDatabase, pools: Iterable[int]
) -> Callable[[], dict[int, SeatFigures]]:
    """Ask for the figures of these pools; what this gives reads the answer."""
    asked = send_sql(database, _SEATS, {"pools": as_array(pools)})
    return lambda: {
        row.id: SeatFigures(
            limit=row.seat_limit,
            taken=row.taken,
            offered=row.offered,
            beyond=row.beyond,
            waiting=row.waiting,
            reserved_seats=_reserved_seats(row.reserved) if row.reserved else (),
        )
        for row in fetch_named(asked)
    }


def _reserved_seats(found: list[list[Any]]) -> tuple[ReservedSeats, ...]:
    return tuple(
        ReservedSeats(*(*values, date.fromisoformat(release) if release else None))
        for *values, release in found
    )


def read_seats(database: PooledPostgresqlDatabase, pools: Iterable[int]) -> dict[int, SeatFigures]:
    """The figures of these pools."""
    return ask_seats(database, pools)()


def lock_permission_codes(database: PooledPostgresqlDatabase, codes: Iterable[str]) -> None:
    """Lock the permission codes of that wording until the transaction ends."""
    send_sql(database, _LOCK_PERMISSION_CODES, (sorted(codes),))


def read_permission_codes(
    database: PooledPostgresqlDatabase, codes: Iterable[str]
) -> dict[str, PermissionCode]:
    """Those of these permission codes that exist, by code; no statement if there are none."""
    wanted = sorted({code for code in codes if code})
    if not wanted:
        return {}
    return {row.code: _consent(row) for row in fetch_named(send_sql(database, _PERMISSION_CODES, (wanted,)))}


def _consent(row: Any) -> PermissionCode:
    return PermissionCode(
        id=row.id,
        code=row.code,
        section=row.section,
        waives=frozenset(row.waives),
        by=row.given_by,
        student=row.student,
        expires_at=row.ends_at,
        used=row.is_used,
    )


def _read_grants(
    database: PooledPostgresqlDatabase, students: Iterable[int]
) -> dict[int, dict[int, tuple[PermissionCode, ...]]]:
    """What was granted to these students and is not used, by student and section."""
    own = models.PermissionCode
    used = models.PermissionCodeUse.select(models.PermissionCodeUse.permission_code).where(
        models.PermissionCodeUse.permission_code == own.id
    )
    query = (
        own.select(
            *(own.id, own.code, own.section, own.waives, own.student),
            models.Person.full_name.alias("given_by"),
            own.expires_at.alias("ends_at"),
            Value(False).alias("is_used"),
        )
        .join(models.Person, on=models.Person.id == own.given_by)
        .where(
            one_of(own.student, list(students)), own.is_grant, own.withdrawn_at.is_null(), ~fn.EXISTS(used)
        )
        .order_by(own.id)
    )
    found: dict[int, dict[int, tuple[PermissionCode, ...]]] = {}
    for row in fetch(database, query, SimpleNamespace):
        theirs = found.setdefault(row.student, {})
        theirs[row.section] = (*theirs.get(row.section, ()), _consent(row))
    return found


def ask_situations(
    database: PooledPostgresqlDatabase, terms: Mapping[int, TermCatalogue]
) -> Callable[[Mapping[int, SeatFigures], Mapping[str, PermissionCode]], dict[int, Situation]]:
    """Ask for the situations of these students, in one statement, by the id of their term row.

    What this gives reads the answer, and takes the seat figures and the permission codes that all
    of them share.

    Args:
        terms: the term of each row.
    """
    asked = send_sql(database, _FACTS, (as_array(terms),))

    def read(
        seats: Mapping[int, SeatFigures], permission_codes: Mapping[str, PermissionCode]
    ) -> dict[int, Situation]:
        rows = fetch_named(asked)
        # Few have dropped or adjusted anything: only of them all that happened is read. As
        # few have anything granted.
        past = {row.id: terms[row.id] for row in rows if row.has_dropped or _was_adjusted(row)}
        histories = read_histories(database, past) if past else {}
        granted_to = [row.student_id for row in rows if row.has_grants]
        grants = _read_grants(database, granted_to) if granted_to else {}
        return {
            row.id: _situation(
                row,
                terms[row.id],
                seats,
                permission_codes,
                histories.get(row.id, ()),
                grants.get(row.student_id, {}),
            )
            for row in rows
        }

    return read


def read_situations(
    database: PooledPostgresqlDatabase,
    terms: Mapping[int, TermCatalogue],
    seats: Mapping[int, SeatFigures],
    permission_codes: Mapping[str, PermissionCode] | None = None,
) -> dict[int, Situation]:
    """The situations of these students; see :func:`ask_situations`."""
    return ask_situations(database, terms)(seats, permission_codes or {})


def _situation(
    row: Any,
    catalogue: TermCatalogue,
    seats: Mapping[int, SeatFigures],
    permission_codes: Mapping[str, PermissionCode],
    past: tuple[ChargeEvent, ...],
    grants: Mapping[int, tuple[PermissionCode, ...]],
) -> Situation:
    section_by_id = catalogue.by_id
    local_date = catalogue.calendar.local_date
    # Only a late fee asks for the day of registering.
    told_when = catalogue.policy.tariff.late_from is not None
    open_items = row.open_items or ()
    return Situation(
        catalogue=catalogue,
        student=Student(
            id=row.student_id,
            name=row.full_name,
            program=row.program,
            cohort=row.cohort,
            campus=row.campus or "",
            standing=row.standing,
            credit_limit=None if row.credit_limit is None else float(row.credit_limit),
            residence=row.residence,
            rate_class=row.rate_class,
            advisor=row.advisor or "",
            receives_aid=row.receives_aid,
        ),
        record=Record(
            _attempts(row.attempts),
            tuple(
                [
                    PlacementScore(test, score, date.fromisoformat(taken_on))
                    for test, score, taken_on in row.placements or ()
                ]
            ),
        ),
        windows=tuple(
            [
                Window(datetime.fromisoformat(opens), datetime.fromisoformat(closes))
                for opens, closes in row.windows or ()
            ]
        ),
        holds=tuple(
            [
                Hold(reason, office, contact, frozenset(stops), ClearedBy(cleared_by), amount_cents, hold_id)
                for reason, office, contact, stops, cleared_by, amount_cents, hold_id in row.holds or ()
            ]
        ),
        held=tuple(
            [
                Registration(
                    section_by_id[section],
                    float(credits),
                    grading,
                    part,
                    local_date(datetime.fromisoformat(registered_at)) if told_when else None,
                )
                for section, credits, grading, part, registered_at, _ in row.registered or ()
            ]
        ),
        seats=seats,
        past=past,
        clearance_open=tuple([kind for kind in ClearanceKind if kind in open_items]),
        permission_codes=permission_codes,
        grants=grants,
        waitlist_entries=tuple(
            [
                WaitlistEntry(
                    entry,
                    section_by_id[section],
                    state == WaitlistState.OFFERED,
                    None if in_exchange is None else section_by_id[in_exchange],
                )
                for entry, section, state, in_exchange in row.entries or ()
            ]
        ),
    )


def _was_adjusted(row: Any) -> bool:
    return any([is_adjusted for *_, is_adjusted in row.registered or ()])


def _attempts(lines: list[tuple[str, str, str | None, str]] | None) -> tuple[Attempt, ...]:
    """A record as an array of texts: for twenty courses far quicker to make and to read than JSON."""
    return tuple(
        [Attempt(course, term, grade, float(credits)) for course, term, grade, credits in lines or ()]
    )
