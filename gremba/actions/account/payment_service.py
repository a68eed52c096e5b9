"""The interface of a payment service.

Another service than the one here is a class with these methods, chosen in :mod:`gremba.web.services`.
"""

from __future__ import annotations

import hashlib
import hmac
from dataclasses import dataclass
from typing import Protocol

import orjson
import structlog
from pydantic import BaseModel, ConfigDict, ValidationError

from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.states import PaymentState

log = structlog.get_logger()


@dataclass(frozen=True, slots=True)
class BegunPayment:
    """A payment to be made at a service.

    Attributes:
        what: it is for, in a few words.
        back: the address, on this server, to which the service sends the student back.
    """

    reference: str
    amount_cents: int
    what: str = ""
    back: str = "/"


@dataclass(frozen=True, slots=True)
class PaymentAnswer:
    """A payment's result, as the service reports it.

    Attributes:
        result: approved or declined; waiting where it is asked and does not know yet.
        sent_at: seconds since 1970, by the service's clock.
    """

    reference: str
    amount_cents: int
    result: PaymentState
    sent_at: int


@dataclass(frozen=True, slots=True)
class SignedAnswer:
    """A result as it is transmitted."""

    body: bytes
    signature: str


class PaymentService(Protocol):
    """The college's payment service. Card numbers are entered on its own page and never reach this
    application; its results are posted to ``/api/payments/answers``, early or late, repeatedly, or never."""

    def page_of(self, payment: BegunPayment) -> str:
        """The address of the page where a payment is made.

        Raises:
            Problem: nothing can be paid there.
        """
        ...

    def inquire(self, payment: BegunPayment) -> SignedAnswer:
        """Ask about a payment without a result."""
        ...

    def read(self, answer: SignedAnswer) -> PaymentAnswer:
        """Decode a result if it is authentic.

        Raises:
            Problem: it is not, or cannot be read.
        """
        ...


class _Body(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True)

    reference: str
    amount_cents: int
    result: str
    sent_at: int


def sign(body: bytes, secret: str) -> str:
    """The signature of a result: HMAC-SHA-256 (RFC 2104), in hexadecimal."""
    return hmac.new(secret.encode(), body, hashlib.sha256).hexdigest()


_ANSWERS = (PaymentState.APPROVED, PaymentState.DECLINED, PaymentState.WAITING)


class AnswersOnly:
    """A service whose payments start elsewhere: only its signed JSON results are processed."""

    def __init__(self, secret: str) -> None:
        """The service.

        Args:
            secret: shared with it; "" where none is, and then no answer is believed.
        """
        self._secret = secret

    def page_of(self, payment: BegunPayment) -> str:
        """Payments cannot be started here.

        Raises:
            Problem: always.
        """
        raise Problem(ProblemKind.PAYMENT_ELSEWHERE, "Pay at the cashier's; it is counted here at once.")

    def inquire(self, payment: BegunPayment) -> SignedAnswer:
        """The service cannot be asked.

        Raises:
            Problem: always.
        """
        raise Problem(ProblemKind.PAYMENT_ELSEWHERE, "Ask the cashier; what has come is counted here.")

    def read(self, answer: SignedAnswer) -> PaymentAnswer:
        """Decode a JSON result signed with the secret.

        Raises:
            Problem: it is forged, or cannot be read.
        """
        signature = answer.signature.encode(errors="replace")
        if not self._secret or not hmac.compare_digest(sign(answer.body, self._secret).encode(), signature):
            log.warning("a payment answer with a wrong signature")
            raise Problem(ProblemKind.PAYMENT_FORGED, "Nothing was changed.")
        try:
            body = _Body.model_validate(orjson.loads(answer.body))
        except (ValidationError, orjson.JSONDecodeError):
            raise Problem(
                ProblemKind.PAYMENT_UNREADABLE, "Send reference, amount_cents, result and sent_at."
            ) from None
        if body.result not in _ANSWERS:
            raise Problem(ProblemKind.PAYMENT_UNREADABLE, "The result is approved, declined or waiting.")
        return PaymentAnswer(body.reference, body.amount_cents, PaymentState(body.result), body.sent_at)
