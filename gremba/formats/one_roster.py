"""Rosters for learning platforms: OneRoster 1.2 CSV, an open standard of 1EdTech.

A bulk export of the tables orgs, academicSessions, courses, classes, users, roles and enrollments with their
manifest, as the standard's CSV binding has them (from memory: the text was not at hand). Of each table all
columns are there, in the standard's order; in a bulk export `status` and `dateLastModified` are empty.
"""

from __future__ import annotations

import csv
import io
import zipfile
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from typing import IO

from gremba.formats.table_file import safe_cell

TABLES: dict[str, tuple[str, ...]] = {
    "orgs": ("sourcedId", "status", "dateLastModified", "name", "type", "identifier", "parentSourcedId"),
    "academicSessions": (
        *("sourcedId", "status", "dateLastModified", "title", "type", "startDate", "endDate"),
        *("parentSourcedId", "schoolYear"),
    ),
    "courses": (
        *("sourcedId", "status", "dateLastModified", "schoolYearSourcedId", "title", "courseCode"),
        *("grades", "orgSourcedId", "subjects", "subjectCodes"),
    ),
    "classes": (
        *("sourcedId", "status", "dateLastModified", "title", "grades", "courseSourcedId", "classCode"),
        *(
            "classType",
            "location",
            "schoolSourcedId",
            "termSourcedIds",
            "subjects",
            "subjectCodes",
            "periods",
        ),
    ),
    "users": (
        *("sourcedId", "status", "dateLastModified", "enabledUser", "username", "userIds", "givenName"),
        *("familyName", "middleName", "identifier", "email", "sms", "phone", "agentSourcedIds", "grades"),
        *("password", "userMasterIdentifier", "preferredGivenName", "preferredMiddleName"),
        *("preferredFamilyName", "primaryOrgSourcedId", "pronouns"),
    ),
    "roles": (
        *("sourcedId", "status", "dateLastModified", "userSourcedId", "roleType", "role", "beginDate"),
        *("endDate", "orgSourcedId", "userProfileSourcedId"),
    ),
    "enrollments": (
        *("sourcedId", "status", "dateLastModified", "classSourcedId", "schoolSourcedId", "userSourcedId"),
        *("role", "primary", "beginDate", "endDate"),
    ),
}

ABSENT = (
    *("categories", "classResources", "courseResources", "demographics", "lineItemLearningObjectiveIds"),
    *("lineItems", "lineItemScoreScales", "resources", "resultLearningObjectiveIds", "results"),
    *("resultScoreScales", "scoreScales", "userProfiles", "userResources"),
)
"""Tables of the standard that are not written; the manifest says so."""


@dataclass(frozen=True, slots=True)
class RosterSection:
    """A section that is offered."""

    number: str
    course: str
    title: str
    subject: str
    subject_name: str
    location: str


@dataclass(frozen=True, slots=True)
class RosterPerson:
    """A person on a roster.

    Attributes:
        role: "student" or "teacher".
    """

    username: str
    full_name: str
    email: str
    role: str


@dataclass(frozen=True, slots=True)
class Rosters:
    """A term's rosters.

    Attributes:
        enrolled: number of the section, user name, and "student" or "teacher".
    """

    college: str
    term_code: str
    term_name: str
    first_day: date
    last_day: date
    sections: Sequence[RosterSection]
    people: Sequence[RosterPerson]
    enrolled: Sequence[tuple[str, str, str]]


def write_one_roster(file: IO[bytes], rosters: Rosters) -> None:
    """Write a term's rosters as one .zip."""
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("manifest.csv", _table(("propertyName", "value"), _manifest()))
        for name, rows in _rows(rosters).items():
            named = ([row.get(column, "") for column in TABLES[name]] for row in rows)
            archive.writestr(f"{name}.csv", _table(TABLES[name], named))


