"""Waitlists in a real database: offers, automatic places, swaps, chains, rings, the sweep."""

from __future__ import annotations

import threading
import time
import unittest
from datetime import timedelta
from typing import Any
from unittest import mock

import orjson
from structlog.testing import capture_logs

from gremba.actions import seat_giving, vacancies
from gremba.actions.actor import Actor
from gremba.actions.offers import (
    Acceptance,
    Answer,
    decline_offer,
    look_at_offer,
    move_place,
)
from gremba.actions.offers import accept_offer as accept
from gremba.actions.problem import Problem
from gremba.actions.put_through import Receipt, put_through
from gremba.actions.rings import serve_rings
from gremba.actions.sending import Sending
from gremba.actions.sweep import sweep
from gremba.core.changes import Change, Kind, Request
from gremba.core.waitlist import closes_at
from gremba.demo.morning import SetClock
from gremba.store.database import connect, connected, run
from gremba.store.waitlists import PlaceLine, read_places
from tests.support.campus import TERM, Campus, Somebody
from tests.support.servers import new_database
from tests.support.world import request


class OnWaitlists(unittest.TestCase):
    def setUp(self) -> None:
        self.campus = Campus(new_database())
        self.addCleanup(self.campus.close)
        self.desk = self.campus.desk()
        self.clock = SetClock(self.desk.clock.now())
        self.desk.clock = self.clock
        self.keys = 0

    def section(self, seats: int, way: str = "offer", **more: Any) -> str:
        number = self.campus.section(seats=seats, **more)
        self.campus.run("UPDATE sections SET waitlist_limit = 8, waitlist_way = %s "
                        "WHERE reference_number = %s", way, number)  # fmt: skip
        self.desk.catalogue._terms.clear()
        return number

    def send(self, who: Somebody, *changes: str) -> str:
        """One letter a change: accepted, refused or waiting."""
        self.keys += 1
        self.clock.time += timedelta(seconds=1)
        term = self.desk.term(TERM)
        (answer,) = put_through(
            self.desk,
            [Sending(who.row, term, request(changes), f"key-{self.keys:04}", who.id, who.username)],
        )
        assert isinstance(answer, Receipt), answer
        return "".join(line["result"][0] for line in orjson.loads(answer.body)["outcomes"])

    @staticmethod
    def as_student(who: Somebody) -> Actor:
        return Actor(who.id, who.username)

    def accept(self, who: Somebody, place: int = 1, key: str = "", **how: Any) -> Answer:
        self.keys += 1
        key = key or f"accept-{self.keys:04}"
        return accept(self.desk, who.id, place, Acceptance(**how), self.as_student(who), key)

    def sweep(self, **later: float) -> int:
        self.clock.time += timedelta(**later)
        term = self.desk.term(TERM)
        return sweep(self.desk, [term]) + serve_rings(self.desk, term)

    def states(self) -> list[str]:
        return [
            str(self.campus.value("SELECT state FROM places WHERE id = %s", n + 1))
            for n in range(int(self.campus.value("SELECT count(*) FROM places")))
        ]

    def holders(self, number: str) -> list[int]:
        found = self.campus.value(
            "SELECT coalesce(array_agg(r.student_term_id ORDER BY r.student_term_id), '{}') "
            "FROM registrations r JOIN sections s ON s.id = r.section_id "
            "WHERE s.reference_number = %s AND r.state = 'registered'", number)  # fmt: skip
        return list(found)

    def lecture_with_labs(self, way: str) -> tuple[str, str, str]:
        """A full lecture with two labs that go with it."""
        lecture, lab, other = (self.section(seats=n, way=way) for n in (1, 1, 5))
        self.campus.run("UPDATE sections SET course_id = 1 WHERE id IN (2, 3)")
        self.campus.run("UPDATE sections SET component = 'lab', carries_credit = false WHERE id > 1")
        self.campus.run("INSERT INTO companions VALUES (1, 2), (2, 1), (1, 3), (3, 1)")
        self.desk.catalogue._terms.clear()
        return lecture, lab, other



