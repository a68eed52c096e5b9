"""Waitlists and messages."""

from __future__ import annotations

from peewee import SQL, IntegerField, TextField

from gremba.core.messages import MessageKind
from gremba.core.states import Blocked, WaitlistEventKind, WaitlistState
from gremba.store.models.base import (
    BigIdentity,
    Choice,
    Credits,
    Exact,
    Json,
    Moment,
    Numbers,
    Reference,
    Table,
    check,
    default,
    index,
)
from gremba.store.models.clearance import StudentTerm
from gremba.store.models.people import Person
from gremba.store.models.registration import OF_SECTION, OF_STUDENT, Confirmation
from gremba.store.models.seats import ReservedSeats
from gremba.store.models.sections import Section


class WaitlistEntry(Table):
    """A student's entry on a section's waitlist, and what became of it. The order is that of the ids,
    whatever a clock says."""

    id = BigIdentity()
    student_term_id = IntegerField()
    term_id = IntegerField()
    section_id = IntegerField()
    pool_id = IntegerField()
    state = Choice(WaitlistState)
    joined_at = Moment()
    ended_at = Moment(null=True)
    offer_until = Moment(null=True)
    in_exchange = Reference(Section, null=True, help_text="given up when the seat is taken")
    grading = TextField(null=True)
    credits = Credits(null=True)
    permission_code = TextField(constraints=[default("''")], help_text="a permission code")
    chosen_linked_sections = Numbers(
        constraints=[default("'{}'")], help_text="ids of the chosen linked sections"
    )
    offered_at = Moment(null=True)
    passed_why = TextField(constraints=[default("''")], help_text="why it was skipped")
    ranked = Exact(
        null=True,
        help_text="set only if an office moved it: between the ids of its neighbors",
    )
    blocked = Choice(Blocked, null=True, help_text="why it is skipped until something changes")
    confirmation = Reference(
        Confirmation,
        null=True,
        deferrable="INITIALLY DEFERRED",
        help_text="the confirmation of its registration, written first so that the offered seat is freed",
    )
    reserved_seats = Reference(
        ReservedSeats, field="id", null=True, help_text="the reserved seats of its offer"
    )

    class Meta:
        table_name = "waitlist_entries"
        constraints = [
            check("(state IN ('waiting', 'offered')) = (ended_at IS NULL)"),
            check("(state = 'offered') <= (offer_until IS NOT NULL)"),
            OF_STUDENT,
            OF_SECTION,
        ]


_WAITING = "state = 'waiting'"
index(
    WaitlistEntry,
    "waits_once",
    WaitlistEntry.student_term_id,
    WaitlistEntry.section_id,
    where="state IN ('waiting', 'offered')",
    once=True,
)
index(WaitlistEntry, "waitlist_entries_open", WaitlistEntry.pool_id, where="state IN ('waiting', 'offered')")
index(
    WaitlistEntry,
    "waitlist_entries_in_line",
    WaitlistEntry.pool_id,
    SQL("(coalesce(ranked, id))"),
    WaitlistEntry.id,
    where=f"{_WAITING} AND blocked IS NULL",
)
index(
    WaitlistEntry,
    "waitlist_entries_blocked",
    WaitlistEntry.student_term_id,
    where=f"{_WAITING} AND blocked IS NOT NULL",
)
index(WaitlistEntry, "waitlist_entries_due", WaitlistEntry.offer_until, where="state = 'offered'")
index(WaitlistEntry, "waitlist_entries_of_student", WaitlistEntry.student_term_id)
index(
    WaitlistEntry,
    "waitlist_entries_of_confirmation",
    WaitlistEntry.confirmation,
    where="confirmation_id IS NOT NULL",
)
index(
    WaitlistEntry,
    "waitlist_entries_of_reserved_seats",
    WaitlistEntry.reserved_seats,
    where="reserved_seats_id IS NOT NULL AND state = 'offered'",
)


class WaitlistEvent(Table):
    """What happened to an entry. Append-only."""

    id = BigIdentity()
    entry = Reference(WaitlistEntry)
    what = Choice(WaitlistEventKind)
    at = Moment()
    cause = TextField(constraints=[default("''")])
    by = Reference(Person, null=True, help_text="who did it, if not the student")

    class Meta:
        table_name = "waitlist_events"


index(WaitlistEvent, "events_of_waitlist_entry", WaitlistEvent.entry)


class Message(Table):
    """A message to a student, shown on screen and mailed from the same row; or mail to a person of the
    college. Failed mail is retried with growing pauses; permanently rejected mail is kept with the reason."""

    id = BigIdentity()
    student_term = Reference(StudentTerm, null=True)
    person = Reference(Person, null=True, help_text="the recipient, if not a student")
    entry = Reference(WaitlistEntry, null=True)
    kind = Choice(MessageKind)
    facts = Json(help_text="the facts for its wording, see core/messages.py")
    until = Moment(null=True, help_text="when its offer expires")
    made_at = Moment()
    read_at = Moment(null=True)
    mailed_at = Moment(null=True)
    tries = IntegerField(constraints=[default("0")])
    mail_after = Moment(null=True, help_text="the time of the next try")
    mail_refused_at = Moment(null=True)
    mail_problem = TextField(constraints=[default("''")])

    class Meta:
        table_name = "messages"
        constraints = [check("(student_term_id IS NULL) <> (person_id IS NULL)")]


index(Message, "messages_of_student", Message.student_term, Message.id)
index(Message, "messages_of_person", Message.person, Message.id, where="person_id IS NOT NULL")
index(
    Message,
    "messages_to_mail",
    SQL("mail_after NULLS FIRST"),
    Message.id,
    where="mailed_at IS NULL AND mail_refused_at IS NULL",
)
index(Message, "messages_refused", Message.mail_refused_at, where="mail_refused_at IS NOT NULL")
