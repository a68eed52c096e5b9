"""Findings: what a rule says about a change, and the ways on from there."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from gremba.core.registration.changes import Kind


class Severity(StrEnum):
    """Stop: it does not go through. Warning: it does, but mind. Note: good to know."""

    STOP = "stop"
    WARNING = "warning"
    NOTE = "note"


@dataclass(frozen=True, slots=True)
class ProposedChange:
    """A change that the screen can put into the cart.

    Attributes:
        in_exchange: for a swap, the section held that is given up.
    """

    kind: Kind
    number: str
    in_exchange: str = ""


@dataclass(frozen=True, slots=True)
class PutInCart:
    """An action that the screen can offer: put other changes into the cart, all at once."""

    changes: tuple[ProposedChange, ...]


def put(kind: Kind, *numbers: str) -> PutInCart:
    """Put changes of one kind into the cart."""
    return PutInCart(tuple(ProposedChange(kind, number) for number in numbers))


def swap(number: str, in_exchange: str) -> PutInCart:
    """Put a swap into the cart; an add of the section wanted that is there turns into it."""
    return PutInCart((ProposedChange(Kind.SWAP, number, in_exchange),))


def wait(number: str, in_exchange: str = "") -> PutInCart:
    """Put a wait into the cart; an add or swap of the section that is there turns into it."""
    return PutInCart((ProposedChange(Kind.WAIT, number, in_exchange),))


@dataclass(frozen=True, slots=True)
class TakeInstead:
    """An action: put another section in this change's place, and its linked sections beside it.

    Attributes:
        numbers: the section first, then the linked sections it needs.
    """

    numbers: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class TakeOut:
    """An action: take other changes out of the cart, by the numbers of their sections."""

    numbers: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class MoveUp:
    """An action: put this change, with those it stands or falls with, at the top of the cart."""


@dataclass(frozen=True, slots=True)
class SeeChange:
    """An action: look at another change of the cart, whose own stop is to be seen to first."""

    number: str


class Target(StrEnum):
    """Where the screen can lead."""

    CLEARANCE = "clearance"
    PAYMENT = "payment"
    CONSENT = "consent"
    OPTIONS = "options"
    ASK = "ask"


@dataclass(frozen=True, slots=True)
class GoTo:
    """An action: go to where the matter is settled."""

    target: Target


Action = PutInCart | TakeInstead | TakeOut | MoveUp | SeeChange | GoTo


@dataclass(frozen=True, slots=True)
class Remedy:
    """A way on: a sentence, and an action where the screen can do it."""

    text: str
    action: Action | None = None


@dataclass(frozen=True, slots=True)
class Finding:
    """One rule's word on one change.

    Attributes:
        code: the rule's stable code.
        text: a plain sentence to the student.
        facts: what the rule looked at, by name, for screens and programs.
        ask: whom to ask, or "".
        rests_on: places in the request of the changes without which it would not stand.
    """

    code: str
    severity: Severity
    text: str
    facts: Mapping[str, str | int | float] = field(default_factory=dict)
    remedies: tuple[Remedy, ...] = ()
    ask: str = ""
    rests_on: frozenset[int] = frozenset()
