"""Stores passwords and the digests of links that set them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from peewee import fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.states import Role
from gremba.store import models
from gremba.store.access.sessions import Person
from gremba.store.exchange.kept import NO_PASSWORD
from gremba.store.queries import columns, fetch, fetch_one, fetch_value, keeping_keys, write


def email_of(database: PooledPostgresqlDatabase, person_id: int) -> str:
    """Somebody's email address; "" if unknown."""
    own = models.Person
    return str(fetch_value(database, own.select(own.email).where(own.id == person_id)) or "")


@dataclass(frozen=True, slots=True)
class Invitee:
    """A person without a password."""

    id: int
    username: str
    full_name: str
    email: str


def without_password(
    database: PooledPostgresqlDatabase, after: int, most: int, now: datetime
) -> list[Invitee]:
    """People without a password or a valid link, by id. One statement."""
    own, link = models.Person, models.PasswordLink
    open_link = link.select(link.person).where(
        link.person == own.id, link.used_at.is_null(), link.ends_at > now
    )
    query = (
        own.select(*columns(Invitee, own))
        .where(own.id > after, own.password_hash == NO_PASSWORD, ~fn.EXISTS(open_link))
        .order_by(own.id)
        .limit(most)
    )
    return fetch(database, query, Invitee)


def end_links(database: PooledPostgresqlDatabase, person: int, at: datetime) -> None:
    """Invalidate all of a person's links."""
    link = models.PasswordLink
    write(database, link.update(used_at=at).where((link.person == person) & link.used_at.is_null()))


def add_person(
    database: PooledPostgresqlDatabase, username: str, full_name: str, email: str, role: Role
) -> int:
    """Add a person without a password; returns their id."""
    own = models.Person
    query = own.insert(
        username=username, full_name=full_name, email=email, role=role, password_hash=NO_PASSWORD
    )
    return int(fetch_value(database, query.returning(own.id)))


def add_link(
    database: PooledPostgresqlDatabase, digest: bytes, person: int, at: datetime, ends_at: datetime
) -> None:
    """Store a link; earlier ones of the person become invalid."""
    own = models.PasswordLink
    end_links(database, person, at)
    write(database, own.insert(token_digest=digest, person=person, made_at=at, ends_at=ends_at))


def person_of_link(database: PooledPostgresqlDatabase, digest: bytes, at: datetime) -> Person | None:
    """The link's person, locked until the transaction ends; None if the link was used, has expired, or
    does not exist."""
    own, person = models.PasswordLink, models.Person
    query = (
        person.select(person.id, person.username, person.full_name, person.role)
        .join(own, on=(own.person == person.id))
        .where((own.token_digest == digest) & own.used_at.is_null() & (own.ends_at > at))
    )
    return fetch_one(database, keeping_keys(query), Person)


def put_password(database: PooledPostgresqlDatabase, person: int, hashed: str, at: datetime) -> None:
    """Set a person's password. Their links become used, and a trigger ends their sessions."""
    own = models.Person
    write(database, own.update(password_hash=hashed).where(own.id == person))
    end_links(database, person, at)
