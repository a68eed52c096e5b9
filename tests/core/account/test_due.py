"""What is due when, installments, the drop for nonpayment, and the statement: worked by hand, and the laws of them."""

from __future__ import annotations

import itertools
import random
import unittest
from dataclasses import replace
from datetime import date, datetime, timedelta
from typing import Any

from hypothesis import example, given
from hypothesis import strategies as st

from gremba.core.account.charges import ChargeEvent, ChargeKind
from gremba.core.account.due import (
    Account,
    JoinedPlan,
    due_change,
    dues,
    keeps_from,
    missed,
    next_due,
    parts_of,
)
from gremba.core.account.ledger import (
    AnticipatedPayment,
    AnticipatedPaymentKind,
    CounterAccount,
    EntryKind,
    LedgerEntry,
    anticipated_cents,
    paid_cents,
)
from gremba.core.account.nonpayment import NonpaymentResult, judge_nonpayment
from gremba.core.account.policy import (
    AccountPolicy,
    DueDate,
    InstallmentPart,
    InstallmentPlan,
    account_policy_data,
    account_policy_from_data,
)
from gremba.core.account.statement import LineKind, statement
from gremba.core.account.tariff import (
    FeeRefund,
    FeeScope,
    RateClass,
    Tariff,
    TariffFee,
)
from gremba.core.catalogue.calendar import RefundStep
from gremba.core.catalogue.term import Fee, Section
from gremba.core.states import Delivery
from tests.core.account.test_charges import some_history, some_tariff
from tests.support.examples import examples
from tests.support.tariffs import plain_tariff
from tests.support.world import FULL, World, on

FIRST, SECOND, REST = on(8, 13, 17), on(8, 20, 12), on(10, 1, 17)
PLAN = InstallmentPlan(
    "four",
    "four parts",
    FIRST,
    (
        InstallmentPart(25),
        InstallmentPart(25, on(9, 10, 17)),
        InstallmentPart(25, on(10, 8, 17)),
        InstallmentPart(25, on(11, 5, 17)),
    ),
)
POLICY = AccountPolicy(
    due_dates=(
        DueDate(FIRST, 75, date(2027, 8, 9)),
        DueDate(SECOND, 75, date(2027, 8, 18)),
        DueDate(REST, 100, loses_seats=False),
    ),
    spare_below_cents=50_00,
    spared_kinds=frozenset({AnticipatedPaymentKind.SPONSOR}),
    installments=(PLAN,),
    ask_back_until=SECOND,
)
EARLY, BETWEEN, LATE = date(2027, 4, 19), date(2027, 8, 12), date(2027, 8, 25)


