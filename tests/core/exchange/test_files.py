"""Files as people and programs make them: codes, separators, archives and workbooks, whole and broken."""

from __future__ import annotations

import io
import json
import random
import re
import tempfile
import time
import unittest
import zipfile
from collections.abc import Iterable, Mapping
from datetime import datetime
from datetime import time as hour
from pathlib import Path
from typing import Any
from unittest import mock
from zoneinfo import ZoneInfo

import frictionless
from hypothesis import given
from hypothesis import strategies as st
from openpyxl import Workbook
from python_calamine import CalamineWorkbook

from gremba.core.exchange.rows import Mistakes, read_rows
from gremba.core.exchange.tables import BY_NAME, TABLES
from gremba.core.exchange.values import read_value
from gremba.formats.exchange import source as opening
from gremba.formats.exchange.sheets import Formula, UnreadableFile
from gremba.formats.exchange.source import open_packed, open_source
from gremba.formats.exchange.workbook import _look_through_sheet
from gremba.formats.exchange.writing import cells_of, write_archive, write_folder, write_workbook

ZONE = ZoneInfo("America/New_York")
SUBJECTS = "code,name\nSOIL,Soil science\nAPIC,Bees; their keeping\n"


def read(path: Path | io.BytesIO) -> tuple[dict[str, list[tuple[Any, ...]]], list[str]]:
    """The values by table, and the mistakes in words."""
    mistakes, found = Mistakes(), {}
    source = open_source(path) if isinstance(path, Path) else open_packed(path)
    with source:
        for sheet in source.sheets():
            try:
                _, rows = read_rows(BY_NAME[sheet.name], sheet.rows, ZONE, mistakes, Formula)
                found[sheet.name] = [values for _, values in rows]
            except UnreadableFile as problem:
                return found, [f"{sheet.name} {problem.line}: {problem}"]
    return found, [str(mistake) for mistake in mistakes.noted]


def packed(files: Mapping[str, str | bytes]) -> io.BytesIO:
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in files.items():
            archive.writestr(name, content)
    file.seek(0)
    return file


def workbook(name: str, rows: Iterable[Any], merge: str = "") -> io.BytesIO:
    book, file = Workbook(), io.BytesIO()
    sheet = book.active
    assert sheet is not None
    sheet.title = name
    for row in rows:
        sheet.append(list(row))
    if merge:
        sheet.merge_cells(merge)
    book.save(file)
    file.seek(0)
    return file


