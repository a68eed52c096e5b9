"""Terms by their names."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.models import StudentTerm, Term
from gremba.store.queries import columns, fetch, fetch_value


@dataclass(frozen=True, slots=True)
class TermLine:
    """A term in the list of all."""

    code: str
    name: str
    first_day: date
    last_day: date
    zone: str


def list_terms(database: PooledPostgresqlDatabase) -> list[TermLine]:
    """All terms, earliest first. One statement."""
    query = Term.select(*columns(TermLine, Term))
    return fetch(database, query.order_by(Term.first_day), TermLine)


def term_of_row(database: PooledPostgresqlDatabase, row: int) -> str:
    """The code of the term that a student's row is of."""
    own = StudentTerm
    query = Term.select(Term.code).join(own, on=own.term == Term.id).where(own.id == row)
    return str(fetch_value(database, query))
