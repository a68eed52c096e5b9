"""Students as offices find them, and what offices note about them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.catalogue import earns_credits
from gremba.store.database import rows, run


@dataclass(frozen=True, slots=True)
class StudentLine:
    """A student in an office's list."""

    id: int
    username: str
    full_name: str
    program: str
    cohort: str


@dataclass(frozen=True, slots=True)
class AdviseeLine:
    """One of an advisor's own students, in a term.

    Attributes:
        released: None where no release is asked for.
        own_limit: a credit limit of the student's own; None for the standing's.
        window_opens_at: of the next window, or the one that is open.
    """

    id: int
    username: str
    full_name: str
    program: str
    cohort: str
    standing: str
    released: bool | None
    own_limit: float | None
    credits: float
    in_cart: int
    holds: int
    window_opens_at: datetime | None


_ADVISEES = """
SELECT s.id, p.username, p.full_name, s.program, s.cohort, st.standing,
       (SELECT c.done_at IS NOT NULL FROM clearance_items c
        WHERE c.student_term_id = st.id AND c.kind = 'release'),
       st.credit_limit::float,
       coalesce((SELECT sum(r.credits) FROM registrations r
                 WHERE r.student_term_id = st.id AND r.state = 'registered'), 0)::float,
       (SELECT count(*) FROM cart_changes x WHERE x.student_term_id = st.id),
       (SELECT count(*) FROM holds h WHERE h.student_id = s.id AND h.lifted_at IS NULL),
       (SELECT min(w.opens_at) FROM windows w
        WHERE w.student_term_id = st.id AND w.closes_at > %s)
FROM students s JOIN persons p ON p.id = s.id
JOIN student_terms st ON st.student_id = s.id AND st.term_id = %s
WHERE s.advisor_id = %s AND (%s = '' OR p.full_name ILIKE %s OR p.username ILIKE %s)
ORDER BY EXISTS (SELECT 1 FROM clearance_items c WHERE c.student_term_id = st.id
                 AND c.kind = 'release' AND c.done_at IS NULL) DESC, p.full_name LIMIT %s
"""


def list_advisees(
    database: PooledPostgresqlDatabase,
    advisor_id: int,
    term_id: int,
    now: datetime,
    search: str,
    most: int,
) -> list[AdviseeLine]:
    """An advisor's own students of a term, those who wait for a release first, by name. One
    statement."""
    like = _like(search)
    values = (now, term_id, advisor_id, search, like, like, most)
    return [AdviseeLine(*row) for row in rows(database, _ADVISEES, values)]


def is_advisee(
    database: PooledPostgresqlDatabase, advisor_id: int, student_id: int
) -> bool:
    """Whether a student is one of an advisor's own."""
    return bool(
        rows(
            database,
            "SELECT 1 FROM students WHERE id = %s AND advisor_id = %s",
            (student_id, advisor_id),
        )
    )


def find_students(
    database: PooledPostgresqlDatabase, search: str, most: int
) -> list[StudentLine]:
    """Students by a part of their name or user name."""
    like = _like(search)
    return [
        StudentLine(*row)
        for row in rows(
            database,
            "SELECT s.id, p.username, p.full_name, s.program, s.cohort FROM students s "
            "JOIN persons p ON p.id = s.id WHERE p.full_name ILIKE %s OR p.username ILIKE %s "
            "ORDER BY p.full_name LIMIT %s",
            (like, like, most),
        )
    ]


def find_student(database: PooledPostgresqlDatabase, student_id: int) -> StudentLine | None:
    """A student by id."""
    found = rows(
        database,
        "SELECT s.id, p.username, p.full_name, s.program, s.cohort FROM students s "
        "JOIN persons p ON p.id = s.id WHERE s.id = %s",
        (student_id,),
    )
    return StudentLine(*found[0]) if found else None


def _like(search: str) -> str:
    escaped = search.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")
    return f"%{escaped}%"


def set_credit_limit(
    database: PooledPostgresqlDatabase, student_term_id: int, limit: float | None
) -> None:
    """Set a student's own credit limit, or go back to the one of the standing."""
    run(
        database,
        "UPDATE student_terms SET credit_limit = %s WHERE id = %s",
        (limit, student_term_id),
    )


def note_office_event(
    database: PooledPostgresqlDatabase,
    student_id: int,
    person_id: int,
    what: str,
    detail: str,
    at: datetime,
) -> None:
    """Write down what an office did."""
    run(
        database,
        "INSERT INTO office_events (student_id, person_id, what, detail, at) "
        "VALUES (%s, %s, %s, %s, %s)",
        (student_id, person_id, what, detail, at),
    )


@dataclass(frozen=True, slots=True)
class RosterLine:
    """A student of a section, as far as who teaches it needs to know."""

    full_name: str
    username: str
    program: str
    credits: float
    grading: str

    @property
    def earns_credits(self) -> bool:
        """Whether the student gets credits for it on their grading basis."""
        return earns_credits(self.grading)


def read_roster(database: PooledPostgresqlDatabase, section_id: int) -> list[RosterLine]:
    """Who is registered for a section, by name. One statement."""
    return [
        RosterLine(*row)
        for row in rows(
            database,
            "SELECT p.full_name, p.username, s.program, r.credits::float, r.grading "
            "FROM registrations r "
            "JOIN student_terms st ON st.id = r.student_term_id "
            "JOIN students s ON s.id = st.student_id JOIN persons p ON p.id = s.id "
            "WHERE r.section_id = %s AND r.state = 'registered' ORDER BY p.full_name",
            (section_id,),
        )
    ]


def sections_of_instructor(
    database: PooledPostgresqlDatabase, person_id: int, term_id: int
) -> list[int]:
    """Ids of the sections that somebody teaches in a term."""
    return [
        row[0]
        for row in rows(
            database,
            "SELECT s.id FROM section_instructors i JOIN sections s ON s.id = i.section_id "
            "WHERE i.person_id = %s AND s.term_id = %s ORDER BY s.reference_number",
            (person_id, term_id),
        )
    ]
