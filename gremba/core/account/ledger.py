"""The ledger of a student's term: payments, anticipated payments, waivers and corrections. It is only added
to; the balance is computed and never stored."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from typing import Protocol

MOST_CENTS = 5_000_000
"""The largest sum that is taken, posted or promised at once."""


class EntryKind(StrEnum):
    """What an entry of the ledger is."""

    PAYMENT = "payment"
    REFUND = "refund"
    AID = "aid"
    SPONSOR = "sponsor"
    WAIVER = "waiver"
    CORRECTION = "correction"
    COUNTER = "counter-entry"


class CounterAccount(StrEnum):
    """The account of the college that an entry stands against, with the opposite sign."""

    CARDS = "card payments"
    DESK = "cash desk"
    AID = "aid"
    SPONSORS = "sponsors"
    WAIVED = "waived charges"
    CORRECTIONS = "corrections"


COUNTER_ACCOUNTS = {
    EntryKind.PAYMENT: CounterAccount.DESK,
    EntryKind.REFUND: CounterAccount.DESK,
    EntryKind.AID: CounterAccount.AID,
    EntryKind.SPONSOR: CounterAccount.SPONSORS,
    EntryKind.WAIVER: CounterAccount.WAIVED,
    EntryKind.CORRECTION: CounterAccount.CORRECTIONS,
}
"""Of entries made at the cash desk; one paid by card stands against the card payments."""


class AnticipatedPaymentKind(StrEnum):
    """Who has promised to pay for a student."""

    AID = "aid"
    SPONSOR = "sponsor"
    BENEFITS = "service benefits"


class HasAccount(Protocol):
    """An entry, as far as it matters where its money came from."""

    @property
    def kind(self) -> EntryKind:
        """What it is."""
        ...

    @property
    def account(self) -> CounterAccount:
        """What it stands against."""
        ...


@dataclass(frozen=True, slots=True)
class LedgerEntry:
    """An entry.

    Attributes:
        amount_cents: what the student owes less by it; negative for what is paid back or put right
            against the student.
        origin: by which its source speaks of it; no two entries have the same.
        label: in the words of the statement.
        counters: the id of the entry that it undoes; None where it undoes none.
    """

    id: int
    kind: EntryKind
    account: CounterAccount
    amount_cents: int
    origin: str
    label: str
    at: datetime
    reason: str = ""
    counters: int | None = None


@dataclass(frozen=True, slots=True)
class DayEntry:
    """An entry as the file of a day has it."""

    id: int
    username: str
    full_name: str
    kind: EntryKind
    account: CounterAccount
    amount_cents: int
    origin: str
    label: str
    reason: str
    at: datetime


@dataclass(frozen=True, slots=True)
class AnticipatedPayment:
    """Money that somebody has promised to pay for a student's term.

    Attributes:
        paid_cents: what has come of it already, as entries of the ledger.
    """

    id: int
    kind: AnticipatedPaymentKind
    label: str
    amount_cents: int
    paid_cents: int = 0

    @property
    def open_cents(self) -> int:
        """What is still to come, never below 0."""
        return max(0, self.amount_cents - self.paid_cents)


def came_by_card(entry: HasAccount) -> bool:
    """Whether it is money that the payment service has told of: that is not undone by saying so."""
    return entry.account is CounterAccount.CARDS and entry.kind is EntryKind.PAYMENT


def paid_cents(entries: Iterable[LedgerEntry]) -> int:
    """What a student has paid, or owes less, in cents: the sum of the entries, in whatever order."""
    return sum(entry.amount_cents for entry in entries)


def anticipated_cents(anticipated_payments: Iterable[AnticipatedPayment]) -> int:
    """What is promised and has not come yet, in cents."""
    return sum(payment.open_cents for payment in anticipated_payments)


def undone(entries: Sequence[LedgerEntry]) -> frozenset[int]:
    """Ids of the entries that another one undoes."""
    return frozenset(entry.counters for entry in entries if entry.counters is not None)
