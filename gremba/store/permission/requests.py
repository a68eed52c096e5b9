"""Stores permission requests."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any

from peewee import JOIN, Cast, Expression, fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.states import FileType, PermissionEventKind, PermissionState, Role
from gremba.store.models import (
    Confirmation,
    Delegate,
    DepartmentHead,
    PermissionCode,
    PermissionCodeUse,
    PermissionEvent,
    PermissionFile,
    PermissionRequest,
    Person,
    SectionInstructor,
    Student,
    StudentTerm,
    Term,
)
from gremba.store.models.base import literal
from gremba.store.queries import (
    columns,
    fetch,
    fetch_one,
    fetch_tuples,
    fetch_value,
    fetch_values,
    has_rows,
    keeping_keys,
    one_of,
    write,
)

_OPEN = (literal(PermissionState.OPEN), literal(PermissionState.ASKED_BACK))


@dataclass(frozen=True, slots=True)
class RequestRow:
    """A request, with the state of its approval.

    Attributes:
        term: the term's code.
        changes: the change asked for, and those that belong to it, as data.
        route: who has to say yes, in order; `step` counts from 0.
        good_until: until when the yes is good.
        used_at: when it was used.
        confirmation: of the registration that it led to.
    """

    id: int
    student_term_id: int
    student_id: int
    student: str
    advisor_id: int | None
    term: str
    section: int
    changes: Any
    waives: tuple[str, ...]
    words: str
    otherwise: tuple[str, ...]
    goes_through: bool
    route: tuple[str, ...]
    step: int
    state: PermissionState
    asked_at: datetime
    since: datetime
    version: int
    grant: int | None
    reminded_at: datetime | None
    tried_at: datetime | None
    good_until: datetime | None
    used_at: datetime | None
    confirmation: int | None


def _requests() -> Any:
    own = PermissionRequest
    selected = columns(
        RequestRow,
        own,
        section=own.section,
        grant=own.grant,
        student_id=StudentTerm.student,
        student=Person.full_name,
        advisor_id=Student.advisor,
        term=Term.code,
        good_until=PermissionCode.expires_at,
        used_at=PermissionCodeUse.used_at,
        confirmation=PermissionCodeUse.confirmation,
    )
    return (
        own.select(*selected)
        .join(StudentTerm)
        .join(Term)
        .switch(StudentTerm)
        .join(Student)
        .join(Person, on=Person.id == Student.id)
        .switch(own)
        .join(PermissionCode, JOIN.LEFT_OUTER, on=PermissionCode.id == own.grant)
        .join(PermissionCodeUse, JOIN.LEFT_OUTER, on=PermissionCodeUse.permission_code == PermissionCode.id)
    )


def find_request(database: PooledPostgresqlDatabase, request_id: int) -> RequestRow | None:
    """A request; None if it does not exist. One statement."""
    return fetch_one(database, _requests().where(PermissionRequest.id == request_id), RequestRow)


def lock_request(database: PooledPostgresqlDatabase, request_id: int) -> RequestRow | None:
    """A request, locked until the transaction ends. Two statements."""
    own = PermissionRequest
    fetch_value(database, keeping_keys(own.select(own.id).where(own.id == request_id)))
    return find_request(database, request_id)


def open_request(database: PooledPostgresqlDatabase, student_term_id: int, section: int) -> RequestRow | None:
    """A student's open request for a section. One statement."""
    own = PermissionRequest
    mine = (own.student_term == student_term_id) & (own.section == section)
    return fetch_one(database, _requests().where(mine, own.state.in_(_OPEN)), RequestRow)


def count_open(database: PooledPostgresqlDatabase, student_term_id: int) -> int:
    """The number of a student's open requests in a term. One statement."""
    own = PermissionRequest
    query = own.select(fn.COUNT(own.id)).where(own.student_term == student_term_id, own.state.in_(_OPEN))
    return int(fetch_value(database, query))


def count_asked_since(database: PooledPostgresqlDatabase, student_id: int, since: datetime) -> int:
    """The number of requests a student has made since, in any term, including withdrawn ones. One
    statement."""
    own = PermissionRequest
    query = own.select(fn.COUNT(own.id)).join(StudentTerm)
    return int(fetch_value(database, query.where(StudentTerm.student == student_id, own.asked_at > since)))


def count_attached_since(database: PooledPostgresqlDatabase, student_id: int, since: datetime) -> int:
    """The number of files a student has attached since. One statement."""
    own = PermissionFile
    query = own.select(fn.COUNT(own.id)).join(PermissionRequest).join(StudentTerm)
    return int(fetch_value(database, query.where(StudentTerm.student == student_id, own.at > since)))


