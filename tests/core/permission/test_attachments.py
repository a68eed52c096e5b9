"""Files that are what they say, and files that are not."""

from __future__ import annotations

import struct
import unittest
import zlib

from hypothesis import given
from hypothesis import strategies as st

from gremba.core.permission.attachments import MOST_NAME, MOST_OCTETS, plain_name, type_of, why_not_attached
from gremba.core.states import FileType
from tests.support.examples import examples

PDF = b"%PDF-1.4\n1 0 obj<</Type/Catalog>>endobj\ntrailer<</Root 1 0 R>>\n%%EOF\n"


def _chunk(kind: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))


PNG = (
    b"\x89PNG\r\n\x1a\n"
    + _chunk(b"IHDR", struct.pack(">IIBBBBB", 1, 1, 8, 0, 0, 0, 0))
    + _chunk(b"IDAT", zlib.compress(b"\x00\x7f"))
    + _chunk(b"IEND", b"")
)
JPEG = b"\xff\xd8\xff\xe0\x00\x10JFIF\x00" + b"\x01" * 20 + b"\xff\xd9"


class Types(unittest.TestCase):
    def test_by_content(self) -> None:
        self.assertIs(type_of(PDF), FileType.PDF)
        self.assertIs(type_of(PNG), FileType.PNG)
        self.assertIs(type_of(JPEG), FileType.JPEG)

    def test_what_is_fine(self) -> None:
        for name, content in (("a.pdf", PDF), ("B.PNG", PNG), ("c.jpg", JPEG), ("d.jpeg", JPEG)):
            self.assertEqual(why_not_attached(name, content), "", name)

    def test_what_lies_is_told_so(self) -> None:
        for name, content, told in (
            ("letter.pdf", b"<html><script>alert(1)</script>", "is no PDF"),
            ("letter.pdf", b"MZ\x90\x00" + b"\x00" * 100, "is no PDF"),
            ("letter.pdf", PNG, "is a PNG picture"),
            ("picture.png", PDF, "is a PDF"),
            ("picture.jpg", b"GIF89a" + b"\x00" * 50, "is no JPEG picture"),
            ("page.svg", b"<svg xmlns='http://www.w3.org/2000/svg'/>", "a PDF or a picture"),
            ("letter.pdf.exe", PDF, "a PDF or a picture"),
            ("noending", PDF, "a PDF or a picture"),
            ("letter.pdf", b"", "empty"),
            ("letter.pdf", PDF[:-10], "is no PDF"),
            ("picture.png", PNG[:-8], "is no PNG picture"),
            ("picture.png", PNG + b"<script>", "is no PNG picture"),
            (
                "picture.png",
                PNG.replace(b"\x00\x00\x00\x01\x00\x00\x00\x01", b"\x00\x00\x00\x02\x00\x00\x00\x01"),
                "is no",
            ),
            ("letter.pdf", PDF + b"\x00" * MOST_OCTETS, "more than 2 MB"),
        ):
            self.assertIn(told, why_not_attached(name, content), (name, content[:20]))

    @given(st.binary(max_size=300), st.sampled_from([b"", PDF[:9], PNG[:8], JPEG[:3]]))
    @examples(200)
    def test_nothing_made_up_is_a_picture(self, content: bytes, begins: bytes) -> None:
        # Only a JPEG is told by its two ends alone.
        self.assertIsNot(type_of(begins + content), FileType.PNG)


class Names(unittest.TestCase):
    def test_folders_and_odd_signs_go(self) -> None:
        for name, expected in (
            ("C:\\Users\\me\\letter.pdf", "letter.pdf"),
            ("../../etc/passwd.pdf", "passwd.pdf"),
            ("  .hidden.pdf ", "hidden.pdf"),
            ('a"b<c>.pdf', "abc.pdf"),
            ("let\r\nter: x\t.pdf", "letter x.pdf"),
            ("lett\u202efdp.pdf", "lettfdp.pdf"),
            ("Zeugnis für Übung.pdf", "Zeugnis für Übung.pdf"),
        ):
            self.assertEqual(plain_name(name), expected)

    def test_a_long_name_keeps_its_ending(self) -> None:
        cut = plain_name("x" * 500 + ".pdf")
        self.assertEqual((len(cut), cut[-4:]), (MOST_NAME, ".pdf"))

    @given(st.text(max_size=300))
    @examples(200)
    def test_no_name_leads_anywhere(self, name: str) -> None:
        cut = plain_name(name)
        self.assertLessEqual(len(cut), MOST_NAME)
        self.assertTrue(set(cut).isdisjoint('/\\"<>:|?*\n\r\t\0\x7f\x9f'))
        self.assertFalse(cut.startswith("."))


if __name__ == "__main__":
    unittest.main()
