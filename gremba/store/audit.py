"""What was done, by whom and from where: kept apart from receipts, only added to, for so long."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any

from peewee import JOIN, fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.audit_chain import FIRST, Recorded, digest_of
from gremba.core.states import AuditKind
from gremba.store.database import run_sql
from gremba.store.models import AuditEntry, Person, Student
from gremba.store.models.base import literal
from gremba.store.queries import (
    columns,
    containing,
    fetch,
    fetch_value,
    fetch_values,
    lock_until_end,
    one_of,
    write,
)


@dataclass(frozen=True, slots=True)
class Entry:
    """One of them.

    Attributes:
        account: the user name that was given, where nobody is signed in.
        student_id: whom it is about, where that is another.
        request_id: the one that the answer carried.
    """

    at: datetime
    act: AuditKind
    person_id: int | None = None
    account: str = ""
    student_id: int | None = None
    address: str = ""
    request_id: str = ""
    detail: str = ""


_LOCK = 0x617564697400

_SAID = ("at", "kind", "person", "account", "student", "address", "request_id", "detail")


def write_entries(database: PooledPostgresqlDatabase, entries: Sequence[Entry]) -> None:
    """Write entries behind those there are, each with the digest of the one before. A student who is nobody
    is left out. Processes that write at once wait for each other: it is one chain."""
    with database.atomic():
        lock_until_end(database, _LOCK)
        own = AuditEntry
        chained = own.select(own.digest).where(own.digest.is_null(False)).order_by(own.id.desc()).limit(1)
        before = bytes(fetch_value(database, chained) or FIRST)
        named = sorted({e.student_id for e in entries if e.student_id is not None})
        known = set(fetch_values(database, Student.select(Student.id).where(one_of(Student.id, named))))
        rows: list[dict[str, Any]] = []
        for e in entries:
            student = e.student_id if e.student_id in known else None
            said = (e.at, e.act.value, e.person_id, e.account, student, e.address, e.request_id, e.detail)
            digest = digest_of(before, *said)
            rows.append(dict(zip(_SAID, said, strict=True)) | {"digest_before": before, "digest": digest})
            before = digest
        write(database, own.insert_many(rows))


_CHUNK = 10_000


def recorded(database: PooledPostgresqlDatabase) -> Iterator[Recorded]:
    """All entries in the order in which they were written, some thousand in memory at a time."""
    own = AuditEntry
    after = 0
    while True:
        query = own.select(
            *columns(Recorded, own, person_id=own.person, student_id=own.student, before=own.digest_before)
        )
        found = fetch(database, query.where(own.id > after).order_by(own.id).limit(_CHUNK), Recorded)
        yield from (
            replace(
                entry,
                kind=str(AuditKind(entry.kind).value),
                before=None if entry.before is None else bytes(entry.before),
                digest=None if entry.digest is None else bytes(entry.digest),
            )
            for entry in found
        )
        if len(found) < _CHUNK:
            return
        after = found[-1].id


@dataclass(frozen=True, slots=True)
class Sought:
    """Which entries are wanted.

    Attributes:
        words: that stand in the detail, the account, or the name of the person or the student.
        since, until: between which moments; the second not included.
        before_id: only those written before this one; None from the latest on.
    """

    since: datetime
    until: datetime
    words: str = ""
    kind: AuditKind | None = None
    before_id: int | None = None


@dataclass(frozen=True, slots=True)
class FoundEntry:
    """An entry as it is shown.

    Attributes:
        person: name of whoever did it; empty where nobody was signed in.
        student: name of whom it is about, where that is another.
    """

    id: int
    at: datetime
    kind: AuditKind
    person: str
    account: str
    student: str
    address: str
    request_id: str
    detail: str


def find_entries(database: PooledPostgresqlDatabase, sought: Sought, most: int) -> list[FoundEntry]:
    """Entries, the latest first. One statement."""
    own, student = AuditEntry, Person.alias("student")
    person_name, student_name = fn.COALESCE(Person.full_name, ""), fn.COALESCE(student.full_name, "")
    query = (
        own.select(*columns(FoundEntry, own, person=person_name, student=student_name))
        .join(Person, JOIN.LEFT_OUTER, on=own.person == Person.id)
        .switch(own)
        .join(student, JOIN.LEFT_OUTER, on=own.student == student.id)
        .where(own.at >= sought.since, own.at < sought.until)
        .order_by(own.id.desc())
        .limit(most)
    )
    if sought.kind is not None:
        query = query.where(own.kind == literal(sought.kind))
    if sought.before_id is not None:
        query = query.where(own.id < sought.before_id)
    for word in sought.words.split()[:MOST_WORDS]:
        like = containing(word)
        query = query.where(
            (own.detail**like) | (own.account**like) | (person_name**like) | (student_name**like)
        )
    return fetch(database, query, FoundEntry)


MOST_WORDS = 6
"""Words that are looked for at once; others are passed over."""


RETENTION = {
    "audit_entries": ("at", timedelta(days=400)),
    "sign_ins": ("at", timedelta(days=30)),
    "consent_guesses": ("at", timedelta(days=30)),
    "known_browsers": ("seen_at", timedelta(days=180)),
    "sessions": ("expires_at", timedelta(days=30)),
}
"""How long what is about access is kept, by the moment in a column; nothing else ever goes."""

AT_ONCE = 5_000
"""Rows that one statement takes away, so that none holds locks for long."""

MOST_PURGED = 1_000_000
"""Rows of a table at the most in one go: more than a flood of attempts leaves in an hour."""


_PURGE = f"""
DELETE FROM {{table}} WHERE ctid IN (SELECT ctid FROM {{table}} WHERE {{column}} < %s LIMIT {AT_ONCE})
"""
# Of the chain only its beginning goes: those that were written before all that are to stay.
_PURGE_CHAIN = f"""
DELETE FROM audit_entries WHERE id IN (
    SELECT id FROM audit_entries
    WHERE id < (SELECT coalesce(min(id), 9223372036854775807) FROM audit_entries WHERE at >= %s)
    ORDER BY id LIMIT {AT_ONCE})
"""


def purge(database: PooledPostgresqlDatabase, now: datetime) -> dict[str, int]:
    """Take away what is older than it is kept, a few thousand rows at a time; gives how many of each
    went."""
    gone = {}
    for table, (column, retention) in RETENTION.items():
        many = 0
        while many < MOST_PURGED:
            last = run_sql(
                database,
                _PURGE_CHAIN if table == "audit_entries" else _PURGE.format(table=table, column=column),
                (now - retention,),
            )
            many += last
            if last < AT_ONCE:
                break
        if many:
            gone[table] = many
    return gone
