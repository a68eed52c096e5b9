"""Decision cases about waiting: joining, by swap, where full, and who comes first."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from gremba.core.catalogue.seats import SeatFigures
from gremba.core.waitlists.entry import WaitlistEntry
from tests.core.registration.cases import Setup, at, held, hold, windows
from tests.core.registration.more_cases import course, full, policy, section
from tests.support.world import LATE, SECOND_HALF, World

FULL_OF_FOUR = SeatFigures(4, 4, waiting=2)


def waitlist(number: str, seats: SeatFigures = FULL_OF_FOUR, limit: int = 8) -> Setup:
    """A section of the week with these seats and a waitlist."""

    def put(w: World) -> None:
        w.sections[number] = replace(w.sections[number], waitlist_limit=limit)
        w.seats[w.sections[number].pool] = seats

    return put


def waits(*numbers: str) -> Setup:
    """Places that the student holds."""

    def put(w: World) -> None:
        w.waitlist_entries = tuple(
            WaitlistEntry(n, w.sections[number]) for n, number in enumerate(numbers, 1)
        )

    return put


def parts_waited_for(**of_lab: Any) -> Setup:
    """A full lecture with a waitlist and a lab."""

    def put(w: World) -> None:
        w.section(
            "31300",
            "KILN 310",
            "M 08:00-08:50",
            seats=SeatFigures(4, 4),
            waitlist_limit=5,
            linked_sections=frozenset({"31301", "31302"}),
        )
        w.section(
            "31301",
            "KILN 310",
            "T 08:00-08:50",
            component="lab",
            carries_credit=False,
            linked_sections=frozenset({"31300"}),
            **of_lab,
        )

    return put


# Not formatted: a case is easier to compare with its neighbours where it takes a line or two.
WAIT_CASES: tuple[Any, ...] = (
    ("wait for a full section", [waitlist("30001")], ["?30001"], "w", [["wait.place"]]),
    ("a section without a waitlist", [full("30001")], ["?30001"], "r", [["wait.none"]]),
    ("a waitlist that is full", [waitlist("30001", SeatFigures(4, 4, waiting=8))], ["?30001"], "r",
     [["wait.full"]]),
    ("a course that is held", [waitlist("30006"), held("30001")], ["?30006"], "r",
     [["wait.course_held"]]),
    ("the section that is held itself", [waitlist("30001"), held("30001")], ["?30001"], "r",
     [["wait.course_held"]]),
    ("another section of a course held, by swap", [waitlist("30006"), held("30001")],
     ["30001?30006"], "w", [["wait.place"]]),
    ("a clash with what is held", [waitlist("30001"), held("30002")], ["?30001"], "r",
     [["wait.needs_swap"]]),
    ("a clash with what is held, by swap for it", [waitlist("30001"), held("30002")],
     ["30002?30001"], "w", [["wait.place"]]),
    ("a clash with what is held, by swap for something else",
     [waitlist("30001"), held("30002", "30003")], ["30003?30001"], "r",
     [["wait.needs_swap"]]),
    ("a clash with what the request drops", [waitlist("30001"), held("30002", "30003")],
     ["-30002", "?30001"], "aw", [["load.below_half_time"], ["wait.place"]]),
    ("a swap of what is not held", [waitlist("30001")], ["30003?30001"], "r",
     [["wait.not_held"]]),
    ("one place a course", [waitlist("30001"), waitlist("30006"), waits("30006")], ["?30001"], "r",
     [["wait.twice"]]),
    ("one place a course, twice in the cart", [waitlist("30001"), waitlist("30006")],
     ["?30001", "?30006"], "wr", [["wait.place"], ["wait.twice"]]),
    ("so many places and no more", [policy(most_waitlist_entries=1), waitlist("30001"), waitlist("30003"),
                                    waits("30003")], ["?30001"], "r",
     [["wait.limit"]]),
    ("so many places in one cart", [policy(most_waitlist_entries=1), waitlist("30001"), waitlist("30003")],
     ["?30001", "?30003"], "wr", [["wait.place"], ["wait.limit"]]),
    ("under a hold on waiting", [waitlist("30001"), hold("wait")], ["?30001"], "r",
     [["hold.stops", "wait.place"]]),
    ("under a hold on adds only", [waitlist("30001"), hold("add")], ["?30001"], "w",
     [["wait.place"]]),
    ("without a window", [waitlist("30001"), windows()], ["?30001"], "r",
     [["window.none", "wait.place"]]),
    ("when the waitlist has closed", [waitlist("30001"), windows(LATE), at(8, 22, 22)], ["?30001"],
     "r", [["wait.closed"]]),
    ("a minute before it closes", [waitlist("30001"), windows(LATE), at(8, 22, 21, 59)], ["?30001"],
     "w", [["wait.place"]]),
    ("a second half closes before the second half",
     [section("30020", "ORCH 130", "F 12:00-13:00", session=SECOND_HALF, waitlist_limit=5, seats=0),
      windows(LATE), at(10, 17, 21)], ["?30020"], "w", [["wait.place"]]),
    ("places do not count as credits", [policy(credit_limits={"good": 3.0}), waitlist("30001"),
                                        held("30003")], ["?30001"], "w", [["wait.place"]]),
    ("a newcomer does not take a seat that others wait for",
     [waitlist("30001", SeatFigures(4, 3, waiting=1))], ["+30001"], "r", [["seat.waitlist_first"]]),
    ("a newcomer where nobody waits", [waitlist("30001", SeatFigures(4, 3))], ["+30001"], "a", [[]]),
    ("a seat that is offered to somebody else", [waitlist("30001", SeatFigures(4, 3, 1))],
     ["+30001"], "r", [["seat.full"]]),
    ("two who join from one cart are counted", [waitlist("30001"), waitlist("30003")],
     ["?30001", "?30003"], "ww", [["wait.place"], ["wait.place"]]),
    ("the lab is named for the place of its lecture", [
        course("LAND 700"),
        section("30040", "LAND 700", "M 13:00-14:15", seats=FULL_OF_FOUR, waitlist_limit=8,
                linked_sections=frozenset({"30041"})),
        section("30041", "LAND 700", "T 13:00-14:15", component="lab", carries_credit=False,
                linked_sections=frozenset({"30040"}))],
     ["?30040", "+30041"], "ww", [["wait.place"], ["wait.named"]]),
    ("a named lab falls with its place", [
        course("LAND 700"), hold("wait"),
        section("30040", "LAND 700", "M 13:00-14:15", seats=FULL_OF_FOUR, waitlist_limit=8,
                linked_sections=frozenset({"30041"})),
        section("30041", "LAND 700", "T 13:00-14:15", component="lab", carries_credit=False,
                linked_sections=frozenset({"30040"}))],
     ["?30040", "+30041"], "rr", [["hold.stops", "wait.place"], ["wait.named", "together.stopped"]]),
    ("a lab named for a lecture's place", [parts_waited_for()], ["?31300", "+31301"], "ww",
     [["wait.place"], ["wait.named"]]),
    ("of two labs named for a place the first that may be had is kept",
     [parts_waited_for(), section("31302", "KILN 310", "W 08:00-08:50", component="lab",
      carries_credit=False, linked_sections=frozenset({"31300"}))],
     ["?31300", "+31301", "+31302"], "wwr",
     [["wait.place"], ["wait.named"], ["wait.twice"]]),
    ("a lab that is closed to the student, named for a place",
     [parts_waited_for(restrictions={"program": ("Orcharding",)})], ["?31300", "+31301"], "rr",
     [["together.stopped"], ["restricted.program"]]),
    ("a lab that clashes, named for a place",
     [parts_waited_for(), section("30009", "LAMB 110", "T 08:30-09:00"), held("30009")],
     ["?31300", "+31301"], "rr", [["together.stopped"], ["wait.needs_swap"]]),
    ("a lab that was cancelled, named for a place", [parts_waited_for(cancelled=True)],
     ["?31300", "+31301"], "rr", [["together.stopped"], ["section.cancelled"]])
)  # fmt: skip
