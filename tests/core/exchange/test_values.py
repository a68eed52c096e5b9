"""Cells, read and written: examples, what is refused and with which guess, and every value back."""

from __future__ import annotations

import unittest
from datetime import UTC, date, datetime, time
from typing import Any
from zoneinfo import ZoneInfo

from hypothesis import given
from hypothesis import strategies as st

from gremba.core.exchange.definition import Column, ValueKind
from gremba.core.exchange.mistakes import ValueMistake, nearest
from gremba.core.exchange.rows import Mistakes, read_rows
from gremba.core.exchange.tables import BY_NAME, TABLES
from gremba.core.exchange.values import read_value, write_value
from gremba.core.plain_text import has_odd_signs

ZONE = ZoneInfo("America/New_York")


def read(where: str, text: str) -> Any:
    table, _, column = where.partition(".")
    return read_value(BY_NAME[table].column(column), text, ZONE)


READ = [
    ("sections.number", " 30412 ", "30412"),
    ("sections.seats", "24.0", 24),
    ("sections.campus", "", None),
    ("sections.notes", "", ""),
    ("sections.delivery", "", "in person"),
    ("sections.carries_credit", "", True),
    ("sections.cancelled", "Yes", True),
    ("sections.fees", 'materials 30.00; "boots; socks" 4.5', [("materials", 3000), ("boots; socks", 450)]),
    ("sections.restrictions", "campus: hillfoot; cohort: 2026, 2027", {"campus": 1, "cohort": 2}),
    ("courses.credits_least", "1.5", 1.5),
    ("courses.tags", "Craft; Natural science;", ["Craft", "Natural science"]),
    ("sessions.refunds", "100% 2027-08-27; 50% 2027-09-10", [100, 50]),
    ("meetings.starts", "9:30", time(9, 30)),
    ("terms.first_day", "2027-08-23T00:00:00", date(2027, 8, 23)),
    ("windows.opens_at", "2027-04-19 09:00", datetime(2027, 4, 19, 9, tzinfo=ZONE)),
    ("windows.opens_at", "2027-04-19T13:00Z", datetime(2027, 4, 19, 13, tzinfo=UTC)),
    ("holds.amount", "62", 6200),
    ("policies.value", '{"good": 18}', {"good": 18}),
]

REFUSED = [
    ("sections.number", "412", "00412"),
    ("sections.number", "30412.0", "30412"),
    ("sections.number", "", ""),
    ("sections.course", "soil 240", "SOIL 240"),
    ("sections.course", "SOIL-240", "SOIL 240"),
    ("sections.component", "Lecture", "lecture"),
    ("sections.component", "labb", "lab"),
    ("sections.seats", "1,200", "1200"),
    ("sections.seats", "-1", ""),
    ("sections.seats", "²", ""),
    ("sections.restrictions", "programme: Craft", "program"),
    ("sections.restrictions", "campus:", ""),
    ("sections.fees", "30.00", ""),
    ("sections.fees", "materials -3.00", ""),
    ("courses.requisites", "all(SOIL 110", ""),
    ("courses.credits_least", "1,5", "1.5"),
    ("courses.credits_least", "1.55", ""),
    ("courses.tags", "Craft; Craft", ""),
    ("courses.tags", 'Craft; "Natural', ""),
    ("sessions.refunds", "50% 2027-09-10; 100% 2027-08-27", ""),
    ("meetings.starts", "24:00", ""),
    ("meetings.starts", "930", "09:30"),
    ("meetings.weekdays", "TM", ""),
    ("terms.first_day", "23.8.2027", "2027-08-23"),
    ("terms.first_day", "8/23/2027", "2027-08-23"),
    ("terms.first_day", "8/9/2027", ""),
    ("terms.first_day", "2027-02-30", ""),
    ("terms.first_day", "46257", ""),
    ("terms.zone", "America/NewYork", "America/New_York"),
    ("terms.zone", "../etc/passwd", ""),
    ("windows.opens_at", "Monday at nine", ""),
    ("holds.amount", "62.005", ""),
    ("holds.stops", "ad; swap", "add"),
    ("people.email", "wren at brindlemere", ""),
    ("people.full_name", "Wren\u202eHalloway", ""),
    ("policies.value", "NaN", ""),
    ("policies.value", "[" * 5_000, ""),
    ("sections.notes", "x" * 20_001, ""),
]


