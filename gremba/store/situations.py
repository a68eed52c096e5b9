"""Reading what decisions rest on, for many students at once."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.catalogue import TermCatalogue
from gremba.core.record import Attempt, PlacementScore, Record
from gremba.core.situation import (
    ClearanceKind,
    Consent,
    Held,
    Hold,
    Place,
    ReservedPart,
    SeatFigures,
    Situation,
    Student,
    Window,
)
from gremba.store.database import ask, numbers, rows

_LOCK_STUDENT_TERMS = "SELECT id FROM student_terms WHERE id = ANY(%s::int[]) ORDER BY id FOR UPDATE"
_LOCK_SEATS = "SELECT id FROM seat_pools WHERE id = ANY(%s::int[]) ORDER BY id FOR NO KEY UPDATE"

# Few pools are waited for or have reserved parts: joined, not looked for pool by pool.
_SEATS = """
SELECT p.id, p.seat_limit, p.taken, p.offered, p.beyond, coalesce(w.many, 0), s.parts
FROM seat_pools p
LEFT JOIN (SELECT pool_id, count(*) AS many FROM places
           WHERE pool_id = ANY(%(pools)s::int[]) AND state = 'waiting' GROUP BY pool_id) w
    ON w.pool_id = p.id
LEFT JOIN (SELECT pool_id, json_agg(json_build_array(
                      id, group_kind, group_value, seats,
                      (SELECT count(*) FROM registrations r
                       WHERE r.part_id = seat_reservations.id AND r.state = 'registered')
                      + (SELECT count(*) FROM places o
                         WHERE o.part_id = seat_reservations.id AND o.state = 'offered'),
                      release_on) ORDER BY id) AS parts
           FROM seat_reservations WHERE pool_id = ANY(%(pools)s::int[]) GROUP BY pool_id) s
    ON s.pool_id = p.id
WHERE p.id = ANY(%(pools)s::int[])
"""

_FACTS = """
SELECT st.id, st.student_id, p.full_name, s.program, s.cohort, s.campus, st.standing,
       st.credit_limit, s.residence, s.receives_aid,
       (SELECT a.full_name FROM persons a WHERE a.id = s.advisor_id),
       (SELECT json_agg(json_build_array(r.section_id, r.credits, r.grading, r.part_id, r.kept_cents)
                        ORDER BY r.id)
        FROM registrations r WHERE r.student_term_id = st.id AND r.state = 'registered'),
       (SELECT sum(r.kept_cents)
        FROM registrations r WHERE r.student_term_id = st.id AND r.state <> 'registered'),
       (SELECT json_agg(json_build_array(w.opens_at, w.closes_at))
        FROM windows w WHERE w.student_term_id = st.id),
       (SELECT json_agg(json_build_array(h.reason, h.office, h.contact, h.stops, h.cleared_by,
                                         h.amount_cents, h.id) ORDER BY h.id)
        FROM holds h WHERE h.student_id = s.id AND h.lifted_at IS NULL),
       (SELECT array_agg(c.kind)
        FROM clearance_items c WHERE c.student_term_id = st.id AND c.done_at IS NULL),
       (SELECT array_agg(ARRAY[e.course, e.term_name, e.grade, e.credits::text] ORDER BY e.id)
        FROM record_entries e WHERE e.student_id = s.id),
       (SELECT json_agg(json_build_array(t.test, t.score, t.taken_on))
        FROM placement_scores t WHERE t.student_id = s.id),
       (SELECT json_agg(json_build_array(w.id, w.section_id, w.state, w.gives_up_section_id)
                        ORDER BY w.id)
        FROM places w WHERE w.student_term_id = st.id AND w.state IN ('waiting', 'offered'))
FROM student_terms st
JOIN students s ON s.id = st.student_id
JOIN persons p ON p.id = s.id
WHERE st.id = ANY(%s::int[])
"""

_CONSENTS = """
SELECT c.id, c.code, c.section_id, c.lifts, p.full_name, c.student_id,
       least(c.expires_at, c.withdrawn_at), u.consent_id IS NOT NULL
FROM consent_codes c JOIN persons p ON p.id = c.given_by
LEFT JOIN consent_uses u ON u.consent_id = c.id
WHERE c.code = ANY(%b)
"""
# A code is locked before it is read, so that of two that use it at once the second sees the first.
_LOCK_CONSENTS = "SELECT id FROM consent_codes WHERE code = ANY(%b) ORDER BY id FOR NO KEY UPDATE"


@dataclass(frozen=True, slots=True)
class StudentTerm:
    """The row that stands for a student in a term, and that is locked when deciding."""

    id: int
    student_id: int
    term_code: str


def find_student_term(
    database: PooledPostgresqlDatabase, student_id: int, term_code: str
) -> StudentTerm | None:
    """The row of a student in a term; None if the student is not expected there."""
    found = rows(
        database,
        "SELECT st.id FROM student_terms st JOIN terms t ON t.id = st.term_id "
        "WHERE st.student_id = %s AND t.code = %s",
        (student_id, term_code),
    )
    return StudentTerm(found[0][0], student_id, term_code) if found else None


def lock_student_terms(database: PooledPostgresqlDatabase, ids: Iterable[int]) -> None:
    """Lock the students' rows, in ascending id, until the transaction ends."""
    ask(database, _LOCK_STUDENT_TERMS, (numbers(ids),))


