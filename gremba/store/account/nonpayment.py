"""Stores drops for nonpayment: each date's, its result for each student, and the warnings before it."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass
from datetime import datetime, timedelta

from peewee import fn
from playhouse.pool import PooledPostgresqlDatabase
from psycopg.types.json import Jsonb

from gremba.core.account.nonpayment import NonpaymentResult
from gremba.core.messages import Message
from gremba.core.states import RegistrationEventKind, RegistrationState
from gremba.store.database import send_sql
from gremba.store.models import (
    DueWarning,
    JoinedPlan,
    NonpaymentDrop,
    NonpaymentResultLine,
    Person,
    Registration,
    RegistrationEvent,
    StudentTerm,
)
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


@dataclass(frozen=True, slots=True)
class NonpaymentDropLine:
    """The drop for nonpayment of a due date.

    Attributes:
        done_at: None while it is being made.
    """

    id: int
    due_at: datetime
    begun_at: datetime
    done_at: datetime | None


def nonpayment_drops_of(
    database: PooledPostgresqlDatabase, term_id: int
) -> dict[datetime, NonpaymentDropLine]:
    """A term's drops for nonpayment, by due date. One statement."""
    query = NonpaymentDrop.select(*columns(NonpaymentDropLine, NonpaymentDrop)).where(
        NonpaymentDrop.term == term_id
    )
    return {line.due_at: line for line in fetch(database, query, NonpaymentDropLine)}


def begin_nonpayment_drop(
    database: PooledPostgresqlDatabase, term_id: int, due_at: datetime, at: datetime, by: int | None
) -> NonpaymentDropLine:
    """The drop for nonpayment of a due date; created if necessary."""
    new = NonpaymentDrop.insert(term=term_id, due_at=due_at, begun_at=at, begun_by=by)
    write(database, new.on_conflict_ignore())
    return nonpayment_drops_of(database, term_id)[due_at]


def take_nonpayment_drop(
    database: PooledPostgresqlDatabase, nonpayment_drop: int, worker: str, seconds: float
) -> bool:
    """Lease a drop for nonpayment to this process, or extend the lease; returns whether it has it."""
    mine = NonpaymentDrop.update(worked_until=fn.now() + timedelta(seconds=seconds), worker=worker)
    free = (
        NonpaymentDrop.worked_until.is_null()
        | (NonpaymentDrop.worked_until < fn.now())
        | (NonpaymentDrop.worker == worker)
    )
    return (
        write(
            database, mine.where(NonpaymentDrop.id == nonpayment_drop, NonpaymentDrop.done_at.is_null(), free)
        )
        == 1
    )


def end_nonpayment_drop(database: PooledPostgresqlDatabase, nonpayment_drop: int, at: datetime) -> None:
    """Record that the drop is complete."""
    write(
        database,
        NonpaymentDrop.update(done_at=at).where(
            NonpaymentDrop.id == nonpayment_drop, NonpaymentDrop.done_at.is_null()
        ),
    )


def rows_to_judge(
    database: PooledPostgresqlDatabase, term_id: int, nonpayment_drop: int, after: int, most: int
) -> list[int]:
    """Term rows of registered students whom the drop has not judged, ascending from a cursor on."""
    own, judged = Registration, NonpaymentResultLine
    done = judged.select(judged.student_term).where(
        judged.nonpayment_drop == nonpayment_drop, judged.student_term == own.student_term_id
    )
    query = own.select(own.student_term_id).where(
        own.term_id == term_id,
        own.student_term_id > after,
        own.state == literal(RegistrationState.REGISTERED),
        ~fn.EXISTS(done),
    )
    return fetch_values(database, query.distinct().order_by(own.student_term_id).limit(most))


@dataclass(frozen=True, slots=True)
class NewResult:
    """The drop's result for a student; see :class:`gremba.core.account.nonpayment.NonpaymentJudgement`."""

    row: int
    result: NonpaymentResult
    owed_cents: int
    why: str
    confirmation: int | None = None


def note_results(
    database: PooledPostgresqlDatabase, nonpayment_drop: int, results: Iterable[NewResult], at: datetime
) -> None:
    """Store results for students who have none yet."""
    rows = [
        {
            "nonpayment_drop": nonpayment_drop,
            "student_term": result.row,
            "result": result.result,
            "owed_cents": result.owed_cents,
            "why": result.why,
            "confirmation": result.confirmation,
            "at": at,
        }
        for result in results
    ]
    if rows:
        write(database, NonpaymentResultLine.insert_many(rows).on_conflict_ignore())


_JUDGED = "SELECT 1 FROM nonpayment_results WHERE nonpayment_drop_id = %s AND student_term_id = %s"

_RESULT = """
WITH told AS (
    INSERT INTO messages (student_term_id, kind, facts, made_at)
    SELECT %(row)s, %(kind)s, %(facts)s, %(at)s WHERE %(kind)s::text IS NOT NULL
)
INSERT INTO nonpayment_results (nonpayment_drop_id, student_term_id, result, owed_cents, why,
confirmation_id, at) VALUES (%(nonpayment_drop)s, %(row)s, %(result)s, %(owed)s, %(why)s, %(confirmation)s,
%(at)s) """
# Both once for each of thousands of students, in as few trips as can be.


