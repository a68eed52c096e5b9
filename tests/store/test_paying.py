"""Paying a fee hold, with two payment services: the stand-in answers at once, the other by post."""

from __future__ import annotations

import unittest
from collections.abc import Sequence

from gremba.actions import pay
from gremba.actions.context import ActionContext
from gremba.actions.payment_service import PaymentService, SignedAnswer
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.states import PaymentState
from gremba.standins.payment import TEST_CARDS, StandInPayments
from gremba.store.holds import PaymentLine
from tests.support.campus import Campus, Somebody
from tests.support.servers import new_database
from tests.support.slow_bank import SlowBank


class Whichever:
    """Holds the tests that are run once a service, and not by themselves."""

    class Paying(unittest.TestCase):
        """What holds whichever service it is."""

        campus: Campus
        context: ActionContext
        who: Somebody
        hold: int
        service: PaymentService
        good: str
        bad: str
        mute: str

        @classmethod
        def setUpClass(cls) -> None:
            cls.campus = Campus(new_database())

        @classmethod
        def tearDownClass(cls) -> None:
            cls.campus.close()

        def setUp(self) -> None:
            self.context = self.campus.context()
            self.who = self.campus.person()
            self.hold = self.campus.fee_hold(self.who)

        def posted(self) -> Sequence[SignedAnswer]:
            """Answers that come later."""
            return ()

        def pay(self, card: str) -> PaymentLine:
            paid = pay.pay(self.context, self.service, self.who.id, self.hold, card)
            for answer in self.posted():
                paid = pay.take_answer(self.context, self.service, answer)
            return paid

        def lifted(self) -> bool:
            return bool(self.campus.value("SELECT lifted_at IS NOT NULL FROM holds WHERE id = %s", self.hold))

        def test_approved_lifts_declined_does_not(self) -> None:
            self.assertEqual((self.pay(self.bad).state, self.lifted()), (PaymentState.DECLINED, False))
            self.assertEqual((self.pay(self.good).state, self.lifted()), (PaymentState.APPROVED, True))

        def test_an_answer_that_comes_again_counts_once(self) -> None:
            self.pay(self.good)
            for answer in self.posted():
                state = pay.take_answer(self.context, self.service, answer).state
                self.assertEqual(state, PaymentState.APPROVED)
            approved = "SELECT count(*) FROM payments WHERE hold_id = %s AND state = 'approved'"
            self.assertEqual(self.campus.value(approved, self.hold), 1)

        def test_without_an_answer_it_waits_until_somebody_asks(self) -> None:
            waiting = self.pay(self.mute)
            self.assertEqual((waiting.state, self.lifted()), (PaymentState.WAITING, False))
            asked = pay.ask(self.context, self.service, self.who.id, waiting.reference)
            self.assertEqual((asked.state, self.lifted()), (PaymentState.DECLINED, False))

        def test_a_strange_card_begins_nothing_and_a_forged_answer_changes_nothing(self) -> None:
            with self.assertRaises(Problem):
                self.pay("0000")
            waiting = self.pay(self.mute)
            with self.assertRaises(Problem) as met:
                pay.take_answer(self.context, self.service, SignedAnswer(b"id=1", "0" * 64))
            self.assertIs(met.exception.kind, ProblemKind.PAYMENT_FORGED)
            states = "SELECT array_agg(state) FROM payments WHERE hold_id = %s"
            self.assertEqual(self.campus.value(states, self.hold), [waiting.state])


class AtTheStandIn(Whichever.Paying):
    def setUp(self) -> None:
        super().setUp()
        self.service = StandInPayments("a secret")
        self.good, self.bad, self.mute = (card.number for card in TEST_CARDS[:3])


class AtABankThatAnswersLater(Whichever.Paying):
    def setUp(self) -> None:
        super().setUp()
        self.bank = SlowBank(b"a key")
        self.service = self.bank
        self.good, self.bad, self.mute = SlowBank.GOOD, SlowBank.BAD, SlowBank.MUTE

    def posted(self) -> Sequence[SignedAnswer]:
        return self.bank.post()
