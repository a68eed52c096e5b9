"""Decision cases: the situation, the request, and what is expected of each change."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

from gremba.core.catalogue.requisites import AllOf, CountOf, CourseNeed, PlacementNeed
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.states import TermState
from gremba.core.students.student import Hold
from tests.support.world import FIRST_HALF, LATE, SECOND_HALF, World, on

Setup = Callable[[World], None]


def week(w: World) -> None:
    """The sections that most cases are about."""
    w.section("30001", "SOIL 110", "MWF 10:00-10:50")
    w.section("30002", "HIST 110", "MWF 10:00-10:50")
    w.section("30003", "WRIT 101", "TR 09:30-10:45")
    w.section("30004", "ECON 110", "TR 14:00-15:15")
    w.section("30005", "MAPS 110", "W 14:00-16:50", credits=4)
    w.section("30006", "SOIL 110", "TR 08:00-09:15")


def held(*numbers: str) -> Setup:
    return lambda w: w.held.extend(numbers)


def at(*when: int) -> Setup:
    def set_time(w: World) -> None:
        w.now = on(*when)

    return set_time


def state(of_term: TermState) -> Setup:
    return lambda w: setattr(w, "state", of_term)


def windows(*found: object) -> Setup:
    return lambda w: setattr(w, "windows", found)


def hold(*stops: str) -> Setup:
    text = Hold("A fee is unpaid.", "the cashier", "room 3", frozenset(stops))
    return lambda w: setattr(w, "holds", (text,))


def student(**values: Any) -> Setup:
    return lambda w: setattr(w, "student", replace(w.student, **values))


def section(number: str, course: str, *meets: str, **more: Any) -> Setup:
    return lambda w: _done(w.section(number, course, *meets, **more))


def passed(*courses: tuple[str, str | None]) -> Setup:
    return lambda w: w.passed(*courses)


def _done(made: object) -> None:
    """Something was made for its effect alone."""


def course(key: str, **options: Any) -> Setup:
    return lambda w: _done(w.course(key, **options))


def policy(**values: Any) -> Setup:
    return lambda w: setattr(w, "policy", replace(w.policy, **values))


SOIL = CourseNeed("SOIL 110", "C")
JOINT = CourseNeed("SOIL 110", None, "before or together")
SIX = tuple(f"+{30011 + n}" for n in range(6))


def six_of_three_credits(w: World) -> None:
    for n in range(6):
        w.section(f"{30011 + n}", f"LAND {n}10", f"F {8 + n:02d}:00-{8 + n:02d}:50")


Case = tuple[str, Sequence[Setup], Sequence[str], str, Sequence[Sequence[str]]]
# Not formatted: a case is easier to compare with its neighbours where it takes a line or two.
CASES: tuple[Case, ...] = (
    # name, situation beside the usual week, request, results, codes of each change
    ("clear", [], ["+30001"], "a", [[]]),
    ("two that fit", [], ["+30001", "+30003"], "aa", [[], []]),
    # access
    ("term over for adds", [windows(LATE), at(10, 21)], ["+30001"], "r", [["term.closed"]]),
    ("last add-by day counts", [
        windows(LATE), at(10, 20, 23, 59), section("30020", "ORCH 130", "TR 12:00-13:00",
                                                   session=SECOND_HALF)], ["+30020"], "a", [[]]),
    ("drops go on after it", [held("30001", "30003"), at(10, 21)], ["-30001"], "a",
     [["load.below_half_time", "drop.withdrawal"]]),
    ("term ended", [held("30001", "30003"), at(12, 11)], ["-30001"], "r",
     [["term.closed", "drop.over"]]),
    ("a term that is not open yet", [state(TermState.PREPARED)], ["+30001"], "r", [["term.not_open"]]),
    ("a term that was closed", [held("30001", "30003"), state(TermState.CLOSED)], ["-30001", "+30004"], "rr",
     [["term.not_open", "load.below_half_time"], ["term.not_open"]]),
    ("no window", [windows()], ["+30001"], "r", [["window.none"]]),
    ("before the window", [at(4, 19, 7, 59)], ["+30001"], "r", [["window.early"]]),
    ("at the window's first moment", [at(4, 19, 8)], ["+30001"], "a", [[]]),
    ("at the window's last minute", [at(5, 3, 16, 59)], ["+30001"], "a", [[]]),
    ("at the window's end", [at(5, 3, 17)], ["+30001"], "r", [["window.over"]]),
    ("between two windows", [windows(*World().windows, LATE), at(6, 1)], ["+30001"], "r",
     [["window.early"]]),
    ("a drop needs no window", [windows(), held("30001", "30003")], ["-30001"], "a",
     [["load.below_half_time"]]),
    ("hold on adds", [hold("add")], ["+30001"], "r", [["hold.stops"]]),
    ("hold on drops leaves adds alone", [hold("drop")], ["+30001"], "a", [[]]),
    ("hold on adds leaves drops alone", [hold("add"), held("30001", "30003")], ["-30001"], "a",
     [["load.below_half_time"]]),
    # section
    ("unknown number", [], ["+39999"], "r", [["section.unknown"]]),
    ("unknown number to drop", [], ["-39999"], "r", [["section.unknown"]]),
    ("number of another term", [lambda w: w.other_terms.update({"10001": ("Thaw 2027",)})],
     ["+10001"], "r", [["section.other_term"]]),
    ("cancelled", [section("30020", "BAKE 101", "F 15:00-17:00", cancelled=True)], ["+30020"], "r",
     [["section.cancelled"]]),
    ("held already, this section", [held("30001")], ["+30001"], "r", [["course.held_already"]]),
    ("held already, another section", [held("30001")], ["+30006"], "r", [["course.held_already"]]),
    ("moved over in one cart", [held("30001")], ["+30006", "-30001"], "aa", [[], []]),
    ("equivalent course held", [
        course("SOIL 111", equivalents=frozenset({"SOIL 110"})),
        section("30020", "SOIL 111", "F 13:00-15:00"), held("30001")], ["+30020"], "r",
     [["course.held_already"]]),
    ("lab beside the lecture", [section("30020", "SOIL 110", "F 13:00-15:00", component="lab"),
                                held("30001")], ["+30020"], "a", [[]]),
    ("another topic", [
        course("HIST 250", by_topic=True),
        section("30020", "HIST 250", "F 13:00-14:00", topic="Bread"),
        section("30021", "HIST 250", "F 14:00-15:00", topic="Cloth"), held("30020")],
     ["+30021"], "a", [[]]),
    ("same topic", [
        course("HIST 250", by_topic=True),
        section("30020", "HIST 250", "F 13:00-14:00", topic="Bread"),
        section("30021", "HIST 250", "F 14:00-15:00", topic="Bread"), held("30020")],
     ["+30021"], "r", [["course.held_already"]]),
    ("twice in the cart", [], ["+30001", "+30006"], "ar", [[], ["course.twice_in_cart"]]),
    ("order decides which", [], ["+30006", "+30001"], "ar", [[], ["course.twice_in_cart"]]),
    # seats
    ("full", [section("30020", "BAKE 101", "F 15:00-17:00", seats=SeatFigures(12, 12))],
     ["+30020"], "r", [["seat.full"]]),
    ("29 of 30 taken shows 1 left", [
        section("30020", "BAKE 101", "F 15:00-17:00", seats=SeatFigures(30, 29))],
     ["+30020"], "a", [[]]),
    ("all but one taken, that one offered", [
        section("30020", "BAKE 101", "F 15:00-17:00", seats=SeatFigures(12, 11, 1))],
     ["+30020"], "r", [["seat.full"]]),
    ("limit lowered below what is taken", [
        section("30020", "BAKE 101", "F 15:00-17:00", seats=SeatFigures(10, 12, beyond=2))],
     ["+30020"], "r", [["seat.full"]]),
    ("cross-listed: the seat given up serves the other number", [
        section("30020", "BSKT 260", "F 15:00-17:00", seats=SeatFigures(8, 8), pool=77),
        section("30021", "TMBR 250", "F 15:00-17:00", seats=SeatFigures(8, 8), pool=77),
        held("30020")], ["+30021", "-30020"], "aa", [[], []]),
    ("last seat of a shared pool goes to the first", [
        section("30020", "BSKT 260", "F 09:00-10:00", seats=1, pool=77),
        section("30021", "TMBR 250", "F 10:00-11:00", seats=1, pool=77)],
     ["+30020", "+30021"], "ar", [[], ["seat.full"]]),
    # requisites
    ("requisite missing", [section("30020", "SOIL 240", "F 15:00-17:00", needs=SOIL)],
     ["+30020"], "r", [["requisite.unmet"]]),
    ("requisite met", [section("30020", "SOIL 240", "F 15:00-17:00", needs=SOIL),
                       passed(("SOIL 110", "C"))], ["+30020"], "a", [[]]),
    ("grade too low", [section("30020", "SOIL 240", "F 15:00-17:00", needs=SOIL),
                       passed(("SOIL 110", "C-"))], ["+30020"], "r", [["requisite.unmet"]]),
    ("in progress", [section("30020", "SOIL 240", "F 15:00-17:00", needs=SOIL),
                     passed(("SOIL 110", None))], ["+30020"], "a", [["requisite.provisional"]]),
    ("same term does not count as before", [
        section("30020", "SOIL 240", "F 15:00-17:00", needs=SOIL)],
     ["+30001", "+30020"], "ar", [[], ["requisite.unmet"]]),
    ("together where that is allowed, whatever the order", [
        section("30020", "SOIL 240", "F 15:00-17:00", needs=JOINT)],
     ["+30020", "+30001"], "aa", [[], []]),
    ("together with one that falls", [
        section("30020", "SOIL 240", "F 15:00-17:00", needs=JOINT), held("30002")],
     ["+30020", "+30001"], "rr", [["requisite.unmet"], ["time.conflict"]]),
    ("a drop may not undo what stands further up", [
        section("30020", "SOIL 240", "F 15:00-17:00", needs=JOINT), held("30001", "30003")],
     ["+30020", "-30001"], "ar", [[], ["together.stopped"]]),
    ("a drop further up takes the support away", [
        section("30020", "SOIL 240", "F 15:00-17:00", needs=JOINT), held("30001", "30003")],
     ["-30001", "+30020"], "ar", [["load.below_half_time"], ["requisite.unmet"]]),
    ("either of two", [section("30020", "APIC 210", "F 15:00-17:00", needs=CountOf(
        1, (CourseNeed("APIC 110", "C"), PlacementNeed("field test", 60)))),
        passed(("APIC 110", "B"))], ["+30020"], "a", [[]]),
    ("both of two", [section("30020", "APIC 310", "F 15:00-17:00", needs=AllOf(
        (CourseNeed("APIC 110"), CourseNeed("PLNT 110")))), passed(("APIC 110", "B"))],
     ["+30020"], "r", [["requisite.unmet"]]),
    ("a lab does not repeat its lecture's requisites", [
        section("30020", "SOIL 240", "F 09:00-10:00", needs=SOIL, linked_sections=frozenset({"30021"})),
        section("30021", "SOIL 240", "F 10:00-12:00", component="lab", carries_credit=False,
                linked_sections=frozenset({"30020"}))],
     ["+30020", "+30021"], "rr", [["requisite.unmet"], ["together.stopped"]]),
    # time
    ("clash with one held", [held("30002")], ["+30001"], "r", [["time.conflict"]]),
    ("clash in the cart: the earlier wins", [], ["+30001", "+30002"], "ar",
     [[], ["time.conflict"]]),
    ("clash with one dropped", [held("30002")], ["+30001", "-30002"], "aa", [[], []]),
    ("clash with one whose drop is refused", [held("30002", "30003"), hold("drop")],
     ["+30001", "-30002"], "rr",
     [["time.conflict"], ["drop.hold"]]),
    ("halves of the term", [
        section("30020", "ORCH 130", "TR 10:00-11:50", session=FIRST_HALF),
        section("30021", "PLNT 142", "TR 10:00-11:50", session=SECOND_HALF)],
     ["+30020", "+30021"], "aa", [[], []]),
    ("half against full term", [section("30020", "ORCH 130", "TR 10:00-11:50", session=FIRST_HALF),
                                held("30003")], ["+30020"], "r", [["time.conflict"]]),
    ("no set times", [section("30020", "LAWS 205"), held("30001", "30003")], ["+30020"], "a", [[]]),
    # load
    ("at the limit of 18", [six_of_three_credits], SIX, "aaaaaa", [[]] * 6),
    ("over it: the last falls", [six_of_three_credits], [*SIX, "+30003"], "aaaaaar",
     [[]] * 6 + [["credits.over"]]),
    ("a smaller one further down still fits", [
        six_of_three_credits, section("30031", "FARM 260", "M 08:00-08:50", credits=1)],
     [*SIX[:5], "+30005", "+30031"], "aaaaara", [[]] * 5 + [["credits.over"], []]),
    ("13 on probation", [six_of_three_credits, student(standing="probation")], SIX[:5], "aaaar",
     [[]] * 4 + [["credits.over"]]),
    ("an advisor's own limit", [six_of_three_credits, student(credit_limit=19.0), held("30005")],
     SIX[:5], "aaaaa", [[]] * 5),
    ("who is over already may exchange", [
        six_of_three_credits, student(credit_limit=12.0),
        held("30011", "30012", "30013", "30014", "30015")],
     ["-30011", "+30003"], "aa", [[], []]),
    ("but not take more", [
        six_of_three_credits, student(credit_limit=12.0),
        held("30011", "30012", "30013", "30014", "30015")],
     ["+30003"], "r", [["credits.over"]]),
    ("below full time", [six_of_three_credits, held("30011", "30012", "30013", "30014")],
     ["-30011"], "a", [["load.below_full_time"]]),
    ("full time is kept by an add", [
        six_of_three_credits, held("30011", "30012", "30013", "30014")],
     ["-30011", "+30003"], "aa", [[], []]),
    ("below half time", [held("30001", "30003")], ["-30001"], "a", [["load.below_half_time"]]),
    ("part time stays part time", [held("30001")], ["-30001", "+30003"], "aa", [[], []]),
    # drops
    ("not held", [], ["-30001"], "r", [["drop.not_held"]]),
    ("dropped twice", [held("30001", "30003")], ["-30001", "-30001"], "ar",
     [["load.below_half_time"], ["together.contradiction"]]),
    ("the last one", [held("30001")], ["-30001"], "r", [["drop.last"]]),
    ("the last two: the first goes", [held("30001", "30003")], ["-30001", "-30003"], "ar",
     [["load.below_half_time"], ["drop.last"]]),
    ("the last one, with an add", [held("30001")], ["-30001", "+30003"], "aa", [[], []]),
    ("the last one, with an add that falls", [held("30001"), windows()], ["-30001", "+30003"],
     "rr", [["drop.last"], ["window.none"]]),
    ("the last one where policy allows it", [policy(may_leave_by_dropping=True), held("30001")],
     ["-30001"], "a", [[]]),
    ("hold on drops", [hold("drop"), held("30001", "30003")], ["-30001"], "r",
     [["drop.hold"]]),
    ("on the drop-by day", [held("30001", "30003"), at(9, 3, 23, 59)], ["-30001"], "a",
     [["load.below_half_time"]]),
    ("the day after", [held("30001", "30003"), at(9, 4, 0, 0)], ["-30001"], "a",
     [["load.below_half_time", "drop.withdrawal"]]),
    ("on the withdraw-by day", [held("30001", "30003"), at(11, 5, 23, 59)], ["-30001"], "a",
     [["load.below_half_time", "drop.withdrawal"]]),
    ("after it", [held("30001", "30003"), at(11, 6, 0, 0)], ["-30001"], "r",
     [["drop.over"]]),
    ("each session has its own deadlines", [
        section("30020", "ORCH 130", "TR 12:00-13:50", session=FIRST_HALF),
        held("30001", "30003", "30020"), at(8, 31)], ["-30020", "-30001"], "aa",
     [["load.below_half_time", "drop.withdrawal"], ["load.below_half_time"]]),
)  # fmt: skip
