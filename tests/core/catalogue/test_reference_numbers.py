"""Numbers out of whatever people paste."""

from __future__ import annotations

import re
import unicodedata
import unittest
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st

from gremba.core.catalogue.reference_numbers import read_pasted
from gremba.core.plain_text import normalized


class Pasting(unittest.TestCase):
    CASES: tuple[tuple[str, list[str]], ...] = (
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

    def test_thousands_of_words_are_summed_up(self) -> None:
        found = read_pasted("word " * 3_000 + "30412 " + "999 " * 500)
        self.assertEqual((found.numbers, found.words), (("30412",), 3_000))
        self.assertEqual(len(found.misread) + found.misread_more, 500)
        self.assertLessEqual(len(found.misread), 20)

    def test_of_a_longer_text_the_beginning_is_read(self) -> None:
        self.assertEqual(read_pasted("30412 " + "x" * 20_000 + " 30415").numbers, ("30412",))

    def test_marks_without_end_cost_what_their_number_does(self) -> None:
        """Whole, normalising these takes time that grows with the square of their number."""
        pasted = "30412 e" + "\u0301\u0316" * 9_000
        pieces = []
        real = unicodedata.normalize

        def normalize(form: str, piece: str) -> str:
            pieces.append(len(piece))
            return real(form, piece)  # type: ignore[arg-type]

        with mock.patch("unicodedata.normalize", normalize):
            self.assertEqual(read_pasted(pasted).numbers, ("30412",))
        self.assertLessEqual(max(pieces), 256)
        self.assertEqual(sum(pieces), len(pasted))

    @given(st.text(st.sampled_from("aé\u0301\u0316ﬁ１한\u1112\u1161\u11ab 1"), max_size=900))
    def test_piece_by_piece_is_what_whole_would_be(self, text: str) -> None:
        """As long as no more marks stand behind one letter than anybody writes."""
        text = re.sub("([\u0301\u0316]{8})[\u0301\u0316]+", r"\1", text)
        whole = unicodedata.normalize("NFKD", text)
        self.assertEqual(normalized(text, "NFKD"), whole)
        self.assertEqual(
            unicodedata.normalize("NFC", normalized(text, "NFKC")), unicodedata.normalize("NFKC", text)
        )

    @given(st.lists(st.integers(0, 99_999), max_size=20), st.sampled_from([" ", "\n", ", ", " / "]))
    def test_all_numbers_are_found_whatever_joins_them(self, values: list[int], joint: str) -> None:
        wanted = [f"{v:05d}" for v in values]
        found = read_pasted(joint.join(wanted))
        self.assertEqual(list(found.numbers), list(dict.fromkeys(wanted)))

    @given(st.text(max_size=300))
    def test_any_text_is_read_and_gives_only_five_digits(self, text: str) -> None:
        for number in read_pasted(text).numbers:
            self.assertRegex(number, r"^[0-9]{5}$")
