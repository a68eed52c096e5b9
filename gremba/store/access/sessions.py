"""Stores sessions; tokens only as digests."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from playhouse.pool import PooledPostgresqlDatabase
from pydantic import TypeAdapter

from gremba.core.states import Role
from gremba.store import models
from gremba.store.database import fetch_records, send_sql
from gremba.store.queries import columns, fetch, fetch_tuples, fetch_value, one_of, write


@dataclass(frozen=True, slots=True)
class Person:
    """A signed-in person."""

    id: int
    username: str
    full_name: str
    role: Role


@dataclass(frozen=True, slots=True)
class Session:
    """A session, found by its token's digest."""

    id: int
    person: Person
    csrf_token: str
    expires_at: datetime
    seen_at: datetime
    terms: Mapping[str, int]
    """For a student: the terms, by code, with the id of the student's row of each."""


IDLE = timedelta(hours=2)
"""A session ends when it has not been used for so long."""

MAX_SESSIONS = 10
"""Sessions that one person may have open."""

NOTED = timedelta(minutes=5)
"""How exactly it is kept when a session was used last."""


def find_person(database: PooledPostgresqlDatabase, username: str) -> tuple[Person, str] | None:
    """A person by username, with the hash of their password."""
    own = models.Person
    query = own.select(own.id, own.username, own.full_name, own.role, own.password_hash)
    for key, name, full_name, role, password_hash in fetch_tuples(
        database, query.where(own.username == username)
    ):
        return Person(key, name, full_name, role), password_hash
    return None


def open_session(
    database: PooledPostgresqlDatabase,
    digest: bytes,
    person_id: int,
    csrf_token: str,
    at: datetime,
    lasts: timedelta,
    browser: str,
) -> int:
    """Store a new session; returns its id. Over the limit per person, those used longest ago end."""
    own = models.Session
    is_open = (own.person == person_id) & own.ended_at.is_null() & (own.expires_at > at)
    kept = (
        own.select(own.id).where(is_open).order_by(own.seen_at.desc(), own.id.desc()).limit(MAX_SESSIONS - 1)
    )
    write(database, own.update(ended_at=at).where(is_open, own.id.not_in(kept)))
    new = models.Session.insert(
        token_digest=digest,
        person=person_id,
        csrf_token=csrf_token,
        created_at=at,
        expires_at=at + lasts,
        seen_at=at,
        browser=browser,
    )
    return int(fetch_value(database, new.returning(models.Session.id)))


_FIND = """
SELECT s.token_digest, s.id, p.id AS person_id, p.username, p.full_name, p.role, s.csrf_token,
       s.expires_at, s.seen_at,
       coalesce((SELECT json_object_agg(t.code, st.id) FROM student_terms st
                 JOIN terms t ON t.id = st.term_id WHERE st.student_id = p.id), '{}') AS terms
FROM sessions s JOIN persons p ON p.id = s.person_id
WHERE s.token_digest = ANY(%b) AND s.ended_at IS NULL AND s.expires_at > %s AND s.seen_at > %s
"""


@dataclass(frozen=True, slots=True)
class _SessionRow:
    token_digest: bytes
    id: int
    person_id: int
    username: str
    full_name: str
    role: Role
    csrf_token: str
    expires_at: datetime
    seen_at: datetime
    terms: dict[str, int]


_SESSION_ROWS = TypeAdapter(list[_SessionRow])


def find_sessions(
    database: PooledPostgresqlDatabase, digests: Sequence[bytes], at: datetime
) -> dict[bytes, Session]:
    """Those of these sessions that are open. One statement, and one more when their last use is recorded."""
    asked = send_sql(database, _FIND, (list(digests), at, at - IDLE))
    found = {
        row.token_digest: Session(
            id=row.id,
            person=Person(row.person_id, row.username, row.full_name, row.role),
            csrf_token=row.csrf_token,
            expires_at=row.expires_at,
            seen_at=row.seen_at,
            terms=row.terms,
        )
        for row in fetch_records(asked, _SESSION_ROWS)
    }
    used = [digest for digest, session in found.items() if session.seen_at < at - NOTED]
    if used:
        write(
            database,
            models.Session.update(seen_at=at).where(
                one_of(models.Session.token_digest, used), models.Session.ended_at.is_null()
            ),
        )
    return found


def end_session(database: PooledPostgresqlDatabase, digest: bytes, at: datetime) -> None:
    """End a session; the database notifies every process."""
    write(
        database,
        models.Session.update(ended_at=at).where(
            models.Session.token_digest == digest, models.Session.ended_at.is_null()
        ),
    )


@dataclass(frozen=True, slots=True)
class SessionLine:
    """One of a person's open sessions."""

    id: int
    opened_at: datetime
    seen_at: datetime
    browser: str


def sessions_of(database: PooledPostgresqlDatabase, person_id: int, at: datetime) -> list[SessionLine]:
    """A person's open sessions, last used first."""
    own = models.Session
    query = own.select(*columns(SessionLine, own, opened_at=own.created_at)).where(
        own.person == person_id, own.ended_at.is_null(), own.expires_at > at, own.seen_at > at - IDLE
    )
    return fetch(database, query.order_by(own.seen_at.desc(), own.id.desc()), SessionLine)


def end_sessions(database: PooledPostgresqlDatabase, person_id: int, at: datetime) -> int:
    """End all of a person's sessions; returns how many."""
    own = models.Session
    is_open = (own.person == person_id) & own.ended_at.is_null() & (own.expires_at > at)
    return write(database, own.update(ended_at=at).where(is_open))


def end_other_sessions(database: PooledPostgresqlDatabase, person_id: int, but: int, at: datetime) -> int:
    """End all of a person's sessions except one; returns how many."""
    own = models.Session
    others = (own.person == person_id) & (own.id != but) & own.ended_at.is_null()
    return write(database, own.update(ended_at=at).where(others))
