"""Processes submissions: decides them on locked rows and writes the outcome."""

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
from gremba.core.permission.permission_code import PermissionCode
from gremba.core.registration.alternatives.backup_sections import decide_with_alternatives
from gremba.core.registration.outcome import Decision
from gremba.core.registration.plans import PlansDecided, decide_plans
from gremba.formats.confirmation import confirmation_data
from gremba.store.catalogue.terms import ask_versions
from gremba.store.database import Refused, Unavailable, connected, in_few_trips
from gremba.store.registration.carts import ask_cart_tokens
from gremba.store.registration.situations import (
    ask_seats,
    ask_situations,
    lock_permission_codes,
    lock_seats,
    lock_student_terms,
    read_permission_codes,
    read_seats,
    read_situations,
)
from gremba.store.registration.writing.batch import write
from gremba.store.registration.writing.confirmations import ask_confirmation_ids, ask_earlier_confirmations
from gremba.store.registration.writing.decided import Writing

log = structlog.get_logger()

_TRIES = 5
_FIRST_PAUSE = 0.1


@dataclass(frozen=True, slots=True)
class Confirmation:
    """What was submitted and the results.

    Attributes:
        body: the decision as JSON.
        repeated: it had been sent before, and this is the confirmation of that time.
    """

    id: int
    sent_at: datetime
    body: bytes
    repeated: bool = False


SubmissionAnswer = Confirmation | Problem


def process_submissions(context: ActionContext, submissions: Sequence[Submission]) -> list[SubmissionAnswer]:
    """Process a batch in one transaction, in order of arrival; a student appears in it once.

    If the tables refuse the batch, each submission is tried alone, so that one never spoils
    another; one that has next choices always is. While the database is away it is tried again for
    some seconds.

    Statements, in three trips: lock students, confirmations by key, situations, new confirmations' numbers;
    lock seats, their figures; then up to seven that write. Two more where permission codes are named,
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
    """Tries backup sections with nothing locked. Three statements at most."""
    row = submission.student_term_id
    seats: dict[int, SeatFigures] = {}
    with connected(context.database, keep=True) as database:
        permission_codes = read_permission_codes(
            database, {c.permission_code for c in submission.request.changes if c.permission_code}
        )
        situation = read_situations(database, {row: submission.term}, seats, permission_codes)[row]
        seats.update(read_seats(database, submission.pools()))
    return SpeculativeChoice(situation, submission.request, context.clock.now(), last_choice)


def _in_transaction(
    context: ActionContext, submissions: Sequence[Submission], chosen: SpeculativeChoice | None
) -> list[SubmissionAnswer]:
    database = context.database
    lock_student_terms(database, [s.student_term_id for s in submissions])
    earlier_asked = ask_earlier_confirmations(database, [(s.student_term_id, s.key) for s in submissions])
    situations_asked = ask_situations(database, {s.student_term_id: s.term for s in submissions})
    ids_asked = ask_confirmation_ids(database, len(submissions))
    with_cart = [s.student_term_id for s in submissions if s.seen]
    carts_asked = ask_cart_tokens(database, with_cart) if with_cart else dict
    earlier = earlier_asked()
    seats: dict[int, SeatFigures] = {}
    permission_codes: dict[str, PermissionCode] = {}
    situations = situations_asked(seats, permission_codes)
    confirmation_ids = ids_asked()
    carts = carts_asked()
    stale = {s.student_term_id for s in submissions if s.seen and s.seen != carts[s.student_term_id]}
    new = {
        s.student_term_id: (s, confirmation)
        for s, confirmation in zip(submissions, confirmation_ids, strict=True)
        if (s.student_term_id, s.key) not in earlier and s.student_term_id not in stale
    }
    speculative = SpeculativeDecisions(
        [s for s, _ in new.values()], situations, context.clock.now(), context.scarce_pools
    )
    prepared = {row: _writing(*new[row], decision) for row, decision in speculative.decisions.items()}
    codes = {c.permission_code for s in submissions for c in s.request.changes if c.permission_code}
    if codes:
        lock_permission_codes(database, codes)
        permission_codes.update(read_permission_codes(database, codes))
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
    for submission, confirmation in zip(submissions, confirmation_ids, strict=True):
        known = earlier.get((submission.student_term_id, submission.key))
        if known is None and submission.student_term_id in stale:
            answers.append(cart_moved())
        elif known is None:
            row = submission.student_term_id
            if row in still_valid:
                writing = prepared[row]
            elif chosen is not None:
                writing = _writing(submission, confirmation, chosen.decide(situations[row], now))
            elif submission.plans is not None:
                decided = decide_plans(situations[row], submission.plans, now)
                writing = _writing(submission, confirmation, decided.decision, decided)
            else:
                _, decision = decide_with_alternatives(situations[row], submission.request, now)
                writing = _writing(submission, confirmation, decision)
            # The next in the batch sees what this one leaves, where it matters.
            writing.decision.move_seats(seats, only=scarce_pools)
            _use_up(permission_codes, writing.decision)
            writings.append(writing)
            answers.append(Confirmation(confirmation, now, writing.body))
        elif known.digest != submission.digest:
            answers.append(key_used())
        else:
            body = orjson.dumps(known.body)
            answers.append(Confirmation(known.id, known.sent_at, body, repeated=True))
    if writings:
        write(database, writings, now)
    return answers


def _use_up(permission_codes: dict[str, PermissionCode], decision: Decision) -> None:
    for outcome in decision.outcomes:
        code = outcome.change.permission_code
        # What was granted is one student's own, who stands in a batch once.
        if outcome.takes is not None and outcome.takes.permission_codes and code:
            permission_codes[code] = replace(permission_codes[code], used=True)


def _writing(
    submission: Submission, confirmation: int, decision: Decision, decided: PlansDecided | None = None
) -> Writing:
    mode = submission.request.mode if decided is None else decided.request.mode
    body = confirmation_data(decision, mode, submission.by_name, decided)
    return Writing(
        confirmation,
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
    """Whether PostgreSQL aborted the transaction only because of others, so that it can be retried."""
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
