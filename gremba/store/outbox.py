"""Messages on their way to the college address."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.database import rows, run


@dataclass(frozen=True, slots=True)
class Outgoing:
    """A message to be mailed.

    Attributes:
        until: a deadline that it tells of.
        place, section: what it is about.
        tries: how often it has been put off.
        term: the term's code.
    """

    id: int
    title: str
    body: str
    until: datetime | None
    address: str
    place: int | None
    section: int | None
    term: str
    tries: int
    made_at: datetime


def next_mail(
    database: PooledPostgresqlDatabase, now: datetime, longest_pause: timedelta
) -> Outgoing | None:
    """Lock and read one message that is due, those first that have never been tried; None if there is
    none. One statement.

    Args:
        longest_pause: what is to be tried again even later than after that was put off by a clock
            that has gone back since, and is due.
    """
    found = rows(
        database,
        "SELECT m.id, m.title, m.body, m.until, p.email, m.place_id, w.section_id, t.code, m.tries, "
        "m.made_at FROM messages m JOIN student_terms st ON st.id = m.student_term_id "
        "JOIN persons p ON p.id = st.student_id JOIN terms t ON t.id = st.term_id "
        "LEFT JOIN places w ON w.id = m.place_id "
        "WHERE m.mailed_at IS NULL AND m.mail_refused_at IS NULL "
        "AND (m.mail_after IS NULL OR m.mail_after <= %s OR m.mail_after > %s) "
        "ORDER BY m.mail_after NULLS FIRST, m.id LIMIT 1 FOR UPDATE OF m SKIP LOCKED",
        (now, now + longest_pause),
    )
    return Outgoing(*found[0]) if found else None


def mark_sent(database: PooledPostgresqlDatabase, message: int, at: datetime) -> None:
    """It has been taken by the mail server."""
    run(database, "UPDATE messages SET mailed_at = %s WHERE id = %s", (at, message))


def put_off(
    database: PooledPostgresqlDatabase, message: int, until: datetime, problem: str
) -> None:
    """It is to be tried again, not before that."""
    run(
        database,
        "UPDATE messages SET mail_after = %s, tries = tries + 1, mail_problem = %s WHERE id = %s",
        (until, problem, message),
    )


def mark_refused(
    database: PooledPostgresqlDatabase, message: int, at: datetime, problem: str
) -> None:
    """It will never be taken, for that reason."""
    run(
        database,
        "UPDATE messages SET mail_refused_at = %s, mail_problem = %s WHERE id = %s",
        (at, problem, message),
    )


@dataclass(frozen=True, slots=True)
class RefusedMail:
    """A message that was refused for good."""

    id: int
    student: str
    address: str
    title: str
    made_at: datetime
    refused_at: datetime
    problem: str


def refused_mail(
    database: PooledPostgresqlDatabase, before: int | None, most: int
) -> Sequence[RefusedMail]:
    """Mail that was refused for good, the latest first. One statement."""
    return [
        RefusedMail(*row)
        for row in rows(
            database,
            "SELECT m.id, p.full_name, p.email, m.title, m.made_at, m.mail_refused_at, m.mail_problem "
            "FROM messages m JOIN student_terms st ON st.id = m.student_term_id "
            "JOIN persons p ON p.id = st.student_id WHERE m.mail_refused_at IS NOT NULL "
            "AND (%s::bigint IS NULL OR m.id < %s) ORDER BY m.id DESC LIMIT %s",
            (before, before, most),
        )
    ]
