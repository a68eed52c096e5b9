"""Lists the students who need their advisor now: not cleared with the window near, a blocked cart, a plan to
approve."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from gremba.actions.context import ActionContext
from gremba.actions.registration.look_at_cart import as_of_opening
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.permission.asking import still_stopping
from gremba.core.registration.changes import Request
from gremba.core.registration.decision import decide
from gremba.core.registration.outcome import Decision, Result
from gremba.core.registration.rules import ABOUT_STUDENT
from gremba.core.registration.situation import Situation
from gremba.core.states import ClearanceKind
from gremba.core.windows.opening import WindowState, window_status
from gremba.store.database import reading
from gremba.store.registration.carts import read_carts
from gremba.store.registration.situations import read_seats, read_situations
from gremba.store.students.academic_plans import plans_awaiting_advisor
from gremba.store.students.people import AdviseeLine, rows_of_advisees

NEAR = timedelta(days=3)
"""So near a window is near."""
MAX_ADVISEES = 400
"""Advisees that are looked through."""


@dataclass(frozen=True, slots=True)
class StoppedCart:
    """A cart with changes that are blocked by more than the window.

    Attributes:
        decision: of the cart as it stands: before the window as of its opening.
        stops: what stops something, in sentences that name the section.
        passing: changes that would go through, or wait.
    """

    student: AdviseeLine
    decision: Decision
    stops: tuple[str, ...]
    passing: int


@dataclass(frozen=True, slots=True)
class AdvisingDay:
    """Who needs the advisor.

    Attributes:
        unreleased: those who wait for a release, with a window that is open or near, the nearest first.
        stopped: carts that would be stopped, the nearest window first.
        plans: ids and names of those whose plan waits for the advisor's agreement.
    """

    unreleased: Sequence[AdviseeLine]
    stopped: Sequence[StoppedCart]
    plans: Sequence[tuple[int, str]]


def look_at_day(context: ActionContext, advisor_id: int, term_code: str) -> AdvisingDay:
    """Find who needs the advisor in a term. Six statements, however many students.

    Raises:
        Problem: no such term.
    """
    term = context.term(term_code)
    now = context.clock.now()
    with reading(context.database) as database:
        lines = rows_of_advisees(database, advisor_id, term.id, now, MAX_ADVISEES)
        carts = read_carts(database, [row for row, line in lines.items() if line.in_cart], term)
        seats: dict[int, SeatFigures] = {}
        situations = read_situations(database, dict.fromkeys(lines, term), seats) if lines else {}
        seats.update(read_seats(database, _pools(term, carts, situations)))
        plans = plans_awaiting_advisor(database, [line.id for line in lines.values()])
    opens = {row: _opens(situation, now) for row, situation in situations.items()}
    unreleased = [
        (opens[row], line)
        for row, line in lines.items()
        if ClearanceKind.RELEASE in situations[row].clearance_open
        and (when := opens[row]) is not None
        and when - now <= NEAR
    ]
    stopped = [
        (opens[row] or now + timedelta(days=365), found)
        for row, request in carts.items()
        if (found := _stopped(lines[row], situations[row], request, now)) is not None
    ]
    return AdvisingDay(
        [line for _, line in sorted(unreleased, key=lambda pair: (pair[0] or now, pair[1].full_name))],
        [cart for _, cart in sorted(stopped, key=lambda pair: (pair[0], pair[1].student.full_name))],
        plans,
    )


def _opens(situation: Situation, now: datetime) -> datetime | None:
    """When the student's current or next window opens; None if there is none."""
    status = window_status(situation.windows, now)
    if status.window is None or status.state not in (WindowState.OPEN, WindowState.EARLY):
        return None
    return status.window.opens_at


def _pools(
    term: TermCatalogue, carts: Mapping[int, Request], situations: Mapping[int, Situation]
) -> set[int]:
    """The pools that these carts could change."""
    numbers = {n for r in carts.values() for c in r.changes for n in (c.number, c.in_exchange)}
    pools = {s.pool for n in numbers if n in term.by_number for s in term.goes_along_with(term.by_number[n])}
    return pools | {h.section.pool for row in carts for h in situations[row].held}


def _stopped(line: AdviseeLine, situation: Situation, request: Request, now: datetime) -> StoppedCart | None:
    decision = decide(situation, request, as_of_opening(situation, now))
    stops = still_stopping(decision, leaving_out=ABOUT_STUDENT)
    if not stops:
        return None
    passing = sum(o.result is not Result.REFUSED for o in decision.outcomes)
    return StoppedCart(line, decision, stops, passing)