def requests_of_student(
    database: PooledPostgresqlDatabase, student_term_id: int, most: int
) -> list[RequestRow]:
    """A student's requests for a term, newest first. One statement."""
    query = _requests().where(PermissionRequest.student_term == student_term_id)
    return fetch(database, query.order_by(PermissionRequest.id.desc()).limit(most), RequestRow)


@dataclass(frozen=True, slots=True)
class Answered:
    """A page of decided requests, newest first.

    Attributes:
        since: they were answered, or ended otherwise, since then.
        before: only those with a smaller id; None for all.
        most: so many at the most.
    """

    since: datetime
    before: int | None
    most: int


def _of(
    database: PooledPostgresqlDatabase, whose: Sequence[Expression], answered: Answered | None
) -> list[RequestRow]:
    own = PermissionRequest
    if answered is None:
        query = _requests().where(*whose, own.state.in_(_OPEN))
        return fetch(database, query.order_by(own.id), RequestRow)
    query = _requests().where(*whose, own.state.not_in(_OPEN), own.since >= answered.since)
    if answered.before is not None:
        query = query.where(own.id < answered.before)
    return fetch(database, query.order_by(own.id.desc()).limit(answered.most), RequestRow)


def requests_of_sections(
    database: PooledPostgresqlDatabase, sections: Collection[int], answered: Answered | None = None
) -> list[RequestRow]:
    """Open requests for sections in order of arrival, or decided ones. One statement."""
    return _of(database, [one_of(PermissionRequest.section, sections)], answered)


def requests_of_advisees(
    database: PooledPostgresqlDatabase,
    advisors: Collection[int],
    term_id: int,
    answered: Answered | None = None,
) -> list[RequestRow]:
    """The same for all students of these advisors. One statement."""
    return _of(database, [one_of(Student.advisor, advisors), StudentTerm.term == term_id], answered)


def requests_of_term(
    database: PooledPostgresqlDatabase, term_id: int, answered: Answered | None = None
) -> list[RequestRow]:
    """The same for a whole term. One statement."""
    return _of(database, [StudentTerm.term == term_id], answered)


def open_requests(database: PooledPostgresqlDatabase, after: int, most: int) -> list[RequestRow]:
    """Open requests of any term, by id, from a cursor on. One statement."""
    own = PermissionRequest
    query = _requests().where(own.state.in_(_OPEN), own.id > after)
    return fetch(database, query.order_by(own.id).limit(most), RequestRow)


def requests_to_put_through(
    database: PooledPostgresqlDatabase, now: datetime, pause: timedelta, most: int
) -> list[RequestRow]:
    """Approved requests to be registered automatically, those tried longest ago first. One statement.

    Args:
        pause: so long after one try there is none; nor is one put off by a clock that has gone back since.
    """
    own = PermissionRequest
    query = _requests().where(
        own.state == literal(PermissionState.GRANTED),
        own.goes_through,
        own.tried_at.is_null() | (own.tried_at < now - pause) | (own.tried_at > now + pause),
        PermissionCodeUse.permission_code.is_null(),
        PermissionCode.expires_at > now,
    )
    return fetch(database, query.order_by(own.tried_at.asc(nulls="FIRST"), own.id).limit(most), RequestRow)


def requests_untold(database: PooledPostgresqlDatabase, since: datetime, most: int) -> list[RequestRow]:
    """Requests registered automatically since then whose students were not told, because the process
    ended. One statement."""
    own, event = PermissionRequest, PermissionEvent
    told = event.select(event.id).where(
        event.request == own.id, event.what == literal(PermissionEventKind.PUT_THROUGH)
    )
    query = (
        _requests()
        .join(Confirmation, on=Confirmation.id == PermissionCodeUse.confirmation)
        .where(
            own.state == literal(PermissionState.GRANTED),
            own.goes_through,
            PermissionCodeUse.used_at > since,
            fn.STARTS_WITH(
                Confirmation.idempotency_key, fn.CONCAT(Cast(SUBMITTED_AS, "text"), own.id, Cast("-", "text"))
            ),
            ~fn.EXISTS(told),
        )
    )
    return fetch(database, query.order_by(own.id).limit(most), RequestRow)


SUBMITTED_AS = "request-"
"""What the key of a submission begins with that a request was put through by; its id follows."""


