"""The college's policy on due dates, drops for nonpayment and installments."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from gremba.core.account.ledger import AnticipatedPaymentKind


@dataclass(frozen=True, slots=True)
class DueDate:
    """A date by which a share of the charges is due.

    Attributes:
        percent: of what is charged for the sections registered through `registered_through`.
        registered_through: sections registered later have a later date; None for all sections.
        loses_seats: whoever has not settled it loses these sections then.
    """

    at: datetime
    percent: int = 100
    registered_through: date | None = None
    loses_seats: bool = True


@dataclass(frozen=True, slots=True)
class InstallmentPart:
    """An installment of a plan.

    Attributes:
        percent: of what was open on joining.
        at: when it is due; None for on joining.
    """

    percent: int
    at: datetime | None = None


@dataclass(frozen=True, slots=True)
class InstallmentPlan:
    """A plan for paying the balance in installments.

    Attributes:
        join_by: until when it can be joined.
        parts: their shares come to 100 per cent.
    """

    code: str
    name: str
    join_by: datetime
    parts: tuple[InstallmentPart, ...]


@dataclass(frozen=True, slots=True)
class AccountPolicy:
    """A term's payment policy.

    Attributes:
        due_dates: in order of time; none where nobody loses a seat over money.
        warn_days: so many days before a date on which seats are lost, who has not settled is warned.
        spare_below_cents: whoever owes less keeps the seats.
        anticipated_payments_count: money promised counts like money paid, up to its sum.
        spared_kinds: whoever has been promised such money keeps the seats, whatever its sum.
        ask_back_until: until when sections lost can be asked back; None for never.
    """

    due_dates: tuple[DueDate, ...] = ()
    warn_days: tuple[int, ...] = (7, 3, 1)
    spare_below_cents: int = 0
    anticipated_payments_count: bool = True
    spared_kinds: frozenset[AnticipatedPaymentKind] = frozenset()
    installments: tuple[InstallmentPlan, ...] = ()
    ask_back_until: datetime | None = None

    def plan(self, code: str) -> InstallmentPlan | None:
        """The installment plan with this code; None if there is none."""
        return next((plan for plan in self.installments if plan.code == code), None)


def account_policy_from_data(data: dict[str, Any]) -> AccountPolicy:
    """A policy from its stored form.

    Raises:
        ValueError, TypeError, KeyError: it is none.
    """
    return AccountPolicy(
        due_dates=tuple(
            DueDate(
                datetime.fromisoformat(due["at"]),
                due["percent"],
                _date(due["registered_through"]),
                due["loses_seats"],
            )
            for due in data["due_dates"]
        ),
        warn_days=tuple(data["warn_days"]),
        spare_below_cents=data["spare_below_cents"],
        anticipated_payments_count=data["anticipated_payments_count"],
        spared_kinds=frozenset(AnticipatedPaymentKind(kind) for kind in data["spared_kinds"]),
        installments=tuple(
            InstallmentPlan(
                plan["code"],
                plan["name"],
                datetime.fromisoformat(plan["join_by"]),
                tuple(InstallmentPart(part["percent"], _moment(part["at"])) for part in plan["parts"]),
            )
            for plan in data["installments"]
        ),
        ask_back_until=_moment(data["ask_back_until"]),
    )


def account_policy_data(policy: AccountPolicy) -> dict[str, Any]:
    """A policy in its stored form; see :func:`account_policy_from_data`."""
    return {
        "due_dates": [
            {
                "at": due.at.isoformat(),
                "percent": due.percent,
                "registered_through": _text(due.registered_through),
                "loses_seats": due.loses_seats,
            }
            for due in policy.due_dates
        ],
        "warn_days": list(policy.warn_days),
        "spare_below_cents": policy.spare_below_cents,
        "anticipated_payments_count": policy.anticipated_payments_count,
        "spared_kinds": sorted(policy.spared_kinds),
        "installments": [
            {
                "code": plan.code,
                "name": plan.name,
                "join_by": plan.join_by.isoformat(),
                "parts": [{"percent": part.percent, "at": _text(part.at)} for part in plan.parts],
            }
            for plan in policy.installments
        ],
        "ask_back_until": _text(policy.ask_back_until),
    }


def _date(text: str | None) -> date | None:
    return None if text is None else date.fromisoformat(text)


def _moment(text: str | None) -> datetime | None:
    return None if text is None else datetime.fromisoformat(text)


def _text(when: date | datetime | None) -> str | None:
    return None if when is None else when.isoformat()
