"""A submission: who submits what."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass

import orjson

from gremba.core.catalogue.term import TermCatalogue
from gremba.core.registration.changes import Kind, Request
from gremba.core.registration.plans import Plans


@dataclass(frozen=True, slots=True)
class Submission:
    """A request to be processed.

    Attributes:
        key: the sender's own name for it; the same key gets the same confirmation.
        by: who sends it; by_name is written on the confirmation.
        seen: the token of the cart that the sender has before them; "" where no cart is sent. If it
            stands otherwise by now, nothing is put through.
        plans: whole timetables in order, in the place of the request, which is the first of them.
    """

    student_term_id: int
    term: TermCatalogue
    request: Request
    key: str
    by: int
    by_name: str
    seen: str = ""
    plans: Plans | None = None

    @property
    def digest(self) -> bytes:
        """Identifies the request, to detect a key reused for another one."""
        told: list[object] = [_told(self.request), self.request.mode]
        if self.plans is not None:
            told += [[_told(r) for r in self.plans.requests], self.plans.fallback]
        return hashlib.sha256(orjson.dumps(told)).digest()

    @property
    def requests(self) -> tuple[Request, ...]:
        """All requests that may be registered in the end."""
        return (self.request,) if self.plans is None else self.plans.requests

    @property
    def is_plain(self) -> bool:
        """Whether it only names sections, without waits, backups, or permission codes."""
        return self.plans is None and all(
            [
                c.kind is not Kind.WAIT and not (c.permission_code or c.alternatives or c.wait_if_full)
                for c in self.request.changes
            ]
        )

    @property
    def chooses(self) -> bool:
        """Whether it has backup sections, which may take many decisions."""
        return self.plans is None and any([bool(c.alternatives) for c in self.request.changes])

    def pools_wanted(self) -> list[int]:
        """The seat pools it wants a seat of, with repetitions."""
        by_number = self.term.by_number
        return [
            by_number[c.number].pool
            for r in self.requests
            for c in r.changes
            if c.kind in (Kind.ADD, Kind.SWAP) and c.number in by_number
        ]

    def pools(self) -> set[int]:
        """Every seat pool the request could change, including those of linked sections dropped with it."""
        found: set[int] = set()
        by_number = self.term.by_number
        for change in (c for r in self.requests for c in r.changes):
            section = by_number.get(change.number)
            if section is not None:
                found.add(section.pool)
            for number in (n for numbers in change.alternatives for n in numbers):
                if number in by_number:
                    other = by_number[number]
                    found.add(other.pool)
                    found |= {by_number[n].pool for n in other.linked_sections if n in by_number}
            if change.kind in (Kind.ADD, Kind.WAIT):
                continue
            given_up = by_number.get(change.in_exchange or change.number)
            if given_up is not None:
                found |= {s.pool for s in self.term.goes_along_with(given_up)}
        return found


def _told(request: Request) -> list[list[object]]:
    """The changes in canonical form, without defaults."""
    return [
        [
            c.kind,
            c.number,
            c.grading,
            c.credits,
            c.in_exchange,
            c.permission_code,
            *([c.alternatives] if c.alternatives else []),
            *(["wait"] if c.wait_if_full else []),
            *(["leave"] if c.leaves_waitlists else []),
        ]
        for c in request.changes
    ]
