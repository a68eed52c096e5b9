"""Sections that students have starred, to find them again."""

from __future__ import annotations

from datetime import datetime

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.catalogue import Section
from gremba.store.database import rows, run

MOST = 200
"""So many sections can be starred by one student."""


def read_stars(database: PooledPostgresqlDatabase, student_term_id: int) -> list[int]:
    """The ids of the sections starred, latest first. One statement."""
    return [
        row[0]
        for row in rows(
            database,
            "SELECT section_id FROM starred WHERE student_term_id = %s "
            "ORDER BY starred_at DESC, section_id",
            (student_term_id,),
        )
    ]


def star(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    term_id: int,
    section: Section,
    at: datetime,
) -> None:
    """Star a section; beyond :data:`MOST` the oldest go. Two statements."""
    run(
        database,
        "INSERT INTO starred VALUES (%s, %s, %s, %s) ON CONFLICT DO NOTHING",
        (student_term_id, term_id, section.id, at),
    )
    run(
        database,
        "DELETE FROM starred WHERE student_term_id = %s AND section_id IN (SELECT section_id "
        "FROM starred WHERE student_term_id = %s ORDER BY starred_at DESC, section_id OFFSET %s)",
        (student_term_id, student_term_id, MOST),
    )


def unstar(database: PooledPostgresqlDatabase, student_term_id: int, section: Section) -> None:
    """Take a star away. One statement."""
    run(
        database,
        "DELETE FROM starred WHERE student_term_id = %s AND section_id = %s",
        (student_term_id, section.id),
    )
