"""Campuses, terms with their calendar, and courses."""

from __future__ import annotations

from peewee import BigIntegerField, BooleanField, CompositeKey, DateField, IntegerField, TextField

from gremba.core.states import RepeatPolicy, TermState
from gremba.store.models.base import (
    Choice,
    Credits,
    Identity,
    Json,
    Reference,
    Table,
    Words,
    check,
    default,
    unique,
)


class Campus(Table):
    """A place where classes meet."""

    code = TextField(primary_key=True)
    name = TextField()

    class Meta:
        table_name = "campuses"


class Travel(Table):
    """The travel time between two campuses, in both directions: one row per pair."""

    campus_from = Reference(Campus, column_name="campus_from")
    campus_to = Reference(Campus, column_name="campus_to")
    minutes = IntegerField(constraints=[check("minutes > 0")])

    class Meta:
        table_name = "travel"
        primary_key = CompositeKey("campus_from", "campus_to")
        constraints = [check("campus_from < campus_to")]


class Term(Table):
    """A term, with everything that holds for all of it."""

    id = Identity()
    code = TextField(unique=True, help_text="its name in addresses")
    name = TextField(unique=True)
    zone = TextField(help_text="the time zone, by its name in the tz database")
    first_day = DateField()
    last_day = DateField()
    state = Choice(
        TermState,
        constraints=[default("'in preparation'")],
        help_text="whether students see it and can change anything",
    )
    late_from = DateField(
        null=True, help_text="students who first register on or after this date pay late_cents"
    )
    late_cents = IntegerField(constraints=[default("0"), check("late_cents >= 0")])
    policy = Json(help_text="the college's settings, see core/catalogue/term.py")
    catalogue_version = BigIntegerField(
        constraints=[default("1")],
        help_text="incremented with every change of the catalogue, so that processes reload it",
    )

    class Meta:
        table_name = "terms"
        constraints = [check("first_day < last_day")]


class TermBreak(Table):
    """Days of a term without classes."""

    term = Reference(Term)
    name = TextField()
    first_day = DateField()
    last_day = DateField()

    class Meta:
        table_name = "term_breaks"
        primary_key = CompositeKey("term", "first_day")
        constraints = [check("first_day <= last_day")]


class TermSession(Table):
    """A part of a term that sections run in, with its deadlines: all of it, a half, or a few weeks."""

    id = Identity()
    term = Reference(Term)
    code = TextField()
    name = TextField()
    first_day = DateField()
    last_day = DateField()
    add_by = DateField()
    drop_by = DateField(help_text="the last day of drops without a W")
    withdraw_by = DateField(help_text="the last day of drops with a W")
    refund_steps = Json(constraints=[default("'[]'")], help_text="refund steps: percentage and last day")

    class Meta:
        table_name = "term_sessions"
        constraints = [
            unique("term_id", "code"),
            unique("id", "term_id"),
            check("first_day < last_day AND drop_by <= withdraw_by AND withdraw_by <= last_day"),
        ]


class Subject(Table):
    """A field of study, the first part of course names."""

    code = TextField(primary_key=True, constraints=[check("code ~ '^[A-Z]{2,6}$'")])
    name = TextField()

    class Meta:
        table_name = "subjects"


class Course(Table):
    """A course, in any term."""

    id = Identity()
    subject = Reference(Subject, column_name="subject")
    number = TextField(constraints=[check("number ~ '^[0-9]{3}[A-Z]?$'")])
    title = TextField()
    description = TextField(constraints=[default("''")])
    credits_least = Credits(constraints=[check("credits_least >= 0")])
    credits_most = Credits()
    requisites = Json(null=True, help_text="prerequisites and corequisites, see core/catalogue/requisites.py")
    gradings = Words(constraints=[default("'{standard}'")], help_text="the first is the default")
    equivalents = Words(constraints=[default("'{}'")], help_text="equivalent courses")
    by_topic = BooleanField(
        constraints=[default("false")], help_text="whether each topic is a course of its own"
    )
    attempts_allowed = IntegerField(null=True)
    tags = Words(constraints=[default("'{}'")], help_text="requirements it counts toward")
    fees = Json(constraints=[default("'[]'")])
    repeats = Choice(RepeatPolicy, constraints=[default("'best counts'")])

    class Meta:
        table_name = "courses"
        constraints = [
            unique("subject", "number"),
            check("credits_most >= credits_least"),
            check("cardinality(gradings) > 0"),
        ]
