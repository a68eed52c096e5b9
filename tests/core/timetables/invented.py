"""Invented terms for Timetables, from a seed: halves of the term, Saturdays, linked sections, bundles, choices,
hours kept free between dates."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date, timedelta
from random import Random

from gremba.core.catalogue.calendar import WEEKDAY_LETTERS
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.registration.situation import Situation
from gremba.core.timetables.question import Criterion, KeptFree, Narrowing, Question, SeatSwitch, Want
from tests.support.world import FIRST_HALF, FULL, SECOND_HALF, World

_DAYS = ("MW", "TR", "MWF", "M", "T", "W", "R", "F", "S")
_STARTS = (8 * 60, 9 * 60 + 30, 11 * 60, 13 * 60, 14 * 60 + 30, 16 * 60, 18 * 60)
_DATES = (date(2027, 9, 3), date(2027, 9, 4), date(2027, 10, 5), date(2027, 11, 11))
_CAMPUSES = ("hill", "mill", "sky")


@dataclass(frozen=True, slots=True)
class Invented:
    """A situation and a question about it."""

    situation: Situation
    question: Question
    world: World


def invent(seed: int, plain: bool = False) -> Invented:
    """A term of a few courses and a question; the same for the same seed.

    Args:
        plain: no choices and no bundles, so that each want is a variable for a solver.
    """
    random = Random(seed)
    world = World(policy=None)
    world.travel = {("hill", "mill"): 15, ("hill", "sky"): 25, ("mill", "sky"): 30}
    keys = [f"CRAF {100 + n}" for n in range(random.randint(4, 7))]
    number = 30000
    for key in keys:
        tags = ("craft",) if random.random() < 0.4 else ()
        world.course(key, credits=random.choice((2.0, 3.0, 4.0)), tags=tags)
        has_labs = random.random() < 0.35
        for _ in range(random.randint(1, 5)):
            number += 1
            lecture = str(number)
            labs = [str(number + 1 + n) for n in range(random.randint(1, 3))] if has_labs else []
            session = random.choice((FULL, FULL, FULL, FIRST_HALF, SECOND_HALF))
            common = {"session": session, "waitlist_limit": random.choice((0, 3))}
            world.section(
                lecture,
                key,
                *_meets(random),
                seats=_seats(random),
                linked_sections=frozenset(labs),
                **common,  # type: ignore[arg-type]
            )
            for lab in labs:
                number += 1
                world.section(
                    lab,
                    key,
                    *_meets(random),
                    seats=_seats(random),
                    component="lab",
                    linked_sections=frozenset({lecture}),
                    carries_credit=False,
                    **common,  # type: ignore[arg-type]
                )
    if random.random() < 0.3 and len(keys) > 4 and not plain:
        _bundle(world, random, number, keys)
    asked = random.sample(keys, random.randint(2, min(len(keys), 5)))
    wanted = [
        Want((key,), is_needed=random.random() < 0.85, narrowing=_narrowing(random, world, key))
        for key in asked
    ]
    if random.random() < 0.4 and not plain:
        among = tuple(random.sample(keys, 3))
        wanted.append(Want(among, count=random.randint(1, 2)))
    if random.random() < 0.25 and not plain:
        wanted.append(Want(tag="craft"))
    if random.random() < 0.3:
        world.student = replace(world.student, credit_limit=random.choice((9.0, 11.0, 14.0)))
    held = [s for s in world.sections.values() if s.course.key not in asked and not s.linked_sections]
    if held and random.random() < 0.4:
        one = random.choice([s for s in held if s.bundle is None] or held)
        if one.bundle is None:
            world.held = [one.reference_number]
    may_move = frozenset(world.held) if random.random() < 0.5 else frozenset()
    question = Question(
        wants=tuple(wanted),
        kept_free=tuple(_kept_free(random) for _ in range(random.choice((0, 0, 1, 2)))),
        may_move=may_move,
        criteria=tuple(random.sample(list(Criterion), random.randint(0, 3))),
        seats=random.choice((SeatSwitch.LEFT, SeatSwitch.WAITLIST, SeatSwitch.ALL, SeatSwitch.ALL)),
        no_tight_ways=random.random() < 0.3,
        starred=frozenset(random.sample(sorted(world.sections), 2)),
    )
    return Invented(world.situation(), question, world)


def _meets(random: Random) -> list[str]:
    """Every week of the session, on some dates only, or at no set times."""
    if random.random() < 0.08:
        return []
    meets = [f"{random.choice(_DAYS)} {_times(random)} {random.choice(_CAMPUSES)}"]
    if random.random() < 0.2:
        first = random.choice(_DATES)
        last = first + timedelta(days=random.choice((0, 0, 10)))
        day = WEEKDAY_LETTERS[first.weekday()]
        meets.append(f"{day} {_times(random)} {random.choice(_CAMPUSES)} {first} {last}")
        if random.random() < 0.3:
            del meets[0]
    return meets


def _times(random: Random) -> str:
    start = random.choice(_STARTS)
    end = start + random.choice((50, 75, 110))
    return f"{start // 60:02d}:{start % 60:02d}-{end // 60:02d}:{end % 60:02d}"


def _seats(random: Random) -> SeatFigures:
    taken = random.choice((0, 3, 8, 9, 10))
    return SeatFigures(10, taken, waiting=random.choice((0, 1, 3)) if taken == 10 else 0)


def _narrowing(random: Random, world: World, key: str) -> Narrowing:
    if random.random() > 0.25:
        return Narrowing()
    own = [s for s in world.sections.values() if s.course.key == key]
    return random.choice(
        (
            Narrowing(without=frozenset({random.choice(own).reference_number})),
            Narrowing(campuses=frozenset(random.sample(_CAMPUSES, 2))),
            Narrowing(sessions=frozenset({random.choice(own).session.code})),
        )
    )


def _kept_free(random: Random) -> KeptFree:
    start = random.choice(_STARTS)
    dates = random.random() < 0.4
    return KeptFree(
        tuple(sorted(random.sample(range(6), random.randint(1, 3)))),
        start,
        start + random.choice((60, 120, 300)),
        "Work",
        first=date(2027, 10, 1) if dates else None,
        last=date(2027, 10, 31) if dates else None,
        is_must=random.random() < 0.7,
    )


def _bundle(world: World, random: Random, number: int, keys: list[str]) -> None:
    for n, key in enumerate(random.sample(keys, 2)):
        world.section(str(number + 1 + n), key, *_meets(random), seats=10, bundle="B-1")
