"""Stores links to a schedule; their secret part only as a digest."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from peewee import Expression
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.states import WeekLinkKind
from gremba.store.models import StudentTerm, Term
from gremba.store.models import WeekLink as Links
from gremba.store.queries import columns, fetch, fetch_one, fetch_value, write


@dataclass(frozen=True, slots=True)
class WeekLink:
    """An active link: neither withdrawn nor expired."""

    id: int
    kind: WeekLinkKind
    made_at: datetime
    expires_at: datetime | None


@dataclass(frozen=True, slots=True)
class SharedWeek:
    """Whose schedule a link shows."""

    student_term_id: int
    term: str
    expires_at: datetime | None


def add_link(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    kind: WeekLinkKind,
    digest: bytes,
    now: datetime,
    expires_at: datetime | None,
) -> int:
    """Store a link; returns its id. One statement."""
    new = Links.insert(
        student_term=student_term_id, kind=kind, digest=digest, made_at=now, expires_at=expires_at
    )
    return int(fetch_value(database, new.returning(Links.id)))


def list_links(database: PooledPostgresqlDatabase, student_term_id: int, now: datetime) -> Sequence[WeekLink]:
    """The active links, newest first. One statement."""
    query = Links.select(*columns(WeekLink, Links))
    query = query.where(Links.student_term == student_term_id, _is_in_force(now))
    return fetch(database, query.order_by(Links.id.desc()), WeekLink)


def withdraw_link(
    database: PooledPostgresqlDatabase, student_term_id: int, link_id: int, now: datetime
) -> int:
    """Withdraw a link; returns 0 if there is no such active link."""
    return write(
        database,
        Links.update(withdrawn_at=now).where(
            Links.id == link_id, Links.student_term == student_term_id, Links.withdrawn_at.is_null()
        ),
    )


def find_link(
    database: PooledPostgresqlDatabase, digest: bytes, kind: WeekLinkKind, now: datetime
) -> SharedWeek | None:
    """Whose schedule a link shows; None if it is not active. One statement."""
    selected = columns(
        SharedWeek,
        Links,
        student_term_id=Links.student_term,
        term=Term.code,
    )
    return fetch_one(
        database,
        Links.select(*selected)
        .join(StudentTerm)
        .join(Term)
        .where(Links.digest == digest, Links.kind == kind, _is_in_force(now)),
        SharedWeek,
    )


def _is_in_force(now: datetime) -> Expression:
    in_force: Expression = Links.withdrawn_at.is_null() & (
        Links.expires_at.is_null() | (Links.expires_at > now)
    )
    return in_force
