"""Assigns registration windows by rule, and sets one for one student."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime

from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.context import ActionContext
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.messages import Message
from gremba.core.states import TermState
from gremba.core.windows.assigning import (
    Assignment,
    AssignmentMistake,
    AssignmentRule,
    Habit,
    assign,
    rule_data,
)
from gremba.core.windows.window_messages import window_message
from gremba.core.wording import counted, moment
from gremba.store.catalogue.terms import lock_term
from gremba.store.database import connected
from gremba.store.messages.inbox import put_notice, put_notices
from gremba.store.students.people import note_office_event
from gremba.store.windows import (
    Assigned,
    OwnWindow,
    read_candidates,
    read_habit,
    set_window,
    windows_of,
    windows_to_come,
    write_assignment,
)


@dataclass(frozen=True, slots=True)
class Preview:
    """The result of an assignment as things stand."""

    assignment: Assignment
    habit: Habit


def preview_assignment(
    context: ActionContext, code: str, rule: AssignmentRule, *, moves_assigned: bool
) -> Preview:
    """Assign without keeping anything.

    Raises:
        Problem: there is no such term, or the rule cannot be followed.
    """
    term = context.term(code)
    with connected(context.database) as database, database.atomic():
        assignment = _assign(context, database, term, rule, moves_assigned=moves_assigned)
        return Preview(assignment, read_habit(database, context.clock.now()))


def publish_assignment(
    context: ActionContext,
    code: str,
    rule: AssignmentRule,
    *,
    moves_assigned: bool,
    digest: str,
    person_id: int,
) -> list[Assigned]:
    """Assign windows, store them, and tell everybody; in a term in setup, students are told when it opens.

    Args:
        digest: of the assignment that was looked at.

    Raises:
        Problem: there is no such term, the rule cannot be followed, somebody is left without a window, or it
            would be another assignment now.
    """
    term = context.term(code)
    now = context.clock.now()
    with connected(context.database) as database, database.atomic():
        # Of two at once the second assigns what the first has left.
        state = lock_term(database, code)
        assignment = _assign(context, database, term, rule, moves_assigned=moves_assigned)
        if assignment.digest() != digest:
            raise Problem(
                ProblemKind.ASSIGNMENT_MOVED,
                "Students, records or windows have changed. Look at it once more.",
            )
        if assignment.left:
            raise Problem(
                ProblemKind.ASSIGNMENT_WRONG,
                f"{counted(assignment.left, 'student', 'students')} would be left without a window; give it "
                "more slots.",
            )
        if not assignment.assigned:
            raise Problem(ProblemKind.ASSIGNMENT_WRONG, "Everybody has a window already.")
        assigned = write_assignment(
            database, term.id, rule_data(rule), assignment.opens_by_id(), rule.closes_at, now, person_id
        )
        if state is not TermState.PREPARED:
            put_notices(database, _told(term, rule, assigned), now)
    return assigned


def tell_windows(database: PooledPostgresqlDatabase, term: TermCatalogue, now: datetime) -> None:
    """Tell everybody their window in a term that opens for the first time."""
    told = (
        (row, window_message(term, *windows[0]))
        for row, windows in windows_to_come(database, term.id, now).items()
    )
    put_notices(database, told, now)


def _assign(
    context: ActionContext,
    database: PooledPostgresqlDatabase,
    term: TermCatalogue,
    rule: AssignmentRule,
    *,
    moves_assigned: bool,
) -> Assignment:
    now = context.clock.now()
    candidates = read_candidates(database, term, now, moves_assigned=moves_assigned)
    try:
        assignment = assign(candidates, rule, term.calendar.zone)
    except AssignmentMistake as problem:
        raise Problem(ProblemKind.ASSIGNMENT_WRONG, str(problem)) from None
    if assignment.slots and assignment.slots[0].opens_at <= now:
        raise Problem(ProblemKind.ASSIGNMENT_WRONG, "The first slot has passed already; begin later.")
    return assignment


def _told(
    term: TermCatalogue, rule: AssignmentRule, assigned: list[Assigned]
) -> Iterator[tuple[int, Message]]:
    for one in assigned:
        yield one.student_term, window_message(term, one.opens_at, rule.closes_at, one.before)


@dataclass(frozen=True, slots=True)
class WindowWanted:
    """A window to give to one student.

    Attributes:
        before: when the window opens that is to become another one; None for one more.
        reason: told to the student, and kept.
    """

    before: datetime | None
    opens_at: datetime
    closes_at: datetime
    reason: str


def give_window(
    context: ActionContext, code: str, student_id: int, wanted: WindowWanted, person_id: int
) -> list[OwnWindow]:
    """Give a student a window, or replace one; returns all of them.

    Raises:
        Problem: there is no such term or student, the times are not in order, or the window meant is
            gone.
    """
    term = context.term(code)
    row = context.student_term(student_id, term)
    if not wanted.opens_at < wanted.closes_at:
        raise Problem(ProblemKind.WINDOW_WRONG, "It must close after it opens.")
    now = context.clock.now()
    with connected(context.database) as database, database.atomic():
        # Whoever assigns windows at this moment has done so, or waits.
        state = lock_term(database, code)
        opening = {window.opens_at for window in windows_of(database, row)}
        if wanted.before is not None and wanted.before not in opening:
            raise Problem(ProblemKind.WINDOW_WRONG, "That window is another one meanwhile; look at it again.")
        if wanted.opens_at in opening - {wanted.before}:
            raise Problem(ProblemKind.WINDOW_WRONG, "The student has a window that opens at that moment.")
        set_window(database, row, wanted.before, wanted.opens_at, wanted.closes_at)
        zone = term.calendar.zone
        times = " to ".join(moment(one.astimezone(zone)) for one in (wanted.opens_at, wanted.closes_at))
        detail = f"{times}, {term.name}: {wanted.reason}"
        note_office_event(database, student_id, person_id, "window", detail, now)
        if state is not TermState.PREPARED:
            told = window_message(term, wanted.opens_at, wanted.closes_at, wanted.before, wanted.reason)
            put_notice(database, row, told, now)
        return windows_of(database, row)
