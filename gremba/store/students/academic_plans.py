"""Stores academic plans. A version is written once; only approvals are added."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import datetime

from peewee import fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.students.academic_plan import PlanLine
from gremba.formats.academic_plan_file import line_data, line_of
from gremba.store.models import AcademicPlan, Person, Student
from gremba.store.queries import fetch, fetch_tuples, fetch_value, one_of, write


@dataclass(frozen=True, slots=True)
class StoredAcademicPlan:
    """A version of a plan.

    Attributes:
        advisor_agreed_at: when somebody of the college has agreed.
    """

    version: int
    lines: tuple[PlanLine, ...]
    written_by: str
    written_at: datetime
    student_agreed_at: datetime | None
    advisor_agreed_at: datetime | None
    advisor: str

    @property
    def is_agreed(self) -> bool:
        """Whether both have agreed to it."""
        return self.student_agreed_at is not None and self.advisor_agreed_at is not None


def list_versions(database: PooledPostgresqlDatabase, student_id: int) -> list[StoredAcademicPlan]:
    """The versions of a student's plan, newest first, fifty at most. One statement."""
    own, advisor = AcademicPlan, Person.alias()
    query = (
        own.select(
            own.version,
            own.lines,
            Person.full_name.alias("written_by"),
            own.written_at,
            own.student_agreed_at,
            own.advisor_agreed_at,
            fn.coalesce(advisor.full_name, "").alias("advisor"),
        )
        .join(Person, on=own.written_by == Person.id)
        .left_outer_join(advisor, on=own.advisor == advisor.id)
        .where(own.student == student_id)
        .order_by(own.version.desc())
        .limit(50)
    )
    return fetch(database, query, _stored)


def plans_awaiting_advisor(
    database: PooledPostgresqlDatabase, students: Collection[int]
) -> list[tuple[int, str]]:
    """Ids and names of those of these students whose latest plan awaits the advisor's agreement, by name.
    One statement."""
    own, later = AcademicPlan, AcademicPlan.alias()
    newer = later.select(later.version).where(later.student == own.student, later.version > own.version)
    query = (
        own.select(own.student, Person.full_name)
        .join(Person, on=own.student == Person.id)
        .where(one_of(own.student, students), own.advisor_agreed_at.is_null(), ~fn.EXISTS(newer))
        .order_by(Person.full_name)
    )
    return fetch_tuples(database, query)


def _stored(lines: list[dict[str, object]], **row: object) -> StoredAcademicPlan:
    return StoredAcademicPlan(lines=tuple(line_of(line) for line in lines), **row)  # type: ignore[arg-type]


def lock_student(database: PooledPostgresqlDatabase, student_id: int) -> None:
    """Serialize versions of the student's plan until the transaction ends. One statement."""
    fetch_value(database, Student.select(Student.id).where(Student.id == student_id).for_update())


def add_version(
    database: PooledPostgresqlDatabase,
    student_id: int,
    lines: Sequence[PlanLine],
    by: int,
    is_by_student: bool,
    at: datetime,
) -> int:
    """Store a version, to which its author has agreed; returns its number. Two statements; the student
    must be locked."""
    own = AcademicPlan
    last = fetch_value(database, own.select(fn.MAX(own.version)).where(own.student == student_id)) or 0
    new = own.insert(
        student=student_id,
        version=last + 1,
        lines=[line_data(line) for line in lines],
        written_by=by,
        written_at=at,
        student_agreed_at=at if is_by_student else None,
        advisor_agreed_at=None if is_by_student else at,
        advisor=None if is_by_student else by,
    )
    write(database, new)
    return int(last) + 1


def agree(
    database: PooledPostgresqlDatabase,
    student_id: int,
    version: int,
    by: int,
    is_by_student: bool,
    at: datetime,
) -> None:
    """Record that the student or the college agrees to a version, the first time. One statement."""
    own = AcademicPlan
    mine = (own.student == student_id) & (own.version == version)
    if is_by_student:
        write(database, own.update(student_agreed_at=at).where(mine, own.student_agreed_at.is_null()))
    else:
        agreed = own.update(advisor_agreed_at=at, advisor=by)
        write(database, agreed.where(mine, own.advisor_agreed_at.is_null()))
