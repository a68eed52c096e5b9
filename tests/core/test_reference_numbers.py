"""Numbers out of whatever people paste."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from gremba.core.reference_numbers import read_pasted


class Pasting(unittest.TestCase):
    CASES = (
        ("30412", ["30412"]),
        ("30412 30415", ["30412", "30415"]),
        ("30412,30415;30416\n30417\t30418", ["30412", "30415", "30416", "30417", "30418"]),
        ("#30412 (SOIL 240, MW 10:00) and/or 30415.", ["30412", "30415"]),
        ("SOIL 240 30412\nAPIC 110 31040", ["30412", "31040"]),
        ("３０４１２", ["30412"]),
        ("٣٠٤١٢", ["30412"]),
        ("30412_30415", ["30412", "30415"]),
        ("30412 30412", ["30412"]),
        ("", []),
        ("nothing here", []),
    )

    def test_table(self) -> None:
        for text, numbers in self.CASES:
            with self.subTest(text):
                self.assertEqual(list(read_pasted(text).numbers), numbers)

    def test_slips_are_explained(self) -> None:
        found = read_pasted("3041 304122 3041230415 30x12")
        self.assertEqual(found.numbers, ())
        reasons = {m.text: m.reason for m in found.misread}
        self.assertIn("4 digits", reasons["3041"])
        self.assertIn("6 digits", reasons["304122"])
        self.assertIn("2 numbers without a space", reasons["3041230415"])
        self.assertIn("only digits", reasons["30x12"])

    def test_a_number_given_twice_counts_once(self) -> None:
        self.assertEqual(read_pasted("30412 30415 30412").numbers, ("30412", "30415"))

    def test_ten_thousand_words_are_summed_up(self) -> None:
        found = read_pasted("word " * 10_000 + "30412 " + "999 " * 500)
        self.assertEqual((found.numbers, found.words), (("30412",), 10_000))
        self.assertEqual(len(found.misread) + found.misread_more, 500)
        self.assertLessEqual(len(found.misread), 20)

    @given(st.lists(st.integers(0, 99_999), max_size=20), st.sampled_from([" ", "\n", ", ", " / "]))
    def test_all_numbers_are_found_whatever_joins_them(self, values: list[int], joint: str) -> None:
        wanted = [f"{v:05d}" for v in values]
        found = read_pasted(joint.join(wanted))
        self.assertEqual(list(found.numbers), list(dict.fromkeys(wanted)))

    @given(st.text(max_size=300))
    def test_any_text_is_read_and_gives_only_five_digits(self, text: str) -> None:
        for number in read_pasted(text).numbers:
            self.assertRegex(number, r"^[0-9]{5}$")
