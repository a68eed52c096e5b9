"""Decision cases of changes that hang together: what goes through is the first of the valid sets, and
what speaks against each other is answered as such."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

from gremba.core.catalogue.requisites import AllOf, CountOf, CourseNeed, PlacementNeed
from gremba.core.catalogue.seats import ReservedSeats, SeatFigures
from gremba.core.students.student import Hold
from gremba.core.students.transcript import PlacementScore
from gremba.core.waitlists.entry import WaitlistEntry
from tests.core.registration.cases import (
    JOINT,
    Case,
    Setup,
    at,
    course,
    held,
    passed,
    policy,
    section,
    student,
    windows,
)
from tests.support.world import LATE, World

TOGETHER = CourseNeed("SOIL 110", None, "together")


def waits_for(number: str, giving_up: str) -> Setup:
    def wait(w: World) -> None:
        entry = WaitlistEntry(7, w.sections[number], in_exchange=w.sections[giving_up])
        w.waitlist_entries = (*w.waitlist_entries, entry)

    return wait


def three_on_monday(w: World) -> None:
    """One held and three that clash in a row."""
    w.section("31001", "XRAY 110", "M 09:00-10:00")
    w.section("31002", "POND 110", "M 09:30-11:00")
    w.section("31003", "ACRE 110", "M 10:30-12:00")
    w.section("31004", "CORN 110", "M 11:30-12:30")
    w.held.append("31001")


def fifteen_of_eighteen(w: World) -> None:
    for n in range(5):
        w.section(f"3110{n}", f"HELD {n}10", f"F {8 + n:02d}:00-{8 + n:02d}:50")
        w.held.append(f"3110{n}")
    w.section("31010", "ACRE 110", "M 09:00-10:00", needs=CourseNeed("BARN 110", None, "before or together"))
    w.section("31011", "BARN 110", "T 09:00-10:00")
    w.section("31012", "CORN 110", "W 09:00-10:00")


def one_evening(w: World) -> None:
    w.section("31020", "XRAY 110", "M 20:00-21:00")
    w.section("31021", "ACRE 110", "M 20:15-21:00", needs=CourseNeed("YARN 110", None, "together"))
    w.section("31022", "YARN 110", "M 20:30-21:30")
    w.held.append("31020")


def varies(w: World) -> None:
    w.course("PROJ 300", credits_least=1.0, credits_most=4.0, gradings=("standard", "audit"))
    w.section("31030", "PROJ 300", "S 08:00-09:00")
    w.held.append("31030")


def three_parts(w: World) -> None:
    """A lecture with a lab of two, one of them full, and a discussion of two."""
    parts = {"31200": "lecture", "31201": "lab", "31202": "lab", "31203": "discussion", "31204": "discussion"}
    for number, part in parts.items():
        w.section(
            number,
            "KILN 210",
            f"{'MTWRF'[int(number[-1])]} 08:00-08:50",
            component=part,
            carries_credit=part == "lecture",
            seats=0 if number == "31202" else 10,
            linked_sections=frozenset(n for n, other in parts.items() if other != part),
        )


def far_apart(w: World) -> None:
    w.travel.update({("hill", "moor"): 90})
    w.section("31040", "MOOR 110", "M 12:00-13:00 moor")
    w.section("31041", "HILL 110", "M 10:00-10:50")
    w.held.append("31041")


def old_and_low(w: World) -> None:
    """A score that is high enough and too old, and a new one that is too low."""
    scores = (PlacementScore("field test", 80, date(2019, 1, 1)),
              PlacementScore("field test", 20, date(2027, 1, 1)))  # fmt: skip
    w.record = replace(w.record, placements=scores)


OR_TESTED = CountOf(1, (CourseNeed("APIC 110", "C"), PlacementNeed("field test", 60, 5)))
EITHER = CountOf(1, (TOGETHER, CourseNeed("WRIT 101", None, "together")))
AGAINST = ["together.contradiction"]

# Not formatted: a case is easier to compare with its neighbours where it takes a line or two.
SET_CASES: tuple[Case, ...] = (
    # Seen wrong with the former way of choosing.
    (
        "a swap is not refused for what stands after it",
        [three_on_monday, held("30004")],
        ["+31002", "31001>31003", "+31004"],
        "rar",
        [["time.conflict"], [], ["time.conflict"]],
    ),
    (
        "what needs another is refused, and the other is not",
        [fifteen_of_eighteen],
        ["+31010", "+31011", "+31012"],
        "rar",
        [["credits.over"], [], ["credits.over"]],
    ),
    (
        "a circle of needs and hours does not take everything with it",
        [one_evening],
        ["-31020", "+31021", "+31022"],
        "ara",
        [[], ["time.conflict"], []],
    ),
    (
        "who needs each other through drops goes through together",
        [
            section("31050", "ACRE 110", "M 09:00-10:00"),
            section("31051", "BARN 110", "T 09:00-10:00"),
            section("31052", "CORN 110", "T 09:30-10:30"),
            section("31053", "DELL 110", "M 09:30-10:30"),
            held("31050", "31051"),
        ],
        ["31050>31052", "31051>31053"],
        "aa",
        [[], []],
    ),
    # Changes of one section that speak against each other.
    (
        "a drop and an adjustment of one section",
        [varies, held("30003")],
        ["-31030", "~31030 3cr"],
        "ar",
        [[], AGAINST],
    ),
    (
        "an adjustment and a drop of one section",
        [varies, held("30003")],
        ["~31030 3cr", "-31030"],
        "ar",
        [[], AGAINST],
    ),
    (
        "two adjustments of one section",
        [varies, held("30003")],
        ["~31030 3cr", "~31030 2cr"],
        "ar",
        [[], AGAINST],
    ),
    (
        "a swap away from what is adjusted",
        [varies, held("30003")],
        ["31030>30001", "~31030 3cr"],
        "ar",
        [[], AGAINST],
    ),
    (
        "a drop and an add of one section",
        [held("30001", "30003")],
        ["-30001", "+30001"],
        "ar",
        [["load.below_half_time"], AGAINST],
    ),
    (
        "two swaps away from one section",
        [held("30001", "30003")],
        ["30001>30004", "30001>30005"],
        "ar",
        [[], AGAINST],
    ),
    (
        "a swap to what another swap gives up",
        [held("30001", "30003")],
        ["30001>30004", "30003>30001"],
        "ar",
        [[], AGAINST],
    ),
    (
        "an add and a wait for one section",
        [section("31060", "PEAR 110", waitlist_limit=3)],
        ["+31060", "?31060"],
        "ar",
        [[], ["wait.course_held"]],
    ),
    # Credits that an adjustment adds count in its place.
    (
        "a raise stands behind the adds before it",
        [varies, student(credit_limit=6.0)],
        ["+30003", "~31030 4cr", "+30004"],
        "arr",
        [[], ["credits.over"], ["credits.over"]],
    ),
    (
        "a raise goes before the adds behind it",
        [varies, student(credit_limit=6.0)],
        ["~31030 3cr", "+30003", "+30004"],
        "aar",
        [[], [], ["credits.over"]],
    ),
    (
        "a reduction makes room wherever it stands",
        [varies, lambda w: w.credits.update({"31030": 4.0}), student(credit_limit=6.0)],
        ["+30003", "~31030 3cr"],
        "aa",
        [[], []],
    ),
    # Courses are known by all numbers.
    (
        "a need is met by an old number, though nothing of it is offered",
        [
            course("TILL 100", equivalents=frozenset({"TILL 90"})),
            section("31070", "TILL 240", "F 15:00-16:00", needs=CourseNeed("TILL 100", "C")),
            passed(("TILL 90", "B")),
        ],
        ["+31070"],
        "a",
        [[]],
    ),
    (
        "a need that names the old number is met by the new one",
        [
            course("TILL 100", equivalents=frozenset({"TILL 90"})),
            section("31070", "TILL 240", "F 15:00-16:00", needs=CourseNeed("TILL 90", "C")),
            passed(("TILL 100", "B")),
        ],
        ["+31070"],
        "a",
        [[]],
    ),
    (
        "an old number in a need of the same term",
        [
            course("TILL 100", equivalents=frozenset({"TILL 90"})),
            section("31071", "TILL 100", "F 13:00-14:00"),
            section("31070", "TILL 240", "F 15:00-16:00", needs=CourseNeed("TILL 90", None, "together")),
        ],
        ["+31070", "+31071"],
        "aa",
        [[], []],
    ),
    # What a drop takes from a section that is kept.
    (
        "dropping what a kept section needs, with nothing else",
        [section("31080", "SOIL 240", "F 15:00-16:00", needs=JOINT), held("31080", "30001")],
        ["-30001"],
        "r",
        [["corequisite.missing"]],
    ),
    (
        "dropping one of two that a kept section needs one of",
        [section("31080", "SOIL 240", "F 15:00-16:00", needs=EITHER), held("31080", "30001", "30003")],
        ["-30001"],
        "a",
        [[]],
    ),
    (
        "dropping the one of two that there is",
        [section("31080", "SOIL 240", "F 15:00-16:00", needs=EITHER), held("31080", "30001")],
        ["-30001"],
        "r",
        [["corequisite.missing"]],
    ),
    (
        "exchanging it for another that will do",
        [section("31080", "SOIL 240", "F 15:00-16:00", needs=EITHER), held("31080", "30001")],
        ["30001>30003"],
        "a",
        [[]],
    ),
    (
        "exchanging it for one that will not",
        [section("31080", "SOIL 240", "F 15:00-16:00", needs=EITHER), held("31080", "30001")],
        ["30001>30005"],
        "r",
        [["corequisite.missing"]],
    ),
    (
        "dropping it where it has been passed before",
        [
            section("31080", "SOIL 240", "F 15:00-16:00", needs=JOINT),
            held("31080", "30001"),
            passed(("SOIL 110", "B")),
        ],
        ["-30001"],
        "a",
        [["load.below_half_time"]],
    ),
    (
        "a need that was never met is not the drop's fault",
        [
            section("31080", "SOIL 240", "F 15:00-16:00", needs=AllOf((JOINT, CourseNeed("LAWS 110")))),
            held("31080", "30001"),
        ],
        ["-30001"],
        "a",
        [["load.below_half_time"]],
    ),
    # Waiting.
    (
        "waiting for a section by giving up itself",
        [section("31090", "PLUM 110", "M 08:00-08:50", waitlist_limit=3), held("31090")],
        ["31090?31090"],
        "r",
        [["wait.course_held"]],
    ),
    (
        "waiting for what clashes with what the cart adds",
        [section("31091", "PLUM 110", "MWF 10:00-10:50", waitlist_limit=3)],
        ["+30001", "?31091"],
        "ar",
        [[], ["wait.needs_swap"]],
    ),
    (
        "two waits for the last place",
        [
            section("31092", "PLUM 110", waitlist_limit=3, pool=95, seats=SeatFigures(1, 1, 0, 0, 2)),
            section("31093", "FIGS 110", waitlist_limit=3, pool=95, seats=SeatFigures(1, 1, 0, 0, 2)),
        ],
        ["?31092", "?31093"],
        "wr",
        [["wait.place"], ["wait.full"]],
    ),
    (
        "what is given up for a place is dropped",
        [section("31094", "PLUM 110", waitlist_limit=3), held("30001", "30003"), waits_for("31094", "30001")],
        ["-30001"],
        "a",
        [["load.below_half_time", "drop.place"]],
    ),
    (
        "a wait whose linked section course is waited for too",
        [
            section("31095", "PLUM 110", waitlist_limit=3, needs=CourseNeed("FIGS 110", None, "together")),
            section("31096", "FIGS 110", waitlist_limit=3),
        ],
        ["?31095", "?31096"],
        "ww",
        [["wait.place"], ["wait.place"]],
    ),
    (
        "a wait without the course that goes with it",
        [
            section("31095", "PLUM 110", waitlist_limit=3, needs=CourseNeed("FIGS 110", None, "together")),
            section("31096", "FIGS 110", waitlist_limit=3),
        ],
        ["?31095"],
        "r",
        [["corequisite.missing"]],
    ),
    # Placement, travel, lecture and lab.
    (
        "too old a score on one of two ways",
        [section("31100", "APIC 210", "F 15:00-16:00", needs=OR_TESTED), old_and_low],
        ["+31100"],
        "r",
        [["placement.expired"]],
    ),
    ("a way that takes longer than an hour", [far_apart], ["+31040"], "a", [["time.travel"]]),
    (
        "a lab dropped from under its lecture with two that could replace it",
        [
            section(
                "31110", "KILN 110", "M 08:00-08:50", linked_sections=frozenset({"31111", "31112", "31113"})
            ),
            section(
                "31111",
                "KILN 110",
                "T 08:00-08:50",
                component="lab",
                carries_credit=False,
                linked_sections=frozenset({"31110"}),
            ),
            section(
                "31112",
                "KILN 110",
                "W 08:00-08:50",
                component="lab",
                carries_credit=False,
                seats=0,
                linked_sections=frozenset({"31110"}),
            ),
            section(
                "31113",
                "KILN 110",
                "R 08:00-08:50",
                component="lab",
                carries_credit=False,
                seats=0,
                linked_sections=frozenset({"31110"}),
            ),
            held("31110", "31111"),
        ],
        ["-31111", "+31112", "+31113"],
        "rrr",
        [["drop.last"], ["course.held_already", "seat.full"], ["course.held_already", "seat.full"]],
    ),
    (
        "a lecture dropped beside an add of a full lab: the drop alone goes through, its lab too",
        [three_parts, held("31200", "31201", "31203", "30003")],
        ["-31200", "+31202"],
        "ar",
        [
            ["load.below_half_time", "drop.linked_sections"],
            ["seat.full", "linked_section.missing", "linked_section.missing"],
        ],
    ),
    (
        "a lab dropped beside an add of another discussion: nothing is left of the course",
        [three_parts, held("31200", "31201", "31203", "30003")],
        ["-31201", "+31204"],
        "ar",
        [
            ["load.below_half_time", "drop.linked_sections"],
            ["linked_section.missing", "linked_section.missing"],
        ],
    ),
    (
        "of two labs the first that has a seat serves",
        [three_parts],
        ["+31200", "+31202", "+31201", "+31203"],
        "araa",
        [[], ["seat.full", "course.twice_in_cart"], [], []],
    ),
    (
        "of two labs that have a seat the first serves",
        [three_parts, lambda w: w.seats.update({w.sections["31202"].pool: SeatFigures(4, 0)})],
        ["+31200", "+31202", "+31201", "+31203"],
        "aara",
        [[], [], ["course.twice_in_cart"], []],
    ),
    (
        "of two sections of a corequisite of each other the first with a seat serves",
        [
            section("31210", "CHEM 235", "M 18:00-19:00", needs=CourseNeed("CHEM 236", None, "together")),
            section(
                "31211",
                "CHEM 236",
                "T 18:00-19:00",
                seats=0,
                needs=CourseNeed("CHEM 235", None, "together"),
            ),
            section("31212", "CHEM 236", "W 18:00-19:00"),
        ],
        ["+31211", "+31212", "+31210"],
        "raa",
        [["seat.full", "course.twice_in_cart"], [], []],
    ),
    (
        "both of lecture and lab dropped by name",
        [
            section("31110", "KILN 110", "M 08:00-08:50", linked_sections=frozenset({"31111"})),
            section(
                "31111",
                "KILN 110",
                "T 08:00-08:50",
                component="lab",
                carries_credit=False,
                linked_sections=frozenset({"31110"}),
            ),
            held("31110", "31111", "30001"),
        ],
        ["-31111", "-31110"],
        "aa",
        [["load.below_half_time"], ["load.below_half_time"]],
    ),
    (
        "a lab dropped with its lecture and its discussion",
        [
            section("31120", "LOOM 110", "M 08:00-08:50", linked_sections=frozenset({"31121", "31122"})),
            section(
                "31121",
                "LOOM 110",
                "T 08:00-08:50",
                component="lab",
                carries_credit=False,
                linked_sections=frozenset({"31120"}),
            ),
            section(
                "31122",
                "LOOM 110",
                "W 08:00-08:50",
                component="discussion",
                carries_credit=False,
                linked_sections=frozenset({"31120"}),
            ),
            held("31120", "31121", "31122", "30001", "30003"),
        ],
        ["-31121"],
        "a",
        [["drop.linked_sections"]],
    ),
    (
        "two of a pool in which all but one seat is kept for others",
        [
            section("31130", "PLUM 110", "M 08:00-08:50", pool=96),
            section("31131", "FIGS 110", "T 08:00-08:50", pool=96),
            lambda w: w.seats.update(
                {96: SeatFigures(5, 2, reserved_seats=(ReservedSeats(1, "cohort", "first years", 2),))}
            ),
        ],
        ["+31130", "+31131"],
        "ar",
        [[], ["seat.reserved"]],
    ),
    (
        "one waits for the seat that is free",
        [section("31140", "PLUM 110", "M 08:00-08:50", seats=SeatFigures(5, 4, 0, 0, 1), waitlist_limit=2)],
        ["+31140"],
        "r",
        [["seat.waitlist_first"]],
    ),
    (
        "a bundle of which one is in the cart and full",
        [
            section("31150", "REED 110", "M 08:00-08:50", bundle="weave"),
            section("31151", "RUSH 110", "T 08:00-08:50", bundle="weave", seats=0),
            section("31152", "CANE 110", "W 08:00-08:50", bundle="weave"),
        ],
        ["+31150", "+31151"],
        "rr",
        [["bundle.incomplete"], ["seat.full", "bundle.incomplete"]],
    ),
    (
        "a bundle that is waited for in part",
        [
            section("31150", "REED 110", "M 08:00-08:50", bundle="weave", waitlist_limit=2),
            section("31151", "RUSH 110", "T 08:00-08:50", bundle="weave", seats=0),
        ],
        ["?31150"],
        "r",
        [["bundle.incomplete"]],
    ),
    (
        "a swap to a number that is none",
        [held("30001", "30003")],
        ["30001>39999"],
        "r",
        [["section.unknown"]],
    ),
    (
        "a swap away from a number that is none",
        [held("30001", "30003")],
        ["39999>30004"],
        "r",
        [["section.unknown"]],
    ),
    (
        "a waitlist that is full, and one ahead in the cart",
        [
            section("31160", "PLUM 110", waitlist_limit=2, pool=97, seats=SeatFigures(1, 1, 0, 0, 2)),
            section("31161", "FIGS 110", waitlist_limit=3, pool=97, seats=SeatFigures(1, 1, 0, 0, 2)),
        ],
        ["?31161", "?31160"],
        "wr",
        [["wait.place"], ["wait.full"]],
    ),
    (
        "a place on an automatic waitlist",
        [section("31165", "PLUM 110", waitlist_limit=3, waitlist_way="automatic")],
        ["?31165"],
        "w",
        [["wait.place"]],
    ),
    (
        "as many places as anybody may hold, two of them in the cart",
        [
            section("31166", "PLUM 110", waitlist_limit=3),
            section("31167", "FIGS 110", waitlist_limit=3),
            section("31168", "PEAR 110", waitlist_limit=3),
            policy(most_waitlist_entries=2),
            lambda w: w.wait_for("31168"),
        ],
        ["?31166", "?31167"],
        "wr",
        [["wait.place"], ["wait.limit"]],
    ),
    (
        "a number that is none beside one that stands or falls with it",
        [held("30001", "30003")],
        ["-30001", "+39999"],
        "ar",
        [["load.below_half_time"], ["section.unknown"]],
    ),
    (
        "too many credits, with nothing above it",
        [student(credit_limit=2.0)],
        ["+30001"],
        "r",
        [["credits.over"]],
    ),
    ("credits chosen for a course that has fixed ones", [], ["+30001 2cr"], "r", [["credits.range"]]),
    (
        "credits chosen beside an audit",
        [
            course("PROJ 300", credits_least=1.0, credits_most=4.0, gradings=("standard", "audit")),
            section("31170", "PROJ 300", "S 08:00-09:00"),
        ],
        ["+31170 audit 2cr"],
        "r",
        [["credits.range"]],
    ),
    (
        "leaving the term in aid, half of it done",
        [
            held("30001"),
            at(10, 4),
            windows(LATE),
            policy(may_leave_by_dropping=True),
            student(receives_aid=True),
        ],
        ["-30001"],
        "a",
        [["drop.withdrawal", "drop.aid"]],
    ),
    (
        "leaving the term in aid, when all of it is earned",
        [
            held("30001"),
            at(11, 4),
            windows(LATE),
            policy(may_leave_by_dropping=True),
            student(receives_aid=True),
        ],
        ["-30001"],
        "a",
        [["drop.withdrawal", "drop.aid"]],
    ),
    (
        "a hold on drops and a swap that needs the drop",
        [
            held("30001", "30004"),
            lambda w: setattr(w, "holds", (Hold("Talk.", "advising", "room", frozenset({"drop"})),)),
        ],
        ["-30001", "+30002"],
        "rr",
        [["drop.hold"], ["time.conflict"]],
    ),
)
