"""Finds terms by their codes."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import date
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.states import TermState
from gremba.store.database import send_sql
from gremba.store.models import Section, StudentTerm, Term
from gremba.store.models.base import literal
from gremba.store.queries import (
    columns,
    fetch,
    fetch_value,
    fetch_values,
    has_rows,
    keeping_keys,
    keeping_shared,
    one_of,
    write,
)


@dataclass(frozen=True, slots=True)
class TermLine:
    """A term in the list."""

    code: str
    name: str
    first_day: date
    last_day: date
    zone: str
    state: TermState


def list_terms(database: PooledPostgresqlDatabase, *, with_prepared: bool = True) -> list[TermLine]:
    """List terms, earliest first. One statement.

    Args:
        with_prepared: those too that only the registrar sees.
    """
    query = Term.select(*columns(TermLine, Term))
    if not with_prepared:
        query = query.where(Term.state != literal(TermState.PREPARED))
    return fetch(database, query.order_by(Term.first_day), TermLine)


def lock_term(database: PooledPostgresqlDatabase, code: str) -> TermState | None:
    """Lock a term's row until the transaction ends; returns its state, or None if there is no such term."""
    query = Term.select(Term.state).where(Term.code == code)
    found = fetch_value(database, keeping_keys(query))
    return None if found is None else TermState(found)


def ask_versions(database: PooledPostgresqlDatabase, term_ids: Iterable[int]) -> Callable[[], dict[int, int]]:
    """Send a query for the versions of terms, which stay until the transaction ends; the function returned
    reads them. Sent after the seats are locked: a change of a term that needs seats locks them first as well,
    so neither waits for the other in a circle."""
    query = Term.select(Term.id, Term.catalogue_version).where(one_of(Term.id, sorted(term_ids)))
    asked = send_sql(database, *keeping_shared(query.order_by(Term.id)).bind(database).sql())
    return lambda: dict(asked.fetchall())


def set_state(database: PooledPostgresqlDatabase, code: str, state: TermState) -> None:
    """Set a term's state; every process reloads it."""
    update = Term.update(state=state, catalogue_version=Term.catalogue_version + 1)
    write(database, update.where(Term.code == code))


def lock_policy(database: PooledPostgresqlDatabase, code: str) -> dict[str, Any] | None:
    """Lock a term's row until the transaction ends; returns its stored policy, or None if there is no such
    term."""
    found = fetch_value(database, keeping_keys(Term.select(Term.policy).where(Term.code == code)))
    return None if found is None else dict(found)


def set_policy(database: PooledPostgresqlDatabase, code: str, policy: dict[str, Any]) -> None:
    """Store a term's policy; every process reloads it."""
    update = Term.update(policy=policy, catalogue_version=Term.catalogue_version + 1)
    write(database, update.where(Term.code == code))


def numbers_used(database: PooledPostgresqlDatabase) -> list[str]:
    """The reference numbers of all sections."""
    return fetch_values(database, Section.select(Section.reference_number))


def has_term(database: PooledPostgresqlDatabase, code: str, name: str) -> bool:
    """Whether a term has this code or name."""
    return has_rows(database, Term.select(Term.id).where((Term.code == code) | (Term.name == name)))


def term_of_row(database: PooledPostgresqlDatabase, row: int) -> str:
    """The code of a term row's term."""
    own = StudentTerm
    query = Term.select(Term.code).join(own, on=own.term == Term.id).where(own.id == row)
    return str(fetch_value(database, query))
