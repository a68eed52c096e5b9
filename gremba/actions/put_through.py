"""Sending: a request is decided on locked rows, and what the decision says is written."""

from __future__ import annotations

import hashlib
import time
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

import orjson
import psycopg
import structlog

from gremba.actions.desk import Desk
from gremba.actions.problem import Problem, desk_away
from gremba.core.catalogue import TermCatalogue
from gremba.core.changes import Kind, Request
from gremba.core.decision import Decision, Result, decide
from gremba.core.situation import SeatFigures
from gremba.formats.decision_json import decision_data
from gremba.store.database import Refused, Unavailable, connected, in_few_trips
from gremba.store.registrations import Writing, ask_earlier_receipts, ask_receipt_ids, write
from gremba.store.situations import (
    ask_seats,
    ask_situations,
    lock_seats,
    lock_student_terms,
)

log = structlog.get_logger()

_TRIES = 5
_FIRST_PAUSE = 0.1


@dataclass(frozen=True, slots=True)
class Sending:
    """A request on its way.

    Attributes:
        key: the sender's own name for it; the same key gets the same receipt.
        by: who sends it; by_name is written on the receipt.
    """

    student_term_id: int
    term: TermCatalogue
    request: Request
    key: str
    by: int
    by_name: str

    @property
    def digest(self) -> bytes:
        """Tells whether a key was used for this very request."""
        changes = [[c.kind, c.number, c.grading, c.credits] for c in self.request.changes]
        return hashlib.sha256(orjson.dumps([changes, self.request.mode])).digest()

    def pools(self) -> set[int]:
        """Every seat pool that the request could change."""
        sections = (self.term.by_number.get(c.number) for c in self.request.changes)
        return {s.pool for s in sections if s is not None}


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


Answer = Receipt | Problem


def put_through(desk: Desk, sendings: Sequence[Sending]) -> list[Answer]:
    """Put a batch through in one transaction, in order of arrival; a student stands in it once.

    If the tables refuse the batch, each sending is tried alone, so that one never spoils
    another. While the database is away it is tried again for some seconds.

    Statements, in two trips: lock students, receipts by key, situations, new receipts' numbers,
    lock seats, their figures; then up to four that write.
    """
    pause = _FIRST_PAUSE
    for attempt in range(_TRIES):
        try:
            with connected(desk.database) as database, in_few_trips(database):
                return _in_transaction(desk, sendings)
        except Refused as problem:
            log.warning("the tables refused a batch", size=len(sendings), problem=str(problem))
            if len(sendings) == 1:
                return [_refused_by_tables()]
            return [answer for s in sendings for answer in put_through(desk, [s])]
        except Unavailable as problem:
            log.warning("a batch was interrupted", attempt=attempt, problem=str(problem).strip())
            if attempt + 1 < _TRIES:
                time.sleep(0 if _deadlock(problem) else pause)
                pause *= 2
        except Exception:
            log.exception("a batch failed", size=len(sendings))
            if len(sendings) == 1:
                return [_unforeseen()]
            return [answer for s in sendings for answer in put_through(desk, [s])]
    return [desk_away() for _ in sendings]


def _in_transaction(desk: Desk, sendings: Sequence[Sending]) -> list[Answer]:
    database = desk.database
    pools: set[int] = set().union(*(s.pools() for s in sendings))
    lock_student_terms(database, [s.student_term_id for s in sendings])
    earlier_asked = ask_earlier_receipts(database, [(s.student_term_id, s.key) for s in sendings])
    situations_asked = ask_situations(database, {s.student_term_id: s.term for s in sendings})
    ids_asked = ask_receipt_ids(database, len(sendings))
    # Pools are locked last: other batches may wait for these very seats.
    lock_seats(database, pools)
    seats_asked = ask_seats(database, pools)

    earlier, seats = earlier_asked(), seats_asked()
    situations = situations_asked(seats)
    # The time is taken with the locks held: whoever waited for them is judged as of now.
    now = desk.clock.now()
    answers: list[Answer] = []
    writings: list[Writing] = []
    for sending, receipt in zip(sendings, ids_asked(), strict=True):
        known = earlier.get((sending.student_term_id, sending.key))
        if known is None:
            decision = decide(situations[sending.student_term_id], sending.request, now)
            _move_seats(seats, decision)
            writings.append(_writing(sending, receipt, decision, now))
            answers.append(Receipt(receipt, now, writings[-1].body))
        elif known[1] != sending.digest:
            answers.append(_key_used())
        else:
            answers.append(Receipt(known[0], known[3], orjson.dumps(known[2]), repeated=True))
    if writings:
        write(database, writings)
    return answers


def _move_seats(seats: dict[int, SeatFigures], decision: Decision) -> None:
    for outcome in decision.outcomes:
        if outcome.result is Result.ACCEPTED and outcome.section is not None:
            pool = outcome.section.pool
            seats[pool] = seats[pool].after(1 if outcome.change.kind is Kind.ADD else -1)


def _writing(sending: Sending, receipt: int, decision: Decision, now: datetime) -> Writing:
    body: dict[str, Any] = {
        "mode": sending.request.mode.value,
        "sent_by": sending.by_name,
        **decision_data(decision),
    }
    return Writing(
        receipt, sending.student_term_id, sending.term.id, sending.key, sending.digest, now, sending.by,
        decision, orjson.dumps(body),
    )  # fmt: skip


def _deadlock(problem: BaseException) -> bool:
    """Whether PostgreSQL ended the transaction only because of others, and it may go again."""
    cause = getattr(problem, "orig", problem)
    return isinstance(cause, psycopg.errors.DeadlockDetected | psycopg.errors.SerializationFailure)


def _key_used() -> Problem:
    return Problem(
        "key-used",
        "This key was used for other changes",
        "Each sending needs an Idempotency-Key of its own; only a repetition may carry the same.",
        422,
    )


def _refused_by_tables() -> Problem:
    return Problem(
        "records-moved",
        "Something changed while this was put through",
        "Nothing was changed. Look at the cart again and send it once more.",
        409,
    )


def _unforeseen() -> Problem:
    return Problem(
        "unforeseen",
        "This could not be put through",
        "Nothing was changed and your cart is kept. Send it again; if it happens once more, tell "
        "the registrar's office what you sent and when.",
        500,
    )
