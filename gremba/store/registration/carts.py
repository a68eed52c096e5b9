"""Stores carts: changes in order, one per section."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from peewee import Case, Expression, fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.registration.changes import Change, Kind, Mode, Request
from gremba.store import models
from gremba.store.database import as_array, send_sql
from gremba.store.models import StudentTerm
from gremba.store.queries import fetch, fetch_tuples, fetch_value, fetch_values, one_of, write


@dataclass(frozen=True, slots=True)
class CartChange:
    """A change in a cart and its id.

    Attributes:
        version: grows with everything that is chosen for it.
    """

    id: int
    change: Change
    version: int = 1


@dataclass(frozen=True, slots=True)
class Cart:
    """A student's cart in a term."""

    changes: tuple[CartChange, ...]
    mode: Mode

    @property
    def token(self) -> str:
        """Identifies the cart's state; see :func:`ask_cart_tokens`."""
        stands = " ".join(f"{c.id}.{c.version}" for c in self.changes)
        return _token(f"{self.mode.value} {stands}")

    @property
    def request(self) -> Request:
        """What would be submitted now."""
        return Request(tuple(c.change for c in self.changes), self.mode)


def _token(stands: str) -> str:
    return hashlib.sha256(stands.encode()).hexdigest()[:16]


def read_cart(database: PooledPostgresqlDatabase, student_term_id: int, catalogue: TermCatalogue) -> Cart:
    """Read a cart, in order of priority. Two statements."""
    own = StudentTerm.select(StudentTerm.cart_mode).where(StudentTerm.id == student_term_id)
    mode = fetch_value(database, own)
    changes = models.CartChange.select().where(_of(student_term_id))
    found = fetch(
        database,
        changes.order_by(models.CartChange.position),
        lambda **row: CartChange(row["id"], _change(catalogue, row), row["version"]),
    )
    return Cart(tuple(found), mode)


def read_carts(
    database: PooledPostgresqlDatabase, student_term_ids: Collection[int], catalogue: TermCatalogue
) -> dict[int, Request]:
    """What these students' carts would submit, by term row; empty ones are left out. Two statements."""
    own, terms = models.CartChange, StudentTerm
    modes = dict(
        fetch_tuples(
            database, terms.select(terms.id, terms.cart_mode).where(one_of(terms.id, student_term_ids))
        )
    )
    changes: dict[int, list[Change]] = {}
    query = own.select().where(one_of(own.student_term_id, student_term_ids))
    found: list[dict[str, Any]] = fetch(database, query.order_by(own.student_term_id, own.position), dict)
    for row in found:
        changes.setdefault(row["student_term_id"], []).append(_change(catalogue, row))
    return {row: Request(tuple(own_changes), Mode(modes[row])) for row, own_changes in changes.items()}


def _change(catalogue: TermCatalogue, row: Mapping[str, Any]) -> Change:
    given_up, by_id = row["in_exchange"], catalogue.by_id
    return Change(
        row["kind"],
        by_id[row["section_id"]].reference_number,
        grading=row["grading"],
        credits=row["credits"],
        in_exchange="" if given_up is None else by_id[given_up].reference_number,
        permission_code=row["permission_code"],
        alternatives=tuple(tuple(numbers) for numbers in row["alternatives"]),
        wait_if_full=row["wait_if_full"],
        leaves_waitlists=row["leaves_waitlists"],
    )


def _of(student_term_id: int, change_id: int | None = None) -> Expression:
    own = models.CartChange
    whole = own.student_term_id == student_term_id
    return whole if change_id is None else whole & (own.id == change_id)


def ask_cart_tokens(
    database: PooledPostgresqlDatabase, student_term_ids: Iterable[int]
) -> Callable[[], dict[int, str]]:
    """Send a query for the state of these carts; the function returned reads the tokens."""
    asked = send_sql(
        database,
        "SELECT st.id, st.cart_mode || ' ' || coalesce((SELECT string_agg(c.id || '.' || c.version, ' ' "
        "ORDER BY c.position) FROM cart_changes c WHERE c.student_term_id = st.id), '') "
        "FROM student_terms st WHERE st.id = ANY(%s::int[])",
        (as_array(student_term_ids),),
    )
    return lambda: {row[0]: _token(row[1]) for row in asked.fetchall()}


