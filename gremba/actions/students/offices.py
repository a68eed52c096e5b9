"""Actions of advisors and the cashier on a student."""

from __future__ import annotations

from collections.abc import Sequence

from gremba.actions.context import ActionContext
from gremba.actions.once import is_repeated
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.states import ClearanceKind
from gremba.core.wording import amount, credits_text
from gremba.store.database import connected, reading
from gremba.store.students.clearance import release_open_item, set_item
from gremba.store.students.holds import HoldLine, holds_of, lift_hold, lock_hold, place_hold
from gremba.store.students.people import (
    StudentLine,
    find_student,
    is_advisee,
    note_office_event,
    set_credit_limit,
)


def own_student(context: ActionContext, advisor_id: int, student_id: int) -> StudentLine:
    """One of the advisor's own students. Two statements.

    Raises:
        Problem: the student is another advisor's, or nobody.
    """
    with reading(context.database) as database:
        student = find_student(database, student_id)
        if student is None or not is_advisee(database, advisor_id, student_id):
            raise _not_yours()
    return student


def any_student(context: ActionContext, student_id: int) -> StudentLine:
    """Any student. One statement.

    Raises:
        Problem: there is no such student.
    """
    with connected(context.database) as database:
        student = find_student(database, student_id)
    if student is None:
        raise _unknown()
    return student


def set_release(
    context: ActionContext, advisor_id: int, student_id: int, term_code: str, released: bool
) -> None:
    """Clear one of one's own students to register, or withdraw that.

    Raises:
        Problem: the student is not one's own, or is not expected in the term.
    """
    own_student(context, advisor_id, student_id)
    term = context.term(term_code)
    row = context.student_term(student_id, term)
    now = context.clock.now()
    with connected(context.database) as database, database.atomic():
        done = (now, advisor_id) if released else (None, None)
        set_item(database, row, ClearanceKind.RELEASE.value, *done)
        what = "released" if released else "release taken back"
        note_office_event(database, student_id, advisor_id, what, term.name, now)


def release_many(context: ActionContext, advisor_id: int, students: Sequence[int], term_code: str) -> int:
    """Clear several of one's own students, all or none; returns how many were newly cleared.

    Raises:
        Problem: one of them is not one's own, or is not expected in the term.
    """
    term = context.term(term_code)
    now = context.clock.now()
    released = 0
    with connected(context.database) as database, database.atomic():
        for student_id in sorted(set(students)):
            if not is_advisee(database, advisor_id, student_id):
                raise _not_yours()
            row = context.student_term(student_id, term)
            if release_open_item(database, row, now, advisor_id):
                note_office_event(database, student_id, advisor_id, "released", term.name, now)
                released += 1
    return released


def set_limit(
    context: ActionContext, advisor_id: int, student_id: int, term_code: str, limit: float | None
) -> None:
    """Set a credit limit for one of one's own students, or return to the default.

    Raises:
        Problem: the student is not one's own, or the limit is out of range.
    """
    own_student(context, advisor_id, student_id)
    term = context.term(term_code)
    row = context.student_term(student_id, term)
    if limit is not None and not term.policy.half_time <= limit <= term.policy.most_credits:
        raise Problem(
            ProblemKind.LIMIT_RANGE,
            f"Choose {term.policy.half_time:g} to {credits_text(term.policy.most_credits)}.",
        )
    now = context.clock.now()
    with connected(context.database) as database, database.atomic():
        set_credit_limit(database, row, limit)
        detail = "the limit of the standing" if limit is None else credits_text(limit)
        note_office_event(database, student_id, advisor_id, "credit limit", f"{detail}, {term.name}", now)


def fee_holds_of(context: ActionContext, student_id: int) -> tuple[StudentLine, list[HoldLine]]:
    """A student and their fee holds.

    Raises:
        Problem: there is no such student.
    """
    with reading(context.database) as database:
        student = find_student(database, student_id)
        if student is None:
            raise _unknown()
        return student, [h for h in holds_of(database, student_id) if h.kind == "fee"]


def place_fee_hold(
    context: ActionContext, cashier_id: int, student_id: int, reason: str, amount_cents: int, key: str
) -> None:
    """Place a fee hold; once for a key.

    Raises:
        Problem: there is no such student.
    """
    now = context.clock.now()
    with connected(context.database) as database, database.atomic():
        if find_student(database, student_id) is None:
            raise _unknown()
        if is_repeated(database, cashier_id, key, now, "fee hold", student_id, reason, amount_cents):
            return
        place_hold(database, student_id, reason, amount_cents, cashier_id, now)
        note_office_event(
            database, student_id, cashier_id, "hold placed", f"{amount(amount_cents)}: {reason}", now
        )


def lift_fee_hold(context: ActionContext, cashier_id: int, student_id: int, hold_id: int, why: str) -> None:
    """Lift a student's fee hold.

    Raises:
        Problem: the student has no such fee hold, or it was lifted before.
    """
    lift(context, cashier_id, student_id, hold_id, why, kinds=frozenset({"fee"}))


def lift(
    context: ActionContext,
    person_id: int,
    student_id: int,
    hold_id: int,
    why: str,
    *,
    kinds: frozenset[str] | None = None,
) -> None:
    """Lift a student's hold.

    Args:
        kinds: that the office may lift; None for all.

    Raises:
        Problem: the student has no such hold, or it was lifted before.
    """
    now = context.clock.now()
    with connected(context.database) as database, database.atomic():
        hold = lock_hold(database, hold_id)
        may_lift = hold is not None and (kinds is None or hold.kind in kinds)
        if hold is None or not may_lift or hold.student_id != student_id:
            raise Problem(ProblemKind.HOLD_NOT_THERE, "Look at the student's holds again.")
        if not lift_hold(database, hold_id, why, person_id, now):
            raise Problem(ProblemKind.HOLD_LIFTED, "Nothing is left to do.")
        note_office_event(database, student_id, person_id, "hold lifted", why, now)


def _not_yours() -> Problem:
    return Problem(ProblemKind.STUDENT_NOT_YOURS, "Choose one of the students whom you advise.")


def _unknown() -> Problem:
    return Problem(ProblemKind.STUDENT_UNKNOWN, "Look for the student by name.")