def ask_judged(database: PooledPostgresqlDatabase, nonpayment_drop: int, row: int) -> Callable[[], bool]:
    """Send a query whether the drop has judged a student; the function returned reads the answer."""
    asked = send_sql(database, _JUDGED, (nonpayment_drop, row))
    return lambda: asked.fetchone() is not None


def write_result(
    database: PooledPostgresqlDatabase,
    nonpayment_drop: int,
    result: NewResult,
    told: Message | None,
    at: datetime,
) -> None:
    """Store a student's first result, and tell them."""
    send_sql(
        database,
        _RESULT,
        {
            "row": result.row,
            "kind": told and told.kind.value,
            "facts": Jsonb(dict(told.facts)) if told else None,
            "at": at,
            "nonpayment_drop": nonpayment_drop,
            "result": result.result.value,
            "owed": result.owed_cents,
            "why": result.why,
            "confirmation": result.confirmation,
        },
    )


def count_results(database: PooledPostgresqlDatabase, nonpayment_drop: int) -> dict[NonpaymentResult, int]:
    """The number of students by result."""
    own = NonpaymentResultLine
    query = (
        own.select(own.result, fn.count(own.student_term))
        .where(own.nonpayment_drop == nonpayment_drop)
        .group_by(own.result)
    )
    return {NonpaymentResult(result): int(many) for result, many in fetch_tuples(database, query)}


@dataclass(frozen=True, slots=True)
class ShownResult:
    """The drop's result for a student, as the cashier sees it."""

    student_id: int
    username: str
    full_name: str
    result: NonpaymentResult
    owed_cents: int
    why: str
    confirmation: int | None
    row: int


def list_results(
    database: PooledPostgresqlDatabase,
    nonpayment_drop: int,
    which: Collection[NonpaymentResult],
    after: int,
    most: int,
) -> list[ShownResult]:
    """The drop's results by term row, from a cursor on."""
    own, holder, person = NonpaymentResultLine, StudentTerm, Person
    selected = columns(
        ShownResult,
        own,
        student_id=holder.student,
        username=person.username,
        full_name=person.full_name,
        row=own.student_term,
        confirmation=own.confirmation,
    )
    query = own.select(*selected).join(holder, on=holder.id == own.student_term)
    query = query.join(person, on=person.id == holder.student)
    query = query.where(
        own.nonpayment_drop == nonpayment_drop, own.result.in_(list(which)), own.student_term > after
    )
    return fetch(database, query.order_by(own.student_term).limit(most), ShownResult)


@dataclass(frozen=True, slots=True)
class LostSeats:
    """A student's sections dropped for nonpayment.

    Attributes:
        owed_cents: what was missing then.
        confirmation: of the sections that were dropped.
    """

    due_at: datetime
    at: datetime
    owed_cents: int
    why: str
    confirmation: int


def lost_seats(database: PooledPostgresqlDatabase, row: int) -> LostSeats | None:
    """The last sections a student was dropped from; None if there are none."""
    own = NonpaymentResultLine
    query = own.select(*columns(LostSeats, own, due_at=NonpaymentDrop.due_at, confirmation=own.confirmation))
    query = query.join(NonpaymentDrop, on=NonpaymentDrop.id == own.nonpayment_drop).where(
        own.student_term == row, own.result == literal(NonpaymentResult.LOST)
    )
    return fetch_one(database, query.order_by(own.at.desc(), own.nonpayment_drop.desc()), LostSeats)


def sections_dropped_by(database: PooledPostgresqlDatabase, confirmation: int) -> list[int]:
    """Ids of the sections dropped with a confirmation, in order of registration."""
    own, happened = Registration, RegistrationEvent
    query = own.select(own.section_id).join(happened, on=happened.registration == own.id)
    query = query.where(
        happened.confirmation == confirmation, happened.what != literal(RegistrationEventKind.ADJUSTED)
    )
    return fetch_values(database, query.order_by(own.id))


def not_warned(
    database: PooledPostgresqlDatabase, rows: Collection[int], due_at: datetime, days: int
) -> list[int]:
    """Those of these students not warned that many days before a due date."""
    own = DueWarning
    query = own.select(own.student_term).where(
        one_of(own.student_term, rows), own.due_at == due_at, own.days_before == days
    )
    warned = set(fetch_values(database, query))
    return [row for row in rows if row not in warned]


def note_warnings(
    database: PooledPostgresqlDatabase, rows: Collection[int], due_at: datetime, days: int, at: datetime
) -> list[int]:
    """Record warnings; returns the students who had none."""
    if not rows:
        return []
    own = DueWarning
    new = own.insert_many(
        [{"student_term": row, "due_at": due_at, "days_before": days, "warned_at": at} for row in rows]
    )
    return fetch_values(database, new.on_conflict_ignore().returning(own.student_term))


def rows_in_plans(database: PooledPostgresqlDatabase, term_id: int, after: int, most: int) -> list[int]:
    """Term rows of students in an installment plan, ascending from a cursor on."""
    own = JoinedPlan
    query = (
        own.select(own.student_term)
        .join(StudentTerm)
        .where(StudentTerm.term == term_id, own.student_term > after)
    )
    return fetch_values(database, query.order_by(own.student_term).limit(most))


def students_of_rows(database: PooledPostgresqlDatabase, rows: Collection[int]) -> dict[int, int]:
    """The student of each of these term rows."""
    query = StudentTerm.select(StudentTerm.id, StudentTerm.student).where(one_of(StudentTerm.id, rows))
    return dict(fetch_tuples(database, query))