class Worked(unittest.TestCase):
    """Sections of 300.00 each: three credits at 100.00, without other fees."""

    def setUp(self) -> None:
        world = World()
        self.sections = [
            world.section(f"3000{n}", f"LAND {100 + n}", f"{day} 08:00-09:00") for n, day in enumerate("MTWR")
        ]

    def account(self, *registered: date, **more: Any) -> Account:
        events = tuple(
            ChargeEvent(ChargeKind.REGISTERED, section, 3.0, "standard", day)
            for section, day in zip(self.sections, registered, strict=False)
        )
        return Account(plain_tariff(100_00), POLICY, "", events, **more)

    def open_sums(self, account: Account) -> list[int]:
        return [due.open_cents for due in dues(account)]

    def test_a_date_is_about_what_was_registered_in_time_for_it(self) -> None:
        self.assertEqual(self.open_sums(self.account(EARLY, EARLY)), [450_00, 450_00, 600_00])
        between = self.account(EARLY, BETWEEN)
        self.assertEqual(self.open_sums(between), [225_00, 450_00, 600_00])
        self.assertEqual([due.own_cents for due in dues(between)], [225_00, 225_00, 150_00])
        # After the last but one it falls to the last date, and after that it is due at once.
        late = self.account(EARLY, LATE)
        self.assertEqual(self.open_sums(late), [225_00, 225_00, 600_00])
        after = next_due(late, on(10, 2))
        assert after is not None
        self.assertTrue(after.is_over(on(10, 2)))
        self.assertEqual(after.open_cents, 600_00)

    def test_the_last_date_is_about_all_sections_whatever_it_says(self) -> None:
        only = replace(POLICY, due_dates=POLICY.due_dates[:1])
        account = replace(self.account(EARLY, BETWEEN), policy=only)
        found = judge_nonpayment(account, only.due_dates[0])
        self.assertEqual((found.owed_cents, len(found.sections)), (450_00, 2))

    def test_of_several_that_are_late_the_largest_is_told(self) -> None:
        dates = DueDate(FIRST, 100, EARLY), DueDate(SECOND, 40, loses_seats=False)
        account = replace(self.account(EARLY, EARLY), policy=replace(POLICY, due_dates=dates))
        found = next_due(account, on(9, 1))
        assert found is not None
        self.assertEqual((found.at, found.open_cents), (FIRST, 600_00))
        late = missed(account, on(9, 1))
        assert late is not None
        self.assertEqual((late.at, late.open_cents), (SECOND, 240_00))
        self.assertEqual(
            [keeps_from(account, FIRST - timedelta(1)), keeps_from(account, FIRST)], [600_00, None]
        )

    def test_payments_and_anticipated_payments_count_and_half_a_cent_is_rounded_up(self) -> None:
        paid = self.account(EARLY, EARLY, paid_cents=100_00, anticipated_cents=300_00)
        self.assertEqual(self.open_sums(paid), [50_00, 50_00, 200_00])
        strict = replace(paid, policy=replace(POLICY, anticipated_payments_count=False))
        self.assertEqual(self.open_sums(strict), [350_00, 350_00, 500_00])
        # 75 per cent of 0.02 is 0.015.
        cents = replace(self.account(EARLY), tariff=plain_tariff(1), events=())
        cents = replace(
            cents,
            events=(ChargeEvent(ChargeKind.REGISTERED, self.sections[0], 2.0, "standard", EARLY),),
        )
        self.assertEqual(self.open_sums(cents), [2, 2, 2])

    def test_what_is_next_is_what_is_open_first_and_what_is_late_before_it(self) -> None:
        account = self.account(EARLY, EARLY, paid_cents=450_00)
        found = next_due(account, on(4, 20))
        assert found is not None
        self.assertEqual((found.at, found.open_cents, found.loses_seats), (REST, 150_00, False))
        self.assertIsNone(next_due(replace(account, paid_cents=600_00), on(4, 20)))
        late = next_due(self.account(EARLY), on(8, 14))
        assert late is not None
        self.assertEqual((late.at, late.open_cents), (FIRST, 225_00))

    def test_parts_come_to_the_whole(self) -> None:
        for cents in (0, 1, 3, 2_060_01, 99_999):
            parts = parts_of(PLAN, cents, FIRST)
            self.assertEqual(sum(each for _, each in parts), cents)
            self.assertLessEqual(max(each for _, each in parts) - min(each for _, each in parts), 1)
        self.assertEqual([cents for _, cents in parts_of(PLAN, 1_00_02, FIRST)], [25_01, 25_00, 25_01, 25_00])

    def test_in_a_plan_the_parts_take_the_place_of_the_due_dates(self) -> None:
        joined = JoinedPlan("four", on(4, 19), 200_00)
        account = self.account(EARLY, EARLY, anticipated_cents=200_00, joined=joined)
        # 400.00 was open on joining: four parts of 100.00.
        self.assertEqual([due.needed_cents for due in dues(account)], [300_00, 400_00, 500_00, 600_00])
        self.assertEqual([due.own_cents for due in dues(account)], [100_00] * 4)
        self.assertEqual([due.why for due in dues(account)][::3], ["part 1 of 4", "part 4 of 4"])
        self.assertEqual([due.loses_seats for due in dues(account)], [True, False, False, False])
        first_paid = replace(account, paid_cents=100_00)
        self.assertEqual(self.open_sums(first_paid), [0, 100_00, 200_00, 300_00])
        # The first part was due on joining; the seats hang on it until the coming date all the same.
        self.assertEqual([keeps_from(account, on(4, 20)), keeps_from(account, on(12, 1))], [300_00, None])
        # A section more is spread over the parts, and a drop makes them smaller.
        more = self.account(EARLY, EARLY, BETWEEN, anticipated_cents=200_00, joined=joined)
        self.assertEqual([due.own_cents for due in dues(more)], [175_00] * 4)
        less = self.account(EARLY, anticipated_cents=200_00, joined=joined)
        self.assertEqual([due.own_cents for due in dues(less)], [25_00] * 4)

    def test_what_the_cart_changes_of_the_next_date(self) -> None:
        account = self.account(EARLY)
        one_more = ChargeEvent(ChargeKind.REGISTERED, self.sections[1], 3.0, "standard", EARLY)
        change = due_change(account, (*account.events, one_more), on(4, 19))
        assert change is not None
        self.assertEqual((change.at, change.before_cents, change.after_cents), (FIRST, 225_00, 450_00))
        # Nothing open before: the date on which the new section is due.
        settled = replace(account, paid_cents=300_00)
        late = replace(one_more, on=LATE)
        change = due_change(settled, (*settled.events, late), on(8, 25))
        assert change is not None
        self.assertEqual((change.at, change.before_cents, change.after_cents), (REST, 0, 300_00))
        change = due_change(settled, (*settled.events, late), on(10, 2))
        assert change is not None
        self.assertEqual((change.is_over, change.after_cents), (True, 300_00))
        nothing = replace(account, policy=AccountPolicy())
        self.assertIsNone(due_change(nothing, nothing.events, on(4, 19)))

    def judged(self, account: Account) -> tuple[NonpaymentResult, int, int]:
        found = judge_nonpayment(account, POLICY.due_dates[0])
        return found.result, found.owed_cents, len(found.sections)

    def test_whom_the_cut_reaches_and_whom_it_spares(self) -> None:
        lost, spared, settled = NonpaymentResult.LOST, NonpaymentResult.SPARED, NonpaymentResult.SETTLED
        unpaid = self.account(EARLY, EARLY)
        self.assertEqual(self.judged(unpaid), (lost, 450_00, 2))
        self.assertEqual(self.judged(replace(unpaid, paid_cents=400_00)), (lost, 50_00, 2))
        self.assertEqual(self.judged(replace(unpaid, paid_cents=400_01)), (spared, 49_99, 0))
        self.assertEqual(self.judged(replace(unpaid, paid_cents=450_00)), (settled, 0, 0))
        self.assertEqual(self.judged(replace(unpaid, anticipated_cents=450_00)), (settled, 0, 0))
        self.assertEqual(self.judged(replace(unpaid, spared="Her bank is on strike.")), (spared, 450_00, 0))
        sponsor = AnticipatedPayment(1, AnticipatedPaymentKind.SPONSOR, "the guild", 10_00)
        self.assertEqual(self.judged(replace(unpaid, anticipated_payments=(sponsor,))), (spared, 450_00, 0))
        kept = replace(sponsor, paid_cents=10_00)
        self.assertEqual(self.judged(replace(unpaid, anticipated_payments=(kept,))), (lost, 450_00, 2))
        aid = replace(sponsor, kind=AnticipatedPaymentKind.AID)
        self.assertEqual(self.judged(replace(unpaid, anticipated_payments=(aid,))), (lost, 450_00, 2))
        # What was registered later has its own date.
        self.assertEqual(self.judged(self.account(EARLY, BETWEEN)), (lost, 225_00, 1))
        self.assertEqual(self.judged(self.account(BETWEEN)), (settled, 0, 0))
        self.assertEqual(self.judged(self.account()), (settled, 0, 0))

    def test_who_pays_in_parts_keeps_the_seats_as_long_as_the_parts_are_paid(self) -> None:
        joined = JoinedPlan("four", on(4, 19), 0)
        account = self.account(EARLY, EARLY, joined=joined)
        self.assertEqual(self.judged(account)[0], NonpaymentResult.LOST)
        self.assertEqual(self.judged(replace(account, paid_cents=150_00))[0], NonpaymentResult.SETTLED)

    def test_what_a_drop_brings_back_until_when(self) -> None:
        self.assertEqual(FULL.refund_step(date(2027, 8, 1)), RefundStep(date(2027, 8, 27), 100))
        self.assertEqual(FULL.refund_step(date(2027, 8, 28)), RefundStep(date(2027, 9, 3), 50))
        self.assertIsNone(FULL.refund_step(date(2027, 9, 4)))

    def test_a_policy_is_kept_and_read_as_it_is(self) -> None:
        for policy in (POLICY, AccountPolicy()):
            self.assertEqual(account_policy_from_data(account_policy_data(policy)), policy)