def insert_request(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    section: int,
    at: datetime,
    values: Mapping[str, Any],
) -> int:
    """Store a request; returns its id.

    Args:
        values: its changes, waives, words, otherwise, goes_through and route.
    """
    own = PermissionRequest
    new = own.insert(student_term=student_term_id, section=section, asked_at=at, since=at, **values)
    return int(fetch_value(database, new.returning(own.id)))


def change_request(
    database: PooledPostgresqlDatabase, row: RequestRow, state: PermissionState, **values: Any
) -> None:
    """Change a request; its version grows."""
    own = PermissionRequest
    write(
        database,
        own.update(state=state, version=own.version + 1, **values).where(own.id == row.id),
    )


def claim_trying(database: PooledPostgresqlDatabase, row: RequestRow, at: datetime) -> bool:
    """Claim the next try to register a request; returns whether nobody else has since it was read. One
    statement."""
    own = PermissionRequest
    as_read = own.tried_at.is_null() if row.tried_at is None else own.tried_at == row.tried_at
    state = own.state == literal(PermissionState.GRANTED)
    return bool(write(database, own.update(tried_at=at).where(own.id == row.id, as_read, state)))


def note_reminded(database: PooledPostgresqlDatabase, request_id: int, at: datetime) -> None:
    """Record that the decider was reminded."""
    own = PermissionRequest
    write(database, own.update(reminded_at=at).where(own.id == request_id))


@dataclass(frozen=True, slots=True)
class EventRow:
    """What happened to a request.

    Attributes:
        by: a name, or "".
        stands_for: the name of whose place they took, or "".
    """

    request: int
    what: PermissionEventKind
    at: datetime
    by: str
    stands_for: str
    words: str


def put_event(
    database: PooledPostgresqlDatabase,
    request_id: int,
    what: PermissionEventKind,
    at: datetime,
    by: int | None,
    words: str = "",
    stands_for: int | None = None,
) -> None:
    """Record what happened to a request."""
    new = PermissionEvent.insert(
        request=request_id, what=what, at=at, by=by, stands_for=stands_for, words=words
    )
    write(database, new)


def events_of(database: PooledPostgresqlDatabase, requests: Collection[int]) -> dict[int, list[EventRow]]:
    """The history of each of these requests. One statement."""
    own, named, other = PermissionEvent, Person.alias(), Person.alias()
    selected = columns(
        EventRow,
        own,
        request=own.request,
        by=fn.COALESCE(named.full_name, ""),
        stands_for=fn.COALESCE(other.full_name, ""),
    )
    query = (
        own.select(*selected)
        .join(named, JOIN.LEFT_OUTER, on=named.id == own.by)
        .switch(own)
        .join(other, JOIN.LEFT_OUTER, on=other.id == own.stands_for)
        .where(one_of(own.request, requests))
        .order_by(own.id)
    )
    found: dict[int, list[EventRow]] = {}
    for row in fetch(database, query, EventRow):
        found.setdefault(row.request, []).append(row)
    return found


@dataclass(frozen=True, slots=True)
class FileRow:
    """An attached file, without its content."""

    id: int
    request: int
    name: str
    media_type: FileType
    size: int
    at: datetime


def insert_file(
    database: PooledPostgresqlDatabase,
    request_id: int,
    name: str,
    media_type: FileType,
    content: bytes,
    digest: bytes,
    at: datetime,
) -> None:
    """Store a file of a request."""
    new = PermissionFile.insert(
        request=request_id, name=name, media_type=media_type, content=content, digest=digest, at=at
    )
    write(database, new)


def files_of(database: PooledPostgresqlDatabase, requests: Collection[int]) -> dict[int, list[FileRow]]:
    """The files of each of these requests, in order of arrival. One statement."""
    own = PermissionFile
    selected = columns(FileRow, own, request=own.request, size=fn.OCTET_LENGTH(own.content))
    found: dict[int, list[FileRow]] = {}
    for row in fetch(
        database, own.select(*selected).where(one_of(own.request, requests)).order_by(own.id), FileRow
    ):
        found.setdefault(row.request, []).append(row)
    return found


def read_file(
    database: PooledPostgresqlDatabase, request_id: int, file_id: int
) -> tuple[str, FileType, bytes] | None:
    """Name, type, and content of a file; None if the request has no such file. One statement."""
    own = PermissionFile
    query = own.select(own.name, own.media_type, own.content).where(
        own.id == file_id, own.request == request_id
    )
    for name, media_type, content in fetch_tuples(database, query):
        return name, FileType(media_type), bytes(content)
    return None


