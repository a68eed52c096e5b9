"""Reads accounts for many students at once, and adds to the ledger."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase
from pydantic import TypeAdapter

from gremba.core.account.due import Account, JoinedPlan
from gremba.core.account.ledger import (
    AnticipatedPayment,
    AnticipatedPaymentKind,
    CounterAccount,
    DayEntry,
    EntryKind,
    LedgerEntry,
    anticipated_cents,
)
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.states import RegistrationState
from gremba.store import models
from gremba.store.account.charge_history import read_histories
from gremba.store.database import as_array, fetch_records, send_sql
from gremba.store.models.base import literal
from gremba.store.queries import (
    columns,
    fetch,
    fetch_one,
    fetch_tuples,
    fetch_values,
    one_of,
    write,
)

_SUMS = """
SELECT st.id, s.rate_class,
       CASE WHEN j.plan IS NOT NULL THEN json_build_object(
           'code', j.plan, 'joined_at', j.joined_at, 'covered_cents', j.covered_cents) END AS joined,
       (SELECT coalesce(sum(e.amount_cents), 0)
        FROM ledger_entries e WHERE e.student_term_id = st.id) AS paid_cents,
       (SELECT coalesce(json_agg(json_build_object(
                   'id', p.id, 'kind', p.kind, 'label', p.label, 'amount_cents', p.amount_cents,
                   'paid_cents', (SELECT coalesce(sum(k.amount_cents), 0) FROM ledger_entries k
                                  WHERE k.anticipated_payment_id = p.id AND k.student_term_id = st.id))
                   ORDER BY p.id), '[]')
        FROM anticipated_payments p
        WHERE p.student_term_id = st.id AND p.withdrawn_at IS NULL) AS anticipated_payments,
       coalesce((SELECT n.reason FROM seat_notes n
                 WHERE n.student_term_id = st.id AND n.withdrawn_at IS NULL), '') AS spared
