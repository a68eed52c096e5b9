"""Reads a student's waitlist entries with position and history."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

from peewee import Case, fn
from playhouse.pool import PooledPostgresqlDatabase
from pydantic import TypeAdapter

from gremba.core.states import WaitlistEventKind, WaitlistState
from gremba.store import models
from gremba.store.database import fetch_records, send_sql
from gremba.store.queries import columns, fetch, fetch_tuples
from gremba.store.waitlists.entries import RANK


@dataclass(frozen=True, slots=True)
class Event:
    """What happened to an entry.

    Attributes:
        by: the name of who did it, or "" where that was the student, or nobody.
    """

    what: WaitlistEventKind
    at: datetime
    cause: str
    by: str


@dataclass(frozen=True, slots=True)
class EntryLine:
    """An entry as its student sees it.

    Attributes:
        position: counted now, never stored; 0 where it does not wait.
        waiting: how many wait in all.
    """

    id: int
    section: int
    state: WaitlistState
    joined_at: datetime
    ended_at: datetime | None
    offer_until: datetime | None
    in_exchange: int | None
    chosen_linked_sections: tuple[int, ...]
    position: int
    waiting: int
    events: tuple[Event, ...]


_LINES = """
SELECT w.id, w.section_id AS section, w.state, w.joined_at, w.ended_at, w.offer_until,
       w.in_exchange_id AS in_exchange,
       w.chosen_linked_sections,
       CASE WHEN w.state = 'waiting' THEN (
           SELECT count(*) FROM waitlist_entries o WHERE o.pool_id = w.pool_id AND o.state = 'waiting'
           AND (coalesce(o.ranked, o.id), o.id) <= (coalesce(w.ranked, w.id), w.id)) ELSE 0 END AS position,
       (SELECT count(*) FROM waitlist_entries o WHERE o.pool_id = w.pool_id 
            AND o.state = 'waiting') AS waiting,
       (SELECT coalesce(json_agg(json_build_object(
                   'what', e.what, 'at', e.at, 'cause', e.cause, 'by', coalesce(p.full_name, ''))
                   ORDER BY e.id), '[]')
        FROM waitlist_events e LEFT JOIN persons p ON p.id = e.by_id WHERE e.entry_id = w.id) AS events
FROM waitlist_entries w WHERE w.student_term_id = %s ORDER BY w.ended_at DESC NULLS FIRST, w.joined_at, w.id
LIMIT 60
"""
_ENTRY_LINES = TypeAdapter(list[EntryLine])


def read_entries(database: PooledPostgresqlDatabase, student_term_id: int) -> Sequence[EntryLine]:
    """A student's entries, open ones first. One statement."""
    return fetch_records(send_sql(database, _LINES, (student_term_id,)), _ENTRY_LINES)


@dataclass(frozen=True, slots=True)
class WaitingLine:
    """A waitlisted student, or one with an offer."""

    full_name: str
    state: WaitlistState
    joined_at: datetime
    offer_until: datetime | None


def waiting_for(database: PooledPostgresqlDatabase, section: int) -> Sequence[WaitingLine]:
    """The waitlist of a section's pool in order, with offers. One statement."""
    own = models.WaitlistEntry
    until = Case(None, [(own.state == WaitlistState.OFFERED, own.offer_until)])
    selected = columns(WaitingLine, own, full_name=models.Person.full_name, offer_until=until)
    query = (
        own.select(*selected)
        .join(models.StudentTerm, on=models.StudentTerm.id == own.student_term_id)
        .join(models.Person, on=models.Person.id == models.StudentTerm.student)
        .switch(own)
        .join(models.Section, on=models.Section.pool_id == own.pool_id)
        .where(
            models.Section.id == section,
            own.state.in_([WaitlistState.WAITING, WaitlistState.OFFERED]),
        )
    )
    return fetch(database, query.order_by(own.state, RANK, own.id), WaitingLine)


def read_past_entries(database: PooledPostgresqlDatabase, before: date) -> list[tuple[str, int, bool]]:
    """The entries of terms that began before a date: component, initial position, and whether they got a
    seat. One statement."""
    own = models.WaitlistEntry
    position = fn.ROW_NUMBER().over(partition_by=[own.pool_id], order_by=[own.id])
    query = (
        own.select(models.Section.component, position, own.state.in_(_CAME_UP))
        .join(models.Section, on=models.Section.id == own.section_id)
        .join(models.Term)
        .where(models.Term.first_day < before)
    )
    return fetch_tuples(database, query)


_CAME_UP = [
    WaitlistState.GIVEN,
    WaitlistState.OFFERED,
    WaitlistState.DECLINED,
    WaitlistState.LAPSED,
]
