"""Drops students for nonpayment on a due date: once a date, and each student in a transaction of their own.

Any number of processes may make it at once and end anywhere: whoever goes on takes up those who have not been
judged.
"""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Collection, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from datetime import datetime

import orjson
import structlog

from gremba.actions.actor import Actor
from gremba.actions.context import ActionContext
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.account.nonpayment import NonpaymentJudgement, NonpaymentResult, judge_nonpayment
from gremba.core.account.policy import DueDate
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.messages import Message, MessageKind, message_of
from gremba.core.registration.changes import Change, Kind, Mode, Request
from gremba.core.registration.deciding.board import Board
from gremba.core.registration.deciding.conclusion import conclude
from gremba.core.registration.findings import Finding, Severity
from gremba.core.registration.outcome import Decision
from gremba.core.registration.situation import Situation
from gremba.core.wording import day, listed, moment, sentence_case
from gremba.formats.confirmation import confirmation_data
from gremba.store.account.ledger import AccountHolder, account_holders, ask_sums, read_accounts
from gremba.store.account.nonpayment import (
    NewResult,
    NonpaymentDropLine,
    ask_judged,
    begin_nonpayment_drop,
    end_nonpayment_drop,
    nonpayment_drops_of,
    note_results,
    rows_to_judge,
    students_of_rows,
    take_nonpayment_drop,
    write_result,
)
from gremba.store.database import Unavailable, connected, in_few_trips, reading
from gremba.store.registration.situations import ask_seats, ask_situations, lock_seats, lock_student_terms
from gremba.store.registration.writing.batch import write
from gremba.store.registration.writing.confirmations import ask_confirmation_ids
from gremba.store.registration.writing.decided import Writing

log = structlog.get_logger()

AT_A_TIME = 200
"""Students whose accounts are read at once."""

THREADS = 4
"""Students whose seats are taken back at a time."""

LEASE = 60.0
"""Seconds for which a process has a drop for nonpayment to itself; it has them anew with every so many
students."""

UNPAID = "account.unpaid"
"""The code of what a confirmation says of a section that was lost."""


@dataclass(frozen=True, slots=True)
class TrialLine:
    """What a drop for nonpayment would do to a student."""

    holder: AccountHolder
    judgement: NonpaymentJudgement


def due_date(term: TermCatalogue, due_at: datetime) -> DueDate:
    """The term's due date at that moment, if it has a drop.

    Raises:
        Problem: there is none.
    """
    for due in term.policy.account.due_dates:
        if due.loses_seats and due.at == due_at:
            return due
    raise Problem(ProblemKind.NOT_FOUND, "Choose one of the due dates of the term.")


def preview_nonpayment(
    context: ActionContext, term: TermCatalogue, due: DueDate, after: tuple[str, int], most: int
) -> tuple[list[TrialLine], AccountHolder | None]:
    """Preview a drop for nonpayment, by student name from a cursor on; nothing is changed. Also returns the
    last student looked at, or None at the end."""
    with reading(context.database) as database:
        holders = account_holders(database, term.id, after, most)
        accounts = read_accounts(database, term, [holder.row for holder in holders])
    lines = [TrialLine(holder, judge_nonpayment(accounts[holder.row], due)) for holder in holders]
    return lines, holders[-1] if len(holders) == most else None


def drop_unpaid(
    context: ActionContext, term: TermCatalogue, due: DueDate, by: Actor | None = None
) -> NonpaymentDropLine:
    """Run the drop for nonpayment of a due date, or continue it; does nothing if it is complete.

    Args:
        by: the cashier; None where it is the sweep.

    Raises:
        Problem: the date has not come.
    """
    now = context.clock.now()
    with connected(context.database) as database:
        known = nonpayment_drops_of(database, term.id).get(due.at)
        if known is not None and known.done_at is not None:
            return known
        if now < due.at:
            when = moment(due.at.astimezone(term.calendar.zone))
            raise Problem(ProblemKind.NONPAYMENT_NOT_YET, f"It can be made from {when} on.")
        nonpayment_drop = known or begin_nonpayment_drop(
            database, term.id, due.at, now, by.id if by else None
        )
    failed = 0
    worker = secrets.token_hex(8)
    for rows in _chunks(context, term, nonpayment_drop):
        with connected(context.database) as database:
            if not take_nonpayment_drop(database, nonpayment_drop.id, worker, LEASE):
                # Another process makes it: two at once would wait for one another's locks.
                return nonpayment_drops_of(database, term.id)[due.at]
        failed += _judge(context, term, due, nonpayment_drop, rows, by)
    with connected(context.database) as database:
        if not failed:
            end_nonpayment_drop(database, nonpayment_drop.id, context.clock.now())
        return nonpayment_drops_of(database, term.id)[due.at]


def _chunks(
    context: ActionContext, term: TermCatalogue, nonpayment_drop: NonpaymentDropLine
) -> Iterator[list[int]]:
    after = 0
    while True:
        with connected(context.database) as database:
            rows = rows_to_judge(database, term.id, nonpayment_drop.id, after, AT_A_TIME)
        if not rows:
            return
        yield rows
        after = rows[-1]


