"""Places holds on students who missed an installment or a due date, and lifts them once it is paid."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime

from gremba.actions.context import ActionContext
from gremba.core.account.due import missed
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.messages import MessageKind, message_of
from gremba.core.wording import amount, moment
from gremba.store.account.ledger import read_accounts
from gremba.store.messages.inbox import put_notice
from gremba.store.students.holds import lift_hold, overdue_holds, place_overdue_hold, students_overdue


def place_if_missed(
    context: ActionContext, term: TermCatalogue, row: int, student_id: int, now: datetime
) -> bool:
    """Place a hold if a payment is overdue; returns whether it did. The student's term row is locked."""
    database = context.database
    due = missed(read_accounts(database, term, [row])[row], now)
    if due is None or not place_overdue_hold(database, student_id, _reason(term), now):
        return False
    told = message_of(
        MessageKind.INSTALLMENT_MISSED,
        amount=amount(due.open_cents),
        due=moment(due.at.astimezone(term.calendar.zone)),
        what=due.why,
    )
    put_notice(database, row, told, now)
    return True


def lift_if_settled(
    context: ActionContext, term: TermCatalogue, row: int, student_id: int, now: datetime
) -> bool:
    """Lift the hold if nothing is overdue; returns whether it did. The student's term row is locked."""
    database = context.database
    found = overdue_holds(database, student_id, _reason(term))
    if not found or missed(read_accounts(database, term, [row])[row], now) is not None:
        return False
    for hold in found:
        lift_hold(database, hold, "what was due is paid", None, now)
    return True


def lift_all_settled(
    context: ActionContext, term: TermCatalogue, rows_by_student: Mapping[int, int], now: datetime
) -> None:
    """The same for many students, whose rows are locked: one statement if none has such a hold."""
    for student in students_overdue(context.database, list(rows_by_student), _reason(term)):
        lift_if_settled(context, term, rows_by_student[student], student, now)


def _reason(term: TermCatalogue) -> str:
    return f"Something due for {term.name} was not paid in time."
