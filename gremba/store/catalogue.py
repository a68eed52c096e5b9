"""From the catalogue's tables to a term in memory."""

from __future__ import annotations

from collections import defaultdict
from datetime import date
from typing import Any
from zoneinfo import ZoneInfo

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.calendar import Block, Break, Calendar, Meeting, RefundStep
from gremba.core.catalogue import (
    Course,
    Fee,
    Policy,
    Section,
    TermCatalogue,
    known_by_all_numbers,
)
from gremba.core.fees import Tariff
from gremba.core.requisites import from_data
from gremba.store.database import rows


def read_term(database: PooledPostgresqlDatabase, code: str) -> TermCatalogue | None:
    """Read a whole term, in twelve statements; None if there is no term of that code."""
    found = rows(
        database,
        "SELECT id, code, name, zone, first_day, last_day, policy FROM terms WHERE code = %s",
        (code,),
    )
    if not found:
        return None
    term_id, code, name, zone, first, last, policy = found[0]
    calendar = _read_calendar(database, term_id, zone, first, last)
    courses = known_by_all_numbers(_read_courses(database))
    meetings = _read_meetings(database, term_id, calendar)
    instructors = _grouped(
        database,
        "SELECT i.section_id, p.full_name FROM section_instructors i "
        "JOIN persons p ON p.id = i.person_id JOIN sections s ON s.id = i.section_id "
        "WHERE s.term_id = %s ORDER BY p.full_name",
        term_id,
    )
    companions = _grouped(
        database,
        "SELECT c.section_id, o.reference_number FROM companions c "
        "JOIN sections o ON o.id = c.with_section_id WHERE o.term_id = %s",
        term_id,
    )
    sections = tuple(
        Section(
            id=row[0],
            reference_number=row[1],
            course=courses[row[2]],
            component=row[3],
            block=calendar.blocks[row[4]],
            pool=row[5],
            meetings=tuple(meetings.get(row[0], ())),
            delivery=row[6],
            campus=row[7] or "",
            instructors=tuple(instructors.get(row[0], ())),
            cancelled=row[8],
            topic=row[9],
            notes=row[10],
            waitlist_limit=row[11],
            waitlist_way=row[12],
            companions=frozenset(companions.get(row[0], ())),
            bundle=row[13],
            carries_credit=row[14],
            fees=_fees(row[15]),
            restrictions={kind: tuple(values) for kind, values in row[16].items()},
            consent_needed=row[17],
            no_textbook_cost=row[18],
        )
        for row in rows(
            database,
            "SELECT s.id, s.reference_number, s.course_id, s.component, b.code, s.pool_id, "
            "s.delivery, s.campus, s.cancelled, s.topic, s.notes, s.waitlist_limit, "
            "s.waitlist_way, u.name, s.carries_credit, s.fees, s.restrictions, s.consent_needed, "
            "s.no_textbook_cost "
            "FROM sections s JOIN blocks b ON b.id = s.block_id "
            "LEFT JOIN bundles u ON u.id = s.bundle_id "
            "WHERE s.term_id = %s ORDER BY s.reference_number",
            (term_id,),
        )
    )
    offered = {s.course.key for s in sections}
    others = _grouped(
        database,
        "SELECT s.reference_number, t.name FROM sections s JOIN terms t ON t.id = s.term_id "
        "WHERE s.term_id <> %s ORDER BY t.first_day",
        term_id,
    )
    return TermCatalogue(
        id=term_id,
        code=code,
        name=name,
        calendar=calendar,
        policy=_policy(policy),
        sections=sections,
        other_terms={number: tuple(terms) for number, terms in others.items()},
        travel=_read_travel(database),
        campus_names=dict(rows(database, "SELECT code, name FROM campuses")),
        subject_names=dict(rows(database, "SELECT code, name FROM subjects")),
        not_offered=tuple(c for c in courses.values() if c.key not in offered),
    )


def _read_travel(database: PooledPostgresqlDatabase) -> dict[tuple[str, str], int]:
    found: dict[tuple[str, str], int] = {}
    for one, other, minutes in rows(database, "SELECT * FROM travel"):
        found[one, other] = found[other, one] = minutes
    return found


def _grouped(
    database: PooledPostgresqlDatabase, sql: str, term_id: int
) -> dict[Any, list[Any]]:
    found: dict[Any, list[Any]] = defaultdict(list)
    for key, value in rows(database, sql, (term_id,)):
        found[key].append(value)
    return found


def _read_calendar(
    database: PooledPostgresqlDatabase, term_id: int, zone: str, first: Any, last: Any
) -> Calendar:
    breaks = tuple(
        Break(*row)
        for row in rows(
            database,
            "SELECT first_day, last_day, name FROM term_breaks WHERE term_id = %s "
            "ORDER BY first_day",
            (term_id,),
        )
    )
    blocks = {
        row[0]: Block(*(*row[:7], _refund_steps(row[7])))
        for row in rows(
            database,
            "SELECT code, name, first_day, last_day, add_by, drop_by, withdraw_by, refund_steps "
            "FROM blocks WHERE term_id = %s ORDER BY first_day, last_day DESC",
            (term_id,),
        )
    }
    return Calendar(ZoneInfo(zone), first, last, breaks, blocks)


def _refund_steps(data: list[dict[str, Any]]) -> tuple[RefundStep, ...]:
    return tuple(RefundStep(date.fromisoformat(s["through"]), s["percent"]) for s in data)


def _read_courses(database: PooledPostgresqlDatabase) -> dict[int, Course]:
    return {
        row[0]: Course(
            key=f"{row[1]} {row[2]}",
            title=row[3],
            credits_least=float(row[4]),
            credits_most=float(row[5]),
            requisites=None if row[6] is None else from_data(row[6]),
            gradings=tuple(row[7]),
            equivalents=frozenset(row[8]),
            by_topic=row[9],
            attempts_allowed=row[10],
            tags=tuple(row[11]),
            fees=_fees(row[12]),
            description=row[13],
            repeats=row[14],
        )
        for row in rows(
            database,
            "SELECT id, subject, number, title, credits_least, credits_most, requisites, "
            "gradings, equivalents, by_topic, attempts_allowed, tags, fees, description, repeats "
            "FROM courses",
        )
    }


def _read_meetings(
    database: PooledPostgresqlDatabase, term_id: int, calendar: Calendar
) -> dict[int, list[Meeting]]:
    found: dict[int, list[Meeting]] = defaultdict(list)
    for section, weekdays, starts, ends, first, last, campus, room in rows(
        database,
        "SELECT m.section_id, m.weekdays, m.starts, m.ends, m.first_day, m.last_day, "
        "m.campus, m.room FROM meetings m JOIN sections s ON s.id = m.section_id "
        "WHERE s.term_id = %s ORDER BY m.section_id, m.id",
        (term_id,),
    ):
        found[section].append(
            Meeting.in_term(calendar, weekdays, starts, ends, first, last, campus or "", room)
        )
    return found


def _fees(data: list[dict[str, Any]]) -> tuple[Fee, ...]:
    return tuple(Fee(f["label"], f["cents"]) for f in data)


def _policy(data: dict[str, Any]) -> Policy:
    values = dict(data)
    if "tariff" in values:
        values["tariff"] = Tariff(**values["tariff"])
    if "class_standings" in values:
        values["class_standings"] = tuple((float(n), name) for n, name in values["class_standings"])
    return Policy(**values)
