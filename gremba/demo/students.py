"""2,400 students with their transcripts, standings and windows."""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from typing import Any

from gremba.core.catalogue.requisites import (
    AllOf,
    CountOf,
    CourseNeed,
    CreditsNeed,
    PlacementNeed,
    Requisite,
)
from gremba.core.students.grades import GradeScale
from gremba.demo.courses import CoursePlan
from gremba.demo.tables import Tables

STUDENT_COUNT = 2400

PROGRAMS = {
    "Land stewardship": ("SOIL", "WSHD", "PLNT", "SURV", "MAPS"),
    "Orchard and hive": ("ORCH", "APIC", "PLNT", "FERM"),
    "Flock and pasture": ("SHEP", "FARM", "PLNT", "DAIR"),
    "Dairy and bakehouse": ("DAIR", "BAKE", "FERM", "CHEM"),
    "Timber and iron": ("TMBR", "SMTH", "MECH", "MATH"),
    "Clay and cloth": ("CERM", "TXTL", "BSKT", "CHEM"),
    "Small enterprise": ("ECON", "LAWS", "WRIT", "FARM"),
    "Place and record": ("HIST", "MAPS", "WRIT", "SURV"),
}
GENERAL = ("MATH", "WRIT", "HIST", "CHEM", "ECON")

PAST_TERMS = (
    "Thaw 2027",
    "Harvest 2026",
    "Thaw 2026",
    "Harvest 2025",
    "Thaw 2025",
    "Harvest 2024",
    "Thaw 2024",
    "Harvest 2023",
)
"""The running term first; its grades are not in yet."""

YEARS = ("first year", "second year", "third year", "fourth year")
_LETTERS = GradeScale().letters
_SCALE = GradeScale()


@dataclass
class StudentPlan:
    """A student while the demo is built."""

    id: int
    username: str
    full_name: str
    program: str
    year: int
    passed: dict[str, str] = field(default_factory=dict)
    running: set[str] = field(default_factory=set)
    credits: float = 0.0
    placements: dict[str, int] = field(default_factory=dict)
    standing: str = "good"
    last_term: bool = False

    @property
    def cohort(self) -> str:
        """``first year`` and so on."""
        return YEARS[self.year - 1]


