"""A campus whose seats must be paid for: a due date tomorrow, another in a week, the rest in two months."""

from __future__ import annotations

import secrets
from datetime import datetime, time, timedelta
from zoneinfo import ZoneInfo

from psycopg.types.json import Jsonb

from gremba.actions.context import ActionContext
from gremba.core.account.ledger import AnticipatedPaymentKind
from gremba.core.account.policy import (
    AccountPolicy,
    DueDate,
    InstallmentPart,
    InstallmentPlan,
    account_policy_data,
)
from gremba.demo.morning import SetClock
from gremba.store.catalogue.cache import CatalogueCache
from tests.support.campus import Campus, Somebody

_ZONE = ZoneInfo("America/New_York")
NOW = datetime.combine(datetime.now(_ZONE).date(), time(12), _ZONE)
"""Noon of today on the campus."""

DUE, SECOND, REST = NOW + timedelta(1), NOW + timedelta(8), NOW + timedelta(58)

POLICY = AccountPolicy(
    due_dates=(
        DueDate(DUE, 75, NOW.date()),
        DueDate(SECOND, 75, (NOW + timedelta(7)).date()),
        DueDate(REST, loses_seats=False),
    ),
    warn_days=(7, 3, 1),
    spare_below_cents=50_00,
    spared_kinds=frozenset({AnticipatedPaymentKind.SPONSOR}),
    installments=(
        InstallmentPlan("two", "two parts", DUE, (InstallmentPart(50), InstallmentPart(50, REST))),
    ),
    ask_back_until=SECOND,
)


def demand_payment(campus: Campus, policy: AccountPolicy = POLICY) -> None:
    """Give a campus's term the due dates: a credit costs 100.00, a section 300.00; all of it comes back
    until the fifth day."""
    steps = [{"through": (campus.begins + timedelta(4)).isoformat(), "percent": 100}]
    campus.run("UPDATE term_sessions SET refund_steps = %s", Jsonb(steps))
    campus.run("UPDATE terms SET policy = policy || %s", Jsonb({"account": account_policy_data(policy)}))


def at_time(campus: Campus, when: datetime) -> ActionContext:
    """What actions work with, at some time."""
    return ActionContext(campus.database, CatalogueCache(campus.database), SetClock(when))


def registered(campus: Campus, who: Somebody, *numbers: str, when: datetime = NOW) -> None:
    """A student is registered for sections, as in the demo's past."""
    for number in numbers:
        section = int(number) - 40_000
        campus.run(
            "INSERT INTO registrations (student_term_id, term_id, section_id, pool_id, state, grading, "
            "credits, registered_at) VALUES (%s, 1, %s, %s, 'registered', 'standard', 3, %s)",
            who.row,
            section,
            section,
            when,
        )


def paid(campus: Campus, who: Somebody, cents: int, when: datetime = NOW) -> None:
    """A student has paid so much."""
    campus.run(
        "INSERT INTO ledger_entries (student_term_id, kind, account, amount_cents, origin, at) "
        "VALUES (%s, 'payment', 'cash desk', %s, %s, %s)",
        who.row,
        cents,
        f"test:{secrets.token_hex(8)}",
        when,
    )


def seats_of(campus: Campus, who: Somebody) -> int:
    """Sections that a student is registered for."""
    return int(
        campus.value(
            "SELECT count(*) FROM registrations WHERE student_term_id = %s AND state = 'registered'", who.row
        )
    )
