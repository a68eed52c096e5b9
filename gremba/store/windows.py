"""Stores registration windows."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from peewee import SQL, ValuesList, chunked, fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.catalogue.term import TermCatalogue
from gremba.core.registration.situation import earned_of
from gremba.core.students.transcript import Attempt, Record
from gremba.core.windows.assigning import Candidate, Habit
from gremba.store.models import (
    Confirmation,
    Person,
    RecordEntry,
    Student,
    StudentTerm,
    Window,
    WindowAssignment,
)
from gremba.store.queries import columns, fetch, fetch_tuples, fetch_value, one_of, write

_AT_ONCE = 2_000
"""Students whose records are in memory at a time."""


def read_candidates(
    database: PooledPostgresqlDatabase, term: TermCatalogue, now: datetime, *, moves_assigned: bool
) -> list[Candidate]:
    """A term's students, with what windows are assigned by. One statement, and one per two thousand
    students.

    Args:
        moves_assigned: windows that were assigned and have not opened yet count as none.
    """
    own = Window
    stays = own.select(fn.MIN(own.opens_at)).where(own.student_term == StudentTerm.id)
    if moves_assigned:
        stays = stays.where(own.assignment.is_null() | (own.opens_at <= now))
    query = (
        StudentTerm.select(
            StudentTerm.id, StudentTerm.student, Person.username, Student.cohort, Student.program, stays
        )
        .join(Student)
        .join(Person, on=Person.id == Student.id)
        .where(StudentTerm.term == term.id)
        .order_by(StudentTerm.id)
    )
    found: list[Candidate] = []
    for some in chunked(fetch_tuples(database, query), _AT_ONCE):
        records = _records(database, [row[1] for row in some])
        found += [
            Candidate(row, username, earned_of(records[student], term), cohort, program, opens_at)
            for row, student, username, cohort, program, opens_at in some
        ]
    return found


def _records(database: PooledPostgresqlDatabase, students: Sequence[int]) -> Mapping[int, Record]:
    own = RecordEntry
    query = own.select(own.student, own.course, own.term_name, own.grade, own.credits)
    attempts: dict[int, list[Attempt]] = defaultdict(list)
    rows = fetch_tuples(database, query.where(one_of(own.student, students)).order_by(own.id))
    for student, course, term_name, grade, credits in rows:
        attempts[student].append(Attempt(course, term_name, grade, float(credits)))
    return {student: Record(tuple(attempts[student])) for student in students}


def read_habit(database: PooledPostgresqlDatabase, now: datetime) -> Habit:
    """What students did in the first minute of their windows in the last two years. Two statements."""
    since = now - timedelta(days=730)
    opened = (Window.opens_at > since) & (Window.opens_at < now - timedelta(minutes=1))
    windows = int(fetch_value(database, Window.select(fn.COUNT(SQL("*"))).where(opened)))
    own = Confirmation
    at_once = (
        own.select(fn.COUNT(own.id))
        .join(Window, on=Window.student_term == own.student_term)
        .where(opened, own.sent_at.between(Window.opens_at, Window.opens_at + timedelta(minutes=1)))
    )
    return Habit(windows, int(fetch_value(database, at_once)))


@dataclass(frozen=True, slots=True)
class Assigned:
    """What publishing an assignment did to a student's windows.

    Attributes:
        before: when the window opened that was moved; None where there was none.
    """

    student_term: int
    opens_at: datetime
    before: datetime | None


def write_assignment(
    database: PooledPostgresqlDatabase,
    term_id: int,
    rule: dict[str, Any],
    opens: Mapping[int, datetime],
    closes_at: datetime,
    at: datetime,
    person_id: int,
) -> list[Assigned]:
    """Publish an assignment in the caller's transaction; returns its effect by student.

    Args:
        opens: by the row of each student the moment their window opens.
    """
    own = Window
    assigned = own.assignment.is_null(False) & (own.opens_at > at)
    moving = own.select(own.student_term, fn.MIN(own.opens_at)).where(
        assigned & one_of(own.student_term, list(opens))
    )
    before = dict(fetch_tuples(database, moving.group_by(own.student_term)))
    new = WindowAssignment.insert(
        term=term_id,
        rule=rule,
        assigned=len(opens),
        moved=len(before),
        published_at=at,
        published_by=person_id,
    ).returning(WindowAssignment.id)
    assignment = int(fetch_value(database, new))
    for some in chunked(sorted(before.items()), _AT_ONCE):
        moved = ValuesList(
            [(row, was, opens[row]) for row, was in some],
            columns=("student_term", "was", "opens_at"),
            alias="moved",
        )
        update = own.update(opens_at=moved.c.opens_at, closes_at=closes_at, assignment=assignment).from_(
            moved
        )
        write(database, update.where(own.student_term == moved.c.student_term, own.opens_at == moved.c.was))
    rows = [
        {"student_term": row, "opens_at": opens_at, "closes_at": closes_at, "assignment": assignment}
        for row, opens_at in sorted(opens.items())
        if row not in before
    ]
    for rows_now in chunked(rows, _AT_ONCE):
        write(database, own.insert_many(rows_now))
    return [Assigned(row, opens_at, before.get(row)) for row, opens_at in sorted(opens.items())]


@dataclass(frozen=True, slots=True)
class AssignmentLine:
    """A published assignment."""

    id: int
    rule: dict[str, Any]
    assigned: int
    moved: int
    published_at: datetime
    published_by: str


def list_assignments(database: PooledPostgresqlDatabase, term_id: int) -> list[AssignmentLine]:
    """A term's assignments, newest first. One statement."""
    own = WindowAssignment
    chosen = columns(AssignmentLine, own, published_by=Person.full_name)
    query = own.select(*chosen).join(Person).where(own.term == term_id).order_by(own.id.desc())
    return fetch(database, query, AssignmentLine)