def lock_seats(database: PooledPostgresqlDatabase, pools: Iterable[int]) -> None:
    """Lock these pools, in ascending id, until the transaction ends.

    Their figures are to be read in a statement of its own afterwards: then they stay true.
    """
    ask(database, _LOCK_SEATS, (numbers(pools),))


def ask_seats(
    database: PooledPostgresqlDatabase, pools: Iterable[int]
) -> Callable[[], dict[int, SeatFigures]]:
    """Ask for the figures of these pools; what this gives reads the answer."""
    asked = ask(database, _SEATS, {"pools": numbers(pools)})
    return lambda: {
        row[0]: SeatFigures(*(*row[1:6], _parts(row[6]) if row[6] else ()))
        for row in asked.fetchall()
    }


def _parts(found: list[list[Any]]) -> tuple[ReservedPart, ...]:
    return tuple(
        ReservedPart(*(*values, date.fromisoformat(release) if release else None))
        for *values, release in found
    )


def read_seats(
    database: PooledPostgresqlDatabase, pools: Iterable[int]
) -> dict[int, SeatFigures]:
    """The figures of these pools."""
    return ask_seats(database, pools)()


def lock_consents(database: PooledPostgresqlDatabase, codes: Iterable[str]) -> None:
    """Lock the consent codes of that wording until the transaction ends."""
    ask(database, _LOCK_CONSENTS, (sorted(codes),))


def read_consents(
    database: PooledPostgresqlDatabase, codes: Iterable[str]
) -> dict[str, Consent]:
    """Those of these consent codes that exist, by code; no statement if there are none."""
    wanted = sorted({code for code in codes if code})
    if not wanted:
        return {}
    return {
        row[1]: Consent(row[0], row[1], row[2], frozenset(row[3]), *row[4:])
        for row in rows(database, _CONSENTS, (wanted,))
    }


def ask_situations(
    database: PooledPostgresqlDatabase, terms: Mapping[int, TermCatalogue]
) -> Callable[[Mapping[int, SeatFigures], Mapping[str, Consent]], dict[int, Situation]]:
    """Ask for the situations of these students, in one statement, by the id of their term row.

    What this gives reads the answer, and takes the seat figures and the consent codes that all
    of them share.

    Args:
        terms: the term of each row.
    """
    asked = ask(database, _FACTS, (numbers(terms),))
    return lambda seats, consents: {
        row[0]: _situation(row, terms[row[0]], seats, consents) for row in asked.fetchall()
    }


def read_situations(
    database: PooledPostgresqlDatabase,
    terms: Mapping[int, TermCatalogue],
    seats: Mapping[int, SeatFigures],
    consents: Mapping[str, Consent] | None = None,
) -> dict[int, Situation]:
    """The situations of these students; see :func:`ask_situations`."""
    return ask_situations(database, terms)(seats, consents or {})


def _situation(
    row: tuple[Any, ...],
    catalogue: TermCatalogue,
    seats: Mapping[int, SeatFigures],
    consents: Mapping[str, Consent],
) -> Situation:
    (_, student_id, name, program, cohort, campus, standing, limit, residence, aid, advisor,
     held, kept, windows, holds, open_items, record, placements, places) = row  # fmt: skip
    return Situation(
        catalogue=catalogue,
        student=Student(
            id=student_id,
            name=name,
            program=program,
            cohort=cohort,
            campus=campus or "",
            standing=standing,
            credit_limit=None if limit is None else float(limit),
            residence=residence,
            advisor=advisor or "",
            receives_aid=aid,
        ),
        record=Record(
            _attempts(record),
            tuple([
                PlacementScore(test, score, date.fromisoformat(taken))
                for test, score, taken in placements or ()
            ]),
        ),
        windows=tuple([
            Window(datetime.fromisoformat(opens), datetime.fromisoformat(closes))
            for opens, closes in windows or ()
        ]),
        holds=tuple([
            Hold(reason, office, contact, frozenset(stops), *more)
            for reason, office, contact, stops, *more in holds or ()
        ]),
        held=tuple([
            Held(catalogue.by_id[section], float(credits), grading, *more)
            for section, credits, grading, *more in held or ()
        ]),
        seats=seats,
        kept_cents=int(kept or 0),
        clearance_open=tuple([k for k in ClearanceKind if k in open_items]) if open_items else (),
        consents=consents,
        places=tuple([
            Place(place, catalogue.by_id[section], state == "offered",
                  None if gives_up is None else catalogue.by_id[gives_up])
            for place, section, state, gives_up in places or ()
        ]),
    )  # fmt: skip


def _attempts(lines: list[tuple[str, str, str | None, str]] | None) -> tuple[Attempt, ...]:
    """A record as an array of texts: for twenty courses far quicker to make and to read than JSON."""
    return tuple([
        Attempt(course, term, grade, float(credits)) for course, term, grade, credits in lines or ()
    ])
