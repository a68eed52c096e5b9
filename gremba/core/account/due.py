"""What is due when, by the due dates of a term or the installments of a plan."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime

from gremba.core.account.charges import ChargeEvent, ChargeKind, Charges
from gremba.core.account.ledger import AnticipatedPayment, LedgerEntry
from gremba.core.account.policy import AccountPolicy, DueDate, InstallmentPlan
from gremba.core.account.tariff import Tariff
from gremba.core.catalogue.term import Section
from gremba.core.wording import day


@dataclass(frozen=True, slots=True)
class JoinedPlan:
    """An installment plan that a student has joined.

    Attributes:
        covered_cents: what was paid or promised when it was joined; the parts are of the rest.
    """

    code: str
    joined_at: datetime
    covered_cents: int


@dataclass(frozen=True, slots=True)
class Account:
    """A student's account for a term.

    Attributes:
        rate_class: of the student.
        events: the history of the registrations, in order.
        paid_cents: what was paid, or is owed less: the sum of the entries.
        anticipated_cents: what is promised and has not come yet.
        spared: a cashier's note that the seats are kept; "" where there is none.
        entries, anticipated payments: of which these are the sums, where they were read one by one.
    """

    tariff: Tariff
    policy: AccountPolicy
    rate_class: str = ""
    events: tuple[ChargeEvent, ...] = ()
    paid_cents: int = 0
    anticipated_cents: int = 0
    joined: JoinedPlan | None = None
    spared: str = ""
    entries: tuple[LedgerEntry, ...] = ()
    anticipated_payments: tuple[AnticipatedPayment, ...] = ()

    @property
    def charges(self) -> Charges:
        """The charges of the history."""
        return Charges(self.tariff, self.rate_class, self.events)

    @property
    def covered_cents(self) -> int:
        """What counts toward due dates: payments and, as the policy says, anticipated payments."""
        return self.paid_cents + (self.anticipated_cents if self.policy.anticipated_payments_count else 0)

    @property
    def balance_cents(self) -> int:
        """Charges minus payments; negative for a credit balance."""
        return self.charges.total_cents - self.paid_cents


@dataclass(frozen=True, slots=True)
class Due:
    """An amount due by a moment.

    Attributes:
        needed_cents: so much is to be paid or promised by then, in all.
        open_cents: what of it is not yet.
        own_cents: what is due then and was not before.
        loses_seats: whoever has not settled it by then loses seats.
        why: how the sum comes about.
    """

    at: datetime
    needed_cents: int
    open_cents: int
    own_cents: int
    loses_seats: bool
    why: str

    def is_over(self, now: datetime) -> bool:
        """Whether the moment has passed."""
        return self.at <= now


def dues(account: Account) -> list[Due]:
    """Everything that is or was due of the current charges, in order of time.

    A sum of an earlier date is part of that of a later one. Sections registered after the last date are
    due with it: at once.
    """
    plan = _joined_plan(account)
    if plan is not None and account.joined is not None:
        return _parts(account, plan, account.joined)
    covered = account.covered_cents
    found = []
    before = 0
    for due in account.policy.due_dates:
        needed, why = _needed_and_why(account, due)
        missing, own = max(0, needed - covered), max(0, needed - before)
        before = max(before, needed)
        found.append(Due(due.at, needed, missing, own, due.loses_seats, why))
    return found


def next_due(account: Account, now: datetime) -> Due | None:
    """What is due next, including what is overdue; None if nothing is open."""
    open_ones = [due for due in dues(account) if due.open_cents > 0]
    late = [due for due in open_ones if due.is_over(now)]
    # Of several that are late the largest: a share of all may be less than all of a part.
    return max(late, key=lambda due: due.open_cents) if late else next(iter(open_ones), None)


def missed(account: Account, now: datetime) -> Due | None:
    """What is overdue without a drop for nonpayment; None if nothing is."""
    found = [due for due in dues(account) if due.open_cents and due.is_over(now) and not due.loses_seats]
    return max(found, key=lambda due: due.open_cents, default=None)


def keeps_from(account: Account, now: datetime) -> int | None:
    """The total to pay or anticipate, in cents, to keep the sections on the next due date with a drop;
    None if there is no such date any more."""
    coming = (due for due in account.policy.due_dates if due.loses_seats and due.at > now)
    return next((needed_for_seats(account, due) for due in coming), None)


def needed_for_seats(account: Account, due: DueDate) -> int:
    """The amount to pay or anticipate, in cents, to keep the sections on a due date: the installments due
    by then, or the date's share."""
    if account.joined is None:
        return needed_by(account, due)
    return max((one.needed_cents for one in dues(account) if one.at <= due.at), default=0)


