"""The check list of a term: each line finds its fault, and nothing else does."""

from __future__ import annotations

import unittest
from collections.abc import Callable
from dataclasses import replace
from datetime import date, time

from gremba.core.account.tariff import Tariff
from gremba.core.catalogue.calendar import Break, Calendar, Meeting, RefundStep
from gremba.core.catalogue.requisites import CourseNeed
from gremba.core.catalogue.term import Course, Policy, Section, TermCatalogue
from gremba.core.catalogue.term_check.check_list import CHECKS, MOST_TOLD, go_through
from gremba.core.catalogue.term_check.facts import StudentsWithout, TermFacts
from gremba.core.catalogue.term_check.places import MOST_COMPARED
from gremba.core.states import Component
from tests.support.tariffs import plain_tariff
from tests.support.world import CALENDAR, FULL, ZONE

SOIL = Course("SOIL 110", "Soil", 3, 3)
BEES = Course("APIC 110", "Bees", 3, 3)


def meeting(pattern: str, room: str = "Hall", first: date = FULL.first, last: date = FULL.last) -> Meeting:
    letters, span = pattern.split()
    starts, ends = (time.fromisoformat(t) for t in span.split("-"))
    return Meeting.in_term(CALENDAR, letters, starts, ends, first, last, "hill", room)


def section(id_: int, course: Course = SOIL, *meetings: Meeting, **more: object) -> Section:
    component = more.pop("component", Component.LECTURE)
    pool = more.pop("pool", id_)
    return Section(id_, str(30_000 + id_), course, component, FULL, pool, meetings, **more)  # type: ignore[arg-type]


def term(*sections: Section, calendar: Calendar = CALENDAR, policy: Policy | None = None) -> TermCatalogue:
    policy = policy or Policy(tariff=plain_tariff(per_credit=100_00))
    return TermCatalogue(1, "coming", "Coming", calendar, policy, sections)


FACTS = TermFacts(
    seat_limits={n: 20 for n in range(1, 10)},
    capacities={("hill", "Hall"): 20, ("hill", "Barn"): 12},
    teachers={1: ((7, "Petra Lunn"),), 2: ((8, "Petra Lunn"),)},
    students=3,
)
GOOD = (
    section(1, SOIL, meeting("MW 09:00-10:00")),
    section(2, BEES, meeting("TR 09:00-10:00"), linked_sections=frozenset({"30003"})),
    section(
        3,
        BEES,
        meeting("F 09:00-11:00"),
        component=Component.LAB,
        carries_credit=False,
        linked_sections=frozenset({"30002"}),
    ),
)


def faults(found: TermCatalogue, facts: TermFacts = FACTS) -> dict[str, list[str]]:
    return {
        line.check.key: [fault.text for fault in line.faults]
        for line in go_through(found, facts)
        if not line.is_well
    }


