"""What a student asks for: changes in an order, alone or all together."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Kind(StrEnum):
    """The kinds of change."""

    ADD = "add"
    DROP = "drop"


class Mode(StrEnum):
    """How the changes of a request depend on one another."""

    EACH = "each"
    ALL = "all"


@dataclass(frozen=True, slots=True)
class Change:
    """One wish.

    Attributes:
        number: the section's reference number.
        grading: grading basis; None for the course's usual one.
        credits: chosen credits where they vary; None for the least.
    """

    kind: Kind
    number: str
    grading: str | None = None
    credits: float | None = None


@dataclass(frozen=True, slots=True)
class Request:
    """Changes in order of priority, and whether each stands for itself."""

    changes: tuple[Change, ...]
    mode: Mode = Mode.EACH
