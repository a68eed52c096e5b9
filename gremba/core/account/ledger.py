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
    """The kind of a ledger entry."""

    PAYMENT = "payment"
    REFUND = "refund"
    AID = "aid"
    SPONSOR = "sponsor"
    WAIVER = "waiver"
    CORRECTION = "correction"
    COUNTER = "counter-entry"


class CounterAccount(StrEnum):
    """The college's account against which an entry is posted, with the opposite sign."""

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
    """Who is expected to pay for a student."""

    AID = "aid"
    SPONSOR = "sponsor"
    BENEFITS = "service benefits"


class HasAccount(Protocol):
    """An entry, as far as its source of money matters."""

    @property
    def kind(self) -> EntryKind:
        """The entry's kind."""
        ...

    @property
    def account(self) -> CounterAccount:
        """The counter account."""
        ...


@dataclass(frozen=True, slots=True)
class LedgerEntry:
    """A ledger entry.

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
    """An entry as in a day file."""

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
    """A payment expected for a student's term.

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
        """What is still expected, never below 0."""
        return max(0, self.amount_cents - self.paid_cents)


def came_by_card(entry: HasAccount) -> bool:
    """Whether the payment service reported it: such an entry is not reversed by hand."""
    return entry.account is CounterAccount.CARDS and entry.kind is EntryKind.PAYMENT


def paid_cents(entries: Iterable[LedgerEntry]) -> int:
    """The sum of the entries, in cents."""
    return sum(entry.amount_cents for entry in entries)


def anticipated_cents(anticipated_payments: Iterable[AnticipatedPayment]) -> int:
    """The sum still expected, in cents."""
    return sum(payment.open_cents for payment in anticipated_payments)


def undone(entries: Sequence[LedgerEntry]) -> frozenset[int]:
    """Ids of the entries that have been reversed."""
    return frozenset(entry.counters for entry in entries if entry.counters is not None)
