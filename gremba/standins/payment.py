"""A payment service, in place of the one that a college has a contract with.

It takes a card, and answers with signed notifications as such services do: none, one, or the
same one twice. Card numbers are looked at and forgotten.
"""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass

import orjson

from gremba.actions.payment_service import AnswersOnly, BegunPayment, SignedAnswer, sign
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.states import PaymentState

APPROVED, DECLINED = PaymentState.APPROVED, PaymentState.DECLINED


@dataclass(frozen=True, slots=True)
class TestCard:
    """A card of the demo and what becomes of a payment with it."""

    number: str
    what: str
    answers: tuple[PaymentState, ...]


TEST_CARDS = (
    TestCard("9000000000000001", "is approved", (APPROVED,)),
    TestCard("9000000000000019", "is declined", (DECLINED,)),
    TestCard("9000000000000027", "gets no answer in time", ()),
    TestCard("9000000000000035", "is approved, and the answer comes twice", (APPROVED, APPROVED)),
)
"""Numbers that pass the check digit and belong to nobody: no card begins like them."""


def find_card(card_number: str) -> TestCard:
    """The demo's card of that number.

    Raises:
        Problem: the number is mistyped, or is no card of the demo.
    """
    digits = "".join(c for c in card_number if c in "0123456789")
    if not 12 <= len(digits) <= 19 or not passes_check(digits):
        raise Problem(ProblemKind.CARD_MISTYPED, "Compare it with the card, digit by digit.")
    for card in TEST_CARDS:
        if card.number == digits:
            return card
    raise Problem(ProblemKind.CARD_UNKNOWN, "Use one of the numbers listed beside the form.")


class StandInPayments(AnswersOnly):
    """The stand-in as a payment service: it takes the demo's cards and no money."""

    def check(self, card_number: str) -> None:
        """See whether it is a card of the demo.

        Raises:
            Problem: the number is mistyped, or is none.
        """
        find_card(card_number)

    def charge(self, payment: BegunPayment, card_number: str) -> Sequence[SignedAnswer]:
        """Answer as the card says."""
        return [self._answer(payment, result) for result in find_card(card_number).answers]

    def inquire(self, payment: BegunPayment) -> SignedAnswer:
        """A payment that had no answer never got through."""
        return self._answer(payment, DECLINED)

    def _answer(self, payment: BegunPayment, result: PaymentState) -> SignedAnswer:
        told = {
            "reference": payment.reference,
            "amount_cents": payment.amount_cents,
            "result": result,
            "sent_at": int(time.time()),
        }
        body = orjson.dumps(told)
        return SignedAnswer(body, sign(body, self._secret))


def passes_check(digits: str) -> bool:
    """Whether the last digit is the check digit of the others (ISO/IEC 7812-1, from memory)."""
    total = 0
    for index, digit in enumerate(reversed(digits)):
        value = int(digit) * (1 + index % 2)
        total += value - 9 if value > 9 else value
    return total % 10 == 0
