"""Text that goes into tables which spreadsheet programs open, and comes back."""

from __future__ import annotations

import unittest

from hypothesis import example, given
from hypothesis import strategies as st

from gremba.core.plain_text import as_before_defusing, begins_formula, defused


class Defused(unittest.TestCase):
    @given(st.text(st.sampled_from("'=+-@ \t\n\r\x00") | st.characters(), max_size=6))
    @example("'=")
    @example("''")
    @example("\uff1d1")
    @example("\x00=1")
    def test_no_program_runs_it_and_it_comes_back_as_it_was(self, text: str) -> None:
        self.assertFalse(begins_formula(defused(text)))
        self.assertEqual(as_before_defusing(defused(text)), text)

    def test_by_hand(self) -> None:
        for text, cell in (("=1+1", "'=1+1"), (" -2", "' -2"), ("'tis", "''tis"), ("tis", "tis")):
            with self.subTest(text):
                self.assertEqual(defused(text), cell)
        self.assertEqual(as_before_defusing("'tis"), "'tis")


if __name__ == "__main__":
    unittest.main()
