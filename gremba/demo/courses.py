"""Makes courses with requisites from the course list."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cache

from gremba.core.catalogue.requisites import (
    BEFORE,
    BEFORE_OR_TOGETHER,
    TOGETHER,
    AllOf,
    CountOf,
    CourseNeed,
    CreditsNeed,
    PlacementNeed,
    Requisite,
)
from gremba.demo.course_list import COURSES

_TESTS = {"field": "field test", "placement": "placement test"}


@dataclass(frozen=True)
class CoursePlan:
    """A line of the course list."""

    id: int
    subject: str
    number: str
    title: str
    credits: tuple[float, float]
    teaching: str
    requisites: Requisite | None
    marks: tuple[str, ...]

    @property
    def key(self) -> str:
        """``SOIL 240``."""
        return f"{self.subject} {self.number}"

    @property
    def level(self) -> int:
        """1 to 4."""
        return int(self.number[0])

    @property
    def tags(self) -> list[str]:
        """What it counts toward."""
        return [m for m in self._split_marks() if m]

    def _split_marks(self) -> list[str]:
        text = " ".join(self.marks)
        return [t.strip() for t in re.findall(r"g:([A-Z][a-z]+(?: science)?)", text)]

    @property
    def fee_cents(self) -> int:
        """The materials fee."""
        found = re.search(r"fee:(\d+)", " ".join(self.marks))
        return int(found[1]) * 100 if found else 0

    def marked(self, mark: str) -> bool:
        """Whether the line has a mark."""
        return mark in self.marks


@cache
def read_courses() -> tuple[dict[str, str], tuple[CoursePlan, ...]]:
    """Subjects with their names, and all courses in order."""
    subjects: dict[str, str] = {}
    courses: list[CoursePlan] = []
    subject = ""
    for line in COURSES.strip().splitlines():
        if "|" not in line:
            subject, name = line.split(" ", 1)
            subjects[subject] = name
            continue
        head, credits, teaching, *rest = (part.strip() for part in line.split("|"))
        number, title = head.split(" ", 1)
        least, _, most = credits.partition("-")
        courses.append(
            CoursePlan(
                id=len(courses) + 1,
                subject=subject,
                number=number,
                title=title,
                credits=(float(least), float(most or least)),
                teaching=teaching,
                requisites=_needs(rest[0]) if rest and rest[0] else None,
                marks=tuple(rest[1].split()) if len(rest) > 1 else (),
            )
        )
    return subjects, tuple(courses)


def _needs(text: str) -> Requisite:
    parts = tuple(_any_of(part) for part in text.split(" + "))
    return parts[0] if len(parts) == 1 else AllOf(parts)


def _any_of(text: str) -> Requisite:
    parts = tuple(_one(part.strip()) for part in text.split(" / "))
    return parts[0] if len(parts) == 1 else CountOf(1, parts)


def _one(text: str) -> Requisite:
    if placed := re.fullmatch(r"(field|placement)>=(\d+)", text):
        return PlacementNeed(_TESTS[placed[1]], int(placed[2]), 5)
    if earned := re.fullmatch(r"(\d+)cr", text):
        return CreditsNeed(float(earned[1]))
    found = re.fullmatch(r"([A-Z]+ \d+[A-Z]?)(?: ([A-D]))?(?: ([~&]))?", text)
    if not found:
        raise ValueError(f"{text!r} in the list of courses is no requisite")
    timing = {None: BEFORE, "~": BEFORE_OR_TOGETHER, "&": TOGETHER}[found[3]]
    return CourseNeed(found[1], found[2], timing)
