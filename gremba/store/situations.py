"""Reading what decisions rest on, for many students at once."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.catalogue import TermCatalogue
from gremba.core.record import Attempt, PlacementScore, Record
from gremba.core.situation import Held, Hold, SeatFigures, Situation, Student, Window
from gremba.store.database import ask, rows

_LOCK_STUDENT_TERMS = "SELECT id FROM student_terms WHERE id = ANY(%b) ORDER BY id FOR UPDATE"
_LOCK_SEATS = "SELECT id FROM seat_pools WHERE id = ANY(%b) ORDER BY id FOR NO KEY UPDATE"

_SEATS = """
SELECT p.id, p.seat_limit, p.taken, p.offered, p.beyond,
       (SELECT count(*) FROM places w WHERE w.pool_id = p.id AND w.state = 'waiting')
FROM seat_pools p WHERE p.id = ANY(%b)
"""

_FACTS = """
SELECT st.id, st.student_id, p.full_name, s.program, s.cohort, s.campus, st.standing,
       st.credit_limit,
       (SELECT json_agg(json_build_array(r.section_id, r.credits, r.grading) ORDER BY r.id)
        FROM registrations r WHERE r.student_term_id = st.id AND r.state = 'registered'),
       (SELECT sum(r.kept_cents)
        FROM registrations r WHERE r.student_term_id = st.id AND r.state <> 'registered'),
       (SELECT json_agg(json_build_array(w.opens_at, w.closes_at))
        FROM windows w WHERE w.student_term_id = st.id),
       (SELECT json_agg(json_build_array(h.reason, h.office, h.contact, h.stops, h.cleared_by)
                        ORDER BY h.id)
        FROM holds h WHERE h.student_id = s.id AND h.lifted_at IS NULL),
       (SELECT string_agg(e.course || '|' || e.term_name || '|' || coalesce(e.grade, '') || '|' ||
                          e.credits, '/' ORDER BY e.id)
        FROM record_entries e WHERE e.student_id = s.id),
       (SELECT json_agg(json_build_array(t.test, t.score, t.taken_on))
        FROM placement_scores t WHERE t.student_id = s.id)
FROM student_terms st
JOIN students s ON s.id = st.student_id
JOIN persons p ON p.id = s.id
WHERE st.id = ANY(%b)
"""


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
    ask(database, _LOCK_STUDENT_TERMS, (sorted(ids),))


def lock_seats(database: PooledPostgresqlDatabase, pools: Iterable[int]) -> None:
    """Lock these pools, in ascending id, until the transaction ends.

    Their figures are to be read in a statement of its own afterwards: then they stay true.
    """
    ask(database, _LOCK_SEATS, (sorted(pools),))


def ask_seats(
    database: PooledPostgresqlDatabase, pools: Iterable[int]
) -> Callable[[], dict[int, SeatFigures]]:
    """Ask for the figures of these pools; what this gives reads the answer."""
    asked = ask(database, _SEATS, (sorted(pools),))
    return lambda: {row[0]: SeatFigures(*row[1:]) for row in asked.fetchall()}


def read_seats(
    database: PooledPostgresqlDatabase, pools: Iterable[int]
) -> dict[int, SeatFigures]:
    """The figures of these pools."""
    return ask_seats(database, pools)()


def ask_situations(
    database: PooledPostgresqlDatabase, terms: Mapping[int, TermCatalogue]
) -> Callable[[Mapping[int, SeatFigures]], dict[int, Situation]]:
    """Ask for the situations of these students, in one statement, by the id of their term row.

    What this gives reads the answer, and takes the seat figures that all of them share.

    Args:
        terms: the term of each row.
    """
    asked = ask(database, _FACTS, (list(terms),))
    return lambda seats: {
        row[0]: _situation(row, terms[row[0]], seats) for row in asked.fetchall()
    }


def read_situations(
    database: PooledPostgresqlDatabase,
    terms: Mapping[int, TermCatalogue],
    seats: Mapping[int, SeatFigures],
) -> dict[int, Situation]:
    """The situations of these students; see :func:`ask_situations`."""
    return ask_situations(database, terms)(seats)


def _situation(
    row: tuple[Any, ...], catalogue: TermCatalogue, seats: Mapping[int, SeatFigures]
) -> Situation:
    (_, student_id, name, program, cohort, campus, standing, limit,
     held, kept, windows, holds, record, placements) = row  # fmt: skip
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
            Hold(reason, office, contact, frozenset(stops), cleared_by)
            for reason, office, contact, stops, cleared_by in holds or ()
        ]),
        held=tuple([
            Held(catalogue.by_id[section], float(credits), grading)
            for section, credits, grading in held or ()
        ]),
        seats=seats,
        kept_cents=int(kept or 0),
    )


def _attempts(lines: str | None) -> tuple[Attempt, ...]:
    """A record as one string: for twenty courses far quicker to make and to read than JSON."""
    if not lines:
        return ()
    entries = [line.split("|") for line in lines.split("/")]
    return tuple([Attempt(c, term, grade or None, float(n)) for c, term, grade, n in entries])
