"""Paying a fee hold, with two payment services: the stand-in answers at once, the other by post."""

from __future__ import annotations

import unittest
from collections.abc import Sequence

from gremba.actions.account import pay
from gremba.actions.account.payment_service import BegunPayment, PaymentService, SignedAnswer
from gremba.actions.context import ActionContext
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.states import PaymentState
from gremba.standins.payment import ADDRESS, TEST_CARDS, StandInPayments
from gremba.store.account.payments import PaymentLine
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

        def type_card(self, page: str, card: str) -> Sequence[SignedAnswer]:
            """Pay on the service's page; gives the answers that come of it."""
            raise NotImplementedError

        def answers_again(self) -> Sequence[SignedAnswer]:
            """What has been answered, once more."""
            raise NotImplementedError

        def pay(self, card: str) -> PaymentLine:
            begun = pay.pay_hold(self.context, self.service, self.who.id, self.hold, "/")
            for answer in self.type_card(begun.page, card):
                pay.take_answer(self.context, self.service, answer)
            return pay.own_payment(self.context, self.who.id, begun.reference)

        def lifted(self) -> bool:
            return bool(self.campus.value("SELECT lifted_at IS NOT NULL FROM holds WHERE id = %s", self.hold))

        def test_approved_lifts_declined_does_not(self) -> None:
            self.assertEqual((self.pay(self.bad).state, self.lifted()), (PaymentState.DECLINED, False))
            self.assertEqual((self.pay(self.good).state, self.lifted()), (PaymentState.APPROVED, True))

        def test_an_answer_that_comes_again_counts_once(self) -> None:
            self.pay(self.good)
            for answer in self.answers_again():
                state = pay.take_answer(self.context, self.service, answer).state
                self.assertEqual(state, PaymentState.APPROVED)
            approved = "SELECT count(*) FROM payments WHERE hold_id = %s AND state = 'approved'"
            self.assertEqual(self.campus.value(approved, self.hold), 1)

        def test_without_an_answer_it_waits_until_somebody_asks(self) -> None:
            waiting = self.pay(self.mute)
            self.assertEqual((waiting.state, self.lifted()), (PaymentState.WAITING, False))
            asked = pay.inquire_about(self.context, self.service, self.who.id, waiting.reference)
            self.assertEqual((asked.state, self.lifted()), (PaymentState.DECLINED, False))

        def test_a_forged_answer_changes_nothing(self) -> None:
            waiting = self.pay(self.mute)
            with self.assertRaises(Problem) as met:
                pay.take_answer(self.context, self.service, SignedAnswer(b"id=1", "0" * 64))
            self.assertIs(met.exception.kind, ProblemKind.PAYMENT_FORGED)
            states = "SELECT array_agg(state) FROM payments WHERE hold_id = %s"
            self.assertEqual(self.campus.value(states, self.hold), [waiting.state])


class AtTheStandIn(Whichever.Paying):
    def setUp(self) -> None:
        super().setUp()
        self.stand_in = StandInPayments("a secret")
        self.service = self.stand_in
        self.good, self.bad, self.mute = (card.number for card in TEST_CARDS[:3])
        self.answered: list[SignedAnswer] = []

    def type_card(self, page: str, card: str) -> Sequence[SignedAnswer]:
        payment = self.stand_in.asked_for(page.removeprefix(f"{ADDRESS}/"))
        assert payment is not None
        _, answers = self.stand_in.charge(payment, card)
        self.answered += answers
        return answers

    def answers_again(self) -> Sequence[SignedAnswer]:
        return self.answered

    def test_what_is_paid_is_charged_once_however_often_the_card_is_typed(self) -> None:
        begun = pay.pay_hold(self.context, self.service, self.who.id, self.hold, "/")
        self.assertEqual(len(self.type_card(begun.page, self.good)), 1)
        self.assertEqual(self.type_card(begun.page, self.good), [])
        self.assertEqual(self.type_card(begun.page, self.bad), [])

    def test_of_a_page_that_nobody_paid_on_nothing_is_known_yet(self) -> None:
        begun = pay.pay_hold(self.context, self.service, self.who.id, self.hold, "/")
        asked = pay.inquire_about(self.context, self.service, self.who.id, begun.reference)
        self.assertEqual(asked.state, PaymentState.WAITING)


class AtABankThatAnswersLater(Whichever.Paying):
    def setUp(self) -> None:
        super().setUp()
        self.bank = SlowBank(b"a key")
        self.service = self.bank
        self.good, self.bad, self.mute = SlowBank.GOOD, SlowBank.BAD, SlowBank.MUTE

    def type_card(self, page: str, card: str) -> Sequence[SignedAnswer]:
        self.bank.charge(BegunPayment(*SlowBank.read_page(page)), card)
        return self.bank.post()

    def answers_again(self) -> Sequence[SignedAnswer]:
        return self.bank.post()