def instructors_of(database: PooledPostgresqlDatabase, sections: Collection[int]) -> dict[int, list[int]]:
    """The instructors of each of these sections. One statement."""
    own = SectionInstructor
    query = own.select(own.section, own.person).where(one_of(own.section, sections))
    found: dict[int, list[int]] = {}
    for section, person in fetch_tuples(database, query.order_by(own.person)):
        found.setdefault(section, []).append(person)
    return found


def heads_of(database: PooledPostgresqlDatabase) -> dict[str, list[int]]:
    """Who decides for the courses of each subject. One statement."""
    own = DepartmentHead
    found: dict[str, list[int]] = {}
    for subject, person in fetch_tuples(database, own.select(own.subject, own.person).order_by(own.person)):
        found.setdefault(subject, []).append(person)
    return found


def registrars(database: PooledPostgresqlDatabase) -> list[int]:
    """Everybody in the registrar's office. One statement."""
    query = Person.select(Person.id).where(Person.role == Role.REGISTRAR).order_by(Person.id)
    return [person for (person,) in fetch_tuples(database, query)]


@dataclass(frozen=True, slots=True)
class DelegateRow:
    """A delegation from one day through another."""

    id: int
    person: int
    person_name: str
    delegate: int
    delegate_name: str
    from_on: date
    until_on: date


def delegates_on(database: PooledPostgresqlDatabase, on: date) -> list[DelegateRow]:
    """Current and future delegations on a day. One statement."""
    own, away, other = Delegate, Person.alias(), Person.alias()
    selected = columns(
        DelegateRow,
        own,
        person=own.person,
        delegate=own.delegate,
        person_name=away.full_name,
        delegate_name=other.full_name,
    )
    query = (
        own.select(*selected)
        .join(away, on=away.id == own.person)
        .switch(own)
        .join(other, on=other.id == own.delegate)
        .where(own.ended_at.is_null(), own.until_on >= on)
        .order_by(own.from_on, own.id)
    )
    return fetch(database, query, DelegateRow)


def insert_delegate(
    database: PooledPostgresqlDatabase, person: int, delegate: int, from_on: date, until_on: date
) -> None:
    """Store a delegation."""
    write(database, Delegate.insert(person=person, delegate=delegate, from_on=from_on, until_on=until_on))


def end_delegate(database: PooledPostgresqlDatabase, delegate_id: int, person: int, at: datetime) -> int:
    """End a delegation; returns 0 if this person has no such delegation."""
    own = Delegate
    return write(
        database,
        own.update(ended_at=at).where(own.id == delegate_id, own.person == person, own.ended_at.is_null()),
    )


def names_of(database: PooledPostgresqlDatabase, people: Collection[int]) -> dict[int, str]:
    """These people's names. One statement, if there are any."""
    if not people:
        return {}
    query = Person.select(Person.id, Person.full_name).where(one_of(Person.id, people))
    return dict(fetch_tuples(database, query))


def colleague_by_username(database: PooledPostgresqlDatabase, username: str) -> int | None:
    """The id of a person who can decide requests; None if there is none with this user name."""
    able = (Role.INSTRUCTOR, Role.ADVISOR, Role.REGISTRAR)
    query = Person.select(Person.id).where(
        Person.username == username.strip().casefold(), Person.role.in_(able)
    )
    found = fetch_value(database, query)
    return None if found is None else int(found)


def is_file_there(database: PooledPostgresqlDatabase, request_id: int, digest: bytes) -> bool:
    """Whether the same file is already attached."""
    own = PermissionFile
    return has_rows(database, own.select(own.id).where(own.request == request_id, own.digest == digest))


def terms_with_open_requests(database: PooledPostgresqlDatabase) -> list[str]:
    """Codes of the terms with open requests, earliest first. One statement."""
    own = PermissionRequest
    open_ones = own.select(StudentTerm.term).join(StudentTerm).where(own.state.in_(_OPEN))
    query = Term.select(Term.code).where(Term.id.in_(open_ones)).order_by(Term.first_day)
    return fetch_values(database, query)


def read_granted_changes(database: PooledPostgresqlDatabase, student_term_id: int) -> dict[int, Any]:
    """The changes requested with each approval, by its id. One statement."""
    own = PermissionRequest
    query = own.select(own.grant, own.changes).where(
        own.student_term == student_term_id, own.state == literal(PermissionState.GRANTED)
    )
    return dict(fetch_tuples(database, query))
