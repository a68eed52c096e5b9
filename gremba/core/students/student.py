"""A student, and the holds placed on them."""

from __future__ import annotations

from dataclasses import dataclass

from gremba.core.states import ClearedBy


@dataclass(slots=True)
class Student:
    """A student.

    Attributes:
        credit_limit: a limit of their own that an advisor has set; None for the standing's.
        rate_class: by which the tariff charges.
        advisor: the advisor's name, or "".
        receives_aid: whether the load counts for financial aid.
    """

    id: int
    name: str
    program: str = ""
    cohort: str = ""
    campus: str = ""
    standing: str = "good"
    credit_limit: float | None = None
    residence: str = ""
    rate_class: str = ""
    advisor: str = ""
    receives_aid: bool = False


@dataclass(frozen=True, slots=True)
class Hold:
    """A hold placed by an office; blocks some kinds of change until it is lifted.

    Attributes:
        stops: any of "add", "wait", "swap", "drop".
        cleared_by: "student" or "office".
    """

    reason: str
    office: str
    contact: str
    stops: frozenset[str]
    cleared_by: ClearedBy = ClearedBy.OFFICE
    amount_cents: int | None = None
    id: int = 0
