"""Stores the sections that students have starred."""

from __future__ import annotations

from datetime import datetime

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.catalogue.term import Section
from gremba.store.models import Starred
from gremba.store.queries import fetch_values, write

MAX_STARS = 200
"""So many sections can be starred by one student."""

_LATEST_FIRST = (Starred.starred_at.desc(), Starred.section)


def read_stars(database: PooledPostgresqlDatabase, student_term_id: int) -> list[int]:
    """The ids of starred sections, newest first. One statement."""
    query = Starred.select(Starred.section).where(Starred.student_term_id == student_term_id)
    return fetch_values(database, query.order_by(*_LATEST_FIRST))


def star(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    term_id: int,
    section: Section,
    at: datetime,
) -> None:
    """Star a section; beyond :data:`MAX_STARS` the oldest stars go. Two statements."""
    new = {
        Starred.student_term_id: student_term_id,
        Starred.term_id: term_id,
        Starred.section: section.id,
        Starred.starred_at: at,
    }
    write(database, Starred.insert(new).on_conflict_ignore())
    own = Starred.student_term_id == student_term_id
    too_many = Starred.select(Starred.section).where(own).order_by(*_LATEST_FIRST).offset(MAX_STARS)
    write(database, Starred.delete().where(own, Starred.section.in_(too_many)))


def unstar(database: PooledPostgresqlDatabase, student_term_id: int, section: Section) -> None:
    """Remove a star. One statement."""
    write(
        database,
        Starred.delete().where(Starred.student_term_id == student_term_id, Starred.section == section.id),
    )