def _table(heading: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    text = io.StringIO(newline="")
    writer = csv.writer(text, lineterminator="\r\n")
    writer.writerow(heading)
    writer.writerows([safe_cell(cell) for cell in row] for row in rows)
    return text.getvalue()


def _manifest() -> list[tuple[str, str]]:
    files = {**dict.fromkeys(TABLES, "bulk"), **dict.fromkeys(ABSENT, "absent")}
    return [
        ("manifest.version", "1.0"),
        ("oneroster.version", "1.2"),
        *((f"file.{name}", files[name]) for name in sorted(files, key=str.lower)),
        ("source.systemName", "Gremba"),
        ("source.systemCode", "gremba"),
    ]


def _rows(rosters: Rosters) -> dict[str, list[dict[str, str]]]:
    org, year = "org-college", _school_year(rosters)
    session = f"term-{rosters.term_code}"
    courses = {section.course: section for section in rosters.sections}
    return {
        "orgs": [{"sourcedId": org, "name": rosters.college, "type": "school"}],
        "academicSessions": [
            {
                "sourcedId": session,
                "title": rosters.term_name,
                "type": "term",
                "startDate": rosters.first_day.isoformat(),
                "endDate": rosters.last_day.isoformat(),
                "schoolYear": year,
            }
        ],
        "courses": [
            {
                "sourcedId": _course_id(course),
                "title": section.title,
                "courseCode": course,
                "orgSourcedId": org,
                "subjects": section.subject_name,
                "subjectCodes": section.subject,
            }
            for course, section in courses.items()
        ],
        "classes": [
            {
                "sourcedId": _class_id(rosters, section.number),
                "title": f"{section.course} {section.number}",
                "courseSourcedId": _course_id(section.course),
                "classCode": section.number,
                "classType": "scheduled",
                "location": section.location,
                "schoolSourcedId": org,
                "termSourcedIds": session,
                "subjects": section.subject_name,
                "subjectCodes": section.subject,
            }
            for section in rosters.sections
        ],
        "users": [_user(person, org) for person in rosters.people],
        "roles": [
            {
                "sourcedId": f"role-{person.username}",
                "userSourcedId": _user_id(person.username),
                "roleType": "primary",
                "role": person.role,
                "orgSourcedId": org,
            }
            for person in rosters.people
        ],
        "enrollments": [
            {
                "sourcedId": f"enrollment-{rosters.term_code}-{number}-{username}",
                "classSourcedId": _class_id(rosters, number),
                "schoolSourcedId": org,
                "userSourcedId": _user_id(username),
                "role": role,
                "primary": "true" if role == "teacher" and username == first else "false",
                "beginDate": rosters.first_day.isoformat(),
                "endDate": rosters.last_day.isoformat(),
            }
            for number, username, role, first in _with_first_teacher(rosters.enrolled)
        ],
    }


def _with_first_teacher(enrolled: Sequence[tuple[str, str, str]]) -> list[tuple[str, str, str, str]]:
    """Marks one instructor of each section as the primary one."""
    first: dict[str, str] = {}
    for number, username, role in enrolled:
        if role == "teacher":
            first.setdefault(number, username)
    return [(number, username, role, first.get(number, "")) for number, username, role in enrolled]


def _school_year(rosters: Rosters) -> str:
    """The year in which a term's school year ends; it starts in July (common practice)."""
    return str(rosters.first_day.year + (rosters.first_day.month >= 7))


def _user(person: RosterPerson, org: str) -> dict[str, str]:
    given, _, family = person.full_name.rpartition(" ")
    return {
        "sourcedId": _user_id(person.username),
        "enabledUser": "true",
        "username": person.username,
        "givenName": given or family,
        "familyName": family,
        "email": person.email,
        "primaryOrgSourcedId": org,
    }


def _user_id(username: str) -> str:
    return f"user-{username}"


def _course_id(course: str) -> str:
    return f"course-{course.replace(' ', '-')}"


def _class_id(rosters: Rosters, number: str) -> str:
    return f"class-{rosters.term_code}-{number}"
