"""Carts, confirmations and registrations."""

from __future__ import annotations

from peewee import BigIntegerField, BooleanField, CompositeKey, IntegerField, TextField
from playhouse.postgres_ext import BlobField, JSONField

from gremba.core.registration.changes import Kind
from gremba.core.states import RegistrationEventKind, RegistrationState, WeekLinkKind
from gremba.store.models.base import (
    BigIdentity,
    Choice,
    Credits,
    Identity,
    Json,
    Moment,
    Reference,
    Table,
    check,
    default,
    index,
    refers,
    unique,
)
from gremba.store.models.clearance import StudentTerm
from gremba.store.models.people import Person
from gremba.store.models.seats import ReservedSeats
from gremba.store.models.sections import Section

OF_STUDENT = refers(("student_term_id", "term_id"), "student_terms", ("id", "term_id"))
OF_SECTION = refers(("section_id", "pool_id", "term_id"), "sections", ("id", "pool_id", "term_id"))


class CartChange(Table):
    """A change in a cart, one per section, in order of priority."""

    id = BigIdentity()
    student_term_id = IntegerField()
    term_id = IntegerField()
    position = IntegerField()
    kind = Choice(Kind)
    section_id = IntegerField()
    pool_id = IntegerField()
    grading = TextField(null=True)
    credits = Credits(null=True)
    added_at = Moment()
    in_exchange = Reference(Section, null=True, help_text="the section given up for it")
    permission_code = TextField(constraints=[default("''")], help_text="a permission code")
    alternatives = Json(
        constraints=[default("'[]'")],
        help_text="backup sections in order, each the section, then its linked sections",
    )
    wait_if_full = BooleanField(constraints=[default("false")])
    version = IntegerField(
        constraints=[default("1")], help_text="incremented with every change of its options"
    )
    leaves_waitlists = BooleanField(
        constraints=[default("false")],
        help_text="for a drop: waitlist entries that would give up this section end as well",
    )

    class Meta:
        table_name = "cart_changes"
        constraints = [
            unique("student_term_id", "section_id"),
            unique("student_term_id", "position", deferred=True),
            OF_STUDENT,
            OF_SECTION,
            check(
                "CASE kind WHEN 'swap' THEN in_exchange_id IS NOT NULL WHEN 'wait' THEN true "
                "ELSE in_exchange_id IS NULL END"
            ),
        ]


class Confirmation(Table):
    """The result of one submission, as it was returned. Append-only."""

    id = BigIdentity()
    student_term = Reference(StudentTerm)
    idempotency_key = TextField(
        constraints=[check("length(idempotency_key) BETWEEN 8 AND 200")],
        help_text="a repeated submission gets this confirmation",
    )
    request_digest = BlobField()
    sent_at = Moment()
    sent_by = Reference(Person, column_name="sent_by")
    form = IntegerField(help_text="the form of the body, see formats/confirmation.py")
    body = JSONField(help_text="findings and facts, as issued")

    class Meta:
        table_name = "confirmations"
        constraints = [unique("student_term_id", "idempotency_key")]


class Registration(Table):
    """A student's seat in a section, from registration to the end of the record. Its references are
    checked once per statement (store/triggers.sql, refuse_orphans) instead of by foreign keys, which took
    more than half of the time of writing."""

    checked_by_trigger = ("student_terms", "sections", "confirmations")

    id = BigIdentity()
    student_term_id = IntegerField()
    term_id = IntegerField()
    section_id = IntegerField()
    pool_id = IntegerField()
    state = Choice(RegistrationState)
    grading = TextField()
    credits = Credits(constraints=[check("credits >= 0")])
    registered_at = Moment()
    registered_by = BigIntegerField(null=True, help_text="its confirmation; none for the demo's past")
    ended_at = Moment(null=True)
    reserved_seats = Reference(
        ReservedSeats, field="id", null=True, help_text="the reserved seats it was taken from"
    )
    beyond = BooleanField(constraints=[default("false")], help_text="seated over the limit with permission")
    first_grading = TextField(null=True, help_text="the original value, if it was adjusted")
    first_credits = Credits(null=True, help_text="the same")

    class Meta:
        table_name = "registrations"
        constraints = [
            check("(state = 'registered') = (ended_at IS NULL)"),
            check("(first_grading IS NULL) = (first_credits IS NULL)"),
        ]


index(
    Registration,
    "registered_once",
    Registration.student_term_id,
    Registration.section_id,
    where="state = 'registered'",
    once=True,
)
index(Registration, "registrations_in_force", Registration.section_id, where="state = 'registered'")
index(
    Registration,
    "registrations_of_reserved_seats",
    Registration.reserved_seats,
    where="reserved_seats_id IS NOT NULL AND state = 'registered'",
)
# Who is registered is found by the unique index; this one need only know what has ended.
index(Registration, "registrations_ended", Registration.student_term_id, where="state <> 'registered'")


class RegistrationEvent(Table):
    """What happened to a registration after it was made. Append-only."""

    id = BigIdentity()
    registration = Reference(Registration)
    what = Choice(RegistrationEventKind)
    at = Moment()
    confirmation = Reference(Confirmation, null=True)
    grading = TextField(null=True, help_text="the new value, if it was adjusted")
    credits = Credits(null=True, help_text="the same")

    class Meta:
        table_name = "registration_events"


index(RegistrationEvent, "events_of_registration", RegistrationEvent.registration)


class Starred(Table):
    """A section that a student starred."""

    student_term_id = IntegerField()
    term_id = IntegerField()
    section = Reference(Section)
    starred_at = Moment()

    class Meta:
        table_name = "starred"
        primary_key = CompositeKey("student_term_id", "section")
        constraints = [OF_STUDENT]


class WeekLink(Table):
    """An address at which a schedule can be read without signing in. Only a digest of its token is stored."""

    id = Identity()
    student_term = Reference(StudentTerm)
    kind = Choice(WeekLinkKind)
    digest = BlobField(unique=True, constraints=[check("length(digest) = 32")])
    made_at = Moment()
    expires_at = Moment(null=True)
    withdrawn_at = Moment(null=True)

    class Meta:
        table_name = "week_links"
        constraints = [check("(kind = 'share') <= (expires_at IS NOT NULL)")]


index(WeekLink, "week_links_in_force", WeekLink.student_term, where="withdrawn_at IS NULL")
