"""The cart as it is kept: changes in order, one a section."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase
from psycopg.types.json import Jsonb

from gremba.core.catalogue import Section, TermCatalogue
from gremba.core.changes import Change, Kind, Mode, Request
from gremba.store.database import ask, numbers, rows, run


@dataclass(frozen=True, slots=True)
class CartChange:
    """A change in a cart, with the key by which the screen speaks of it.

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
        """Tells whether the cart still stands as it was seen; see :func:`ask_cart_tokens`."""
        stands = " ".join(f"{c.id}.{c.version}" for c in self.changes)
        return _token(f"{self.mode.value} {stands}")

    @property
    def request(self) -> Request:
        """What would be sent now."""
        return Request(tuple(c.change for c in self.changes), self.mode)


def _token(stands: str) -> str:
    return hashlib.sha256(stands.encode()).hexdigest()[:16]


_READ = """
SELECT id, kind, section_id, grading, credits, gives_up_section_id, consent, or_else, wait_if_full,
       leaves_places, version
FROM cart_changes WHERE student_term_id = %s ORDER BY position
"""


def read_cart(
    database: PooledPostgresqlDatabase, student_term_id: int, catalogue: TermCatalogue
) -> Cart:
    """Read a cart, in order of priority. Two statements."""
    mode = rows(database, "SELECT cart_mode FROM student_terms WHERE id = %s", (student_term_id,))
    by_id = catalogue.by_id
    return Cart(
        tuple(
            CartChange(
                row[0],
                Change(
                    Kind(row[1]),
                    by_id[row[2]].reference_number,
                    grading=row[3],
                    credits=None if row[4] is None else float(row[4]),
                    gives_up="" if row[5] is None else by_id[row[5]].reference_number,
                    consent=row[6],
                    or_else=tuple(tuple(numbers) for numbers in row[7]),
                    wait_if_full=row[8],
                    leaves_places=row[9],
                ),
                row[10],
            )
            for row in rows(database, _READ, (student_term_id,))
        ),
        Mode(mode[0][0]),
    )


def ask_cart_tokens(
    database: PooledPostgresqlDatabase, student_term_ids: Iterable[int]
) -> Callable[[], dict[int, str]]:
    """Ask how the carts of these rows stand; what this gives reads the tokens."""
    asked = ask(
        database,
        "SELECT st.id, st.cart_mode || ' ' || coalesce((SELECT string_agg(c.id || '.' || c.version, ' ' "
        "ORDER BY c.position) FROM cart_changes c WHERE c.student_term_id = st.id), '') "
        "FROM student_terms st WHERE st.id = ANY(%s::int[])",
        (numbers(student_term_ids),),
    )
    return lambda: {row[0]: _token(row[1]) for row in asked.fetchall()}


def lock_cart(database: PooledPostgresqlDatabase, student_term_id: int) -> None:
    """Hold off other changes to the cart until the transaction ends."""
    rows(database, "SELECT 1 FROM student_terms WHERE id = %s FOR UPDATE", (student_term_id,))


@dataclass(frozen=True, slots=True)
class NewChange:
    """A change on its way into a cart.

    Attributes:
        gives_up: for a swap, the section held that is given up.
    """

    kind: Kind
    section: Section
    gives_up: Section | None = None
    grading: str | None = None
    credits: float | None = None


def append(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    term_id: int,
    changes: Sequence[NewChange],
    at: datetime,
) -> None:
    """Put changes at the end of a cart that is locked; their sections must not be in it."""
    run(
        database,
        "INSERT INTO cart_changes (student_term_id, term_id, position, kind, section_id, pool_id, "
        "gives_up_section_id, grading, credits, added_at) "
        "SELECT %s, %s, t.place + coalesce((SELECT max(position) FROM cart_changes "
        "WHERE student_term_id = %s), 0), t.kind, t.section_id, t.pool_id, t.gives_up, t.grading, "
        "t.credits, %s FROM unnest(%s::text[], %s::int[], %s::int[], %s::int[], %s::text[], "
        "%s::numeric[]) WITH ORDINALITY "
        "AS t (kind, section_id, pool_id, gives_up, grading, credits, place)",
        (
            student_term_id,
            term_id,
            student_term_id,
            at,
            [c.kind.value for c in changes],
            [c.section.id for c in changes],
            [c.section.pool for c in changes],
            [c.gives_up.id if c.gives_up else None for c in changes],
            [c.grading for c in changes],
            [c.credits for c in changes],
        ),
    )


def turn_into(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    change_id: int,
    kind: Kind,
    gives_up: Section | None,
) -> None:
    """Let an add, swap or wait in the cart be another of these, giving up a section held or
    nothing."""
    run(
        database,
        "UPDATE cart_changes SET kind = %s, gives_up_section_id = %s "
        "WHERE student_term_id = %s AND id = %s AND kind IN ('add', 'swap', 'wait')",
        (kind.value, gives_up and gives_up.id, student_term_id, change_id),
    )


_CHOICES = ("grading", "credits", "consent", "wait_if_full", "leaves_places", "or_else")
"""What can be chosen for a change, by the names of the columns."""


def set_choices(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    change_id: int,
    values: Mapping[str, Any],
) -> None:
    """Set some of what is chosen for a change; the rest stays as it is.

    Args:
        values: by the names in ``_CHOICES``.
    """
    names = [name for name in _CHOICES if name in values]
    if not names:
        return
    run(
        database,
        f"UPDATE cart_changes SET {', '.join(f'{name} = %s' for name in names)} "
        "WHERE student_term_id = %s AND id = %s",
        (*(Jsonb(values[n]) if n == "or_else" else values[n] for n in names), student_term_id, change_id),
    )


def replace_section(
    database: PooledPostgresqlDatabase, student_term_id: int, change_id: int, section: Section
) -> None:
    """Put another section in a change's place; what was chosen for the old one goes."""
    run(
        database,
        "UPDATE cart_changes SET section_id = %s, pool_id = %s, grading = NULL, credits = NULL, "
        "consent = '', leaves_places = false WHERE student_term_id = %s AND id = %s",
        (section.id, section.pool, student_term_id, change_id),
    )


def remove(
    database: PooledPostgresqlDatabase, student_term_id: int, ids: Sequence[int]
) -> int:
    """Take changes out of a cart; gives how many there were."""
    return run(
        database,
        "DELETE FROM cart_changes WHERE student_term_id = %s AND id = ANY(%s)",
        (student_term_id, list(ids)),
    )


def reorder(
    database: PooledPostgresqlDatabase, student_term_id: int, ids: Sequence[int]
) -> None:
    """Put the named changes first, in this order; any others follow in the order they had."""
    run(
        database,
        "UPDATE cart_changes c SET position = o.place FROM ("
        "SELECT id, row_number() OVER (ORDER BY array_position(%s::bigint[], id) NULLS LAST, "
        "position) AS place FROM cart_changes WHERE student_term_id = %s) o WHERE o.id = c.id",
        (list(ids), student_term_id),
    )


def set_mode(database: PooledPostgresqlDatabase, student_term_id: int, mode: Mode) -> None:
    """Choose each by itself or all or nothing."""
    run(
        database,
        "UPDATE student_terms SET cart_mode = %s WHERE id = %s",
        (mode.value, student_term_id),
    )
