"""Writes and approves academic plans, and compares them with what a student took."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from gremba.actions.actor import SubjectStudent
from gremba.actions.context import ActionContext
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.students.academic_plan import LineMistake, LineState, PlanLine, check_lines, state_of
from gremba.formats.academic_plan_file import MOST_SIGNS, read_json, read_table
from gremba.store.catalogue.terms import list_terms
from gremba.store.database import connected, reading
from gremba.store.registration.carts import read_cart
from gremba.store.registration.situations import read_situations
from gremba.store.students.academic_plans import (
    StoredAcademicPlan,
    add_version,
    agree,
    list_versions,
    lock_student,
)
from gremba.store.students.people import note_office_event


@dataclass(frozen=True, slots=True)
class OpenedPlan:
    """A student's academic plan.

    Attributes:
        versions: latest first.
        states: of each line of the latest version what has become of it; None for those of other terms.
    """

    versions: Sequence[StoredAcademicPlan]
    states: Sequence[LineState | None]

    @property
    def latest(self) -> StoredAcademicPlan | None:
        """The latest version; None if there is no plan."""
        return self.versions[0] if self.versions else None


def look_at_plan(context: ActionContext, student_id: int, term_code: str) -> OpenedPlan:
    """The plan, with what has become of a term's lines. Statements: versions, two for the cart, situation.

    Raises:
        Problem: no such term, or the student is not expected in it.
    """
    term = context.term(term_code)
    row = context.student_term(student_id, term)
    with reading(context.database) as database:
        versions = list_versions(database, student_id)
        cart = read_cart(database, row, term).request
        situation = read_situations(database, {row: term}, {})[row]
    lines = versions[0].lines if versions else ()
    states = [state_of(n, situation, cart.changes) if n.term == term.code else None for n in lines]
    return OpenedPlan(versions, states)


def write_plan(
    context: ActionContext, subject: SubjectStudent, lines: Sequence[PlanLine]
) -> list[LineMistake]:
    """Write a new version, which its author agrees to. Returns every error by line; with any, nothing is
    written. Four statements."""
    with connected(context.database) as database:
        codes = [term.code for term in list_terms(database)]
    terms = {code: context.term(code) for code in codes}
    courses = {key: course for term in terms.values() for key, course in term.courses.items()}
    mistakes = check_lines(lines, courses, terms)
    if mistakes:
        return mistakes
    now = context.clock.now()
    with connected(context.database) as database, database.atomic():
        lock_student(database, subject.student_id)
        by_student = not subject.by.acts_for_another
        version = add_version(database, subject.student_id, lines, subject.by.id, by_student, now)
        if not by_student:
            detail = f"version {version}, {len(lines)} lines"
            note_office_event(database, subject.student_id, subject.by.id, "wrote the plan", detail, now)
    return []


def read_plan_file(
    context: ActionContext, subject: SubjectStudent, form: str, text: str
) -> tuple[int, list[LineMistake]]:
    """Write a plan from a file. Returns the number of its lines and every error; with any, nothing is
    written.

    Args:
        form: "csv" or "json".

    Raises:
        Problem: the file is longer than is read.
    """
    if len(text) > MOST_SIGNS:
        raise Problem(ProblemKind.TEXT_TOO_LONG, f"A plan's file has {MOST_SIGNS:,} characters at the most.")
    read = read_json(text) if form == "json" else read_table(text)
    mistakes = list(read.mistakes)
    if not mistakes:
        mistakes = [read.in_file(m) for m in write_plan(context, subject, read.lines)]
    return len(read.lines), mistakes


def agree_to_plan(context: ActionContext, subject: SubjectStudent, version: int) -> None:
    """Agree to the latest version, as the student or for the college.

    Raises:
        Problem: another version has been written meanwhile, or there is none.
    """
    now = context.clock.now()
    with connected(context.database) as database, database.atomic():
        lock_student(database, subject.student_id)
        versions = list_versions(database, subject.student_id)
        if not versions or versions[0].version != version:
            raise Problem(ProblemKind.PLAN_MOVED, "Look at it as it is now, and agree to that if you do.")
        by_student = not subject.by.acts_for_another
        agree(database, subject.student_id, version, subject.by.id, by_student, now)
        if not by_student:
            detail = f"version {version}"
            note_office_event(database, subject.student_id, subject.by.id, "agreed the plan", detail, now)