class Text(unittest.TestCase):
    def read_text(self, content: bytes, name: str = "subjects.csv") -> Any:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / name
            path.write_bytes(content)
            return read(path)

    def test_in_every_code_that_says_what_it_is(self) -> None:
        usual, _ = self.read_text(SUBJECTS.encode())
        self.assertEqual(usual["subjects"], [("SOIL", "Soil science"), ("APIC", "Bees; their keeping")])
        for code in ("utf-8-sig", "utf-16"):
            self.assertEqual(self.read_text(SUBJECTS.encode(code)), (usual, []))

    def test_with_semicolons_or_tabs_and_other_line_ends(self) -> None:
        for sign in (";", "\t"):
            text = f'code{sign}name\r\nSOIL{sign}"Soil, wet"\r\n\r\n'
            self.assertEqual(self.read_text(text.encode())[0]["subjects"], [("SOIL", "Soil, wet")])

    def test_in_another_code_it_is_told_what_it_looks_like(self) -> None:
        _, told = self.read_text("code,name\nCAFE,Café keeping\n".encode("cp1252"))
        self.assertIn("Windows-1252: “", told[0])
        self.assertIn("Café keeping", told[0])
        self.assertIn("save it as CSV, UTF-8", told[0])
        _, told = self.read_text(b"PK\x00\x00")
        self.assertIn("is no text", told[0])

    def test_a_quote_that_does_not_end_is_told_by_its_line(self) -> None:
        _, told = self.read_text(b'code,name\nSOIL,"Soil\n' + b"x,y\n" * 60_000)
        self.assertIn("a quote that does not end", told[0])

    def test_bounds_are_kept_before_anything_is_made(self) -> None:
        heading = b"code,name\n"
        for content, said in (
            (heading + b"," * 250 + b"\n", "subjects 2: has more than 200 columns"),
            (heading + b"," * 20_000_000, "subjects 2: has a row of more than 1,000,000 signs"),
            (heading + b'SOIL,"' + b"\n" * 2_000_000, "subjects 2: has a row of more than 1,000,000 signs"),
            (heading + b'"x\n",' * 400_000, "subjects 2: has a row of more than 1,000,000 signs"),
            (heading + b'SOIL,"S"oil\n', "subjects 2: cannot be read from here on"),
        ):
            with self.subTest(said=said):
                _, told = self.read_text(content)
                self.assertIn(said, told[0])

    def test_empty_lines_count(self) -> None:
        with mock.patch("gremba.formats.exchange.text_sheet.MOST_ROWS", 50):
            _, told = self.read_text(b"code,name\n" + b"\n" * 49 + b"SOIL,Soil\n")
            self.assertIn("rows; send it in parts", told[0])
            found, told = self.read_text(b"code,name\n" + b"\n" * 40 + b"SOIL,Soil\n")
            self.assertEqual((len(found["subjects"]), told), (1, []))

    def test_headings(self) -> None:
        _, told = self.read_text(b"Code,nmae\nSOIL,x\n")
        self.assertEqual(
            told,
            [
                "subjects, line 1: there is no column “nmae”; name?",
            ],
        )
        # What a row is known by must be there; what else a new one needs is asked for where there is one.
        _, told = self.read_text(b"name\nSoil\n")
        self.assertEqual(told, ["subjects, line 1, code: is missing in the heading."])
        _, told = self.read_text(b"code,name,name\nSOIL,x,y,z\n")
        self.assertIn("stands twice", told[0])
        self.assertIn("more cells than the heading", told[1])

    def test_every_mistake_is_told_with_its_line(self) -> None:
        rows = b"term,number,weekdays,starts,ends,first_day,last_day\n" + (
            b"harvest-2027,30412,TR,10:45,09:30,2027-08-23,2027-12-10\n"
            b"harvest-2027,412,TX,9,09:30,2027-08-23,2027-08-01\n"
        )
        _, told = self.read_text(rows, "meetings.csv")
        self.assertEqual(
            told,
            [
                "meetings, line 2, ends “09:30:00”: is not after starts.",
                "meetings, line 3, number “412”: must be five figures; 00412?",
                "meetings, line 3, weekdays “TX”: must be letters of MTWRFSU in this order.",
                "meetings, line 3, starts “9”: must be a time as 09:30.",
                "meetings, line 3, last_day “2027-08-01”: is before first_day.",
            ],
        )


