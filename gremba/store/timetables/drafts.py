"""Stores timetable drafts. A removed draft is hidden, not deleted."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from peewee import fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.timetables.drafts import SeenSection
from gremba.store.models import Person, Student, StudentTerm, Term, TimetableDraft
from gremba.store.queries import fetch, fetch_one, fetch_value, write


@dataclass(frozen=True, slots=True)
class StoredDraft:
    """A saved timetable.

    Attributes:
        question: as the API takes it.
        link_ends_at: the end of a link by which it is shown; None where there is none.
    """

    id: int
    name: str
    question: dict[str, Any]
    numbers: tuple[str, ...]
    seen: dict[str, SeenSection]
    kept_at: datetime
    link_ends_at: datetime | None


@dataclass(frozen=True, slots=True)
class SharedDraft:
    """A timetable found by its link."""

    term: str
    student: str
    name: str
    numbers: tuple[str, ...]
    seen: dict[str, SeenSection]
    link_ends_at: datetime


def _stored(seen: Mapping[str, Mapping[str, Any]], **row: Any) -> StoredDraft:
    return StoredDraft(seen=_seen(seen), **row)


def _seen(seen: Mapping[str, Mapping[str, Any]]) -> dict[str, SeenSection]:
    return {number: SeenSection(**one) for number, one in seen.items()}


def list_drafts(database: PooledPostgresqlDatabase, student_term_id: int) -> list[StoredDraft]:
    """Saved timetables, newest first. One statement."""
    own = TimetableDraft
    query = own.select(
        own.id, own.name, own.question, own.numbers, own.seen, own.kept_at, own.link_ends_at
    ).where(own.student_term == student_term_id, own.left_at.is_null())
    return fetch(database, query.order_by(own.kept_at.desc(), own.id.desc()), _stored)


def count_drafts(database: PooledPostgresqlDatabase, student_term_id: int) -> int:
    """The number of saved timetables. One statement."""
    own = TimetableDraft
    query = own.select(fn.COUNT(own.id)).where(own.student_term == student_term_id, own.left_at.is_null())
    return int(fetch_value(database, query))


def keep_draft(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    name: str,
    question: Mapping[str, Any],
    numbers: Sequence[str],
    seen: Mapping[str, SeenSection],
    at: datetime,
) -> int:
    """Save a timetable; returns its id. One statement."""
    new = TimetableDraft.insert(
        student_term=student_term_id,
        name=name,
        question=dict(question),
        numbers=list(numbers),
        seen={number: one.as_data() for number, one in seen.items()},
        kept_at=at,
    )
    return int(fetch_value(database, new.returning(TimetableDraft.id)))


def rename_draft(database: PooledPostgresqlDatabase, student_term_id: int, draft: int, name: str) -> int:
    """Rename a saved timetable; returns 0 if there is none. One statement."""
    return write(database, TimetableDraft.update(name=name).where(_own(student_term_id, draft)))


def let_draft_go(database: PooledPostgresqlDatabase, student_term_id: int, draft: int, at: datetime) -> int:
    """Hide a saved timetable and end its link; returns 0 if there is none. One statement."""
    gone = TimetableDraft.update(left_at=at, digest=None, link_ends_at=None)
    return write(database, gone.where(_own(student_term_id, draft)))


def link_draft(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    draft: int,
    digest: bytes | None,
    ends_at: datetime | None,
) -> int:
    """Set or, with None, remove the link of a saved timetable; returns 0 if there is none. One statement."""
    linked = TimetableDraft.update(digest=digest, link_ends_at=ends_at)
    return write(database, linked.where(_own(student_term_id, draft)))


def find_shared(database: PooledPostgresqlDatabase, digest: bytes, now: datetime) -> SharedDraft | None:
    """The timetable a link shows; None if the link is not active. One statement."""
    own = TimetableDraft
    query = (
        own.select(
            Term.code.alias("term"),
            Person.full_name.alias("student"),
            own.name,
            own.numbers,
            own.seen,
            own.link_ends_at,
        )
        .join(StudentTerm)
        .join(Term)
        .switch(StudentTerm)
        .join(Student)
        .join(Person, on=Student.id == Person.id)
        .where(own.digest == digest, own.left_at.is_null(), own.link_ends_at > now)
    )
    return fetch_one(database, query, _shared)


def _shared(seen: Mapping[str, Mapping[str, Any]], **row: Any) -> SharedDraft:
    return SharedDraft(seen=_seen(seen), **row)


def _own(student_term_id: int, draft: int) -> Any:
    own = TimetableDraft
    return (own.id == draft) & (own.student_term == student_term_id) & own.left_at.is_null()
