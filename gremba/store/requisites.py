"""Writing requisites into the catalogue."""

from __future__ import annotations

from collections.abc import Mapping

from playhouse.pool import PooledPostgresqlDatabase
from psycopg.types.json import Jsonb

from gremba.core.requisites import Requisite, from_data, to_data
from gremba.store.database import connected, rows, run


def read_requisites(database: PooledPostgresqlDatabase) -> dict[str, Requisite | None]:
    """The requisites of every course, by course."""
    with connected(database):
        return {
            f"{subject} {number}": None if data is None else from_data(data)
            for subject, number, data in rows(
                database,
                "SELECT subject, number, requisites FROM courses ORDER BY subject, number",
            )
        }


def write_requisites(
    database: PooledPostgresqlDatabase, requisites: Mapping[str, Requisite | None]
) -> list[str]:
    """Give courses these requisites, all or none, and have every process read its terms again.

    Returns:
        Courses that the catalogue does not have; if there are any, nothing was written.
    """
    with connected(database), database.atomic():
        known = {f"{subject} {number}" for subject, number in rows(
            database, "SELECT subject, number FROM courses")}  # fmt: skip
        unknown = sorted(set(requisites) - known)
        if unknown:
            return unknown
        for course, need in requisites.items():
            subject, number = course.split(" ")
            data = None if need is None else Jsonb(to_data(need))
            run(
                database,
                "UPDATE courses SET requisites = %s WHERE subject = %s AND number = %s",
                (data, subject, number),
            )
        run(database, "UPDATE terms SET catalogue_version = catalogue_version + 1")
    return []
