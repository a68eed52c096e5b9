"""People, and facts about students independent of terms."""

from __future__ import annotations

from peewee import BooleanField, CompositeKey, DateField, IntegerField, TextField

from gremba.core.states import Role
from gremba.store.models.base import (
    BigIdentity,
    Choice,
    Credits,
    Identity,
    Moment,
    Reference,
    Table,
    check,
    default,
    index,
)
from gremba.store.models.catalogue import Campus
from gremba.store.models.sections import Section


class Person(Table):
    """A person who can sign in."""

    id = Identity()
    username = TextField(unique=True)
    full_name = TextField()
    role = Choice(Role)
    email = TextField()
    password_hash = TextField()

    class Meta:
        table_name = "persons"


class SectionInstructor(Table):
    """An instructor of a section."""

    section = Reference(Section)
    person = Reference(Person)

    class Meta:
        table_name = "section_instructors"
        primary_key = CompositeKey("section", "person")


class Student(Table):
    """A student, with what the rules need to know."""

    id = Reference(Person, primary_key=True, column_name="id", object_id_name="person_id")
    program = TextField(constraints=[default("''")])
    cohort = TextField(constraints=[default("''")])
    campus = Reference(Campus, column_name="campus", null=True)
    residence = TextField(constraints=[default("''")])
    advisor = Reference(Person, null=True)
    receives_aid = BooleanField(constraints=[default("false")])
    rate_class = TextField(constraints=[default("''")], help_text="the class that sets the rates")

    class Meta:
        table_name = "students"


index(Student, "students_of_advisor", Student.advisor)


class RecordEntry(Table):
    """A course on a student's academic record: completed, or in progress while it has no grade."""

    id = Identity()
    student = Reference(Student)
    course = TextField(help_text="its name at the time; it may no longer be offered")
    term_name = TextField()
    grade = TextField(null=True, constraints=[check("grade <> ''")])
    credits = Credits()

    class Meta:
        table_name = "record_entries"


index(RecordEntry, "record_entries_of_student", RecordEntry.student)


class PlacementScore(Table):
    """A student's placement test result."""

    student = Reference(Student)
    test = TextField()
    score = IntegerField()
    taken_on = DateField()

    class Meta:
        table_name = "placement_scores"
        primary_key = CompositeKey("student", "test", "taken_on")


class OfficeEvent(Table):
    """What an office did for or to a student. Append-only."""

    id = BigIdentity()
    student = Reference(Student)
    person = Reference(Person)
    what = TextField()
    detail = TextField(constraints=[default("''")])
    at = Moment()

    class Meta:
        table_name = "office_events"


index(OfficeEvent, "office_events_of_student", OfficeEvent.student)
