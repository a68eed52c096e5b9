"""Schemas of accounts and the cashier. Amounts are in cents."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from gremba.core.account.ledger import MOST_CENTS
from gremba.core.account.nonpayment import NonpaymentResult
from gremba.formats.day_file import MOST_SIGNS
from gremba.web.schema_base import Number, PlainText, Schema

Cents = Annotated[int, Field(ge=-MOST_CENTS, le=MOST_CENTS)]
Reason = Annotated[PlainText, StringConstraints(max_length=400)]


class StatementLineResponse(Schema):
    """A line of a statement."""

    kind: Literal["section", "dropped", "tuition", "fee", "late fee", "entry", "anticipated_payment"]
    what: str
    number: str = Field(description="The reference number of a section, or empty")
    title: str
    how: str = Field(description="How the sum comes about")
    told_by: str = Field(description="The confirmation or the entry that told of it, or the tariff")
    charged_cents: int
    paid_cents: int
    was_cents: int | None = Field(description="Of a dropped section, what it had cost")
    confirmation: int | None
    entry: int | None
    undone: bool = Field(description="Another entry undoes it, or it undoes one")
    undoable: bool = Field(description="The cashier can undo it")
    dropped_on: date | None
    gives_back: str = Field(description="What a drop would give back, and until when; empty for others")


class DueResponse(Schema):
    """An amount due by a date."""

    at: datetime
    needed_cents: int = Field(description="To be paid or promised by then, in all")
    open_cents: int
    own_cents: int = Field(description="Due then, and not before")
    loses_seats: bool
    over: bool
    why: str


class AccountPaymentResponse(Schema):
    """A card payment."""

    reference: str
    amount_cents: int
    state: Literal["waiting", "approved", "declined", "returned"]
    begun_at: datetime
    answered_at: datetime | None


class PlanPart(Schema):
    """An installment."""

    at: datetime | None = Field(description="None for on joining")
    amount_cents: int


class PlanOfferResponse(Schema):
    """An installment plan that can be joined, with its installments as of now."""

    code: str
    name: str
    join_by: datetime
    parts: list[PlanPart]


class LostSection(Schema):
    """A section dropped for nonpayment."""

    number: Number
    name: str
    title: str


class AskingBackResponse(Schema):
    """Sections dropped for nonpayment, and whether they can be asked for."""

    lost_at: datetime
    why: str
    confirmation: int
    sections: list[LostSection]
    pay_first_cents: int = Field(description="To be paid before; 0 where they can be asked back now")
    until: datetime | None = Field(description="None where it is too late")


class AccountResponse(Schema):
    """A student's account for a term."""

    term: str
    rates: str = Field(description="Those that it is charged at, such as “for the county”; or empty")
    now: datetime
    lines: list[StatementLineResponse]
    charged_cents: int
    paid_cents: int
    anticipated_cents: int
    anticipated_payments_count: bool
    balance_cents: int
    dues: list[DueResponse]
    next: DueResponse | None
    keeps_from_cents: int | None = Field(
        description="Paid or promised in all, from which on the seats are kept on the next date"
    )
    sections: int = Field(description="Sections held")
    joined: str = Field(description="The name of the installment plan joined, or empty")
    spared: bool = Field(description="The cashier has noted that the seats are kept")
    payments: list[AccountPaymentResponse]
    plans: list[PlanOfferResponse]
    asking_back: AskingBackResponse | None


class SumWanted(Schema):
    """An amount to pay."""

    amount_cents: Annotated[int, Field(ge=1, le=MOST_CENTS)]
    paid_cents: int | None = Field(
        None, description="What was paid by the account as it was seen; by now another sum, nothing is begun"
    )


class BegunResponse(Schema):
    """A payment that was started."""

    reference: str
    page: str = Field(description="The payment service's page, on which it is made")


class JoinWanted(Schema):
    """The installment plan to join."""

    plan: Annotated[str, StringConstraints(min_length=1, max_length=40)]


class OwingResponse(Schema):
    """What a student owes."""

    student: int
    username: str
    full_name: str
    charged_cents: int
    paid_cents: int
    anticipated_cents: int
    balance_cents: int
    due_cents: int
    due_at: datetime | None
    in_plan: bool
    spared: str


class OwingList(Schema):
    """Students with their balances, by name."""

    students: list[OwingResponse]
    next: str = Field(description="Where to go on; empty at the end")


class AnticipatedPaymentResponse(Schema):
    """A payment that is expected."""

    id: int
    kind: Literal["aid", "sponsor", "service benefits"]
    label: str
    amount_cents: int
    open_cents: int


class DeskResponse(Schema):
    """A student's account as the cashier sees it."""

    student: int
    username: str
    full_name: str
    account: AccountResponse
    anticipated_payments: list[AnticipatedPaymentResponse]
    spared: str


class PostingWanted(Schema):
    """An entry to post."""

    kind: Literal["payment", "refund", "aid", "sponsor", "waiver", "correction"]
    amount_cents: Cents
    label: Annotated[PlainText, StringConstraints(max_length=120)] = ""
    reason: Reason = ""
    anticipated_payment: int | None = None


class Why(Schema):
    """A reason."""

    reason: Reason


class AnticipatedPaymentWanted(Schema):
    """A payment to expect."""

    kind: Literal["aid", "sponsor", "service benefits"]
    label: Annotated[PlainText, StringConstraints(min_length=1, max_length=120)]
    amount_cents: Annotated[int, Field(ge=1, le=MOST_CENTS)]


class NonpaymentDateResponse(Schema):
    """A due date with a drop for nonpayment."""

    at: datetime
    percent: int
    registered_through: date | None
    warn_days: list[int] = Field(description="So many days before, who has not settled it is warned")
    has_come: bool
    begun_at: datetime | None
    done_at: datetime | None
    settled: int
    spared: int
    lost: int


class NonpaymentLineResponse(Schema):
    """What the drop for nonpayment does, or did, to one student."""

    student: int
    username: str
    full_name: str
    result: NonpaymentResult
    owed_cents: int
    why: str
    sections: list[str]
    confirmation: int | None


class NonpaymentLines(Schema):
    """What the drop for nonpayment does, or did, by student."""

    lines: list[NonpaymentLineResponse]
    looked_at: int
    next: str = Field(description="Where to go on; empty at the end")


class DueAt(Schema):
    """A due date."""

    at: datetime


class DayFile(Schema):
    """A file of the finance office."""

    text: Annotated[str, StringConstraints(min_length=1, max_length=MOST_SIGNS)]


class LineProblemResponse(Schema):
    """What is wrong with a line."""

    line: int
    text: str


class DayTakenResponse(Schema):
    """The result of importing a file."""

    taken: int
    known: int
    problems: list[LineProblemResponse]
    more: int = Field(description="Problems that are not listed")
