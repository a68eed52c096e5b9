"""Loads a term from its tables."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import replace
from datetime import date
from types import SimpleNamespace
from typing import Any
from zoneinfo import ZoneInfo

from peewee import JOIN
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.account.policy import account_policy_from_data
from gremba.core.catalogue.calendar import Break, Calendar, Meeting, RefundStep, TermSession
from gremba.core.catalogue.requisites import from_data
from gremba.core.catalogue.term import (
    Course,
    Fee,
    Policy,
    Section,
    TermCatalogue,
    known_by_all_numbers,
)
from gremba.core.permission.policy import permission_policy_from_data
from gremba.core.states import TermState
from gremba.core.students.clearance_texts import texts_from_data
from gremba.store import models
from gremba.store.account.rates import read_tariff
from gremba.store.queries import fetch, fetch_one, fetch_tuples


def read_term(database: PooledPostgresqlDatabase, code: str) -> TermCatalogue | None:
    """Load a whole term in fourteen statements; None if there is no such term."""
    found = fetch_one(database, models.Term.select().where(models.Term.code == code), _record)
    if found is None:
        return None
    term_id = found.id
    calendar = _read_calendar(database, found)
    courses = known_by_all_numbers(_read_courses(database))
    meetings = _read_meetings(database, term_id, calendar)
    instructors = _grouped(
        database,
        models.Section.select(models.Section.id, models.Person.full_name)
        .join(models.SectionInstructor, on=models.SectionInstructor.section == models.Section.id)
        .join(models.Person)
        .where(models.Section.term == term_id)
        .order_by(models.Person.full_name),
    )
    linked_sections = _grouped(
        database,
        models.LinkedSection.select(models.LinkedSection.section, models.Section.reference_number)
        .join(models.Section, on=models.Section.id == models.LinkedSection.with_section)
        .where(models.Section.term == term_id),
    )
    sections = tuple(
        Section(
            id=row.id,
            reference_number=row.reference_number,
            course=courses[row.course],
            component=row.component,
            session=calendar.sessions[row.session_code],
            pool=row.pool_id,
            meetings=tuple(meetings.get(row.id, ())),
            delivery=row.delivery,
            campus=row.campus or "",
            instructors=tuple(instructors.get(row.id, ())),
            cancelled=row.cancelled,
            topic=row.topic,
            notes=row.notes,
            waitlist_limit=row.waitlist_limit,
            waitlist_way=row.waitlist_way,
            linked_sections=frozenset(linked_sections.get(row.id, ())),
            bundle=row.bundle_name,
            carries_credit=row.carries_credit,
            fees=_fees(row.fees),
            restrictions={kind: tuple(values) for kind, values in row.restrictions.items()},
            consent_needed=row.consent_needed,
            no_textbook_cost=row.no_textbook_cost,
        )
        for row in _read_sections(database, term_id)
    )
    offered = {s.course.key for s in sections}
    others = _grouped(
        database,
        models.Section.select(models.Section.reference_number, models.Term.name)
        .join(models.Term)
        .where(models.Section.term != term_id)
        .order_by(models.Term.first_day),
    )
    return TermCatalogue(
        id=term_id,
        code=code,
        name=found.name,
        calendar=calendar,
        policy=replace(policy_from_data(found.policy), tariff=read_tariff(database, found)),
        sections=sections,
        other_terms={number: tuple(terms) for number, terms in others.items()},
        travel=_read_travel(database),
        campus_names=_names(database, models.Campus),
        subject_names=_names(database, models.Subject),
        not_offered=tuple(c for c in courses.values() if c.key not in offered),
        state=TermState(found.state),
        version=found.catalogue_version,
    )


def _record(**row: Any) -> Any:
    """A row by column name; typed where it is used."""
    return SimpleNamespace(**row)


def _read_sections(database: PooledPostgresqlDatabase, term_id: int) -> list[Any]:
    own = models.Section
    # Under names that no column has: a section's own bundle is a number.
    return fetch(
        database,
        own.select(
            own, models.TermSession.code.alias("session_code"), models.Bundle.name.alias("bundle_name")
        )
        .join(models.TermSession, on=models.TermSession.id == own.session_id)
        .switch(own)
        .join(models.Bundle, JOIN.LEFT_OUTER)
        .where(own.term == term_id)
        .order_by(own.reference_number),
        _record,
    )


def _names(database: PooledPostgresqlDatabase, table: Any) -> dict[str, str]:
    return dict(fetch_tuples(database, table.select(table.code, table.name)))


def _read_travel(database: PooledPostgresqlDatabase) -> dict[tuple[str, str], int]:
    own = models.Travel
    found: dict[tuple[str, str], int] = {}
    query = own.select(own.campus_from, own.campus_to, own.minutes)
    for one, other, minutes in fetch_tuples(database, query):
        found[one, other] = found[other, one] = minutes
    return found


def _grouped(database: PooledPostgresqlDatabase, pairs: Any) -> dict[Any, list[Any]]:
    found: dict[Any, list[Any]] = defaultdict(list)
    for key, value in fetch_tuples(database, pairs):
        found[key].append(value)
    return found


def _read_calendar(database: PooledPostgresqlDatabase, term: Any) -> Calendar:
    own = models.TermBreak
    breaks = fetch(
        database,
        own.select(own.first_day.alias("first"), own.last_day.alias("last"), own.name)
        .where(own.term == term.id)
        .order_by(own.first_day),
        Break,
    )
    session = models.TermSession
    sessions = {
        row.code: TermSession(
            row.code,
            row.name,
            row.first_day,
            row.last_day,
            row.add_by,
            row.drop_by,
            row.withdraw_by,
            _refund_steps(row.refund_steps),
        )
        for row in fetch(
            database,
            session.select()
            .where(session.term == term.id)
            .order_by(session.first_day, session.last_day.desc()),
            _record,
        )
    }
    return Calendar(ZoneInfo(term.zone), term.first_day, term.last_day, tuple(breaks), sessions)


def _refund_steps(data: list[dict[str, Any]]) -> tuple[RefundStep, ...]:
    return tuple(RefundStep(date.fromisoformat(s["through"]), s["percent"]) for s in data)


def _read_courses(database: PooledPostgresqlDatabase) -> dict[int, Course]:
    return {
        row.id: Course(
            key=f"{row.subject} {row.number}",
            title=row.title,
            credits_least=row.credits_least,
            credits_most=row.credits_most,
            requisites=None if row.requisites is None else from_data(row.requisites),
            gradings=row.gradings,
            equivalents=frozenset(row.equivalents),
            by_topic=row.by_topic,
            attempts_allowed=row.attempts_allowed,
            tags=row.tags,
            fees=_fees(row.fees),
            description=row.description,
            repeats=row.repeats,
        )
        for row in fetch(database, models.Course.select(), _record)
    }


def _read_meetings(
    database: PooledPostgresqlDatabase, term_id: int, calendar: Calendar
) -> dict[int, list[Meeting]]:
    own = models.Meeting
    query = own.select(own).join(models.Section).where(models.Section.term == term_id)
    found: dict[int, list[Meeting]] = defaultdict(list)
    for row in fetch(database, query.order_by(own.section, own.id), _record):
        found[row.section].append(
            Meeting.in_term(
                calendar,
                row.weekdays,
                row.starts,
                row.ends,
                row.first_day,
                row.last_day,
                row.campus or "",
                row.room,
            )
        )
    return found


def _fees(data: list[dict[str, Any]]) -> tuple[Fee, ...]:
    return tuple(Fee(f["label"], f["cents"]) for f in data)


def policy_from_data(data: dict[str, Any]) -> Policy:
    """A term's policy except for rates and fees, which have tables; any setting may be missing.

    Raises:
        TypeError, ValueError, KeyError, AttributeError: it is none.
    """
    values = dict(data)
    if "account" in values:
        values["account"] = account_policy_from_data(values["account"])
    if "permission" in values:
        values["permission"] = permission_policy_from_data(values["permission"])
    if "class_standings" in values:
        values["class_standings"] = tuple((float(n), name) for n, name in values["class_standings"])
    if "clearance" in values:
        values["clearance"] = texts_from_data(values["clearance"])
    return Policy(**values)
