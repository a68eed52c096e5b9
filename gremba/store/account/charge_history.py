"""Reads the history of registrations as far as charges depend on it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping
from datetime import datetime
from types import SimpleNamespace
from typing import Any

from peewee import JOIN
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.account.charges import ChargeEvent, ChargeKind
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.states import RegistrationEventKind, RegistrationState
from gremba.store.models import Registration, RegistrationEvent
from gremba.store.models.base import literal
from gremba.store.queries import fetch, one_of

_RANK = {ChargeKind.DROPPED: 0, ChargeKind.ADJUSTED: 1, ChargeKind.REGISTERED: 2}
"""Within one submission first all is dropped, then adjusted, then registered for, as the decision
reckons."""


def read_histories(
    database: PooledPostgresqlDatabase, terms: Mapping[int, TermCatalogue]
) -> dict[int, tuple[ChargeEvent, ...]]:
    """The history of these students' registrations, in order. One statement.

    Args:
        terms: by the id of the student's row of the term.
    """
    own = Registration
    # Those held and those that have ended stand in an index each.
    held = _registrations(terms, own.state == literal(RegistrationState.REGISTERED))
    ended = _registrations(terms, own.state != literal(RegistrationState.REGISTERED))
    query = held.union_all(ended)
    rows: dict[int, list[SimpleNamespace]] = defaultdict(list)
    for row in fetch(database, query, SimpleNamespace):
        rows[row.student_term_id].append(row)
    return {key: _in_order(rows[key], terms[key]) for key in terms}


def _registrations(rows: Collection[int], which: Any) -> Any:
    own, happened = Registration, RegistrationEvent
    return (
        own.select(
            own.id,
            own.student_term_id,
            own.section_id,
            own.credits,
            own.grading,
            own.first_credits,
            own.first_grading,
            own.registered_at,
            own.registered_by,
            happened.id.alias("event"),
            happened.what,
            happened.at,
            happened.confirmation.alias("told_by"),
            happened.credits.alias("new_credits"),
            happened.grading.alias("new_grading"),
        )
        .join(happened, JOIN.LEFT_OUTER, on=happened.registration == own.id)
        .where(one_of(own.student_term_id, list(rows)), which)
    )


def _in_order(rows: Iterable[SimpleNamespace], term: TermCatalogue) -> tuple[ChargeEvent, ...]:
    # By confirmation: a clock that was set back does not turn what happened round.
    keyed: list[tuple[tuple[int, datetime, int, int], ChargeEvent]] = []
    seen: set[int] = set()

    def put(row: SimpleNamespace, event: ChargeEvent) -> None:
        if event.at is not None:
            keyed.append(((event.confirmation or 0, event.at, _RANK[event.kind], row.id), event))

    for row in sorted(rows, key=lambda row: (row.id, row.event or 0)):
        section = term.by_id[row.section_id]
        if row.id not in seen:
            seen.add(row.id)
            credits = row.credits if row.first_credits is None else row.first_credits
            grading = row.grading if row.first_grading is None else row.first_grading
            at = row.registered_at
            on = term.calendar.local_date(at)
            put(
                row,
                ChargeEvent(
                    ChargeKind.REGISTERED, section, float(credits), grading, on, at, row.registered_by
                ),
            )
        if row.what is None:
            continue
        on = term.calendar.local_date(row.at)
        if row.what == RegistrationEventKind.ADJUSTED:
            event = ChargeEvent(
                ChargeKind.ADJUSTED,
                section,
                float(row.new_credits),
                row.new_grading,
                on,
                row.at,
                row.told_by,
            )
        else:
            event = ChargeEvent(ChargeKind.DROPPED, section, on=on, at=row.at, confirmation=row.told_by)
        put(row, event)
    return tuple(event for _, event in sorted(keyed, key=lambda pair: pair[0]))
