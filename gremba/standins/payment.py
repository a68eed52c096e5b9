"""A payment service, in place of the one that a college has a contract with.

It takes a card, and answers with signed notifications as such services do: none, one, or the
same one twice. Card numbers are looked at and forgotten.
"""

from __future__ import annotations

import time
from dataclasses import dataclass

import orjson

from gremba.actions.pay import sign
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind

APPROVED, DECLINED = "approved", "declined"


@dataclass(frozen=True, slots=True)
class TestCard:
    """A card of the demo and what becomes of a payment with it."""

    number: str
    what: str
    answers: tuple[str, ...]


TEST_CARDS = (
    TestCard("9000000000000001", "is approved", (APPROVED,)),
    TestCard("9000000000000019", "is declined", (DECLINED,)),
    TestCard("9000000000000027", "gets no answer in time", ()),
    TestCard("9000000000000035", "is approved, and the answer comes twice", (APPROVED, APPROVED)),
)
"""Numbers that pass the check digit and belong to nobody: no card begins like them."""


@dataclass(frozen=True, slots=True)
class Notification:
    """A signed answer, as it would be posted to the college."""

    body: bytes
    signature: str


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


def charge(card: TestCard, reference: str, amount_cents: int, secret: str) -> list[Notification]:
    """Take a payment; gives the answers that come, in order."""
    return [_notify(reference, amount_cents, answer, secret) for answer in card.answers]


def inquire(reference: str, amount_cents: int, secret: str) -> Notification:
    """Ask what became of a payment that had no answer: it never got through."""
    return _notify(reference, amount_cents, DECLINED, secret)


def _notify(reference: str, amount_cents: int, result: str, secret: str) -> Notification:
    body = orjson.dumps(
        {"reference": reference, "amount_cents": amount_cents, "result": result, "sent_at": int(time.time())}
    )
    return Notification(body, sign(body, secret))


def passes_check(digits: str) -> bool:
    """Whether the last digit is the check digit of the others (ISO/IEC 7812-1, from memory)."""
    total = 0
    for index, digit in enumerate(reversed(digits)):
        value = int(digit) * (1 + index % 2)
        total += value - 9 if value > 9 else value
    return total % 10 == 0
