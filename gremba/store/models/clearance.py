"""Windows, holds, and the items of clearance."""

from __future__ import annotations

from peewee import CompositeKey, IntegerField, TextField

from gremba.core.registration.changes import Mode
from gremba.core.registration.plans import PlanFallback
from gremba.core.states import ClearanceKind, ClearedBy, Stopped
from gremba.store.models.base import (
    Choice,
    Credits,
    Identity,
    Json,
    Moment,
    Reference,
    Table,
    Words,
    check,
    default,
    index,
    unique,
)
from gremba.store.models.catalogue import Term
from gremba.store.models.people import Person, Student

_STOPPED = ", ".join(f"'{one.value}'" for one in Stopped)


class StudentTerm(Table):
    """A student in a term. Decisions about the student lock this row."""

    id = Identity()
    student = Reference(Student)
    term = Reference(Term)
    standing = TextField(constraints=[default("'good'")])
    credit_limit = Credits(null=True, help_text="the student's own; none for the standing's")
    cart_mode = Choice(Mode, constraints=[default("'each'")])
    plan_fallback = Choice(
        PlanFallback,
        constraints=[default("'nothing'")],
        help_text="what happens if no plan of the cart can be registered completely",
    )

    class Meta:
        table_name = "student_terms"
        constraints = [unique("student_id", "term_id"), unique("id", "term_id")]


class WindowAssignment(Table):
    """A published assignment of a term's windows, with its rule."""

    id = Identity()
    term = Reference(Term)
    rule = Json(help_text="see core/windows/assigning.py")
    assigned = IntegerField(help_text="the number of students who were given a window")
    moved = IntegerField(help_text="those of them whose window changed")
    published_at = Moment()
    published_by = Reference(Person, column_name="published_by")

    class Meta:
        table_name = "window_assignments"


class Window(Table):
    """When a student may register."""

    student_term = Reference(StudentTerm)
    opens_at = Moment()
    closes_at = Moment()
    assignment = Reference(
        WindowAssignment, null=True, help_text="its assignment; none if it was set for one student"
    )

    class Meta:
        table_name = "windows"
        primary_key = CompositeKey("student_term", "opens_at")
        constraints = [check("opens_at < closes_at")]


class Hold(Table):
    """A hold on a student, until it is lifted."""

    id = Identity()
    student = Reference(Student)
    kind = TextField()
    reason = TextField()
    office = TextField()
    contact = TextField(help_text="how to contact the office")
    stops = Words(constraints=[check(f"stops <@ ARRAY[{_STOPPED}]")])
    cleared_by = Choice(ClearedBy)
    amount_cents = IntegerField(null=True, help_text="the amount to pay, if payment lifts it")
    placed_at = Moment()
    lifted_at = Moment(null=True)
    placed_by = Reference(Person, column_name="placed_by", null=True)
    lifted_by = Reference(Person, column_name="lifted_by", null=True)
    lifted_why = TextField(constraints=[default("''")])

    class Meta:
        table_name = "holds"


index(Hold, "holds_in_force", Hold.student, where="lifted_at IS NULL")


class ClearanceItem(Table):
    """A checklist item that a student must complete before registering for a term."""

    student_term = Reference(StudentTerm)
    kind = Choice(ClearanceKind)
    done_at = Moment(null=True)
    done_by = Reference(Person, column_name="done_by", null=True)

    class Meta:
        table_name = "clearance_items"
        primary_key = CompositeKey("student_term", "kind")


class ContactDetails(Table):
    """A student's contact details, confirmed every term."""

    student = Reference(Student, primary_key=True)
    phone = TextField(constraints=[default("''")])
    address = TextField(constraints=[default("''")])
    emergency_name = TextField(constraints=[default("''")])
    emergency_phone = TextField(constraints=[default("''")])

    class Meta:
        table_name = "contact_details"


class SurveyAnswers(Table):
    """A student's answers to the college's survey."""

    student_term = Reference(StudentTerm, primary_key=True)
    answers = Json()
    at = Moment()

    class Meta:
        table_name = "survey_answers"
