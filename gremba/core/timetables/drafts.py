"""What a draft remembers of its sections, and what has changed since."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.wording import counted, times_text

MOST_DRAFTS = 30
"""So many one student keeps in a term."""


@dataclass(frozen=True, slots=True)
class SeenSection:
    """A section as it was when a timetable was saved.

    Attributes:
        times: its meetings in words.
        left: seats left.
    """

    name: str
    times: str
    left: int

    def as_data(self) -> dict[str, Any]:
        """In its stored form."""
        return {"name": self.name, "times": self.times, "left": self.left}


def seen_of(
    term: TermCatalogue, numbers: Iterable[str], seats: Mapping[int, SeatFigures]
) -> dict[str, SeenSection]:
    """The current state of these sections, by number; unknown ones are left out."""
    found = {}
    for number in numbers:
        section = term.by_number.get(number)
        if section is not None:
            figures = seats.get(section.pool)
            left = 0 if figures is None else figures.left
            found[number] = SeenSection(section.name, times_text(section.meetings), left)
    return found


def changed_since(
    term: TermCatalogue, seen: Mapping[str, SeenSection], seats: Mapping[int, SeatFigures]
) -> list[str]:
    """What has changed about the sections since, a sentence each, by number."""
    now = seen_of(term, seen, seats)
    return [text for number, was in sorted(seen.items()) for text in _changed(term, number, was, now)]


def _changed(
    term: TermCatalogue, number: str, was: SeenSection, now: Mapping[str, SeenSection]
) -> Iterable[str]:
    name = f"{was.name} {number}"
    present = now.get(number)
    if present is None:
        yield f"{name} is not offered any more."
        return
    if term.by_number[number].cancelled:
        yield f"{name} is cancelled."
        return
    if present.times != was.times:
        yield f"{name} has moved from {was.times} to {present.times}."
    if was.left and not present.left:
        yield f"{name} is full now; it had {counted(was.left, 'seat', 'seats')} left."
    elif present.left and not was.left:
        yield f"{name} has {counted(present.left, 'seat', 'seats')} again; it was full."
    elif was.left and present.left * 2 <= was.left and present.left <= _FEW:
        yield f"{name} has {counted(present.left, 'seat', 'seats')} left of the {was.left} it had."


_FEW = 5
"""So few seats are worth telling of where there were more."""
