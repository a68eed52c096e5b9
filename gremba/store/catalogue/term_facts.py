"""Reads the facts of the setup checklist."""

from __future__ import annotations

from typing import Any

from peewee import fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.catalogue.term_check.facts import StudentsWithout, TermFacts
from gremba.store.catalogue.teaching import teachers_of
from gremba.store.models import (
    Person,
    Room,
    SeatPool,
    Student,
    StudentTerm,
    Window,
)
from gremba.store.queries import fetch_tuples, fetch_value, fetch_values

_NAMED = 5


def read_term_facts(database: PooledPostgresqlDatabase, term_id: int) -> TermFacts:
    """The facts that a term's setup checklist needs. Eight statements."""
    pools = SeatPool.select(SeatPool.id, SeatPool.seat_limit).where(SeatPool.term == term_id)
    rooms = Room.select(Room.campus, Room.name, Room.capacity)
    teaching = teachers_of(database, term_id).items()
    return TermFacts(
        seat_limits=dict(fetch_tuples(database, pools)),
        capacities={(campus, name): holds for campus, name, holds in fetch_tuples(database, rooms)},
        teachers={section: tuple((t.id, t.full_name) for t in people) for section, people in teaching},
        students=count_expected(database, term_id),
        without_window=without_window(database, term_id),
        without_advisor=_without(database, term_id, Student.advisor.is_null()),
    )


def count_expected(database: PooledPostgresqlDatabase, term_id: int) -> int:
    """The number of a term's students. One statement."""
    return _count(database, term_id)


def without_window(database: PooledPostgresqlDatabase, term_id: int) -> StudentsWithout:
    """The number of a term's students without a window. Two statements."""
    theirs = Window.select(Window.student_term).where(Window.student_term == StudentTerm.id)
    return _without(database, term_id, ~fn.EXISTS(theirs))


def _expected(term_id: int, *chosen: Any) -> Any:
    query = StudentTerm.select(*chosen).join(Student).join(Person, on=Person.id == Student.id)
    return query.where(StudentTerm.term == term_id)


def _count(database: PooledPostgresqlDatabase, term_id: int, *conditions: Any) -> int:
    query = _expected(term_id, fn.COUNT(StudentTerm.id))
    return int(fetch_value(database, query.where(*conditions) if conditions else query))


def _without(database: PooledPostgresqlDatabase, term_id: int, lacks: Any) -> StudentsWithout:
    many = _count(database, term_id, lacks)
    first = _expected(term_id, Person.full_name).where(lacks).order_by(Person.full_name).limit(_NAMED)
    return StudentsWithout(many, tuple(fetch_values(database, first)) if many else ())