FROM student_terms st JOIN students s ON s.id = st.student_id
LEFT JOIN joined_plans j ON j.student_term_id = st.id
WHERE st.id = ANY(%s::int[]) ORDER BY st.id
"""
# Read with every open cart, and for every student at the drop for nonpayment: one statement instead of five.


@dataclass(frozen=True, slots=True)
class _SumsRow:
    id: int
    rate_class: str
    joined: JoinedPlan | None
    paid_cents: int
    anticipated_payments: tuple[AnticipatedPayment, ...]
    spared: str


_SUMS_ROWS = TypeAdapter(list[_SumsRow])


def ask_sums(
    database: PooledPostgresqlDatabase, term: TermCatalogue, rows: Collection[int]
) -> Callable[[], dict[int, Account]]:
    """Send a query for these students' accounts as sums, without entries and history; the function
    returned reads the answer, by term row."""
    asked = send_sql(database, _SUMS, (as_array(rows),))
    return lambda: {row.id: _sums(row, term) for row in fetch_records(asked, _SUMS_ROWS)}


def _sums(row: _SumsRow, term: TermCatalogue) -> Account:
    return Account(
        term.policy.tariff,
        term.policy.account,
        row.rate_class,
        paid_cents=row.paid_cents,
        anticipated_cents=anticipated_cents(row.anticipated_payments),
        joined=row.joined,
        spared=row.spared,
        anticipated_payments=row.anticipated_payments,
    )


def read_sums(
    database: PooledPostgresqlDatabase, term: TermCatalogue, rows: Collection[int]
) -> dict[int, Account]:
    """The same, read at once. One statement."""
    return ask_sums(database, term, rows)()


def read_accounts(
    database: PooledPostgresqlDatabase, term: TermCatalogue, rows: Collection[int]
) -> dict[int, Account]:
    """The accounts of these students, without the entries. Two statements, however many."""
    sums = read_sums(database, term, rows)
    histories = read_histories(database, dict.fromkeys(rows, term))
    return {row: replace(account, events=histories[row]) for row, account in sums.items()}


def read_account(database: PooledPostgresqlDatabase, term: TermCatalogue, row: int) -> Account:
    """The account of one student with its entries. Three statements."""
    own = models.LedgerEntry
    selected = columns(LedgerEntry, own, counters=own.counters)
    query = own.select(*selected).where(own.student_term == row)
    entries = fetch(database, query.order_by(own.id), LedgerEntry)
    return replace(read_accounts(database, term, [row])[row], entries=tuple(entries))


@dataclass(frozen=True, slots=True)
class NewEntry:
    """An entry to be added to the ledger; see :class:`gremba.core.account.ledger.LedgerEntry`."""

    student_term_id: int
    kind: EntryKind
    account: CounterAccount
    amount_cents: int
    origin: str
    at: datetime
    label: str = ""
    reason: str = ""
    entered_by: int | None = None
    anticipated_payment: int | None = None
    counters: int | None = None


def add_entry(database: PooledPostgresqlDatabase, new: NewEntry) -> int | None:
    """Add an entry to the ledger; returns its id, or None if its origin was entered before. One statement."""
    return next(iter(add_entries(database, [new])), None)


def add_entries(database: PooledPostgresqlDatabase, new: Iterable[NewEntry]) -> list[int]:
    """Add entries to the ledger; returns the ids of those whose origin was not entered before. One
    statement."""
    own = models.LedgerEntry
    rows: list[dict[str, Any]] = [
        {
            "student_term": entry.student_term_id,
            "kind": entry.kind,
            "account": entry.account,
            "amount_cents": entry.amount_cents,
            "origin": entry.origin,
            "label": entry.label,
            "reason": entry.reason,
            "at": entry.at,
            "entered_by": entry.entered_by,
            "anticipated_payment": entry.anticipated_payment,
            "counters": entry.counters,
        }
        for entry in new
    ]
    if not rows:
        return []
    query = own.insert_many(rows).on_conflict(conflict_target=[own.origin], action="IGNORE")
    return [int(key) for key in fetch_values(database, query.returning(own.id))]


@dataclass(frozen=True, slots=True)
class KeptEntry:
    """An entry of the ledger, and its student."""

    id: int
    student_term_id: int
    kind: EntryKind
    account: CounterAccount
    amount_cents: int
    counters: int | None


def find_entry(database: PooledPostgresqlDatabase, entry_id: int) -> KeptEntry | None:
    """An entry; None if there is none."""
    own = models.LedgerEntry
    query = own.select(*columns(KeptEntry, own, student_term_id=own.student_term))
    return fetch_one(database, query.where(own.id == entry_id), KeptEntry)


def is_undone(database: PooledPostgresqlDatabase, entry_id: int) -> bool:
    """Whether it has been reversed."""
    own = models.LedgerEntry
    return bool(fetch_values(database, own.select(own.id).where(own.counters == entry_id)))


def entries_by_origin(
    database: PooledPostgresqlDatabase, origins: Collection[str]
) -> dict[str, tuple[int, int]]:
    """Student and amount of the entries with these origins."""
    own = models.LedgerEntry
    query = own.select(own.origin, own.student_term, own.amount_cents).where(one_of(own.origin, origins))
    return {origin: (row, cents) for origin, row, cents in fetch_tuples(database, query)}


def join_plan(
    database: PooledPostgresqlDatabase, row: int, plan: str, at: datetime, covered_cents: int
) -> None:
    """Store that a student joins an installment plan; they had joined none."""
    own = models.JoinedPlan
    write(database, own.insert(student_term=row, plan=plan, joined_at=at, covered_cents=covered_cents))


def add_anticipated_payment(
    database: PooledPostgresqlDatabase,
    row: int,
    kind: AnticipatedPaymentKind,
    label: str,
    amount_cents: int,
    by: int,
    at: datetime,
) -> None:
    """Store an anticipated payment."""
    own = models.AnticipatedPayment
    query = own.insert(
        student_term=row, kind=kind, label=label, amount_cents=amount_cents, noted_at=at, noted_by=by
    )
    write(database, query)


def withdraw_anticipated_payment(
    database: PooledPostgresqlDatabase, row: int, anticipated_payment: int, at: datetime
) -> int:
    """Withdraw an anticipated payment; returns 0 if it does not exist or was withdrawn."""
    own = models.AnticipatedPayment
    query = own.update(withdrawn_at=at)
    return write(
        database,
        query.where(own.id == anticipated_payment, own.student_term == row, own.withdrawn_at.is_null()),
    )


def put_seat_note(database: PooledPostgresqlDatabase, row: int, reason: str, by: int, at: datetime) -> None:
    """Store an exemption from the drop for nonpayment, replacing an earlier reason."""
    take_seat_note_away(database, row, at)
    own = models.SeatNote
    write(database, own.insert(student_term=row, reason=reason, noted_at=at, noted_by=by))


def take_seat_note_away(database: PooledPostgresqlDatabase, row: int, at: datetime) -> None:
    """Withdraw the exemption."""
    own = models.SeatNote
    query = own.update(withdrawn_at=at)
    write(database, query.where(own.student_term == row, own.withdrawn_at.is_null()))


@dataclass(frozen=True, slots=True)
class AccountHolder:
    """A student of a term, as in the cashier's lists."""

    row: int
    student_id: int
    username: str
    full_name: str


