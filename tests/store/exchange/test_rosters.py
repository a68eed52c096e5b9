"""Rosters in OneRoster 1.2 CSV: the standard's files and columns (from memory), whole, and each reference
to something that is there."""

from __future__ import annotations

import csv
import io
import unittest
import zipfile

from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.exchange.rosters import write_rosters
from gremba.actions.problem import Problem
from gremba.store.database import connect, connected, fetch_sql
from tests.support.servers import new_database

# Of the standard's CSV binding: by file the required columns that are never empty in a bulk export, and the
# words allowed where it names them.
REQUIRED = {
    "orgs": ("sourcedId", "name", "type"),
    "academicSessions": ("sourcedId", "title", "type", "startDate", "endDate", "schoolYear"),
    "courses": ("sourcedId", "title", "orgSourcedId"),
    "classes": ("sourcedId", "title", "courseSourcedId", "classType", "schoolSourcedId", "termSourcedIds"),
    "users": ("sourcedId", "enabledUser", "username", "givenName", "familyName"),
    "roles": ("sourcedId", "userSourcedId", "roleType", "role", "orgSourcedId"),
    "enrollments": ("sourcedId", "classSourcedId", "schoolSourcedId", "userSourcedId", "role"),
}
WORDS = {
    ("orgs", "type"): {"department", "school", "district", "local", "state", "national"},
    ("academicSessions", "type"): {"gradingPeriod", "semester", "schoolYear", "term"},
    ("classes", "classType"): {"homeroom", "scheduled"},
    ("roles", "roleType"): {"primary", "secondary"},
    ("enrollments", "role"): {"administrator", "proctor", "student", "teacher"},
    ("enrollments", "primary"): {"true", "false"},
    ("users", "enabledUser"): {"true", "false"},
}
REFERENCES = {
    ("courses", "orgSourcedId"): "orgs",
    ("classes", "courseSourcedId"): "courses",
    ("classes", "schoolSourcedId"): "orgs",
    ("classes", "termSourcedIds"): "academicSessions",
    ("users", "primaryOrgSourcedId"): "orgs",
    ("roles", "userSourcedId"): "users",
    ("roles", "orgSourcedId"): "orgs",
    ("enrollments", "classSourcedId"): "classes",
    ("enrollments", "userSourcedId"): "users",
    ("enrollments", "schoolSourcedId"): "orgs",
}


class OneRoster(unittest.TestCase):
    database: PooledPostgresqlDatabase
    files: dict[str, list[dict[str, str]]]

    @classmethod
    def setUpClass(cls) -> None:
        cls.database = connect(new_database("demo"))
        cls.addClassCleanup(cls.database.close_all)
        file = io.BytesIO()
        write_rosters(cls.database, "harvest-2027", "Brindlemere College of Land and Craft", file)
        with zipfile.ZipFile(file) as archive:
            cls.files = {
                name.removesuffix(".csv"): list(
                    csv.DictReader(io.StringIO(archive.read(name).decode("utf-8")))
                )
                for name in archive.namelist()
            }

    def test_the_manifest_names_every_file_and_what_is_not_there(self) -> None:
        said = {row["propertyName"]: row["value"] for row in self.files["manifest"]}
        self.assertEqual((said["manifest.version"], said["oneroster.version"]), ("1.0", "1.2"))
        bulk = {name.removeprefix("file.") for name, value in said.items() if value == "bulk"}
        self.assertEqual(bulk, set(self.files) - {"manifest"})
        self.assertEqual(bulk, set(REQUIRED))
        self.assertEqual(said["file.results"], "absent")

    def test_required_columns_are_filled_and_those_of_changes_are_not(self) -> None:
        for name, required in REQUIRED.items():
            self.assertGreater(len(self.files[name]), 0, name)
            for row in self.files[name]:
                self.assertEqual([column for column in required if not row[column]], [], (name, row))
                self.assertEqual((row["status"], row["dateLastModified"]), ("", ""))

    def test_words_are_those_of_the_standard_and_ids_stand_once(self) -> None:
        for (name, column), words in WORDS.items():
            self.assertLessEqual({row[column] for row in self.files[name]}, words, (name, column))
        for name in REQUIRED:
            ids = [row["sourcedId"] for row in self.files[name]]
            self.assertEqual(len(ids), len(set(ids)), name)

    def test_every_reference_is_to_something_there(self) -> None:
        for (name, column), target in REFERENCES.items():
            there = {row["sourcedId"] for row in self.files[target]}
            self.assertLessEqual({row[column] for row in self.files[name]}, there, (name, column))

    def test_it_is_everybody_who_is_registered_and_nobody_else(self) -> None:
        with connected(self.database):
            registered = fetch_sql(
                self.database,
                "SELECT s.reference_number, p.username FROM registrations r "
                "JOIN sections s ON s.id = r.section_id JOIN student_terms st ON st.id = r.student_term_id "
                "JOIN persons p ON p.id = st.student_id JOIN terms t ON t.id = r.term_id "
                "WHERE r.state = 'registered' AND t.code = 'harvest-2027' AND NOT s.cancelled",
            )
        said = {
            (row["classSourcedId"].rpartition("-")[2], row["userSourcedId"].removeprefix("user-"))
            for row in self.files["enrollments"]
            if row["role"] == "student"
        }
        self.assertEqual(said, {tuple(row) for row in registered})
        self.assertGreater(len(said), 1_000)

    def test_a_term_that_is_not_there(self) -> None:
        with self.assertRaisesRegex(Problem, "") as caught:
            write_rosters(self.database, "nowhere", "Brindlemere", io.BytesIO())
        self.assertEqual(caught.exception.detail, "There is no term nowhere.")
