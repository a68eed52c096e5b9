"""The measure of travel between campuses, with its bounds."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import chain, pairwise

from gremba.core.timetables.hours import held_in
from gremba.core.timetables.instance import Option
from gremba.core.timetables.measure import Measure
from gremba.core.timetables.searching import Search

_Class = tuple[int, int, int, str]
"""Weekday, from, to, campus."""


class WaysBetween(Measure):
    """The number of trips between campuses in the fullest kind of week.

    A class more can only add ways, so those of what is chosen are the bound.
    """

    def __init__(self, search: Search, fixed: Sequence[Option]) -> None:
        self._search = search
        self._fixed = tuple(fixed)
        self._classes: dict[Option, list[list[_Class]]] = {}

    def bound(self, k: int, chosen: Sequence[Option], possible: int, room: int) -> tuple[int, int]:
        """See ``Measure``."""
        by_phase = zip(*(self._of(o) for o in (*self._fixed, *chosen)), strict=True)
        return max((_ways(sorted(chain(*classes))) for classes in by_phase), default=0), possible

    def _of(self, option: Option) -> list[list[_Class]]:
        """Its classes on a campus in each kind of week."""
        if option not in self._classes:
            instance = self._search.instance
            calendar = instance.term.calendar
            meetings = [m for s in option.sections for m in s.meetings if m.campus]
            self._classes[option] = [
                [(day, m.start, m.end, m.campus) for day, m in held_in(meetings, phase, calendar)]
                for phase in instance.phases
            ]
        return self._classes[option]


def _ways(classes: Sequence[_Class]) -> int:
    return sum(
        1 for (day, _, _, here), (same, _, _, there) in pairwise(classes) if day == same and here != there
    )
