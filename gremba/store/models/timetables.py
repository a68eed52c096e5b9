"""Timetable drafts, plans in a cart, academic plans, and demand."""

from __future__ import annotations

from peewee import CompositeKey, IntegerField, TextField
from playhouse.postgres_ext import BlobField

from gremba.store.models.base import (
    Identity,
    Json,
    Moment,
    Reference,
    Table,
    Words,
    check,
    index,
    unique,
)
from gremba.store.models.catalogue import Course
from gremba.store.models.clearance import StudentTerm
from gremba.store.models.people import Person, Student


class TimetableDraft(Table):
    """A timetable that a student saved, with its question and its sections as they were."""

    id = Identity()
    student_term = Reference(StudentTerm)
    name = TextField(constraints=[check("length(name) BETWEEN 1 AND 60")])
    question = Json(help_text="the question, as in the API")
    numbers = Words(help_text="reference numbers, ascending")
    seen = Json(help_text="times and seats by number, when it was saved")
    kept_at = Moment()
    left_at = Moment(null=True, help_text="when the student removed it")
    digest = BlobField(null=True, unique=True, help_text="of its link's token")
    link_ends_at = Moment(null=True)

    class Meta:
        table_name = "timetable_drafts"
        constraints = [check("(digest IS NULL) = (link_ends_at IS NULL)")]


index(TimetableDraft, "timetable_drafts_kept", TimetableDraft.student_term, where="left_at IS NULL")


class CartPlan(Table):
    """A timetable in a cart, one of several in order: the first that can be registered completely is used."""

    id = Identity()
    student_term = Reference(StudentTerm)
    position = IntegerField(constraints=[check("position BETWEEN 1 AND 5")])
    changes = Json(help_text="kind, number, and section given up of each change, scarcest first")
    added_at = Moment()

    class Meta:
        table_name = "cart_plans"
        constraints = [unique("student_term_id", "position", deferred=True)]


class CourseWanted(Table):
    """A course that a student last wanted in Timetables. It is only counted."""

    student_term = Reference(StudentTerm)
    course = Reference(Course)
    noted_at = Moment()

    class Meta:
        table_name = "courses_wanted"
        primary_key = CompositeKey("student_term", "course")


index(CourseWanted, "courses_wanted_by_course", CourseWanted.course)


class AcademicPlan(Table):
    """A version of the plan a student and their advisor agreed on, term by term. Append-only; a version is
    valid once both have agreed."""

    id = Identity()
    student = Reference(Student)
    version = IntegerField()
    lines = Json(help_text="term, courses, how many of them, a section, a note")
    written_by = Reference(Person)
    written_at = Moment()
    student_agreed_at = Moment(null=True)
    advisor_agreed_at = Moment(null=True)
    advisor = Reference(Person, null=True, help_text="who agreed for the college")

    class Meta:
        table_name = "academic_plans"
        constraints = [
            unique("student_id", "version"),
            check("version > 0"),
            check("(advisor_agreed_at IS NULL) = (advisor_id IS NULL)"),
        ]
