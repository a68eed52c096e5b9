"""Counts demand by course, never by person."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime

from peewee import SQL, fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.registration.changes import Kind
from gremba.store.models import CartChange, Course, CourseWanted, Section, StudentTerm
from gremba.store.queries import fetch, fetch_values, one_of, write


@dataclass(frozen=True, slots=True)
class Demand:
    """The number of students who want a course, in Timetables or in their carts."""

    subject: str
    number: str
    wants: int


def note_wanted(
    database: PooledPostgresqlDatabase, student_term_id: int, course_keys: Collection[str], at: datetime
) -> None:
    """Store what a student wants in Timetables, replacing what was stored. Two statements, and two more if
    it differs."""
    own = CourseWanted
    key = fn.CONCAT(Course.subject, SQL("' '"), Course.number)
    mine = own.student_term == student_term_id
    ids = set(fetch_values(database, Course.select(Course.id).where(one_of(key, course_keys))))
    if ids == set(fetch_values(database, own.select(own.course).where(mine))):
        return
    write(database, own.delete().where(mine, ~one_of(own.course, ids)))
    if ids:
        rows = [{"student_term": student_term_id, "course": course, "noted_at": at} for course in sorted(ids)]
        write(database, own.insert_many(rows).on_conflict_ignore())


def count_demand(database: PooledPostgresqlDatabase, term_id: int) -> list[Demand]:
    """Demand by course of a term, highest first; a student counts once. One statement."""
    wanted = (
        CourseWanted.select(CourseWanted.student_term.alias("student"), CourseWanted.course.alias("course"))
        .join(StudentTerm)
        .where(StudentTerm.term == term_id)
    )
    in_carts = (
        CartChange.select(CartChange.student_term_id.alias("student"), Section.course.alias("course"))
        .join(Section, on=CartChange.section_id == Section.id)
        .where(CartChange.term_id == term_id, CartChange.kind.in_([Kind.ADD, Kind.SWAP, Kind.WAIT]))
    )
    both = (wanted | in_carts).alias("both")
    many = fn.COUNT(both.c.student)
    query = (
        Course.select(Course.subject.alias("subject"), Course.number, many.alias("wants"))
        .join(both, on=Course.id == both.c.course)
        .group_by(Course.subject, Course.number)
        .order_by(SQL("wants").desc(), Course.subject, Course.number)
    )
    return fetch(database, query, _demand)


def _demand(subject: object, number: str, wants: int) -> Demand:
    return Demand(str(subject), number, wants)
