"""The cart changes that a permission request asks for, as they are stored."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from gremba.core.registration.changes import Change, Kind


def change_data(change: Change) -> dict[str, Any]:
    """A change as a request stores it."""
    return {
        "kind": change.kind.value,
        "number": change.number,
        "grading": change.grading,
        "credits": change.credits,
        "in_exchange": change.in_exchange,
        "leaves_waitlists": change.leaves_waitlists,
    }


def changes_from_data(data: Sequence[dict[str, Any]]) -> tuple[Change, ...]:
    """The changes a request stores; see :func:`change_data`."""
    return tuple(
        Change(
            Kind(c["kind"]),
            c["number"],
            c["grading"],
            c["credits"],
            c["in_exchange"],
            leaves_waitlists=c["leaves_waitlists"],
        )
        for c in data
    )
