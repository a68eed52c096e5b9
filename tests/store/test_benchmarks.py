"""What the bench writes fits the tables: it is run by hand, and seldom."""

from __future__ import annotations

import unittest

from benchmarks.trouble import make_trouble
from tests.support.campus import Campus
from tests.support.servers import new_database


class Trouble(unittest.TestCase):
    def test_its_statements_fit_the_tables(self) -> None:
        campus = Campus(new_database())
        self.addCleanup(campus.close)
        student = campus.person()
        make_trouble(campus.database)
        self.assertEqual([row for row, _ in campus.told()], [student.row])
