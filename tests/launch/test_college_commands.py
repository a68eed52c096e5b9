"""The commands by which a college comes in and goes out, said as somebody types them."""

from __future__ import annotations

import tempfile
import unittest
import zipfile
from pathlib import Path

from typer.testing import CliRunner

from gremba.college_commands import college
from tests.support.campus import TERM, Campus
from tests.support.servers import new_database


class Commands(unittest.TestCase):
    campus: Campus
    number: str

    @classmethod
    def setUpClass(cls) -> None:
        cls.campus = Campus(new_database())
        cls.addClassCleanup(cls.campus.close)
        cls.number = cls.campus.section(seats=5, weekdays="MW")

    def setUp(self) -> None:
        held = tempfile.TemporaryDirectory()
        self.addCleanup(held.cleanup)
        self.folder = Path(held.name)

    def say(self, *words: str, url: str = "") -> tuple[int, str]:
        done = CliRunner().invoke(college, list(words), env={"GREMBA_DATABASE_URL": url or self.campus.url})
        if done.exception is not None and not isinstance(done.exception, SystemExit):
            raise done.exception
        return done.exit_code, " ".join(done.stdout.split())

    def test_out_and_in_again_in_each_form(self) -> None:
        for name in ("college", "college.zip", "college.xlsx"):
            target = self.folder / name
            self.assertEqual(self.say("export", str(target)), (0, f"Written to {target}."))
            code, told = self.say("import", str(target))
            self.assertEqual((code, told), (0, "Everything in it is there already; nothing was changed."))
            self.assertEqual(self.say("export", str(target))[0], 1)

    def test_one_table_of_it(self) -> None:
        target = self.folder / "one.zip"
        self.assertEqual(self.say("export", str(target), "--table", "subjects")[0], 0)
        self.assertEqual(set(zipfile.ZipFile(target).namelist()), {"subjects.csv", "datapackage.json"})
        code, told = self.say("export", str(self.folder / "two.zip"), "--table", "subject")
        self.assertEqual(code, 2)
        self.assertIn("There is no table subject. There are campuses, travel", told)

    def test_an_import_is_on_record_and_a_trial_is_not(self) -> None:
        table = self.folder / "subjects.csv"
        table.write_text("code,name\nSALT,Salt making\n")
        entries = "SELECT count(*) FROM audit_entries WHERE detail LIKE 'exchange folder%%'"
        self.assertIn("This was a trial", self.say("import", str(table), "--trial")[1])
        self.assertEqual(self.campus.value(entries), 0)
        self.assertIn("Taken over", self.say("import", str(table))[1])
        self.assertEqual(self.campus.value(entries), 1)
        self.assertRegex(self.say("verify-record")[1], r"entr(y|ies) from .* all as written")
        table.write_text("code,name\nsalt,x\n")
        code, told = self.say("import", str(table))
        self.assertEqual(code, 1)
        self.assertIn("1 mistake; nothing was taken over.", told)

    def test_an_altered_record(self) -> None:
        self.say("invite", "maud", "--role", "registrar")
        self.campus.run("ALTER TABLE audit_entries DISABLE TRIGGER keep_audit_entries")
        self.campus.run("UPDATE audit_entries SET detail = 'nothing' WHERE detail = 'password link for maud'")
        self.campus.run("ALTER TABLE audit_entries ENABLE TRIGGER keep_audit_entries")
        code, told = self.say("verify-record")
        self.assertEqual(code, 1)
        self.assertIn("The record has been altered.", told)
        self.campus.run("ALTER TABLE audit_entries DISABLE TRIGGER keep_audit_entries")
        self.campus.run("UPDATE audit_entries SET detail = 'password link for maud' WHERE detail = 'nothing'")
        self.campus.run("ALTER TABLE audit_entries ENABLE TRIGGER keep_audit_entries")

    def test_rosters(self) -> None:
        target = self.folder / "rosters.zip"
        self.assertEqual(self.say("rosters", TERM, str(target), "--college", "Weir")[0], 0)
        self.assertIn("manifest.csv", zipfile.ZipFile(target).namelist())
        code, told = self.say("rosters", "never", str(self.folder / "x.zip"), "--college", "Weir")
        self.assertEqual(code, 1)
        self.assertIn("There is no term never.", told)

    def test_what_cannot_be_opened_is_said_in_words(self) -> None:
        code, told = self.say("import", str(self.folder / "nothing.zip"))
        self.assertEqual(code, 1)
        self.assertIn("There is no folder and no file of that name", told)
        code, told = self.say("verify-record", url=f"{self.campus.url}_never")
        self.assertEqual(code, 2)
        self.assertIn("The database cannot be reached", told)

    def test_a_database_of_another_version(self) -> None:
        rename = "UPDATE schema_migration SET name = %s WHERE name = %s"
        self.campus.run(rename, "0009_of_tomorrow", "0009_audit_chain")
        self.addCleanup(self.campus.run, rename, "0009_audit_chain", "0009_of_tomorrow")
        code, told = self.say("export", str(self.folder / "x"))
        self.assertEqual(code, 2)
        self.assertIn("This database is of another version", told)
