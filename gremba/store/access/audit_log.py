"""The audit log's table: only added to, and kept for a set time."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, timedelta

from peewee import JOIN, SQL, Select, Value, fn
from playhouse.pool import PooledPostgresqlDatabase
from psycopg.types.json import Jsonb

from gremba.core.access.audit_log import Head, Recorded
from gremba.core.states import AuditKind
from gremba.store.database import run_sql
from gremba.store.models import AuditAnchor, AuditEntry, AuditHead, Person
from gremba.store.models.base import literal
from gremba.store.queries import (
    columns,
    containing,
    fetch,
    fetch_tuples,
    fetch_values,
    write,
)


@dataclass(frozen=True, slots=True)
class Entry:
    """An entry of the audit log.

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


def write_entries(database: PooledPostgresqlDatabase, entries: Sequence[Entry]) -> None:
    """Append entries, each with the digest of the one before. A student that does not exist is left out.
    Concurrent writers wait for each other, because it is one chain. The serving role has no other way to
    write (``write_audit`` in triggers.sql)."""
    told = [
        {
            "at": e.at.isoformat(),
            "kind": e.act.value,
            "person": e.person_id,
            "account": e.account,
            "student": e.student_id,
            "address": e.address,
            "request_id": e.request_id,
            "detail": e.detail,
        }
        for e in entries
    ]
    with database.atomic():
        fetch_values(database, Select(columns=[fn.write_audit(Jsonb(told))]))


_CHUNK = 10_000


def read_head(database: PooledPostgresqlDatabase) -> Head:
    """The end of the log, and the end of what was deleted by age."""
    # In one statement: both ends are written together.
    own = AuditHead
    beyond_it = AuditEntry.select(fn.MIN(AuditEntry.id)).where(AuditEntry.id > own.last_id)
    query = own.select(
        own.last_id, own.last_digest, own.aged_out_digest, fn.audit_head_is_right(), beyond_it.alias("beyond")
    )
    ((last_id, last, aged_out, is_right, beyond),) = fetch_tuples(database, query)
    return Head(last_id, bytes(last), bytes(aged_out), is_right, beyond)


def recorded(database: PooledPostgresqlDatabase, up_to: int) -> Iterator[Recorded]:
    """Yields the entries up to one in order, a few thousand in memory at a time."""
    own = AuditEntry
    after = 0
    is_right = SQL("is_keyed AND audit_is_right(t1)")
    while True:
        named = {"person_id": own.person, "student_id": own.student, "before": own.digest_before}
        query = own.select(*columns(Recorded, own, **named, is_right=is_right))
        query = query.where(own.id > after, own.id <= up_to).order_by(own.id).limit(_CHUNK)
        found = fetch(database, query, Recorded)
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
class AuditSought:
    """The entries to find.

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
    """An entry, as it is shown.

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


def find_entries(database: PooledPostgresqlDatabase, sought: AuditSought, most: int) -> list[FoundEntry]:
    """Find entries, newest first. One statement."""
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


AUDIT_KEPT = timedelta(days=400)
"""How long the record is kept; what is older goes by the owner's command only."""

RETENTION = {
    "sign_ins": ("at", timedelta(days=30)),
    "permission_code_guesses": ("at", timedelta(days=30)),
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


def purge(database: PooledPostgresqlDatabase, now: datetime) -> dict[str, int]:
    """Delete rows past their retention, a few thousand at a time; returns how many of each table."""
    gone = {}
    for table, (column, retention) in RETENTION.items():
        many = 0
        while many < MOST_PURGED:
            last = run_sql(
                database,
                _PURGE.format(table=table, column=column),
                (now - retention,),
            )
            many += last
            if last < AT_ONCE:
                break
        if many:
            gone[table] = many
    return gone


def age_out(database: PooledPostgresqlDatabase, now: datetime) -> int:
    """Delete the oldest entries of the log past their retention; returns how many. Only the tables' owner
    may."""
    gone = 0
    while gone < MOST_PURGED:
        query = Select(columns=[fn.age_out_audit(now - AUDIT_KEPT, AT_ONCE)])
        many = int(fetch_values(database, query)[0])
        gone += many
        if many < AT_ONCE:
            break
    return gone


@dataclass(frozen=True, slots=True)
class Anchor:
    """The last digest of a day, to be sent elsewhere."""

    day: date
    last_id: int
    digest: bytes


def claim_anchor(database: PooledPostgresqlDatabase, now: datetime, tried_before: datetime) -> Anchor | None:
    """The day's anchor, unless it was sent or is being sent. Two statements, in a transaction.

    Args:
        now: the day is that of UTC.
        tried_before: one that was tried later is left to whoever tries it.
    """
    own, head = AuditAnchor, AuditHead
    day = now.astimezone(UTC).date()
    last = head.select(Value(day), head.last_id, head.last_digest).where(head.last_id > 0)
    write(database, own.insert_from(last, [own.day, own.last_id, own.digest]).on_conflict_ignore())
    is_due = own.sent_at.is_null() & (own.tried_at.is_null() | (own.tried_at < tried_before))
    claimed = own.update(tried_at=now).where(own.day == day, is_due).returning(own.last_id, own.digest)
    for last_id, digest in fetch_tuples(database, claimed):
        return Anchor(day, last_id, bytes(digest))
    return None


def mark_anchor_sent(database: PooledPostgresqlDatabase, day: date, at: datetime) -> None:
    """Record that the anchor was sent."""
    write(database, AuditAnchor.update(sent_at=at).where(AuditAnchor.day == day))
