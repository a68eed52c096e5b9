"""Hours of sections in the kinds of week that a term has, and against hours kept free."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Sequence

from gremba.core.calendar import Calendar, Meeting, week_mask
from gremba.core.catalogue import Section
from gremba.core.fits.options import Sections
from gremba.core.fits.question import KeptFree


def phases_of(calendar: Calendar) -> tuple[int, ...]:
    """The parts into which a term's blocks cut it, as masks of its days: weeks within one are alike."""
    cuts = {calendar.first.toordinal(), calendar.last.toordinal() + 1}
    for block in calendar.blocks.values():
        cuts |= {block.first.toordinal(), block.last.toordinal() + 1}
    begins = calendar.first.toordinal()
    inside = sorted(c for c in cuts if begins <= c <= calendar.last.toordinal() + 1)
    return tuple(
        (1 << (then - begins)) - (1 << (first - begins)) for first, then in itertools.pairwise(inside)
    )


def weeks_by_phase(meetings: Iterable[Meeting], phases: Sequence[int]) -> tuple[int, ...]:
    """For each phase the minutes of the week covered by meetings that have class in it."""
    from_meetings = [(m, week_mask((m,))) for m in meetings]
    found = []
    for phase in phases:
        mask = 0
        for meeting, week in from_meetings:
            if meeting.days & phase:
                mask |= week
        found.append(mask)
    return tuple(found)


def has_class_in(section: Section, kept: KeptFree, calendar: Calendar) -> bool:
    """Whether a section has class in hours that are to be kept free."""
    for meeting in section.meetings:
        if meeting.start < kept.end and kept.start < meeting.end:
            first, last = kept.first or calendar.first, kept.last or calendar.last
            if meeting.days & calendar.class_days(kept.weekdays, first, last):
                return True
    return False


def hours_of(sections: Sections) -> tuple[object, ...]:
    """What makes sections alike for a timetable."""
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
