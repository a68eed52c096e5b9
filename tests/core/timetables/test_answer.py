"""The whole answer, by examples one can read and by laws on invented terms."""

from __future__ import annotations

import unittest
from dataclasses import replace

from gremba.core.catalogue.requisites import TOGETHER, CourseNeed
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.registration.alternatives.backup_sections import decide_with_alternatives
from gremba.core.registration.changes import Kind, Mode, Request
from gremba.core.registration.deciding.effort import MAX_BACKUPS
from gremba.core.registration.decision import decide
from gremba.core.registration.findings import Severity
from gremba.core.registration.outcome import Result
from gremba.core.registration.rules import ABOUT_STUDENT, RULES
from gremba.core.timetables.answer import Answer, answer, chosen_of
from gremba.core.timetables.explained import cut
from gremba.core.timetables.instance import MOST_OPTIONS
from gremba.core.timetables.left_out import OF_SEATS, OF_TIMETABLE
from gremba.core.timetables.question import Criterion, KeptFree, Narrowing, Question, SeatSwitch, Want
from gremba.core.timetables.requested import changes_of, request_of
from gremba.core.timetables.sought import WantState
from tests.core.timetables.invented import invent
from tests.support.examples import how_many
from tests.support.world import FIRST_HALF, SECOND_HALF, World

WORK = KeptFree((1, 3), 13 * 60, 17 * 60, "Work")


def ask(world: World, *courses: str, **options: object) -> Answer:
    """Ask for courses, each needed."""
    question = Question(tuple(Want((key,)) for key in courses), **options)  # type: ignore[arg-type]
    return answer(world.situation(), question, world.now)


def small_world() -> World:
    """Two lectures of one course, one with two labs; and a course that meets once."""
    world = World()
    world.section("30001", "SOIL 110", "MW 09:30-10:45", linked_sections=frozenset({"30002", "30003"}))
    for number, hours in (("30002", "T 14:00-16:50"), ("30003", "F 14:00-16:50")):
        world.section(
            number,
            "SOIL 110",
            hours,
            component="lab",
            linked_sections=frozenset({"30001"}),
            carries_credit=False,
        )
    world.section("30010", "BAKE 120", "TR 13:00-14:15", seats=4)
    return world


