"""Notifies the people concerned by a permission request."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime, timedelta

from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.messages.mail import CLAIMED
from gremba.core.catalogue.term import Section
from gremba.core.messages import MessageKind, message
from gremba.core.permission.deciders import Deciders
from gremba.core.states import Waiver
from gremba.core.wording import listed
from gremba.store.messages.inbox import put_gathered_mail, put_mail, put_notice
from gremba.store.permission.requests import RequestRow

_MOST_QUOTED = 400


def lifted_text(waives: Collection[str]) -> str:
    """The rules overridden, for use in a sentence."""
    return listed([_WORDS[what] for what in Waiver if what.value in waives])


_WORDS = {
    Waiver.CONSENT: "the consent it takes",
    Waiver.SEATS: "the number of seats",
    Waiver.REQUISITE: "what it requires",
    Waiver.RESTRICTION: "who may take it",
    Waiver.LATE_ADD: "the last day to add it",
    Waiver.REPEAT: "taking it once more",
    Waiver.CREDITS: "your limit of credits",
    Waiver.CONFLICT: "the clash of times",
    Waiver.HOLD: "a hold",
}


def quoted(words: str) -> str | None:
    """A person's text, shortened for a message; None if empty."""
    one_line = " ".join(words.split())
    if len(one_line) > _MOST_QUOTED:
        return f"{one_line[: _MOST_QUOTED - 1]}…"
    return one_line or None


def tell_student(
    database: PooledPostgresqlDatabase,
    row: RequestRow,
    section: Section,
    kind: MessageKind,
    at: datetime,
    **facts: str | int | None,
) -> None:
    """Message the student about a request. One statement."""
    put_notice(database, row.student_term_id, message(kind, section, **facts), at)


def tell_deciders(
    database: PooledPostgresqlDatabase,
    deciders: Deciders,
    row: RequestRow,
    section: Section,
    kind: MessageKind,
    at: datetime,
    **facts: str | int | None,
) -> None:
    """Mail a request's deciders. Repeated mail about one section is combined."""
    people = {having.person for having in deciders.having(row, section)}
    told = message(kind, section, student=row.student, **facts)
    if kind in _GATHERED:
        put_gathered_mail(database, people, told, at, GATHERING, CLAIMED)
    else:
        put_mail(database, people, told, at)


GATHERING = timedelta(hours=1)
"""So long what is told of one section is put together."""

_GATHERED = frozenset({MessageKind.REQUEST_CAME, MessageKind.REQUEST_WAITS})
