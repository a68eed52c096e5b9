"""A student's request: changes in order, submitted one by one or all together."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Kind(StrEnum):
    """The kinds of change."""

    ADD = "add"
    DROP = "drop"
    SWAP = "swap"
    ADJUST = "adjust"
    WAIT = "wait"


class Mode(StrEnum):
    """How the changes of a request depend on one another."""

    EACH = "each"
    ALL = "all"

    @property
    def other(self) -> Mode:
        """The other of the two."""
        return Mode.ALL if self is Mode.EACH else Mode.EACH


@dataclass(slots=True)
class Change:
    """A change the student wants.

    Attributes:
        number: the section's reference number; for a swap or a wait, that of the section wanted.
        grading: grading basis; None for the course's usual one.
        credits: chosen credits where they vary; None for the least.
        in_exchange: for a swap, the reference number of the section held that is given up for it;
            for a wait, of one that is given up when a seat comes, or "".
        permission_code: a permission code, or "".
        alternatives: sections to try in turn where this one cannot be had: each as reference numbers,
            the section and then linked sections; see
            :mod:`gremba.core.registration.alternatives.backup_sections`.
        wait_if_full: for an add or swap: where no seat can be had, join the waitlist.
        leaves_waitlists: for what gives a section up: a place that would have given it up for its seat
            ends; else it stays as a plain wait.
        original: where one of those stands in its place, the number that was wished for first.
    """

    kind: Kind
    number: str
    grading: str | None = None
    credits: float | None = None
    in_exchange: str = ""
    permission_code: str = ""
    alternatives: tuple[tuple[str, ...], ...] = ()
    original: str = ""
    wait_if_full: bool = False
    leaves_waitlists: bool = False


@dataclass(frozen=True, slots=True)
class Request:
    """Changes in order of priority, and whether each is independent."""

    changes: tuple[Change, ...]
    mode: Mode = Mode.EACH
