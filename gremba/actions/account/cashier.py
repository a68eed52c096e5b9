"""The cashier's actions on a student's account: posting and reversing entries, anticipated payments, notes,
and the list of balances."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from gremba.actions.account.overdue_holds import lift_if_settled
from gremba.actions.context import ActionContext
from gremba.actions.once import is_repeated
from gremba.actions.problem import Problem, key_used
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.account.due import Account, Due, next_due
from gremba.core.account.ledger import (
    COUNTER_ACCOUNTS,
    MOST_CENTS,
    AnticipatedPaymentKind,
    CounterAccount,
    EntryKind,
    came_by_card,
)
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.wording import amount
from gremba.store.account.ledger import (
    AccountHolder,
    NewEntry,
    account_holder,
    account_holders,
    add_anticipated_payment,
    add_entry,
    entries_by_origin,
    find_entry,
    is_undone,
    put_seat_note,
    read_account,
    read_accounts,
    take_seat_note_away,
    withdraw_anticipated_payment,
)
from gremba.store.database import connected, reading
from gremba.store.registration.situations import lock_student_terms
from gremba.store.students.people import note_office_event

LOOKED_AT = 500
"""Students looked at for one page of those who owe."""


@dataclass(frozen=True, slots=True)
class Owing:
    """A student's balance, in cents.

    Attributes:
        balance_cents: negative where too much was paid.
        next: what is due next; None where nothing is open.
    """

    holder: AccountHolder
    charged_cents: int
    paid_cents: int
    anticipated_cents: int
    balance_cents: int
    next: Due | None
    in_plan: bool
    spared: str


@dataclass(frozen=True, slots=True)
class OwingPage:
    """A page of students with balances, by name.

    Attributes:
        last: who was looked at last; None where there are no more.
    """

    lines: tuple[Owing, ...]
    last: AccountHolder | None


def list_owing(
    context: ActionContext,
    term: TermCatalogue,
    after: tuple[str, int],
    search: str,
    *,
    only_open: bool,
    most: int,
) -> OwingPage:
    """List students with their balances by name, from a cursor on. Looks at :data:`LOOKED_AT` students at
    most.

    Args:
        only_open: leave out whoever owes nothing.
    """
    now = context.clock.now()
    with reading(context.database) as database:
        holders = account_holders(database, term.id, after, LOOKED_AT if only_open else most, search)
        accounts = read_accounts(database, term, [holder.row for holder in holders])
    lines: list[Owing] = []
    for holder in holders:
        line = owing_of(holder, accounts[holder.row], now)
        if not only_open or line.balance_cents != 0:
            lines.append(line)
        if len(lines) == most:
            return OwingPage(tuple(lines), holder)
    more = len(holders) == (LOOKED_AT if only_open else most)
    return OwingPage(tuple(lines), holders[-1] if more else None)


def owing_of(holder: AccountHolder, account: Account, now: datetime) -> Owing:
    """One student's balance."""
    charged = account.charges.total_cents
    return Owing(
        holder,
        charged,
        account.paid_cents,
        account.anticipated_cents,
        charged - account.paid_cents,
        next_due(account, now),
        account.joined is not None,
        account.spared,
    )


def holder_of(context: ActionContext, term: TermCatalogue, student_id: int) -> AccountHolder:
    """A student of a term.

    Raises:
        Problem: there is none.
    """
    with reading(context.database) as database:
        found = account_holder(database, term.id, student_id)
    if found is None:
        raise Problem(ProblemKind.STUDENT_UNKNOWN, f"Look for the student by name in {term.name}.")
    return found


@dataclass(frozen=True, slots=True)
class Posting:
    """An entry that a cashier posts.

    Attributes:
        amount_cents: of what is paid, promised or waived above 0, of what is paid back, too; of a
            correction what the student owes less, or more where it is below 0.
        anticipated_payment: the id of the anticipated payment that it keeps; None for none.
        key: the sender's own name for it; the same key is posted once.
    """

    kind: EntryKind
    amount_cents: int
    label: str
    reason: str
    key: str
    anticipated_payment: int | None = None


