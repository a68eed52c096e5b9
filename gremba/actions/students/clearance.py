"""Clearance: lists what a student has to do before registering, and does what they can do alone."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from gremba.actions.context import ActionContext
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.registration.situation import Situation
from gremba.core.states import ClearanceKind
from gremba.core.students.clearance import ItemNotes, item_notes, sentence
from gremba.core.windows.opening import WindowStatus, window_status
from gremba.store.account.payments import waiting_payments
from gremba.store.database import connected, reading
from gremba.store.registration.situations import read_situations
from gremba.store.students.clearance import (
    Details,
    ItemLine,
    read_details,
    read_items,
    set_item,
    write_details,
    write_survey,
)
from gremba.store.students.holds import HoldLine, holds_of


@dataclass(frozen=True, slots=True)
class Item:
    """A checklist item with its texts and state."""

    kind: ClearanceKind
    notes: ItemNotes
    line: ItemLine | None

    @property
    def is_done(self) -> bool:
        """Whether it no longer blocks the student."""
        return self.line is None or self.line.done_at is not None


@dataclass(frozen=True, slots=True)
class ClearanceOverview:
    """Everything the registration checklist shows.

    Attributes:
        waiting: by hold, the reference of a payment without an answer yet.
    """

    situation: Situation
    window: WindowStatus
    now: datetime
    sentence: str
    is_clear: bool
    items: tuple[Item, ...]
    holds: tuple[HoldLine, ...]
    waiting: Mapping[int, str]
    email: str
    details: Details


def look_at_clearance(
    context: ActionContext, student_id: int, term_code: str, to_student: bool = True
) -> ClearanceOverview:
    """Read a student's registration checklist. Five statements.

    Args:
        to_student: it is told to the student; else to the advisor.

    Raises:
        Problem: no such term, or the student is not expected in it.
    """
    term = context.term(term_code)
    row = context.student_term(student_id, term)
    with reading(context.database) as database:
        situation = read_situations(database, {row: term}, {})[row]
        lines = {line.kind: line for line in read_items(database, row)}
        holds = holds_of(database, student_id)
        waiting = waiting_payments(database, student_id)
        email, details = read_details(database, student_id)
    now = context.clock.now()
    window = window_status(situation.windows, now)
    text, is_clear = sentence(situation, window, now, to_student)
    items = tuple(
        Item(kind, item_notes(kind, situation, to_student), lines.get(kind)) for kind in ClearanceKind
    )
    return ClearanceOverview(
        situation, window, now, text, is_clear, items, tuple(holds), waiting, email, details
    )


def accept_agreement(context: ActionContext, student_id: int, term_code: str) -> None:
    """Accept the registration agreement."""
    _done(context, student_id, term_code, ClearanceKind.AGREEMENT)


def finish_orientation(context: ActionContext, student_id: int, term_code: str) -> None:
    """Finish orientation."""
    _done(context, student_id, term_code, ClearanceKind.ORIENTATION)


def confirm_details(context: ActionContext, student_id: int, term_code: str, details: Details) -> None:
    """Confirm or correct contact details.

    Raises:
        Problem: a detail that is needed is empty.
    """
    missing = [
        name
        for name, value in (
            ("a phone number", details.phone),
            ("an address", details.address),
            ("somebody to call in an emergency", details.emergency_name),
            ("their phone number", details.emergency_phone),
        )
        if not value.strip()
    ]
    if missing:
        raise Problem(ProblemKind.DETAILS_MISSING, f"Give {' and '.join(missing)}, then confirm.")
    with connected(context.database) as database:
        write_details(database, student_id, details)
    _done(context, student_id, term_code, ClearanceKind.DETAILS)


def answer_survey(
    context: ActionContext, student_id: int, term_code: str, answers: Mapping[str, str]
) -> None:
    """Answer the survey.

    Raises:
        Problem: a question is left out, or an answer is none of those offered.
    """
    term = context.term(term_code)
    row = context.student_term(student_id, term)
    survey = term.policy.clearance.survey
    wrong = [q.text for q in survey if answers.get(q.key, "") not in q.options]
    if wrong:
        raise Problem(ProblemKind.SURVEY_OPEN, f"Choose an answer to: {wrong[0]}")
    known = {q.key for q in survey}
    with connected(context.database) as database:
        answered = {key: answer for key, answer in answers.items() if key in known}
        write_survey(database, row, answered, context.clock.now())
    _done(context, student_id, term_code, ClearanceKind.SURVEY)


def _done(context: ActionContext, student_id: int, term_code: str, kind: ClearanceKind) -> None:
    row = context.student_term(student_id, context.term(term_code))
    with connected(context.database) as database:
        set_item(database, row, kind.value, context.clock.now(), student_id)
