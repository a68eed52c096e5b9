"""Writes and reads messages; core.messages makes their texts."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from peewee import SQL, chunked, fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core import messages
from gremba.core.messages import Facts, MessageKind
from gremba.core.states import WaitlistState
from gremba.store.models import Message, WaitlistEntry
from gremba.store.queries import columns, fetch, fetch_tuples, has_rows, write
from gremba.store.waitlists.entries import EntryRow


@dataclass(frozen=True, slots=True)
class ReceivedMessage:
    """A message to a student.

    Attributes:
        until: when an offer in it lapses.
    """

    id: int
    kind: MessageKind
    facts: Facts
    until: datetime | None
    made_at: datetime
    read_at: datetime | None

    @property
    def title(self) -> str:
        """The subject line."""
        return messages.Message(self.kind, self.facts).title

    @property
    def body(self) -> str:
        """The text."""
        return messages.Message(self.kind, self.facts).body


def put_message(
    database: PooledPostgresqlDatabase,
    entry: EntryRow,
    message: messages.Message,
    at: datetime,
    until: datetime | None = None,
) -> None:
    """Store a message about a waitlist entry; mail is sent from the same table. One statement.

    Args:
        until: when an offer in it lapses.
    """
    _put(database, entry.student_term_id, entry.id, message, at, until)


def put_notice(
    database: PooledPostgresqlDatabase, student_term_id: int, message: messages.Message, at: datetime
) -> None:
    """Store a message about no waitlist entry. One statement."""
    _put(database, student_term_id, None, message, at, None)


def put_notices(
    database: PooledPostgresqlDatabase, told: Iterable[tuple[int, messages.Message]], at: datetime
) -> None:
    """Store messages about no waitlist entry, each with its student's term row. A statement per thousand."""
    rows = [
        {"student_term": row, "kind": message.kind, "facts": dict(message.facts), "made_at": at}
        for row, message in told
    ]
    for some in chunked(rows, 1_000):
        write(database, Message.insert_many(some))


def was_told_since(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    kind: MessageKind,
    since: datetime,
    now: datetime,
) -> bool:
    """Whether a student got a message of a kind between two times. One statement."""
    own = Message
    query = own.select(own.id).where(
        own.student_term == student_term_id, own.kind == kind, own.made_at > since, own.made_at <= now
    )
    return has_rows(database, query)


def put_mail(
    database: PooledPostgresqlDatabase, people: Collection[int], message: messages.Message, at: datetime
) -> None:
    """Store mail to people of the college. One statement, if there are any."""
    rows = [
        {"person": person, "kind": message.kind, "facts": dict(message.facts), "made_at": at}
        for person in sorted(people)
    ]
    if rows:
        write(database, Message.insert_many(rows))


def put_gathered_mail(
    database: PooledPostgresqlDatabase,
    people: Collection[int],
    message: messages.Message,
    at: datetime,
    gathering: timedelta,
    claimed: timedelta,
) -> None:
    """Store mail about a section to people of the college. The first of a kind is sent at once; those that
    follow soon are counted in one sent when this time is over. Two statements a person.

    Args:
        claimed: so long a mail is claimed by whoever hands it over. One that is due within twice that is
            not added to: it may be on its way already.
    """
    own = Message
    due_at = fn.COALESCE(own.mail_after, own.made_at)
    for person in sorted(people):
        query = own.select(own.id, due_at, own.mailed_at, own.tries).where(
            own.person == person,
            own.kind == message.kind,
            SQL("facts ->> 'number'") == str(message.facts["number"]),
            due_at > at - gathering,
        )
        found = fetch_tuples(database, query.order_by(own.id.desc()).limit(1).for_update())
        row = {"person": person, "kind": message.kind, "facts": dict(message.facts), "made_at": at}
        if not found:
            write(database, own.insert(row))
            continue
        (last, due, mailed_at, tries) = found[0]
        if mailed_at is None and tries == 0 and due > at + 2 * claimed:
            others = fn.COALESCE(SQL("(facts ->> 'others')::int"), 0) + 1
            more = fn.jsonb_set(own.facts, SQL("'{others}'"), fn.to_jsonb(others))
            write(database, own.update({own.facts: more}).where(own.id == last))
        else:
            write(database, own.insert(row | {"mail_after": due + gathering}))


def _put(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    entry: int | None,
    message: messages.Message,
    at: datetime,
    until: datetime | None,
) -> None:
    new = Message.insert(
        student_term=student_term_id,
        entry=entry,
        kind=message.kind,
        facts=dict(message.facts),
        until=until,
        made_at=at,
    )
    write(database, new)


def read_messages(
    database: PooledPostgresqlDatabase, student_term_id: int, without: Collection[MessageKind] = ()
) -> Sequence[ReceivedMessage]:
    """A student's messages for a term, newest first, a hundred at most. One statement.

    Args:
        without: kinds that are left out.
    """
    query = Message.select(*columns(ReceivedMessage, Message)).where(
        Message.student_term == student_term_id, Message.kind.not_in(list(without))
    )
    return fetch(database, query.order_by(Message.id.desc()).limit(100), ReceivedMessage)


def mark_read(database: PooledPostgresqlDatabase, student_term_id: int, up_to: int, now: datetime) -> int:
    """Mark messages up to this one as read. One statement."""
    unread = (Message.student_term == student_term_id) & (Message.id <= up_to) & Message.read_at.is_null()
    return write(database, Message.update(read_at=now).where(unread))


def count_news(
    database: PooledPostgresqlDatabase, student_term_id: int, without: Collection[MessageKind] = ()
) -> tuple[int, int, datetime | None]:
    """The number of unread messages and open offers, and when the first offer expires. One statement.

    Args:
        without: kinds of messages that are left out.
    """
    unread = Message.select(fn.COUNT(Message.id)).where(
        Message.student_term == student_term_id,
        Message.read_at.is_null(),
        Message.kind.not_in(list(without)),
    )
    query = WaitlistEntry.select(
        unread.alias("unread"), fn.COUNT(WaitlistEntry.id), fn.MIN(WaitlistEntry.offer_until)
    ).where(
        WaitlistEntry.student_term_id == student_term_id,
        WaitlistEntry.state == WaitlistState.OFFERED,
    )
    [(unread_count, offers, lapses_at)] = fetch_tuples(database, query)
    return unread_count, offers, lapses_at
