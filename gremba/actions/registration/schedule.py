"""A student's schedule to take along: files, a calendar subscription, and links for others."""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, time, timedelta

from gremba.actions.context import ActionContext
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.messages import MessageKind, message_of
from gremba.core.registration.situation import Registration
from gremba.core.states import WeekLinkKind
from gremba.core.wording import times_text
from gremba.formats.calendar_file import calendar_file
from gremba.formats.table_file import table_file
from gremba.store.database import connected, reading
from gremba.store.messages.inbox import put_notice, was_told_since
from gremba.store.registration.schedule_links import WeekLink, add_link, find_link, list_links, withdraw_link
from gremba.store.registration.situations import lock_student_terms, read_situations

MOST_LINKS = 20
"""So many links of one student can be in force."""

SENT_AGAIN_AFTER = timedelta(minutes=1)
"""So long after one mail with the week there is no other."""


@dataclass(frozen=True, slots=True)
class KeptWeek:
    """A schedule as others see it."""

    term: TermCatalogue
    name: str
    held: Sequence[Registration]
    expires_at: datetime | None = None


def own_week(context: ActionContext, student_id: int, term_code: str) -> KeptWeek:
    """A student's registered sections. One statement.

    Raises:
        Problem: no such term, or the student is not expected in it.
    """
    term = context.term(term_code)
    return _week(context, term, context.student_term(student_id, term))


def _week(context: ActionContext, term: TermCatalogue, row: int, expires: datetime | None = None) -> KeptWeek:
    with reading(context.database) as database:
        situation = read_situations(database, {row: term}, {})[row]
    return KeptWeek(term, situation.student.name, situation.held, expires)


def send_week(context: ActionContext, student_id: int, term_code: str) -> None:
    """Email a student's schedule to their college address, with its calendar file. Three statements.

    Raises:
        Problem: no such term, the student is not expected in it, or it was sent just now.
    """
    week = own_week(context, student_id, term_code)
    row = context.student_term(student_id, week.term)
    now = context.clock.now()
    lines = [
        f"{h.section.name} {h.section.reference_number}, {times_text(h.section.meetings)}"
        + "".join(f", {m.room}" for m in h.section.meetings[:1] if m.room)
        for h in week.held
    ]
    told = message_of(
        MessageKind.WEEK_SENT,
        term=week.term.name,
        classes="; ".join(lines) + "." if lines else "You are not registered for anything yet.",
        calendar=as_calendar(context, week).decode() if lines else None,
    )
    with connected(context.database) as database, database.atomic():
        lock_student_terms(database, [row])
        if was_told_since(database, row, MessageKind.WEEK_SENT, now - SENT_AGAIN_AFTER, now):
            raise Problem(ProblemKind.SENT_ALREADY, "Look into your mail; in a minute it can be sent again.")
        put_notice(database, row, told, now)


def as_calendar(context: ActionContext, week: KeptWeek) -> bytes:
    """The schedule as an iCalendar file."""
    return calendar_file(week.term, [h.section for h in week.held], context.clock.now())


def as_table(week: KeptWeek) -> bytes:
    """The schedule as CSV."""
    return table_file(week.term, week.held)


def make_link(
    context: ActionContext, student_id: int, term_code: str, kind: WeekLinkKind, days: int
) -> tuple[str, Sequence[WeekLink]]:
    """Create a link; returns its token, which is not shown again, and all active links. A new subscription
    replaces the old one.

    Args:
        days: how long a share link lasts.

    Raises:
        Problem: there are too many links.
    """
    term = context.term(term_code)
    row = context.student_term(student_id, term)
    now = context.clock.now()
    token = secrets.token_urlsafe(32)
    with connected(context.database) as database, database.atomic():
        links = list_links(database, row, now)
        if len(links) >= MOST_LINKS:
            raise Problem(ProblemKind.TOO_MANY_LINKS, "Withdraw one that is not needed any more.")
        for link in links:
            if kind == link.kind == WeekLinkKind.CALENDAR:
                withdraw_link(database, row, link.id, now)
        # Whatever it is for, it ends with the term.
        ends = datetime.combine(term.calendar.last + timedelta(days=1), time(), term.calendar.zone)
        if ends <= now:
            raise Problem(
                ProblemKind.TERM_OVER, "Links are made for terms that run or are to come.", term=term.name
            )
        expires = ends
        if kind == WeekLinkKind.SHARE:
            expires = min(now + timedelta(days=days), ends)
        add_link(database, row, kind, _digest(token), now, expires)
        return token, list_links(database, row, now)


def links_of(context: ActionContext, student_id: int, term_code: str) -> Sequence[WeekLink]:
    """The active links."""
    term = context.term(term_code)
    with connected(context.database) as database:
        return list_links(database, context.student_term(student_id, term), context.clock.now())


def take_back(context: ActionContext, student_id: int, term_code: str, link_id: int) -> Sequence[WeekLink]:
    """Deactivate a link for good.

    Raises:
        Problem: there is no such link of the student's in force.
    """
    term = context.term(term_code)
    row = context.student_term(student_id, term)
    now = context.clock.now()
    with connected(context.database) as database:
        done = withdraw_link(database, row, link_id, now) if 0 < link_id < 2**31 else 0
        if not done:
            raise Problem(ProblemKind.LINK_UNKNOWN, "It has been withdrawn already, or has expired.")
        return list_links(database, row, now)


def linked_week(context: ActionContext, token: str, kind: WeekLinkKind) -> KeptWeek:
    """The schedule that a link shows.

    Raises:
        Problem: the link is not in force. Whether there ever was one is not told.
    """
    with connected(context.database) as database:
        found = find_link(database, _digest(token), kind, context.clock.now())
    if found is None:
        raise Problem(
            ProblemKind.LINK_GONE,
            "It was withdrawn or has expired, or the address is incomplete. Ask whoever gave it "
            "to you for a new one.",
        )
    return _week(context, context.term(found.term), found.student_term_id, found.expires_at)


def _digest(token: str) -> bytes:
    return hashlib.sha256(token.encode(errors="replace")).digest()
