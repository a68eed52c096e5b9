"""The college's policy on who may approve what."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from gremba.core.states import Waiver


class Decider(StrEnum):
    """Who can be asked, in the order of approvals."""

    INSTRUCTOR = "instructor"
    DEPARTMENT = "department"
    ADVISOR = "advisor"
    REGISTRAR = "registrar"


def _usual() -> dict[Waiver, tuple[Decider, ...]]:
    instructor = (Decider.INSTRUCTOR,)
    return {
        Waiver.CONSENT: instructor,
        Waiver.SEATS: instructor,
        Waiver.REQUISITE: instructor,
        Waiver.RESTRICTION: instructor,
        Waiver.LATE_ADD: instructor,
        Waiver.REPEAT: (Decider.INSTRUCTOR, Decider.DEPARTMENT),
        Waiver.CREDITS: (Decider.ADVISOR,),
    }


@dataclass(frozen=True, slots=True)
class PermissionPolicy:
    """A college's policy for requests.

    Attributes:
        deciders: who has to say yes to lifting what, in order; what is not named can be lifted by nobody.
        good_days: so long a yes is good at the most, and unless it says otherwise.
        reminded_after_days: working days after which whoever has a request is reminded of it.
        seats_beside_waitlist: whether a seat can be asked for where a waitlist is open.
        most_open: requests that one student may have open.
    """

    deciders: Mapping[Waiver, tuple[Decider, ...]] = field(default_factory=_usual)
    good_days: int = 14
    reminded_after_days: int = 2
    seats_beside_waitlist: bool = False
    most_open: int = 10

    def may_be_asked(self, what: Waiver) -> bool:
        """Whether somebody can override it."""
        return bool(self.deciders.get(what))

    def route(self, waives: Collection[Waiver]) -> tuple[Decider, ...]:
        """Who has to approve overriding all of these, each once, in order."""
        needed = {decider for what in waives for decider in self.deciders.get(what, ())}
        return tuple(decider for decider in Decider if decider in needed)


def permission_policy_from_data(data: Mapping[str, Any]) -> PermissionPolicy:
    """A policy from its stored form; missing parts have their defaults.

    Raises:
        ValueError, TypeError: it is none.
    """
    values = dict(data)
    if "deciders" in values:
        values["deciders"] = {
            Waiver(what): tuple(Decider(one) for one in order) for what, order in values["deciders"].items()
        }
    return PermissionPolicy(**values)


def permission_policy_data(policy: PermissionPolicy) -> dict[str, Any]:
    """A policy in its stored form; see :func:`permission_policy_from_data`."""
    return {
        "deciders": {what.value: [one.value for one in order] for what, order in policy.deciders.items()},
        "good_days": policy.good_days,
        "reminded_after_days": policy.reminded_after_days,
        "seats_beside_waitlist": policy.seats_beside_waitlist,
        "most_open": policy.most_open,
    }
