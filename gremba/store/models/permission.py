"""Permission requests, rooms, and delegates."""

from __future__ import annotations

from peewee import BlobField, BooleanField, CompositeKey, DateField, IntegerField, TextField

from gremba.core.states import FileType, PermissionEventKind, PermissionState, Waiver
from gremba.store.models.base import (
    BigIdentity,
    Choice,
    Identity,
    Json,
    Moment,
    Reference,
    Table,
    Words,
    check,
    default,
    index,
)
from gremba.store.models.catalogue import Campus, Subject
from gremba.store.models.clearance import StudentTerm
from gremba.store.models.people import Person
from gremba.store.models.permission_codes import PermissionCode
from gremba.store.models.sections import Section

_WAIVABLE = ", ".join(f"'{one.value}'" for one in Waiver)
_DECIDERS = "'instructor', 'department', 'advisor', 'registrar'"


class Room(Table):
    """A room and its capacity."""

    campus = Reference(Campus, column_name="campus")
    name = TextField(help_text="its name in meetings")
    capacity = IntegerField(constraints=[check("capacity > 0")])

    class Meta:
        table_name = "rooms"
        primary_key = CompositeKey("campus", "name")


class DepartmentHead(Table):
    """Who decides for a department, that is, for the courses of a subject."""

    subject = Reference(Subject, column_name="subject")
    person = Reference(Person)

    class Meta:
        table_name = "department_heads"
        primary_key = CompositeKey("subject", "person")


class Delegate(Table):
    """Who decides in the place of somebody who is away."""

    id = Identity()
    person = Reference(Person, help_text="who is away")
    delegate = Reference(Person)
    from_on = DateField(help_text="the first day, campus time")
    until_on = DateField(help_text="the last day")
    ended_at = Moment(null=True, help_text="when it was ended early")

    class Meta:
        table_name = "delegates"
        constraints = [check("person_id <> delegate_id"), check("from_on <= until_on")]


index(Delegate, "delegates_of_person", Delegate.person)
index(Delegate, "delegates_standing_in", Delegate.delegate)


class PermissionRequest(Table):
    """A student's request for permission in one section."""

    id = Identity()
    student_term = Reference(StudentTerm)
    section = Reference(Section)
    changes = Json(help_text="the change to register, and those that belong to it")
    waives = Words(constraints=[check(f"cardinality(waives) > 0 AND waives <@ ARRAY[{_WAIVABLE}]")])
    words = TextField(help_text="the student's text")
    otherwise = Words(help_text="what else blocked it when it was requested")
    goes_through = BooleanField(help_text="whether it is registered automatically once approved")
    route = Words(
        constraints=[check(f"cardinality(route) > 0 AND route <@ ARRAY[{_DECIDERS}]")],
        help_text="who has to approve, in order",
    )
    step = IntegerField(
        constraints=[default("0"), check("step >= 0")], help_text="the current step of the route, from 0"
    )
    state = Choice(PermissionState, constraints=[default("'open'")])
    asked_at = Moment()
    since = Moment(help_text="since when the current decider has it")
    version = IntegerField(constraints=[default("1")], help_text="incremented with every event")
    grant = Reference(PermissionCode, null=True, help_text="the approval, if given")
    reminded_at = Moment(null=True)
    tried_at = Moment(null=True, help_text="when it was last tried to register it automatically")

    class Meta:
        table_name = "permission_requests"
        constraints = [check("(grant_id IS NOT NULL) = (state IN ('granted', 'taken back'))")]


_OPEN = "state IN ('open', 'asked back')"
index(
    PermissionRequest,
    "permission_requests_open",
    PermissionRequest.student_term,
    PermissionRequest.section,
    where=_OPEN,
    once=True,
)
index(PermissionRequest, "permission_requests_of_student", PermissionRequest.student_term)
index(PermissionRequest, "permission_requests_of_section", PermissionRequest.section)
index(
    PermissionRequest, "permission_requests_of_grant", PermissionRequest.grant, where="grant_id IS NOT NULL"
)
index(PermissionRequest, "permission_requests_to_follow", PermissionRequest.since, where=_OPEN)
index(
    PermissionRequest,
    "permission_requests_to_put_through",
    PermissionRequest.tried_at,
    where="state = 'granted' AND goes_through",
)


class PermissionEvent(Table):
    """What happened to a request. Append-only."""

    id = BigIdentity()
    request = Reference(PermissionRequest)
    what = Choice(PermissionEventKind)
    at = Moment()
    by = Reference(Person, null=True, help_text="none if it happened automatically")
    stands_for = Reference(Person, null=True, help_text="for whom they acted as a delegate")
    words = TextField(constraints=[default("''")])

    class Meta:
        table_name = "permission_events"


index(PermissionEvent, "permission_events_of_request", PermissionEvent.request)


class PermissionFile(Table):
    """A file that a student attached to a request. Append-only."""

    id = Identity()
    request = Reference(PermissionRequest)
    name = TextField(constraints=[check("length(name) BETWEEN 1 AND 120")])
    media_type = Choice(FileType)
    content = BlobField(constraints=[check("octet_length(content) BETWEEN 1 AND 2097152")])
    digest = BlobField(help_text="SHA-256 of the content")
    at = Moment()

    class Meta:
        table_name = "permission_files"


index(PermissionFile, "permission_files_of_request", PermissionFile.request)
