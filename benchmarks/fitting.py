"""Timetables on a term of 5,000 sections: how fast timetables are counted and put in order, beside two complete
solvers on the same clash tables in the same run."""

from __future__ import annotations

import random
import time
from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import combinations, islice, product
from statistics import median

from gremba.core.bits import bits_of
from gremba.core.registration.situation import Situation
from gremba.core.timetables.answer import answer
from gremba.core.timetables.best import best_first
from gremba.core.timetables.criteria import measures_of
from gremba.core.timetables.instance import Instance
from gremba.core.timetables.question import Criterion, KeptFree, Question, Want
from gremba.core.timetables.searching import Search
from tests.core.timetables.solvers import Pairs, count_by_backtracking, count_by_cp_sat
from tests.support.world import World

KINDS = {"a": (5, 8), "b": (7, 15), "c": (8, 25)}
"""By kind of instance so many wants, and so many sections of each."""

ORDER = (Criterion.STARTS_LATE, Criterion.FEW_GAPS, Criterion.SEATS_LEFT)
SECTIONS = 5_000
_SOLVER_SECONDS = 2.0
_BACKTRACKED = 60_000
"""So many timetables python-constraint2 is let find of one instance."""

_PATTERNS = (("MWF", 50), ("TR", 75), ("MW", 75), ("W", 150), ("F", 110), ("T", 170))


@dataclass(frozen=True, slots=True)
class Timed:
    """One instance, looked at by us and by the solvers.

    Attributes:
        number: timetables, as far as they are counted.
        a_second: timetables counted in a second.
        first_fifty: seconds to the number and to the first fifty in order, making ready included.
        cp_sat: timetables a second, all of them enumerated.
        backtracking: timetables a second of python-constraint2.
    """

    number: int
    a_second: float
    first_fifty: float
    cp_sat: float
    backtracking: float


def large_term(seed: int = 1) -> World:
    """A term of 5,000 sections at the usual hours; courses have 8, 15 or 25 of them."""
    rng = random.Random(seed)
    world = World()
    number = course = 0
    while number < SECTIONS:
        for kind, (_, many) in KINDS.items():
            course += 1
            for _ in range(many):
                number += 1
                days, length = rng.choice(_PATTERNS)
                start = rng.randrange(8 * 60, 20 * 60, 30)
                times = f"{_clock(start)}-{_clock(start + length)}"
                where = rng.choice(("hill", "mill", "sky"))
                key = f"{kind.upper()}CRA {course}"
                world.section(f"{10000 + number}", key, f"{days} {times} {where}", seats=rng.randint(1, 30))
    world.student = replace(world.student, credit_limit=60.0)
    return world


def _clock(minutes: int) -> str:
    return f"{minutes // 60:02d}:{minutes % 60:02d}"


def questions(kind: str, world: World, many: int, seed: int = 2) -> Iterator[Question]:
    """Questions of one kind: so many needed courses, and for the smaller ones work on two afternoons."""
    rng = random.Random(seed)
    wants, _ = KINDS[kind]
    courses = sorted({s.course.key for s in world.sections.values() if s.course.key[0] == kind.upper()})
    for _ in range(many):
        chosen = tuple(Want((key,)) for key in rng.sample(courses, wants))
        work = () if kind == "c" else (KeptFree((1, 3), 15 * 60, 18 * 60, "Work"),)
        yield Question(chosen, kept_free=work, criteria=ORDER)


def measure_timetables(many: int = 9) -> dict[str, list[Timed]]:
    """Instances of each kind, one after another, each by us and then by both solvers."""
    world = large_term()
    situation = world.situation()
    situation.catalogue.warm_up()
    return {kind: [_time(world, situation, q) for q in questions(kind, world, many)] for kind in KINDS}