def count_opening(database: PooledPostgresqlDatabase, term_id: int) -> list[tuple[datetime, int]]:
    """The number of a term's windows by opening time. One statement."""
    own = Window
    query = own.select(own.opens_at, fn.COUNT(SQL("*"))).join(StudentTerm).where(StudentTerm.term == term_id)
    return [tuple(row) for row in fetch_tuples(database, query.group_by(own.opens_at).order_by(own.opens_at))]


def windows_to_come(
    database: PooledPostgresqlDatabase, term_id: int, now: datetime
) -> dict[int, list[tuple[datetime, datetime]]]:
    """The current and future windows of a term's students, by term row: opening and closing times in
    order. One statement."""
    own = Window
    query = (
        own.select(own.student_term, own.opens_at, own.closes_at)
        .join(StudentTerm)
        .where(StudentTerm.term == term_id, own.closes_at > now)
        .order_by(own.student_term, own.opens_at)
    )
    found: dict[int, list[tuple[datetime, datetime]]] = defaultdict(list)
    for row, opens_at, closes_at in fetch_tuples(database, query):
        found[row].append((opens_at, closes_at))
    return dict(found)


@dataclass(frozen=True, slots=True)
class OwnWindow:
    """A student's window."""

    opens_at: datetime
    closes_at: datetime
    was_assigned: bool


def windows_of(database: PooledPostgresqlDatabase, student_term_id: int) -> list[OwnWindow]:
    """A student's windows for a term, in order. One statement."""
    own = Window
    chosen = columns(OwnWindow, own, was_assigned=own.assignment.is_null(False))
    query = own.select(*chosen).where(own.student_term == student_term_id).order_by(own.opens_at)
    return fetch(database, query, OwnWindow)


def set_window(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    before: datetime | None,
    opens_at: datetime,
    closes_at: datetime,
) -> None:
    """Give a student a window, or change the one that opens at `before`."""
    own = Window
    values = {"opens_at": opens_at, "closes_at": closes_at, "assignment": None}
    if before is None:
        write(database, own.insert(student_term=student_term_id, **values))
    else:
        write(
            database, own.update(**values).where(own.student_term == student_term_id, own.opens_at == before)
        )
