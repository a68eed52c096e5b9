"""The calendar file, read back by other programs' libraries, gives exactly the class dates.

Sources: RFC 5545 (from memory). The icalendar package wrote it, so reading it back with that alone would be
half a check: the octets are read by a few lines of our own here, with python-dateutil for the rules, and
again with recurring-ical-events. The class dates expected are counted day by day, not by the core.
"""

from __future__ import annotations

import unittest
from datetime import date, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import icalendar
import recurring_ical_events
from dateutil.rrule import rrulestr
from hypothesis import given
from hypothesis import strategies as st

from gremba.core.catalogue.term import Section
from gremba.core.registration.situation import Registration
from gremba.formats.calendar_file import calendar_file
from gremba.formats.table_file import safe_cell, table_file
from tests.support.examples import examples
from tests.support.world import CALENDAR, FIRST, FIRST_HALF, FULL, LAST, OPEN, SECOND_HALF, ZONE, World

Class = tuple[str, date, int, int]


def classes_of(world: World) -> list[Class]:
    """Every class: what, on which date, from which minute to which, counted day by day."""
    closed = {b.first + timedelta(n) for b in CALENDAR.breaks for n in range((b.last - b.first).days + 1)}
    return sorted(
        (s.name, day, m.start, m.end)
        for s in world.sections.values()
        for m in s.meetings
        for day in (m.first + timedelta(n) for n in range((m.last - m.first).days + 1))
        if day.weekday() in m.weekdays and day not in closed
    )


def by_octets(file: bytes) -> list[Class]:
    """The file as RFC 5545 has it: lines unfolded (3.1), events between BEGIN and END, their rules
    (3.3.10) expanded by python-dateutil, less the dates taken out (EXDATE, 3.8.5.1)."""
    found: list[Class] = []
    event: dict[str, str] | None = None
    for line in file.decode().replace("\r\n ", "").split("\r\n"):
        name, _, value = line.partition(":")
        if line == "BEGIN:VEVENT":
            event = {}
        elif line == "END:VEVENT" and event is not None:
            found += _classes(event)
            event = None
        elif event is not None:
            name, _, parameters = name.partition(";")
            event[name] = event[name] + "," + value if name in event else value
            if name == "DTSTART":
                event["zone"] = parameters.removeprefix("TZID=")
    return sorted(found)


def _classes(event: dict[str, str]) -> list[Class]:
    zone = ZoneInfo(event["zone"])
    start, end = (datetime.strptime(event[name], "%Y%m%dT%H%M%S") for name in ("DTSTART", "DTEND"))
    off = {datetime.strptime(o, "%Y%m%dT%H%M%S") for o in event.get("EXDATE", "").split(",") if o}
    days: Any = rrulestr(event["RRULE"], dtstart=start.replace(tzinfo=zone))
    local = [day.replace(tzinfo=None) for day in days]
    return [(event["SUMMARY"], d.date(), minute(d), minute(end)) for d in local if d not in off]


def minute(moment: datetime) -> int:
    return moment.hour * 60 + moment.minute


def by_recurring_events(file: bytes) -> list[Class]:
    read = icalendar.Calendar.from_ical(file)
    events = recurring_ical_events.of(read).between(FIRST, LAST + timedelta(1))
    found = []
    for event in events:
        start, end = event["DTSTART"].dt, event["DTEND"].dt
        found.append((str(event["SUMMARY"]), start.date(), minute(start), minute(end)))
    return sorted(found)


hours = st.tuples(
    st.sampled_from(["M", "TR", "MWF", "F", "S", "U", "MTWRF", "MW"]),
    st.sampled_from([FULL, FIRST_HALF, SECOND_HALF]),
    st.integers(6, 20),
    st.integers(0, 59),
)


