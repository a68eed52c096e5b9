"""An offer's deadline as a calendar file (RFC 5545), with an alarm before it."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from icalendar import Alarm, Calendar, Event

from gremba.core.catalogue.term import Section

BEFORE = timedelta(hours=1)


def deadline_file(entry: int, section: Section, until: datetime, now: datetime) -> bytes:
    """An iCalendar event that ends at the deadline, with an alarm an hour before."""
    file = Calendar()
    file.add("prodid", "-//Gremba//Deadline//EN")
    file.add("version", "2.0")
    file.add("method", "PUBLISH")
    event = Event()
    event.add("uid", f"offer-{entry}@gremba")
    event.add("dtstamp", now.astimezone(UTC))
    event.add("dtstart", (until - timedelta(minutes=15)).astimezone(UTC))
    event.add("dtend", until.astimezone(UTC))
    event.add("summary", f"Answer the offer for {section.name}")
    event.add(
        "description",
        f"A seat in {section.name} {section.reference_number} is held for you until then. Accept or "
        "decline it under Waitlists.",
    )
    alarm = Alarm()
    alarm.add("action", "DISPLAY")
    alarm.add("description", f"The offer for {section.name} lapses soon")
    alarm.add("trigger", -(BEFORE - timedelta(minutes=15)))
    event.add_component(alarm)
    file.add_component(event)
    return bytes(file.to_ical())
