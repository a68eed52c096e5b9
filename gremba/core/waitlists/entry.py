"""A student's entry on a waitlist."""

from __future__ import annotations

from dataclasses import dataclass

from gremba.core.catalogue.term import Section


@dataclass(frozen=True, slots=True)
class WaitlistEntry:
    """A student's entry on a waitlist.

    Attributes:
        offered: a seat is held for the student.
        in_exchange: the registered section that is given up in the step that gives the seat.
    """

    id: int
    section: Section
    offered: bool = False
    in_exchange: Section | None = None