class Waitlists(OnWaitlists):
    def test_a_freed_seat_is_offered_to_the_head_and_no_newcomer_slips_in(self) -> None:
        number = self.section(seats=1)
        one, two, three, four = self.campus.people(4)
        self.assertEqual(self.send(one, f"+{number}"), "a")
        self.assertEqual(self.send(two, f"?{number}"), "w")
        self.assertEqual(self.send(three, f"?{number}"), "w")
        other = self.section(seats=5)
        self.send(one, f"-{number}", f"+{other}")
        # Before anything has been done about it, the seat is not for newcomers.
        self.assertEqual(self.send(four, f"+{number}"), "r")
        self.sweep()
        self.assertEqual(self.states(), ["offered", "waiting"])
        self.assertEqual(self.send(four, f"+{number}"), "r")
        answer = self.accept(two)
        self.assertTrue(answer.is_possible)
        self.assertEqual(self.holders(number), [two.row])
        self.assertEqual(self.states(), ["given", "waiting"])
        self.assertEqual(self.campus.disagreements(), [])

    def test_declined_and_lapsed_offers_go_on_at_once(self) -> None:
        number = self.section(seats=1)
        one, two, three, four = self.campus.people(4)
        other = self.section(seats=5)
        self.send(one, f"+{number}")
        for who in (two, three, four):
            self.send(who, f"?{number}")
        self.send(one, f"-{number}", f"+{other}")
        self.sweep()
        decline_offer(self.desk, two.id, 1, self.as_student(two))
        self.sweep()
        self.assertEqual(self.states(), ["declined", "offered", "waiting"])
        # In the second of the deadline the offer still stands; a second later it has lapsed.
        until = self.campus.value("SELECT offer_until FROM places WHERE id = 2")
        self.clock.time = until
        self.assertEqual(self.sweep(), 0)
        self.assertTrue(look_at_offer(self.desk, three.id, 2).is_possible)
        self.sweep(seconds=1)
        self.assertEqual(self.states(), ["declined", "lapsed", "offered"])
        with self.assertRaises(Problem):
            self.accept(three, 2)
        # Who let it lapse may join again, at the end.
        self.assertEqual(self.send(three, f"?{number}"), "w")
        self.assertEqual(self.states(), ["declined", "lapsed", "offered", "waiting"])
        self.assertEqual(self.campus.value("SELECT count(*) FROM messages WHERE title LIKE 'A seat%%'"), 3)

    def test_an_accepting_that_is_refused_changes_nothing_and_the_clock_runs_on(self) -> None:
        number = self.section(seats=1)
        one, two = self.campus.people(2)
        other = self.section(seats=5)
        self.send(one, f"+{number}")
        self.send(two, f"?{number}")
        self.send(one, f"-{number}", f"+{other}")
        self.sweep()
        self.campus.fee_hold(two)
        answer = self.accept(two)
        self.assertFalse(answer.is_possible)
        self.assertIn("hold.stops", [f["code"] for f in answer.decision["outcomes"][0]["findings"]])
        self.assertEqual(self.states(), ["offered"])

    def test_automatic_passes_over_with_a_reason_once_and_tries_again(self) -> None:
        number = self.section(seats=1, way="automatic")
        one, two, three = self.campus.people(3)
        other = self.section(seats=5)
        self.send(one, f"+{number}")
        self.send(two, f"?{number}")
        self.send(three, f"?{number}")
        hold = self.campus.fee_hold(two)
        self.send(one, f"-{number}", f"+{other}")
        self.sweep()
        self.assertEqual(self.holders(number), [three.row])
        self.assertEqual(self.states(), ["waiting", "given"])
        for _ in range(3):
            self.sweep()
        self.assertEqual(self.campus.value(
            "SELECT count(*) FROM place_events WHERE what = 'passed over'"), 1)  # fmt: skip
        self.campus.run("UPDATE holds SET lifted_at = now() WHERE id = %s", hold)
        self.campus.run("UPDATE seat_pools SET seat_limit = 2 WHERE id = 1")
        self.sweep()
        self.assertEqual(self.holders(number), sorted([two.row, three.row]))

    def test_passed_over_is_tried_again_when_the_hold_goes_though_no_seat_moves(self) -> None:
        number = self.section(seats=1, way="automatic")
        one, two = self.campus.people(2)
        other = self.section(seats=5)
        self.send(one, f"+{number}")
        self.send(two, f"?{number}")
        hold = self.campus.fee_hold(two)
        self.send(one, f"-{number}", f"+{other}")
        self.sweep()
        self.assertEqual(self.states(), ["waiting"])
        self.campus.run("UPDATE holds SET lifted_at = now() WHERE id = %s", hold)
        self.sweep()
        self.assertEqual((self.states(), self.holders(number)), (["given"], [two.row]))

    def test_waiting_by_swap_keeps_what_one_has_and_passes_it_on_however_long_the_chain(self) -> None:
        numbers = [self.section(seats=1, way="automatic") for _ in range(5)]
        people = self.campus.people(5)
        for who, number in zip(people, numbers, strict=True):
            self.send(who, f"+{number}")
        # Each waits for the section of the one before, and would give up their own for it.
        for place in range(1, 5):
            self.assertEqual(self.send(people[place], f"{numbers[place]}?{numbers[place - 1]}"), "w")
        self.assertEqual(self.holders(numbers[4]), [people[4].row])
        last = self.section(seats=3)
        self.send(people[0], f"-{numbers[0]}", f"+{last}")
        for _ in range(5):
            self.sweep()
        self.assertEqual([self.holders(n) for n in numbers],
                         [[p.row] for p in people[1:]] + [[]])  # fmt: skip
        self.assertEqual(self.campus.disagreements(), [])

    def test_a_ring_is_served_in_one_step_though_no_seat_is_free(self) -> None:
        numbers = [self.section(seats=1) for _ in range(3)]
        people = self.campus.people(3)
        for who, number in zip(people, numbers, strict=True):
            self.send(who, f"+{number}")
        self.send(people[0], f"{numbers[0]}?{numbers[1]}")
        self.send(people[1], f"{numbers[1]}?{numbers[2]}")
        self.assertEqual(self.sweep(), 0)
        self.send(people[2], f"{numbers[2]}?{numbers[0]}")
        self.assertEqual(self.sweep(), 3)
        self.assertEqual([self.holders(n) for n in numbers],
                         [[people[2].row], [people[0].row], [people[1].row]])  # fmt: skip
        self.assertEqual(self.states(), ["given"] * 3)
        self.assertIn("in one step", self.campus.value("SELECT body FROM messages LIMIT 1"))
        self.assertEqual(self.campus.disagreements(), [])
        self.assertEqual(self.sweep(), 0)

    def test_a_ring_is_not_taken_where_one_decision_does_not_agree(self) -> None:
        one, other = self.section(seats=1), self.section(seats=1)
        people = self.campus.people(2)
        self.send(people[0], f"+{one}")
        self.send(people[1], f"+{other}")
        self.send(people[0], f"{one}?{other}")
        self.send(people[1], f"{other}?{one}")
        self.campus.run("INSERT INTO holds (student_id, kind, reason, office, contact, stops, "
                        "cleared_by, placed_at) VALUES (%s, 'talk', 'Talk.', 'advising', 'room', "
                        "ARRAY['swap'], 'office', now())", people[0].id)  # fmt: skip
        self.assertEqual(self.sweep(), 0)
        self.assertEqual((self.holders(one), self.states()), ([people[0].row], ["waiting"] * 2))

    def test_registering_elsewhere_gives_the_place_up(self) -> None:
        one, two = self.section(seats=0), self.section(seats=3)
        self.campus.run("UPDATE sections SET course_id = 1")
        self.desk.catalogue._terms.clear()
        (who,) = self.campus.people(1)
        self.send(who, f"?{one}")
        self.assertEqual(self.send(who, f"+{two}"), "a")
        self.assertEqual(self.states(), ["left"])
        self.assertIn("place for section", self.campus.value("SELECT body FROM messages"))

    def test_a_place_for_a_lecture_takes_the_lab_that_was_named(self) -> None:
        lecture, lab, other = self.lecture_with_labs("offer")
        one, two = self.campus.people(2)
        self.assertEqual(self.send(one, f"+{lecture}", f"+{other}"), "aa")
        self.assertEqual(self.send(two, f"+?{lecture}", f"+{lab}"), "ww")
        self.assertEqual(self.campus.value("SELECT names FROM places"), [2])
        elsewhere = self.section(seats=5)
        self.send(one, f"-{lecture}", f"+{elsewhere}")
        self.sweep()
        self.accept(two)
        self.assertEqual((self.holders(lecture), self.holders(lab)), ([two.row], [two.row]))

    def test_else_automatically_any_that_fits(self) -> None:
        lecture, lab, other = self.lecture_with_labs("automatic")
        one, two = self.campus.people(2)
        self.send(one, f"+{lecture}", f"+{other}")
        self.send(two, f"+?{lecture}", f"+{lab}")
        # Meanwhile the lab that was named has gone.
        self.campus.run("UPDATE seat_pools SET seat_limit = 0 WHERE id = 2")
        elsewhere = self.section(seats=5)
        self.send(one, f"-{lecture}", f"+{elsewhere}")
        self.sweep()
        self.assertEqual((self.holders(lecture), self.holders(other)), ([two.row], [two.row]))

    def test_a_seat_beyond_the_limit_frees_none_until_enough_have_gone(self) -> None:
        number = self.section(seats=1)
        people = self.campus.people(3)
        self.send(people[0], f"+{number}")
        self.campus.run("INSERT INTO consent_codes (code, section_id, lifts, given_by, given_at) "
                        "VALUES ('BEYOND23', 1, '{seats}', %s, now())",
                        self.campus.person("instructor").id)  # fmt: skip
        self.assertEqual(self.send(people[1], f"+{number} #BEYOND23"), "a")
        self.send(people[2], f"?{number}")
        self.campus.run("UPDATE terms SET policy = policy || '{\"may_leave_by_dropping\": true}'")
        self.desk.catalogue._terms.clear()
        self.send(people[0], f"-{number}")
        self.sweep()
        self.assertEqual(self.states(), ["waiting"])
        self.send(people[1], f"-{number}")
        self.sweep()
        self.assertEqual(self.states(), ["offered"])

    def test_limits_raised_and_lowered_parts_released_and_sections_cancelled(self) -> None:
        number = self.section(seats=1)
        people = self.campus.people(4)
        self.send(people[0], f"+{number}")
        for who in people[1:]:
            self.send(who, f"?{number}")
        self.campus.run("UPDATE seat_pools SET seat_limit = 3 WHERE id = 1")
        self.sweep()
        self.assertEqual(self.states(), ["offered", "offered", "waiting"])
        # Lowered again nobody is thrown out, and nothing more is offered.
        self.campus.run("UPDATE seat_pools SET seat_limit = 1 WHERE id = 1")
        self.sweep()
        self.assertEqual(self.states(), ["offered", "offered", "waiting"])
        self.campus.run("UPDATE sections SET cancelled = true WHERE id = 1")
        self.desk.catalogue._terms.clear()
        self.sweep()
        self.assertEqual(self.states(), ["closed"] * 3)

    def test_seats_kept_for_a_group_go_to_the_first_of_it_and_to_all_when_released(self) -> None:
        number = self.section(seats=1)
        one, two, three = self.campus.people(3)
        self.campus.run("UPDATE students SET cohort = 'new' WHERE id = %s", three.id)
        self.send(one, f"+{number}")
        self.send(two, f"?{number}")
        self.send(three, f"?{number}")
        release = self.clock.time.date() + timedelta(3)
        self.campus.run("INSERT INTO seat_reservations (pool_id, group_kind, group_value, seats, "
                        "release_on) VALUES (1, 'cohort', 'new', 2, %s)", release)  # fmt: skip
        self.campus.run("UPDATE seat_pools SET seat_limit = 3 WHERE id = 1")
        self.sweep()
        self.assertEqual(self.states(), ["waiting", "offered"])
        self.sweep(days=4)
        self.assertEqual(self.states()[0], "offered")

    def test_a_place_moved_by_an_office_goes_first_and_the_reason_is_kept(self) -> None:
        number = self.section(seats=1)
        one, two, three = self.campus.people(3)
        self.send(one, f"+{number}")
        self.send(two, f"?{number}")
        self.send(three, f"?{number}")
        maud = Actor(self.campus.person("registrar").id, "Maud Pellow", "registrar")
        move_place(self.desk, 2, 1, maud, "graduates this term")
        self.campus.run("UPDATE seat_pools SET seat_limit = 2 WHERE id = 1")
        self.sweep()
        self.assertEqual(self.states(), ["waiting", "offered"])
        self.assertEqual(self.campus.value("SELECT cause FROM place_events WHERE what = 'moved'"),
                         "Maud Pellow: graduates this term")  # fmt: skip

    def test_at_the_cut_off_the_waitlist_closes_and_seats_are_open_to_all(self) -> None:
        number = self.section(seats=1)
        one, two, three = self.campus.people(3)
        other = self.section(seats=5)
        self.send(one, f"+{number}")
        self.send(two, f"?{number}")
        self.campus.run("UPDATE windows SET closes_at = now() + interval '200 days'")
        term = self.desk.term(TERM)
        block = term.by_number[number].block
        self.clock.time = closes_at(block, term.calendar, term.policy)
        self.sweep()
        self.assertEqual(self.states(), ["closed"])
        self.send(one, f"-{number}", f"+{other}")
        self.assertEqual(self.send(three, f"+{number}"), "a")


