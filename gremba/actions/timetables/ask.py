"""Answers a Timetables question for a student, and adds a timetable to their cart."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

import structlog

from gremba.actions.actor import SubjectStudent
from gremba.actions.context import ActionContext
from gremba.actions.problem import Problem, records_away
from gremba.actions.problem_kinds import ProblemKind
from gremba.actions.registration.edit_cart import Report, put_changes
from gremba.actions.registration.look_at_cart import as_of_opening
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.registration.changes import Change
from gremba.core.registration.findings import ProposedChange
from gremba.core.timetables.answer import Answer, answer, chosen_of
from gremba.core.timetables.question import Question
from gremba.core.timetables.requested import changes_of
from gremba.store.catalogue.seat_board import SeatBoard
from gremba.store.catalogue.stars import read_stars
from gremba.store.database import Unavailable, connected, reading
from gremba.store.registration.situations import read_situations
from gremba.store.timetables.demand import note_wanted

log = structlog.get_logger()

MOST_WAITING = 400
"""Questions that wait for their answer in one process."""

MOST_OF_ONE = 3
"""Questions of one student that wait for the one before them."""


@dataclass(frozen=True, slots=True)
class Asked:
    """A question to be answered.

    Attributes:
        first: place in the order of the first timetable to be given.
        many: how many are to be given.
        show: reference numbers of a timetable to be looked at besides.
        is_own: the student asks, so that what is wanted is noted; it is only ever counted.
    """

    student_id: int
    term_code: str
    question: Question
    first: int = 0
    many: int = 24
    show: tuple[str, ...] = ()
    is_own: bool = False


@dataclass(frozen=True, slots=True)
class Fitted:
    """A question with its answer.

    Attributes:
        now: whether it holds now, or only from the opening of the window.
        as_of: the time for which it holds.
    """

    term: TermCatalogue
    answer: Answer
    as_of: datetime
    now: bool


def answer_each(
    context: ActionContext, board: SeatBoard, questions: Sequence[Asked]
) -> list[Fitted | Problem]:
    """Answer questions one after another and record demand; never raises."""
    return [_fit(context, board, asked) for asked in questions]


def _fit(context: ActionContext, board: SeatBoard, asked: Asked) -> Fitted | Problem:
    try:
        fitted = fit_timetables(context, board, asked)
    except Problem as problem:
        return problem
    except Unavailable:
        return records_away()
    except Exception:
        log.exception("a question of Timetables could not be answered")
        return Problem(
            ProblemKind.NOT_ANSWERED,
            "What you asked is kept in the address of the page. Take out what you added last, or try again.",
        )
    try:
        if asked.is_own:
            _note(context, asked, fitted)
    except Exception:
        # Nobody is to go without an answer because it could not be counted.
        log.exception("what is wanted could not be noted")
    return fitted


def _note(context: ActionContext, asked: Asked, fitted: Fitted) -> None:
    # Whoever wants anything that counts toward something wants none of it in particular.
    sought = [s for s in fitted.answer.instance.sought if not s.moves and not s.want.tag]
    wanted = {key for s in sought for key in s.courses}
    row = context.student_term(asked.student_id, fitted.term)
    with connected(context.database) as database, database.atomic():
        note_wanted(database, row, wanted, context.clock.now())


def fit_timetables(context: ActionContext, board: SeatBoard, asked: Asked) -> Fitted:
    """Answer a question with the board's seat figures. Two statements: stars, situation.

    Raises:
        Problem: no such term, or the student is not expected in it.
    """
    term = context.term(asked.term_code)
    row = context.student_term(asked.student_id, term)
    seats: dict[int, SeatFigures] = dict(board.figures)
    with reading(context.database) as database:
        starred = {term.by_id[i].reference_number for i in read_stars(database, row) if i in term.by_id}
        situation = read_situations(database, {row: term}, seats)[row]
    question = asked.question.with_stars(starred)
    now = context.clock.now()
    as_of = as_of_opening(situation, now)
    found = answer(situation, question, as_of, asked.first, asked.many, asked.show)
    return Fitted(term, found, as_of, as_of == now)


def changes_for(context: ActionContext, board: SeatBoard, asked: Asked) -> list[Change]:
    """The changes for a timetable, the scarcest section first, each with backup sections that still fit.

    Raises:
        Problem: none is named, or it does not work as things are; or no such term, or the student is not
            expected in it.
    """
    search = fit_timetables(context, board, asked).answer.search
    chosen = None if search is None else chosen_of(search, frozenset(asked.show))
    changes = [] if search is None or chosen is None else changes_of(search, chosen)
    if not changes or not asked.show:
        raise Problem(
            ProblemKind.TIMETABLE_GONE,
            "A section of it has filled or changed meanwhile. Look at those that work now, and take one.",
        )
    return changes


def put_timetable(
    context: ActionContext, board: SeatBoard, subject: SubjectStudent, asked: Asked
) -> list[Report]:
    """Add a timetable to the cart, the scarcest section first, each with backup sections that still fit.
    Other cart changes for the same courses are removed.

    Raises:
        Problem: none is named, or it does not work as things are; or no such term, or the student is not
            expected in it.
    """
    changes = changes_for(context, board, asked)
    return put_changes(
        context,
        subject,
        asked.term_code,
        [ProposedChange(c.kind, c.number, c.in_exchange) for c in changes],
        {c.number: c.alternatives for c in changes if c.alternatives},
        instead_of_same=True,
    )
