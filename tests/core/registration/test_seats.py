"""Seat figures: what is left, for whom, and which seat a newcomer takes."""

from __future__ import annotations

import unittest
from datetime import date

from gremba.core.catalogue.seats import ReservedSeats, SeatFigures
from gremba.core.registration.rules.seats import reserved_against, seat_to_take
from gremba.core.students.student import Student

ON = date(2027, 4, 19)
NEW, OLD = Student(1, "New", cohort="new"), Student(2, "Old", cohort="old")


def part(seats: int, used: int = 0, release: date | None = None, value: str = "new") -> ReservedSeats:
    return ReservedSeats(7, "cohort", value, seats, used, release)


class Seats(unittest.TestCase):
    def test_left_is_never_below_nothing(self) -> None:
        # A section with 29 of 30 taken shows 1 left of 30 (common practice).
        for limit, taken, offered, left in ((30, 29, 0, 1), (30, 29, 1, 0), (20, 0, 0, 20), (10, 12, 0, 0)):
            self.assertEqual(SeatFigures(limit, taken, offered).left, left)

    def test_which_seat_is_taken(self) -> None:
        for figures, student, expected in (
            # No parts: an open seat while there is one, and beyond the limit from then on.
            (SeatFigures(3, 2), OLD, (None, False)),
            (SeatFigures(3, 3), OLD, (None, True)),
            (SeatFigures(3, 2, 1), OLD, (None, True)),
            # A member takes a reserved seat first, as long as there is one and it is kept.
            (SeatFigures(3, 0, reserved_seats=(part(2),)), NEW, (7, False)),
            (SeatFigures(3, 0, reserved_seats=(part(2),)), OLD, (None, False)),
            (SeatFigures(3, 2, reserved_seats=(part(2, used=2),)), NEW, (None, False)),
            (SeatFigures(3, 0, reserved_seats=(part(2, release=ON),)), NEW, (None, False)),
            (SeatFigures(3, 0, reserved_seats=(part(2, release=date(2027, 4, 20)),)), NEW, (7, False)),
            (SeatFigures(3, 3, reserved_seats=(part(2),)), NEW, (None, True)),
        ):
            with self.subTest(figures, who=student.name):
                self.assertEqual(seat_to_take(figures, student, ON), expected)

    def test_parts_kept_from_a_student(self) -> None:
        figures = SeatFigures(
            9,
            0,
            reserved_seats=(
                part(2),
                part(3, value="other"),
                part(1, used=1, value="full"),
                part(1, release=ON, value="free"),
            ),
        )
        self.assertEqual([p.value for p in reserved_against(figures, NEW, ON)], ["other"])
        self.assertEqual([p.value for p in reserved_against(figures, OLD, ON)], ["new", "other"])
        self.assertEqual(figures.reserved(ON), 5)
        self.assertEqual(SeatFigures(4, 1, reserved_seats=(part(9),)).reserved(ON), 3)

    def test_taking_offering_and_giving_back(self) -> None:
        figures = SeatFigures(2, 1, 0, 0, 3, (part(1),))
        taken = figures.after(1, 7)
        self.assertEqual((taken.taken, taken.left, taken.reserved_seats[0].used, taken.waiting), (2, 0, 1, 3))
        beyond = taken.after(1)
        self.assertEqual((beyond.beyond, beyond.left), (1, 0))
        self.assertEqual(beyond.after(-1).beyond, 0)
        offered = figures.offering(1, 7)
        self.assertEqual((offered.offered, offered.left, offered.reserved_seats[0].left), (1, 0, 0))
        self.assertEqual(offered.offering(-1, 7), figures)

    def test_plenty_is_for_so_many_who_want_one(self) -> None:
        self.assertTrue(SeatFigures(5, 2).has_open_for(3))
        self.assertFalse(SeatFigures(5, 2).has_open_for(4))
        self.assertFalse(SeatFigures(5, 2, 1).has_open_for(3))
        self.assertFalse(SeatFigures(5, 2, waiting=1).has_open_for(1))
        self.assertFalse(SeatFigures(5, 2, reserved_seats=(part(1),)).has_open_for(1))
