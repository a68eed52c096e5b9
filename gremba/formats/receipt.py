"""What a receipt keeps of a decision, and reading it later in whatever form it was written."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from gremba.core.changes import Mode
from gremba.core.outcome import Decision
from gremba.formats.decision_json import decision_data

FORM = 1
"""Of what :func:`receipt_data` makes. Another form gets another number, and :func:`read_receipt` learns
to make it of the older ones: receipts are never altered."""


def receipt_data(decision: Decision, mode: Mode, sent_by: str) -> dict[str, Any]:
    """A receipt in the present form.

    Args:
        sent_by: who has sent it, as it is shown.
    """
    return {"mode": mode.value, "sent_by": sent_by, **decision_data(decision)}


def read_receipt(form: int, body: Mapping[str, Any]) -> dict[str, Any]:
    """A receipt in the present form, whatever form it was written in.

    Raises:
        ValueError: there is no such form; a newer version has written it.
    """
    if form != FORM:
        raise ValueError(f"a receipt of form {form} cannot be read")
    return dict(body)
