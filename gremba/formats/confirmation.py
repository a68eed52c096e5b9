"""The stored form of a confirmation, and reading the older ones."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from gremba.core.registration.changes import Mode
from gremba.core.registration.outcome import Decision
from gremba.core.registration.plans import PlansDecided
from gremba.formats.decision_json import decision_data

FORM = 2
"""Of what :func:`confirmation_data` makes. Another form gets another number, and :func:`read_confirmation`
learns to make it of the older ones: confirmations are never altered."""


def confirmation_data(
    decision: Decision, mode: Mode, sent_by: str, decided: PlansDecided | None = None
) -> dict[str, Any]:
    """A confirmation in the current form.

    Args:
        sent_by: who has sent it, as it is shown.
        decided: where plans were sent, which was taken and why not those before it.
    """
    return {
        "mode": mode.value,
        "sent_by": sent_by,
        "plans": [] if decided is None else plans_data(decided),
        **decision_data(decision),
    }


def plans_data(decided: PlansDecided) -> list[dict[str, Any]]:
    """Each plan considered: whether it was used, and what blocked it."""
    return [
        {
            "name": verdict.name,
            "taken": place == decided.taken,
            "stops": [{"section": section, "text": stop.text} for section, stop in verdict.stops],
        }
        for place, verdict in enumerate(decided.verdicts)
    ]


def read_confirmation(form: int, body: Mapping[str, Any]) -> dict[str, Any]:
    """Convert a stored confirmation of any form to the current one.

    Raises:
        ValueError: there is no such form; a newer version has written it.
    """
    if form == 1:
        # There were no plans then.
        return {"plans": [], **body}
    if form != FORM:
        raise ValueError(f"a confirmation of form {form} cannot be read")
    return dict(body)