class Lines(OnWaitlists):
    """However long a line, and whatever has happened to those in it."""

    def line(self, number: str, many: int) -> list[Somebody]:
        people = self.campus.people(many)
        for who in people:
            self.assertEqual(self.send(who, f"?{number}"), "w")
        return people

    def full(self, way: str = "offer", limit: int = 60) -> tuple[str, Somebody]:
        number = self.section(seats=1, way=way)
        self.campus.run("UPDATE sections SET waitlist_limit = %s", limit)
        self.campus.run("UPDATE terms SET policy = policy || '{\"may_leave_by_dropping\": true}'")
        self.desk.catalogue._terms.clear()
        (holder,) = self.campus.people(1)
        self.send(holder, f"+{number}")
        return number, holder

    def decisions(self) -> mock._patch[mock.Mock]:
        return mock.patch.object(seat_giving, "serve", wraps=seat_giving.serve)

    def test_fifty_who_may_not_do_not_keep_the_seat_from_the_next(self) -> None:
        number, holder = self.full("automatic")
        stopped = self.line(number, 50)
        (last,) = self.line(number, 1)
        for who in stopped:
            self.campus.fee_hold(who)
        self.send(holder, f"-{number}")
        self.sweep()
        self.assertEqual(self.holders(number), [last.row])
        self.assertEqual(self.states(), ["waiting"] * 50 + ["given"])
        self.assertEqual(self.campus.value("SELECT count(*) FROM messages WHERE title LIKE 'Passed over%%'"), 50)

    def test_blocked_heads_cost_a_sweep_nothing_until_something_changes_for_them(self) -> None:
        number, holder = self.full("automatic")
        people = self.line(number, 14)
        holds = [self.campus.fee_hold(who) for who in people]
        self.send(holder, f"-{number}")
        self.sweep()
        self.assertEqual(self.campus.value("SELECT count(*) FROM freed_pools"), 0)
        with self.decisions() as decided:
            for _ in range(3):
                self.assertEqual(self.sweep(), 0)
            # Another seat comes: they are stopped all the same, and none is looked at.
            self.campus.run("UPDATE seat_pools SET seat_limit = 2 WHERE id = 1")
            self.sweep()
            self.assertEqual(decided.call_count, 0)
            self.campus.run("UPDATE holds SET lifted_at = now() WHERE id = %s", holds[9])
            self.assertEqual(self.sweep(), 1)
            self.assertEqual(decided.call_count, 1)
        self.assertEqual(self.holders(number), [people[9].row])
        self.assertEqual(self.campus.value("SELECT position_of.n FROM (SELECT id, row_number() OVER "
                         "(ORDER BY id) AS n FROM places WHERE state = 'waiting') position_of "
                         "WHERE id = 14"), 13)  # fmt: skip

    def test_a_hold_lifted_while_its_student_is_looked_at_is_not_missed(self) -> None:
        number, holder = self.full("automatic")
        (who,) = self.line(number, 1)
        hold = self.campus.fee_hold(who)
        self.send(holder, f"-{number}")
        lifter = threading.Thread(target=self.lift, args=(hold,))
        serve = seat_giving.serve

        def meanwhile(*args: Any, **options: Any) -> Any:
            decision = serve(*args, **options)
            if lifter.ident is None:
                lifter.start()
                time.sleep(0.3)
            return decision

        with mock.patch.object(seat_giving, "serve", meanwhile):
            self.sweep()
        lifter.join(timeout=10)
        self.sweep()
        self.assertEqual(self.holders(number), [who.row])

    def lift(self, hold: int) -> None:
        other = connect(self.campus.url)
        with connected(other):
            run(other, "UPDATE holds SET lifted_at = now() WHERE id = %s", (hold,))
        other.close_all()

    def test_kept_seats_pass_a_long_line_by_and_say_why(self) -> None:
        number, holder = self.full()
        others = self.line(number, 20)
        (mine,) = self.line(number, 1)
        self.campus.run("UPDATE students SET cohort = 'new' WHERE id = %s", mine.id)
        self.campus.run("INSERT INTO seat_reservations (pool_id, group_kind, group_value, seats) "
                        "VALUES (1, 'cohort', 'new', 1)")  # fmt: skip
        self.campus.run("UPDATE seat_pools SET seat_limit = 2 WHERE id = 1")
        self.sweep()
        self.assertEqual(self.states(), ["waiting"] * 20 + ["offered"])
        self.assertIn("kept for the cohort", self.campus.value(
            "SELECT body FROM messages WHERE student_term_id = %s", others[0].row))  # fmt: skip
        # An open seat comes: then it is the first one's turn, who had been passed over.
        self.send(holder, f"-{number}")
        self.sweep()
        self.assertEqual(self.states()[:2], ["offered", "waiting"])

    def test_a_released_part_is_open_to_whoever_was_passed_over(self) -> None:
        number, _ = self.full()
        self.line(number, 15)
        release = self.clock.time.date() + timedelta(3)
        self.campus.run("INSERT INTO seat_reservations (pool_id, group_kind, group_value, seats, release_on) "
                        "VALUES (1, 'cohort', 'new', 2, %s)", release)  # fmt: skip
        self.campus.run("UPDATE seat_pools SET seat_limit = 3 WHERE id = 1")
        self.sweep()
        self.assertEqual(self.states(), ["waiting"] * 15)
        self.sweep(days=4)
        self.assertEqual(self.states(), ["offered"] * 2 + ["waiting"] * 13)

    def test_after_the_clock_has_gone_back_nobody_overtakes(self) -> None:
        number, holder = self.full()
        self.line(number, 2)
        self.clock.time -= timedelta(hours=3)
        self.line(number, 1)
        self.send(holder, f"-{number}")
        self.sweep()
        self.assertEqual(self.states(), ["offered", "waiting", "waiting"])
        self.assertEqual([p.position for p in self.lines(3)], [2])

    def lines(self, place: int) -> list[PlaceLine]:
        row = int(self.campus.value("SELECT student_term_id FROM places WHERE id = %s", place))
        with connected(self.campus.database) as database:
            return list(read_places(database, row))

    def test_any_number_moved_before_the_same_one_stand_in_the_order_of_moving(self) -> None:
        number, _ = self.full()
        self.line(number, 6)
        maud = Actor(self.campus.person("registrar").id, "Maud Pellow", "registrar")
        for place in (4, 5, 6):
            move_place(self.desk, place, 2, maud, "graduates this term")
        positions = {place: self.lines(place)[0].position for place in range(1, 7)}
        self.assertEqual(positions, {1: 1, 4: 2, 5: 3, 6: 4, 2: 5, 3: 6})
        for _ in range(60):
            move_place(self.desk, 6, 4, maud, "to and fro")
            move_place(self.desk, 5, 4, maud, "to and fro")
        self.assertEqual(len({self.lines(p)[0].position for p in range(1, 7)}), 6)

    def test_a_limit_can_be_lowered_below_what_is_taken_and_offered(self) -> None:
        number, _ = self.full()
        self.campus.run("UPDATE seat_pools SET seat_limit = 3 WHERE id = 1")
        people = self.line(number, 3)
        self.sweep()
        self.assertEqual(self.states(), ["offered", "offered", "waiting"])
        self.campus.run("UPDATE seat_pools SET seat_limit = 0 WHERE id = 1")
        self.sweep()
        self.assertEqual(self.campus.value("SELECT beyond FROM seat_pools WHERE id = 1"), 3)
        # What is promised is kept; what is given back is nobody's.
        self.assertTrue(self.accept(people[0], 1).is_possible)
        decline_offer(self.desk, people[1].id, 2, self.as_student(people[1]))
        self.sweep()
        self.assertEqual(self.states(), ["given", "declined", "waiting"])
        self.assertEqual(self.campus.disagreements(), [])

    def test_accepting_twice_gives_the_first_receipt(self) -> None:
        number, holder = self.full()
        (who,) = self.line(number, 1)
        self.send(holder, f"-{number}")
        self.sweep()
        first = self.accept(who, key="the-very-same")
        again = self.accept(who, key="the-very-same")
        other = self.accept(who, key="another-key")
        self.assertEqual({first.receipt, again.receipt, other.receipt}, {first.receipt})
        self.assertEqual(again.decision, first.decision)
        self.assertEqual(self.campus.value("SELECT count(*) FROM receipts WHERE student_term_id = %s",
                                           who.row), 2)  # fmt: skip

    def test_an_offer_is_looked_at_with_the_code_that_was_given_with_it(self) -> None:
        number, holder = self.full()
        self.campus.run("UPDATE sections SET consent_needed = true")
        self.campus.run("INSERT INTO consent_codes (code, section_id, lifts, given_by, given_at) "
                        "VALUES ('GIVENOUT', 1, '{consent}', %s, now())",
                        self.campus.person("instructor").id)  # fmt: skip
        self.desk.catalogue._terms.clear()
        (who,) = self.campus.people(1)
        self.assertEqual(self.send(who, f"?{number} #GIVENOUT"), "w")
        self.send(holder, f"-{number}")
        self.sweep()
        looked = look_at_offer(self.desk, who.id, 1)
        accepted = self.accept(who)
        self.assertTrue(looked.is_possible)
        self.assertEqual(looked.decision, accepted.decision)
        self.assertEqual(self.campus.value("SELECT count(*) FROM consent_uses"), 1)

    def test_what_is_given_up_for_a_place_is_dropped(self) -> None:
        number, _ = self.full()
        one, two = self.section(seats=5), self.section(seats=5)
        people = self.campus.people(2)
        for who in people:
            self.send(who, f"+{one}", f"+{two}")
            self.assertEqual(self.send(who, f"{one}?{number}"), "w")
        self.send(people[0], f"-{one}")
        term = self.desk.term(TERM)
        leaving = Change(Kind.DROP, one, leaves_places=True)
        put_through(self.desk, [
            Sending(people[1].row, term, Request((leaving,)), "leaves-too", people[1].id, "x")])  # fmt: skip
        self.assertEqual(self.states(), ["waiting", "left"])
        self.assertIsNone(self.campus.value("SELECT gives_up_section_id FROM places WHERE id = 1"))
        self.assertEqual(self.campus.value("SELECT array_agg(what ORDER BY id) FROM place_events "
                                           "WHERE place_id = 1"), ["joined", "loosened"])  # fmt: skip
        self.campus.run("UPDATE seat_pools SET seat_limit = 2 WHERE id = 1")
        self.sweep()
        self.assertTrue(self.accept(people[0]).is_possible)
        self.assertEqual(self.holders(two), sorted(p.row for p in people))

    def lecture_line(self, way: str) -> tuple[str, Somebody]:
        """Somebody waits for a lecture whose labs are all full."""
        lecture, _, other = self.lecture_with_labs(way)
        self.campus.run("UPDATE seat_pools SET seat_limit = 0 WHERE id IN (2, 3)")
        self.campus.run("UPDATE seat_pools SET seat_limit = 0 WHERE id = 1")
        (who,) = self.campus.people(1)
        self.assertEqual(self.send(who, f"?{lecture}"), "w")
        self.campus.run("UPDATE seat_pools SET seat_limit = 1 WHERE id = 1")
        self.sweep()
        return other, who

    def test_an_offer_whose_labs_are_all_full_says_so(self) -> None:
        other, who = self.lecture_line("offer")
        self.assertIn("At the moment every lab that goes with it is full.",
                      self.campus.value("SELECT body FROM messages"))  # fmt: skip
        self.assertEqual(look_at_offer(self.desk, who.id, 1).full, ["lab"])
        self.campus.run("UPDATE seat_pools SET seat_limit = 1 WHERE id = 3")
        self.assertEqual(look_at_offer(self.desk, who.id, 1).full, [])
        self.assertTrue(self.accept(who).is_possible)
        self.assertEqual(self.holders(other), [who.row])

    def test_passed_over_for_full_labs_and_looked_at_when_one_has_a_seat(self) -> None:
        other, who = self.lecture_line("automatic")
        why = self.campus.value("SELECT cause FROM place_events WHERE what = 'passed over'")
        self.assertIn("all 2 are full", why)
        self.sweep()
        self.campus.run("UPDATE seat_pools SET seat_limit = 1 WHERE id = 3")
        self.sweep()
        self.assertEqual(self.holders(other), [who.row])

    def test_a_ring_that_fails_is_not_tried_again_and_holds_nothing_up(self) -> None:
        one, other = self.section(seats=1), self.section(seats=1)
        people = self.campus.people(2)
        self.send(people[0], f"+{one}")
        self.send(people[1], f"+{other}")
        self.send(people[0], f"{one}?{other}")
        self.send(people[1], f"{other}?{one}")
        hold = int(self.campus.value(
            "INSERT INTO holds (student_id, kind, reason, office, contact, stops, cleared_by, placed_at) "
            "VALUES (%s, 'talk', 'Talk.', 'advising', 'room', ARRAY['swap'], 'office', now()) RETURNING id",
            people[0].id))  # fmt: skip
        self.sweep()
        with self.decisions() as decided:
            self.sweep()
            self.assertEqual(decided.call_count, 0)
        self.campus.run("UPDATE holds SET lifted_at = now() WHERE id = %s", hold)
        self.assertEqual(self.sweep(), 2)
        self.assertEqual([self.holders(one), self.holders(other)], [[people[1].row], [people[0].row]])

    def test_one_pool_that_fails_delays_no_other(self) -> None:
        first, holder = self.full()
        second = self.section(seats=1)
        self.line(first, 1)
        other, waiting = self.campus.people(2)
        self.send(other, f"+{second}")
        self.send(waiting, f"?{second}")
        self.send(holder, f"-{first}")
        self.send(other, f"-{second}")
        lock = vacancies.lock_for

        def failing(desk: Any, term: Any, places: Any, more: Any = ()) -> Any:
            if 1 in more:
                raise RuntimeError("something nobody foresaw")
            return lock(desk, term, places, more)

        with mock.patch.object(vacancies, "lock_for", failing), capture_logs() as logs:
            self.sweep()
        self.assertEqual([entry["log_level"] for entry in logs], ["error"])
        self.assertEqual(self.states(), ["waiting", "offered"])
        self.sweep()
        self.assertEqual(self.states(), ["offered", "offered"])
