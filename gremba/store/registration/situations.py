"""Reads the facts of decisions for many students at once."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime

from peewee import fn
from playhouse.pool import PooledPostgresqlDatabase
from pydantic import TypeAdapter

from gremba.core.account.charges import ChargeEvent
from gremba.core.catalogue.seats import ReservedSeats, SeatFigures
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.permission.permission_code import PermissionCode
from gremba.core.registration.situation import Registration, Situation
from gremba.core.states import ClearanceKind
from gremba.core.students.student import Hold, Student
from gremba.core.students.transcript import Attempt, PlacementScore, Record
from gremba.core.waitlists.entry import WaitlistEntry
from gremba.core.windows.opening import Window
from gremba.store import models
from gremba.store.account.charge_history import read_histories
from gremba.store.database import as_array, fetch_records, send_sql
from gremba.store.queries import fetch_value, one_of

_LOCK_STUDENT_TERMS = "SELECT id FROM student_terms WHERE id = ANY(%s::int[]) ORDER BY id FOR UPDATE"
_LOCK_SEATS = "SELECT id FROM seat_pools WHERE id = ANY(%s::int[]) ORDER BY id FOR NO KEY UPDATE"

# Few pools are waited for or have reserved seats: joined, not looked for pool by pool.
_SEATS = """
SELECT p.id, p.seat_limit AS "limit", p.taken, p.offered, p.beyond, coalesce(w.many, 0) AS waiting,
       coalesce(s.reserved_seats, '[]') AS reserved_seats
FROM seat_pools p
LEFT JOIN (SELECT pool_id, count(*) AS many FROM waitlist_entries
           WHERE pool_id = ANY(%(pools)s::int[]) AND state = 'waiting' GROUP BY pool_id) w
    ON w.pool_id = p.id
LEFT JOIN (SELECT pool_id, json_agg(json_build_object(
                      'id', id, 'kind', group_kind, 'value', group_value, 'seats', seats,
                      'used', (SELECT count(*) FROM registrations r
                               WHERE r.reserved_seats_id = reserved_seats.id AND r.state = 'registered')
                              + (SELECT count(*) FROM waitlist_entries o
                                 WHERE o.reserved_seats_id = reserved_seats.id AND o.state = 'offered'),
                      'release_on', release_on) ORDER BY id) AS reserved_seats
           FROM reserved_seats WHERE pool_id = ANY(%(pools)s::int[]) GROUP BY pool_id) s
    ON s.pool_id = p.id
WHERE p.id = ANY(%(pools)s::int[])
"""

# Records travel as arrays of text: as JSON objects all facts together take half as long again.
_FACTS = """
SELECT st.id, st.student_id, p.full_name, s.program, s.cohort, coalesce(s.campus, '') AS campus, st.standing,
       st.credit_limit, s.residence, s.rate_class, s.receives_aid,
       coalesce((SELECT a.full_name FROM persons a WHERE a.id = s.advisor_id), '') AS advisor,
       (SELECT coalesce(json_agg(json_build_object(
                   'section', r.section_id, 'credits', r.credits, 'grading', r.grading,
                   'reserved_seats', r.reserved_seats_id, 'registered_at', r.registered_at,
                   'is_adjusted', r.first_credits IS NOT NULL) ORDER BY r.id), '[]')
        FROM registrations r WHERE r.student_term_id = st.id AND r.state = 'registered') AS registered,
       EXISTS (SELECT 1 FROM registrations r
               WHERE r.student_term_id = st.id AND r.state <> 'registered') AS has_dropped,
       (SELECT coalesce(json_agg(json_build_object('opens_at', w.opens_at, 'closes_at', w.closes_at)), '[]')
        FROM windows w WHERE w.student_term_id = st.id) AS windows,
       (SELECT coalesce(json_agg(json_build_object(
                   'id', h.id, 'reason', h.reason, 'office', h.office, 'contact', h.contact, 'stops', h.stops,
                   'cleared_by', h.cleared_by, 'amount_cents', h.amount_cents) ORDER BY h.id), '[]')
        FROM holds h WHERE h.student_id = s.id AND h.lifted_at IS NULL) AS holds,
       (SELECT coalesce(array_agg(c.kind), '{}')
        FROM clearance_items c WHERE c.student_term_id = st.id AND c.done_at IS NULL) AS open_items,
       (SELECT coalesce(array_agg(ARRAY[e.course, e.term_name, e.grade, e.credits::text] ORDER BY e.id), '{}')
        FROM record_entries e WHERE e.student_id = s.id) AS attempts,
       (SELECT coalesce(json_agg(json_build_object(
                   'test', t.test, 'score', t.score, 'taken_on', t.taken_on)), '[]')
        FROM placement_scores t WHERE t.student_id = s.id) AS placements,
       (SELECT coalesce(json_agg(json_build_object(
                   'id', w.id, 'section', w.section_id, 'is_offered', w.state = 'offered',
                   'in_exchange', w.in_exchange_id) ORDER BY w.id), '[]')
        FROM waitlist_entries w WHERE w.student_term_id = st.id 
            AND w.state IN ('waiting', 'offered')) AS entries,
       EXISTS (SELECT 1 FROM permission_codes c
               WHERE c.student_id = s.id AND c.is_grant AND c.withdrawn_at IS NULL) AS has_grants
