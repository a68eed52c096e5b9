"""When offers lapse and waitlists close. Times are aware; what is reckoned in hours is reckoned in
hours that pass, so that a change of clocks makes no offer longer or shorter."""

from __future__ import annotations

from datetime import UTC, datetime, time, timedelta

from gremba.core.catalogue.calendar import Calendar, TermSession
from gremba.core.catalogue.term import Policy


def closes_at(session: TermSession, calendar: Calendar, policy: Policy) -> datetime:
    """When a session's waitlists close: at 22:00 on the day before its first class day."""
    before = session.first - timedelta(days=1)
    return datetime.combine(before, time(policy.last_answer_hour), tzinfo=calendar.zone)


def offer_until(
    notice: datetime, session: TermSession, calendar: Calendar, policy: Policy
) -> datetime | None:
    """The deadline of an offer announced at that moment: 24 hours, or until the session's waitlists close
    if its first class day begins sooner (common practice).

    None from then on: the waitlist is closed, and there are no offers.
    """
    begins = datetime.combine(session.first, time(), tzinfo=calendar.zone)
    closes = closes_at(session, calendar, policy)
    if notice >= closes:
        return None
    until = notice.astimezone(UTC) + timedelta(hours=policy.offer_hours)
    return closes if until > begins.astimezone(UTC) else until
