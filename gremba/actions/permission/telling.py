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
    """What is lifted, in a sentence's words."""
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
    """What somebody wrote, short enough for a message; None if it is nothing."""
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
    """Tell the student something about a request. One statement."""
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
    """Mail something about a request to everybody who has it. What is told again and again of one section
    is put together."""
    people = {having.person for having in deciders.having(row, section)}
    told = message(kind, section, student=row.student, **facts)
    if kind in _GATHERED:
        put_gathered_mail(database, people, told, at, GATHERING, CLAIMED)
    else:
        put_mail(database, people, told, at)


GATHERING = timedelta(hours=1)
"""So long what is told of one section is put together."""

_GATHERED = frozenset({MessageKind.REQUEST_CAME, MessageKind.REQUEST_WAITS})
