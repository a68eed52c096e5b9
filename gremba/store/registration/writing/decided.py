"""A decision about to be written."""

from __future__ import annotations

from dataclasses import dataclass

from gremba.core.registration.outcome import Decision


@dataclass(frozen=True, slots=True)
class Writing:
    """A decision to be written.

    Attributes:
        confirmation: the confirmation's number.
        body: the confirmation as it will be read later, as JSON.
        of_plans: plans of the cart were sent.
    """

    confirmation: int
    student_term_id: int
    term_id: int
    key: str
    digest: bytes
    by: int
    decision: Decision
    body: bytes
    of_plans: bool = False
