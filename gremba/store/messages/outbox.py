"""Messages waiting to be sent by email."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from peewee import JOIN, fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core import messages
from gremba.core.messages import Facts, MessageKind
from gremba.store.models import Message, Person, StudentTerm, Term, WaitlistEntry
from gremba.store.queries import columns, fetch, fetch_one, write


@dataclass(frozen=True, slots=True)
class Outgoing:
    """A message to be mailed.

    Attributes:
        until: a deadline that it tells of.
        entry, section: what it is about.
        tries: how often it has been put off.
        mail_after: before when it was not to be tried.
        term: the term's code; None where it is to no student.
    """

    id: int
    kind: MessageKind
    facts: Facts
    until: datetime | None
    address: str
    entry: int | None
    section: int | None
    term: str | None
    tries: int
    made_at: datetime
    mail_after: datetime | None

    @property
    def message(self) -> messages.Message:
        """Its content."""
        return messages.Message(self.kind, self.facts)


def claim_mail(
    database: PooledPostgresqlDatabase, now: datetime, until: datetime, longest_pause: timedelta
) -> Outgoing | None:
    """Lease a message that is due, untried ones first; None if there is none. Two statements, in a
    transaction.

    Args:
        longest_pause: what is to be tried again even later than after that was put off by a clock
            that has gone back since, and is due.
    """
    selected = columns(
        Outgoing, Message, address=Person.email, section=WaitlistEntry.section_id, term=Term.code
    )
    after = Message.mail_after
    is_due = after.is_null() | (after <= now) | (after > now + longest_pause)
    found = fetch_one(
        database,
        _with_student(Message.select(*selected))
        .join(Term, JOIN.LEFT_OUTER, on=Term.id == StudentTerm.term)
        .switch(Message)
        .join(WaitlistEntry, JOIN.LEFT_OUTER)
        .where(Message.mailed_at.is_null(), Message.mail_refused_at.is_null(), is_due)
        .order_by(after.asc(nulls="FIRST"), Message.id)
        .limit(1)
        .for_update(of=Message, skip_locked=True),
        Outgoing,
    )
    if found is not None:
        write(database, Message.update(mail_after=until).where(Message.id == found.id))
    return found


def give_back(database: PooledPostgresqlDatabase, mail: Outgoing) -> None:
    """Return the lease: it was not tried and stays due."""
    still = Message.mailed_at.is_null() & Message.mail_refused_at.is_null()
    write(database, Message.update(mail_after=mail.mail_after).where(Message.id == mail.id, still))


def _with_student(query: Any) -> Any:
    """Joins the recipient: the student, or the person of the college."""
    whom = fn.COALESCE(StudentTerm.student, Message.person)
    return query.join(StudentTerm, JOIN.LEFT_OUTER).join(Person, on=Person.id == whom).switch(StudentTerm)


def mark_sent(database: PooledPostgresqlDatabase, message: int, at: datetime) -> None:
    """Record that the mail server accepted it."""
    write(database, Message.update(mailed_at=at).where(Message.id == message))


def put_off(database: PooledPostgresqlDatabase, message: int, until: datetime, problem: str) -> None:
    """Schedule another try."""
    later = Message.update(mail_after=until, tries=Message.tries + 1, mail_problem=problem)
    write(database, later.where(Message.id == message))


def mark_refused(database: PooledPostgresqlDatabase, message: int, at: datetime, problem: str) -> None:
    """Record that it was rejected permanently, and why."""
    never = Message.update(mail_refused_at=at, mail_problem=problem)
    write(database, never.where(Message.id == message))


@dataclass(frozen=True, slots=True)
class RefusedMail:
    """A permanently rejected message."""

    id: int
    student: str
    address: str
    kind: MessageKind
    facts: Facts
    made_at: datetime
    refused_at: datetime
    problem: str

    @property
    def title(self) -> str:
        """Its subject."""
        return messages.Message(self.kind, self.facts).title


def refused_mail(database: PooledPostgresqlDatabase, before: int | None, most: int) -> Sequence[RefusedMail]:
    """Permanently rejected mail, newest first. One statement."""
    selected = columns(
        RefusedMail,
        Message,
        student=Person.full_name,
        address=Person.email,
        refused_at=Message.mail_refused_at,
        problem=Message.mail_problem,
    )
    query = _with_student(Message.select(*selected)).where(~Message.mail_refused_at.is_null())
    if before is not None:
        query = query.where(Message.id < before)
    return fetch(database, query.order_by(Message.id.desc()).limit(most), RefusedMail)
