"""What every action works with: the database, the catalogue, the clock."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime
from typing import Protocol

from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.problem import no_such_term, not_expected
from gremba.core.catalogue.term import TermCatalogue
from gremba.store.catalogue.cache import CatalogueCache
from gremba.store.database import connected
from gremba.store.registration.situations import find_student_term


class Clock(Protocol):
    """Tells the time, with its zone."""

    def now(self) -> datetime:
        """The current time."""
        ...


@dataclass(slots=True)
class ActionContext:
    """What actions need of a process: database, catalogue, clock.

    Attributes:
        tight: seat pools that were short of seats when they were last locked here: a hint, see
            :mod:`gremba.actions.registration.speculative_decisions`.
    """

    database: PooledPostgresqlDatabase
    catalogue: CatalogueCache
    clock: Clock
    scarce_pools: set[int] = field(default_factory=set)
    _student_terms: dict[tuple[int, str], int] = field(default_factory=dict)

    def term(self, code: str) -> TermCatalogue:
        """The term with this code.

        Raises:
            Problem: there is none.
        """
        found = self.catalogue.term(code)
        if found is None:
            raise no_such_term(code)
        return found

    def student_term(self, student_id: int, term: TermCatalogue) -> int:
        """The id of a student's row of a term. It never changes, so it is cached; one statement at most.

        Raises:
            Problem: the student is not expected in the term.
        """
        known = self._student_terms.get((student_id, term.code))
        if known is not None:
            return known
        with connected(self.database):
            row = find_student_term(self.database, student_id, term.code)
        if row is None:
            raise not_expected(term.name)
        self._student_terms[student_id, term.code] = row
        return row
