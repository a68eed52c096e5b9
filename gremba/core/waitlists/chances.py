"""Estimates the chance of a waitlist entry from the college's own past terms.

An entry is like another if its section is taught in the same component and its position is in the
same band. The share of those that came up by the first class day is told with the Wilson score
interval (E. B. Wilson, 1927, from memory), which is honest for few cases and for shares near none
or all; where there are fewer than :data:`MIN_PAST_ENTRIES` nothing is told. See docs/chances.md.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from math import sqrt

from gremba.core.catalogue.term import Section

MIN_PAST_ENTRIES = 12
"""So many past entries at least, or nothing is told."""

Z = 1.6449
"""Of the normal distribution: a two-sided interval of 90 %."""

BANDS = ((1, 1), (2, 2), (3, 4), (5, 8), (9, 99))
"""Positions taken together, since there are fewer entries further back."""


@dataclass(frozen=True, slots=True)
class PastEntry:
    """An entry of a past term.

    Attributes:
        position: where it stood when it was taken; the first is 1.
        came_up: whether a seat was offered or given by the first class day.
    """

    component: str
    position: int
    came_up: bool


@dataclass(frozen=True, slots=True)
class Chance:
    """How often similar entries got a seat.

    Attributes:
        low: lower end of the interval, from 0 to 1.
        high: its upper end.
    """

    came_up: int
    of: int
    low: float
    high: float
    component: str
    band: tuple[int, int]

    @property
    def sentence(self) -> str:
        """In words, with what is not known."""
        first, last = self.band
        where = f"number {first}" if first == last else f"numbers {first} to {last}"
        return (
            f"In past terms {self.came_up} of {self.of} places at {where} for a {self.component} "
            f"came up before classes began. For you that means between "
            f"{round(self.low * 100)} and {round(self.high * 100)} in a hundred."
        )


def wilson(came_up: int, of: int) -> tuple[float, float]:
    """The Wilson score interval of a proportion."""
    share = came_up / of
    middle = share + Z * Z / (2 * of)
    width = Z * sqrt(share * (1 - share) / of + Z * Z / (4 * of * of))
    scale = 1 + Z * Z / of
    return max(0.0, (middle - width) / scale), min(1.0, (middle + width) / scale)


class Chances:
    """Statistics of past entries."""

    def __init__(self, past: Iterable[PastEntry]) -> None:
        self._came_up: Counter[tuple[str, tuple[int, int]]] = Counter()
        self._all: Counter[tuple[str, tuple[int, int]]] = Counter()
        for entry in past:
            key = entry.component, _band(entry.position)
            self._all[key] += 1
            self._came_up[key] += entry.came_up

    def of(self, section: Section, position: int) -> Chance | None:
        """The chance of an entry at that position; None if there is too little data."""
        band = _band(position)
        key = section.component, band
        many = self._all[key]
        if many < MIN_PAST_ENTRIES:
            return None
        low, high = wilson(self._came_up[key], many)
        return Chance(self._came_up[key], many, low, high, section.component, band)


def _band(position: int) -> tuple[int, int]:
    return next((b for b in BANDS if b[0] <= position <= b[1]), BANDS[-1])