def _judge(
    context: ActionContext,
    term: TermCatalogue,
    due: DueDate,
    nonpayment_drop: NonpaymentDropLine,
    rows: Sequence[int],
    by: Actor | None,
) -> int:
    """Judges a batch of students. Returns how many failed."""
    with connected(context.database) as database:
        accounts = read_accounts(database, term, rows)
        students = students_of_rows(database, rows)
        judged = {row: judge_nonpayment(accounts[row], due) for row in rows}
        kept = [
            NewResult(row, j.result, j.owed_cents, j.why)
            for row, j in judged.items()
            if j.result is not NonpaymentResult.LOST
        ]
        note_results(database, nonpayment_drop.id, kept, context.clock.now())
    lost = [row for row, judgement in judged.items() if judgement.result is NonpaymentResult.LOST]

    def take_back(share: Sequence[int]) -> int:
        failed = 0
        for row in share:
            actor = by or Actor(students[row], _signature(term, due))
            try:
                _take_back(context, term, due, nonpayment_drop, row, actor)
            except Unavailable as problem:
                log.warning("seats were not taken back", row=row, problem=str(problem).strip())
                failed += 1
            except Exception:
                log.exception("seats could not be taken back", row=row)
                failed += 1
        with connected(context.database):
            # The connection that was kept from one student to the next goes back.
            return failed

    # While one waits for the database another reckons.
    with ThreadPoolExecutor(THREADS, thread_name_prefix="nonpayment") as threads:
        return sum(threads.map(take_back, [lost[start::THREADS] for start in range(THREADS)]))


def _take_back(
    context: ActionContext,
    term: TermCatalogue,
    due: DueDate,
    nonpayment_drop: NonpaymentDropLine,
    row: int,
    by: Actor,
) -> None:
    """Drops a student's sections unless the balance has changed meanwhile."""
    with connected(context.database, keep=True) as database, in_few_trips(database):
        lock_student_terms(database, [row])
        read_situation = ask_situations(database, {row: term})
        read_sums = ask_sums(database, term, [row])
        is_judged = ask_judged(database, nonpayment_drop.id, row)
        # Looked at again: with the row locked no payment and no drop comes in between.
        if is_judged():
            return
        seats: dict[int, SeatFigures] = {}
        situation = read_situation(seats, {})[row]
        account = read_sums()[row]
        judgement = judge_nonpayment(replace(account, events=situation.charge_events), due)
        now = context.clock.now()
        confirmation = told = None
        if judgement.result is NonpaymentResult.LOST:
            pools = {section.pool for section in judgement.sections}
            lock_seats(database, pools)
            read_figures, read_ids = ask_seats(database, pools), ask_confirmation_ids(database, 1)
            seats.update(read_figures())
            (confirmation,) = read_ids()
            _drop(context, term, due, row, situation, judgement, by, now, confirmation)
            told = _told(term, judgement, confirmation)
        result = NewResult(row, judgement.result, judgement.owed_cents, judgement.why, confirmation)
        write_result(database, nonpayment_drop.id, result, told, now)


def _drop(
    context: ActionContext,
    term: TermCatalogue,
    due: DueDate,
    row: int,
    situation: Situation,
    judgement: NonpaymentJudgement,
    by: Actor,
    now: datetime,
    confirmation: int,
) -> None:
    database = context.database
    day_due = day(due.at.astimezone(term.calendar.zone).date())
    # How much of it was paid is told to the student alone; confirmations are read by advisors too.
    why = f"it was not paid for by {day_due}"
    decision = dropping(situation, judgement.sections, why, now)
    key = f"nonpayment-{due.at.isoformat()}-{row}"
    body = orjson.dumps(confirmation_data(decision, Mode.ALL, by.signature))
    digest = hashlib.sha256(key.encode()).digest()
    write(database, [Writing(confirmation, row, term.id, key, digest, by.id, decision, body)], now)


def _told(term: TermCatalogue, judgement: NonpaymentJudgement, confirmation: int) -> Message:
    until = term.policy.account.ask_back_until
    return message_of(
        MessageKind.SEATS_LOST,
        term=term.name,
        why=sentence_case(judgement.why),
        sections=listed([f"{s.name} {s.reference_number}" for s in judgement.sections]),
        confirmation=confirmation,
        until=None if until is None else moment(until.astimezone(term.calendar.zone)),
    )


def dropping(situation: Situation, sections: Collection[Section], why: str, now: datetime) -> Decision:
    """A drop that no rule blocks: otherwise an ordinary drop, with its reason."""
    numbers = {section.reference_number for section in sections}
    changes = tuple(
        Change(Kind.DROP, held.section.reference_number)
        for held in situation.held
        if held.section.reference_number in numbers
    )
    board = Board(situation, Request(changes, Mode.ALL), now)
    finding = Finding(UNPAID, Severity.WARNING, f"Taken back: {why}.", ask="the cashier")
    every = range(len(changes))
    return conclude(board, set(every), dict.fromkeys(every, (finding,)))


def _signature(term: TermCatalogue, due: DueDate) -> str:
    return f"the due date of {day(due.at.astimezone(term.calendar.zone).date())}"
