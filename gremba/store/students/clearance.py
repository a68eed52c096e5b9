"""Stores the clearance of students."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from datetime import datetime

from peewee import JOIN, fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.states import ClearanceKind
from gremba.store.models import ClearanceItem, ContactDetails, Person, SurveyAnswers
from gremba.store.queries import columns, fetch, fetch_tuples, write


@dataclass(frozen=True, slots=True)
class ItemLine:
    """A checklist item, and when and by whom it was completed."""

    kind: ClearanceKind
    done_at: datetime | None
    done_by: str


@dataclass(frozen=True, slots=True)
class Details:
    """A student's contact details."""

    phone: str = ""
    address: str = ""
    emergency_name: str = ""
    emergency_phone: str = ""


def read_items(database: PooledPostgresqlDatabase, student_term_id: int) -> list[ItemLine]:
    """All checklist items of a student for a term."""
    selected = columns(ItemLine, ClearanceItem, done_by=fn.COALESCE(Person.full_name, ""))
    query = ClearanceItem.select(*selected).join(Person, JOIN.LEFT_OUTER)
    return fetch(database, query.where(ClearanceItem.student_term == student_term_id), ItemLine)


def release_open_item(database: PooledPostgresqlDatabase, student_term_id: int, at: datetime, by: int) -> int:
    """Clear a student who waits for it; returns 0 if there is nothing to clear. One statement."""
    own = ClearanceItem
    mine = (own.student_term == student_term_id) & (own.kind == ClearanceKind.RELEASE)
    return write(database, own.update(done_at=at, done_by=by).where(mine, own.done_at.is_null()))


def set_item(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    kind: str,
    done_at: datetime | None,
    done_by: int | None,
) -> None:
    """Mark an item as complete or open; nothing happens if it is already."""
    new = ClearanceItem.insert(student_term=student_term_id, kind=kind, done_at=done_at, done_by=done_by)
    write(
        database,
        new.on_conflict(
            conflict_target=[ClearanceItem.student_term, ClearanceItem.kind],
            preserve=[ClearanceItem.done_at, ClearanceItem.done_by],
            where=ClearanceItem.done_at.is_null(done_at is not None),
        ),
    )


def read_details(database: PooledPostgresqlDatabase, student_id: int) -> tuple[str, Details]:
    """A student's email address and contact details."""
    own = ContactDetails
    own_details = (own.phone, own.address, own.emergency_name, own.emergency_phone)
    query = Person.select(Person.email, *(fn.COALESCE(column, "") for column in own_details))
    query = query.join(own, JOIN.LEFT_OUTER, on=own.student == Person.id)
    [(email, *details)] = fetch_tuples(database, query.where(Person.id == student_id))
    return email, Details(*details)


def write_details(database: PooledPostgresqlDatabase, student_id: int, details: Details) -> None:
    """Store contact details."""
    own_details = asdict(details)
    new = ContactDetails.insert(student=student_id, **own_details)
    write(
        database,
        new.on_conflict(
            conflict_target=[ContactDetails.student],
            preserve=[getattr(ContactDetails, name) for name in own_details],
        ),
    )


def write_survey(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    answers: Mapping[str, str],
    at: datetime,
) -> None:
    """Store answers to a term's survey."""
    own = SurveyAnswers
    new = own.insert(student_term=student_term_id, answers=dict(answers), at=at)
    write(
        database,
        new.on_conflict(conflict_target=[own.student_term], preserve=[own.answers, own.at]),
    )
