"""Reads what offices have done for or to a student."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.models import OfficeEvent, Person
from gremba.store.queries import columns, fetch


@dataclass(frozen=True, slots=True)
class OfficeEventLine:
    """What an office did.

    Attributes:
        person: name of whoever did it.
    """

    what: str
    detail: str
    person: str
    at: datetime


def list_office_events(
    database: PooledPostgresqlDatabase, student_id: int, most: int
) -> list[OfficeEventLine]:
    """List what offices did, newest first. One statement."""
    own = OfficeEvent
    query = own.select(*columns(OfficeEventLine, own, person=Person.full_name)).join(Person)
    query = query.where(own.student == student_id).order_by(own.id.desc()).limit(most)
    return fetch(database, query, OfficeEventLine)
