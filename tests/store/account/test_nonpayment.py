"""The drop for nonpayment: whom it reaches, what it does, that it is made once however often it is begun, and against
payments that come at the same time."""

from __future__ import annotations

import unittest
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any
from unittest import mock

import orjson

from gremba.actions.account import nonpayment as cutting
from gremba.actions.account.due_dates import DueDates, place_holds, warn
from gremba.actions.account.nonpayment import drop_unpaid, due_date
from gremba.actions.account.overdue_holds import lift_if_settled
from gremba.actions.account.statement import join_installments, look_at_account, request_back
from gremba.actions.problem import Problem
from gremba.actions.registration.process_submissions import Confirmation, process_submissions
from gremba.actions.registration.submission import Submission
from gremba.actions.waitlists.freed_seats import fill_freed_seats
from gremba.core.account.ledger import AnticipatedPaymentKind
from gremba.core.account.nonpayment import NonpaymentResult
from gremba.core.messages import MessageKind
from gremba.store.account.ledger import add_anticipated_payment, join_plan, put_seat_note
from gremba.store.account.nonpayment import count_results, list_results, nonpayment_drops_of
from gremba.store.database import connected, fetch_sql
from gremba.store.registration.situations import lock_student_terms
from tests.support.accounts import (
    DUE,
    NOW,
    POLICY,
    REST,
    SECOND,
    at_time,
    demand_payment,
    paid,
    registered,
    seats_of,
)
from tests.support.campus import TERM, Campus, Somebody
from tests.support.servers import new_database

AFTER = DUE + timedelta(minutes=1)


class Killed(BaseException):
    """The process ends here."""


