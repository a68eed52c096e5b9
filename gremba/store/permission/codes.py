"""Stores permission codes and guesses at them; reads who teaches what."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import datetime

from peewee import JOIN, Case, fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.models import (
    PermissionCode,
    PermissionCodeGuess,
    PermissionCodeUse,
    PermissionRequest,
    Person,
    Section,
    SectionInstructor,
    Student,
    StudentTerm,
)
from gremba.store.queries import (
    columns,
    fetch,
    fetch_tuples,
    fetch_value,
    has_rows,
    keeping_keys,
    lock_until_end,
    one_of,
    write,
)


@dataclass(frozen=True, slots=True)
class PermissionCodeLine:
    """A code, or a permission given without one, with its use.

    Attributes:
        code: "" where the student needs none.
    """

    id: int
    code: str
    waives: tuple[str, ...]
    student: str
    given_at: datetime
    expires_at: datetime | None
    withdrawn_at: datetime | None
    used_by: str
    used_at: datetime | None


def section_of_instructor(database: PooledPostgresqlDatabase, section_id: int, person_id: int) -> bool:
    """Whether the person teaches the section."""
    own = SectionInstructor
    query = own.select(own.person).where(own.section == section_id, own.person == person_id)
    return has_rows(database, query)


def student_by_username(database: PooledPostgresqlDatabase, username: str) -> int | None:
    """The id of the student with this user name; None if there is none."""
    query = Student.select(Student.id).join(Person, on=Person.id == Student.id)
    found = fetch_value(database, query.where(Person.username == username.strip().casefold()))
    return None if found is None else int(found)


def insert_permission_codes(
    database: PooledPostgresqlDatabase,
    codes: Sequence[str],
    section_id: int,
    student_id: int | None,
    waives: Sequence[str],
    given_by: int,
    at: datetime,
    expires_at: datetime | None,
) -> None:
    """Store codes that differ only in their wording."""
    same = {
        "section": section_id,
        "student": student_id,
        "waives": list(waives),
        "given_by": given_by,
        "given_at": at,
        "expires_at": expires_at,
    }
    write(database, PermissionCode.insert_many([{"code": code, **same} for code in codes]))


def insert_grant(
    database: PooledPostgresqlDatabase,
    code: str,
    section_id: int,
    student_id: int,
    waives: Sequence[str],
    given_by: int,
    at: datetime,
    expires_at: datetime,
) -> int:
    """Store a permission for one student, who needs no code; returns its id."""
    new = PermissionCode.insert(
        code=code,
        is_grant=True,
        section=section_id,
        student=student_id,
        waives=list(waives),
        given_by=given_by,
        given_at=at,
        expires_at=expires_at,
    )
    return int(fetch_value(database, new.returning(PermissionCode.id)))


def grants_used(database: PooledPostgresqlDatabase, sections: Collection[int]) -> dict[int, int]:
    """The number of permissions without a code that were used, by section. One statement."""
    own = PermissionCode
    query = (
        own.select(own.section, fn.COUNT(own.id))
        .join(PermissionCodeUse, on=PermissionCodeUse.permission_code == own.id)
        .where(one_of(own.section, sections), own.is_grant)
        .group_by(own.section)
    )
    return dict(fetch_tuples(database, query))


def lock_permission_codes_of(database: PooledPostgresqlDatabase, section_id: int) -> None:
    """Serialize the creation of codes for a section until the transaction ends."""
    lock_until_end(database, _GIVING, section_id)


_GIVING = 0x636F6473


def count_open_permission_codes(database: PooledPostgresqlDatabase, section_id: int, at: datetime) -> int:
    """The number of a section's unused codes."""
    own = PermissionCode
    return int(
        fetch_value(
            database,
            own.select(fn.COUNT(own.id)).where(
                own.section == section_id,
                own.withdrawn_at.is_null(),
                own.expires_at.is_null() | (own.expires_at > at),
                ~_IS_USED,
            ),
        )
    )


_IS_USED = fn.EXISTS(
    PermissionCodeUse.select(PermissionCodeUse.permission_code).where(
        PermissionCodeUse.permission_code == PermissionCode.id
    )
)


_IS_OF_REQUEST = fn.EXISTS(
    PermissionRequest.select(PermissionRequest.id).where(PermissionRequest.grant == PermissionCode.id)
)


def list_permission_codes(database: PooledPostgresqlDatabase, section_id: int) -> list[PermissionCodeLine]:
    """A section's codes and the instructors' permissions, newest first. Approvals of requests are not
    among them."""
    named = Person.alias()
    user = Person.alias()
    selected = columns(
        PermissionCodeLine,
        PermissionCode,
        code=Case(None, ((PermissionCode.is_grant, ""),), PermissionCode.code),
        student=fn.COALESCE(named.full_name, ""),
        used_by=fn.COALESCE(user.full_name, ""),
        used_at=PermissionCodeUse.used_at,
    )
    return fetch(
        database,
        PermissionCode.select(*selected)
        .join(named, JOIN.LEFT_OUTER, on=named.id == PermissionCode.student)
        .switch(PermissionCode)
        .join(PermissionCodeUse, JOIN.LEFT_OUTER, on=PermissionCodeUse.permission_code == PermissionCode.id)
        .join(StudentTerm, JOIN.LEFT_OUTER)
        .join(user, JOIN.LEFT_OUTER, on=user.id == StudentTerm.student)
        .where(PermissionCode.section == section_id, ~_IS_OF_REQUEST)
        .order_by(PermissionCode.id.desc()),
        PermissionCodeLine,
    )


def student_term_let_in(
    database: PooledPostgresqlDatabase, permission_code_id: int, section_id: int
) -> int | None:
    """The term row of the student with a permission without code; None for a code, or if an instructor may
    not withdraw it. One statement."""
    own = PermissionCode
    query = (
        StudentTerm.select(StudentTerm.id)
        .join(own, on=own.student == StudentTerm.student)
        .join(Section, on=(Section.id == own.section) & (Section.term == StudentTerm.term))
        .where(own.id == permission_code_id, own.section == section_id, own.is_grant)
    )
    found = fetch_value(database, query)
    return None if found is None else int(found)


def is_of_request(database: PooledPostgresqlDatabase, permission_code_id: int) -> bool:
    """Whether it comes from an approved request."""
    own = PermissionRequest
    return has_rows(database, own.select(own.id).where(own.grant == permission_code_id))


def withdraw_permission_code(
    database: PooledPostgresqlDatabase, permission_code_id: int, section_id: int, at: datetime
) -> int:
    """Withdraw a code; returns 0 if it does not exist, was used, or was withdrawn before."""
    own = PermissionCode
    fetch_value(database, keeping_keys(own.select(own.id).where(own.id == permission_code_id)))
    return write(
        database,
        own.update(withdrawn_at=at).where(
            own.id == permission_code_id, own.section == section_id, own.withdrawn_at.is_null(), ~_IS_USED
        ),
    )


def count_guesses(database: PooledPostgresqlDatabase, person_id: int, since: datetime) -> int:
    """The number of wrong codes that somebody has entered since a time."""
    own = PermissionCodeGuess
    query = own.select(fn.COUNT(own.id)).where(own.person == person_id, own.at > since)
    return int(fetch_value(database, query))


def write_guess(database: PooledPostgresqlDatabase, person_id: int, code: str, at: datetime) -> None:
    """Record a wrong code."""
    write(database, PermissionCodeGuess.insert(person=person_id, code=code, at=at))