class Archives(unittest.TestCase):
    def test_a_folder_within_is_looked_into_and_strangers_are_named(self) -> None:
        file = packed(
            {"college/subjects.csv": SUBJECTS, "college/notes.docx": b"x", "datapackage.json": "{}"}
        )
        with open_packed(file) as source:
            self.assertEqual(source.strangers, ("notes.docx",))
            self.assertEqual([sheet.name for sheet in source.sheets()], ["subjects"])

    def refused(self, file: io.BytesIO) -> str:
        with self.assertRaises(UnreadableFile) as caught:
            open_packed(file)
        return str(caught.exception)

    def test_names_that_lead_out(self) -> None:
        for name in (
            "../subjects.csv",
            "/etc/subjects.csv",
            "a/../../subjects.csv",
            "C:\\subjects.csv",
            "..\\x.csv",
        ):
            self.assertIn("leads out", self.refused(packed({name: SUBJECTS})), name)

    def test_bombs_go_off_before_they_are_opened(self) -> None:
        began = time.perf_counter()
        with mock.patch.object(opening, "MOST_BYTES", 1 << 20):
            self.assertIn("more than 1 MB", self.refused(packed({"subjects.csv": b"a" * (1 << 21)})))
        self.assertIn("more than 300 files", self.refused(packed({f"{n}.csv": "" for n in range(301)})))
        self.assertLess(time.perf_counter() - began, 20)

    def test_one_that_lies_about_its_length_is_cut_off(self) -> None:
        file = packed({"subjects.csv": b"code,name\n" + b"SOIL,x\n" * 400_000})
        with open_packed(file) as source:
            with mock.patch.object(opening, "MOST_BYTES", 1 << 20):
                [sheet] = source.sheets()
            with self.assertRaises(UnreadableFile):
                for _ in sheet.rows:
                    pass

    def test_what_is_damaged_locked_or_no_archive(self) -> None:
        whole = packed({"subjects.csv": SUBJECTS}).getvalue()
        self.assertIn("no .zip", self.refused(io.BytesIO(b"nothing of the kind")))
        self.assertIn("no .zip", self.refused(io.BytesIO(whole[:40])))
        locked = bytearray(whole)
        locked[whole.index(b"PK\x01\x02") + 8] |= 1
        self.assertIn("password", self.refused(io.BytesIO(bytes(locked))))
        self.assertIn("twice", self.refused(packed({"subjects.csv": "", "Subjects.CSV": ""})))

    @given(st.binary(max_size=300))
    def test_any_bytes_are_read_or_refused_in_words(self, content: bytes) -> None:
        for file in (io.BytesIO(content), packed({"subjects.csv": content})):
            try:
                read(file)
            except UnreadableFile as problem:
                self.assertTrue(str(problem))


class Workbooks(unittest.TestCase):
    def test_numbers_days_and_hours_are_what_they_look_like(self) -> None:
        rows = [
            ["term", "number", "weekdays", "starts", "ends", "first_day", "last_day", "room"],
            ["harvest-2027", 30412, "TR", hour(9, 30), hour(10, 45), datetime(2027, 8, 23), "2027-12-10", 7],
        ]
        found, told = read(workbook("Meetings", rows))
        self.assertEqual(told, [])
        [row] = found["meetings"]
        self.assertEqual((row[1], row[3].hour, row[5].isoformat(), row[8]), ("30412", 9, "2027-08-23", "7"))

    def test_lost_noughts_are_guessed_and_formulas_refused(self) -> None:
        rows = [["term", "number", "with_number"], ["harvest-2027", 412, "=A1"]]
        _, told = read(workbook("linked_sections", rows))
        self.assertIn("00412?", told[0])
        self.assertIn("is a formula; put its value there", told[1])

    def test_merged_cells_are_refused(self) -> None:
        with self.assertRaisesRegex(UnreadableFile, "merged cells"):
            read(workbook("subjects", [["code", "name"], ["SOIL", "x"], ["", ""]], merge="A2:A3"))

    def test_rows_far_down_cost_little(self) -> None:
        book, file = Workbook(), io.BytesIO()
        sheet = book.active
        assert sheet is not None
        sheet.title = "subjects"
        sheet.append(["code", "name"])
        sheet.cell(1_048_576, 1, "SOIL")
        sheet.cell(1_048_576, 2, "Soil science")
        book.save(file)
        file.seek(0)
        found, told = read(file)
        self.assertEqual((found["subjects"], told), ([("SOIL", "Soil science")], []))

    def test_entities_are_not_expanded(self) -> None:
        """The billion laughs of XML: refused, and at once."""
        with zipfile.ZipFile(workbook("subjects", [["code", "name"], ["SOIL", "x"]])) as archive:
            files = {name: archive.read(name) for name in archive.namelist()}
        laughs = "".join(f'<!ENTITY l{n + 1} "{f"&l{n};" * 10}">' for n in range(9))
        bomb = f'<!DOCTYPE x [<!ENTITY l0 "ha">{laughs}]>'.encode()
        for name in ("xl/worksheets/sheet1.xml", "xl/sharedStrings.xml", "xl/workbook.xml"):
            if name not in files:
                continue
            head, mark, rest = files[name].partition(b"<" + _root(files[name]))
            laughing = head + bomb + mark + rest.replace(b">SOIL<", b">&l9;<")
            began = time.perf_counter()
            with self.subTest(name), self.assertRaises(UnreadableFile):
                found, told = read(packed(files | {name: laughing}))
                raise UnreadableFile(told[0] if told else f"{found}")
            self.assertLess(time.perf_counter() - began, 10)

    def test_there_is_an_end_to_rows_and_columns(self) -> None:
        wide = workbook("subjects", [["code", "name", *map(str, range(200))], ["SOIL", "x"]])
        with self.assertRaisesRegex(UnreadableFile, "One of its sheets has more than 200 columns in line 1"):
            read(wide)
        with (
            mock.patch("gremba.formats.exchange.workbook.MOST_ROWS", 2),
            self.assertRaisesRegex(UnreadableFile, "rows; send it in parts"),
        ):
            read(workbook("subjects", [["code"]] + [["SOIL"]] * 3))
        with mock.patch("gremba.formats.exchange.text_sheet.MOST_ROWS", 2):
            self.assertIn("rows; send it in parts", read(packed({"subjects.csv": SUBJECTS}))[1][0])

    def test_a_broken_one_is_refused_in_words(self) -> None:
        whole = workbook("subjects", [["code", "name"], ["SOIL", "x"]])
        with zipfile.ZipFile(whole) as archive:
            files = {name: archive.read(name) for name in archive.namelist()}
        for name in ("xl/worksheets/sheet1.xml", "xl/workbook.xml", "[Content_Types].xml"):
            with self.subTest(name), self.assertRaises(UnreadableFile):
                found, told = read(packed(files | {name: b"<nothing"}))
                # A sheet is read as its rows are: then it is told there.
                raise UnreadableFile(told[0] if told else f"{found}")