FROM student_terms st
JOIN students s ON s.id = st.student_id
JOIN persons p ON p.id = s.id
WHERE st.id = ANY(%s::int[])
"""


@dataclass(frozen=True, slots=True)
class _PoolRow:
    id: int
    limit: int
    taken: int
    offered: int
    beyond: int
    waiting: int
    reserved_seats: tuple[ReservedSeats, ...]


@dataclass(frozen=True, slots=True)
class _RegisteredRow:
    section: int
    credits: float
    grading: str
    reserved_seats: int | None
    registered_at: datetime
    is_adjusted: bool


@dataclass(frozen=True, slots=True)
class _EntryRow:
    id: int
    section: int
    is_offered: bool
    in_exchange: int | None


@dataclass(frozen=True, slots=True)
class _FactsRow:
    id: int
    student_id: int
    full_name: str
    program: str
    cohort: str
    campus: str
    standing: str
    credit_limit: float | None
    residence: str
    rate_class: str
    receives_aid: bool
    advisor: str
    registered: list[_RegisteredRow]
    has_dropped: bool
    windows: tuple[Window, ...]
    holds: tuple[Hold, ...]
    open_items: list[ClearanceKind]
    attempts: tuple[Attempt, ...]
    placements: tuple[PlacementScore, ...]
    entries: list[_EntryRow]
    has_grants: bool

    @property
    def has_past(self) -> bool:
        """Whether they have dropped or adjusted anything."""
        return self.has_dropped or any([registered.is_adjusted for registered in self.registered])


_POOL_ROWS = TypeAdapter(list[_PoolRow])
_FACTS_ROWS = TypeAdapter(list[_FactsRow])
_PERMISSION_CODE_ROWS = TypeAdapter(list[PermissionCode])

_PERMISSION_CODES = """
SELECT c.id, c.code, c.section_id AS section, c.waives, p.full_name AS by, c.student_id AS student,
       least(c.expires_at, c.withdrawn_at) AS expires_at, u.permission_code_id IS NOT NULL AS used
FROM permission_codes c JOIN persons p ON p.id = c.given_by
LEFT JOIN permission_code_uses u ON u.permission_code_id = c.id
WHERE c.code = ANY(%b)
"""
# A code is locked before it is read, so that of two that use it at once the second sees the first.
_LOCK_PERMISSION_CODES = "SELECT id FROM permission_codes WHERE code = ANY(%b) ORDER BY id FOR NO KEY UPDATE"


def find_student_term(database: PooledPostgresqlDatabase, student_id: int, term_code: str) -> int | None:
    """The student's row of a term, which decisions lock; None if the student is not enrolled in it."""
    own = models.StudentTerm
    query = own.select(own.id).join(models.Term)
    found = fetch_value(database, query.where(own.student == student_id, models.Term.code == term_code))
    return None if found is None else int(found)


def lock_student_terms(database: PooledPostgresqlDatabase, ids: Iterable[int]) -> None:
    """Lock the students' term rows by ascending id until the transaction ends."""
    send_sql(database, _LOCK_STUDENT_TERMS, (as_array(ids),))


def lock_seats(database: PooledPostgresqlDatabase, pools: Iterable[int]) -> None:
    """Lock these pools by ascending id until the transaction ends.

    Their figures are to be read in a statement of its own afterwards: then they stay true.
    """
    send_sql(database, _LOCK_SEATS, (as_array(pools),))


def ask_seats(
    database: PooledPostgresqlDatabase, pools: Iterable[int]
) -> Callable[[], dict[int, SeatFigures]]:
    """Send a query for the figures of these pools; the function returned reads them."""
    asked = send_sql(database, _SEATS, {"pools": as_array(pools)})
    return lambda: {
        row.id: SeatFigures(
            limit=row.limit,
            taken=row.taken,
            offered=row.offered,
            beyond=row.beyond,
            waiting=row.waiting,
            reserved_seats=row.reserved_seats,
        )
        for row in fetch_records(asked, _POOL_ROWS)
    }


