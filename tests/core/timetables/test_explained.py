"""What is said where there is no timetable, word by word, and what each way on asks then."""

from __future__ import annotations

import unittest
from dataclasses import replace

from gremba.core.catalogue.seats import SeatFigures
from gremba.core.timetables.answer import Answer, answer
from gremba.core.timetables.explained import cut, narrowing_text, want_name
from gremba.core.timetables.question import KeptFree, Narrowing, Question, SeatSwitch, Want
from tests.support.world import World

MORNING = KeptFree((0,), 0, 12 * 60, "Sleep")


def lists(*sections: str) -> World:
    """A world of sections such as ``30001 SOIL 110 MW 09:00-09:50 hill``."""
    world = World()
    for text in sections:
        number, subject, course, meets = text.split(" ", 3)
        world.section(number, f"{subject} {course}", meets)
    return world


def wants(*courses: str, **options: object) -> Question:
    return Question(tuple(Want((key,)) for key in courses), **options)  # type: ignore[arg-type]


class Told(unittest.TestCase):
    """One reason each, with its ways on."""

    def told(self, world: World, question: Question, title: str, text: str, *ways_on: str) -> Answer:
        found = answer(world.situation(), question, world.now)
        self.assertEqual(found.number.value, 0)
        (reason,) = found.reasons
        self.assertEqual((reason.title, reason.text), (title, text))
        self.assertEqual(tuple(w.text for w in reason.ways_on), ways_on)
        return found

    def follow(self, world: World, found: Answer, place: int = 0) -> Answer:
        """What is answered when a way on is followed."""
        question = found.reasons[0].ways_on[place].question
        assert question is not None
        return answer(world.situation(), question, world.now)

    def test_two_that_meet_at_the_same_hours(self) -> None:
        world = lists("30001 SOIL 110 MW 09:00-09:50", "30002 BAKE 120 M 09:30-10:20")
        found = self.told(
            world,
            wants("SOIL 110", "BAKE 120"),
            "SOIL 110 and BAKE 120 meet only at the same hours",
            "SOIL 110 meets MW 09:00–09:50 only. BAKE 120 meets M 09:30–10:20 only.",
            "Take BAKE 120 only if it fits",
            "Take SOIL 110 only if it fits",
        )
        self.assertEqual(self.follow(world, found).timetables[0].numbers, ("30001",))
        self.assertEqual(self.follow(world, found, 1).timetables[0].numbers, ("30002",))

    def test_three_in_two_hours(self) -> None:
        world = lists(
            *(
                f"301{n}{hour} {key} M {hour}:00-{hour}:50"
                for n, key in enumerate(("SOIL 110", "BAKE 120", "CRAF 130"))
                for hour in (10, 11)
            )
        )
        found = self.told(
            world,
            wants("SOIL 110", "BAKE 120", "CRAF 130"),
            "SOIL 110, BAKE 120 and CRAF 130 do not fit together",
            "SOIL 110 meets M 10:00–10:50 or M 11:00–11:50 only. "
            "BAKE 120 meets M 10:00–10:50 or M 11:00–11:50 only.",
            "Take CRAF 130 only if it fits",
            "Take BAKE 120 only if it fits",
            "Take SOIL 110 only if it fits",
        )
        assert found.nearest is not None
        self.assertEqual((found.nearest.without, found.nearest.number.value), (("CRAF 130",), 2))

    def test_fewer_courses_than_wanted(self) -> None:
        world = lists("30001 SOIL 110 M 09:00-09:50", "30002 BAKE 120 T 09:00-09:50")
        both = ("SOIL 110", "BAKE 120")
        self.told(
            world,
            Question((Want(both, count=2), Want(both))),
            "Two of SOIL 110 or BAKE 120 and one of SOIL 110 or BAKE 120 would have to be the same course",
            "",
            "Take one of SOIL 110 or BAKE 120 only if it fits",
            "Take two of SOIL 110 or BAKE 120 only if it fits",
        )

    def test_more_than_three_times_are_counted(self) -> None:
        hours = [f"3000{n} SOIL 110 M 1{n}:00-1{n}:50" for n in range(4)]
        world = lists(*hours, "30010 BAKE 120 M 10:00-15:00")
        expected = "BAKE 120 meets M 10:00–15:00 only."
        for many in (4, 3):
            told = {
                4: "SOIL 110 has 4 ways to be taken, none beside the rest.",
                3: "SOIL 110 meets M 11:00–11:50, M 12:00–12:50 or M 13:00–13:50 only.",
            }[many]
            self.told(
                world,
                wants("SOIL 110", "BAKE 120"),
                "SOIL 110 and BAKE 120 meet only at the same hours",
                f"{told} {expected}",
                "Take BAKE 120 only if it fits",
                "Take SOIL 110 only if it fits",
            )
            world.sections.pop("30000", None)

    def test_credits_with_and_without_what_is_registered(self) -> None:
        world = lists(
            "30001 SOIL 110 M 09:00-09:50", "30002 BAKE 120 T 09:00-09:50", "30003 CRAF 130 F 09:00-09:50"
        )
        world.student.credit_limit = 5.0
        ask = "Ask your advisor whether your limit can be raised"
        self.told(
            world,
            wants("SOIL 110", "BAKE 120"),
            "SOIL 110 and BAKE 120 come to 6 credits at least; your limit is 5",
            "",
            ask,
            "Take BAKE 120 only if it fits",
            "Take SOIL 110 only if it fits",
        )
        world.held = ["30003"]
        self.told(
            world,
            wants("SOIL 110"),
            "SOIL 110 comes to 3 credits at least beside the 3 credits registered; your limit is 5",
            "",
            ask,
            "Take SOIL 110 only if it fits",
        )

    def test_what_has_no_other_section_is_not_let_move(self) -> None:
        world = lists("30001 SOIL 110 M 09:00-09:50", "30002 BAKE 120 M 09:00-09:50")
        world.held = ["30001"]
        for another, ways_on in ((False, []), (True, ["Let your SOIL 110 move to another section"])):
            if another:
                world.section("30003", "SOIL 110", "T 09:00-09:50")
            found = answer(world.situation(), wants("BAKE 120"), world.now)
            told = [w.text for w in found.reasons[0].ways_on]
            self.assertEqual(told, [*ways_on, "Take BAKE 120 only if it fits"])

    def test_credits_of_more_than_three_are_all_that_is_wanted(self) -> None:
        world = lists(
            *(f"3000{n} CRAF 10{n} {day} 09:00-09:50" for n, day in enumerate("MTWR")),
        )
        world.student.credit_limit = 11.0
        found = answer(world.situation(), wants("CRAF 100", "CRAF 101", "CRAF 102", "CRAF 103"), world.now)
        self.assertEqual(
            found.reasons[0].title, "All that you want comes to 12 credits at least; your limit is 11"
        )

    def test_a_tight_way(self) -> None:
        world = lists("30001 SOIL 110 M 09:00-09:50 hill", "30002 BAKE 120 M 10:00-10:50 mill")
        world.travel = {("hill", "mill"): 30}
        found = self.told(
            world,
            wants("SOIL 110", "BAKE 120", no_tight_ways=True),
            "SOIL 110 and BAKE 120 cannot be had together without a tight way between campuses",
            "SOIL 110 meets M 09:00–09:50 only. BAKE 120 meets M 10:00–10:50 only.",
            "Allow tight ways between campuses",
            "Take BAKE 120 only if it fits",
            "Take SOIL 110 only if it fits",
        )
        self.assertEqual(self.follow(world, found).number.value, 1)

    def test_what_was_narrowed_too_far(self) -> None:
        world = lists(
            "30001 SOIL 110 M 09:00-09:50", "30002 SOIL 110 M 11:00-11:50", "30003 BAKE 120 M 09:00-09:50"
        )
        without = Narrowing(without=frozenset({"30002"}))
        found = self.told(
            world,
            Question((Want(("SOIL 110",), narrowing=without), Want(("BAKE 120",)))),
            "SOIL 110 and BAKE 120 cannot be had together with SOIL 110 as you narrowed it (not 30002)",
            "SOIL 110 meets M 09:00–09:50 only. BAKE 120 meets M 09:00–09:50 only.",
            "Any section of SOIL 110: 2 ways to take it",
            "Take BAKE 120 only if it fits",
            "Take SOIL 110 only if it fits",
        )
        self.assertEqual(self.follow(world, found).timetables[0].numbers, ("30002", "30003"))
        self.told(
            world,
            Question((Want(("SOIL 110",), narrowing=Narrowing(campuses=frozenset({"mill"}))),)),
            "There is no SOIL 110 as you narrowed it (mill)",
            "",
            "Any section of SOIL 110: 2 ways to take it",
            "Take SOIL 110 only if it fits",
        )

    def test_a_section_kept_in_place(self) -> None:
        world = lists(
            "30001 SOIL 110 M 09:00-09:50", "30002 SOIL 110 M 11:00-11:50", "30003 BAKE 120 M 09:00-09:50"
        )
        found = self.told(
            world,
            wants("SOIL 110", "BAKE 120", keeps=frozenset({"30001"})),
            "SOIL 110 and BAKE 120 cannot be had together with 30001 kept in place",
            "SOIL 110 meets M 09:00–09:50 or M 11:00–11:50 only. BAKE 120 meets M 09:00–09:50 only.",
            "Do not keep 30001 in place",
            "Take BAKE 120 only if it fits",
            "Take SOIL 110 only if it fits",
        )
        self.assertEqual(self.follow(world, found).number.value, 1)

    def test_seats_and_room_on_the_waitlist(self) -> None:
        world = lists("30001 SOIL 110 M 09:00-09:50")
        pool = world.sections["30001"].pool
        world.sections["30001"] = replace(world.sections["30001"], waitlist_limit=3)
        world.seats[pool] = SeatFigures(4, 4, waiting=2)
        found = self.told(
            world,
            wants("SOIL 110"),
            "There is no SOIL 110 with a seat left",
            "",
            "Look also at sections with room on the waitlist",
            "Take SOIL 110 only if it fits",
        )
        self.assertEqual(self.follow(world, found).number.value, 1)
        world.seats[pool] = SeatFigures(4, 4, waiting=3)
        for seats, title in (
            (SeatSwitch.LEFT, "There is no SOIL 110 with a seat left"),
            (SeatSwitch.WAITLIST, "There is no SOIL 110 with a seat left or room on the waitlist"),
        ):
            found = self.told(
                world,
                wants("SOIL 110", seats=seats),
                title,
                "",
                "Look at full sections as well",
                "Take SOIL 110 only if it fits",
            )
            self.assertEqual(self.follow(world, found).number.value, 1)

    def test_only_the_hours_in_the_way_are_freed(self) -> None:
        """Of the sections that would do, the one that takes the least of what is kept free."""
        world = lists("30001 SOIL 110 M 10:00-12:50", "30002 SOIL 110 M 11:30-14:00")
        found = self.told(
            world,
            wants("SOIL 110", kept_free=(MORNING,)),
            "“Sleep” on Mondays before 12:00 leaves no SOIL 110",
            "SOIL 110 meets M 10:00–12:50 or M 11:30–14:00 only.",
            "Free Monday 11:30–12:00",
            "Take SOIL 110 only if it fits",
        )
        self.assertEqual([t.numbers for t in self.follow(world, found).timetables], [("30002",)])

    def test_hours_kept_free_between_dates_are_no_reason_outside_them(self) -> None:
        world = lists("30001 SOIL 110 M 10:00-11:50 hill 2027-09-13 2027-09-20")
        kept = replace(MORNING, first=world.sections["30001"].meetings[0].first.replace(month=11, day=1))
        found = answer(world.situation(), wants("SOIL 110", kept_free=(kept,)), world.now)
        self.assertEqual(found.number.value, 1)

    def test_hours_kept_free_are_named(self) -> None:
        world = lists("30001 SOIL 110 M 10:00-11:50")
        for kept, title in (
            (KeptFree((0,), 9 * 60, 24 * 60, ""), "Keeping Mondays from 09:00 free leaves no SOIL 110"),
            (KeptFree((0, 2), 0, 24 * 60, ""), "Keeping Mondays and Wednesdays free leaves no SOIL 110"),
            (KeptFree(tuple(range(7)), 0, 24 * 60, ""), "Keeping every day free leaves no SOIL 110"),
            (
                KeptFree(tuple(range(7)), 10 * 60, 11 * 60, "Swim"),
                "“Swim” every day 10:00–11:00 leaves no SOIL 110",
            ),
        ):
            found = answer(world.situation(), wants("SOIL 110", kept_free=(kept,)), world.now)
            self.assertEqual(found.reasons[0].title, title)

    def test_what_does_not_exist(self) -> None:
        world = lists("30001 SOIL 110 M 10:00-11:50")
        found = answer(world.situation(), Question((Want(tag="craft"), Want(("NONE 999",)))), world.now)
        self.assertEqual(
            [r.title for r in found.reasons], ["No course counts toward craft", "There is no course NONE 999"]
        )


