"""Finds key sections: those without which no timetable, or few, would remain."""

from __future__ import annotations

from dataclasses import dataclass

from gremba.core.bits import bits_of
from gremba.core.catalogue.term import Section
from gremba.core.timetables.searching import Number, Search, Steps

MAX_SHARE_LEFT = 10
"""A section counts if without it no more than this share remains, in percent."""

_STEPS = 150_000


@dataclass(frozen=True, slots=True)
class KeySection:
    """A section that many timetables need.

    Attributes:
        without: timetables that would be left without it.
    """

    section: Section
    without: int


@dataclass(slots=True)
class _Resting:
    """Options that depend on a section, as bits; of a bundle only those of one want are counted."""

    options: int = 0
    counted: int = 0


def find_key_sections(search: Search, number: Number) -> list[KeySection]:
    """The sections without which no or few timetables remain, those that all need first.

    Where more timetables are than can be counted, or counting takes too long, only those that all of
    them need.

    Args:
        search: whose number of timetables this is; not 0.
    """
    resting_on = _options_resting_on(search)
    found = []
    everything = search.rests[0]
    for section, resting in resting_on.items():
        if not search.exists(0, everything & ~resting.options):
            found.append(KeySection(section, 0))
    if number.is_exact and not number.is_beyond:
        search.steps, spent = Steps(_STEPS), search.steps
        some: list[KeySection] = []
        for section, resting in resting_on.items():
            if any(h.section is section for h in found):
                continue
            without = number.value - sum(search.count_with(n) for n in bits_of(resting.counted))
            if search.steps.are_used_up:
                some = []
                break
            if without * 100 <= number.value * MAX_SHARE_LEFT:
                some.append(KeySection(section, without))
        search.steps = spent
        found += sorted(some, key=lambda h: (h.without, h.section.reference_number))
    return found


def _options_resting_on(search: Search) -> dict[Section, _Resting]:
    """For each section, the options it is in all equivalent ways of."""
    found: dict[Section, _Resting] = {}
    options = search.instance.options
    bundled: dict[str, int] = {}
    for k, mask in enumerate(search.masks):
        for n in bits_of(mask):
            option = options[n]
            is_first = option.bundle is None or bundled.setdefault(option.bundle, k) == k
            for section in set(option.members[0]).intersection(*option.members[1:]):
                resting = found.setdefault(section, _Resting())
                resting.options |= 1 << n
                resting.counted |= is_first << n
    return dict(sorted(found.items(), key=lambda item: item[0].reference_number))
