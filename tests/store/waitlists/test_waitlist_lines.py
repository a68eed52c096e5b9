"""However long a line, whoever is stopped in it, and whatever happens meanwhile."""

from __future__ import annotations

import threading
import time
from datetime import timedelta
from typing import Any
from unittest import mock

from structlog.testing import capture_logs

from gremba.actions.actor import Actor
from gremba.actions.registration.process_submissions import process_submissions
from gremba.actions.registration.submission import Submission
from gremba.actions.waitlists import freed_seats, seat_giving
from gremba.actions.waitlists.offers import (
    decline_offer,
    look_at_offer,
    move_entry,
)
from gremba.core.messages import MessageKind
from gremba.core.registration.changes import Change, Kind, Request
from gremba.store.database import connect, connected, run_sql
from gremba.store.waitlists.lines import EntryLine, read_entries
from tests.support.campus import TERM, Somebody
from tests.support.waitlists import OnWaitlists


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
        self.context.catalogue._terms.clear()
        (holder,) = self.campus.people(1)
        self.send(holder, f"+{number}")
        return number, holder

    def decisions(self) -> mock._patch[mock.Mock]:
        return mock.patch.object(seat_giving, "promote", wraps=seat_giving.promote)

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
        self.assertEqual([m.kind for _, m in self.campus.told()].count(MessageKind.PASSED_OVER), 50)

    def test_a_long_line_of_those_who_may_not_holds_no_other_up(self) -> None:
        number, holder = self.full("automatic")
        blocked = self.campus.people(30)
        for who in blocked:
            self.send(who, f"?{number}")
            self.campus.fee_hold(who)
        other, other_holder = self.full("automatic")
        (waiting,) = self.campus.people(1)
        self.send(waiting, f"?{other}")
        self.send(holder, f"-{number}")
        self.send(other_holder, f"-{other}")
        with mock.patch.object(freed_seats, "_promote_some", wraps=freed_seats._promote_some) as steps:
            self.sweep()
        turns = [call.args[1] for call in steps.call_args_list]
        # The first has thirty to look through, twelve at a time; the second is served after one step of it.
        self.assertEqual(turns[:2], [1, 2])
        self.assertGreater(turns.count(1), 2)
        self.assertEqual(self.holders(other), [waiting.row])

    def test_one_go_has_an_end_and_the_next_takes_up_what_is_left(self) -> None:
        number, holder = self.full("automatic")
        people = self.campus.people(20)
        for who in people:
            self.send(who, f"?{number}")
        for who in people[:-1]:
            self.campus.fee_hold(who)
        self.send(holder, f"-{number}")
        with mock.patch.object(freed_seats, "MOST_ROUNDS", 1):
            self.sweep()
            self.assertEqual(self.holders(number), [])
            self.sweep()
        self.assertEqual(self.holders(number), [people[-1].row])

    def test_blocked_heads_cost_a_sweep_nothing_until_something_changes_for_them(self) -> None:
        number, holder = self.full("automatic")
        people = self.line(number, 14)
        holds = [self.campus.fee_hold(who) for who in people]
        self.send(holder, f"-{number}")
        self.sweep()
        self.assertEqual(self.campus.value("SELECT count(*) FROM freed_seats"), 0)
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
        self.assertEqual(
            self.campus.value(
                "SELECT position_of.n FROM (SELECT id, row_number() OVER "
                "(ORDER BY id) AS n FROM waitlist_entries WHERE state = 'waiting') position_of "
                "WHERE id = 14"
            ),
            13,
        )

    def test_a_hold_lifted_while_its_student_is_looked_at_is_not_missed(self) -> None:
        number, holder = self.full("automatic")
        (who,) = self.line(number, 1)
        hold = self.campus.fee_hold(who)
        self.send(holder, f"-{number}")
        lifter = threading.Thread(target=self.lift, args=(hold,))
        promote = seat_giving.promote

        def meanwhile(*args: Any, **options: Any) -> Any:
            decision = promote(*args, **options)
            if lifter.ident is None:
                lifter.start()
                time.sleep(0.3)
            return decision

        with mock.patch.object(seat_giving, "promote", meanwhile):
            self.sweep()
        lifter.join(timeout=10)
        self.sweep()
        self.assertEqual(self.holders(number), [who.row])

    def lift(self, hold: int) -> None:
        other = connect(self.campus.url)
        with connected(other):
            run_sql(other, "UPDATE holds SET lifted_at = now() WHERE id = %s", (hold,))
        other.close_all()

    def test_kept_seats_pass_a_long_line_by_and_say_why(self) -> None:
        number, holder = self.full()
        others = self.line(number, 20)
        (mine,) = self.line(number, 1)
        self.campus.run("UPDATE students SET cohort = 'new' WHERE id = %s", mine.id)
        self.campus.run(
            "INSERT INTO reserved_seats (pool_id, group_kind, group_value, seats) "
            "VALUES (1, 'cohort', 'new', 1)"
        )
        self.campus.run("UPDATE seat_pools SET seat_limit = 2 WHERE id = 1")
        self.sweep()
        self.assertEqual(self.states(), ["waiting"] * 20 + ["offered"])
        self.assertIn(
            "kept for the cohort",
            next(m.body for row, m in self.campus.told() if row == others[0].row),
        )
        # An open seat comes: then it is the first one's turn, who had been passed over.
        self.send(holder, f"-{number}")
        self.sweep()
        self.assertEqual(self.states()[:2], ["offered", "waiting"])

    def test_a_released_part_is_open_to_whoever_was_passed_over(self) -> None:
        number, _ = self.full()
        self.line(number, 15)
        release = self.clock.time.date() + timedelta(3)
        self.campus.run(
            "INSERT INTO reserved_seats (pool_id, group_kind, group_value, seats, release_on) "
            "VALUES (1, 'cohort', 'new', 2, %s)",
            release,
        )
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

    def lines(self, entry: int) -> list[EntryLine]:
        row = int(self.campus.value("SELECT student_term_id FROM waitlist_entries WHERE id = %s", entry))
        with connected(self.campus.database) as database:
            return list(read_entries(database, row))

    def test_any_number_moved_before_the_same_one_stand_in_the_order_of_moving(self) -> None:
        number, _ = self.full()
        self.line(number, 6)
        maud = Actor(self.campus.person("registrar").id, "Maud Pellow", "registrar")
        for entry in (4, 5, 6):
            move_entry(self.context, entry, 2, maud, "graduates this term")
        positions = {entry: self.lines(entry)[0].position for entry in range(1, 7)}
        self.assertEqual(positions, {1: 1, 4: 2, 5: 3, 6: 4, 2: 5, 3: 6})
        for _ in range(60):
            move_entry(self.context, 6, 4, maud, "to and fro")
            move_entry(self.context, 5, 4, maud, "to and fro")
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
        decline_offer(self.context, people[1].id, 2, self.as_student(people[1]))
        self.sweep()
        self.assertEqual(self.states(), ["given", "declined", "waiting"])
        self.assertEqual(self.campus.disagreements(), [])

    def test_accepting_twice_gives_the_first_confirmation(self) -> None:
        number, holder = self.full()
        (who,) = self.line(number, 1)
        self.send(holder, f"-{number}")
        self.sweep()
        first = self.accept(who, key="the-very-same")
        again = self.accept(who, key="the-very-same")
        other = self.accept(who, key="another-key")
        self.assertEqual({first.confirmation, again.confirmation, other.confirmation}, {first.confirmation})
        self.assertEqual(again.decision, first.decision)
        self.assertEqual(
            self.campus.value("SELECT count(*) FROM confirmations WHERE student_term_id = %s", who.row), 2
        )

    def test_an_offer_is_looked_at_with_the_code_that_was_given_with_it(self) -> None:
        number, holder = self.full()
        self.campus.run("UPDATE sections SET consent_needed = true")
        self.campus.run(
            "INSERT INTO permission_codes (code, section_id, waives, given_by, given_at) "
            "VALUES ('GIVENOUT', 1, '{consent}', %s, now())",
            self.campus.person("instructor").id,
        )
        self.context.catalogue._terms.clear()
        (who,) = self.campus.people(1)
        self.assertEqual(self.send(who, f"?{number} #GIVENOUT"), "w")
        self.send(holder, f"-{number}")
        self.sweep()
        looked = look_at_offer(self.context, who.id, 1)
        accepted = self.accept(who)
        self.assertTrue(looked.is_possible)
        self.assertEqual(looked.decision, accepted.decision)
        self.assertEqual(self.campus.value("SELECT count(*) FROM permission_code_uses"), 1)

    def test_what_is_given_up_for_a_place_is_dropped(self) -> None:
        number, _ = self.full()
        one, two = self.section(seats=5), self.section(seats=5)
        people = self.campus.people(2)
        for who in people:
            self.send(who, f"+{one}", f"+{two}")
            self.assertEqual(self.send(who, f"{one}?{number}"), "w")
        self.send(people[0], f"-{one}")
        term = self.context.term(TERM)
        leaving = Change(Kind.DROP, one, leaves_waitlists=True)
        process_submissions(
            self.context,
            [Submission(people[1].row, term, Request((leaving,)), "leaves-too", people[1].id, "x")],
        )
        self.assertEqual(self.states(), ["waiting", "left"])
        self.assertIsNone(self.campus.value("SELECT in_exchange_id FROM waitlist_entries WHERE id = 1"))
        self.assertEqual(
            self.campus.value("SELECT array_agg(what ORDER BY id) FROM waitlist_events WHERE entry_id = 1"),
            ["joined", "loosened"],
        )
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
        self.assertIn(
            "At the moment every lab that goes with it is full.",
            self.campus.told()[0][1].body,
        )
        self.assertEqual(look_at_offer(self.context, who.id, 1).full, ["lab"])
        self.campus.run("UPDATE seat_pools SET seat_limit = 1 WHERE id = 3")
        self.assertEqual(look_at_offer(self.context, who.id, 1).full, [])
        self.assertTrue(self.accept(who).is_possible)
        self.assertEqual(self.holders(other), [who.row])

    def test_passed_over_for_full_labs_and_looked_at_when_one_has_a_seat(self) -> None:
        other, who = self.lecture_line("automatic")
        why = self.campus.value("SELECT cause FROM waitlist_events WHERE what = 'passed over'")
        self.assertIn("all 2 are full", why)
        self.sweep()
        self.campus.run("UPDATE seat_pools SET seat_limit = 1 WHERE id = 3")
        self.sweep()
        self.assertEqual(self.holders(other), [who.row])

    def test_a_trade_that_fails_is_not_tried_again_and_holds_nothing_up(self) -> None:
        one, other = self.section(seats=1), self.section(seats=1)
        people = self.campus.people(2)
        self.send(people[0], f"+{one}")
        self.send(people[1], f"+{other}")
        self.send(people[0], f"{one}?{other}")
        self.send(people[1], f"{other}?{one}")
        hold = self.campus.fee_hold(people[0])
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
        lock = freed_seats.lock_for

        def failing(context: Any, term: Any, entries: Any, more: Any = ()) -> Any:
            if 1 in more:
                raise RuntimeError("something nobody foresaw")
            return lock(context, term, entries, more)

        with mock.patch.object(freed_seats, "lock_for", failing), capture_logs() as logs:
            self.sweep()
        self.assertEqual([entry["log_level"] for entry in logs], ["error"])
        self.assertEqual(self.states(), ["waiting", "offered"])
        self.sweep()
        self.assertEqual(self.states(), ["offered", "offered"])