def account_holders(
    database: PooledPostgresqlDatabase,
    term_id: int,
    after: tuple[str, int],
    most: int,
    search: str = "",
) -> list[AccountHolder]:
    """Students of a term by name, from a cursor on. One statement.

    Args:
        after: the name and the row of the last one before; ("", 0) for the first.
        search: a part of the name or the user name; "" for all.
    """
    query = _holders().where(models.StudentTerm.term == term_id)
    name = models.Person.full_name
    query = query.where((name > after[0]) | ((name == after[0]) & (models.StudentTerm.id > after[1])))
    if search:
        query = query.where(name.contains(search) | models.Person.username.contains(search))
    return fetch(database, query.order_by(name, models.StudentTerm.id).limit(most), AccountHolder)


def account_holder(database: PooledPostgresqlDatabase, term_id: int, student_id: int) -> AccountHolder | None:
    """A student of a term; None if there is none with this id."""
    query = _holders().where(models.StudentTerm.term == term_id, models.StudentTerm.student == student_id)
    return fetch_one(database, query, AccountHolder)


def holders_by_username(
    database: PooledPostgresqlDatabase, term_id: int, usernames: Collection[str]
) -> Mapping[str, AccountHolder]:
    """Students of a term by user name."""
    query = _holders().where(models.StudentTerm.term == term_id, one_of(models.Person.username, usernames))
    return {holder.username: holder for holder in fetch(database, query, AccountHolder)}


def _holders() -> Any:
    own, person = models.StudentTerm, models.Person
    selected = columns(
        AccountHolder,
        person,
        row=own.id,
        student_id=own.student,
        username=person.username,
        full_name=person.full_name,
    )
    return own.select(*selected).join(person, on=person.id == own.student)


def rows_with_seats(database: PooledPostgresqlDatabase, term_id: int, after: int, most: int) -> list[int]:
    """Term rows of students registered for something, ascending from a cursor on."""
    own = models.Registration
    query = own.select(own.student_term_id).where(
        own.term_id == term_id,
        own.student_term_id > after,
        own.state == literal(RegistrationState.REGISTERED),
    )
    return fetch_values(database, query.distinct().order_by(own.student_term_id).limit(most))


def entries_between(
    database: PooledPostgresqlDatabase, term_id: int, since: datetime, until: datetime
) -> list[DayEntry]:
    """A term's entries from one moment to before another, in order."""
    own, holder, person = models.LedgerEntry, models.StudentTerm, models.Person
    query = (
        own.select(*columns(DayEntry, own, username=person.username, full_name=person.full_name))
        .join(holder, on=holder.id == own.student_term)
        .join(person, on=person.id == holder.student)
        .where(holder.term == term_id, own.at >= since, own.at < until)
    )
    return fetch(database, query.order_by(own.id), DayEntry)
