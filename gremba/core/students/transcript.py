"""A student's academic record: courses taken, in progress or transferred, and placement scores."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from functools import cached_property
from typing import NamedTuple

from gremba.core.students.grades import GradeScale


class Attempt(NamedTuple):
    """A course in a term.

    Attributes:
        course: the course as it was called then, such as "SOIL 110".
        term: name of the term, as it is shown.
        grade: None while the course is in progress.
        credits: what the course is worth if it is passed.
    """

    course: str
    term: str
    grade: str | None
    credits: float


@dataclass(frozen=True, slots=True)
class PlacementScore:
    """The result of a placement test."""

    test: str
    score: int
    taken_on: date


@dataclass(frozen=True)
class Record:
    """Everything a student has attempted before this term."""

    attempts: tuple[Attempt, ...] = ()
    placements: tuple[PlacementScore, ...] = ()
    scale: GradeScale = GradeScale()

    @cached_property
    def by_course(self) -> dict[str, tuple[Attempt, ...]]:
        """The attempts of each course, in order."""
        found: dict[str, list[Attempt]] = {}
        for attempt in self.attempts:
            found.setdefault(attempt.course, []).append(attempt)
        return {course: tuple(attempts) for course, attempts in found.items()}
