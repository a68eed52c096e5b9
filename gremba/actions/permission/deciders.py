"""Loads who can decide permission requests."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from gremba.actions.context import ActionContext
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.permission.deciders import Deciders, StandIn
from gremba.store.permission.requests import (
    RequestRow,
    delegates_on,
    heads_of,
    instructors_of,
    names_of,
    registrars,
)


def read_deciders(
    context: ActionContext, term: TermCatalogue, sections: Collection[int], advisors: Collection[int] = ()
) -> Deciders:
    """Who decides about these sections today, and for these advisors' students. Five statements."""
    database = context.database
    today = term.calendar.local_date(context.clock.now())
    instructors, heads = instructors_of(database, sections), heads_of(database)
    office = registrars(database)
    delegates = [StandIn(d.person, d.delegate, d.from_on, d.until_on) for d in delegates_on(database, today)]
    subjects = {term.by_id[s].course.subject for s in sections if s in term.by_id}
    known = {p for people in instructors.values() for p in people} | set(office) | set(advisors)
    known |= {p for subject in subjects for p in heads.get(subject, ())}
    known |= {p for d in delegates for p in (d.person, d.delegate)}
    return Deciders(instructors, heads, office, delegates, names_of(database, known), today)


def deciders_of(context: ActionContext, term: TermCatalogue, rows: Sequence[RequestRow]) -> Deciders:
    """Who decides these requests today. Five statements."""
    advisors = {r.advisor_id for r in rows if r.advisor_id is not None}
    return read_deciders(context, term, {r.section for r in rows}, advisors)