class Cut(unittest.TestCase):
    """Hours kept free without some of them."""

    def test_nothing_is_left_of_what_is_taken_away_whole(self) -> None:
        morning = KeptFree((0,), 9 * 60, 12 * 60, "Sleep")
        for start, end, left in (
            (9, 12, []),
            (9, 10, [(10, 12)]),
            (11, 12, [(9, 11)]),
            (10, 11, [(9, 10), (11, 12)]),
            (8, 13, []),
        ):
            with self.subTest(start=start, end=end):
                pieces = [(p.start // 60, p.end // 60) for p in cut(morning, 0, start * 60, end * 60)]
                self.assertEqual(pieces, left)


class Named(unittest.TestCase):
    """Wants and narrowings in a sentence."""

    def test_wants(self) -> None:
        two = ("SOIL 110", "BAKE 120")
        for want, name in (
            (Want(("SOIL 110",)), "SOIL 110"),
            (Want(two), "one of SOIL 110 or BAKE 120"),
            (Want((*two, "CRAF 130"), count=2), "two of SOIL 110, BAKE 120 or CRAF 130"),
            (Want(tag="Craft"), "one that counts toward Craft"),
            (Want(tag="Craft", count=4), "four that count toward Craft"),
            (Want(tag="Craft", count=5), "5 that count toward Craft"),
        ):
            self.assertEqual(want_name(want), name)

    def test_every_kind_of_narrowing(self) -> None:
        narrowing = Narrowing(
            without=frozenset({"30002", "30001"}),
            only=frozenset({"30003"}),
            instructors=frozenset({"Ada Moss"}),
            campuses=frozenset({"hill", "elsewhere"}),
            deliveries=frozenset({"online"}),
            sessions=frozenset({"first half"}),
        )
        self.assertEqual(
            narrowing_text(Want(("SOIL 110",), narrowing=narrowing), {"hill": "Hillfoot"}),
            "not 30001 or 30002, only 30003, with Ada Moss, elsewhere or Hillfoot, online, in the first half",
        )


if __name__ == "__main__":
    unittest.main()
