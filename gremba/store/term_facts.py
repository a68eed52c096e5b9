"""What the check list of a term looks at beside its catalogue."""

from __future__ import annotations

from collections import defaultdict
from typing import Any

from peewee import fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.term_check.facts import StudentsWithout, TermFacts
from gremba.store.models import (
    Person,
    Room,
    SeatPool,
    Section,
    SectionInstructor,
    Student,
    StudentTerm,
    Window,
)
from gremba.store.queries import fetch_tuples, fetch_value, fetch_values

_NAMED = 5


def read_term_facts(database: PooledPostgresqlDatabase, term_id: int) -> TermFacts:
    """The facts of a term. Eight statements."""
    pools = SeatPool.select(SeatPool.id, SeatPool.seat_limit).where(SeatPool.term == term_id)
    rooms = Room.select(Room.campus, Room.name, Room.capacity)
    own = SectionInstructor
    teaching = (
        own.select(own.section, Person.id, Person.full_name)
        .join(Section)
        .switch(own)
        .join(Person)
        .where(Section.term == term_id)
        .order_by(own.section, Person.full_name)
    )
    teachers: dict[int, list[tuple[int, str]]] = defaultdict(list)
    for section, person, name in fetch_tuples(database, teaching):
        teachers[section].append((person, name))
    no_window = ~fn.EXISTS(Window.select(Window.student_term).where(Window.student_term == StudentTerm.id))
    return TermFacts(
        seat_limits=dict(fetch_tuples(database, pools)),
        capacities={(campus, name): holds for campus, name, holds in fetch_tuples(database, rooms)},
        teachers={section: tuple(people) for section, people in teachers.items()},
        students=_count(database, term_id),
        without_window=_without(database, term_id, no_window),
        without_advisor=_without(database, term_id, Student.advisor.is_null()),
    )


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
