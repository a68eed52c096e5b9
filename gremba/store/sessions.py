"""Sessions and attempts to sign in. Tokens are kept only as digests."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.database import rows, run


@dataclass(frozen=True, slots=True)
class Person:
    """Who is signed in. ``role`` is student, advisor, instructor, registrar or cashier."""

    id: int
    username: str
    full_name: str
    role: str


@dataclass(frozen=True, slots=True)
class Session:
    """A session that has been found by its token's digest."""

    id: int
    person: Person
    csrf_token: str
    expires_at: datetime
    seen_at: datetime
    terms: Mapping[str, int]
    """For a student: the terms, by code, with the id of the student's row of each."""


IDLE = timedelta(hours=2)
"""A session ends when it has not been used for so long."""

NOTED = timedelta(minutes=5)
"""How exactly it is kept when a session was used last."""


def find_person(
    database: PooledPostgresqlDatabase, username: str
) -> tuple[Person, str] | None:
    """A person by username, with the hash of their password."""
    found = rows(
        database,
        "SELECT id, username, full_name, role, password_hash FROM persons WHERE username = %s",
        (username,),
    )
    return (Person(*found[0][:4]), found[0][4]) if found else None


def open_session(
    database: PooledPostgresqlDatabase,
    digest: bytes,
    person_id: int,
    csrf_token: str,
    at: datetime,
    lasts: timedelta,
    browser: str,
) -> int:
    """Write a new session; gives its id."""
    found = rows(
        database,
        "INSERT INTO sessions (token_digest, person_id, csrf_token, created_at, expires_at, seen_at, "
        "browser) VALUES (%s, %s, %s, %s, %s, %s, %s) RETURNING id",
        (digest, person_id, csrf_token, at, at + lasts, at, browser),
    )
    return int(found[0][0])


_FIND = """
SELECT s.token_digest, p.id, p.username, p.full_name, p.role, s.csrf_token, s.expires_at, s.seen_at,
       (SELECT json_object_agg(t.code, st.id) FROM student_terms st
        JOIN terms t ON t.id = st.term_id WHERE st.student_id = p.id), s.id
FROM sessions s JOIN persons p ON p.id = s.person_id
WHERE s.token_digest = ANY(%b) AND s.ended_at IS NULL AND s.expires_at > %s AND s.seen_at > %s
"""


def find_sessions(
    database: PooledPostgresqlDatabase, digests: Sequence[bytes], at: datetime
) -> dict[bytes, Session]:
    """Those of these sessions that have neither ended nor expired, nor been idle too long. One
    statement, and one more where it is to be noted that they are used."""
    found = {
        bytes(row[0]): Session(row[9], Person(*row[1:5]), row[5], row[6], row[7], row[8] or {})
        for row in rows(database, _FIND, (list(digests), at, at - IDLE))
    }
    used = [digest for digest, session in found.items() if session.seen_at < at - NOTED]
    if used:
        run(
            database,
            "UPDATE sessions SET seen_at = %s WHERE token_digest = ANY(%b) AND ended_at IS NULL",
            (at, used),
        )
    return found


def end_session(database: PooledPostgresqlDatabase, digest: bytes, at: datetime) -> None:
    """End a session; every process hears of it."""
    run(
        database,
        "UPDATE sessions SET ended_at = %s WHERE token_digest = %s AND ended_at IS NULL",
        (at, digest),
    )


@dataclass(frozen=True, slots=True)
class SessionLine:
    """One of somebody's sessions that are open."""

    id: int
    opened_at: datetime
    seen_at: datetime
    browser: str


def sessions_of(
    database: PooledPostgresqlDatabase, person_id: int, at: datetime
) -> list[SessionLine]:
    """Somebody's sessions that are open, the last used first."""
    found = rows(
        database,
        "SELECT id, created_at, seen_at, browser FROM sessions WHERE person_id = %s "
        "AND ended_at IS NULL AND expires_at > %s AND seen_at > %s ORDER BY seen_at DESC, id DESC",
        (person_id, at, at - IDLE),
    )
    return [SessionLine(*row) for row in found]


def end_other_sessions(
    database: PooledPostgresqlDatabase, person_id: int, but: int, at: datetime
) -> int:
    """End all of somebody's sessions but one; gives how many there were."""
    return run(
        database,
        "UPDATE sessions SET ended_at = %s WHERE person_id = %s AND id <> %s AND ended_at IS NULL",
        (at, person_id, but),
    )