class Records:
    """Makes up academic records, term by term, in an order that requisites allow."""

    def __init__(self, rng: random.Random, courses: Sequence[CoursePlan]) -> None:
        self._rng = rng
        self._courses = [c for c in courses if c.teaching not in ("project", "alone")]
        self._by_level = {n: [c for c in self._courses if c.level <= n] for n in range(1, 5)}

    def fill(self, tables: Tables, student: StudentPlan, terms: int) -> None:
        """Write a record of that many terms, the last one in progress."""
        rng = self._rng
        for test, chance in (("placement test", 0.85), ("field test", 0.12)):
            if rng.random() < chance:
                student.placements[test] = rng.randrange(20, 98)
                tables.add_link(
                    "placement_scores",
                    student_id=student.id,
                    test=test,
                    score=student.placements[test],
                    taken_on=date(2027, 1, 11) - timedelta(182 * terms - rng.randrange(60)),
                )
        able = rng.gauss(0, 1.0)
        for back in range(terms - 1, -1, -1):
            for course in self._choose(student, done_terms=terms - 1 - back):
                grade = None if back == 0 else self._grade(able)
                if back == terms - 1 and back and rng.random() < 0.03:
                    grade = "T"
                self._enter(tables, student, course, PAST_TERMS[back], grade)

    def _choose(self, student: StudentPlan, done_terms: int) -> list[CoursePlan]:
        level = min(4, 1 + done_terms // 2 + (done_terms > 0))
        room = 16.0
        chosen: list[CoursePlan] = []
        for course in self.wishes(student, level, 14):
            if course.credits[0] <= room and len(chosen) < 5:
                chosen.append(course)
                room -= course.credits[0]
        return chosen

    def wishes(self, student: StudentPlan, level: int, many: int) -> list[CoursePlan]:
        """Courses the student could take and has not passed, best fit first."""
        home = PROGRAMS[student.program]
        weighted: list[tuple[float, int, CoursePlan]] = []
        for course in self._by_level[level]:
            if course.key in student.passed or course.key in student.running:
                continue
            if course.subject == "SEMR" and not self._seminar_fits(student, course):
                continue
            if not meets(student, course.requisites):
                continue
            weight = 5.0 if course.subject in home else 1.6 if course.subject in GENERAL else 0.4
            weight *= 0.75 + 0.5 * course.level
            if course.subject == "SEMR" or course.key in ("WRIT 101", "MATH 100"):
                weight *= 4
            weighted.append((self._rng.random() ** (1 / weight), course.id, course))
        weighted.sort(reverse=True)
        return [course for _, _, course in weighted[:many]]

    @staticmethod
    def _seminar_fits(student: StudentPlan, course: CoursePlan) -> bool:
        had_one = any(key.startswith("SEMR") for key in (*student.passed, *student.running))
        return not had_one and (student.credits < 30) == (course.level == 1)

    def _grade(self, able: float) -> str:
        rng = self._rng
        chance = rng.random()
        if chance < 0.02:
            return "W"
        if chance < 0.05:
            return "P"
        rank = round(4.2 - 1.7 * able + rng.gauss(0, 1.9))
        return _LETTERS[min(max(rank, 0), len(_LETTERS) - 1)]

    @staticmethod
    def _enter(
        tables: Tables, student: StudentPlan, course: CoursePlan, term: str, grade: str | None
    ) -> None:
        enter(tables, student, course.key, course.credits[0], term, grade)


def enter(
    tables: Tables, student: StudentPlan, key: str, credits: float, term: str, grade: str | None
) -> None:
    """Write a line of a record, and update the student's plan."""
    tables.add(
        "record_entries",
        student_id=student.id,
        course=key,
        term_name=term,
        grade=grade,
        credits=credits,
    )
    if grade is None:
        student.running.add(key)
    elif _SCALE.earns_credit(grade):
        student.passed[key] = grade
        student.credits += credits


def meets(student: StudentPlan, node: Requisite | None) -> bool:
    """A quick check whether a student likely meets a course's requisites.

    Only for choosing what to wish for; whether it goes through is decided by the rules.
    """
    match node:
        case None:
            return True
        case CreditsNeed(least):
            return student.credits >= least
        case AllOf(parts):
            return all(meets(student, part) for part in parts)
        case CountOf(least, parts):
            return sum(meets(student, part) for part in parts) >= least
        case CourseNeed(course, least_grade):
            grade = student.passed.get(course)
            return course in student.running or (grade is not None and _SCALE.at_least(grade, least_grade))
        case PlacementNeed(test, least):
            return student.placements.get(test, 0) >= least
        case _:
            return False


def standing_of(rng: random.Random, student: StudentPlan) -> str:
    """Probation for poor grades, and for a few others."""
    letters = [g for g in student.passed.values() if g in _LETTERS]
    poor = letters and sum(_LETTERS.index(g) for g in letters) / len(letters) > 8
    return "probation" if poor or rng.random() < 0.01 else "good"


def hold_row(student_id: int, rng: random.Random, placed: Any) -> dict[str, Any]:
    """A typical hold."""
    kinds: list[dict[str, Any]] = [
        {
            "kind": "fee",
            "reason": "A library charge of 18.50 is unpaid.",
            "office": "the cashier",
            "contact": "Hillfoot, room 3, or the payment page",
            "stops": ["add", "swap", "wait"],
            "cleared_by": "student",
            "amount_cents": 1850,
        },
        {
            "kind": "health",
            "reason": "Your tetanus record is missing.",
            "office": "the health office",
            "contact": "Hillfoot, room 8, with the record",
            "stops": ["add", "swap", "wait"],
            "cleared_by": "office",
            "amount_cents": None,
        },
        {
            "kind": "advising",
            "reason": "You and your advisor are to talk before you drop.",
            "office": "the advising office",
            "contact": "your advisor's hours",
            "stops": ["drop"],
            "cleared_by": "office",
            "amount_cents": None,
        },
    ]
    return rng.choice(kinds) | {"student_id": student_id, "placed_at": placed, "lifted_at": None}
