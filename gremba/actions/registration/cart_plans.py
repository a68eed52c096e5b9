"""Plans in a cart: adds them from Timetables, orders them and previews their outcome."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from datetime import datetime

from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.actor import SubjectStudent
from gremba.actions.context import ActionContext
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.actions.registration.look_at_cart import as_of_opening, pools_in_sight
from gremba.actions.timetables.ask import Asked, changes_for
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.registration.changes import Request
from gremba.core.registration.plans import (
    MOST_PLANS,
    PlanFallback,
    Plans,
    PlansDecided,
    PlanVerdict,
    decide_plans,
    judge_plans,
)
from gremba.core.registration.situation import Situation
from gremba.core.windows.opening import WindowStatus, window_status
from gremba.store.catalogue.seat_board import SeatBoard
from gremba.store.database import connected, reading
from gremba.store.registration.cart_plans import (
    StoredPlan,
    add_plan,
    order_plans,
    read_fallback,
    read_plans,
    set_fallback,
)
from gremba.store.registration.carts import lock_cart
from gremba.store.registration.situations import read_seats, read_situations
from gremba.store.students.people import note_office_event


@dataclass(frozen=True, slots=True)
class JudgedPlans:
    """The cart's plans, and the result of submitting them.

    Attributes:
        as_of: the time for which it holds: now, or before the window its opening.
        verdicts: of each plan by itself.
        decided: what sending them would do; None where there is none.
    """

    term: TermCatalogue
    situation: Situation
    plans: Sequence[StoredPlan]
    fallback: PlanFallback
    window: WindowStatus
    now: datetime
    as_of: datetime
    verdicts: Sequence[PlanVerdict]
    decided: PlansDecided | None


def look_at_plans(context: ActionContext, student_id: int, term_code: str) -> JudgedPlans:
    """Read and decide the plans. Statements: plans, fallback, situation, seats.

    Raises:
        Problem: no such term, or the student is not expected in it.
    """
    term = context.term(term_code)
    row = context.student_term(student_id, term)
    seats: dict[int, SeatFigures] = {}
    with reading(context.database) as database:
        stored = read_plans(database, row)
        fallback = read_fallback(database, row)
        situation = read_situations(database, {row: term}, seats)[row]
        every = Request(tuple(c for p in stored for c in p.changes))
        seats.update(read_seats(database, pools_in_sight(situation, every)))
    now = context.clock.now()
    as_of = as_of_opening(situation, now)
    plans = Plans(tuple(Request(p.changes) for p in stored), fallback)
    decided = decide_plans(situation, plans, as_of) if stored else None
    window = window_status(situation.windows, now)
    verdicts = judge_plans(situation, plans, as_of)
    return JudgedPlans(term, situation, stored, fallback, window, now, as_of, verdicts, decided)


def put_plan(context: ActionContext, board: SeatBoard, subject: SubjectStudent, asked: Asked) -> None:
    """Add a timetable to the cart's plans, in last place; one that is already there stays where it is.

    Raises:
        Problem: the timetable does not work as things are, or there are as many plans as there may be.
    """
    changes = [replace(c, alternatives=()) for c in changes_for(context, board, asked)]
    with _open_plans(context, subject, asked.term_code, "put a plan into the cart") as (database, row):
        stored = read_plans(database, row)
        wanted = {(c.kind, c.number) for c in changes}
        if any({(c.kind, c.number) for c in plan.changes} == wanted for plan in stored):
            return
        if len(stored) >= MOST_PLANS:
            raise Problem(ProblemKind.TOO_MANY_PLANS, "Take one of them out first.", most=MOST_PLANS)
        add_plan(database, row, len(stored) + 1, changes, context.clock.now())


def put_plans_in_order(
    context: ActionContext, subject: SubjectStudent, term_code: str, ids: Sequence[int]
) -> None:
    """Reorder the plans; those not named are removed.

    Raises:
        Problem: one of them is not there any more.
    """
    with _open_plans(context, subject, term_code, "put the plans in order") as (database, row):
        there = {plan.id for plan in read_plans(database, row)}
        if len(set(ids)) != len(ids) or not there.issuperset(ids):
            raise Problem(
                ProblemKind.CART_MOVED,
                "The plans were changed in another window. Look at them as they are now, and do it again.",
            )
        order_plans(database, row, ids)


def choose_fallback(
    context: ActionContext, subject: SubjectStudent, term_code: str, fallback: PlanFallback
) -> None:
    """Choose what happens if no plan can be registered completely."""
    with _open_plans(context, subject, term_code, f"chose “{fallback.value}”") as (database, row):
        set_fallback(database, row, fallback)


@contextmanager
def _open_plans(
    context: ActionContext, subject: SubjectStudent, term_code: str, what: str
) -> Iterator[tuple[PooledPostgresqlDatabase, int]]:
    """Opens the plans in a transaction with the cart locked. Changes by an office are recorded."""
    term = context.term(term_code)
    row = context.student_term(subject.student_id, term)
    with connected(context.database) as database, database.atomic():
        lock_cart(database, row)
        yield database, row
        if subject.by.acts_for_another:
            detail = f"{what}, {term.name}"
            now = context.clock.now()
            note_office_event(database, subject.student_id, subject.by.id, "changed the cart", detail, now)
