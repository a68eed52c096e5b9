"""Follows the due dates: sends warnings, drops for nonpayment, places holds."""

from __future__ import annotations

import time
from collections.abc import Iterator, Sequence
from datetime import datetime, timedelta

from gremba.actions.account.nonpayment import AT_A_TIME, drop_unpaid
from gremba.actions.account.overdue_holds import place_if_missed
from gremba.actions.context import ActionContext
from gremba.core.account.due import missed
from gremba.core.account.nonpayment import NonpaymentResult, judge_nonpayment
from gremba.core.account.policy import DueDate
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.messages import MessageKind, message_of
from gremba.core.wording import amount, listed, moment
from gremba.store.account.ledger import read_accounts, rows_with_seats
from gremba.store.account.nonpayment import (
    NonpaymentDropLine,
    nonpayment_drops_of,
    not_warned,
    note_warnings,
    rows_in_plans,
    students_of_rows,
)
from gremba.store.database import connected
from gremba.store.messages.inbox import put_notices
from gremba.store.registration.situations import lock_student_terms

OFTEN = 5.0
"""Seconds between two looks at the due dates."""

AGAIN = 600.0
"""Seconds after which all students are looked at again for a warning or a hold that is in force."""


class DueDates:
    """Acts on the due dates of all terms, in one of any number of processes."""

    def __init__(self, context: ActionContext) -> None:
        self._context = context
        self._looked: dict[tuple[str, datetime, int], float] = {}

    def work(self, terms: Sequence[TermCatalogue]) -> None:
        """Do what is due by the campus clock. One statement a term if nothing is."""
        for term in terms:
            if term.policy.account.due_dates or term.policy.account.installments:
                self._follow(term)

    def _follow(self, term: TermCatalogue) -> None:
        now = self._context.clock.now()
        policy = term.policy.account
        with connected(self._context.database) as database:
            nonpayment_drops = nonpayment_drops_of(database, term.id)
        losing = [due for due in policy.due_dates if due.loses_seats]
        over = [due for due in losing if due.at <= now]
        unmade = [due for due in over if not _is_made(nonpayment_drops.get(due.at))]
        is_made = all([_is_made(drop_unpaid(self._context, term, due)) for due in unmade])
        coming = next((due for due in losing if due.at > now), None)
        # Whoever is about to lose the seats is not warned of the date after.
        if coming is not None and is_made:
            days = [d for d in policy.warn_days if coming.at - timedelta(d) <= now]
            if days and self._is_time(term, coming.at, min(days)):
                warn(self._context, term, coming, min(days))
        for due in policy.due_dates:
            if not due.loses_seats and due.at <= now and self._is_time(term, due.at, 0):
                place_holds(self._context, term, only_plans=False)
        for plan in policy.installments:
            for part in plan.parts:
                if part.at is not None and part.at <= now and self._is_time(term, part.at, 0):
                    place_holds(self._context, term, only_plans=True)

    def _is_time(self, term: TermCatalogue, at: datetime, days: int) -> bool:
        """Whether to look at all students: the first time, and at intervals."""
        key = term.code, at, days
        last = self._looked.get(key)
        if last is not None and time.monotonic() - last < AGAIN:
            return False
        self._looked[key] = time.monotonic()
        return True

    def forget(self) -> None:
        """Start over after the clock was set."""
        self._looked.clear()


def _is_made(nonpayment_drop: NonpaymentDropLine | None) -> bool:
    return nonpayment_drop is not None and nonpayment_drop.done_at is not None


def warn(context: ActionContext, term: TermCatalogue, due: DueDate, days: int) -> int:
    """Warn students who would be dropped on a due date, once for each number of days before. Returns how many
    were warned."""
    warned = 0
    for rows in _rows(context, term, only_plans=False):
        with connected(context.database) as database:
            new = not_warned(database, rows, due.at, days)
            accounts = read_accounts(database, term, new) if new else {}
        judged = {row: judge_nonpayment(account, due) for row, account in accounts.items()}
        reached = {row: j for row, j in judged.items() if j.result is NonpaymentResult.LOST}
        with connected(context.database) as database, database.atomic():
            now = context.clock.now()
            # Of two processes that warn at once, each tells those whom it was first to note.
            told = {
                row: message_of(
                    MessageKind.DUE_SOON,
                    amount=amount(reached[row].owed_cents),
                    until=moment(due.at.astimezone(term.calendar.zone)),
                    sections=listed([section.name for section in reached[row].sections]),
                )
                for row in note_warnings(database, list(reached), due.at, days, now)
            }
            put_notices(database, told.items(), now)
        warned += len(told)
    return warned


def place_holds(context: ActionContext, term: TermCatalogue, *, only_plans: bool) -> int:
    """Place a hold on students who missed a due date without a drop. Returns how many were placed.

    Args:
        only_plans: look only at those who have joined an installment plan.
    """
    placed = 0
    for rows in _rows(context, term, only_plans=only_plans):
        now = context.clock.now()
        with connected(context.database) as database:
            accounts = read_accounts(database, term, rows)
            late = [row for row in rows if missed(accounts[row], now)]
            students = students_of_rows(database, late) if late else {}
        for row in late:
            with connected(context.database) as database, database.atomic():
                lock_student_terms(database, [row])
                placed += place_if_missed(context, term, row, students[row], now)
    return placed


def _rows(context: ActionContext, term: TermCatalogue, *, only_plans: bool) -> Iterator[list[int]]:
    after = 0
    read = rows_in_plans if only_plans else rows_with_seats
    while True:
        with connected(context.database) as database:
            rows = read(database, term.id, after, AT_A_TIME)
        if not rows:
            return
        yield rows
        after = rows[-1]