def _time(world: World, situation: Situation, question: Question) -> Timed:
    begun = time.perf_counter()
    instance = Instance(situation, question, world.now)
    search = Search(instance, range(len(instance.slots)), instance.everything, once=True)
    before = time.perf_counter()
    number = search.count().value
    counting = time.perf_counter() - before
    for _ in islice(best_first(search, measures_of(search, question.criteria)), 50):
        pass
    first_fifty = time.perf_counter() - begun
    sizes, apart, credits = _tables(search)
    begun = time.perf_counter()
    solved, _ = count_by_cp_sat(sizes, apart, credits, search.room, _SOLVER_SECONDS)
    cp_sat = solved / (time.perf_counter() - begun)
    begun = time.perf_counter()
    walked = count_by_backtracking(sizes, apart, credits, search.room, _BACKTRACKED)
    return Timed(number, number / counting, first_fifty, cp_sat, walked / (time.perf_counter() - begun))


def _tables(search: Search) -> tuple[list[int], Pairs, list[list[int]]]:
    """The same instance as tables: options of each slot, pairs that clash, credits."""
    slots = [bits_of(mask) for mask in search.masks]
    apart = frozenset(
        (one, a, other, b)
        for one, other in combinations(range(len(slots)), 2)
        for a, mine in enumerate(slots[one])
        for b, theirs in enumerate(slots[other])
        if not search.goes_with[mine] >> theirs & 1
    )
    return [len(s) for s in slots], apart, [[search.credits[n] for n in slot] for slot in slots]


def time_orders(many: int = 5) -> dict[tuple[str, Criterion], list[float]]:
    """Seconds to making ready and the first fifty, by kind and the criterion that comes first."""
    world = large_term()
    situation = world.situation()
    situation.catalogue.warm_up()
    found: dict[tuple[str, Criterion], list[float]] = {}
    for kind, criterion in product("bc", (Criterion.SHORT_DAYS, Criterion.FEW_GAPS, Criterion.FEW_WAYS)):
        for question in questions(kind, world, many):
            begun = time.process_time()
            instance = Instance(situation, question, world.now)
            search = Search(instance, range(len(instance.slots)), instance.everything, once=True)
            for _ in islice(best_first(search, measures_of(search, (criterion,))), 50):
                pass
            found.setdefault((kind, criterion), []).append(time.process_time() - begun)
    return found


def time_reasons(many: int = 9) -> list[float]:
    """Seconds to the explanation of impossible questions of kind b: one course more is wanted, which
    meets in the hours kept free only."""
    world = large_term()
    world.section("99999", "ODDS 999", "TR 15:00-17:50")
    situation = world.situation()
    situation.catalogue.warm_up()
    found = []
    for question in questions("b", world, many):
        impossible = replace(question, wants=(*question.wants[:-1], Want(("ODDS 999",))))
        begun = time.perf_counter()
        reasons = answer(situation, impossible, world.now).reasons
        found.append(time.perf_counter() - begun)
        if not reasons:
            raise AssertionError("it is not impossible")
    return found


def rows_of(
    measured: dict[str, list[Timed]],
    orders: dict[tuple[str, Criterion], list[float]],
    reasons: list[float],
) -> list[tuple[str, str]]:
    """The table, a line a kind."""
    rows = []
    for kind, timed in measured.items():
        wants, many = KINDS[kind]
        by_cp_sat = median(t.a_second / t.cp_sat for t in timed)
        by_backtracking = median(t.a_second / t.backtracking for t in timed)
        numbers = sorted(t.number for t in timed)
        rows += [
            (
                f"timetables ({kind}), {wants} wants of {many}: number and first fifty, median",
                f"{median(t.first_fifty for t in timed) * 1000:.0f} ms",
            ),
            (
                f"timetables ({kind}), timetables counted a second, {numbers[0]:,} to {numbers[-1]:,} of them",
                f"{median(t.a_second for t in timed) / 1e6:.1f} million",
            ),
            (f"timetables ({kind}), counting : CP-SAT enumerating", f"{by_cp_sat:,.0f}"),
            (f"timetables ({kind}), counting : python-constraint2", f"{by_backtracking:,.0f}"),
        ]
    rows += [
        (
            f"timetables ({kind}), first fifty by {criterion.value}, CPU, median and most",
            f"{median(seconds) * 1000:.0f} ms, {max(seconds) * 1000:.0f} ms",
        )
        for (kind, criterion), seconds in orders.items()
    ]
    rows.append(("timetables, reasons of an impossible (b), median", f"{median(reasons) * 1000:.0f} ms"))
    return rows
