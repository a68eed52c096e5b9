"""Exports a term's rosters for learning platforms."""

from __future__ import annotations

from typing import IO

from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.formats.decision_json import title_of
from gremba.formats.one_roster import RosterPerson, Rosters, RosterSection, write_one_roster
from gremba.store.catalogue.read_term import read_term
from gremba.store.database import connected
from gremba.store.exchange.rosters import enrolled_in, people_named


def write_rosters(database: PooledPostgresqlDatabase, code: str, college: str, file: IO[bytes]) -> None:
    """Write a term's enrollments and instructors as OneRoster 1.2 CSV.

    Args:
        code: of the term.
        college: what it is called.

    Raises:
        Problem: there is no such term.
    """
    with connected(database), database.atomic():
        term = read_term(database, code)
        if term is None:
            raise Problem(ProblemKind.NOT_FOUND, f"There is no term {code}.")
        there = [section for section in term.sections if not section.cancelled]
        enrolled = enrolled_in(database, term.id)
        people = people_named(database, {username for _, username, _ in enrolled})
    roles = {username: role for _, username, role in enrolled}
    sections = [
        RosterSection(
            section.reference_number,
            section.course.key,
            title_of(section),
            section.course.subject,
            term.subject_names.get(section.course.subject, section.course.subject),
            next((meeting.room for meeting in section.meetings if meeting.room), ""),
        )
        for section in there
    ]
    numbers = {section.number for section in sections}
    write_one_roster(
        file,
        Rosters(
            college,
            term.code,
            term.name,
            term.calendar.first,
            term.calendar.last,
            sections,
            [RosterPerson(name, full, email, roles[name]) for name, full, email in people],
            [one for one in enrolled if one[0] in numbers],
        ),
    )
