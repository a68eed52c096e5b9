"""Links by which a week can be read without signing in. Their secret part is kept as a digest."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.database import rows, run


@dataclass(frozen=True, slots=True)
class WeekLink:
    """A link that is in force.

    Attributes:
        kind: "calendar" (until it is withdrawn) or "share" (until it expires).
    """

    id: int
    kind: str
    made_at: datetime
    expires_at: datetime | None


def add_link(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    kind: str,
    digest: bytes,
    now: datetime,
    expires_at: datetime | None,
) -> int:
    """Keep a new link; gives its id. One statement."""
    found = rows(
        database,
        "INSERT INTO week_links (student_term_id, kind, digest, made_at, expires_at) "
        "VALUES (%s, %s, %s, %s, %s) RETURNING id",
        (student_term_id, kind, digest, now, expires_at),
    )
    return int(found[0][0])


def list_links(
    database: PooledPostgresqlDatabase, student_term_id: int, now: datetime
) -> Sequence[WeekLink]:
    """The links in force, newest first. One statement."""
    return [
        WeekLink(*row)
        for row in rows(
            database,
            "SELECT id, kind, made_at, expires_at FROM week_links WHERE student_term_id = %s "
            "AND withdrawn_at IS NULL AND (expires_at IS NULL OR expires_at > %s) "
            "ORDER BY id DESC",
            (student_term_id, now),
        )
    ]


def withdraw_link(
    database: PooledPostgresqlDatabase, student_term_id: int, link_id: int, now: datetime
) -> int:
    """Withdraw a link; gives 0 if there is no such one in force."""
    return run(
        database,
        "UPDATE week_links SET withdrawn_at = %s "
        "WHERE id = %s AND student_term_id = %s AND withdrawn_at IS NULL",
        (now, link_id, student_term_id),
    )


def find_link(
    database: PooledPostgresqlDatabase, digest: bytes, kind: str, now: datetime
) -> tuple[int, str, str, datetime | None] | None:
    """Whose week a link leads to: student's term row, term, name, expiry; None if the link is not
    in force. One statement."""
    found = rows(
        database,
        "SELECT l.student_term_id, t.code, p.full_name, l.expires_at FROM week_links l "
        "JOIN student_terms st ON st.id = l.student_term_id JOIN terms t ON t.id = st.term_id "
        "JOIN persons p ON p.id = st.student_id WHERE l.digest = %s AND l.kind = %s "
        "AND l.withdrawn_at IS NULL AND (l.expires_at IS NULL OR l.expires_at > %s)",
        (digest, kind, now),
    )
    return found[0] if found else None