class Cells(unittest.TestCase):
    def test_what_is_read(self) -> None:
        for where, text, meant in READ:
            with self.subTest(where, text=text):
                found = read(where, text)
                if where == "sections.fees":
                    found = [(fee["label"], fee["cents"]) for fee in found]
                elif where == "sections.restrictions":
                    found = {kind: len(who) for kind, who in found.items()}
                elif where == "sessions.refunds":
                    found = [step["percent"] for step in found]
                self.assertEqual(found, meant)

    def test_what_is_refused_and_what_may_have_been_meant(self) -> None:
        for where, text, guess in REFUSED:
            with self.subTest(where, text=text[:40]), self.assertRaises(ValueMistake) as caught:
                read(where, text)
            self.assertEqual(caught.exception.guess, guess, where)

    def test_every_example_of_the_handbook_can_be_read_and_is_written_as_it_stands(self) -> None:
        for table in TABLES:
            for column in table.columns:
                with self.subTest(f"{table.name}.{column.name}"):
                    value = read_value(column, column.example, ZONE)
                    again = read_value(column, write_value(column, value), ZONE)
                    self.assertEqual(again, value)

    def test_the_nearest_is_guessed_and_nothing_that_is_far(self) -> None:
        self.assertEqual(nearest("SOYL", ["SOIL", "SOCI", "APIC"]), "SOIL")
        self.assertEqual(nearest("soil", ["SOIL", "SOIL 2"]), "SOIL")
        self.assertEqual(nearest("XQZW", ["SOIL", "APIC"]), "")


_TEXTS = st.text(
    st.characters(codec="utf-8", exclude_categories=["Cc", "Cs"]), min_size=1, max_size=30
).filter(lambda text: text == text.strip() and not has_odd_signs(text))
_DAYS = st.dates(date(1900, 1, 1), date(2199, 12, 31))
_VALUES: dict[ValueKind, st.SearchStrategy[Any]] = {
    ValueKind.TEXT: _TEXTS,
    ValueKind.WHOLE: st.integers(-999_999_999, 999_999_999),
    ValueKind.CREDITS: st.integers(0, 999).map(lambda tenths: tenths / 10),
    ValueKind.MONEY: st.integers(-10_000_000, 10_000_000),
    ValueKind.DAY: _DAYS,
    ValueKind.TIME: st.times().map(lambda at: at.replace(second=0, microsecond=0)),
    ValueKind.MOMENT: st.datetimes(datetime(1901, 1, 1), datetime(2199, 1, 1), timezones=st.just(UTC)),
    ValueKind.YES_NO: st.booleans(),
    ValueKind.LIST: st.lists(_TEXTS, min_size=1, max_size=4, unique=True),
    ValueKind.FEES: st.lists(
        st.builds(lambda label, cents: {"label": label, "cents": cents}, _TEXTS, st.integers(0, 99_999)),
        min_size=1,
        max_size=3,
    ),
    ValueKind.GROUPS: st.dictionaries(
        st.sampled_from(["program", "campus", "cohort"]), st.lists(_TEXTS, min_size=1, max_size=3), min_size=1
    ),
    ValueKind.DOCUMENT: st.dictionaries(st.text(max_size=5), st.integers() | st.text(max_size=5), max_size=3),
}


class Remembered(unittest.TestCase):
    @given(st.lists(st.sampled_from(["3", "1.5", "", "x", " 3 ", "'=1", "-1"]), max_size=30))
    def test_a_cell_that_stood_there_before_means_what_it_did(self, cells: list[str]) -> None:
        """Values are remembered by their text; each alone, read by a reader of its own, is the same."""

        def read_all(texts: list[str]) -> tuple[list[object], list[str]]:
            mistakes = Mistakes()
            heading = ["username", "course", "term", "credits"]
            lines = [(1, heading), *((n, ["wren", "SOIL 110", "T", text]) for n, text in enumerate(texts, 2))]
            _, rows = read_rows(BY_NAME["records"], lines, ZONE, mistakes)
            return [values[-1] for _, values in rows], [m.problem for m in mistakes.noted]

        alone = [read_all([text]) for text in cells]
        together = read_all(cells)
        self.assertEqual(together[0], [value for values, _ in alone for value in values])
        self.assertEqual(together[1], [problem for _, problems in alone for problem in problems])


class BackAgain(unittest.TestCase):
    @given(st.data())
    def test_what_is_written_is_read_as_the_same(self, data: st.DataObject) -> None:
        kind = data.draw(st.sampled_from(list(_VALUES)))
        value = data.draw(_VALUES[kind])
        column = Column("any", kind, "anything", "", required=True)
        self.assertEqual(read_value(column, write_value(column, value), ZONE), value)