def _root(document: bytes) -> bytes:
    """The name of an XML document's first element."""
    found = re.search(rb"<([A-Za-z]\w*)", document)
    assert found is not None
    return found[1]


ROWS: dict[str, list[tuple[Any, ...]]] = {
    table.name: [
        tuple(read_value(column, column.example, ZONE) for column in table.columns),
    ]
    for table in TABLES
}
ROWS["subjects"] = [
    ("SOIL", "=SUM(A1)"),
    ("APIC", "'quoted"),
    ("CERM", "'=both"),
    ("DAIR", 'Café, "wet"\nand dry'),
]


class Written(unittest.TestCase):
    def test_folder_archive_and_workbook_are_read_as_the_same(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "out"
            write_folder(path, "Brindlemere", TABLES, lambda table: ROWS[table.name])
            with self.assertRaises(FileExistsError):
                write_folder(path, "Brindlemere", TABLES, lambda table: ROWS[table.name])
            zipped, book = io.BytesIO(), io.BytesIO()
            write_archive(zipped, "Brindlemere", TABLES, lambda table: ROWS[table.name])
            write_workbook(book, TABLES, lambda table: ROWS[table.name])
            for target in (path, zipped, book):
                self.assertEqual(read(target), (ROWS, []))

    def test_formulas_are_defused(self) -> None:
        table = BY_NAME["subjects"]
        self.assertEqual([cells_of(table, row)[1][0] for row in ROWS["subjects"][:3]], ["'", "'", "'"])

    def test_another_reader_of_workbooks_sees_the_same_cells(self) -> None:
        book = io.BytesIO()
        write_workbook(book, TABLES, lambda table: ROWS[table.name])
        book.seek(0)
        other = CalamineWorkbook.from_filelike(book)
        for table in TABLES:
            rows = other.get_sheet_by_name(table.name).to_python()
            self.assertEqual(rows[0], [column.name for column in table.columns])
            self.assertEqual(rows[1:], [cells_of(table, row) for row in ROWS[table.name]])

    def test_a_validator_of_data_packages_finds_nothing_wrong(self) -> None:
        """The open standards Data Package and Table Schema, by frictionless-py."""
        whole = {name: rows[:1] for name, rows in ROWS.items()}
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "out"
            write_folder(path, "Brindlemere", TABLES, lambda table: whole[table.name])
            described = json.loads((path / "datapackage.json").read_text())
            for resource in described["resources"]:
                # One row of each names rows that are not among them; that is for test_exchange.
                resource["schema"].pop("foreignKeys")
            (path / "datapackage.json").write_text(json.dumps(described))
            report = frictionless.Package(str(path / "datapackage.json")).validate()
            self.assertTrue(report.valid, report.flatten(["title", "rowNumber", "fieldName", "message"])[:5])


class DamagedWorkbooks(unittest.TestCase):
    """A workbook as a program may write it, with something in its sheet that none should have."""

    ROWS = b'<row r="1"><c r="A1" t="inlineStr"><is><t>code</t></is></c></row>'

    def with_sheet(self, sheet: bytes, method: int = zipfile.ZIP_DEFLATED) -> io.BytesIO:
        whole, changed = workbook("subjects", [("code", "name")]), io.BytesIO()
        with zipfile.ZipFile(whole) as old, zipfile.ZipFile(changed, "w", method) as new:
            for entry in old.infolist():
                is_sheet = entry.filename == "xl/worksheets/sheet1.xml"
                new.writestr(entry.filename, sheet if is_sheet else old.read(entry))
        changed.seek(0)
        return changed

    def told(self, file: io.BytesIO) -> str:
        try:
            return "; ".join(read(file)[1])
        except UnreadableFile as problem:
            return str(problem)

    def test_bounds_are_kept_before_anything_is_made(self) -> None:
        space = b'xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"'
        whole = b"<worksheet " + space + b"><sheetData>%s</sheetData></worksheet>"
        prefixed = b"<x:worksheet " + space.replace(b"xmlns=", b"xmlns:x=") + b"><x:sheetData>%s"
        self.assertEqual(self.told(self.with_sheet(whole % self.ROWS)), "")
        for sheet, said in (
            (whole % (self.ROWS + b"<row>" + b"<c/>" * 3_000_000 + b"</row>"), "more than 200 columns"),
            (prefixed % (b"<x:row>" + b"<x:c/>" * 300_000 + b"</x:row>"), "more than 200 columns"),
            (whole % (self.ROWS + b'<row r="2"><c r="ZZ2"><v>1</v></c></row>'), "more than 200 columns"),
            (whole % (self.ROWS + b'<row r="4000000000"><c><v>1</v></c></row>'), "send it in parts"),
            (whole % (self.ROWS + b'<row r="2"><c r="A2"><v>1</v>'), "save it again as .xlsx"),
            (whole % (self.ROWS + b'<row r="x"><c r="A2"><v>1</v></c></row>'), "is damaged from here on"),
        ):
            with self.subTest(said=said, sheet=sheet[:200]):
                self.assertIn(said, self.told(self.with_sheet(sheet)))

    def test_a_tag_cut_in_two_by_a_piece_is_counted_once(self) -> None:
        cells = b"".join(b'<c r="%s1" t="n"><v>1</v></c>' % letter for letter in (b"A", b"B", b"C"))
        for size in range(1, 60):
            with (
                self.subTest(size=size),
                mock.patch("gremba.formats.exchange.workbook._PIECE", size),
                mock.patch("gremba.formats.exchange.workbook.MOST_COLUMNS", 3),
            ):
                _look_through_sheet(io.BytesIO(b"<row>" + cells + b"</row><row>" + cells + b"</row>"))
                with self.assertRaises(UnreadableFile):
                    _look_through_sheet(io.BytesIO(b"<row>" + cells + b"<c/></row>"))

    def test_octets_changed_at_random_are_damage_or_nothing(self) -> None:
        rng = random.Random(5)
        whole = workbook(
            "subjects", [("code", "name"), *(("SOIL", f"Soil {n}") for n in range(40))]
        ).getvalue()
        archive = packed({"subjects.csv": SUBJECTS * 50}).getvalue()
        for n in range(300):
            broken = bytearray((whole, archive)[n % 2])
            for _ in range(rng.randint(1, 8)):
                broken[rng.randrange(len(broken))] = rng.randrange(256)
            with self.subTest(n=n):
                self.assertIsInstance(self.told(io.BytesIO(bytes(broken))) if broken else "", str)
