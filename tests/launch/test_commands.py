"""The commands beside ./start: requisites in and out of a catalogue, and settings that are missing."""

from __future__ import annotations

import os
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from typer.testing import CliRunner, Result

from gremba.cli import app
from tests.support.campus import Campus
from tests.support.servers import new_database


class Requisites(unittest.TestCase):
    def setUp(self) -> None:
        self.campus = Campus(new_database())
        self.addCleanup(self.campus.close)
        for _ in range(3):
            self.campus.section(seats=5)
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.list = Path(folder.name) / "needs.txt"

    def run_command(self, *command: str) -> Result:
        return CliRunner().invoke(app, command)

    def write(self, text: str) -> Result:
        self.list.write_text(text)
        return self.run_command("requisites", str(self.list), "--database", self.campus.url)

    def test_a_list_goes_in_and_comes_out_again(self) -> None:
        version = self.campus.value("SELECT catalogue_version FROM terms")
        written = self.write("# remarks\nLAND 102: LAND 101:C\nLAND 103: any(LAND 101, LAND 102:B)\n")
        self.assertEqual(written.exit_code, 0, written.output)
        self.assertIn("2 courses, no mistakes.", written.output)
        self.assertEqual(self.campus.value("SELECT catalogue_version FROM terms"), version + 1)
        out = self.run_command("catalogue-requisites", self.campus.url).output
        self.assertEqual(out, "LAND 101:\nLAND 102: LAND 101:C\nLAND 103: any(LAND 101, LAND 102:B)\n")
        # What came out can be written back, and says the same.
        self.assertEqual(self.write(out).exit_code, 0)
        self.assertEqual(self.run_command("catalogue-requisites", self.campus.url).output, out)

    def test_mistakes_circles_and_strange_courses_write_nothing(self) -> None:
        for text, said in (
            ("LAND 102: LAND 101:\nLAND 103 LAND 101\n", "needs.txt, line 2"),
            (
                "LAND 101: LAND 102\nLAND 102: LAND 101\n",
                "each needs the next: LAND 101 → LAND 102 → LAND 101",
            ),
            ("LAND 101: LAND 102\nSOIL 101: LAND 102\n", "the catalogue has no SOIL 101"),
        ):
            with self.subTest(said):
                done = self.write(text)
                self.assertEqual(done.exit_code, 1, done.output)
                self.assertIn(said, " ".join(done.output.split()))
                self.assertIn("Nothing was written", done.output)
        self.assertEqual(self.campus.value("SELECT count(*) FROM courses WHERE requisites IS NOT NULL"), 0)

    def test_a_database_that_is_not_there_is_told(self) -> None:
        self.list.write_text("LAND 102: LAND 101\n")
        nowhere = "postgresql://nobody@127.0.0.1:9/none"
        done = self.run_command("requisites", str(self.list), "--database", nowhere)
        self.assertEqual(done.exit_code, 2)
        self.assertIn("--database:", done.output)
        self.assertEqual(self.run_command("catalogue-requisites", nowhere).exit_code, 2)


class Serving(unittest.TestCase):
    def test_a_setting_that_is_missing_is_named(self) -> None:
        bare = {name: value for name, value in os.environ.items() if not name.startswith("GREMBA_")}
        with mock.patch.dict(os.environ, bare, clear=True):
            done = CliRunner().invoke(app, ["serve"])
        self.assertEqual(done.exit_code, 2)
        self.assertIn("GREMBA_DATABASE_URL", done.output)
