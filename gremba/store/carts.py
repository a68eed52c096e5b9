"""The cart as it is kept: changes in order, one a section."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.catalogue import Section, TermCatalogue
from gremba.core.changes import Change, Kind, Mode, Request
from gremba.store.database import rows, run


@dataclass(frozen=True, slots=True)
class CartChange:
    """A change in a cart, with the key by which the screen speaks of it."""

    id: int
    change: Change


@dataclass(frozen=True, slots=True)
class Cart:
    """A student's cart in a term."""

    changes: tuple[CartChange, ...]
    mode: Mode

    @property
    def request(self) -> Request:
        """What would be sent now."""
        return Request(tuple(c.change for c in self.changes), self.mode)


def read_cart(
    database: PooledPostgresqlDatabase, student_term_id: int, catalogue: TermCatalogue
) -> Cart:
    """Read a cart, in order of priority."""
    mode = rows(database, "SELECT cart_mode FROM student_terms WHERE id = %s", (student_term_id,))
    found = rows(
        database,
        "SELECT id, kind, section_id, grading, credits FROM cart_changes "
        "WHERE student_term_id = %s ORDER BY position",
        (student_term_id,),
    )
    return Cart(
        tuple(
            CartChange(
                row[0],
                Change(
                    Kind(row[1]),
                    catalogue.by_id[row[2]].reference_number,
                    row[3],
                    None if row[4] is None else float(row[4]),
                ),
            )
            for row in found
        ),
        Mode(mode[0][0]),
    )


def lock_cart(database: PooledPostgresqlDatabase, student_term_id: int) -> None:
    """Hold off other changes to the cart until the transaction ends."""
    rows(database, "SELECT 1 FROM student_terms WHERE id = %s FOR UPDATE", (student_term_id,))


def append(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    term_id: int,
    changes: Sequence[tuple[Kind, Section]],
    at: datetime,
) -> None:
    """Put changes at the end of a cart that is locked; their sections must not be in it."""
    run(
        database,
        "INSERT INTO cart_changes (student_term_id, term_id, position, kind, section_id, pool_id, "
        "added_at) "
        "SELECT %s, %s, t.place + coalesce((SELECT max(position) FROM cart_changes "
        "WHERE student_term_id = %s), 0), t.kind, t.section_id, t.pool_id, %s "
        "FROM unnest(%s::text[], %s::int[], %s::int[]) WITH ORDINALITY "
        "AS t (kind, section_id, pool_id, place)",
        (
            student_term_id,
            term_id,
            student_term_id,
            at,
            [kind.value for kind, _ in changes],
            [section.id for _, section in changes],
            [section.pool for _, section in changes],
        ),
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