def missing_for(account: Account, due: DueDate, again: Sequence[Section], on: date) -> int:
    """What is missing of a due date's share, in cents, if the dropped sections were registered again."""
    dropped = {line.section.id: line for line in account.charges.dropped}
    events = tuple(
        ChargeEvent(
            ChargeKind.REGISTERED, section, dropped[section.id].credits, dropped[section.id].grading, on
        )
        for section in again
    )
    account = replace(account, events=account.events + events)
    return max(0, needed_by(account, replace(due, registered_through=None)) - account.covered_cents)


@dataclass(frozen=True, slots=True)
class DueChange:
    """What is due by the next date, now and after a decision, in cents.

    Attributes:
        at: the date; None where nothing is due after the decision and nothing is now.
        is_over: it has passed: what is added is due at once.
    """

    at: datetime | None
    before_cents: int
    after_cents: int
    is_over: bool


def due_change(account: Account, after: Sequence[ChargeEvent], now: datetime) -> DueChange | None:
    """How a decision changes what is due by the next date; None if the term has no due dates.

    Args:
        after: the history as it would be.
    """
    before, then = dues(account), dues(replace(account, events=tuple(after)))
    if not before:
        return None
    # The first date on which something is open, now or then; what was due before counts with it.
    late = [place for place, due in enumerate(before) if due.is_over(now)]
    coming = [place for place, due in enumerate(before) if not due.is_over(now)]
    for place in (*reversed(late[-1:]), *coming):
        if before[place].open_cents or then[place].open_cents:
            due = before[place]
            return DueChange(due.at, due.open_cents, then[place].open_cents, due.is_over(now))
    return DueChange(None, 0, 0, False)


def needed_by(account: Account, due: DueDate) -> int:
    """The amount to pay or anticipate by a due date, in cents, rounded half up: its share of the charges
    of the sections registered in time for it. The last date covers all sections. It never exceeds the
    total charges: one more section may start a flat-rate band, which costs less."""
    return _needed_and_why(account, due)[0]


def _needed_and_why(account: Account, due: DueDate) -> tuple[int, str]:
    through = _through(account, due)
    events = registered_through(account.events, through)
    total = Charges(account.tariff, account.rate_class, events).total_cents
    needed = (total * due.percent + 50) // 100
    if len(events) < len(account.events):
        in_all = max(0, account.charges.total_cents)
        if in_all < needed:
            return in_all, "all of what is charged"
    share = "all" if due.percent == 100 else f"{due.percent} per cent"
    if through is None:
        return needed, f"{share} of what is charged"
    return needed, f"{share} of what was registered through {day(through)}"


def _through(account: Account, due: DueDate) -> date | None:
    """The last day of registration for sections that a date covers; the last date covers all."""
    return None if due == account.policy.due_dates[-1] else due.registered_through


def registered_through(events: Sequence[ChargeEvent], through: date | None) -> list[ChargeEvent]:
    """The history without registrations after a day and their later events."""
    if through is None:
        return list(events)
    found: list[ChargeEvent] = []
    late: set[int] = set()
    for event in events:
        section = event.section.id
        if event.kind is ChargeKind.REGISTERED and event.on is not None and event.on > through:
            late.add(section)
        if section not in late:
            found.append(event)
        if event.kind is ChargeKind.DROPPED:
            late.discard(section)
    return found


def sections_of(account: Account, due: DueDate) -> list[Section]:
    """The sections held that a due date covers."""
    events = registered_through(account.events, _through(account, due))
    held = Charges(account.tariff, account.rate_class, events).held
    return [line.section for line in held.values()]


def parts_of(plan: InstallmentPlan, open_cents: int, on_joining: datetime) -> list[tuple[datetime, int]]:
    """The installments of an amount: dates and cents; rounded half up cumulatively, so that they add up."""
    found = []
    share = before = 0
    for part in plan.parts:
        share += part.percent
        so_far = (open_cents * share + 50) // 100
        found.append((part.at or on_joining, so_far - before))
        before = so_far
    return found


def _parts(account: Account, plan: InstallmentPlan, joined: JoinedPlan) -> list[Due]:
    total = account.charges.total_cents
    covered = account.covered_cents
    needed = min(joined.covered_cents, total)
    seats_until = max((due.at for due in account.policy.due_dates if due.loses_seats), default=None)
    found = []
    parts = parts_of(plan, max(0, total - joined.covered_cents), joined.joined_at)
    for number, (at, cents) in enumerate(parts, 1):
        needed += cents
        loses_seats = seats_until is not None and at <= seats_until
        why = f"part {number} of {len(parts)}"
        found.append(Due(at, needed, max(0, needed - covered), cents, loses_seats, why))
    return found


def _joined_plan(account: Account) -> InstallmentPlan | None:
    return account.policy.plan(account.joined.code) if account.joined else None