_NEED_REASON = (EntryKind.WAIVER, EntryKind.CORRECTION)


def post_entry(
    context: ActionContext, cashier_id: int, student_id: int, term_code: str, posting: Posting
) -> None:
    """Post an entry to a student's account; the same key posts it once.

    Raises:
        Problem: there is no such student, the sum is none, a reason is missing, more is paid back than was
            paid too much, or the key was used for another entry.
    """
    term = context.term(term_code)
    holder = holder_of(context, term, student_id)
    _check(posting)
    now = context.clock.now()
    with connected(context.database) as database, database.atomic():
        lock_student_terms(database, [holder.row])
        account = read_account(database, term, holder.row)
        sign = -1 if posting.kind is EntryKind.REFUND else 1
        if posting.anticipated_payment is not None and posting.anticipated_payment not in {
            p.id for p in account.anticipated_payments
        }:
            raise Problem(ProblemKind.ENTRY_UNKNOWN, "That anticipated payment is not in force any more.")
        by_card = sum(e.amount_cents for e in account.entries if e.account is CounterAccount.CARDS)
        goes_to_card = posting.kind is EntryKind.REFUND and posting.amount_cents <= by_card
        label = posting.label or ("to the card" if goes_to_card else "")
        new = NewEntry(
            holder.row,
            posting.kind,
            # What came by card goes back the same way, as far as it did.
            CounterAccount.CARDS if goes_to_card else COUNTER_ACCOUNTS[posting.kind],
            sign * posting.amount_cents,
            f"desk:{cashier_id}:{posting.key}",
            now,
            label,
            posting.reason,
            cashier_id,
            posting.anticipated_payment,
        )
        if add_entry(database, new) is None:
            before = entries_by_origin(database, [new.origin])[new.origin]
            if before != (new.student_term_id, new.amount_cents):
                raise key_used()
            return
        if posting.kind is EntryKind.REFUND and posting.amount_cents > -account.balance_cents:
            # Nothing of it stands: the transaction ends with the problem.
            raise Problem(
                ProblemKind.SUM_RANGE,
                f"At most {amount(max(0, -account.balance_cents))} was paid too much.",
            )
        lift_if_settled(context, term, holder.row, student_id, now)
        told = f"{amount(posting.amount_cents)}, {term.name}"
        note_office_event(database, student_id, cashier_id, f"posted: {posting.kind}", told, now)


def _check(posting: Posting) -> None:
    if posting.kind is EntryKind.COUNTER:
        raise Problem(ProblemKind.SUM_RANGE, "An entry is undone at the entry itself.")
    if posting.amount_cents == 0 or abs(posting.amount_cents) > MOST_CENTS:
        raise Problem(ProblemKind.SUM_RANGE, f"Give a sum from 0.01 to {amount(MOST_CENTS)}.")
    if posting.amount_cents < 0 and posting.kind is not EntryKind.CORRECTION:
        raise Problem(ProblemKind.SUM_RANGE, "Only a correction may be below zero.")
    if posting.kind in _NEED_REASON and not posting.reason.strip():
        raise Problem(ProblemKind.REASON_MISSING, "The student and the auditors read it.")


