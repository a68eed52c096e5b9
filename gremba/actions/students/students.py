"""The registrar's view of one student, and actions on them: limits, holds, overrides."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from gremba.actions.context import ActionContext
from gremba.actions.once import is_repeated
from gremba.actions.problem import Problem
from gremba.actions.students.offices import any_student
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.registration.situation import Situation
from gremba.core.states import Stopped
from gremba.core.wording import credits_text
from gremba.store.database import connected, reading
from gremba.store.registration.situations import lock_student_terms, read_situations
from gremba.store.students.holds import HoldLine, NewHold, holds_of, place_office_hold
from gremba.store.students.office_events import OfficeEventLine, list_office_events
from gremba.store.students.people import StudentLine, note_office_event, set_credit_limit
from gremba.store.windows import OwnWindow, windows_of

MOST_EVENTS = 100


@dataclass(frozen=True, slots=True)
class StudentSeen:
    """A student as the registrar sees one.

    Attributes:
        windows: None where the student is not expected in the term.
        situation: likewise.
        holds: lifted ones too, newest first.
        events: what offices have done for or to the student, newest first.
    """

    student: StudentLine
    term: TermCatalogue
    windows: tuple[OwnWindow, ...] | None
    situation: Situation | None
    holds: tuple[HoldLine, ...]
    events: tuple[OfficeEventLine, ...]


def see_student(context: ActionContext, code: str, student_id: int) -> StudentSeen:
    """A student in a term.

    Raises:
        Problem: there is no such student or term.
    """
    term = context.term(code)
    student = any_student(context, student_id)
    try:
        row = context.student_term(student_id, term)
    except Problem:
        row = None
    with reading(context.database) as database:
        situation = None if row is None else read_situations(database, {row: term}, {})[row]
        return StudentSeen(
            student,
            term,
            None if row is None else tuple(windows_of(database, row)),
            situation,
            tuple(holds_of(database, student_id)),
            tuple(list_office_events(database, student_id, MOST_EVENTS)),
        )


def allow_limit(
    context: ActionContext, code: str, student_id: int, limit: float | None, reason: str, person_id: int
) -> None:
    """Set a student's credit limit, or return to the default. No policy limits the registrar.

    Raises:
        Problem: the student is not expected in the term.
    """
    term = context.term(code)
    row = context.student_term(student_id, term)
    now = context.clock.now()
    with connected(context.database) as database, database.atomic():
        lock_student_terms(database, [row])
        set_credit_limit(database, row, limit)
        what = "the limit of the standing" if limit is None else credits_text(limit)
        note_office_event(
            database, student_id, person_id, "credit limit", f"{what}, {term.name}: {reason}", now
        )


def place_hold(
    context: ActionContext,
    student_id: int,
    reason: str,
    contact: str,
    stops: Sequence[Stopped],
    person_id: int,
    key: str,
) -> None:
    """Place a registrar's hold; once for a key.

    Raises:
        Problem: there is no such student.
    """
    any_student(context, student_id)
    now = context.clock.now()
    with connected(context.database) as database, database.atomic():
        if is_repeated(database, person_id, key, now, "hold", student_id, reason, contact, stops):
            return
        new = NewHold(student_id, "office", reason, "the registrar's office", contact, tuple(stops))
        place_office_hold(database, new, person_id, now)
        stopped = ", ".join(stops)
        note_office_event(database, student_id, person_id, "hold placed", f"{reason} Stops {stopped}.", now)
