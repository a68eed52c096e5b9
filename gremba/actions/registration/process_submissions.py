"""Sending: a request is decided on locked rows, and what the decision says is written."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

import orjson
import psycopg
import structlog

from gremba.actions.context import ActionContext
from gremba.actions.problem import Problem, key_used, records_away
from gremba.actions.problem_kinds import ProblemKind
from gremba.actions.registration.edit_cart import cart_moved
from gremba.actions.registration.speculative_choice import TRIES, SeatsMoved, SpeculativeChoice
from gremba.actions.registration.speculative_decisions import SpeculativeDecisions
from gremba.actions.registration.submission import Submission
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import TermMoved
from gremba.core.permission.consent import Consent
from gremba.core.registration.alternatives.backup_sections import decide_with_alternatives
from gremba.core.registration.outcome import Decision
from gremba.core.registration.plans import PlansDecided, decide_plans
from gremba.formats.receipt import receipt_data
from gremba.store.catalogue.terms import ask_versions
from gremba.store.database import Refused, Unavailable, connected, in_few_trips
from gremba.store.registration.carts import ask_cart_tokens
from gremba.store.registration.situations import (
    ask_seats,
    ask_situations,
    lock_consents,
    lock_seats,
    lock_student_terms,
    read_consents,
    read_seats,
    read_situations,
)
from gremba.store.registration.writing.batch import write
from gremba.store.registration.writing.confirmations import ask_earlier_receipts, ask_receipt_ids
from gremba.store.registration.writing.decided import Writing

log = structlog.get_logger()

_TRIES = 5
_FIRST_PAUSE = 0.1


@dataclass(frozen=True, slots=True)
class Receipt:
    """What was sent and what became of it.

    Attributes:
        body: the decision as JSON.
        repeated: it had been sent before, and this is the receipt of that time.
    """

    id: int
    sent_at: datetime
    body: bytes
    repeated: bool = False


SubmissionAnswer = Receipt | Problem


def process_submissions(context: ActionContext, submissions: Sequence[Submission]) -> list[SubmissionAnswer]:
    """Put a batch through in one transaction, in order of arrival; a student stands in it once.

    If the tables refuse the batch, each submission is tried alone, so that one never spoils
    another; one that has next choices always is. While the database is away it is tried again for
    some seconds.

    Statements, in three trips: lock students, receipts by key, situations, new receipts' numbers;
    lock seats, their figures; then up to seven that write. Two more where consent codes are named,
    one more where there are next choices.
    """
    if len(submissions) > 1 and any(s.chooses for s in submissions):
        return [answer for s in submissions for answer in process_submissions(context, [s])]
    for _ in range(TRIES - 1):
        try:
            return _try_for_a_while(context, submissions, last_choice=False)
        except SeatsMoved:
            continue
    return _try_for_a_while(context, submissions, last_choice=True)


def _try_for_a_while(
    context: ActionContext, submissions: Sequence[Submission], last_choice: bool
) -> list[SubmissionAnswer]:
    pause = _FIRST_PAUSE
    for attempt in range(_TRIES):
        try:
            chosen = _choose(context, submissions[0], last_choice) if submissions[0].chooses else None
            with connected(context.database, keep=True) as database, in_few_trips(database):
                return _in_transaction(context, submissions, chosen)
        except SeatsMoved:
            raise
        except TermMoved as moved:
            for code in moved.codes:
                context.catalogue.catch_up(code)
            submissions = [replace(s, term=context.term(s.term.code)) for s in submissions]
        except Refused as problem:
            # Only its first line: the others hold what the row would have been.
            told = str(problem).partition("\n")[0]
            log.warning("the tables refused a batch", size=len(submissions), problem=told)
            if len(submissions) > 1:
                return [answer for s in submissions for answer in process_submissions(context, [s])]
            if attempt:
                return [_refused_by_tables()]
        except Unavailable as problem:
            log.warning("a batch was interrupted", attempt=attempt, problem=str(problem).strip())
            if attempt + 1 < _TRIES:
                time.sleep(0 if _deadlock(problem) else pause)
                pause *= 2
        except Exception:
            log.exception("a batch failed", size=len(submissions))
            if len(submissions) == 1:
                return [_unforeseen()]
            return [answer for s in submissions for answer in process_submissions(context, [s])]
    return [records_away() for _ in submissions]


def _choose(context: ActionContext, submission: Submission, last_choice: bool) -> SpeculativeChoice:
    """Go through the next choices with nothing locked. Three statements at most."""
    row = submission.student_term_id
    seats: dict[int, SeatFigures] = {}
    with connected(context.database, keep=True) as database:
        consents = read_consents(database, {c.consent for c in submission.request.changes if c.consent})
        situation = read_situations(database, {row: submission.term}, seats, consents)[row]
        seats.update(read_seats(database, submission.pools()))
    return SpeculativeChoice(situation, submission.request, context.clock.now(), last_choice)


def _in_transaction(
    context: ActionContext, submissions: Sequence[Submission], chosen: SpeculativeChoice | None
) -> list[SubmissionAnswer]:
    database = context.database
    lock_student_terms(database, [s.student_term_id for s in submissions])
    earlier_asked = ask_earlier_receipts(database, [(s.student_term_id, s.key) for s in submissions])
    situations_asked = ask_situations(database, {s.student_term_id: s.term for s in submissions})
    ids_asked = ask_receipt_ids(database, len(submissions))
    with_cart = [s.student_term_id for s in submissions if s.seen]
    carts_asked = ask_cart_tokens(database, with_cart) if with_cart else dict
    earlier = earlier_asked()
    seats: dict[int, SeatFigures] = {}
    consents: dict[str, Consent] = {}
    situations = situations_asked(seats, consents)
    receipt_ids = ids_asked()
    carts = carts_asked()
    stale = {s.student_term_id for s in submissions if s.seen and s.seen != carts[s.student_term_id]}
    new = {
        s.student_term_id: (s, receipt)
        for s, receipt in zip(submissions, receipt_ids, strict=True)
        if (s.student_term_id, s.key) not in earlier and s.student_term_id not in stale
    }
    speculative = SpeculativeDecisions(
        [s for s, _ in new.values()], situations, context.clock.now(), context.scarce_pools
    )
    prepared = {row: _writing(*new[row], decision) for row, decision in speculative.decisions.items()}
    codes = {c.consent for s in submissions for c in s.request.changes if c.consent}
    if codes:
        lock_consents(database, codes)
        consents.update(read_consents(database, codes))
    pools = speculative.pools
    # Seats are locked as late as can be: the other processes' batches wait for these very pools.
    lock_seats(database, pools)
    seats_asked = ask_seats(database, pools)
    versions_asked = ask_versions(database, {s.term.id for s in submissions})
    seats.update(seats_asked())
    versions = versions_asked()
    moved = {s.term.code for s in submissions if versions.get(s.term.id) != s.term.version}
    if moved:
        raise TermMoved(moved)
    # The time is taken with the locks held: whoever waited for them is judged as of now, or of a
    # moment ago within the same second.
    now = context.clock.now()
    scarce_pools = speculative.scarce_pools(seats)
    context.scarce_pools = (context.scarce_pools - pools) | scarce_pools
    still_valid = speculative.still_valid(scarce_pools, now)
    answers: list[SubmissionAnswer] = []
    writings: list[Writing] = []
    for submission, receipt in zip(submissions, receipt_ids, strict=True):
        known = earlier.get((submission.student_term_id, submission.key))
        if known is None and submission.student_term_id in stale:
            answers.append(cart_moved())
        elif known is None:
            row = submission.student_term_id
            if row in still_valid:
                writing = prepared[row]
            elif chosen is not None:
                writing = _writing(submission, receipt, chosen.decide(situations[row], now))
            elif submission.plans is not None:
                decided = decide_plans(situations[row], submission.plans, now)
                writing = _writing(submission, receipt, decided.decision, decided)
            else:
                _, decision = decide_with_alternatives(situations[row], submission.request, now)
                writing = _writing(submission, receipt, decision)
            # The next in the batch sees what this one leaves, where it matters.
            writing.decision.move_seats(seats, only=scarce_pools)
            _use_up(consents, writing.decision)
            writings.append(writing)
            answers.append(Receipt(receipt, now, writing.body))
        elif known.digest != submission.digest:
            answers.append(key_used())
        else:
            body = orjson.dumps(known.body)
            answers.append(Receipt(known.id, known.sent_at, body, repeated=True))
    if writings:
        write(database, writings, now)
    return answers


def _use_up(consents: dict[str, Consent], decision: Decision) -> None:
    for outcome in decision.outcomes:
        code = outcome.change.consent
        # What was granted is one student's own, who stands in a batch once.
        if outcome.takes is not None and outcome.takes.consents and code:
            consents[code] = replace(consents[code], used=True)


def _writing(
    submission: Submission, receipt: int, decision: Decision, decided: PlansDecided | None = None
) -> Writing:
    mode = submission.request.mode if decided is None else decided.request.mode
    body = receipt_data(decision, mode, submission.by_name, decided)
    return Writing(
        receipt,
        submission.student_term_id,
        submission.term.id,
        submission.key,
        submission.digest,
        submission.by,
        decision,
        orjson.dumps(body),
        decided is not None,
    )


def _deadlock(problem: BaseException) -> bool:
    """Whether PostgreSQL ended the transaction only because of others, and it may go again."""
    cause = getattr(problem, "orig", problem)
    return isinstance(cause, psycopg.errors.DeadlockDetected | psycopg.errors.SerializationFailure)


def _refused_by_tables() -> Problem:
    return Problem(
        ProblemKind.RECORDS_MOVED, "Nothing was changed. Look at the cart again and send it once more."
    )


def _unforeseen() -> Problem:
    return Problem(
        ProblemKind.NOT_PUT_THROUGH,
        "Nothing was changed and your cart is kept. Send it again; if it happens once more, tell "
        "the registrar's office what you sent and when.",
    )