class Words(unittest.TestCase):
    """What a statement says of each line."""

    def lines(self, tariff: Tariff, *events: ChargeEvent, **more: Any) -> list[tuple[Any, ...]]:
        account = Account(tariff, POLICY, "", events, **more)
        return [
            (line.what, line.how, line.charged_cents, line.was_cents) for line in statement(account).lines
        ]

    def setUp(self) -> None:
        w = World()
        w.course("PROJ 300", credits_least=2.0, credits_most=12.0, fees=(Fee("clay", 30_00),))
        self.project = w.section("30001", "PROJ 300", "M 08:00-09:00", fees=(Fee("kiln", 5_00),))
        self.lab = w.section("30002", "PROJ 300", "T 08:00-09:00", component="lab", carries_credit=False)
        self.online = w.section("30003", "LAWS 205", delivery=Delivery.ONLINE_ANY_TIME)
        self.half = date(2027, 9, 3)

    def registered(self, section: Section, credits: float, grading: str = "standard") -> ChargeEvent:
        return ChargeEvent(ChargeKind.REGISTERED, section, credits, grading, EARLY)

    def test_how_each_sum_comes_about(self) -> None:
        tariff = Tariff({"": RateClass(100_00, audit_per_credit=10_00)})
        self.assertEqual(
            self.lines(
                tariff,
                self.registered(self.project, 4.0),
                self.registered(self.lab, 0.0),
                self.registered(self.online, 0.0, "audit"),
                ChargeEvent(ChargeKind.ADJUSTED, self.project, 2.0, "standard", self.half),
            ),
            [
                (
                    "PROJ 300",
                    "2 credits at 100.00, clay 30.00, kiln 5.00, 100.00 left by taking fewer credits",
                    335_00,
                    None,
                ),
                ("PROJ 300 lab", "goes with its lecture", 0, None),
                ("LAWS 205", "audit", 30_00, None),
            ],
        )

    def test_what_a_drop_left_and_why(self) -> None:
        tariff = Tariff(
            {"": RateClass(100_00)},
            (
                TariffFee("card", 9_00, FeeScope.DELIVERY, "online any time", True, FeeRefund.NEVER),
                TariffFee("Term fee", 50_00),
            ),
        )
        for day, how, left in (
            (date(2027, 8, 27), "3 credits, 100 per cent given back", 9_00),
            (self.half, "3 credits, 50 per cent given back", 159_00),
            (date(2027, 9, 4), "3 credits, nothing was given back that late", 309_00),
        ):
            dropped = ChargeEvent(ChargeKind.DROPPED, self.online, on=day)
            found = self.lines(tariff, self.registered(self.online, 3.0), dropped)
            self.assertEqual(found[0], ("LAWS 205", how, left, 309_00))
            fee = [("Term fee", "left by what was dropped", 50_00, None)] if left > 9_00 else []
            self.assertEqual(found[1:], fee)
        whole = ChargeEvent(ChargeKind.DROPPED, self.lab, on=date(2027, 8, 27))
        (line,) = self.lines(tariff, self.registered(self.lab, 0.0), whole)
        self.assertEqual(line, ("PROJ 300 lab", "no credits, all of it given back", 0, 0))

    def test_the_price_of_the_band_stands_in_lines_of_its_own(self) -> None:
        tariff = Tariff(
            {"": RateClass(100_00, band_cents=900_00, band_from=6.0, band_to=9.0)},
            (TariffFee("Hill", 4_00, FeeScope.CAMPUS, "hill"), TariffFee("Term fee", 50_00)),
            date(2027, 4, 1),
            40_00,
        )
        self.assertEqual(
            self.lines(tariff, self.registered(self.project, 10.5)),
            [
                ("PROJ 300", "10.5 credits in the price of the band, clay 30.00, kiln 5.00", 35_00, None),
                ("Tuition", "one price for 6 to 9 credits", 900_00, None),
                ("Tuition above the band", "1.5 credits at 100.00", 150_00, None),
                ("Hill", "once, with any section on that campus", 4_00, None),
                ("Term fee", "once, with any section", 50_00, None),
                ("Late registration", "first registered on 1 April or later", 40_00, None),
            ],
        )

    def test_what_was_paid_and_promised(self) -> None:
        paid = LedgerEntry(
            1,
            EntryKind.WAIVER,
            CounterAccount.WAIVED,
            5_00,
            "o",
            "a late bus",
            datetime(2027, 4, 19),
            "It was ours.",
        )
        kept = AnticipatedPayment(2, AnticipatedPaymentKind.AID, "the county", 10_00, 10_00)
        self.assertEqual(
            self.lines(
                Tariff(), entries=(paid,), anticipated_payments=(kept, replace(kept, paid_cents=4_00))
            ),
            [
                ("Waived", "a late bus: It was ours.", 0, None),
                ("Anticipated: the county", "6.00 to come", 0, None),
            ],
        )

    def test_why_a_sum_is_due_and_from_the_minute_on_it_is_late(self) -> None:
        account = Account(plain_tariff(100_00), POLICY, "", (self.registered(self.online, 3.0),))
        self.assertEqual(
            [due.why for due in dues(account)],
            [
                "75 per cent of what was registered through 9 August",
                "75 per cent of what was registered through 18 August",
                "all of what is charged",
            ],
        )
        due = dues(account)[0]
        self.assertEqual([due.is_over(FIRST - timedelta(seconds=1)), due.is_over(FIRST)], [False, True])

    def test_the_cut_says_why(self) -> None:
        account = Account(plain_tariff(100_00), POLICY, "", (self.registered(self.online, 3.0),))
        due = POLICY.due_dates[0]
        for more, why in (
            ({}, "225.00 was due, 0.00 paid"),
            ({"anticipated_cents": 100_00}, "225.00 was due, 0.00 paid, 100.00 promised"),
            ({"paid_cents": 225_00}, "paid"),
            ({"paid_cents": 25_00, "anticipated_cents": 200_00}, "200.00 promised covers the rest"),
            ({"paid_cents": 200_00}, "less than 50.00 is open"),
            ({"spared": "On strike."}, "a note by the cashier: On strike."),
        ):
            self.assertEqual(judge_nonpayment(replace(account, **more), due).why, why)


