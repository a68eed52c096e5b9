"""Decision cases of what came after the first slice: clearance, repeats, reserved seats, consent,
linked sections, bundles, restrictions, options, swaps, adjustments, and how they meet."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

from gremba.core.catalogue.requisites import CountOf, CourseNeed, PlacementNeed
from gremba.core.catalogue.seats import ReservedSeats, SeatFigures
from gremba.core.states import ClearanceKind
from gremba.core.students.transcript import PlacementScore
from tests.core.registration.cases import (
    SOIL,
    Case,
    Setup,
    at,
    course,
    held,
    hold,
    passed,
    policy,
    section,
    six_of_three_credits,
    student,
    windows,
)
from tests.support.world import FIRST_HALF, FULL, LATE, SECOND_HALF, World, on

FULL_NOW = SeatFigures(12, 12)


def open_items(*kinds: ClearanceKind) -> Setup:
    return lambda w: setattr(w, "clearance_open", kinds)


def permission_code(code: str, number: str, *waives: str, **options: object) -> Setup:
    return lambda w: w.permission_code(code, number, *waives, **options)


def grant(number: str, *waives: str, **options: object) -> Setup:
    return lambda w: w.grant(number, *waives, **options)


def travel(minutes: int) -> Setup:
    return lambda w: w.travel.update({("hill", "mill"): minutes})


def placed(score: int, taken: date) -> Setup:
    def entry(w: World) -> None:
        w.record = replace(w.record, placements=(PlacementScore("field test", score, taken),))

    return entry


def reserved(number: str, *parts: ReservedSeats, limit: int = 10, taken: int = 0) -> Setup:
    def reserve(w: World) -> None:
        w.seats[w.sections[number].pool] = SeatFigures(limit, taken, reserved_seats=parts)

    return reserve


def lecture_with_labs(w: World) -> None:
    """Two lectures; labs 41 and 42 go with the first, lab 43 with the second."""
    first, second = frozenset({"30041", "30042"}), frozenset({"30043"})
    w.section("30040", "FERM 230", "M 13:00-14:15", linked_sections=first)
    w.section("30041", "FERM 230", "T 11:00-13:50", component="lab", carries_credit=False,
              linked_sections=frozenset({"30040"}))  # fmt: skip
    w.section("30042", "FERM 230", "F 15:00-17:50", component="lab", carries_credit=False,
              linked_sections=frozenset({"30040"}))  # fmt: skip
    w.section("30044", "FERM 230", "W 17:00-18:15", linked_sections=second)
    w.section("30043", "FERM 230", "R 17:00-19:50", component="lab", carries_credit=False,
              linked_sections=frozenset({"30044"}))  # fmt: skip


def bundle_of_three(w: World) -> None:
    w.section("30051", "SEMR 101", "M 08:00-09:00", bundle="Bundle 1")
    w.section("30052", "WRIT 110", "T 12:00-13:00", bundle="Bundle 1")
    w.section("30053", "MATH 100", "F 08:00-09:00", bundle="Bundle 1")


def hand_in_hand(w: World) -> None:
    """Two courses that are taken in the same term."""
    w.section("30061", "CHEM 235", "W 18:00-19:50", needs=CourseNeed("CHEM 236", None, "together"))
    w.section("30062", "CHEM 236", "F 11:00-12:50", needs=CourseNeed("CHEM 235", None, "together"))


def full(number: str) -> Setup:
    return lambda w: w.seats.update({w.sections[number].pool: FULL_NOW})


FIELD = CountOf(1, (PlacementNeed("field test", 60, 2), CourseNeed("APIC 110", "C")))
FIRST_YEARS = ReservedSeats(1, "cohort", "first year", 4, release_on=date(2027, 8, 9))
HALF = ["load.below_half_time"]

# Not formatted: a case is easier to compare with its neighbours where it takes a line or two.
MORE_CASES: tuple[Case, ...] = (
    # clearance
    ("agreement not accepted", [open_items(ClearanceKind.AGREEMENT)], ["+30001"], "r",
     [["clearance.open"]]),
    ("two items open", [open_items(ClearanceKind.DETAILS, ClearanceKind.RELEASE)], ["+30001"], "r",
     [["clearance.open", "clearance.open"]]),
    ("open items leave drops alone", [open_items(ClearanceKind.SURVEY), held("30001", "30003")],
     ["-30001"], "a", [HALF]),
    ("open items stop a swap", [open_items(ClearanceKind.ORIENTATION), held("30001", "30003")],
     ["30001>30006"], "r", [["clearance.open"]]),
    ("hold and open item, both told", [hold("add"), open_items(ClearanceKind.RELEASE)], ["+30001"],
     "r", [["hold.stops", "clearance.open"]]),
    # late adds
    ("add-by day of the session", [windows(LATE), at(8, 27, 23, 59)], ["+30001"], "a", [[]]),
    ("the day after the add-by day", [windows(LATE), at(8, 28)], ["+30001"], "r",
     [["session.add_over"]]),
    ("another session may still be added", [
        windows(LATE), at(9, 20), section("30020", "ORCH 130", "TR 12:00-13:50",
                                          session=SECOND_HALF)], ["+30020"], "a", [[]]),
    ("late add by consent", [windows(LATE), at(8, 30), permission_code("LATE0001", "30001", "late add")],
     ["+30001 #LATE0001"], "a", [["consent.used"]]),
    ("late add by consent even when all sessions are over", [
        windows(LATE), at(10, 25), permission_code("LATE0001", "30001", "late add")],
     ["+30001 #LATE0001"], "a", [["consent.used"]]),
    ("but not after the term has ended", [
        windows(LATE, LATE), at(12, 11), permission_code("LATE0001", "30001", "late add")],
     ["+30001 #LATE0001"], "r", [["term.closed", "window.over", "consent.used"]]),
    ("consent for something else does not allow it", [
        windows(LATE), at(8, 30), permission_code("SEAT0001", "30001", "seats")],
     ["+30001 #SEAT0001"], "r", [["session.add_over"]]),
    # repeats
    ("second attempt, the better counts", [passed(("SOIL 110", "D"))], ["+30001"], "a",
     [["repeat.counts"]]),
    ("a W is no attempt", [passed(("SOIL 110", "W"))], ["+30001"], "a", [[]]),
    ("in progress counts as an attempt", [passed(("SOIL 110", None))], ["+30001"], "a",
     [["repeat.counts"]]),
    ("not repeatable once passed", [
        course("LAND 900", repeats="never after a pass"),
        section("30020", "LAND 900", "F 15:00-17:00"), passed(("LAND 900", "C"))], ["+30020"], "r",
     [["repeat.refused"]]),
    ("not passed yet, so repeatable", [
        course("LAND 900", repeats="never after a pass"),
        section("30020", "LAND 900", "F 15:00-17:00"), passed(("LAND 900", "F"))], ["+30020"], "a",
     [["repeat.counts"]]),
    ("attempts used up", [
        course("LAND 900", attempts_allowed=2), section("30020", "LAND 900", "F 15:00-17:00"),
        passed(("LAND 900", "F"), ("LAND 900", "D"))], ["+30020"], "r", [["repeat.refused"]]),
    ("an equivalent course counts as an attempt", [
        course("LAND 900", equivalents=frozenset({"LAND 90"}), attempts_allowed=1),
        section("30020", "LAND 900", "F 15:00-17:00"), passed(("LAND 90", "F"))], ["+30020"], "r",
     [["repeat.refused"]]),
    ("repeat by consent", [
        course("LAND 900", attempts_allowed=1), section("30020", "LAND 900", "F 15:00-17:00"),
        passed(("LAND 900", "F")), permission_code("AGAIN001", "30020", "repeat")],
     ["+30020 #AGAIN001"], "a", [["consent.used"]]),
    ("for credit every time", [
        course("LAND 900", repeats="for credit"), section("30020", "LAND 900", "F 15:00-17:00"),
        passed(("LAND 900", "A"))], ["+30020"], "a", [["repeat.counts"]]),
    ("topics are courses of their own", [
        course("HIST 250", by_topic=True, attempts_allowed=1), passed(("HIST 250", "B")),
        section("30020", "HIST 250", "F 13:00-14:00", topic="Bread")], ["+30020"], "a", [[]]),
    # reserved seats
    ("open seats beside reserved ones", [reserved("30001", FIRST_YEARS, taken=3)], ["+30001"], "a",
     [[]]),
    ("only reserved seats left", [reserved("30001", FIRST_YEARS, taken=6)], ["+30001"], "r",
     [["seat.reserved"]]),
    ("a member takes one of them", [
        reserved("30001", FIRST_YEARS, taken=6), student(cohort="first year")], ["+30001"], "a",
     [[]]),
    ("those used by members are not kept twice", [
        reserved("30001", replace(FIRST_YEARS, used=3), taken=8)], ["+30001"], "a", [[]]),
    ("the day before the release", [
        windows(LATE), reserved("30001", replace(FIRST_YEARS, release_on=date(2027, 8, 25)), taken=6),
        at(8, 24, 23, 59)], ["+30001"], "r", [["seat.reserved"]]),
    ("on the day of the release", [
        windows(LATE), reserved("30001", replace(FIRST_YEARS, release_on=date(2027, 8, 25)), taken=6),
        at(8, 25, 0, 0)], ["+30001"], "a", [[]]),
    ("two parts kept from me", [
        reserved("30001", FIRST_YEARS, ReservedSeats(2, "program", "Clay and cloth", 3), taken=3)],
     ["+30001"], "r", [["seat.reserved"]]),
    ("full is full for members too", [
        reserved("30001", FIRST_YEARS, taken=10), student(cohort="first year")], ["+30001"], "r",
     [["seat.full"]]),
    ("consent lifts the reservation", [
        reserved("30001", FIRST_YEARS, taken=6), permission_code("SEAT0001", "30001", "seats")],
     ["+30001 #SEAT0001"], "a", [["consent.used"]]),
    # requisites: corequisites, placement, consent
    ("corequisite missing", [hand_in_hand], ["+30061"], "r", [["corequisite.missing"]]),
    ("corequisites of each other", [hand_in_hand], ["+30061", "+30062"], "aa", [[], []]),
    ("corequisites of each other, one full", [hand_in_hand, full("30062")], ["+30061", "+30062"],
     "rr", [["together.stopped"], ["seat.full"]]),
    ("corequisite held", [hand_in_hand, held("30062")], ["+30061"], "a", [[]]),
    ("dropping what a kept course needs", [hand_in_hand, held("30061", "30062", "30003")],
     ["-30062"], "r", [["corequisite.missing"]]),
    ("dropping both", [hand_in_hand, held("30061", "30062", "30003")], ["-30062", "-30061"], "aa",
     [HALF, HALF]),
    ("placement fresh enough", [section("30020", "APIC 210", "F 15:00-17:00", needs=FIELD),
                                placed(60, date(2025, 8, 23))], ["+30020"], "a", [[]]),
    ("placement a day too old", [section("30020", "APIC 210", "F 15:00-17:00", needs=FIELD),
                                 placed(60, date(2025, 8, 22))], ["+30020"], "r",
     [["placement.expired"]]),
    ("placement too low and too old", [section("30020", "APIC 210", "F 15:00-17:00", needs=FIELD),
                                       placed(59, date(2020, 1, 1))], ["+30020"], "r",
     [["requisite.unmet"]]),
    ("old placement, but the course is passed", [
        section("30020", "APIC 210", "F 15:00-17:00", needs=FIELD), placed(90, date(2020, 1, 1)),
        passed(("APIC 110", "B"))], ["+30020"], "a", [[]]),
    ("requisite lifted by consent", [
        section("30020", "SOIL 240", "F 15:00-17:00", needs=SOIL),
        permission_code("REQ00001", "30020", "requisite")], ["+30020 #REQ00001"], "a", [["consent.used"]]),
    # linked sections
    ("lecture without its lab", [lecture_with_labs], ["+30040"], "r", [["linked_section.missing"]]),
    ("lab without its lecture", [lecture_with_labs], ["+30041"], "r", [["linked_section.missing"]]),
    ("lecture with its lab", [lecture_with_labs], ["+30040", "+30041"], "aa", [[], []]),
    ("in any order", [lecture_with_labs], ["+30042", "+30040"], "aa", [[], []]),
    ("lab of the other lecture", [lecture_with_labs], ["+30040", "+30043"], "rr",
     [["linked_section.missing"], ["linked_section.missing"]]),
    ("lecture with a lab that clashes", [lecture_with_labs, section("30020", "ECON 310",
                                                                    "T 12:00-13:00"),
                                         held("30020")], ["+30040", "+30041"], "rr",
     [["together.stopped"], ["time.conflict"]]),
    ("a lab for a lecture held", [lecture_with_labs, held("30040")], ["+30042"], "a", [[]]),
    ("a clash with the lab of a lecture held", [
        lecture_with_labs, section("30020", "ECON 310", "T 13:00-14:15"), held("30040", "30041")],
        ["+30020"], "r", [["time.conflict"]]),
    ("dropping the lecture takes the lab along", [
        lecture_with_labs, held("30040", "30041", "30003", "30004")], ["-30040"], "a",
     [["drop.linked_sections"]]),
    ("dropping the lab takes the lecture along", [
        lecture_with_labs, held("30040", "30041", "30003", "30004")], ["-30041"], "a",
     [["drop.linked_sections"]]),
    ("dropping both by name", [
        lecture_with_labs, held("30040", "30041", "30003", "30004")], ["-30040", "-30041"], "aa",
     [[], []]),
    ("exchanging the lab only", [lecture_with_labs, held("30040", "30041")], ["30041>30042"], "a",
     [[]]),
    ("exchanging the lab by drop and add", [lecture_with_labs, held("30040", "30041")],
     ["-30041", "+30042"], "aa", [[], []]),
    ("exchanging for a lab that is full", [
        lecture_with_labs, full("30042"), held("30040", "30041")], ["-30041", "+30042"], "rr",
     [["together.stopped"], ["seat.full"]]),
    ("exchanging for the other lecture's lab", [lecture_with_labs, held("30040", "30041")],
     ["30041>30043"], "r", [["linked_section.mismatch"]]),
    ("moving to the other lecture with its lab", [lecture_with_labs, held("30040", "30041")],
     ["30040>30044", "30041>30043"], "aa", [[], []]),
    ("moving to the other lecture without its lab", [lecture_with_labs, held("30040", "30041")],
     ["30040>30044"], "r", [["linked_section.mismatch"]]),
    ("linked sections exchanged at the credit limit", [
        six_of_three_credits, lecture_with_labs, student(credit_limit=15.0),
        held("30011", "30012", "30013", "30014", "30040", "30042")],
     ["30040>30044", "30042>30043"], "aa", [[], []]),
    # what somebody has said yes to
    ("a yes for a full section", [full("30001"), grant("30001", "seats")], ["+30001"], "a", [["grant.used"]]),
    ("a yes that has ended", [full("30001"), grant("30001", "seats", expires_at=on(4, 19, 9))],
     ["+30001"], "r", [["seat.full"]]),
    ("a yes until the next minute", [full("30001"), grant("30001", "seats", expires_at=on(4, 19, 10, 1))],
     ["+30001"], "a", [["grant.used"]]),
    ("a yes to somebody else", [full("30001"), grant("30001", "seats", student=99)], ["+30001"], "r",
     [["seat.full"]]),
    ("a yes that lifts something else", [full("30001"), grant("30001", "late add")], ["+30001"], "r",
     [["seat.full"]]),
    ("two people have said yes to different things", [
        full("30001"), section("30020", "SHEP 210", "F 15:00-17:00", needs=CourseNeed("SHEP 110", "C")),
        full("30020"), grant("30020", "seats"), grant("30020", "requisite", by="Idris Quill")],
     ["+30020"], "a", [["grant.used"]]),
    ("one of two has ended", [
        section("30020", "SHEP 210", "F 15:00-17:00", needs=CourseNeed("SHEP 110", "C")),
        full("30020"), grant("30020", "seats", expires_at=on(4, 19, 9)), grant("30020", "requisite")],
     ["+30020"], "r", [["seat.full"]]),
    ("a yes beside a code", [
        section("30020", "SHEP 210", "F 15:00-17:00", needs=CourseNeed("SHEP 110", "C")),
        full("30020"), grant("30020", "seats"), permission_code("SHEP0001", "30020", "requisite")],
     ["+30020 #SHEP0001"], "a", [["consent.used"]]),
    ("a yes for more credits", [six_of_three_credits, held("30011", "30012", "30013", "30014", "30015", "30016"),
                                grant("30004", "credits")], ["+30004"], "a", [["grant.used"]]),
    ("a yes for more credits takes none from the others", [
        six_of_three_credits, held("30011", "30012", "30013", "30014", "30015"), grant("30004", "credits")],
     ["+30004", "+30016"], "aa", [["grant.used"], []]),
    ("the same the other way round", [
        six_of_three_credits, held("30011", "30012", "30013", "30014", "30015"), grant("30004", "credits")],
     ["+30016", "+30004"], "aa", [[], ["grant.used"]]),
    ("a yes does not lift a clash", [held("30001"), grant("30002", "seats")], ["+30002"], "r",
     [["time.conflict"]]),
    ("waiting with a yes for what it requires", [
        section("30020", "SHEP 210", "F 15:00-17:00", needs=CourseNeed("SHEP 110", "C"), waitlist_limit=5),
        full("30020"), grant("30020", "requisite")], ["?30020"], "w", [["wait.place"]]),
    # bundles
    ("one of a bundle", [bundle_of_three], ["+30051"], "r", [["bundle.incomplete"]]),
    ("two of a bundle of three", [bundle_of_three], ["+30051", "+30052"], "rr",
     [["bundle.incomplete"], ["bundle.incomplete"]]),
    ("the whole bundle", [bundle_of_three], ["+30051", "+30052", "+30053"], "aaa", [[], [], []]),
    ("bundle with one clash", [bundle_of_three, section("30020", "ECON 310", "F 08:30-09:30"),
                               held("30020")], ["+30051", "+30052", "+30053"], "rrr",
     [["together.stopped"], ["together.stopped"], ["time.conflict"]]),
    ("dropping one of a bundle", [bundle_of_three, held("30051", "30052", "30053", "30003")],
     ["-30051"], "r", [["bundle.incomplete"]]),
    ("dropping the whole bundle", [bundle_of_three, held("30051", "30052", "30053", "30003")],
     ["-30051", "-30052", "-30053"], "aaa", [["load.below_full_time", *HALF]] * 3),
    # restrictions
    ("another program", [section("30020", "CERM 310", "F 15:00-17:00",
                                 restrictions={"program": ("Clay and cloth",)}),
                         student(program="Orchard and hive")], ["+30020"], "r",
     [["restricted.program"]]),
    ("the right program", [section("30020", "CERM 310", "F 15:00-17:00",
                                   restrictions={"program": ("Clay and cloth",)}),
                           student(program="Clay and cloth")], ["+30020"], "a", [[]]),
    ("class standing by credits earned", [
        section("30020", "CERM 310", "F 15:00-17:00", restrictions={"standing": ("third year",)})],
     ["+30020"], "r", [["restricted.standing"]]),
    ("class standing reached", [
        section("30020", "CERM 310", "F 15:00-17:00", restrictions={"standing": ("second year",)}),
        passed(*((f"LAND {n}", "B") for n in range(9)))], ["+30020"], "a", [[]]),
    ("another campus", [section("30020", "CERM 310", "F 15:00-17:00",
                                restrictions={"campus": ("mill",)}), student(campus="hill")],
     ["+30020"], "r", [["restricted.campus"]]),
    ("one of two campuses", [section("30020", "CERM 310", "F 15:00-17:00",
                                     restrictions={"campus": ("mill", "hill")}),
                             student(campus="hill")], ["+30020"], "a", [[]]),
    ("another cohort", [section("30020", "CERM 310", "F 15:00-17:00",
                                restrictions={"cohort": ("first year",)}),
                        student(cohort="second year")], ["+30020"], "r", [["restricted.cohort"]]),
    ("not of the house", [section("30020", "CERM 310", "F 15:00-17:00",
                                  restrictions={"residence": ("Mill House",)})], ["+30020"], "r",
     [["restricted.cohort"]]),
    ("of the house", [section("30020", "CERM 310", "F 15:00-17:00",
                              restrictions={"residence": ("Mill House",)}),
                      student(residence="Mill House")], ["+30020"], "a", [[]]),
    ("restriction lifted by consent", [
        section("30020", "CERM 310", "F 15:00-17:00", restrictions={"program": ("Clay and cloth",)}),
        permission_code("OPEN0001", "30020", "restriction")], ["+30020 #OPEN0001"], "a",
     [["consent.used"]]),
    # consent
    ("consent needed", [section("30020", "SOIL 490", consent_needed=True)], ["+30020"], "r",
     [["consent.needed"]]),
    ("consent given", [section("30020", "SOIL 490", consent_needed=True),
                       permission_code("GOOD0001", "30020", "consent")], ["+30020 #GOOD0001"], "a",
     [["consent.used"]]),
    ("no such code", [section("30020", "SOIL 490", consent_needed=True)], ["+30020 #NONE0001"],
     "r", [["consent.needed", "consent.bad"]]),
    ("code used already", [permission_code("GOOD0001", "30001", "seats", used=True)],
     ["+30001 #GOOD0001"], "r", [["consent.bad"]]),
    ("code of another section", [permission_code("GOOD0001", "30003", "seats")], ["+30001 #GOOD0001"], "r",
     [["consent.bad"]]),
    ("code of another student", [permission_code("GOOD0001", "30001", "seats", student=99)],
     ["+30001 #GOOD0001"], "r", [["consent.bad"]]),
    ("code expired", [permission_code("GOOD0001", "30001", "seats", expires_at=on(4, 19, 10))],
     ["+30001 #GOOD0001"], "r", [["consent.bad"]]),
    ("code in its last minute", [permission_code("GOOD0001", "30001", "seats", expires_at=on(4, 19, 10, 1))],
     ["+30001 #GOOD0001"], "a", [["consent.used"]]),
    ("consent lifts seats", [full("30001"), permission_code("SEAT0001", "30001", "seats")],
     ["+30001 #SEAT0001"], "a", [["consent.used"]]),
    ("consent lifts seats but not a conflict", [
        full("30001"), held("30002"), permission_code("SEAT0001", "30001", "seats")],
     ["+30001 #SEAT0001"], "r", [["time.conflict"]]),
    ("unless it says so", [held("30002"), permission_code("BOTH0001", "30001", "conflict")],
     ["+30001 #BOTH0001"], "a", [["consent.used"]]),
    ("consent does not lift a hold", [hold("add"), permission_code("SEAT0001", "30001", "seats")],
     ["+30001 #SEAT0001"], "r", [["hold.stops", "consent.used"]]),
    ("a code that lifts the hold does", [hold("add"), permission_code("HOLD0001", "30001", "hold")],
     ["+30001 #HOLD0001"], "a", [["consent.used"]]),
    # travel
    ("tight between two campuses", [
        travel(15), section("30020", "CERM 105", "M 10:55-12:00 mill"), held("30001")], ["+30020"],
     "a", [["time.travel"]]),
    ("just enough time", [
        travel(15), section("30020", "CERM 105", "M 11:05-12:00 mill"), held("30001")], ["+30020"],
     "a", [[]]),
    ("tight before it too", [
        travel(15), section("30020", "CERM 105", "F 08:50-09:50 mill"), held("30001")], ["+30020"],
     "a", [["time.travel"]]),
    ("other days", [
        travel(15), section("30020", "CERM 105", "T 10:55-12:00 mill"), held("30001")], ["+30020"],
     "a", [[]]),
    ("halves of the term do not meet", [
        travel(15), section("30020", "CERM 105", "M 10:55-12:00 mill", session=FIRST_HALF),
        section("30021", "BAKE 105", "M 10:00-10:50", session=SECOND_HALF), held("30021")],
     ["+30020"], "a", [[]]),
    # credits and grading
    ("credits within the range", [course("SOIL 490", credits_most=4.0, credits=1.0),
                                  section("30020", "SOIL 490")], ["+30020 2.5cr"], "a", [[]]),
    ("credits above the range", [course("SOIL 490", credits_most=4.0, credits=1.0),
                                 section("30020", "SOIL 490")], ["+30020 4.5cr"], "r",
     [["credits.range"]]),
    ("credits below the range", [course("SOIL 490", credits_most=4.0, credits=1.0),
                                 section("30020", "SOIL 490")], ["+30020 0.5cr"], "r",
     [["credits.range"]]),
    ("neither whole nor half", [course("SOIL 490", credits_most=4.0, credits=1.0),
                                section("30020", "SOIL 490")], ["+30020 1.3cr"], "r",
     [["credits.range"]]),
    ("fixed credits cannot be chosen", [], ["+30001 2cr"], "r", [["credits.range"]]),
    ("chosen credits count for the limit", [
        course("SOIL 490", credits_most=4.0, credits=1.0), section("30020", "SOIL 490"),
        six_of_three_credits, held(*(f"{30011 + n}" for n in range(5)))], ["+30020 4cr"], "r",
     [["credits.over"]]),
    ("grading offered", [course("LAND 900", gradings=("standard", "pass/no pass")),
                         section("30020", "LAND 900")], ["+30020 pass/no_pass"], "a", [[]]),
    ("grading not offered", [], ["+30001 pass/no_pass"], "r", [["grading.not_offered"]]),
    ("an audit does not count for the limit", [
        course("LAND 900", gradings=("standard", "audit")), section("30020", "LAND 900"),
        six_of_three_credits, held(*(f"{30011 + n}" for n in range(6)))], ["+30020 audit"], "a",
     [[]]),
    # adjusting
    ("adjusting the grading", [course("LAND 900", gradings=("standard", "pass/no pass")),
                               section("30020", "LAND 900"), held("30020")],
     ["~30020 pass/no_pass"], "a", [[]]),
    ("adjusting the credits", [course("SOIL 490", credits_most=4.0, credits=1.0),
                               section("30020", "SOIL 490"), held("30020")], ["~30020 3cr"], "a",
     [[]]),
    ("adjusting beyond the range", [course("SOIL 490", credits_most=4.0, credits=1.0),
                                    section("30020", "SOIL 490"), held("30020")], ["~30020 9cr"],
     "r", [["credits.range"]]),
    ("adjusting beyond the limit", [
        course("SOIL 490", credits_most=4.0, credits=1.0), section("30020", "SOIL 490"),
        six_of_three_credits, held(*(f"{30011 + n}" for n in range(5)), "30020")], ["~30020 4cr"],
     "r", [["credits.over"]]),
    ("to an audit, below full time", [
        course("LAND 900", gradings=("standard", "audit")), section("30020", "LAND 900"),
        held("30020", "30001", "30003", "30004")], ["~30020 audit"], "a",
     [["load.below_full_time"]]),
    ("adjusting what is not held", [], ["~30001 audit"], "r",
     [["grading.not_offered", "adjust.not_held"]]),
    ("adjusting on the drop-by day", [
        course("LAND 900", gradings=("standard", "audit")), section("30020", "LAND 900"),
        held("30020"), at(9, 3, 23, 59)], ["~30020 standard"], "a", [[]]),
    ("adjusting a day later", [
        course("LAND 900", gradings=("standard", "audit")), section("30020", "LAND 900"),
        held("30020"), at(9, 4)], ["~30020 standard"], "r", [["adjust.over"]]),
    # swaps
    ("swap to another section", [held("30001")], ["30001>30006"], "a", [[]]),
    ("swap to another course", [held("30001")], ["30001>30005"], "a", [[]]),
    ("swap for one that is full keeps what is held", [held("30001"), full("30006")],
     ["30001>30006"], "r", [["seat.full"]]),
    ("swap for one that clashes with the one given up", [held("30001")], ["30001>30002"], "a",
     [[]]),
    ("swap whose drop is refused", [held("30001"), windows(LATE), at(11, 6),
                                    section("30020", "ORCH 130", "TR 12:00-13:00",
                                            session=replace(FULL, code="late",
                                                          add_by=date(2027, 11, 10)))],
     ["30001>30020"], "r", [["term.closed", "drop.over"]]),
    ("swap of what is not held", [], ["30001>30006"], "r", [["drop.not_held"]]),
    ("swap under a hold on swaps", [held("30001"), hold("swap")], ["30001>30006"], "r",
     [["hold.stops"]]),
    ("swap under a hold on drops only", [held("30001"), hold("drop")], ["30001>30006"], "a", [[]]),
    ("swap leaves a W behind", [held("30001", "30003"), windows(LATE), at(9, 6),
                                section("30020", "ORCH 130", "TR 12:00-13:00", session=SECOND_HALF)],
     ["30001>30020"], "a", [["drop.withdrawal"]]),
    ("swap at the credit limit", [six_of_three_credits,
                                  held(*(f"{30011 + n}" for n in range(6)))], ["30011>30003"], "a",
     [[]]),
    ("two swaps that trade places in the week", [
        held("30002", "30003"), section("30020", "HIST 110", "TR 09:30-10:45"),
        section("30021", "WRIT 101", "MWF 10:00-10:50")], ["30002>30020", "30003>30021"], "aa",
     [[], []]),
    ("a clash with one that a refused swap keeps", [held("30001"), full("30006")],
     ["30001>30006", "+30002"], "rr", [["seat.full"], ["time.conflict"]]),
    ("two changes for the last seat", [
        section("30020", "BSKT 260", "F 09:00-10:00", seats=1, pool=77),
        section("30021", "TMBR 250", "F 10:00-11:00", seats=1, pool=77), held("30003")],
     ["30003>30021", "+30020"], "ar", [[], ["seat.full"]]),
    # aid
    ("aid below full time", [student(receives_aid=True), six_of_three_credits,
                             held("30011", "30012", "30013", "30014")], ["-30011"], "a",
     [["load.below_full_time", "drop.aid"]]),
    ("aid, but full time is kept", [
        student(receives_aid=True), six_of_three_credits,
        held("30011", "30012", "30013", "30014", "30015")], ["-30011"], "a", [[]]),
    ("leaving with aid in the middle of the term", [
        student(receives_aid=True), policy(may_leave_by_dropping=True), held("30001"), at(10, 1)],
     ["-30001"], "a", [["drop.withdrawal", "drop.aid"]]),
)  # fmt: skip
