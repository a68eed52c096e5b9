"""A schedule as a calendar file (RFC 5545).

Each meeting of a section is one event that repeats weekly in the term's zone, so that a change to
or from daylight-saving time never moves a class. Days in its pattern on which it does not meet
(breaks, holidays) are exceptions.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import UTC, date, datetime, time, timedelta
from uuid import NAMESPACE_URL, uuid5

from icalendar import Calendar as CalendarFile
from icalendar import Event

from gremba.core.catalogue.calendar import MINUTES_A_DAY, Calendar, Meeting
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.plain_text import plain
from gremba.core.wording import listed
from gremba.formats.decision_json import title_of

MEDIA_TYPE = "text/calendar; charset=utf-8"
_DAYS = ("MO", "TU", "WE", "TH", "FR", "SA", "SU")


def calendar_file(term: TermCatalogue, sections: Iterable[Section], now: datetime) -> bytes:
    """The classes of these sections as iCalendar. Sections without set times are left out.

    Args:
        now: goes into the file as the time at which it was made.
    """
    file = CalendarFile()
    file.add("prodid", "-//Gremba//Week//EN")
    file.add("version", "2.0")
    file.add("calscale", "GREGORIAN")
    file.add("method", "PUBLISH")
    file.add("name", f"Classes, {term.name}")
    file.add("x-wr-calname", f"Classes, {term.name}")
    file.add("refresh-interval", timedelta(hours=6), parameters={"value": "DURATION"})
    for section in sections:
        for index, meeting in enumerate(section.meetings):
            if meeting.days:
                file.add_component(_event(term, section, index, meeting, now))
    year = term.calendar.first.year
    file.add_missing_timezones(date(year, 1, 1), date(term.calendar.last.year + 1, 1, 1))
    return bytes(file.to_ical())


def _event(term: TermCatalogue, section: Section, index: int, meeting: Meeting, now: datetime) -> Event:
    calendar = term.calendar
    first, last = calendar.span(meeting.days)
    pattern = calendar.weekdays_of(meeting.days)
    event = Event()
    event.add("uid", str(uuid5(NAMESPACE_URL, f"{term.code}/{section.reference_number}/{index}")))
    event.add("dtstamp", now.astimezone(UTC))
    event.add("summary", plain(section.name))
    event.add("dtstart", _at(calendar, first, meeting.start))
    event.add("dtend", _at(calendar, first, meeting.end))
    until = _at(calendar, last, meeting.start).astimezone(UTC)
    event.add("rrule", {"freq": "weekly", "byday": [_DAYS[d] for d in pattern], "until": until})
    left_out = [_at(calendar, d, meeting.start) for d in _days_off(pattern, calendar, meeting)]
    if left_out:
        event.add("exdate", left_out)
    where = [meeting.room, term.campus_names.get(meeting.campus, "")]
    event.add("location", plain(", ".join(w for w in where if w) or section.delivery))
    event.add("description", "\n".join(plain(line) for line in _about(section).split("\n")))
    return event


def _days_off(pattern: Sequence[int], calendar: Calendar, meeting: Meeting) -> list[date]:
    """The days of the pattern without class, from the first to the last class."""
    first, last = calendar.span(meeting.days)
    met = set(calendar.dates(meeting.days))
    days = (first + timedelta(days=n) for n in range((last - first).days + 1))
    return [d for d in days if d.weekday() in pattern and d not in met]


def _at(calendar: Calendar, day: date, minute: int) -> datetime:
    hours, minutes = divmod(minute % MINUTES_A_DAY, 60)
    return datetime.combine(day, time(hours, minutes), tzinfo=calendar.zone)


def _about(section: Section) -> str:
    who = listed(section.instructors) or "instructor to be named"
    return f"{title_of(section)}\nReference number {section.reference_number}, {section.component}\n{who}"
