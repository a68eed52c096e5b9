"""Findings: what a rule says about a change, and the ways on from there."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from gremba.core.registration.changes import Kind


class Severity(StrEnum):
    """Stop: blocked. Warning: allowed, with a caution. Note: information."""

    STOP = "stop"
    WARNING = "warning"
    NOTE = "note"


@dataclass(frozen=True, slots=True)
class ProposedChange:
    """A change that the page can add to the cart.

    Attributes:
        in_exchange: for a swap, the section held that is given up.
    """

    kind: Kind
    number: str
    in_exchange: str = ""


@dataclass(frozen=True, slots=True)
class PutInCart:
    """Action: add changes to the cart, all or none."""

    changes: tuple[ProposedChange, ...]


def put(kind: Kind, *numbers: str) -> PutInCart:
    """Add changes of one kind to the cart."""
    return PutInCart(tuple(ProposedChange(kind, number) for number in numbers))


def swap(number: str, in_exchange: str) -> PutInCart:
    """Add a swap to the cart; an add of the wanted section turns into it."""
    return PutInCart((ProposedChange(Kind.SWAP, number, in_exchange),))


def wait(number: str, in_exchange: str = "") -> PutInCart:
    """Add a wait to the cart; an add or swap of the section turns into it."""
    return PutInCart((ProposedChange(Kind.WAIT, number, in_exchange),))


@dataclass(frozen=True, slots=True)
class TakeInstead:
    """Action: replace this change's section by another one and its linked sections.

    Attributes:
        numbers: the section first, then the linked sections it needs.
    """

    numbers: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class TakeOut:
    """Action: remove other changes from the cart, by the numbers of their sections."""

    numbers: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class MoveUp:
    """Action: move this change, with linked ones, to the top of the cart."""


@dataclass(frozen=True, slots=True)
class SeeChange:
    """Action: look at another change of the cart, whose block has to be solved first."""

    number: str


class Target(StrEnum):
    """Where the page can lead."""

    CLEARANCE = "clearance"
    PAYMENT = "payment"
    CONSENT = "consent"
    OPTIONS = "options"
    ASK = "ask"


@dataclass(frozen=True, slots=True)
class GoTo:
    """Action: go to where the matter is settled."""

    target: Target


Action = PutInCart | TakeInstead | TakeOut | MoveUp | SeeChange | GoTo


@dataclass(frozen=True, slots=True)
class Remedy:
    """A sentence, and an action if the page can do it."""

    text: str
    action: Action | None = None


@dataclass(frozen=True, slots=True)
class Finding:
    """What one rule says about one change.

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