def lock_cart(database: PooledPostgresqlDatabase, student_term_id: int) -> None:
    """Serialize changes to the cart until the transaction ends."""
    own = StudentTerm.select(StudentTerm.id).where(StudentTerm.id == student_term_id)
    fetch_value(database, own.for_update())


@dataclass(frozen=True, slots=True)
class NewChange:
    """A change to be added to a cart.

    Attributes:
        in_exchange: for a swap, the section held that is given up.
        alternatives: sections to try in turn, as :class:`gremba.core.registration.changes.Change` has them.
    """

    kind: Kind
    section: Section
    in_exchange: Section | None = None
    grading: str | None = None
    credits: float | None = None
    alternatives: Sequence[Sequence[str]] = ()


def append(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    term_id: int,
    changes: Sequence[NewChange],
    at: datetime,
) -> None:
    """Add changes at the end of a locked cart; their sections must not be in it."""
    own = models.CartChange
    last = fetch_value(database, own.select(fn.MAX(own.position)).where(_of(student_term_id))) or 0
    write(
        database,
        own.insert_many(
            [
                {
                    "student_term_id": student_term_id,
                    "term_id": term_id,
                    "position": position,
                    "kind": change.kind,
                    "section_id": change.section.id,
                    "pool_id": change.section.pool,
                    "in_exchange": change.in_exchange and change.in_exchange.id,
                    "grading": change.grading,
                    "credits": change.credits,
                    "alternatives": [list(numbers) for numbers in change.alternatives],
                    "added_at": at,
                }
                for position, change in enumerate(changes, last + 1)
            ]
        ),
    )


def turn_into(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    change_id: int,
    kind: Kind,
    in_exchange: Section | None,
) -> None:
    """Turn an add, swap, or wait in the cart into another of these kinds."""
    own = models.CartChange
    now = own.update(kind=kind, in_exchange=in_exchange and in_exchange.id)
    takes = own.kind.in_([Kind.ADD, Kind.SWAP, Kind.WAIT])
    write(database, now.where(_of(student_term_id, change_id), takes))


_CHOICES = ("grading", "credits", "permission_code", "wait_if_full", "leaves_waitlists", "alternatives")
"""What can be chosen for a change, by the names of the columns."""


def set_choices(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    change_id: int,
    values: Mapping[str, Any],
) -> None:
    """Set some options of a change; the others stay.

    Args:
        values: by the names in ``_CHOICES``.
    """
    chosen = {name: values[name] for name in _CHOICES if name in values}
    if chosen:
        own = models.CartChange
        write(database, own.update(chosen).where(_of(student_term_id, change_id)))


def replace_section(
    database: PooledPostgresqlDatabase, student_term_id: int, change_id: int, section: Section
) -> None:
    """Replace a change's section; the old section's options are dropped."""
    other = models.CartChange.update(
        section_id=section.id,
        pool_id=section.pool,
        grading=None,
        credits=None,
        permission_code="",
        leaves_waitlists=False,
    )
    write(database, other.where(_of(student_term_id, change_id)))


def remove(database: PooledPostgresqlDatabase, student_term_id: int, ids: Sequence[int]) -> int:
    """Remove changes from a cart; returns how many were there."""
    named = one_of(models.CartChange.id, ids)
    return write(database, models.CartChange.delete().where(_of(student_term_id), named))


def reorder(database: PooledPostgresqlDatabase, student_term_id: int, ids: Sequence[int]) -> None:
    """Put these changes first, in this order; the others follow in their order."""
    own = models.CartChange
    there = own.select(own.id).where(_of(student_term_id)).order_by(own.position)
    # Named twice, the first counts.
    first = {change: -position for position, change in enumerate(reversed(ids))}
    in_order = sorted(fetch_values(database, there), key=lambda change: first.get(change, 1))
    if in_order:
        positions = [(change, position) for position, change in enumerate(in_order, 1)]
        write(database, own.update(position=Case(own.id, positions)).where(_of(student_term_id)))


def set_mode(database: PooledPostgresqlDatabase, student_term_id: int, mode: Mode) -> None:
    """Choose each by itself or all or nothing."""
    now = StudentTerm.update(cart_mode=mode)
    write(database, now.where(StudentTerm.id == student_term_id))