class DroppingForNonpayment(unittest.TestCase):
    def setUp(self) -> None:
        self.campus, self.numbers, self.people = self.make_campus()

    def make_campus(self) -> tuple[Campus, list[str], dict[str, Somebody]]:
        campus = Campus(new_database())
        self.addCleanup(campus.close)
        demand_payment(campus)
        numbers = [campus.section(seats=20, waitlist_limit=5) for _ in range(3)]
        names = ("nothing", "half", "settled", "nearly", "noted", "sponsored", "parts", "late", "none")
        people = dict(zip(names, campus.people(len(names)), strict=True))
        for name, who in people.items():
            if name == "late":
                registered(campus, who, *numbers, when=NOW + timedelta(hours=23))
            elif name != "none":
                registered(campus, who, *numbers)
        for name, cents in (("half", 450_00), ("settled", 675_00), ("nearly", 625_01), ("parts", 450_00)):
            paid(campus, people[name], cents)
        office = campus.person("cashier").id
        with connected(campus.database) as database:
            put_seat_note(database, people["noted"].row, "Her bank is on strike.", office, NOW)
            kind = AnticipatedPaymentKind.SPONSOR
            add_anticipated_payment(database, people["sponsored"].row, kind, "the guild", 10_00, office, NOW)
            join_plan(database, people["parts"].row, "two", NOW, 0)
        return campus, numbers, people

    def nonpayment_drop(self, campus: Campus, when: datetime = AFTER, due: datetime = DUE) -> None:
        context = at_time(campus, when)
        term = context.term(TERM)
        drop_unpaid(context, term, due_date(term, due))

    def results(self, campus: Campus) -> list[tuple[Any, ...]]:
        with connected(campus.database) as database:
            return fetch_sql(
                database,
                "SELECT student_term_id, result, owed_cents, why FROM nonpayment_results ORDER BY student_term_id",
            )

    def heard(self, campus: Campus) -> list[str]:
        """What everybody was told, but for the numbers of confirmations."""
        return sorted(
            f"{row} {m.kind} {sorted((k, v) for k, v in m.facts.items() if k != 'confirmation')}"
            for row, m in campus.told()
        )

    def test_whom_it_reaches_and_what_it_does(self) -> None:
        self.nonpayment_drop(self.campus)
        found = {row: (result, owed) for row, result, owed, _ in self.results(self.campus)}
        self.assertEqual(
            {name: found.get(who.row) for name, who in self.people.items()},
            {
                "nothing": ("seats lost", 675_00),
                "half": ("seats lost", 225_00),
                "settled": ("settled", 0),
                "nearly": ("spared", 49_99),
                "noted": ("spared", 675_00),
                "sponsored": ("spared", 665_00),
                "parts": ("settled", 0),
                "late": ("settled", 0),
                "none": None,
            },
        )
        seats = {name: seats_of(self.campus, who) for name, who in self.people.items()}
        self.assertEqual([name for name, many in seats.items() if not many], ["nothing", "half", "none"])
        self.assertEqual(self.campus.disagreements(), [])
        (told,) = [m for row, m in self.campus.told() if row == self.people["half"].row]
        self.assertIs(told.kind, MessageKind.SEATS_LOST)
        self.assertIn("675.00 was due, 450.00 paid", told.body)
        confirmation = self.campus.value(
            "SELECT r.body -> 'outcomes' -> 0 -> 'findings' -> 0 ->> 'text' FROM confirmations r "
            "JOIN nonpayment_results c ON c.confirmation_id = r.id WHERE c.student_term_id = %s",
            self.people["half"].row,
        )
        self.assertRegex(confirmation, r"^Taken back: it was not paid for by \d+ \w+\.$")

    def test_what_it_did_is_listed_by_name(self) -> None:
        self.nonpayment_drop(self.campus)
        with connected(self.campus.database) as database:
            nonpayment_drop = nonpayment_drops_of(database, 1)[DUE]
            lost = list_results(database, nonpayment_drop.id, [NonpaymentResult.LOST], 0, 10)
            rest = list_results(database, nonpayment_drop.id, list(NonpaymentResult), lost[0].row, 10)
            counts = count_results(database, nonpayment_drop.id)
        names = [self.people[name].username for name in ("nothing", "half")]
        self.assertEqual([line.username for line in lost], names)
        self.assertEqual([line.full_name for line in lost], [name.title() for name in names])
        self.assertTrue(all(line.confirmation for line in lost))
        self.assertEqual(len(rest), 7)
        self.assertEqual(
            counts, {NonpaymentResult.LOST: 2, NonpaymentResult.SPARED: 3, NonpaymentResult.SETTLED: 3}
        )

    def test_a_plan_is_joined_until_its_minute(self) -> None:
        who = self.people["nothing"]
        with self.assertRaises(Problem):
            join_installments(at_time(self.campus, DUE), who.id, TERM, "two")
        join_installments(at_time(self.campus, DUE - timedelta(seconds=1)), who.id, TERM, "two")
        self.assertEqual(look_at_account(at_time(self.campus, NOW), who.id, TERM).dues[0].own_cents, 450_00)

    def test_the_first_warning_comes_with_the_minute_of_its_day(self) -> None:
        dates = DueDates(at_time(self.campus, DUE - timedelta(7, seconds=1)))
        clock: Any = dates._context.clock
        terms = [dates._context.term(TERM)]
        dates.work(terms)
        self.assertEqual(self.campus.told(), [])
        clock.time = DUE - timedelta(7)
        dates.work(terms)
        self.assertEqual(len(self.campus.told()), 2)

    def test_a_part_that_is_missed_is_found_by_the_sweep(self) -> None:
        policy = replace(POLICY, due_dates=())
        demand_payment(self.campus, policy)
        dates = DueDates(at_time(self.campus, REST - timedelta(seconds=1)))
        clock: Any = dates._context.clock
        holds = "SELECT count(*) FROM holds WHERE kind = 'overdue'"
        terms = [dates._context.term(TERM)]
        dates.work(terms)
        self.assertEqual(self.campus.value(holds), 0)
        clock.time = REST
        dates.work(terms)
        self.assertEqual(self.campus.value(holds), 1)

    def test_not_before_its_time_and_once(self) -> None:
        with self.assertRaises(Problem):
            self.nonpayment_drop(self.campus, DUE - timedelta(seconds=1))
        self.nonpayment_drop(self.campus)
        before = self.results(self.campus)
        # Registered again meanwhile, and the clock was set back and forth: that date is over.
        registered(self.campus, self.people["nothing"], self.numbers[0], when=NOW)
        registered(self.campus, self.people["none"], self.numbers[0], when=NOW)
        self.nonpayment_drop(self.campus)
        self.nonpayment_drop(self.campus, AFTER + timedelta(1))
        self.assertEqual(self.results(self.campus), before)
        self.assertEqual(seats_of(self.campus, self.people["none"]), 1)
        self.assertEqual(seats_of(self.campus, self.people["nothing"]), 1)

    def test_three_that_were_killed_end_as_one_that_was_not(self) -> None:
        self.nonpayment_drop(self.campus)
        whole = self.results(self.campus), self.heard(self.campus)
        # Before a student is looked at, after what is dropped is written, after all of it is.
        points: list[tuple[str, Callable[..., Any]]] = [
            (name, getattr(cutting, name)) for name in ("ask_judged", "write", "write_result")
        ]
        for name, real in points:
            campus, _, people = self.make_campus()
            for survives in (0, 1):
                calls = iter(range(100))

                def dies(*args: Any, real: Any = real, calls: Any = calls, most: int = survives) -> Any:
                    if next(calls) >= most:
                        raise Killed
                    return real(*args)

                with mock.patch.object(cutting, name, dies), self.assertRaises(Killed):
                    self.nonpayment_drop(campus)
                campus.run("UPDATE nonpayment_drops SET worked_until = now() - interval '1 second'")
            self.nonpayment_drop(campus)
            with self.subTest(name):
                self.assertEqual(self.results(campus), whole[0])
                self.assertEqual(self.heard(campus), whole[1])
                self.assertEqual(campus.disagreements(), [])
                self.assertEqual(seats_of(campus, people["nothing"]), 0)

    def test_one_process_at_a_time(self) -> None:
        context = at_time(self.campus, AFTER)
        term = context.term(TERM)
        due = due_date(term, DUE)
        with mock.patch.object(cutting, "_judge", side_effect=Killed), self.assertRaises(Killed):
            drop_unpaid(context, term, due)
        # Another has it, so far as anybody knows: nothing is done, and it is not called done.
        self.assertIsNone(drop_unpaid(context, term, due).done_at)
        self.assertEqual(self.results(self.campus), [])

    def test_freed_seats_go_to_those_who_wait(self) -> None:
        self.campus.run("UPDATE seat_pools SET seat_limit = 8 WHERE id = 1")
        self.campus.run("UPDATE sections SET waitlist_way = 'automatic'")
        waits = self.campus.person()
        self.campus.run(
            "INSERT INTO waitlist_entries (student_term_id, term_id, section_id, pool_id, state, joined_at) "
            "VALUES (%s, 1, 1, 1, 'waiting', %s)",
            waits.row,
            NOW,
        )
        self.nonpayment_drop(self.campus)
        fill_freed_seats(at_time(self.campus, AFTER))
        self.assertEqual(seats_of(self.campus, waits), 1)
        self.assertEqual(self.campus.disagreements(), [])

    def test_payments_that_come_at_the_same_time(self) -> None:
        campus = self.campus
        people = campus.people(24)
        campus.run("UPDATE seat_pools SET seat_limit = 100")
        for who in people:
            registered(campus, who, self.numbers[0])

        def pays(who: Somebody) -> None:
            with connected(campus.database) as database, database.atomic():
                lock_student_terms(database, [who.row])
                paid(campus, who, 225_00)

        with ThreadPoolExecutor(4) as threads:
            making = threads.submit(self.nonpayment_drop, campus)
            list(threads.map(pays, people[::-1]))
            making.result()
        found = {row: result for row, result, _, _ in self.results(campus)}
        for who in people:
            # Whoever kept the seat has paid in time; whoever lost it has the money on the account.
            self.assertEqual(found[who.row] == "settled", seats_of(campus, who) == 1)
            self.assertIn(found[who.row], ("settled", "seats lost"))
        self.assertEqual(campus.disagreements(), [])

    def test_warned_once_for_each_of_the_days_and_only_who_would_lose_seats(self) -> None:
        context = at_time(self.campus, NOW)
        term = context.term(TERM)
        due = due_date(term, DUE)
        self.assertEqual([warn(context, term, due, 3), warn(context, term, due, 3)], [2, 0])
        self.assertEqual(warn(context, term, due, 1), 2)
        told = [(row, m.kind) for row, m in self.campus.told()]
        kind = MessageKind.DUE_SOON
        rows = [self.people["nothing"].row, self.people["half"].row]
        self.assertEqual(sorted(told), sorted([(row, kind) for row in rows * 2]))

    def test_the_sweep_follows_the_clock(self) -> None:
        dates = DueDates(at_time(self.campus, NOW))
        clock: Any = dates._context.clock
        terms = [dates._context.term(TERM)]
        dates.work(terms)
        warned = len(self.campus.told())
        self.assertEqual(warned, 2)
        clock.time = AFTER
        dates.work(terms)
        with connected(self.campus.database) as database:
            self.assertIsNotNone(nonpayment_drops_of(database, 1)[DUE].done_at)
        # Back and forth again: nothing is told or taken twice.
        many = len(self.campus.told())
        for when in (NOW, AFTER, NOW, AFTER):
            clock.time = when
            dates.forget()
            dates.work(terms)
        told = [m.kind for _, m in self.campus.told()]
        # Of those left who owe for the second date, "late" is warned of it; nobody twice.
        self.assertEqual(told[many:], [])
        clock.time = REST + timedelta(1)
        dates.forget()
        dates.work(terms)
        held = "SELECT count(DISTINCT student_id) FROM holds WHERE kind = 'overdue' AND lifted_at IS NULL"
        self.assertGreater(self.campus.value(held), 0)

    def test_what_is_missed_without_seats_being_lost_brings_a_hold_until_it_is_paid(self) -> None:
        who = self.people["parts"]
        context = at_time(self.campus, REST + timedelta(1))
        term = context.term(TERM)
        self.assertEqual(place_holds(context, term, only_plans=True), 1)
        self.assertEqual(place_holds(context, term, only_plans=True), 0)
        holds = "SELECT count(*) FROM holds WHERE student_id = %s AND lifted_at IS NULL"
        self.assertEqual(self.campus.value(holds, who.id), 1)
        for cents, left in ((449_99, 1), (1, 0)):
            paid(self.campus, who, cents)
            with connected(self.campus.database) as database, database.atomic():
                lock_student_terms(database, [who.row])
                lift_if_settled(context, term, who.row, who.id, context.clock.now())
            self.assertEqual(self.campus.value(holds, who.id), left)

    def test_seats_are_asked_back_once_enough_is_paid_and_in_time(self) -> None:
        self.nonpayment_drop(self.campus)
        who = self.people["half"]
        context = at_time(self.campus, AFTER)
        offered = look_at_account(context, who.id, TERM).asking_back
        assert offered is not None
        self.assertEqual((len(offered.sections), offered.pay_first_cents), (3, 225_00))
        with self.assertRaises(Problem):
            request_back(context, who.id, TERM, "asked-back")
        paid(self.campus, who, 225_00)
        with self.assertRaises(Problem):
            request_back(at_time(self.campus, SECOND), who.id, TERM, "asked-back")
        back = request_back(context, who.id, TERM, "asked-back")
        (answer,) = process_submissions(
            context, [Submission(back.row, context.term(TERM), back.request, back.key, who.id, "One")]
        )
        assert isinstance(answer, Confirmation)
        # From another tab, or again after a lost answer, it is the first confirmation.
        before = request_back(context, who.id, TERM, "asked-back").before
        assert before is not None
        self.assertEqual((before.id, before.repeated), (answer.id, True))
        self.assertEqual(orjson.loads(before.body), orjson.loads(answer.body))
        self.assertEqual(seats_of(self.campus, who), 3)
        self.assertIsNone(look_at_account(context, who.id, TERM).asking_back)
        with self.assertRaises(Problem):
            request_back(context, self.people["settled"].id, TERM, "asked-back")
