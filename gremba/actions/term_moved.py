"""Repeats a decision when a registrar changes the term meanwhile."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from gremba.actions.context import ActionContext
from gremba.actions.problem import records_away
from gremba.core.catalogue.term import TermCatalogue, TermMoved
from gremba.store.catalogue.terms import ask_versions

T = TypeVar("T")

_TRIES = 5


def hold_term(context: ActionContext, term: TermCatalogue) -> None:
    """Keep a term from changing until the transaction ends. One statement, the last one that locks.

    Raises:
        TermMoved: it has changed already.
    """
    if ask_versions(context.database, [term.id])().get(term.id) != term.version:
        raise TermMoved([term.code])


def with_terms_as_they_are(context: ActionContext, work: Callable[[], T]) -> T:
    """Run something in a transaction; if a term has changed, reload it and retry.

    Raises:
        Problem: the terms keep changing.
    """
    for _ in range(_TRIES):
        try:
            return work()
        except TermMoved as moved:
            for code in moved.codes:
                context.catalogue.catch_up(code)
    raise records_away()
