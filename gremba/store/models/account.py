"""Money: payments, the ledger of a student's term, what is promised, installments, due dates and the drop
for nonpayment."""

from __future__ import annotations

from peewee import CompositeKey, IntegerField, TextField

from gremba.core.account.ledger import AnticipatedPaymentKind, CounterAccount, EntryKind
from gremba.core.account.nonpayment import NonpaymentResult
from gremba.core.states import PaymentState
from gremba.store.models.base import (
    BigIdentity,
    Choice,
    Identity,
    Moment,
    Reference,
    Table,
    check,
    default,
    index,
    unique,
)
from gremba.store.models.catalogue import Term
from gremba.store.models.clearance import Hold, StudentTerm
from gremba.store.models.people import Person, Student
from gremba.store.models.registration import Confirmation


class Payment(Table):
    """A card payment: it lifts a hold, or goes to a student's account for a term."""

    id = BigIdentity()
    reference = TextField(unique=True, help_text="its reference at the payment service")
    hold = Reference(Hold, null=True)
    student = Reference(Student)
    amount_cents = IntegerField(constraints=[check("amount_cents > 0")])
    state = Choice(PaymentState)
    begun_at = Moment()
    answered_at = Moment(null=True)
    student_term = Reference(StudentTerm, null=True)

    class Meta:
        table_name = "payments"
        constraints = [
            check("(state = 'waiting') = (answered_at IS NULL)"),
            check("(hold_id IS NULL) <> (student_term_id IS NULL)"),
        ]


index(Payment, "paid_once", Payment.hold, where="state = 'approved'", once=True)
index(Payment, "payments_of_student", Payment.student)
index(Payment, "payments_of_account", Payment.student_term, where="student_term_id IS NOT NULL")


class AnticipatedPayment(Table):
    """A payment expected for a student's term."""

    id = Identity()
    student_term = Reference(StudentTerm)
    kind = Choice(AnticipatedPaymentKind)
    label = TextField()
    amount_cents = IntegerField(constraints=[check("amount_cents > 0")])
    noted_at = Moment()
    noted_by = Reference(Person, column_name="noted_by", null=True)
    withdrawn_at = Moment(null=True)

    class Meta:
        table_name = "anticipated_payments"


index(
    AnticipatedPayment,
    "anticipated_payments_in_force",
    AnticipatedPayment.student_term,
    where="withdrawn_at IS NULL",
)


class LedgerEntry(Table):
    """A payment, waiver, or correction in a student's term. Append-only; each origin is entered once."""

    id = BigIdentity()
    student_term = Reference(StudentTerm)
    kind = Choice(EntryKind)
    account = Choice(CounterAccount, help_text="the college's account, with the opposite sign")
    amount_cents = IntegerField(help_text="the amount by which the student owes less")
    origin = TextField(
        unique=True,
        constraints=[check("length(origin) BETWEEN 3 AND 120")],
        help_text="its id at its source",
    )
    label = TextField(constraints=[default("''")])
    reason = TextField(constraints=[default("''")])
    at = Moment()
    entered_by = Reference(Person, column_name="entered_by", null=True)
    anticipated_payment = Reference(
        AnticipatedPayment, null=True, help_text="the anticipated payment it counts toward"
    )
    counters = Reference("self", null=True, help_text="the entry it reverses")

    class Meta:
        table_name = "ledger_entries"
        constraints = [
            check("amount_cents <> 0"),
            check("(kind = 'counter-entry') = (counters_id IS NOT NULL)"),
            check("kind NOT IN ('waiver', 'correction', 'counter-entry') OR length(reason) > 0"),
            check("kind NOT IN ('payment', 'aid', 'sponsor', 'waiver') OR amount_cents > 0"),
            check("kind <> 'refund' OR amount_cents < 0"),
        ]


index(LedgerEntry, "countered_once", LedgerEntry.counters, where="counters_id IS NOT NULL", once=True)
index(LedgerEntry, "ledger_of_student", LedgerEntry.student_term)
index(LedgerEntry, "ledger_by_time", LedgerEntry.at)


class JoinedPlan(Table):
    """An installment plan that a student has joined for a term."""

    student_term = Reference(StudentTerm, primary_key=True)
    plan = TextField(help_text="its code in the term's policy")
    joined_at = Moment()
    covered_cents = IntegerField(
        help_text="paid or anticipated when joining; installments are shares of the rest"
    )

    class Meta:
        table_name = "joined_plans"


class SeatNote(Table):
    """A cashier's exemption of a student from the drop for nonpayment."""

    id = Identity()
    student_term = Reference(StudentTerm)
    reason = TextField(constraints=[check("length(reason) > 0")])
    noted_at = Moment()
    noted_by = Reference(Person, column_name="noted_by")
    withdrawn_at = Moment(null=True)

    class Meta:
        table_name = "seat_notes"


index(SeatNote, "seat_note_in_force", SeatNote.student_term, where="withdrawn_at IS NULL", once=True)


class NonpaymentDrop(Table):
    """The drop for nonpayment of a due date."""

    id = Identity()
    term = Reference(Term)
    due_at = Moment()
    begun_at = Moment()
    begun_by = Reference(Person, column_name="begun_by", null=True, help_text="none if it ran automatically")
    done_at = Moment(null=True)
    worked_until = Moment(
        null=True, help_text="the end of the lease of the process running it, by the machine's clock"
    )
    worker = TextField(constraints=[default("''")], help_text="the process with the lease")

    class Meta:
        table_name = "nonpayment_drops"
        constraints = [unique("term_id", "due_at")]


class NonpaymentResultLine(Table):
    """The result of a drop for nonpayment for a student, and why."""

    nonpayment_drop = Reference(NonpaymentDrop)
    student_term = Reference(StudentTerm)
    result = Choice(NonpaymentResult)
    owed_cents = IntegerField(constraints=[check("owed_cents >= 0")])
    why = TextField()
    confirmation = Reference(Confirmation, null=True, help_text="of the dropped sections")
    at = Moment()

    class Meta:
        table_name = "nonpayment_results"
        primary_key = CompositeKey("nonpayment_drop", "student_term")
        constraints = [check("(result = 'seats lost') = (confirmation_id IS NOT NULL)")]


index(
    NonpaymentResultLine,
    "nonpayment_results_of_student",
    NonpaymentResultLine.student_term,
    where="result = 'seats lost'",
)


class DueWarning(Table):
    """A warning sent to a student before a due date."""

    student_term = Reference(StudentTerm)
    due_at = Moment()
    days_before = IntegerField()
    warned_at = Moment()

    class Meta:
        table_name = "due_warnings"
        primary_key = CompositeKey("student_term", "due_at", "days_before")
