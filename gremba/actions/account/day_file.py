"""Exports a day's entries to the finance office and imports entries from it. An import is all or nothing;
each line counts once, by its id."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta

from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.account.overdue_holds import lift_all_settled
from gremba.actions.context import ActionContext
from gremba.core.account.ledger import COUNTER_ACCOUNTS
from gremba.core.catalogue.term import TermCatalogue
from gremba.formats.day_file import LineProblem, OfficeLine, in_order, read_day, write_day
from gremba.store.account.ledger import (
    NewEntry,
    add_entries,
    entries_between,
    entries_by_origin,
    holders_by_username,
    read_accounts,
)
from gremba.store.database import connected
from gremba.store.registration.situations import lock_student_terms


def export_day(context: ActionContext, term_code: str, day: date) -> bytes:
    """A term's entries of one day of the college, as a file. For a past day it never changes.

    Raises:
        Problem: there is no such term.
    """
    term = context.term(term_code)
    zone = term.calendar.zone
    since = datetime.combine(day, time(), zone)
    until = datetime.combine(day + timedelta(1), time(), zone)
    with connected(context.database) as database:
        return write_day(entries_between(database, term.id, since, until), zone)


@dataclass(frozen=True, slots=True)
class DayTaken:
    """The result of importing a file.

    Attributes:
        taken: entries that were added.
        known: entries that had been told of before, the same as now.
        problems: for which nothing of it was taken.
    """

    taken: int
    known: int
    problems: tuple[LineProblem, ...]


def import_day(context: ActionContext, cashier_id: int, term_code: str, text: str) -> DayTaken:
    """Import entries from the finance office: all of a file, or nothing if any line is wrong.

    Raises:
        Problem: there is no such term.
    """
    term = context.term(term_code)
    lines, problems = read_day(text)
    now = context.clock.now()
    with connected(context.database) as database, database.atomic():
        holders = holders_by_username(database, term.id, {line.student for line in lines})
        lock_student_terms(database, {holder.row for holder in holders.values()})
        anticipated_payments = _anticipated_payments(
            database, term, {holder.row for holder in holders.values()}
        )
        known = entries_by_origin(database, [_origin(line) for line in lines])
        new: list[NewEntry] = []
        for line in lines:
            holder = holders.get(line.student)
            if holder is None:
                problems.append(LineProblem(line.line, f"There is no student {line.student} in {term.name}."))
                continue
            before = known.get(_origin(line))
            if before is None:
                new.append(_entry(line, holder.row, anticipated_payments, cashier_id, now))
            elif before != (holder.row, line.amount_cents):
                problems.append(
                    LineProblem(
                        line.line, f"The id {line.id} was told of before, with another sum or student."
                    )
                )
        if problems:
            return DayTaken(0, 0, tuple(in_order(problems)))
        taken = add_entries(database, new)
        lift_all_settled(context, term, {h.student_id: h.row for h in holders.values()}, now)
    return DayTaken(len(taken), len(lines) - len(taken), ())


def _origin(line: OfficeLine) -> str:
    return f"office:{line.id}"


def _anticipated_payments(
    database: PooledPostgresqlDatabase, term: TermCatalogue, rows: Collection[int]
) -> dict[tuple[int, str], int]:
    """The first open anticipated payment by student and kind; incoming aid counts toward it."""
    return {
        (row, payment.kind.value): payment.id
        for row, account in read_accounts(database, term, rows).items()
        for payment in reversed(account.anticipated_payments)
        if payment.open_cents
    }


def _entry(
    line: OfficeLine,
    row: int,
    anticipated_payments: Mapping[tuple[int, str], int],
    cashier_id: int,
    now: datetime,
) -> NewEntry:
    return NewEntry(
        row,
        line.kind,
        COUNTER_ACCOUNTS[line.kind],
        line.amount_cents,
        _origin(line),
        now,
        line.label,
        line.reason,
        cashier_id,
        anticipated_payments.get((row, line.kind.value)),
    )
