"""How long one decision takes."""

from __future__ import annotations

import time
from random import Random

from gremba.core.catalogue.requisites import CourseNeed
from gremba.core.registration.changes import Request
from gremba.core.registration.decision import decide
from tests.support.world import World, request


def time_decisions(many: int = 2_000) -> list[float]:
    """Seconds of decisions on six changes: four that go through, a clash and a full section."""
    world = World()
    for n in range(5):
        world.section(
            f"3000{n}", f"LAND {n}10", f"MW {8 + n:02d}:00-{8 + n:02d}:50", needs=CourseNeed("BASE 100", "C")
        )
    world.section("30005", "CRAFT 110", "M 08:30-09:30")
    world.section("30006", "CRAFT 120", "F 08:30-09:30", seats=0)
    world.section("30010", "HIST 110", "TR 08:00-09:15")
    world.section("30011", "HIST 120", "TR 10:00-11:15")
    world.held = ["30010", "30011"]
    world.passed(*((f"BASE {n + 100}", "B") for n in range(20)))
    wanted = request(["+30000", "+30001", "+30002", "+30005", "+30006", "-30010"])
    return _time(world, wanted, many)


def time_tangled(swaps: int, terms: int = 60) -> list[float]:
    """Seconds of decisions on swaps of which any may rest on any other: at random hours of two days,
    each giving up one section for another. The most that can be hung together with ten; with more the
    search is cut short."""
    taken = []
    for seed in range(terms):
        rng, world = Random(seed), World()
        world.student.credit_limit = 1_000.0
        for n in range(swaps):
            hours = [rng.randrange(8, 20) for _ in range(2)]
            world.section(
                f"{31_000 + n}",
                f"HELD {n}10",
                f"{'MT'[rng.randrange(2)]} {hours[0]:02d}:00-{hours[0] + 1:02d}:30",
            )
            world.section(f"{32_000 + n}", f"LAND {n}10", f"MT {hours[1]:02d}:00-{hours[1] + 1:02d}:30")
            world.held.append(f"{31_000 + n}")
        wanted = request([f"{31_000 + n}>{32_000 + n}" for n in range(swaps)])
        taken += _time(world, wanted, 2)
    return taken


def _time(world: World, wanted: Request, many: int) -> list[float]:
    situation = world.situation()
    taken = []
    for _ in range(many):
        begun = time.perf_counter()
        decide(situation, wanted, world.now)
        taken.append(time.perf_counter() - begun)
    return taken
