"""Works out how a decision would change what is due by the next due date."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.account.due import Account, DueChange, due_change
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.registration.outcome import Decision
from gremba.core.registration.situation import Situation
from gremba.store.account.ledger import read_sums


def read_money(database: PooledPostgresqlDatabase, term: TermCatalogue, row: int) -> Account | None:
    """The sums of a student's account; None, without a statement, if the term has no due dates."""
    policy = term.policy.account
    if not policy.due_dates and not policy.installments:
        return None
    return read_sums(database, term, [row])[row]


def due_ahead(
    money: Account | None, situation: Situation, decision: Decision, now: datetime
) -> DueChange | None:
    """How a decision changes the next amount due; None if the term has no due dates.

    Args:
        money: see :func:`read_money`.
    """
    if money is None:
        return None
    events = situation.charge_events
    return due_change(replace(money, events=events), (*events, *decision.charged), now)
