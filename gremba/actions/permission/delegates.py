"""Sets a delegate who decides while somebody is away."""

from __future__ import annotations

from datetime import date, timedelta

from gremba.actions.context import ActionContext
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.catalogue.term import TermCatalogue
from gremba.store.database import connected
from gremba.store.permission.requests import (
    DelegateRow,
    colleague_by_username,
    delegates_on,
    end_delegate,
    insert_delegate,
)

LONGEST = timedelta(days=366)
MAX_DELEGATES = 5
"""Delegates that one person may have named at a time."""


def delegates_of(context: ActionContext, term: TermCatalogue, person_id: int) -> list[DelegateRow]:
    """Somebody's delegates, and those they are a delegate of, from today on. One statement."""
    today = term.calendar.local_date(context.clock.now())
    with connected(context.database) as database:
        return [d for d in delegates_on(database, today) if person_id in (d.person, d.delegate)]


def name_delegate(
    context: ActionContext,
    term: TermCatalogue,
    person_id: int,
    username: str,
    from_on: date,
    until_on: date,
) -> None:
    """Delegate one's decisions to a colleague as well, from one day through another.

    Raises:
        Problem: there is no such colleague, it is oneself, the days are over or too many, or enough are
            named.
    """
    today = term.calendar.local_date(context.clock.now())
    if not today <= until_on or from_on > until_on or until_on - from_on > LONGEST:
        raise Problem(
            ProblemKind.DELEGATE_RANGE, "Choose days to come, the first before the last, a year at the most."
        )
    with connected(context.database) as database, database.atomic():
        delegate = colleague_by_username(database, username)
        if delegate is None or delegate == person_id:
            raise Problem(
                ProblemKind.DELEGATE_RANGE,
                f"“{username[:40]}” is no colleague who could decide: an instructor, an advisor or the "
                "registrar.",
            )
        if sum(d.person == person_id for d in delegates_on(database, today)) >= MAX_DELEGATES:
            raise Problem(ProblemKind.DELEGATE_RANGE, "Call one of your delegates off first.")
        insert_delegate(database, person_id, delegate, from_on, until_on)


def call_off(context: ActionContext, person_id: int, delegate_id: int) -> None:
    """End a delegation of one's own.

    Raises:
        Problem: there is none.
    """
    with connected(context.database) as database:
        if not end_delegate(database, delegate_id, person_id, context.clock.now()):
            raise Problem(ProblemKind.DELEGATE_UNKNOWN, "Look again who stands in for you.")
