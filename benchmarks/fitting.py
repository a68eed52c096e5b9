"""Fits on a term of 5,000 sections: how fast timetables are counted and put in order, beside two complete
solvers on the same clash tables."""

from __future__ import annotations

import random
from collections.abc import Iterator
from dataclasses import dataclass

from gremba.core.fits.question import Criterion, KeptFree, Question, Want
from tests.support.world import World

KINDS = {"a": (5, 8), "b": (7, 15), "c": (8, 25)}
"""By kind of instance so many wants, and so many sections of each."""

ORDER = (Criterion.STARTS_LATE, Criterion.FEW_GAPS, Criterion.SEATS_LEFT)
SECTIONS = 5_000
_SOLVER_SECONDS = 3.0
_PATTERNS = (("MWF", 50), ("TR", 75), ("MW", 75), ("W", 150), ("F", 110), ("T", 170))


@dataclass(frozen=True, slots=True)
class Timed:
    """One instance, looked at by us and by the solvers.

    Attributes:
        number: timetables, as far as they are counted.
        counting: seconds to the number.
        first_fifty: seconds to the number and to the first fifty in order, the instance made ready
            included.
        cp_sat: timetables a second.
        backtracking: timetables a second of python-constraint2.
    """

    number: int
    counting: float
    first_fifty: float
    cp_sat: float
    backtracking: float


def large_term(seed: int = 1) -> World:
    """A term of 5,000 sections at the usual hours; courses have 8, 15 or 25 of them."""
    rng = random.Random(seed)
    world = World()
    number = 0
    course = 0
    while number < SECTIONS:
        for kind, (_, many) in KINDS.items():
            course += 1
            key = f"{kind.upper()}CRA {course}"
            for _ in range(many):
                number += 1
                days, length = rng.choice(_PATTERNS)
                start = rng.randrange(8 * 60, 20 * 60, 30)
                times = f"{_clock(start)}-{_clock(start + length)}"
                where = rng.choice(("hill", "mill", "sky"))
                world.section(f"{10000 + number}", key, f"{days} {times} {where}", seats=rng.randint(1, 30))
    return world


def _clock(minutes: int) -> str:
    return f"{minutes // 60:02d}:{minutes % 60:02d}"


def questions(kind: str, world: World, many: int, seed: int = 2) -> Iterator[Question]:
    """Questions of one kind: so many needed courses, and work on two afternoons."""
    rng = random.Random(seed)
    wants, _ = KINDS[kind]
    courses = sorted({s.course.key for s in world.sections.values() if s.course.key.startswith(kind.upper())})
    for _ in range(many):
        chosen = rng.sample(courses, wants)
        work = KeptFree((1, 3), 15 * 60, 18 * 60, "Work") if kind != "c" else None
        yield Question(
            tuple(Want((key,)) for key in chosen),
            kept_free=(work,) if work else (),
            criteria=ORDER,
        )