class Examples(unittest.TestCase):
    """Small terms."""

    def test_a_lecture_comes_with_one_of_its_labs(self) -> None:
        found = ask(small_world(), "SOIL 110", "BAKE 120")
        self.assertEqual(
            [t.numbers for t in found.timetables],
            [("30001", "30003", "30010")],
        )
        self.assertEqual(
            [h.section.reference_number for h in found.key_sections], ["30001", "30003", "30010"]
        )

    def test_hours_kept_free_leave_none_and_it_is_said_why(self) -> None:
        found = ask(small_world(), "SOIL 110", "BAKE 120", kept_free=(WORK,))
        self.assertEqual(found.number.value, 0)
        (reason,) = found.reasons
        self.assertEqual(reason.title, "“Work” on Tuesdays and Thursdays 13:00–17:00 leaves no BAKE 120")
        self.assertEqual(reason.text, "BAKE 120 meets TR 13:00–14:15 only.")
        self.assertEqual(
            [w.text for w in reason.ways_on],
            ["Free Tuesday 13:00–14:15 and Thursday 13:00–14:15", "Take BAKE 120 only if it fits"],
        )
        freed = reason.ways_on[0].question
        assert freed is not None
        self.assertEqual(answer(small_world().situation(), freed, small_world().now).number.value, 1)
        assert found.nearest is not None
        self.assertEqual(found.nearest.without, ("BAKE 120",))

    def test_wanted_only_if_it_fits_it_is_left_out_where_it_does_not(self) -> None:
        world = small_world()
        world.section("30020", "HIST 110", "MW 10:00-11:15")
        question = Question((Want(("SOIL 110",)), Want(("HIST 110",), is_needed=False)))
        found = answer(world.situation(), question, world.now)
        self.assertEqual([w.is_in for w in found.wants], [True, False])
        self.assertEqual(found.number.value, 2)

    def test_of_those_that_fit_only_one_at_a_time_the_first_is_in(self) -> None:
        world = small_world()
        world.section("30020", "HIST 110", "MW 13:00-14:15")
        world.section("30021", "LAWS 110", "MW 13:30-14:45")
        wants = tuple(Want((key,), is_needed=False) for key in ("LAWS 110", "HIST 110"))
        found = answer(world.situation(), Question((Want(("SOIL 110",)), *wants)), world.now)
        self.assertEqual([w.is_in for w in found.wants], [True, True, False])

    def test_halves_of_the_term_do_not_clash(self) -> None:
        world = World()
        world.section("30001", "SOIL 110", "MW 09:30-10:45", session=FIRST_HALF)
        world.section("30002", "BAKE 120", "MW 09:30-10:45", session=SECOND_HALF)
        self.assertEqual(ask(world, "SOIL 110", "BAKE 120").number.value, 1)

    def test_sections_alike_are_one_timetable_and_told_apart(self) -> None:
        world = World()
        for number in ("30001", "30002", "30003"):
            world.section(number, "SOIL 110", "MW 09:30-10:45", seats=int(number[-1]))
        found = ask(world, "SOIL 110")
        self.assertEqual(found.number.value, 1)
        (part,) = found.timetables[0].parts
        self.assertEqual(part.sections[0].reference_number, "30003")
        self.assertEqual([m[0].reference_number for m in part.alike], ["30002", "30001"])
        self.assertEqual(found.key_sections, ())

    def test_a_corequisite_comes_along_and_a_wanted_one_does_not_twice(self) -> None:
        world = World()
        world.section("30001", "CHEM 120", "MW 09:30-10:45", needs=CourseNeed("CHEM 121", timing=TOGETHER))
        world.section("30002", "CHEM 121", "TR 09:30-10:45")
        self.assertEqual(ask(world, "CHEM 120").timetables[0].numbers, ("30001", "30002"))
        both = ask(world, "CHEM 120", "CHEM 121")
        self.assertEqual(both.number.value, 1)
        self.assertEqual(both.timetables[0].credits, 6.0)
        self.assertEqual(both.timetables[0].stops, ())

    def test_what_two_need_in_the_same_term_comes_along_once(self) -> None:
        world = World()
        need = CourseNeed("CHEM 100", None, TOGETHER)
        world.section("30001", "SOIL 110", "MW 09:00-09:50", needs=need)
        world.section("30002", "BAKE 120", "TR 09:00-09:50", needs=need)
        for number, hours in (
            ("30010", "F 09:00-09:50"),
            ("30011", "F 11:00-11:50"),
            ("30012", "M 09:00-09:50"),
        ):
            world.section(number, "CHEM 100", hours)
        found = ask(world, "SOIL 110", "BAKE 120")
        self.assertEqual(
            sorted(t.numbers for t in found.timetables),
            [("30001", "30002", "30010"), ("30001", "30002", "30011")],
        )
        self.assertEqual(found.number.value, 2)
        # Nine credits and no more: it is counted once.
        world.student.credit_limit = 9.0
        self.assertEqual(ask(world, "SOIL 110", "BAKE 120").number.value, 2)
        world.student.credit_limit = 8.0
        self.assertEqual(ask(world, "SOIL 110", "BAKE 120").number.value, 0)
        # One of them only if it fits: what the other needs is there in any case.
        world.student.credit_limit = 18.0
        wants = (Want(("SOIL 110",)), Want(("BAKE 120",), is_needed=False))
        relaxed = answer(world.situation(), Question(wants), world.now)
        self.assertEqual(relaxed.number.value, 2)

    def test_what_two_need_that_are_wanted_only_if_they_fit(self) -> None:
        world = World()
        need = CourseNeed("CHEM 100", None, TOGETHER)
        world.section("30001", "SOIL 110", "M 09:00-09:50", needs=need)
        world.section("30002", "BAKE 120", "T 09:00-09:50", needs=need)
        world.section("30010", "CHEM 100", "F 09:00-09:50")
        world.section("30020", "HIST 110", "W 09:00-09:50")
        if_it_fits = tuple(Want((key,), is_needed=False) for key in ("SOIL 110", "BAKE 120"))
        wants = (Want(("HIST 110",)), *if_it_fits)
        found = answer(world.situation(), Question(wants), world.now)
        self.assertEqual([w.is_in for w in found.wants[:3]], [True] * 3)
        self.assertEqual([t.numbers for t in found.timetables], [("30001", "30002", "30010", "30020")])
        # Where what both need does not fit, neither is in, and it is not there for itself.
        world.section("30021", "LAWS 110", "F 09:00-09:50")
        both = (Want(("HIST 110",)), Want(("LAWS 110",)), *if_it_fits)
        found = answer(world.situation(), Question(both), world.now)
        self.assertEqual([w.is_in for w in found.wants], [True, True, False, False, False])
        self.assertEqual([t.numbers for t in found.timetables], [("30020", "30021")])

    def test_what_a_needed_one_needs_is_needed_though_it_is_wanted_only_if_it_fits(self) -> None:
        world = World()
        need = CourseNeed("CHEM 100", None, TOGETHER)
        world.section("30001", "SOIL 110", "M 09:00-09:50", needs=need)
        world.section("30010", "CHEM 100", "M 09:00-09:50")
        wants = (Want(("SOIL 110",)), Want(("CHEM 100",), is_needed=False))
        found = answer(world.situation(), Question(wants), world.now)
        self.assertEqual(found.number.value, 0)
        world.section("30011", "CHEM 100", "T 09:00-09:50")
        found = answer(world.situation(), Question(wants), world.now)
        self.assertEqual([t.numbers for t in found.timetables], [("30001", "30011")])
        self.assertEqual(found.timetables[0].stops, ())

    def test_what_comes_nearest_has_all_that_it_needs_and_nothing_for_what_is_left_out(self) -> None:
        world = World()
        need = CourseNeed("CHEM 100", None, TOGETHER)
        world.section("30001", "SOIL 110", "M 09:00-09:50", needs=need)
        world.section("30002", "BAKE 120", "M 09:00-09:50", needs=need)
        world.section("30010", "CHEM 100", "F 09:00-09:50")
        found = ask(world, "SOIL 110", "BAKE 120")
        assert found.nearest is not None
        self.assertEqual(found.nearest.without, ("BAKE 120",))
        self.assertEqual([t.numbers for t in found.nearest.timetables], [("30001", "30010")])
        for timetable in found.nearest.timetables:
            self.assertEqual(timetable.stops, ())
        # Neither is left once what both need is not to be had.
        world.section("30020", "HIST 110", "F 09:00-09:50")
        world.sections.pop("30002")
        world.section("30003", "BAKE 120", "T 09:00-09:50", needs=need)
        found = ask(world, "HIST 110", "SOIL 110", "BAKE 120")
        assert found.nearest is not None
        for timetable in found.nearest.timetables:
            self.assertEqual(timetable.stops, ())

    def test_why_there_is_none_where_two_need_the_same_names_it(self) -> None:
        world = World()
        need = CourseNeed("CHEM 100", None, TOGETHER)
        world.section("30001", "SOIL 110", "MW 09:00-09:50", needs=need)
        world.section("30002", "BAKE 120", "TR 09:00-09:50", needs=need)
        world.section("30010", "CHEM 100", "M 09:00-09:50")
        found = ask(world, "SOIL 110", "BAKE 120")
        self.assertEqual(found.number.value, 0)
        told = " ".join(f"{reason.title} {reason.text}" for reason in found.reasons)
        self.assertIn("CHEM 100", told)
        self.assertIn("SOIL 110", told)

    def test_a_choice_among_corequisites_of_each_other_is_met_once(self) -> None:
        world = World()
        world.section("30001", "CHEM 235", "M 09:00-09:50", needs=CourseNeed("CHEM 236", None, TOGETHER))
        world.section("30002", "CHEM 236", "T 09:00-09:50", needs=CourseNeed("CHEM 235", None, TOGETHER))
        question = Question((Want(("CHEM 235", "CHEM 236")),))
        found = answer(world.situation(), question, world.now)
        self.assertEqual((found.number.value, len(found.timetables)), (1, 1))

    def test_a_section_that_the_rules_stop_is_left_out_and_told(self) -> None:
        world = World()
        world.section("30001", "SOIL 240", "MW 09:30-10:45", needs=CourseNeed("SOIL 110", "C"))
        found = ask(world, "SOIL 240")
        self.assertIs(found.wants[0].sought.state, WantState.STOPPED)
        self.assertEqual(found.wants[0].stopped[0].finding.code, "requisite.unmet")
        self.assertEqual(found.reasons[0].title, "SOIL 240: no section is open to you")
        self.assertIn("SOIL 110", found.reasons[0].text)

    def test_wants_that_cannot_be_looked_for(self) -> None:
        world = small_world()
        world.course("ORCH 210")
        world.held = ["30010"]
        found = ask(world, "BAKE 120", "SOIL 110", "SOIL 110", "ORCH 210", "NONE 999")
        self.assertEqual(
            [w.sought.state for w in found.wants],
            [WantState.HELD, WantState.SOUGHT, WantState.TWICE, WantState.NOT_OFFERED, WantState.UNKNOWN],
        )
        self.assertEqual(
            [r.title for r in found.reasons],
            ["ORCH 210 is not offered in Harvest 2027", "There is no course NONE 999"],
        )

    def test_what_is_registered_stays_unless_it_may_move(self) -> None:
        world = small_world()
        world.section("30011", "BAKE 120", "F 08:00-10:50")
        world.section("30020", "HIST 110", "TR 13:30-14:45")
        world.held = ["30010"]
        stays = ask(world, "HIST 110")
        self.assertEqual(
            stays.reasons[0].title, "There is no HIST 110 beside the BAKE 120 that you are registered for"
        )
        self.assertIn("Let your BAKE 120 move to another section", [w.text for w in stays.reasons[0].ways_on])
        moves = ask(world, "HIST 110", may_move=frozenset({"30010"}))
        self.assertEqual(moves.timetables[0].numbers, ("30011", "30020"))
        request = request_of(moves.instance, moves.timetables[0].sections)
        swaps = [(c.number, c.in_exchange) for c in request.changes if c.kind is Kind.SWAP]
        self.assertEqual(swaps, [("30011", "30010")])

    def test_full_sections_are_looked_at_when_asked_for(self) -> None:
        world = small_world()
        world.seats[world.sections["30010"].pool] = SeatFigures(4, 4, waiting=1)
        world.sections["30010"] = replace(world.sections["30010"], waitlist_limit=3)
        self.assertEqual(ask(world, "BAKE 120").reasons[0].title, "There is no BAKE 120 with a seat left")
        waiting = ask(world, "BAKE 120", seats=SeatSwitch.WAITLIST)
        self.assertEqual(waiting.number.value, 1)
        (change,) = request_of(waiting.instance, waiting.timetables[0].sections).changes
        self.assertIs(change.kind, Kind.WAIT)
        world.seats[world.sections["30010"].pool] = SeatFigures(4, 4, waiting=3)
        self.assertEqual(ask(world, "BAKE 120", seats=SeatSwitch.WAITLIST).number.value, 0)
        self.assertEqual(ask(world, "BAKE 120", seats=SeatSwitch.ALL).number.value, 1)

    def test_hours_freed_are_cut_out_and_the_rest_stays(self) -> None:
        pieces = list(cut(WORK, 1, 14 * 60, 15 * 60))
        self.assertEqual(
            [(p.weekdays, p.start // 60, p.end // 60) for p in pieces],
            [((3,), 13, 17), ((1,), 13, 14), ((1,), 15, 17)],
        )
        self.assertEqual(list(cut(WORK, 0, 0, 24 * 60)), [WORK])

    def test_kept_in_place_all_others_go_round_it(self) -> None:
        world = small_world()
        found = ask(world, "SOIL 110", keeps=frozenset({"30002"}))
        self.assertEqual([t.numbers for t in found.timetables], [("30001", "30002")])
        among = Question((Want(("BAKE 120", "SOIL 110")),), keeps=frozenset({"30010"}))
        self.assertEqual(answer(world.situation(), among, world.now).number.value, 1)

    def test_two_of_three_are_met_once_each(self) -> None:
        world = World()
        for n, day in enumerate("MTW"):
            world.section(f"3000{n}", f"CRAF 10{n}", f"{day} 09:00-09:50")
        keys = ("CRAF 100", "CRAF 101", "CRAF 102")
        pairs = answer(world.situation(), Question((Want(keys, count=2),)), world.now)
        self.assertEqual(pairs.number.value, 3)
        shared = Question((Want(keys[:2]), Want(keys[1:], narrowing=Narrowing(without=frozenset({"x"})))))
        self.assertEqual(answer(world.situation(), shared, world.now).number.value, 3)

    def test_a_bundle_is_taken_whole_and_counted_once(self) -> None:
        world = World()
        world.section("30001", "SEMR 101", "M 09:00-09:50", bundle="B-1")
        world.section("30002", "WRIT 101", "T 09:00-09:50", bundle="B-1")
        world.section("30003", "WRIT 101", "W 09:00-09:50")
        one = ask(world, "SEMR 101")
        self.assertEqual([t.numbers for t in one.timetables], [("30001", "30002")])
        both = ask(world, "SEMR 101", "WRIT 101")
        self.assertEqual([t.numbers for t in both.timetables], [("30001", "30002")])
        self.assertEqual(both.timetables[0].credits, 6.0)


class Laws(unittest.TestCase):
    """What holds on every invented term."""

    def test_every_timetable_shown_is_what_the_decision_would_take(self) -> None:
        """What fits is accepted whole; where the rules say otherwise, the timetable says so."""
        accepted = 0
        for seed in range(how_many(200)):
            invented = invent(seed)
            found = answer(invented.situation, invented.question, invented.world.now, many=6)
            for timetable in found.timetables:
                request = request_of(found.instance, timetable.sections)
                decision = decide(invented.situation, request, invented.world.now)
                whole = all(o.result is not Result.REFUSED for o in decision.outcomes)
                with self.subTest(seed=seed, numbers=timetable.numbers):
                    self.assertEqual(whole, not timetable.stops)
                    if invented.question.seats is SeatSwitch.LEFT:
                        self.assertEqual(timetable.stops, ())
                accepted += whole
        self.assertGreater(accepted, how_many(200))

    def test_a_timetable_is_known_by_its_sections(self) -> None:
        for seed in range(how_many(120)):
            invented = invent(seed)
            found = answer(invented.situation, invented.question, invented.world.now, many=5)
            for timetable in found.timetables:
                assert found.search is not None
                self.assertIsNotNone(chosen_of(found.search, frozenset(timetable.numbers)))
                self.assertIsNone(chosen_of(found.search, frozenset({*timetable.numbers, "99999"})))

    def test_pages_of_the_walk_are_one_walk(self) -> None:
        for seed in range(80):
            invented = invent(seed)
            situation, question, now = invented.situation, invented.question, invented.world.now
            whole = [t.numbers for t in answer(situation, question, now, many=12).timetables]
            parts = [
                t.numbers
                for first in range(0, 12, 5)
                for t in answer(situation, question, now, first, min(5, 12 - first)).timetables
            ]
            self.assertEqual(parts, whole)

    def test_the_key_sections_are_what_the_number_hangs_on(self) -> None:
        hung = 0
        for seed in range(how_many(120)):
            invented = invent(seed)
            situation, now = invented.situation, invented.world.now
            question = replace(
                invented.question,
                wants=tuple(replace(w, is_needed=True) for w in invented.question.wants),
            )
            found = answer(situation, question, now)
            for key_section in found.key_sections:
                number = key_section.section.reference_number
                without = replace(
                    question,
                    wants=tuple(
                        replace(w, narrowing=replace(w.narrowing, without=w.narrowing.without | {number}))
                        for w in question.wants
                    ),
                )
                hung += 1
                wanted = {k for s in found.instance.sought if not s.moves for k in s.want.courses}
                if key_section.section.course.key not in wanted or invented.world.held:
                    continue
                with self.subTest(seed=seed, number=number):
                    self.assertEqual(answer(situation, without, now).number.value, key_section.without)
        self.assertGreater(hung, how_many(120) // 3)

    def test_in_the_cart_each_next_choice_still_fits_the_rest(self) -> None:
        """Where the first is lost, the next is taken, and nothing else is lost for it."""
        lost = 0
        for seed in range(how_many(160)):
            invented = invent(seed)
            question = replace(invented.question, seats=SeatSwitch.LEFT)
            found = answer(invented.situation, question, invented.world.now, many=1)
            if not found.timetables or found.search is None:
                continue
            chosen = chosen_of(found.search, frozenset(found.timetables[0].numbers))
            assert chosen is not None
            changes = changes_of(found.search, chosen)
            for change in changes:
                self.assertLessEqual(len(change.alternatives), MAX_BACKUPS)
                if not change.alternatives:
                    continue
                lost += 1
                pool = invented.world.sections[change.number].pool
                seats = {**invented.situation.seats, pool: SeatFigures(0, 0)}
                request = Request(tuple(changes), Mode.EACH)
                situation = replace(invented.situation, seats=seats)
                _, decision = decide_with_alternatives(situation, request, invented.world.now)
                with self.subTest(seed=seed, number=change.number):
                    self.assertTrue(all(o.result is Result.ACCEPTED for o in decision.outcomes))
        self.assertGreater(lost, 30)

    def test_every_rule_that_stops_an_add_is_of_one_kind(self) -> None:
        """A new rule is to be thought of here: is it of the section, of the seats, of the student, or of the
        timetable?"""
        of_section = {
            "session.add_over",
            "section.unknown",
            "section.other_term",
            "section.cancelled",
            "repeat.refused",
            "requisite.unmet",
            "placement.expired",
            "restricted.program",
            "restricted.standing",
            "restricted.campus",
            "restricted.cohort",
            "consent.needed",
            "consent.bad",
            "credits.range",
            "grading.not_offered",
        }
        stops = {
            r.code
            for rules in RULES.values()
            for r in rules
            if r.severity is Severity.STOP and Kind.ADD in r.on
        }
        known = of_section | OF_SEATS | (OF_TIMETABLE - {"drop.last"}) | ABOUT_STUDENT
        self.assertEqual(stops, known & stops)
        self.assertEqual(stops - known, set())


class Worst(unittest.TestCase):
    """What is asked has an end, and what cannot be said in it is not said."""

    def great_term(self, courses: int, sections: int, limit: float) -> World:
        """Courses with very many sections, all of which count toward Craft."""
        world = World()
        for course in range(courses):
            world.course(f"CRAF {100 + course}", tags=("Craft",))
            for n in range(sections):
                hour = 8 + n % 12
                days = ("MW", "TR", "F")[n % 3]
                world.section(
                    f"{30000 + course * 100 + n}",
                    f"CRAF {100 + course}",
                    f"{days} {hour:02d}:00-{hour:02d}:50",
                )
        world.student = replace(world.student, credit_limit=limit)
        return world

    def test_twelve_wants_of_a_great_many_sections(self) -> None:
        world = self.great_term(12, 30, limit=60.0)
        question = Question(
            tuple(Want((f"CRAF {100 + n}",)) for n in range(12)),
            criteria=(Criterion.FEW_GAPS, Criterion.FEW_WAYS, Criterion.SHORT_DAYS),
        )
        found = answer(world.situation(), question, world.now)
        self.assertTrue(found.number.is_beyond or not found.number.is_exact)
        self.assertEqual(len(found.timetables), 24)
        self.assertFalse(found.is_whole and not all(t.is_in_order for t in found.timetables))

    def test_twelve_wants_that_are_far_too_many_credits(self) -> None:
        """There are 792 smallest sets of seven; one is told, and at once."""
        world = self.great_term(12, 6, limit=18.0)
        question = Question(tuple(Want((f"CRAF {100 + n}",)) for n in range(12)))
        found = answer(world.situation(), question, world.now)
        self.assertEqual(found.number.value, 0)
        self.assertEqual(
            found.reasons[0].title,
            "CRAF 100, CRAF 101, CRAF 102, CRAF 103, CRAF 104, CRAF 105 and CRAF 106 come to 21 credits at "
            "least; your limit is 18",
        )
        assert found.nearest is not None
        self.assertEqual(len(found.nearest.without), 6)

    def test_sixteen_of_whatever_counts_are_cut_and_said_to_be(self) -> None:
        world = self.great_term(20, 36, limit=90.0)
        found = answer(world.situation(), Question((Want(tag="Craft", count=4),) * 4), world.now)
        self.assertFalse(found.is_whole)
        self.assertFalse(found.number.is_exact and not found.number.is_beyond)
        self.assertLessEqual(len(found.instance.options), MOST_OPTIONS)
