"""Waitlists in a real database: offers, automatic places, swaps, chains, trades, the sweep."""

from __future__ import annotations

from datetime import timedelta
from unittest import mock

from gremba.actions.actor import Actor
from gremba.actions.problem import Problem
from gremba.actions.waitlists import trades as trades
from gremba.actions.waitlists.offers import (
    decline_offer,
    look_at_offer,
    move_entry,
)
from gremba.core.messages import MessageKind
from gremba.core.waitlists.deadlines import closes_at
from tests.support.campus import TERM, Somebody
from tests.support.waitlists import OnWaitlists


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

    def test_in_a_term_that_was_closed_no_seat_is_given_until_it_is_open_again(self) -> None:
        number = self.section(seats=1)
        one, two = self.campus.people(2)
        other = self.section(seats=5)
        self.send(one, f"+{number}")
        self.send(two, f"?{number}")
        self.send(one, f"-{number}", f"+{other}")
        self.campus.run("UPDATE terms SET state = 'closed' WHERE code = %s", TERM)
        self.context.catalogue.reload(TERM)
        self.assertEqual(self.sweep(), 0)
        self.assertEqual(self.states(), ["waiting"])
        self.assertEqual(self.campus.told(), [])
        self.campus.run("UPDATE terms SET state = 'open' WHERE code = %s", TERM)
        self.context.catalogue.reload(TERM)
        self.sweep()
        self.assertEqual(self.states(), ["offered"])

    def test_declined_and_lapsed_offers_go_on_at_once(self) -> None:
        number = self.section(seats=1)
        one, two, three, four = self.campus.people(4)
        other = self.section(seats=5)
        self.send(one, f"+{number}")
        for who in (two, three, four):
            self.send(who, f"?{number}")
        self.send(one, f"-{number}", f"+{other}")
        self.sweep()
        decline_offer(self.context, two.id, 1, self.as_student(two))
        self.sweep()
        self.assertEqual(self.states(), ["declined", "offered", "waiting"])
        # In the second of the deadline the offer still stands; a second later it has lapsed.
        until = self.campus.value("SELECT offer_until FROM waitlist_entries WHERE id = 2")
        self.clock.time = until
        self.assertEqual(self.sweep(), 0)
        self.assertTrue(look_at_offer(self.context, three.id, 2).is_possible)
        self.sweep(seconds=1)
        self.assertEqual(self.states(), ["declined", "lapsed", "offered"])
        with self.assertRaises(Problem):
            self.accept(three, 2)
        # Who let it lapse may join again, at the end.
        self.assertEqual(self.send(three, f"?{number}"), "w")
        self.assertEqual(self.states(), ["declined", "lapsed", "offered", "waiting"])
        self.assertEqual([m.kind for _, m in self.campus.told()].count(MessageKind.OFFERED), 3)
        self.assertEqual(
            self.campus.value(
                "SELECT array_agg(entry_id || what ORDER BY entry_id, id) FROM waitlist_events"
            ),
            [
                "1joined",
                "1offered",
                "1declined",
                "2joined",
                "2offered",
                "2lapsed",
                "3joined",
                "3offered",
                "4joined",
            ],
        )

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
        # A seat is free all the while, and they are the next.
        self.campus.run("UPDATE seat_pools SET seat_limit = 2 WHERE id = 1")
        for _ in range(3):
            self.sweep()
        self.assertEqual(
            self.campus.value("SELECT count(*) FROM waitlist_events WHERE what = 'passed over'"), 1
        )
        self.campus.run("UPDATE holds SET lifted_at = now() WHERE id = %s", hold)
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
        for entry in range(1, 5):
            self.assertEqual(self.send(people[entry], f"{numbers[entry]}?{numbers[entry - 1]}"), "w")
        self.assertEqual(self.holders(numbers[4]), [people[4].row])
        last = self.section(seats=3)
        self.send(people[0], f"-{numbers[0]}", f"+{last}")
        for _ in range(5):
            self.sweep()
        self.assertEqual([self.holders(n) for n in numbers], [[p.row] for p in people[1:]] + [[]])
        self.assertEqual(self.campus.disagreements(), [])

    def test_a_trade_is_served_in_one_step_though_no_seat_is_free(self) -> None:
        numbers = [self.section(seats=1) for _ in range(3)]
        people = self.campus.people(3)
        for who, number in zip(people, numbers, strict=True):
            self.send(who, f"+{number}")
        self.send(people[0], f"{numbers[0]}?{numbers[1]}")
        self.send(people[1], f"{numbers[1]}?{numbers[2]}")
        self.assertEqual(self.sweep(), 0)
        self.send(people[2], f"{numbers[2]}?{numbers[0]}")
        self.assertEqual(self.sweep(), 3)
        self.assertEqual(
            [self.holders(n) for n in numbers], [[people[2].row], [people[0].row], [people[1].row]]
        )
        self.assertEqual(self.states(), ["given"] * 3)
        self.assertIn("in one step", self.campus.told()[0][1].body)
        self.assertEqual(self.campus.disagreements(), [])
        self.assertEqual(self.sweep(), 0)

    def test_a_trade_is_not_taken_where_one_decision_does_not_agree(self) -> None:
        one, other = self.section(seats=1), self.section(seats=1)
        people = self.campus.people(2)
        self.send(people[0], f"+{one}")
        self.send(people[1], f"+{other}")
        self.send(people[0], f"{one}?{other}")
        self.send(people[1], f"{other}?{one}")
        self.campus.fee_hold(people[0])
        self.assertEqual(self.sweep(), 0)
        self.assertEqual((self.holders(one), self.states()), ([people[0].row], ["waiting"] * 2))

    def test_registering_elsewhere_gives_the_place_up(self) -> None:
        one, two = self.section(seats=0), self.section(seats=3)
        self.campus.run("UPDATE sections SET course_id = 1")
        self.context.catalogue._terms.clear()
        (who,) = self.campus.people(1)
        self.send(who, f"?{one}")
        self.assertEqual(self.send(who, f"+{two}"), "a")
        self.assertEqual(self.states(), ["left"])
        self.assertIn("place for section", self.campus.told()[0][1].body)

    def test_a_place_for_a_lecture_takes_the_lab_that_was_named(self) -> None:
        lecture, lab, other = self.lecture_with_labs("offer")
        one, two = self.campus.people(2)
        self.assertEqual(self.send(one, f"+{lecture}", f"+{other}"), "aa")
        self.assertEqual(self.send(two, f"+?{lecture}", f"+{lab}"), "ww")
        self.assertEqual(self.campus.value("SELECT chosen_linked_sections FROM waitlist_entries"), [2])
        elsewhere = self.section(seats=5)
        self.send(one, f"-{lecture}", f"+{elsewhere}")
        self.sweep()
        self.accept(two)
        self.assertEqual((self.holders(lecture), self.holders(lab)), ([two.row], [two.row]))
        self.assertEqual(self.told_registered(), [], "whoever accepts knows it")

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
        ((student, body),) = self.told_registered()
        self.assertEqual(student, str(two.row))
        self.assertIn(f" {lecture}, ", body)
        self.assertNotIn("given up", body)

    def test_waiting_by_swap_exchanges_the_lab_with_its_lecture(self) -> None:
        """Each lecture has a lab of its own, so one cannot be had with the other's."""
        lecture, lab, own, had, one, two = self.two_lectures_with_a_lab_each()
        self.assertEqual(self.send(two, f"{had}?{lecture}"), "w")
        elsewhere = self.section(seats=5)
        self.assertEqual(self.send(one, f"-{lecture}", f"-{lab}", f"+{elsewhere}"), "aaa")
        self.sweep()
        self.assertEqual([self.holders(n) for n in (lecture, lab, had, own)], [[two.row], [two.row], [], []])
        self.assertIn(" was given up for it.", self.told_registered()[0][1])
        self.assertEqual(self.campus.disagreements(), [])

    def two_lectures_with_a_lab_each(self) -> tuple[str, str, str, str, Somebody, Somebody]:
        """All full, and each pair held by a student."""
        lecture, lab, own, had = (self.section(seats=1, way="automatic") for _ in range(4))
        self.campus.run("UPDATE sections SET course_id = 1")
        self.campus.run("UPDATE sections SET component = 'lab', carries_credit = false WHERE id IN (2, 3)")
        self.campus.run("INSERT INTO linked_sections VALUES (1, 2), (2, 1), (4, 3), (3, 4)")
        self.context.catalogue._terms.clear()
        one, two = self.campus.people(2)
        self.assertEqual(self.send(one, f"+{lecture}", f"+{lab}"), "aa")
        self.assertEqual(self.send(two, f"+{had}", f"+{own}"), "aa")
        return lecture, lab, own, had, one, two

    def test_a_trade_exchanges_full_labs_with_their_lectures(self) -> None:
        lecture, lab, own, had, one, two = self.two_lectures_with_a_lab_each()
        self.assertEqual(self.send(two, f"{had}?{lecture}"), "w")
        self.assertEqual(self.send(one, f"{lecture}?{had}"), "w")
        self.assertEqual(self.sweep(), 2)
        self.assertEqual(
            [self.holders(n) for n in (lecture, lab, had, own)], [[two.row], [two.row], [one.row], [one.row]]
        )
        self.assertEqual(self.campus.disagreements(), [])

    def test_a_trade_counts_on_no_lab_that_is_kept(self) -> None:
        """The lab of one goes with both lectures, so it is not given up, and the other's is full."""
        lecture, lab, _own, had, one, two = self.two_lectures_with_a_lab_each()
        self.campus.run("INSERT INTO linked_sections VALUES (4, 2), (2, 4)")
        self.context.catalogue._terms.clear()
        self.send(two, f"{had}?{lecture}")
        self.send(one, f"{lecture}?{had}")
        # Even if it is believed to be given up at first.
        believed = mock.patch.object(
            trades, "exchanged_with", lambda s, _, g: [h for h in s.held if h.section is not g]
        )
        with believed:
            self.assertEqual(self.sweep(), 0)
        self.assertEqual((self.holders(lecture), self.holders(lab)), ([one.row], [one.row]))
        self.assertEqual(self.states(), ["waiting"] * 2)
        self.assertEqual(
            self.campus.value("SELECT array_agg(entry_id) FROM waitlist_events WHERE what = 'passed over'"),
            [1],
        )

    def told_registered(self) -> list[list[str]]:
        return [
            [str(row), m.body] for row, m in self.campus.told() if m.title.startswith("You are registered")
        ]

    def test_a_seat_beyond_the_limit_frees_none_until_enough_have_gone(self) -> None:
        number = self.section(seats=1)
        people = self.campus.people(3)
        self.send(people[0], f"+{number}")
        self.campus.run(
            "INSERT INTO permission_codes (code, section_id, waives, given_by, given_at) "
            "VALUES ('BEYOND23', 1, '{seats}', %s, now())",
            self.campus.person("instructor").id,
        )
        self.assertEqual(self.send(people[1], f"+{number} #BEYOND23"), "a")
        self.send(people[2], f"?{number}")
        self.campus.run("UPDATE terms SET policy = policy || '{\"may_leave_by_dropping\": true}'")
        self.context.catalogue._terms.clear()
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
        self.context.catalogue._terms.clear()
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
        self.campus.run(
            "INSERT INTO reserved_seats (pool_id, group_kind, group_value, seats, "
            "release_on) VALUES (1, 'cohort', 'new', 2, %s)",
            release,
        )
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
        move_entry(self.context, 2, 1, maud, "graduates this term")
        self.campus.run("UPDATE seat_pools SET seat_limit = 2 WHERE id = 1")
        self.sweep()
        self.assertEqual(self.states(), ["waiting", "offered"])
        self.assertEqual(
            self.campus.value("SELECT cause FROM waitlist_events WHERE what = 'moved'"),
            "Maud Pellow: graduates this term",
        )

    def test_at_the_cut_off_the_waitlist_closes_and_seats_are_open_to_all(self) -> None:
        number = self.section(seats=1)
        one, two, three = self.campus.people(3)
        other = self.section(seats=5)
        self.send(one, f"+{number}")
        self.send(two, f"?{number}")
        self.campus.run("UPDATE windows SET closes_at = now() + interval '200 days'")
        term = self.context.term(TERM)
        session = term.by_number[number].session
        self.clock.time = closes_at(session, term.calendar, term.policy)
        self.sweep()
        self.assertEqual(self.states(), ["closed"])
        self.send(one, f"-{number}", f"+{other}")
        self.assertEqual(self.send(three, f"+{number}"), "a")
