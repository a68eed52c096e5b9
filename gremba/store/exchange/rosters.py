"""Reads the rosters of a term."""

from __future__ import annotations

from collections.abc import Collection

from peewee import Value
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.states import RegistrationState
from gremba.store.models import Person, Registration, Section, SectionInstructor, StudentTerm
from gremba.store.queries import fetch_tuples, one_of


def enrolled_in(database: PooledPostgresqlDatabase, term: int) -> list[tuple[str, str, str]]:
    """The people of each section: its number, the user name, and "teacher" or "student"."""
    teaching = (
        SectionInstructor.select(Section.reference_number, Person.username, Value("teacher"))
        .join(Section)
        .switch(SectionInstructor)
        .join(Person)
        .where(Section.term == term)
        .order_by(Section.reference_number, Person.username)
    )
    taking = (
        Registration.select(Section.reference_number, Person.username, Value("student"))
        .join(Section, on=(Section.id == Registration.section_id))
        .join(StudentTerm, on=(StudentTerm.id == Registration.student_term_id))
        .join(Person, on=(Person.id == StudentTerm.student))
        .where((Registration.term_id == term) & (Registration.state == RegistrationState.REGISTERED))
        .order_by(Section.reference_number, Person.username)
    )
    return [*fetch_tuples(database, teaching), *fetch_tuples(database, taking)]


def people_named(
    database: PooledPostgresqlDatabase, usernames: Collection[str]
) -> list[tuple[str, str, str]]:
    """User name, full name, and email address of these people, by user name."""
    query = Person.select(Person.username, Person.full_name, Person.email)
    return fetch_tuples(database, query.where(one_of(Person.username, usernames)).order_by(Person.username))
