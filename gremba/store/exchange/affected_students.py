"""Counts who is registered, waitlisted or has a section in the cart."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection

from peewee import fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.states import RegistrationState, WaitlistState
from gremba.store.models import CartChange, Registration, Section, WaitlistEntry
from gremba.store.queries import fetch_tuples, fetch_value, one_of


def count_registered(database: PooledPostgresqlDatabase, term_id: int) -> int:
    """The number of students registered for anything in a term."""
    own = Registration
    query = own.select(fn.COUNT(own.student_term_id.distinct())).join(
        Section, on=Section.id == own.section_id
    )
    there = own.state == RegistrationState.REGISTERED
    return int(fetch_value(database, query.where(there & (Section.term == term_id))))


def held_with(database: PooledPostgresqlDatabase, sections: Collection[int]) -> dict[int, set[int]]:
    """Everything that students registered for any of these sections are registered for, by term row."""
    own = Registration
    there = own.state == RegistrationState.REGISTERED
    students = own.select(own.student_term_id).where(there & one_of(own.section_id, sections))
    query = own.select(own.student_term_id, own.section_id).where(there & own.student_term_id.in_(students))
    found: dict[int, set[int]] = defaultdict(set)
    for student, section in fetch_tuples(database, query):
        found[student].add(section)
    return found


def waiting_for(database: PooledPostgresqlDatabase, sections: Collection[int]) -> dict[int, int]:
    """The number of waitlisted students by section, including those with an offer."""
    own = WaitlistEntry
    open_ = own.state.in_([WaitlistState.WAITING, WaitlistState.OFFERED])
    query = own.select(own.section_id, fn.COUNT(own.id)).where(open_ & one_of(own.section_id, sections))
    return dict(fetch_tuples(database, query.group_by(own.section_id)))


def in_carts(database: PooledPostgresqlDatabase, sections: Collection[int]) -> dict[int, int]:
    """The number of carts by section."""
    own = CartChange
    query = own.select(own.section_id, fn.COUNT(own.id)).where(one_of(own.section_id, sections))
    return dict(fetch_tuples(database, query.group_by(own.section_id)))
