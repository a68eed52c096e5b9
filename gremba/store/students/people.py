"""Finds students for offices, and stores offices' notes."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase
from pydantic import TypeAdapter

from gremba.core.catalogue.term import earns_credits
from gremba.core.states import RegistrationState
from gremba.store.database import fetch_records, send_sql
from gremba.store.models import (
    OfficeEvent,
    Person,
    Registration,
    Section,
    SectionInstructor,
    Student,
    StudentTerm,
)
from gremba.store.models.base import literal
from gremba.store.queries import (
    columns,
    containing,
    fetch,
    fetch_one,
    fetch_tuples,
    fetch_values,
    has_rows,
    one_of,
    write,
)


@dataclass(frozen=True, slots=True)
class StudentLine:
    """A student in an office's list."""

    id: int
    username: str
    full_name: str
    program: str
    cohort: str


_STUDENTS = Student.select(
    *columns(StudentLine, Student, username=Person.username, full_name=Person.full_name)
).join(Person, on=Person.id == Student.id)


@dataclass(frozen=True, slots=True)
class AdviseeLine:
    """One of an advisor's students in a term.

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
SELECT st.id AS row, s.id, p.username, p.full_name, s.program, s.cohort, st.standing,
       (SELECT c.done_at IS NOT NULL FROM clearance_items c
        WHERE c.student_term_id = st.id AND c.kind = 'release') AS released,
       st.credit_limit::float AS own_limit,
       coalesce((SELECT sum(r.credits) FROM registrations r
                 WHERE r.student_term_id = st.id AND r.state = 'registered'), 0)::float AS credits,
       (SELECT count(*) FROM cart_changes x WHERE x.student_term_id = st.id) AS in_cart,
       (SELECT count(*) FROM holds h WHERE h.student_id = s.id AND h.lifted_at IS NULL) AS holds,
       (SELECT min(w.opens_at) FROM windows w
        WHERE w.student_term_id = st.id AND w.closes_at > %s) AS window_opens_at
FROM students s JOIN persons p ON p.id = s.id
JOIN student_terms st ON st.student_id = s.id AND st.term_id = %s
WHERE s.advisor_id = %s AND (%s = '' OR p.full_name ILIKE %s OR p.username ILIKE %s)
ORDER BY EXISTS (SELECT 1 FROM clearance_items c WHERE c.student_term_id = st.id
                 AND c.kind = 'release' AND c.done_at IS NULL) DESC, p.full_name LIMIT %s
"""


@dataclass(frozen=True, slots=True)
class _AdviseeRow(AdviseeLine):
    row: int


_ADVISEE_ROWS = TypeAdapter(list[_AdviseeRow])


def list_advisees(
    database: PooledPostgresqlDatabase,
    advisor_id: int,
    term_id: int,
    now: datetime,
    search: str,
    most: int,
) -> list[AdviseeLine]:
    """An advisor's students for a term, those not cleared first, by name. One statement."""
    like = containing(search)
    return list(_read_advisees(database, (now, term_id, advisor_id, search, like, like, most)).values())


def rows_of_advisees(
    database: PooledPostgresqlDatabase, advisor_id: int, term_id: int, now: datetime, most: int
) -> dict[int, AdviseeLine]:
    """All of an advisor's students for a term, by term row. One statement."""
    return _read_advisees(database, (now, term_id, advisor_id, "", "", "", most))


def _read_advisees(database: PooledPostgresqlDatabase, values: tuple[Any, ...]) -> dict[int, AdviseeLine]:
    asked = send_sql(database, _ADVISEES, values)
    return {line.row: line for line in fetch_records(asked, _ADVISEE_ROWS)}


def is_advisee(database: PooledPostgresqlDatabase, advisor_id: int, student_id: int) -> bool:
    """Whether a student is one of the advisor's."""
    query = Student.select(Student.id)
    return has_rows(database, query.where(Student.id == student_id, Student.advisor == advisor_id))


