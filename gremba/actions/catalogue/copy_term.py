"""Copies a past term to one that is being set up."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from peewee import IntegrityError

from gremba.actions.context import ActionContext
from gremba.actions.problem import Problem, no_such_term
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.catalogue.calendar import Break
from gremba.core.catalogue.term_copy import Forward, TermDaysMistake, check_days, free_numbers
from gremba.store.catalogue.read_term import read_term
from gremba.store.catalogue.term_copy import Carried, carry_forward
from gremba.store.catalogue.terms import has_term, numbers_used
from gremba.store.database import connected
from gremba.store.exchange.staging import lock_exchange


@dataclass(frozen=True, slots=True)
class NewTerm:
    """The term to create.

    Attributes:
        code: as it stands in addresses.
        breaks: in order of their days.
        with_students: see :func:`gremba.store.catalogue.term_copy.carry_forward`.
    """

    code: str
    name: str
    first: date
    last: date
    breaks: tuple[Break, ...] = ()
    with_students: bool = True


def carry_term_forward(context: ActionContext, old_code: str, new: NewTerm) -> Carried:
    """Copy a term to new dates; the copy is in setup.

    Raises:
        Problem: there is no such term, the days are not in order, or there is a term of that name.
    """
    try:
        check_days(new.first, new.last, new.breaks)
    except TermDaysMistake as problem:
        raise Problem(ProblemKind.TERM_DAYS, str(problem)) from None
    with connected(context.database) as database, database.atomic():
        # Beside an import that brings sections their numbers could be given twice.
        lock_exchange(database)
        old = read_term(database, old_code)
        if old is None:
            raise no_such_term(old_code)
        if has_term(database, new.code, new.name):
            raise _there()
        numbers_from = free_numbers(numbers_used(database), len(old.sections))
        if numbers_from is None:
            raise Problem(
                ProblemKind.TERM_DAYS, "Too few reference numbers are free; bring the term in by a folder."
            )
        forward = Forward(old.calendar, new.first, new.last, new.breaks)
        try:
            carried = carry_forward(
                database,
                old,
                forward,
                code=new.code,
                name=new.name,
                numbers_from=numbers_from,
                with_students=new.with_students,
            )
        except IntegrityError as problem:
            if "terms_code" in str(problem) or "terms_name" in str(problem):
                raise _there() from None
            if '"sessions"' not in str(problem):
                raise
            raise Problem(
                ProblemKind.TERM_DAYS,
                f"It is too short for the sessions of {old.name}; bring it in by a folder.",
            ) from None
    context.catalogue.reload(new.code)
    return carried


def _there() -> Problem:
    return Problem(ProblemKind.TERM_THERE, "Give it another code and another name.")
