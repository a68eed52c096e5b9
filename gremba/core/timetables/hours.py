"""Hours of sections in each kind of week of a term, and against times to keep free."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Sequence

from gremba.core.catalogue.calendar import MINUTES_A_DAY, Calendar, Meeting
from gremba.core.catalogue.term import Section
from gremba.core.timetables.options import Sections
from gremba.core.timetables.question import KeptFree


def phases_of(calendar: Calendar, meetings: Iterable[Meeting]) -> tuple[int, ...]:
    """The kinds of week a term has for some meetings, each as a mask of its days.

    The term's sessions cut it into parts. Within one, weeks differ only where a meeting is not held in
    all of them, such as one on a single date.
    """
    cuts = {calendar.first.toordinal(), calendar.last.toordinal() + 1}
    for session in calendar.sessions.values():
        cuts |= {session.first.toordinal(), session.last.toordinal() + 1}
    begins = calendar.first.toordinal()
    inside = sorted(c for c in cuts if begins <= c <= calendar.last.toordinal() + 1)
    parts = [(1 << (then - begins)) - (1 << (first - begins)) for first, then in itertools.pairwise(inside)]
    different = tuple(dict.fromkeys((m.days, m.weekdays) for m in meetings))
    return tuple(phase for part in parts for phase in _weeks_alike(calendar, part, different))


def _weeks_alike(
    calendar: Calendar, part: int, meetings: Iterable[tuple[int, tuple[int, ...]]]
) -> Iterable[int]:
    """The weeks of a part of the term, grouped by which irregular meetings they have."""
    odd = []
    for days, weekdays in meetings:
        usual = calendar.class_days(weekdays, calendar.first, calendar.last) & part
        if days & part and days & part != usual:
            odd.append(days & part)
    before_monday = calendar.first.weekday()
    found: dict[tuple[int, ...], int] = {}
    for monday in range(-before_monday, part.bit_length(), 7):
        week = part & ((1 << max(monday + 7, 0)) - (1 << max(monday, 0)))
        if week:
            held = tuple((days & week) << before_monday >> monday + before_monday for days in odd)
            found[held] = found.get(held, 0) | week
    return found.values()


def held_in(meetings: Iterable[Meeting], phase: int, calendar: Calendar) -> list[tuple[int, Meeting]]:
    """The classes of one kind of week: weekday and meeting."""
    return [(day, m) for m in meetings for day in calendar.weekdays_of(m.days & phase)]


def weeks_by_phase(meetings: Sequence[Meeting], phases: Sequence[int], calendar: Calendar) -> tuple[int, ...]:
    """For each kind of week, the minutes covered by its meetings."""
    found = []
    for phase in phases:
        mask = 0
        for day, meeting in held_in(meetings, phase, calendar):
            mask |= (1 << meeting.end) - (1 << meeting.start) << day * MINUTES_A_DAY
        found.append(mask)
    return tuple(found)


def has_class_in(section: Section, kept: KeptFree, calendar: Calendar) -> bool:
    """Whether a section has class in hours to keep free."""
    for meeting in section.meetings:
        if meeting.start < kept.end and kept.start < meeting.end:
            first, last = kept.first or calendar.first, kept.last or calendar.last
            if meeting.days & calendar.class_days(kept.weekdays, first, last):
                return True
    return False


def hours_of(sections: Sections) -> tuple[object, ...]:
    """What makes sections equivalent for a timetable."""
    return tuple(
        sorted(
            (
                str(s.component),
                s.course.key,
                s.carries_credit,
                tuple(sorted((m.days, m.start, m.end, m.campus) for m in s.meetings)),
                s.campus if not s.meetings else "",
            )
            for s in sections
        )
    )
