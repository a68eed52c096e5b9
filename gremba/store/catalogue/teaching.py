"""Reads and changes who teaches what."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection
from typing import NamedTuple

from peewee import fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.states import Role
from gremba.store.models import Person, Section, SectionInstructor
from gremba.store.models.base import literal
from gremba.store.queries import fetch_tuples, fetch_value, one_of, write


class Teacher(NamedTuple):
    """An instructor of a section."""

    id: int
    username: str
    full_name: str


def teachers_of(database: PooledPostgresqlDatabase, term_id: int) -> dict[int, list[Teacher]]:
    """The instructors of a term's sections, by name. One statement."""
    own = SectionInstructor
    query = (
        own.select(own.section, Person.id, Person.username, Person.full_name)
        .join(Section)
        .switch(own)
        .join(Person)
        .where(Section.term == term_id)
        .order_by(own.section, Person.full_name)
    )
    found: dict[int, list[Teacher]] = defaultdict(list)
    for section, *person in fetch_tuples(database, query):
        found[section].append(Teacher(*person))
    return found


def instructor_named(database: PooledPostgresqlDatabase, username: str) -> int | None:
    """The id of the instructor with this user name; None if there is none."""
    query = Person.select(Person.id).where(
        Person.username == username, Person.role == literal(Role.INSTRUCTOR)
    )
    found = fetch_value(database, query)
    return None if found is None else int(found)


def hand_over(database: PooledPostgresqlDatabase, sections: Collection[int], old: str, new: int) -> int:
    """Move sections from one instructor to another; returns how many moved. Sections that the new one
    teaches already are skipped. One statement.

    Args:
        old: user name of the other.
    """
    own, beside = SectionInstructor, SectionInstructor.alias("beside")
    was = Person.select(Person.id).where(Person.username == old)
    taught = beside.select(beside.person).where(beside.section == own.section, beside.person == new)
    theirs = one_of(own.section, list(sections)) & own.person.in_(was) & ~fn.EXISTS(taught)
    return write(database, own.update(person=new).where(theirs))