class CheckList(unittest.TestCase):
    def test_a_term_that_is_ready(self) -> None:
        self.assertEqual(faults(term(*GOOD)), {})
        # Deadlines may fall on one day, also on the first.
        short = replace(FULL, add_by=FULL.first, drop_by=FULL.first, withdraw_by=FULL.last)
        self.assertEqual(faults(term(*GOOD, calendar=replace(CALENDAR, sessions={"full": short}))), {})

    def test_each_line_finds_its_own_fault_and_no_other_does(self) -> None:
        one, two, lab = GOOD
        late = replace(FULL, add_by=date(2027, 9, 10))
        early = replace(FULL, add_by=date(2027, 8, 1))
        refunds = (RefundStep(date(2027, 8, 27), 50), RefundStep(date(2027, 9, 3), 80))
        outside = Break(date(2027, 12, 20), date(2027, 12, 24), "feast")
        holiday = date(2027, 9, 6)
        circle = (
            replace(SOIL, requisites=CourseNeed("APIC 110")),
            replace(BEES, requisites=CourseNeed("SOIL 110")),
        )
        cases: dict[str, list[tuple[str, Callable[[], TermCatalogue], TermFacts]]] = {
            "days": [
                ("no session", lambda: term(*GOOD, calendar=replace(CALENDAR, sessions={})), FACTS),
                (
                    "after dropping without a trace",
                    lambda: term(*GOOD, calendar=replace(CALENDAR, sessions={"full": late})),
                    FACTS,
                ),
                (
                    "before its first day",
                    lambda: term(*GOOD, calendar=replace(CALENDAR, sessions={"full": early})),
                    FACTS,
                ),
                (
                    "refunds do not go down",
                    lambda: term(
                        *GOOD,
                        calendar=replace(CALENDAR, sessions={"full": replace(FULL, refund_steps=refunds)}),
                    ),
                    FACTS,
                ),
                (
                    "feast (20 December to 24 December) is outside",
                    lambda: term(
                        *GOOD,
                        calendar=Calendar(ZONE, CALENDAR.first, CALENDAR.last, (outside,), CALENDAR.sessions),
                    ),
                    FACTS,
                ),
                (
                    "the term 23 August to 10 December",
                    lambda: term(
                        *GOOD,
                        calendar=replace(CALENDAR, sessions={"full": replace(FULL, first=date(2027, 8, 20))}),
                    ),
                    FACTS,
                ),
            ],
            "offer": [("no section", lambda: term(replace(one, cancelled=True)), FACTS)],
            "sessions": [
                (
                    "meets 23 August to 17 December",
                    lambda: term(
                        section(1, SOIL, meeting("MW 09:00-10:00", last=date(2027, 12, 17))), two, lab
                    ),
                    FACTS,
                ),
                (
                    "lies in a break",
                    lambda: term(
                        section(1, SOIL, meeting("M 09:00-10:00", first=holiday, last=holiday)), two, lab
                    ),
                    FACTS,
                ),
                (
                    "has no such weekday",
                    lambda: term(
                        section(1, SOIL, meeting("F 09:00-10:00", last=date(2027, 8, 24))), two, lab
                    ),
                    FACTS,
                ),
            ],
            "rooms": [
                (
                    "Hall: SOIL 110 (30001) and APIC 110 (30002), Tuesdays 09:30–10:00, first on 24 August.",
                    lambda: term(section(1, SOIL, meeting("MT 09:30-10:30")), two, lab),
                    FACTS,
                ),
                (
                    "Mondays, Tuesdays and Wednesdays 09:00–10:00, first on 23 August.",
                    lambda: term(
                        section(1, SOIL, meeting("MTW 09:00-10:00")),
                        section(2, BEES, meeting("MTW 08:00-11:00")),
                    ),
                    FACTS,
                ),
                (
                    "on 26 August, 09:00–10:00.",
                    lambda: term(
                        section(
                            1, SOIL, meeting("R 09:00-10:00", first=date(2027, 8, 26), last=date(2027, 8, 26))
                        ),
                        two,
                        lab,
                    ),
                    FACTS,
                ),
            ],
            "instructors": [
                (
                    "Petra Lunn: SOIL 110 (30001)",
                    lambda: term(section(1, SOIL, meeting("TR 09:00-10:00", "Loft")), two, lab),
                    replace(FACTS, teachers={1: ((7, "Petra Lunn"),), 2: ((7, "Petra Lunn"),)}),
                )
            ],
            "capacity": [
                (
                    "SOIL 110 has 20 seats; Barn holds 12.",
                    lambda: term(section(1, SOIL, meeting("MW 09:00-10:00", "Barn")), two, lab),
                    FACTS,
                )
            ],
            "requisites": [
                (
                    "APIC 110 → SOIL 110 → APIC 110",
                    lambda: term(
                        section(1, circle[0], meeting("MW 09:00-10:00")),
                        section(2, circle[1], meeting("TR 09:00-10:00")),
                    ),
                    FACTS,
                )
            ],
            "linked_sections": [
                ("none of them takes place", lambda: term(one, two, replace(lab, cancelled=True)), FACTS),
                (
                    "at its own hours",
                    lambda: term(one, two, replace(lab, meetings=(meeting("T 09:30-11:00", "Loft"),))),
                    FACTS,
                ),
                (
                    "APIC 110 has 20 seats, its labs together 8.",
                    lambda: term(*GOOD),
                    replace(FACTS, seat_limits={1: 20, 2: 20, 3: 8}),
                ),
            ],
            "students": [("No student", lambda: term(*GOOD), replace(FACTS, students=0))],
            "windows": [
                (
                    "2 students have not a window: Ann Ash, Bo Birch.",
                    lambda: term(*GOOD),
                    replace(FACTS, without_window=StudentsWithout(2, ("Ann Ash", "Bo Birch"))),
                ),
                (
                    "None of the 3 students has a window.",
                    lambda: term(*GOOD),
                    replace(FACTS, without_window=StudentsWithout(3, ("Ann Ash",))),
                ),
            ],
            "advisors": [
                (
                    "1 student has not an advisor: Ann Ash.",
                    lambda: term(*GOOD),
                    replace(FACTS, without_advisor=StudentsWithout(1, ("Ann Ash",))),
                )
            ],
            "tariff": [("no tariff", lambda: term(*GOOD, policy=Policy(tariff=Tariff())), FACTS)],
        }
        self.assertEqual(list(cases), [check.key for check in CHECKS])
        for key, examples in cases.items():
            for words, make, facts in examples:
                with self.subTest(key, words=words):
                    found = faults(make(), facts)
                    self.assertEqual(list(found), [key], found)
                    self.assertTrue(any(words in text for text in found[key]), found)

    def test_what_shares_its_seats_is_one_class(self) -> None:
        shared = section(4, SOIL, meeting("TR 09:00-10:00"), pool=2)
        both = replace(FACTS, teachers={2: ((7, "P"),), 4: ((7, "P"),)})
        self.assertEqual(faults(term(*GOOD, shared), both), {})

    def test_two_people_of_one_name_are_two(self) -> None:
        self.assertEqual(faults(term(section(1, SOIL, meeting("TR 09:00-10:00", "Loft")), *GOOD[1:])), {})

    def test_what_is_cancelled_is_in_nobodys_way(self) -> None:
        self.assertEqual(faults(term(*GOOD, section(4, SOIL, meeting("TR 09:00-10:00"), cancelled=True))), {})

    def test_many_faults_are_told_in_part(self) -> None:
        many = [section(n, SOIL, meeting("MW 09:00-10:00")) for n in range(1, 40)]
        facts = replace(FACTS, seat_limits={}, teachers={})
        [rooms] = [line for line in go_through(term(*many), facts) if line.check.key == "rooms"]
        self.assertEqual((len(rooms.faults), rooms.has_more), (MOST_TOLD, True))

    def test_more_in_one_room_than_are_held_against_each_other_are_told(self) -> None:
        # Each alone in its minute.
        many = [
            section(
                n, SOIL, meeting(f"M {n // 60 + 8:02}:{n % 60:02}-{(n + 1) // 60 + 8:02}:{(n + 1) % 60:02}")
            )
            for n in range(1, MOST_COMPARED + 2)
        ]
        facts = replace(FACTS, seat_limits={}, teachers={})
        self.assertNotIn("rooms", faults(term(*many[:-1]), facts))
        self.assertEqual(
            faults(term(*many), facts)["rooms"],
            [f"Hall: {MOST_COMPARED + 1} sections, so many that only {MOST_COMPARED} were looked at."],
        )
