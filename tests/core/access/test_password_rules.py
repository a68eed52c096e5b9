"""What a password must be, by examples."""

from __future__ import annotations

import unittest

from gremba.core.access.password_rules import password_problem


class Rules(unittest.TestCase):
    def test_long_ones_of_words_will_do(self) -> None:
        for password in ("seven geese in the reeds", "Ω-leaves & rain!", " blanks count too "):
            self.assertEqual(password_problem(password, "wren", "Wren Halloway"), "")

    def test_what_will_not_do_says_what_would(self) -> None:
        for password, words in (
            ("elevensigns", "at least 12 signs"),
            ("x" * 257, "at most 256"),
            ("abababababab", "too much of the same"),
            ("HALLOWAY of the mill", "Your name is in it"),
            ("i sign in as wren", "Your name is in it"),
            ("a line\nbreak in it", "cannot be typed everywhere"),
            ("password1234", "Many people use one like it"),
            ("qwertyuiop123", "Many people use one like it"),
            ("P@ssw0rd2027!", "Many people use one like it"),
            ("iloveyou12345", "Many people use one like it"),
        ):
            self.assertIn(words, password_problem(password, "wren", "Wren Halloway"), password)

    def test_a_name_of_two_letters_is_in_many_words(self) -> None:
        self.assertEqual(password_problem("another heron flies", "an", "Bo Li"), "")