def find_students(database: PooledPostgresqlDatabase, search: str, most: int) -> list[StudentLine]:
    """Find students by a part of their name or user name."""
    like = containing(search)
    query = _STUDENTS.where((Person.full_name**like) | (Person.username**like))
    return fetch(database, query.order_by(Person.full_name).limit(most), StudentLine)


def groups_of_term(database: PooledPostgresqlDatabase, term_id: int) -> tuple[list[str], list[str]]:
    """The cohorts and the programs of a term's students, by name. Two statements."""

    def named(column: Any) -> list[str]:
        query = Student.select(column).join(StudentTerm, on=StudentTerm.student == Student.id)
        return fetch_values(
            database, query.where(StudentTerm.term == term_id, column != "").distinct().order_by(column)
        )

    return named(Student.cohort), named(Student.program)


def find_student(database: PooledPostgresqlDatabase, student_id: int) -> StudentLine | None:
    """A student by id."""
    return fetch_one(database, _STUDENTS.where(Student.id == student_id), StudentLine)


def set_credit_limit(database: PooledPostgresqlDatabase, student_term_id: int, limit: float | None) -> None:
    """Set a student's own credit limit, or return to the default."""
    own = StudentTerm.id == student_term_id
    write(database, StudentTerm.update(credit_limit=limit).where(own))


def note_office_event(
    database: PooledPostgresqlDatabase,
    student_id: int,
    person_id: int,
    what: str,
    detail: str,
    at: datetime,
) -> None:
    """Record what an office did."""
    write(
        database,
        OfficeEvent.insert(student=student_id, person=person_id, what=what, detail=detail, at=at),
    )


@dataclass(frozen=True, slots=True)
class RosterLine:
    """A student on a section's roster."""

    section_id: int
    full_name: str
    username: str
    program: str
    credits: float
    grading: str
    registered_at: datetime

    @property
    def earns_credits(self) -> bool:
        """Whether the student's grading basis earns credits."""
        return earns_credits(self.grading)


def read_roster(database: PooledPostgresqlDatabase, section_id: int) -> list[RosterLine]:
    """A section's roster, by name. One statement."""
    return _roster(database, Registration.section_id == section_id)


def rosters_of_term(database: PooledPostgresqlDatabase, term_id: int) -> list[RosterLine]:
    """A term's rosters, by section and name. One statement."""
    return _roster(database, Registration.term_id == term_id)


def _roster(database: PooledPostgresqlDatabase, which: Any) -> list[RosterLine]:
    own = Registration
    chosen = columns(
        RosterLine, own, full_name=Person.full_name, username=Person.username, program=Student.program
    )
    query = (
        own.select(*chosen)
        .join(StudentTerm, on=StudentTerm.id == own.student_term_id)
        .join(Student)
        .join(Person, on=Person.id == Student.id)
        .where(which, own.state == literal(RegistrationState.REGISTERED))
        .order_by(own.section_id, Person.full_name)
    )
    return fetch(database, query, RosterLine)


def sections_of_instructors(
    database: PooledPostgresqlDatabase, people: Collection[int], term_id: int
) -> list[int]:
    """Ids of the sections that any of these people teach in a term. One statement."""
    taught = SectionInstructor.select(SectionInstructor.section).where(
        one_of(SectionInstructor.person, people)
    )
    query = Section.select(Section.id).where(Section.id.in_(taught), Section.term == term_id)
    return fetch_values(database, query.order_by(Section.reference_number))


def sections_held(database: PooledPostgresqlDatabase, student_terms: Collection[int]) -> dict[int, list[int]]:
    """The sections each of these students is registered for in a term; each has a list. One statement."""
    own = Registration
    query = own.select(own.student_term_id, own.section_id).where(
        one_of(own.student_term_id, student_terms), own.state == literal(RegistrationState.REGISTERED)
    )
    found: dict[int, list[int]] = {row: [] for row in student_terms}
    for row, section in fetch_tuples(database, query):
        found[row].append(section)
    return found