def read_seats(database: PooledPostgresqlDatabase, pools: Iterable[int]) -> dict[int, SeatFigures]:
    """The figures of these pools."""
    return ask_seats(database, pools)()


def lock_permission_codes(database: PooledPostgresqlDatabase, codes: Iterable[str]) -> None:
    """Lock these permission codes until the transaction ends."""
    send_sql(database, _LOCK_PERMISSION_CODES, (sorted(codes),))


def read_permission_codes(
    database: PooledPostgresqlDatabase, codes: Iterable[str]
) -> dict[str, PermissionCode]:
    """The existing ones of these permission codes; no statement if there are none."""
    wanted = sorted({code for code in codes if code})
    if not wanted:
        return {}
    asked = send_sql(database, _PERMISSION_CODES, (wanted,))
    return {found.code: found for found in fetch_records(asked, _PERMISSION_CODE_ROWS)}


def _read_grants(
    database: PooledPostgresqlDatabase, students: Iterable[int]
) -> dict[int | None, dict[int, tuple[PermissionCode, ...]]]:
    """These students' unused approvals, by student and section."""
    own = models.PermissionCode
    used = models.PermissionCodeUse.select(models.PermissionCodeUse.permission_code).where(
        models.PermissionCodeUse.permission_code == own.id
    )
    query = (
        own.select(
            *(own.id, own.code, own.waives),
            own.section.alias("section"),
            own.student.alias("student"),
            models.Person.full_name.alias("by"),
            own.expires_at,
        )
        .join(models.Person, on=models.Person.id == own.given_by)
        .where(
            one_of(own.student, list(students)), own.is_grant, own.withdrawn_at.is_null(), ~fn.EXISTS(used)
        )
        .order_by(own.id)
    )
    found: dict[int | None, dict[int, tuple[PermissionCode, ...]]] = {}
    asked = send_sql(database, *query.bind(database).sql())
    for grant in fetch_records(asked, _PERMISSION_CODE_ROWS):
        theirs = found.setdefault(grant.student, {})
        theirs[grant.section] = (*theirs.get(grant.section, ()), grant)
    return found


def ask_situations(
    database: PooledPostgresqlDatabase, terms: Mapping[int, TermCatalogue]
) -> Callable[[Mapping[int, SeatFigures], Mapping[str, PermissionCode]], dict[int, Situation]]:
    """Send one query for the situations of these students, by term row.

    What this gives reads the answer, and takes the seat figures and the permission codes that all
    of them share.

    Args:
        terms: the term of each row.
    """
    asked = send_sql(database, _FACTS, (as_array(terms),))

    def read(
        seats: Mapping[int, SeatFigures], permission_codes: Mapping[str, PermissionCode]
    ) -> dict[int, Situation]:
        rows = fetch_records(asked, _FACTS_ROWS)
        # Few have dropped or adjusted anything: only of them all that happened is read. As
        # few have anything granted.
        past = {row.id: terms[row.id] for row in rows if row.has_past}
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
    row: _FactsRow,
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
    return Situation(
        catalogue=catalogue,
        student=Student(
            id=row.student_id,
            name=row.full_name,
            program=row.program,
            cohort=row.cohort,
            campus=row.campus,
            standing=row.standing,
            credit_limit=row.credit_limit,
            residence=row.residence,
            rate_class=row.rate_class,
            advisor=row.advisor,
            receives_aid=row.receives_aid,
        ),
        record=Record(row.attempts, row.placements),
        windows=row.windows,
        holds=row.holds,
        held=tuple(
            [
                Registration(
                    section_by_id[own.section],
                    own.credits,
                    own.grading,
                    own.reserved_seats,
                    local_date(own.registered_at) if told_when else None,
                )
                for own in row.registered
            ]
        ),
        seats=seats,
        past=past,
        clearance_open=tuple([kind for kind in ClearanceKind if kind in row.open_items]),
        permission_codes=permission_codes,
        grants=grants,
        waitlist_entries=tuple(
            [
                WaitlistEntry(
                    entry.id,
                    section_by_id[entry.section],
                    entry.is_offered,
                    None if entry.in_exchange is None else section_by_id[entry.in_exchange],
                )
                for entry in row.entries
            ]
        ),
    )
