"""Facts beyond the catalogue that the setup checklist needs."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field


@dataclass(frozen=True, slots=True)
class StudentsWithout:
    """Students of the term who lack something.

    Attributes:
        first: full names of some of them, in order.
    """

    many: int = 0
    first: tuple[str, ...] = ()


@dataclass(frozen=True)
class TermFacts:
    """What checks need besides the catalogue.

    Attributes:
        seat_limits: by seat pool.
        capacities: students that a room holds, by campus and name.
        teachers: by section, the ids and names of the people who teach it. Names alone would not do: two
            people may have the same.
        students: expected in the term.
    """

    seat_limits: Mapping[int, int] = field(default_factory=dict)
    capacities: Mapping[tuple[str, str], int] = field(default_factory=dict)
    teachers: Mapping[int, tuple[tuple[int, str], ...]] = field(default_factory=dict)
    students: int = 0
    without_window: StudentsWithout = StudentsWithout()
    without_advisor: StudentsWithout = StudentsWithout()