class ReadBack(unittest.TestCase):
    def test_across_break_holiday_halves_and_the_change_of_clocks(self) -> None:
        # Clocks go back on Sunday 7 November 2027 (zoneinfo); classes do not move.
        world = World()
        world.section("30001", "SOIL 110", "MWF 10:00-10:50", "R 14:00-16:50")
        world.section("30002", "HIST 110", "TR 08:00-09:15", session=SECOND_HALF)
        world.section("30003", "WRIT 110", "U 01:30-02:30")
        world.section("30004", "ECON 110")
        file = calendar_file(world.catalogue(), world.sections.values(), OPEN)
        expected = classes_of(world)
        self.assertEqual(by_recurring_events(file), expected)
        self.assertEqual(by_octets(file), expected)
        dates = {day for name, day, _, _ in expected if name == "SOIL 110"}
        self.assertNotIn(date(2027, 9, 6), dates)
        self.assertFalse(any(date(2027, 11, 22) <= d <= date(2027, 11, 26) for d in dates))
        before, after = (datetime(2027, 11, d, 10, tzinfo=ZONE).utcoffset() for d in (5, 8))
        self.assertNotEqual(before, after)

    @examples(40)
    @given(st.lists(hours, min_size=1, max_size=4))
    def test_any_hours(self, made: list[tuple[str, object, int, int]]) -> None:
        world = World()
        for n, (days, session, hour, start) in enumerate(made):
            text = f"{days} {hour:02d}:{start:02d}-{hour + 1:02d}:{start:02d}"
            world.section(f"3000{n}", f"LAND {n}10", text, session=session)  # type: ignore[arg-type]
        file = calendar_file(world.catalogue(), world.sections.values(), OPEN)
        self.assertEqual(by_recurring_events(file), classes_of(world))
        self.assertEqual(by_octets(file), classes_of(world))

    def test_lines_are_folded_at_75_octets_and_end_as_they_should(self) -> None:
        world = World()
        world.section(
            "30001",
            "SOIL 110",
            "MWF 10:00-10:50",
            instructors=("Ölander Grünewald-Åström the Elder of the Upper Orchards",) * 3,
        )
        file = calendar_file(world.catalogue(), world.sections.values(), OPEN)
        self.assertTrue(all(len(line) <= 75 for line in file.split(b"\r\n")))
        self.assertNotIn(b"\n", file.replace(b"\r\n", b""))

    def test_the_same_class_keeps_its_name_so_that_programs_update_it(self) -> None:
        world = World()
        world.section("30001", "SOIL 110", "MWF 10:00-10:50")

        def uids(now: datetime) -> list[str]:
            file = calendar_file(world.catalogue(), world.sections.values(), now)
            return [str(e["UID"]) for e in icalendar.Calendar.from_ical(file).walk("VEVENT")]

        self.assertEqual(uids(OPEN), uids(OPEN + timedelta(9)))


class OddSigns(unittest.TestCase):
    def test_what_cannot_be_seen_is_not_in_the_file(self) -> None:
        world = World()
        world.section(
            "30001", "SOIL 110", "M 09:00-09:50", topic="Rivers\x00\u202e", instructors=("A\x07nn",)
        )
        file = calendar_file(world.catalogue(), world.sections.values(), OPEN)
        for odd in (b"\x00", b"\x07", "\u202e".encode()):
            self.assertNotIn(odd, file)
        self.assertEqual(len(icalendar.Calendar.from_ical(file).walk("VEVENT")), 1)


class Table(unittest.TestCase):
    def held(self, **options: object) -> list[Registration]:
        world = World()
        self.term = world.catalogue()
        section: Section = world.section("30001", "SOIL 110", "MWF 10:00-10:50", **options)  # type: ignore[arg-type]
        return [Registration(section, 3.0)]

    def test_a_line_each_as_rfc_4180_has_it(self) -> None:
        file = table_file(World().catalogue(), self.held(topic='Rivers, "old"')).decode("utf-8-sig")
        lines = file.split("\r\n")
        self.assertEqual(lines[0].split(",")[:3], ["reference number", "course", "title"])
        self.assertIn('"About SOIL 110: Rivers, ""old"""', lines[1])
        self.assertEqual(lines[2], "")

    def test_nothing_that_a_spreadsheet_would_run(self) -> None:
        # OWASP, CSV injection (from memory): = + - @ tab and carriage return.
        for odd in ("=1+1", "+1", "-1", "@sum(a1)", "\tx", "\rx", '=cmd|" /C calc"!A0'):
            self.assertEqual(safe_cell(odd), f"'{odd}")
            file = table_file(World().catalogue(), self.held(instructors=(odd,)))
            self.assertNotIn(f",{odd}".encode(), file)
        # Also behind what a program passes over, and with signs of full width.
        for odd in ("\n=1+1", " =1+1", "\u3000=1+1", "\uff1d1+1", "\r\n@cmd", "\u00a0+1", "\x00=1"):
            self.assertTrue(safe_cell(odd).startswith("'"), odd)
        self.assertNotIn("\x00", safe_cell("a\x00b"))
        self.assertEqual(safe_cell("Ada Lunn"), "Ada Lunn")