def _entry(number: int, kind: EntryKind, cents: int) -> LedgerEntry:
    account = CounterAccount.CARDS if kind is EntryKind.PAYMENT else CounterAccount.CORRECTIONS
    return LedgerEntry(number, kind, account, cents, f"origin:{number}", "", datetime(2027, 4, 19))


class Laws(unittest.TestCase):
    @examples(200)
    @given(st.integers(0, 2**32))
    def test_the_lines_of_a_statement_come_to_its_sums(self, seed: int) -> None:
        rng = random.Random(seed)
        tariff = some_tariff(rng)
        events = tuple(some_history(rng, tariff.late_from or date(2027, 8, 20)))
        entries = tuple(
            _entry(n, EntryKind.PAYMENT if cents > 0 else EntryKind.CORRECTION, cents)
            for n, cents in enumerate(rng.choices(range(-300_00, 900_00, 7_01), k=rng.randrange(5)))
            if cents
        )
        anticipated_payments = (
            AnticipatedPayment(1, AnticipatedPaymentKind.AID, "aid", 500_00, rng.choice([0, 200_00, 600_00])),
        )
        account = Account(
            tariff,
            POLICY,
            "",
            events,
            paid_cents(entries),
            anticipated_cents(anticipated_payments),
            entries=entries,
            anticipated_payments=anticipated_payments,
        )
        told = statement(account)
        self.assertEqual(sum(line.charged_cents for line in told.lines), told.charged_cents)
        self.assertEqual(sum(line.paid_cents for line in told.lines), told.paid_cents)
        self.assertEqual(told.charged_cents, account.charges.total_cents)
        self.assertEqual(told.balance_cents, account.balance_cents)
        sections = [line.number for line in told.lines if line.kind is LineKind.SECTION]
        self.assertEqual(sections, [line.section.reference_number for line in account.charges.held.values()])

    def test_no_order_of_payments_changes_the_balance(self) -> None:
        entries = [
            _entry(n, EntryKind.PAYMENT, cents) for n, cents in enumerate((100_00, 20_05, 3_00, 700_00))
        ]
        self.assertEqual({paid_cents(order) for order in itertools.permutations(entries)}, {823_05})

    @examples(150)
    @given(st.integers(0, 2**32), st.integers(0, 900_00), st.integers(0, 900_00))
    @example(
        8275, 0, 0
    )  # Nine credits in time, and four more that begin a band: all costs less than three fourths.
    def test_more_paid_is_never_more_due_and_whoever_owes_nothing_keeps_the_seats(
        self, seed: int, paid: int, more: int
    ) -> None:
        rng = random.Random(seed)
        tariff = some_tariff(rng)
        begin = rng.choice([date(2027, 4, 20), date(2027, 8, 11)])
        events = tuple(some_history(rng, begin))
        account = Account(tariff, POLICY, "", events, paid)
        richer = replace(account, paid_cents=paid + more)
        for before, after in zip(dues(account), dues(richer), strict=True):
            self.assertGreaterEqual(before.open_cents, after.open_cents)
            self.assertEqual(before.needed_cents, after.needed_cents)
        order = [NonpaymentResult.LOST, NonpaymentResult.SPARED, NonpaymentResult.SETTLED]
        for due in POLICY.due_dates[:2]:
            poor, rich = judge_nonpayment(account, due), judge_nonpayment(richer, due)
            self.assertLessEqual(order.index(poor.result), order.index(rich.result))
        whole = replace(account, paid_cents=max(0, account.charges.total_cents))
        for due in POLICY.due_dates:
            self.assertIs(judge_nonpayment(whole, due).result, NonpaymentResult.SETTLED)
        self.assertIsNone(next_due(whole, FIRST + timedelta(400)))
