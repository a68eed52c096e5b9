"""Runs the setup checklist of a term; opens and closes it."""

from __future__ import annotations

from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.context import ActionContext
from gremba.actions.problem import Problem, no_such_term
from gremba.actions.problem_kinds import ProblemKind
from gremba.actions.windows import tell_windows
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.catalogue.term_check.check_list import Checked, go_through
from gremba.core.states import TermState
from gremba.core.wording import listed
from gremba.store.catalogue.read_term import read_term
from gremba.store.catalogue.term_facts import read_term_facts
from gremba.store.catalogue.terms import lock_term, set_state
from gremba.store.database import connected


def check_term(context: ActionContext, code: str) -> tuple[Checked, ...]:
    """Run a term's setup checklist on its current data.

    Raises:
        Problem: there is no such term.
    """
    with connected(context.database) as database, database.atomic():
        return _checked(database, _read(database, code))


def _read(database: PooledPostgresqlDatabase, code: str) -> TermCatalogue:
    term = read_term(database, code)
    if term is None:
        raise no_such_term(code)
    return term


def _checked(database: PooledPostgresqlDatabase, term: TermCatalogue) -> tuple[Checked, ...]:
    return go_through(term, read_term_facts(database, term.id))


def open_term(context: ActionContext, code: str, *, despite: frozenset[str]) -> TermCatalogue:
    """Open a term: students see it and can register in their windows. The first time, everybody is told their
    window.

    Args:
        despite: keys of lines of the check list that are not in order, and of which whoever opens it knows.

    Raises:
        Problem: there is no such term, or another line is not in order.
    """
    with connected(context.database) as database, database.atomic():
        state = lock_term(database, code)
        term = _read(database, code)
        unknown = [
            line.check.title
            for line in _checked(database, term)
            if line.faults and line.check.key not in despite
        ]
        if unknown:
            raise Problem(
                ProblemKind.TERM_NOT_READY,
                f"Not so yet: {listed([title.lower() for title in unknown])}. Look at the check list again.",
            )
        set_state(database, code, TermState.OPEN)
        if state is TermState.PREPARED:
            tell_windows(database, term, context.clock.now())
    return _anew(context, code)


def close_term(context: ActionContext, code: str) -> TermCatalogue:
    """Close a term: it is read-only until it is opened again.

    Raises:
        Problem: there is no such term, or it has never been open.
    """
    with connected(context.database) as database, database.atomic():
        if lock_term(database, code) is TermState.PREPARED:
            raise Problem(ProblemKind.TERM_NOT_OPEN, "It is still being prepared; nobody sees it yet.")
        set_state(database, code, TermState.CLOSED)
    return _anew(context, code)


def _anew(context: ActionContext, code: str) -> TermCatalogue:
    """Reloads the term in this process; the database tells the others."""
    term = context.catalogue.reload(code)
    if term is None:
        raise no_such_term(code)
    return term