def undo_entry(
    context: ActionContext, cashier_id: int, student_id: int, term_code: str, entry_id: int, reason: str
) -> None:
    """Reverse an entry with a counter-entry, once.

    Raises:
        Problem: there is no such entry of the student, it is undone already, or no reason is given.
    """
    if not reason.strip():
        raise Problem(ProblemKind.REASON_MISSING, "The student and the auditors read it.")
    term = context.term(term_code)
    holder = holder_of(context, term, student_id)
    now = context.clock.now()
    with connected(context.database) as database, database.atomic():
        lock_student_terms(database, [holder.row])
        entry = find_entry(database, entry_id)
        if entry is None or entry.student_term_id != holder.row:
            raise Problem(ProblemKind.ENTRY_UNKNOWN, "Look at the student's account again.")
        if entry.counters is not None:
            raise Problem(ProblemKind.ENTRY_UNDONE, "It undoes another one itself; post what is right anew.")
        if came_by_card(entry):
            raise Problem(
                ProblemKind.ENTRY_UNDONE,
                "It was paid by card: the money has come. Pay it back, or post a correction.",
            )
        if is_undone(database, entry.id):
            raise Problem(ProblemKind.ENTRY_UNDONE, "Somebody has undone it already.")
        new = NewEntry(
            holder.row,
            EntryKind.COUNTER,
            entry.account,
            -entry.amount_cents,
            f"counter:{entry.id}",
            now,
            f"entry {entry.id}",
            reason,
            cashier_id,
            counters=entry.id,
        )
        add_entry(database, new)
        note_office_event(database, student_id, cashier_id, f"undone: entry {entry.id}", reason, now)


def anticipate_payment(
    context: ActionContext,
    cashier_id: int,
    student_id: int,
    term_code: str,
    kind: AnticipatedPaymentKind,
    label: str,
    amount_cents: int,
    key: str,
) -> None:
    """Record an anticipated payment for a student; once for a key.

    Raises:
        Problem: there is no such student, or the sum is none.
    """
    term = context.term(term_code)
    holder = holder_of(context, term, student_id)
    if not 0 < amount_cents <= MOST_CENTS:
        raise Problem(ProblemKind.SUM_RANGE, f"Give a sum from 0.01 to {amount(MOST_CENTS)}.")
    now = context.clock.now()
    with connected(context.database) as database, database.atomic():
        lock_student_terms(database, [holder.row])
        if is_repeated(
            database, cashier_id, key, now, "anticipated_payment", holder.row, kind, label, amount_cents
        ):
            return
        add_anticipated_payment(database, holder.row, kind, label, amount_cents, cashier_id, now)
        lift_if_settled(context, term, holder.row, student_id, now)
        told = f"{amount(amount_cents)} by {label}, {term.name}"
        note_office_event(database, student_id, cashier_id, "anticipated payment noted", told, now)


def end_anticipated_payment(
    context: ActionContext, cashier_id: int, student_id: int, term_code: str, anticipated_payment: int
) -> None:
    """Withdraw an anticipated payment; payments already made on it stay.

    Raises:
        Problem: the student has no such anticipated payment in force.
    """
    term = context.term(term_code)
    holder = holder_of(context, term, student_id)
    now = context.clock.now()
    with connected(context.database) as database, database.atomic():
        lock_student_terms(database, [holder.row])
        if not withdraw_anticipated_payment(database, holder.row, anticipated_payment, now):
            raise Problem(ProblemKind.ENTRY_UNKNOWN, "That anticipated payment is not in force any more.")
        note_office_event(database, student_id, cashier_id, "anticipated payment withdrawn", term.name, now)


def keep_seats(
    context: ActionContext, cashier_id: int, student_id: int, term_code: str, reason: str | None
) -> None:
    """Exempt a student from the drop for nonpayment, or withdraw the exemption.

    Args:
        reason: None to take it away.

    Raises:
        Problem: there is no such student, or the reason is empty.
    """
    if reason is not None and not reason.strip():
        raise Problem(ProblemKind.REASON_MISSING, "The auditors read it.")
    term = context.term(term_code)
    holder = holder_of(context, term, student_id)
    now = context.clock.now()
    with connected(context.database) as database, database.atomic():
        lock_student_terms(database, [holder.row])
        if reason is None:
            take_seat_note_away(database, holder.row, now)
        else:
            put_seat_note(database, holder.row, reason.strip(), cashier_id, now)
        what = "seats kept" if reason else "seats not kept any more"
        note_office_event(database, student_id, cashier_id, what, reason or term.name, now)
