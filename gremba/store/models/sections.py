"""Sections, what belongs to them, and when they meet."""

from __future__ import annotations

from peewee import BooleanField, CompositeKey, DateField, IntegerField, TextField, TimeField

from gremba.core.states import Component, Delivery, WaitlistWay
from gremba.store.models.base import (
    Choice,
    Identity,
    Json,
    Reference,
    Table,
    check,
    default,
    index,
    refers,
    unique,
)
from gremba.store.models.catalogue import Campus, Course, Term


class Bundle(Table):
    """Sections that are taken together or not at all."""

    id = Identity()
    term = Reference(Term)
    name = TextField()

    class Meta:
        table_name = "bundles"
        constraints = [unique("term_id", "name")]


class Section(Table):
    """A class of a course in a term."""

    id = Identity()
    term = Reference(Term)
    reference_number = TextField(constraints=[check("reference_number ~ '^[0-9]{5}$'")])
    course = Reference(Course)
    session_id = IntegerField(help_text="a session of the same term")
    pool_id = IntegerField(help_text="a seat pool of the same term")
    component = Choice(Component)
    delivery = Choice(Delivery)
    campus = Reference(Campus, column_name="campus", null=True)
    carries_credit = BooleanField(constraints=[default("true")])
    cancelled = BooleanField(constraints=[default("false")])
    topic = TextField(constraints=[default("''")])
    notes = TextField(constraints=[default("''")])
    bundle = Reference(Bundle, null=True)
    waitlist_limit = IntegerField(constraints=[default("0"), check("waitlist_limit >= 0")])
    waitlist_way = Choice(WaitlistWay, constraints=[default("'offer'")])
    consent_needed = BooleanField(constraints=[default("false")])
    no_textbook_cost = BooleanField(constraints=[default("false")])
    restrictions = Json(constraints=[default("'{}'")], help_text="restrictions, by kind")
    fees = Json(constraints=[default("'[]'")])

    class Meta:
        table_name = "sections"
        constraints = [
            unique("term_id", "reference_number"),
            unique("id", "pool_id", "term_id"),
            refers(("session_id", "term_id"), "term_sessions", ("id", "term_id")),
            refers(("pool_id", "term_id"), "seat_pools", ("id", "term_id")),
        ]


index(Section, "sections_of_course", Section.course)


class LinkedSection(Table):
    """A section that must be taken with another: the lab of a lecture. One of several is chosen."""

    section = Reference(Section)
    with_section = Reference(Section)

    class Meta:
        table_name = "linked_sections"
        primary_key = CompositeKey("section", "with_section")
        constraints = [check("section_id <> with_section_id")]


class Meeting(Table):
    """When and where a section meets, every week."""

    id = Identity()
    section = Reference(Section)
    weekdays = TextField(constraints=[check("weekdays ~ '^M?T?W?R?F?S?U?$' AND weekdays <> ''")])
    starts = TimeField()
    ends = TimeField()
    first_day = DateField()
    last_day = DateField()
    campus = Reference(Campus, column_name="campus", null=True)
    room = TextField(constraints=[default("''")])

    class Meta:
        table_name = "meetings"
        constraints = [check("starts < ends AND first_day <= last_day")]


index(Meeting, "meetings_of_section", Meeting.section)
