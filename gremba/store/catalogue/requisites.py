"""Writes requisites."""

from __future__ import annotations

from collections.abc import Mapping

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.catalogue.requisites import Requisite, from_data, to_data
from gremba.store.database import connected
from gremba.store.models import Course, Term
from gremba.store.queries import fetch_tuples, write


def read_requisites(database: PooledPostgresqlDatabase) -> dict[str, Requisite | None]:
    """The requisites of every course."""
    query = Course.select(Course.subject, Course.number, Course.requisites)
    with connected(database):
        return {
            f"{subject} {number}": None if data is None else from_data(data)
            for subject, number, data in fetch_tuples(database, query.order_by(Course.subject, Course.number))
        }


def write_requisites(
    database: PooledPostgresqlDatabase, requisites: Mapping[str, Requisite | None]
) -> list[str]:
    """Set these courses' requisites, all or none; every process reloads its terms.

    Returns:
        Courses that the catalogue does not have; if there are any, nothing was written.
    """
    with connected(database), database.atomic():
        courses = fetch_tuples(database, Course.select(Course.subject, Course.number))
        known = {f"{subject} {number}" for subject, number in courses}
        unknown = sorted(set(requisites) - known)
        if unknown:
            return unknown
        for course, need in requisites.items():
            subject, number = course.split(" ")
            now = Course.update(requisites=None if need is None else to_data(need))
            write(database, now.where(Course.subject == subject, Course.number == number))
        write(database, Term.update(catalogue_version=Term.catalogue_version + 1))
    return []
