"""Who teaches what, and having somebody else teach it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.states import Role
from gremba.store.models import Person, Section, SectionInstructor
from gremba.store.models.base import literal
from gremba.store.queries import fetch_tuples, fetch_value, has_rows, write


def teachers_of(database: PooledPostgresqlDatabase, term_id: int) -> dict[int, list[tuple[str, str]]]:
    """By section of a term the user names and names of who teaches it. One statement."""
    own = SectionInstructor
    query = (
        own.select(own.section, Person.username, Person.full_name)
        .join(Section)
        .switch(own)
        .join(Person)
        .where(Section.term == term_id)
        .order_by(own.section, Person.full_name)
    )
    found: dict[int, list[tuple[str, str]]] = defaultdict(list)
    for section, username, name in fetch_tuples(database, query):
        found[section].append((username, name))
    return found


def instructor_named(database: PooledPostgresqlDatabase, username: str) -> int | None:
    """The id of an instructor by user name; None if there is none of that name."""
    query = Person.select(Person.id).where(
        Person.username == username, Person.role == literal(Role.INSTRUCTOR)
    )
    found = fetch_value(database, query)
    return None if found is None else int(found)


def hand_over(database: PooledPostgresqlDatabase, sections: Collection[int], old: str, new: int) -> int:
    """Have somebody teach sections whom another one was to teach; gives how many changed hands. A section
    that the new one teaches already is left alone.

    Args:
        old: user name of the other.
    """
    own = SectionInstructor
    many = 0
    was = fetch_value(database, Person.select(Person.id).where(Person.username == old))
    for section in sorted(sections):
        taught = own.select(own.person).where(own.section == section, own.person == new)
        if was is not None and not has_rows(database, taught):
            mine = (own.section == section) & (own.person == was)
            many += write(database, own.update(person=new).where(mine))
    return many
