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

    person: Person
    csrf_token: str
    expires_at: datetime
    terms: Mapping[str, int]
    """For a student: the terms, by code, with the id of the student's row of each."""


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
) -> None:
    """Write a new session."""
    run(
        database,
        "INSERT INTO sessions (token_digest, person_id, csrf_token, created_at, expires_at) "
        "VALUES (%s, %s, %s, %s, %s)",
        (digest, person_id, csrf_token, at, at + lasts),
    )


_FIND = """
SELECT s.token_digest, p.id, p.username, p.full_name, p.role, s.csrf_token, s.expires_at,
       (SELECT json_object_agg(t.code, st.id) FROM student_terms st
        JOIN terms t ON t.id = st.term_id WHERE st.student_id = p.id)
FROM sessions s JOIN persons p ON p.id = s.person_id
WHERE s.token_digest = ANY(%b) AND s.ended_at IS NULL AND s.expires_at > %s
"""


def find_sessions(
    database: PooledPostgresqlDatabase, digests: Sequence[bytes], at: datetime
) -> dict[bytes, Session]:
    """Those of these sessions that have neither ended nor expired, in one statement."""
    return {
        bytes(row[0]): Session(Person(*row[1:5]), row[5], row[6], row[7] or {})
        for row in rows(database, _FIND, (list(digests), at))
    }


def end_session(database: PooledPostgresqlDatabase, digest: bytes, at: datetime) -> None:
    """End a session; every process hears of it."""
    run(
        database,
        "UPDATE sessions SET ended_at = %s WHERE token_digest = %s AND ended_at IS NULL",
        (at, digest),
    )


def count_attempts(
    database: PooledPostgresqlDatabase, subject: str, since: datetime
) -> int:
    """Failed attempts of an account or an address since a time."""
    found = rows(
        database,
        "SELECT count(*) FROM sign_in_attempts WHERE subject = %s AND at > %s",
        (subject, since),
    )
    return int(found[0][0])


def note_attempt(
    database: PooledPostgresqlDatabase, subjects: list[str], at: datetime
) -> None:
    """Note a failed attempt."""
    run(
        database,
        "INSERT INTO sign_in_attempts (subject, at) SELECT s, %s FROM unnest(%s::text[]) AS s",
        (at, subjects),
    )
