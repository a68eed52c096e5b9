"""Checks days: sessions, deadlines and breaks in order, every section within its session."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date

from gremba.core.catalogue.calendar import Meeting, TermSession
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.catalogue.term_check.facts import TermFacts
from gremba.core.catalogue.term_check.line import Fault
from gremba.core.wording import day


def days_in_order(term: TermCatalogue, _: TermFacts) -> Iterator[Fault]:
    """Sessions and breaks lie within the term, and deadlines are in order."""
    calendar = term.calendar
    if not calendar.sessions:
        yield Fault("The term has no session: sections have nothing to run in.")
    for session in calendar.sessions.values():
        if session.first < calendar.first or session.last > calendar.last:
            yield Fault(
                f"Session “{session.name}” runs {_span(session.first, session.last)}, "
                f"the term {_span(calendar.first, calendar.last)}."
            )
        yield from _deadlines(session)
    for pause in calendar.breaks:
        if pause.first < calendar.first or pause.last > calendar.last:
            yield Fault(f"The {pause.name} ({_span(pause.first, pause.last)}) is outside the term.")


def _deadlines(session: TermSession) -> Iterator[Fault]:
    in_order = (
        ("adding ends", session.add_by, "dropping without a trace ends", session.drop_by),
        ("dropping without a trace ends", session.drop_by, "withdrawing ends", session.withdraw_by),
        ("withdrawing ends", session.withdraw_by, "the session ends", session.last),
    )
    for what, first, then, second in in_order:
        if first > second:
            yield Fault(f"In session “{session.name}” {what} on {day(first)}, after {then} on {day(second)}.")
    if session.add_by < session.first:
        yield Fault(
            f"In session “{session.name}” adding ends on {day(session.add_by)}, before its first day."
        )
    for earlier, later in zip(session.refund_steps, session.refund_steps[1:], strict=False):
        if earlier.through >= later.through or earlier.percent <= later.percent:
            yield Fault(f"In session “{session.name}” the refunds do not go down with the days.")
            return


def inside_sessions(term: TermCatalogue, _: TermFacts) -> Iterator[Fault]:
    """Every meeting lies within its section's session and has at least one class day."""
    for section in _taking_place(term):
        for meeting in section.meetings:
            session = section.session
            if meeting.first < session.first or meeting.last > session.last:
                yield Fault(
                    f"{section.name} meets {_span(meeting.first, meeting.last)}, its session "
                    f"“{session.name}” runs {_span(session.first, session.last)}.",
                    section.reference_number,
                )
            elif not meeting.days:
                yield Fault(f"{section.name} {_never(term, meeting)}.", section.reference_number)


def _never(term: TermCatalogue, meeting: Meeting) -> str:
    within = any(
        pause.first <= meeting.last and pause.last >= meeting.first for pause in term.calendar.breaks
    )
    days = _span(meeting.first, meeting.last)
    return f"never meets: {days} lies in a break" if within else f"never meets: {days} has no such weekday"


def _taking_place(term: TermCatalogue) -> list[Section]:
    return [section for section in term.sections if not section.cancelled]


def _span(first: date, last: date) -> str:
    return f"{day(first)} to {day(last)}"
