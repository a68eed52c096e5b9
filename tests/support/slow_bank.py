"""Another payment service than the stand-in: it answers when it likes, and signs in its own way."""

from __future__ import annotations

import hashlib
import hmac
import time
from urllib.parse import parse_qs, urlencode

from gremba.actions.account.payment_service import BegunPayment, PaymentAnswer, SignedAnswer
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.states import PaymentState

_WORDS = {"ok": PaymentState.APPROVED, "no": PaymentState.DECLINED}


class SlowBank:
    """Its cards are words, its answers forms; they come by post, after :meth:`post`."""

    GOOD, BAD, MUTE = "good", "bad", "mute"

    def __init__(self, key: bytes) -> None:
        self._key = key
        self._taken: list[tuple[BegunPayment, str]] = []

    def page_of(self, payment: BegunPayment) -> str:
        """Its page is elsewhere, as a bank's is."""
        return (
            f"https://bank.example/pay?{urlencode({'id': payment.reference, 'cents': payment.amount_cents})}"
        )

    @staticmethod
    def read_page(page: str) -> tuple[str, int]:
        """What its page asks to be paid."""
        form = parse_qs(page.partition("?")[2])
        return form["id"][0], int(form["cents"][0])

    def charge(self, payment: BegunPayment, card: str) -> None:
        """Somebody types a card on its page; nothing is said at once."""
        self._taken = [taken for taken in self._taken if taken[0].reference != payment.reference]
        self._taken.append((payment, card))

    def inquire(self, payment: BegunPayment) -> SignedAnswer:
        """What was taken with a card that is mute was not taken."""
        card = next(card for taken, card in self._taken if taken.reference == payment.reference)
        return self._answer(payment, "ok" if card == self.GOOD else "no")

    def post(self) -> list[SignedAnswer]:
        """The answers that it would post by now."""
        return [self._answer(p, "ok" if c == self.GOOD else "no") for p, c in self._taken if c != self.MUTE]

    def read(self, answer: SignedAnswer) -> PaymentAnswer:
        """A form, signed with a digest over the key and it."""
        if not hmac.compare_digest(self._sign(answer.body), answer.signature):
            raise Problem(ProblemKind.PAYMENT_FORGED, "Nothing was changed.")
        form = {name: values[0] for name, values in parse_qs(answer.body.decode()).items()}
        return PaymentAnswer(form["id"], int(form["cents"]), _WORDS[form["said"]], int(form["at"]))

    def _answer(self, payment: BegunPayment, said: str) -> SignedAnswer:
        form = {"id": payment.reference, "cents": payment.amount_cents, "said": said, "at": int(time.time())}
        body = urlencode(form).encode()
        return SignedAnswer(body, self._sign(body))

    def _sign(self, body: bytes) -> str:
        return hmac.new(self._key, body, hashlib.sha512).hexdigest()
