"""A stand-in for a payment service.

It has a page of its own, where a card is typed, and answers with signed notifications as such services do:
none, one, the same one twice, or one that is late. Card numbers are looked at and forgotten.
"""

from __future__ import annotations

import base64
import hmac
import threading
import time
from dataclasses import asdict, dataclass

import orjson

from gremba.actions.account.payment_service import AnswersOnly, BegunPayment, SignedAnswer, sign
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.states import PaymentState

APPROVED, DECLINED, WAITING = PaymentState.APPROVED, PaymentState.DECLINED, PaymentState.WAITING

ADDRESS = "/payment-service"
"""Where its page is, on this server, apart from everything of the college's."""

LATE = 20.0
"""Seconds after which an answer comes that is late."""

_REMEMBERED = 10_000


@dataclass(frozen=True, slots=True)
class TestCard:
    """A test card and its result.

    Attributes:
        answers: those that it sends.
        after: seconds after which it sends them.
    """

    number: str
    what: str
    answers: tuple[PaymentState, ...]
    after: float = 0.0


TEST_CARDS = (
    TestCard("9000000000000001", "is approved", (APPROVED,)),
    TestCard("9000000000000019", "is declined", (DECLINED,)),
    TestCard("9000000000000027", "gets no answer in time", ()),
    TestCard("9000000000000035", "is approved, and the answer comes twice", (APPROVED, APPROVED)),
    TestCard("9000000000000043", f"is approved, and the answer comes {LATE:g} s late", (APPROVED,), LATE),
)
"""Numbers that pass the check digit and belong to nobody: no card begins like them."""


def find_card(card_number: str) -> TestCard:
    """The test card with this number.

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
    """A stand-in for a payment service: it takes test cards and no money."""

    def __init__(self, secret: str) -> None:
        """The service; see :class:`AnswersOnly`."""
        super().__init__(secret)
        self._results: dict[str, PaymentState] = {}
        self._lock = threading.Lock()

    def page_of(self, payment: BegunPayment) -> str:
        """Its page, with the signed payment in the address."""
        body = base64.urlsafe_b64encode(orjson.dumps(asdict(payment))).decode()
        return f"{ADDRESS}/{body}.{sign(body.encode(), self._secret)}"

    def asked_for(self, token: str) -> BegunPayment | None:
        """The payment in the address of its page; None if it did not create the address."""
        body, _, signature = token.rpartition(".")
        if not hmac.compare_digest(sign(body.encode(), self._secret).encode(), signature.encode()):
            return None
        return BegunPayment(**orjson.loads(base64.urlsafe_b64decode(body)))

    def charge(self, payment: BegunPayment, card_number: str) -> tuple[TestCard, list[SignedAnswer]]:
        """Make a payment; returns the card and the results to send, once however often it is called.

        Raises:
            Problem: the number is mistyped, or is no card of the demo.
        """
        card = find_card(card_number)
        with self._lock:
            if self._results.get(payment.reference) is APPROVED:
                return card, []
            if len(self._results) > _REMEMBERED:
                self._results.clear()
            self._results[payment.reference] = card.answers[0] if card.answers else DECLINED
        return card, [self._answer(payment, result) for result in card.answers]

    def refuse(self, payment: BegunPayment) -> SignedAnswer:
        """The result if somebody returns without paying, unless it was paid before."""
        with self._lock:
            result = self._results.get(payment.reference, DECLINED)
        return self._answer(payment, result)

    def inquire(self, payment: BegunPayment) -> SignedAnswer:
        """A payment's result: with a card that gets no answer it failed, and an untried payment has no
        result yet."""
        with self._lock:
            result = self._results.get(payment.reference, WAITING)
        return self._answer(payment, result)

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
