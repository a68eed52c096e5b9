"""A college out and in: the same, whole or not at all, and nothing that is alive is touched."""

from __future__ import annotations

import csv
import json
import random
import tempfile
import threading
import unittest
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path
from types import SimpleNamespace
from typing import Any, cast
from unittest import mock
from zoneinfo import ZoneInfo

import frictionless
import orjson
from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError
from peewee import OperationalError
from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.context import ActionContext
from gremba.actions.exchange import bring_in as bringing
from gremba.actions.exchange.bring_in import ImportReport, bring_in
from gremba.actions.exchange.told import told
from gremba.actions.exchange.write_out import write_out
from gremba.core.account.tariff import FeeScope, RateClass, Tariff, TariffFee
from gremba.core.exchange.tables import TABLES
from gremba.core.registration.changes import Change, Kind, Mode, Request
from gremba.core.registration.decision import decide
from gremba.core.students.academic_plan import PlanLine
from gremba.demo.morning import SetClock
from gremba.demo.season import MORNING
from gremba.formats.academic_plan_file import line_data
from gremba.formats.exchange.source import open_source
from gremba.store.catalogue.cache import CatalogueCache
from gremba.store.database import Unavailable, connect, connected, fetch_sql, run_sql
from gremba.store.exchange.kept import NO_PASSWORD
from gremba.store.exchange.staging import lock_exchange, stream
from gremba.store.exchange.zone import speak_in
from gremba.store.registration.situations import read_seats, read_situations
from tests.support.servers import as_served, new_database

TERM = "harvest-2027"


def bring(database: PooledPostgresqlDatabase, folder: Path, *, is_trial: bool = False) -> ImportReport:
    with open_source(folder) as source:
        return bring_in(database, source, MORNING, is_trial=is_trial)


def rows_of(database: PooledPostgresqlDatabase) -> dict[str, list[Any]]:
    """Every table, as it would be written."""
    with connected(database), database.atomic():
        return {table.name: list(stream(database, table.name)) for table in TABLES}


class OneFolder(unittest.TestCase):
    """The demo's college as a folder, written once."""

    folder: Path
    demo: PooledPostgresqlDatabase

    @classmethod
    def setUpClass(cls) -> None:
        held = tempfile.TemporaryDirectory()
        cls.addClassCleanup(held.cleanup)
        cls.folder = Path(held.name) / "brindlemere"
        cls.demo = connect(new_database("demo"))
        cls.addClassCleanup(cls.demo.close_all)
        write_out(cls.demo, cls.folder, "folder", "Brindlemere")

    def part(
        self, *changes: tuple[str, dict[str, str], dict[str, str]], beside: tuple[str, ...] = ()
    ) -> Path:
        """A folder of some rows of the demo's, changed: (table, which, what)."""
        held = tempfile.TemporaryDirectory()
        self.addCleanup(held.cleanup)
        folder = Path(held.name)
        for table in {name for name, _, _ in changes} | set(beside):
            with (self.folder / f"{table}.csv").open(encoding="utf-8-sig", newline="") as file:
                rows = list(csv.DictReader(file))
            for name, which, what in changes:
                found = [row for row in rows if name == table and which.items() <= row.items()]
                if name == table and not found:
                    rows.append(which | what)
                for row in found:
                    row.update(what)
            names = list(dict.fromkeys(key for row in rows for key in row))
            with (folder / f"{table}.csv").open("w", encoding="utf-8", newline="") as file:
                writer = csv.DictWriter(file, names)
                writer.writeheader()
                writer.writerows(rows)
        return folder


class RoundTrip(OneFolder):
    """As the role that serves: an import needs no other rights."""

    other: PooledPostgresqlDatabase
    report: ImportReport

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.other = connect(as_served(new_database()))
        cls.addClassCleanup(cls.other.close_all)
        cls.report = bring(cls.other, cls.folder)

    def test_every_table_is_the_same_and_so_is_the_folder(self) -> None:
        self.assertEqual(list(told(self.report))[-1], "Taken over; servers that are running follow at once.")
        one, two = rows_of(self.demo), rows_of(self.other)
        self.assertGreater(sum(map(len, one.values())), 80_000)
        for table in TABLES:
            self.assertEqual(one[table.name], two[table.name], table.name)
        with tempfile.TemporaryDirectory() as held:
            again = Path(held) / "again"
            write_out(self.other, again, "folder", "Brindlemere")
            for file in self.folder.iterdir():
                self.assertEqual((again / file.name).read_bytes(), file.read_bytes(), file.name)

    def test_a_thousand_requests_are_decided_alike(self) -> None:
        """The same students, wishes and empty seats: each finding in the same words."""
        rng = random.Random(17)
        students = self._people(self.demo)
        self.assertEqual([name for name, _ in students], [name for name, _ in self._people(self.other)])
        chosen = rng.sample(range(len(students)), 100)
        one, two = (self._situations(d, [s[1] for s in self._people(d)]) for d in (self.demo, self.other))
        numbers = [section.reference_number for section in one[0].catalogue.sections]
        differing = []
        results: dict[str, int] = {}
        for which in chosen:
            for _ in range(10):
                wishes = rng.sample(numbers, rng.randint(1, 5))
                mode = rng.choice([Mode.EACH, Mode.ALL])
                request = Request(tuple(Change(Kind.ADD, number) for number in wishes), mode)
                said = [self._said(situations[which], request) for situations in (one, two)]
                for _, outcomes in said[:1]:
                    for outcome in outcomes:
                        results[outcome[0]] = results.get(outcome[0], 0) + 1
                if said[0] != said[1]:
                    differing.append((students[which], wishes, said))
        self.assertEqual(differing[:1], [])
        self.assertGreater(min(results.values()), 100, results)

    def _people(self, database: PooledPostgresqlDatabase) -> list[tuple[str, int]]:
        """Students of the term who are registered for nothing, in it or in any other."""
        with connected(database):
            return [
                (name, row)
                for name, row in fetch_sql(
                    database,
                    "SELECT p.username, st.id FROM student_terms st JOIN persons p ON p.id = st.student_id "
                    "JOIN terms t ON t.id = st.term_id WHERE t.code = %s ORDER BY p.username",
                    (TERM,),
                )
            ]

    def _situations(self, database: PooledPostgresqlDatabase, rows: list[int]) -> list[Any]:
        context = ActionContext(database, CatalogueCache(database), SetClock(MORNING))
        term = context.term(TERM)
        with connected(database):
            seats = read_seats(database, {s.pool for s in term.sections})
            empty = {
                pool: replace(figures, taken=0, offered=0, beyond=0, waiting=0)
                for pool, figures in seats.items()
            }
            found = read_situations(database, dict.fromkeys(rows, term), empty)
        # Live facts are not exchanged.
        return [
            replace(
                found[row],
                held=(),
                past=(),
                waitlist_entries=(),
                seat_held_for=frozenset(),
                grants={},
            )
            for row in rows
        ]

    def _said(self, situation: Any, request: Request) -> Any:
        decision = decide(situation, request, MORNING)
        outcomes = [(str(o.result), tuple((f.code, f.text) for f in o.findings)) for o in decision.outcomes]
        return decision.after.credits, outcomes

    def test_moments_are_written_as_people_of_the_college_read_them(self) -> None:
        """In their zone, whatever that of the machine is."""
        with (self.folder / "windows.csv").open(encoding="utf-8-sig", newline="") as file:
            opening = {row["opens_at"] for row in csv.DictReader(file) if row["username"] == "wren"}
        self.assertIn("2027-04-19T08:00-04:00", opening)

    def test_a_validator_of_data_packages_finds_nothing_wrong_in_all_of_it(self) -> None:
        """By frictionless-py: types, patterns, keys, and references from table to table."""
        report = frictionless.Package(str(self.folder / "datapackage.json")).validate()
        self.assertTrue(report.valid, report.flatten(["title", "rowNumber", "fieldName", "message"])[:5])

    def test_nobody_can_sign_in_before_they_have_set_a_password(self) -> None:
        with connected(self.other):
            kept = {row[0] for row in fetch_sql(self.other, "SELECT DISTINCT password_hash FROM persons")}
        self.assertEqual(kept, {NO_PASSWORD})
        with self.assertRaises(InvalidHashError):
            PasswordHasher().verify(NO_PASSWORD, NO_PASSWORD)


class Example(unittest.TestCase):
    def test_the_example_is_a_folder_as_it_is_written_out(self) -> None:
        """So it shows every column that there is by now."""
        example = Path(__file__).parents[3] / "examples/quernside"
        database = connect(new_database())
        self.addCleanup(database.close_all)
        self.assertEqual(bring(database, example).mistakes.noted, [])
        held = tempfile.TemporaryDirectory()
        self.addCleanup(held.cleanup)
        written = Path(held.name) / "out"
        names = [file.stem for file in example.glob("*.csv")]
        write_out(database, written, "folder", "Quernside Evening School", names)
        for file in sorted(example.iterdir()):
            self.assertEqual((written / file.name).read_bytes(), file.read_bytes(), file.name)


class Taking(OneFolder):
    killer: PooledPostgresqlDatabase

    def setUp(self) -> None:
        self.url = new_database("demo")
        self.database = connect(self.url)
        self.addCleanup(self.database.close_all)

    def ask(self, sql: str, *values: Any) -> Any:
        with connected(self.database):
            found = fetch_sql(self.database, sql, values)
        return found[0][0] if found else None

    def test_the_same_again_changes_nothing(self) -> None:
        version = "SELECT sum(catalogue_version) FROM terms"
        before = self.ask(version)
        report = bring(self.database, self.folder)
        self.assertTrue(report.changes_nothing, list(told(report)))
        self.assertEqual(list(told(report)), ["Everything in it is there already; nothing was changed."])
        self.assertEqual(self.ask(version), before)

    def test_a_trial_tells_what_would_be_and_keeps_nothing(self) -> None:
        folder = self.part(
            ("sections", {"number": "30607"}, {"seats": "8", "notes": "=1+1"}),
            ("subjects", {"code": "LOOM"}, {"name": "Weaving"}),
        )
        before = rows_of(self.database)
        report = bring(self.database, folder, is_trial=True)
        lines = list(told(report))
        self.assertIn("subjects: 1 new", lines)
        self.assertIn("sections: 1 changed", lines)
        self.assertIn(
            "  harvest-2027 30607: seats 9 → 8, notes Bring boots and a coat; most of it is out of doors or in the workshop. → =1+1",
            lines,
        )
        self.assertIn("This was a trial", lines[-1])
        self.assertEqual(rows_of(self.database), before)

    def test_only_the_terms_that_change_are_read_again(self) -> None:
        before = self.versions()
        section = {"number": "30607", "term": "harvest-2027"}
        bring(self.database, self.part(("sections", section, {"notes": "Bring a hat."})))
        self.assertEqual(self.moved_since(before), {"harvest-2027"})
        # Of a course every term has sections; of a new section other terms know its number.
        for change in (
            ("subjects", {"code": "SOIL"}, {"name": "Soils"}),
            ("sections", section | {"number": "39999"}, self.like("sections", section)),
        ):
            before = self.versions()
            bring(self.database, self.part(change))
            self.assertEqual(self.moved_since(before), set(before))

    def like(self, table: str, which: dict[str, str]) -> dict[str, str]:
        """The other cells of a row of the demo."""
        with (self.folder / f"{table}.csv").open(encoding="utf-8-sig", newline="") as file:
            (row,) = [row for row in csv.DictReader(file) if which.items() <= row.items()]
        return {name: cell for name, cell in row.items() if name not in which}

    def versions(self) -> dict[str, int]:
        with connected(self.database):
            return dict(fetch_sql(self.database, "SELECT code, catalogue_version FROM terms"))

    def moved_since(self, before: dict[str, int]) -> set[str]:
        return {code for code, version in self.versions().items() if version != before[code]}

    def test_a_limit_below_what_is_taken_throws_nobody_out(self) -> None:
        taken = "SELECT taken, seat_limit, beyond FROM seat_pools p JOIN sections s ON s.pool_id = p.id "
        taken += "WHERE reference_number = '30607'"
        bring(self.database, self.part(("sections", {"number": "30607"}, {"seats": "5"})))
        with connected(self.database):
            self.assertEqual(fetch_sql(self.database, taken), [(9, 5, 4)])

    def test_live_facts_stay_whatever_is_left_out_or_cancelled(self) -> None:
        live = "SELECT count(*), max(id) FROM registrations"
        before = self.ask(live)
        folder = self.part(("sections", {"number": "30607"}, {"cancelled": "yes"}))
        with (folder / "sections.csv").open() as file:
            heading, *lines = file.read().splitlines()
        only = [line for line in lines if ",30607," in line]
        (folder / "sections.csv").write_text("\n".join([heading, *only]))
        report = bring(self.database, folder)
        [table] = report.tables
        self.assertEqual((table.rows, table.new, table.changed), (1, 0, 1))
        self.assertGreater(table.left_out, 400)
        self.assertEqual(self.ask(live), before)
        self.assertTrue(self.ask("SELECT cancelled FROM sections WHERE reference_number = '30607'"))

    def test_whom_a_move_reaches_is_told_beforehand_and_afterwards_they_are(self) -> None:
        """30607 meets Fridays from 9; moved to where a class of some of its students is."""
        with connected(self.database):
            [(other, days, starts, ends, many)] = fetch_sql(self.database, _MOST_SHARED, ("30607",))
        move = {"weekdays": days, "starts": f"{starts:%H:%M}", "ends": f"{ends:%H:%M}"}
        folder = self.part(("meetings", {"number": "30607"}, move))
        trial = bring(self.database, folder, is_trial=True)
        [affected] = [r for r in trial.affected.sections if r.change.after.reference_number == "30607"]
        clashing = self.ask(_CLASHING, "30607", starts, ends, days)
        self.assertGreaterEqual(clashing, many)
        self.assertEqual((affected.registered, affected.clashing), (9, clashing))
        self.assertTrue(any("30607 meets otherwise: 9 students are registered" in s for s in told(trial)))
        count = "SELECT count(*) FROM messages WHERE kind = 'section moved'"
        self.assertEqual(self.ask(count), 0)
        bring(self.database, folder)
        meets = "SELECT string_agg(weekdays, ' ') FROM meetings m JOIN sections s ON s.id = m.section_id "
        self.assertEqual(self.ask(meets + "WHERE reference_number = '30607'"), days)
        self.assertEqual(self.ask(count), 9)
        self.assertEqual(self.ask(count + " AND facts->>'clashes' LIKE %s", f"%{other}%"), many)
        bring(self.database, folder)
        self.assertEqual(self.ask(count), 9)

    def test_a_window_is_moved_and_a_second_comes_behind_it(self) -> None:
        which = {"term": TERM, "username": "odo", "place": ""}
        later = which | {"place": "3", "opens_at": "2027-11-01T08:00", "closes_at": "2027-11-02T08:00"}
        folder = self.part(("windows", which, {"opens_at": "2027-04-20T10:00"}), ("windows", later, {}))
        kinds = "SELECT string_agg(kind, ', ' ORDER BY m.id) FROM messages m JOIN student_terms st "
        kinds += "ON st.id = m.student_term_id JOIN persons p ON p.id = st.student_id "
        kinds += "WHERE username = 'odo' AND kind LIKE 'window%%'"
        trial = bring(self.database, folder, is_trial=True)
        self.assertIn("1 student has other windows; they are told.", list(told(trial)))
        self.assertIsNone(self.ask(kinds))
        report = bring(self.database, folder)
        self.assertEqual([(t.new, t.changed) for t in report.tables], [(1, 1)], list(told(report)))
        self.assertEqual(self.ask(kinds), "window moved, window set")
        query = "SELECT to_char(opens_at AT TIME ZONE 'America/New_York', 'MM-DD HH24') FROM windows w "
        query += "JOIN student_terms st ON st.id = w.student_term_id JOIN persons p ON p.id = st.student_id "
        with connected(self.database):
            found = fetch_sql(self.database, query + "WHERE username = 'odo' ORDER BY opens_at")
        self.assertEqual([row[0] for row in found], ["04-20 10", "08-09 08", "11-01 08"])
        self.assertTrue(bring(self.database, folder).changes_nothing)
        self.assertEqual(self.ask(kinds), "window moved, window set")

    def test_a_zone_that_the_database_does_not_know_is_that_of_greenwich(self) -> None:
        now = "SELECT to_char(now(), 'OF')"
        for key, offset in (("Asia/Kathmandu", "+05:45"), ("Nowhere/At-All", "+00")):
            with connected(self.database), self.database.atomic():
                speak_in(self.database, cast(ZoneInfo, SimpleNamespace(key=key)))
                self.assertEqual(fetch_sql(self.database, now)[0][0], offset)

    def test_windows_of_a_term_that_is_prepared_are_told_when_it_is_opened(self) -> None:
        prepared = "thaw-2028"
        window = {"term": prepared, "username": "wren", "place": "1"}
        window |= {"opens_at": "2027-10-18T09:00", "closes_at": "2027-11-01T09:00"}
        folder = self.part(("windows", window, {}))
        many = "SELECT count(*) FROM messages WHERE kind = 'window set' AND facts->>'term' = 'Thaw 2028'"
        self.assertEqual((bring(self.database, folder).affected.windows, self.ask(many)), (0, 0))
        opened = self.part(("terms", {"code": prepared}, {"state": "open"}))
        self.assertEqual((bring(self.database, opened).affected.windows, self.ask(many)), (1, 1))

    def test_without_places_each_is_the_first(self) -> None:
        folder = self.part(beside=("meetings",))
        rows = "term,number,weekdays,starts,ends,first_day,last_day\n"
        rows += "harvest-2027,30607,F,09:00,13:00,2027-08-27,2027-12-10\n"
        (folder / "meetings.csv").write_text(rows)
        report = bring(self.database, folder)
        self.assertEqual([(t.rows, t.new, t.changed) for t in report.tables], [(1, 0, 1)])
        ends = "SELECT ends::text FROM meetings m JOIN sections s ON s.id = m.section_id WHERE "
        self.assertEqual(self.ask(ends + "reference_number = '30607'"), "13:00:00")

    def test_places_are_counted_from_one_and_windows_stand_in_order(self) -> None:
        which = {"term": TERM, "username": "odo"}
        times = {"opens_at": "2027-01-01T08:00", "closes_at": "2027-11-02T08:00"}
        folder = self.part(
            ("windows", which | {"place": "9"}, times), ("windows", which | {"place": "2"}, times)
        )
        said = [str(mistake) for mistake in bring(self.database, folder).mistakes.noted]
        self.assertTrue(any("place: stands behind a place that there is not" in line for line in said), said)
        self.assertTrue(any("opens_at: is not after the place before" in line for line in said), said)

    def test_who_is_registered_for_what_does_not_take_place_is_told(self) -> None:
        report = bring(self.database, self.part(("sections", {"number": "30607"}, {"cancelled": "yes"})))
        [affected] = report.affected.sections
        self.assertEqual((affected.change.is_off, affected.registered), (True, 9))
        self.assertEqual(self.ask("SELECT count(*) FROM messages WHERE kind = 'section off'"), 9)

    def test_columns_that_are_left_out_are_left_alone(self) -> None:
        folder = self.part(beside=("students",))
        (folder / "students.csv").write_text("username,residence\nwren,Kiln House\n")
        before = self.ask("SELECT program FROM students s JOIN persons p USING (id) WHERE username = 'wren'")
        report = bring(self.database, folder)
        self.assertEqual([(t.new, t.changed) for t in report.tables], [(0, 1)])
        query = "SELECT {} FROM students s JOIN persons p USING (id) WHERE username = 'wren'"
        self.assertEqual(self.ask(query.format("program")), before)
        self.assertEqual(self.ask(query.format("residence")), "Kiln House")

    def test_a_new_section_with_all_that_belongs_to_it(self) -> None:
        there = {"term": TERM, "number": "39001"}
        section = there | {"course": "SOIL 110", "session": "full", "component": "lecture", "seats": "20"}
        lab = section | {"number": "39002", "component": "lab", "seats": "0", "seats_with": "39001"}
        folder = self.part(
            ("sections", there, section),
            ("sections", {"number": "39002"}, lab),
            ("meetings", there, {"weekdays": "MW", "starts": "08:00", "ends": "09:15"} | _DAYS),
            ("instructors", there, {"username": "petra"}),
            ("linked_sections", there, {"with_number": "39002"}),
            ("reserved_seats", there, {"kind": "cohort", "value": "2027", "seats": "4"}),
        )
        report = bring(self.database, folder)
        self.assertEqual([str(m) for m in report.mistakes.noted], [])
        self.assertEqual({t.name: t.new for t in report.tables}["sections"], 2)
        pools = "SELECT count(DISTINCT pool_id) FROM sections WHERE reference_number IN ('39001', '39002')"
        self.assertEqual(self.ask(pools), 1)
        context = ActionContext(self.database, CatalogueCache(self.database), SetClock(MORNING))
        new = context.term(TERM).by_number["39001"]
        self.assertEqual((new.instructors, new.linked_sections), (("Petra Lunn",), frozenset({"39002"})))

    def test_columns_that_a_new_row_does_not_have_are_as_if_empty(self) -> None:
        folder = self.part(beside=("sections",))
        rows = "term,number,course,session,component,seats\nharvest-2027,39001,SOIL 110,full,lecture,20\n"
        (folder / "sections.csv").write_text(rows)
        self.assertEqual(bring(self.database, folder).tables[0].new, 1)
        query = "SELECT delivery, carries_credit, waitlist_limit, campus FROM sections "
        with connected(self.database):
            [row] = fetch_sql(self.database, query + "WHERE reference_number = '39001'")
        self.assertEqual(tuple(row), ("in person", True, 0, None))

    def test_every_mistake_is_told_and_nothing_is_taken_over(self) -> None:
        folder = self.part(
            ("sections", {"number": "30607"}, {"course": "SOYL 999", "session": "ful", "seats": "many"}),
            ("sections", {"number": "30628"}, {"seats_with": "99999"}),
            ("meetings", {"number": "30607"}, {"number": "30608x"}),
            ("students", {"username": "wren"}, {"advisor": "idriss"}),
            ("subjects", {"code": "LOOM"}, {"name": "Weaving"}),
        )
        with (folder / "subjects.csv").open("a") as file:
            file.write("LOOM,Weaving again\n")
        before = rows_of(self.database)
        report = bring(self.database, folder)
        said = [str(mistake) for mistake in report.mistakes.noted]
        for words in (
            "seats “many”: must be a whole number",
            "session “ful”: there is no such session; full?",
            "course “SOYL 999”: there is no such course",
            "seats_with “99999”: there is no such section",
            "number “30608x”: must be five figures",
            "advisor “idriss”: there is no such person; idris?",
            "code “LOOM”: the same code stands in line",
        ):
            self.assertTrue(any(words in line for line in said), (words, said))
        self.assertEqual(list(told(report))[-1], f"{report.mistakes.many} mistakes; nothing was taken over.")
        self.assertEqual(rows_of(self.database), before)

    def test_a_setting_that_cannot_be_read_is_refused(self) -> None:
        """It would keep its whole term from being read."""
        which = {"term": TERM}
        folder = self.part(
            ("policies", which | {"setting": "credit_limit"}, {"value": "18"}),
            ("policies", which | {"setting": "account"}, {"value": '"much"'}),
            ("policies", which | {"setting": "clearance"}, {"setting": "tariff"}),
            ("policies", which | {"setting": "full_time"}, {"value": "11"}),
            ("policies", which | {"setting": "half_time"}, {"value": '"six"'}),
            ("policies", which | {"setting": "credit_limits"}, {"value": '{"good": "many"}'}),
        )
        said = [str(mistake) for mistake in bring(self.database, folder).mistakes.noted]
        self.assertEqual(len(said), 5, said)
        self.assertTrue(any("stands in the tables tariff_rates and tariff_fees" in line for line in said))
        self.assertTrue(any("there is no such setting; credit_limits?" in line for line in said), said)
        self.assertTrue(
            any("setting “account”: is not an object with due_dates" in line for line in said), said
        )

    def test_class_standings_come_in_and_go_out(self) -> None:
        standings = [[0, "apprentice"], [40.5, "journeyman"]]
        which = {"term": TERM, "setting": "class_standings"}
        folder = self.part(("policies", which, {"value": json.dumps(standings)}))
        self.assertTrue(bring(self.database, folder).is_done)
        context = ActionContext(self.database, CatalogueCache(self.database), SetClock(MORNING))
        policy = context.term(TERM).policy
        self.assertEqual(
            [policy.class_standing(n) for n in (0, 40, 40.5)], ["apprentice"] * 2 + ["journeyman"]
        )
        again = self.part()
        write_out(self.database, again / "out", "folder", "Brindlemere")
        self.assertTrue(bring(self.database, again / "out").changes_nothing)

    def tariff(self) -> Tariff:
        context = ActionContext(self.database, CatalogueCache(self.database), SetClock(MORNING))
        return context.term(TERM).policy.tariff

    def test_what_a_term_costs(self) -> None:
        before = self.tariff()
        folder = self.part(
            ("tariff_rates", {"term": TERM, "rate_class": "beyond"}, {"per_credit": "400.00"}),
            ("tariff_rates", {"term": TERM, "rate_class": "hill", "name": "", "per_credit": "1"}, {}),
            (
                "tariff_fees",
                {"term": TERM, "label": "Bus", "amount": "9.50", "campus": "hillfoot", "place": "3"},
                {},
            ),
            ("terms", {"code": TERM}, {"late_fee": "55.00"}),
        )
        registered = (
            "SELECT count(DISTINCT r.student_term_id) FROM registrations r JOIN sections s "
            "ON s.id = r.section_id JOIN terms t ON t.id = s.term_id "
            "WHERE r.state = 'registered' AND t.code = %s"
        )
        report = bring(self.database, folder)
        self.assertGreater(report.affected.charged, 100)
        self.assertEqual(report.affected.charged, self.ask(registered, TERM))
        self.assertIn("registered and charged anew", " ".join(told(report)))
        after = self.tariff()
        rates = before.classes
        self.assertEqual(
            after.classes,
            rates | {"beyond": replace(rates["beyond"], per_credit=400_00), "hill": RateClass(100)},
        )
        self.assertEqual(after.fees[:2], before.fees)
        self.assertEqual(after.fees[2:], (TariffFee("Bus", 9_50, FeeScope.CAMPUS, "hillfoot"),))
        self.assertEqual((after.late_from, after.late_cents), (before.late_from, 55_00))
        self.assertTrue(bring(self.database, folder).changes_nothing)
        wrong = self.part(
            ("tariff_rates", {"term": TERM, "rate_class": ""}, {"term": "high-summer-2028"}),
            ("tariff_rates", {"term": TERM, "rate_class": "beyond"}, {"band_from": "19"}),
            ("tariff_fees", {"term": TERM, "place": "2"}, {"campus": "hillfoot"}),
            ("tariff_fees", {"term": TERM, "place": "1"}, {"amount": "99999999"}),
            ("terms", {"code": TERM}, {"code": "high-summer-2028", "name": "High Summer 2028"}),
        )
        said = " ".join(map(str, bring(self.database, wrong).mistakes.noted))
        for words in (
            "is before band_from",
            "by a campus or by a way of teaching",
            "is more than 20,000,000",
        ):
            self.assertIn(words, said)
        # What a folder does not say counts as it is kept: the second fee is one of a way of teaching.
        (wrong / "tariff_fees.csv").write_text(f"term,place,campus\n{TERM},2,hillfoot\n")
        said = " ".join(map(str, bring(self.database, wrong).mistakes.noted))
        self.assertIn("by a campus or by a way of teaching", said)
        alone = self.part(
            ("tariff_rates", {"term": TERM, "rate_class": "beyond"}, {"term": "high-summer-2028"}),
            ("terms", {"code": TERM}, {"code": "high-summer-2028", "name": "High Summer 2028"}),
        )
        said = " ".join(map(str, bring(self.database, alone).mistakes.noted))
        self.assertIn("the term has no usual rates", said)

    def test_a_plan_is_written_once_and_its_next_version_comes_behind(self) -> None:
        juniper = {"username": "juniper", "version": "1"}
        lines = "SELECT lines::text FROM academic_plans sp JOIN persons p ON p.id = sp.student_id "
        lines += "WHERE p.username = 'juniper' AND version = "
        before = self.ask(f"{lines}1")
        plan = {"username": "juniper", "version": "2", "written_by": "idris"}
        plan |= {"written_at": "2027-03-22T09:00"}
        line = {"username": "juniper", "version": "2", "term": TERM}
        second = self.part(
            ("plans", plan, {}),
            ("plan_lines", line | {"place": "2", "courses": "SOIL 110", "note": "=1"}, {}),
            ("plan_lines", line | {"place": "1", "courses": "SOIL 110; CHEM 140", "count": "2"}, {}),
        )
        report = bring(self.database, second)
        self.assertEqual(report.mistakes.noted, [])
        self.assertEqual(self.ask(f"{lines}1"), before)
        written = orjson.loads(self.ask(f"{lines}2"))
        self.assertEqual([one["courses"] for one in written], [["SOIL 110", "CHEM 140"], ["SOIL 110"]])
        self.assertEqual(written[1], line_data(PlanLine(TERM, ("SOIL 110",), note="=1")))
        self.assertTrue(bring(self.database, second).changes_nothing)
        wrong = self.part(
            ("plan_lines", juniper | {"place": "1"}, {"note": "otherwise"}),
            ("plan_lines", line | {"place": "3", "courses": "SOIL 110"}, {}),
            ("plans", plan | {"version": "3", "advisor": "idris"}, {}),
            ("plan_lines", line | {"version": "3", "place": "2", "courses": "SOYL 110; SOIL 110"}, {}),
            ("plan_lines", line | {"version": "4", "place": "1", "courses": "SOIL 110", "count": "2"}, {}),
        )
        said = [str(mistake) for mistake in bring(self.database, wrong).mistakes.noted]
        self.assertEqual(self.ask(f"{lines}1"), before)
        for many, words in (
            (2, "stays as it was written"),
            (1, "who agreed for the college and when go together"),
            (1, "stands behind a place that there is not"),
            (1, "“SOYL 110”: there is no such course; SOIL 110?"),
            (1, "there is no such plan"),
            (1, "is more than the courses that it names"),
        ):
            self.assertEqual(sum(words in one for one in said), many, (words, said))

    def test_what_no_check_foresees_is_refused_in_words(self) -> None:
        """Two terms of one name: the tables say no."""
        term = {"name": "Harvest 2027", "zone": "America/New_York"}
        days = {"first_day": "2028-08-23", "last_day": "2028-12-10"}
        folder = self.part(("terms", {"code": "harvest-2028"}, term | days))
        before = rows_of(self.database)
        report = bring(self.database, folder)
        [said] = [str(mistake) for mistake in report.mistakes.noted]
        self.assertIn("terms: something in it cannot be kept beside what is there", said)
        self.assertEqual(list(told(report))[-1], "1 mistake; nothing was taken over.")
        self.assertEqual(rows_of(self.database), before)

    def test_seats_that_are_shared_stay_shared(self) -> None:
        folder = self.part(("sections", {"number": "30607"}, {"seats_with": "30628"}))
        said = [str(mistake) for mistake in bring(self.database, folder).mistakes.noted]
        self.assertTrue(any("cannot be changed once the section is there" in line for line in said), said)

    def test_of_two_at_once_the_second_waits_and_nothing_is_doubled(self) -> None:
        folder = self.part(("subjects", {"code": "LOOM"}, {"name": "Weaving"}))
        gate = threading.Barrier(2)

        def one(_: int) -> ImportReport:
            gate.wait()
            return bring(self.database, folder)

        with ThreadPoolExecutor(2) as pool:
            new = sorted(report.tables[0].new for report in pool.map(one, range(2)))
        self.assertEqual(new, [0, 1])

    def test_a_statement_that_takes_too_long_ends_it(self) -> None:
        """Such as one that waits for another import, which never ends."""
        with connected(self.database), self.database.atomic():
            lock_exchange(self.database)
            other = connect(self.url)
            self.addCleanup(other.close_all)
            with (
                mock.patch("gremba.actions.exchange.bring_in.MAX_SECONDS_A_STATEMENT", 1),
                ThreadPoolExecutor(1) as pool,
                self.assertRaisesRegex(OperationalError, "statement timeout"),
            ):
                pool.submit(bring, other, self.folder).result(60)

    def test_a_connection_lost_in_the_middle_leaves_nothing_behind(self) -> None:
        folder = self.part(
            ("subjects", {"code": "LOOM"}, {"name": "Weaving"}),
            ("sections", {"number": "30607"}, {"notes": "Moved."}),
        )
        before = rows_of(self.database)
        compared = bringing._compared

        def lost(one: Any) -> Any:
            if one.table.name == "sections":
                with connected(self.killer):
                    run_sql(
                        self.killer,
                        "SELECT pg_terminate_backend(pid) FROM pg_stat_activity "
                        "WHERE datname = current_database() AND pid <> pg_backend_pid()",
                    )
            return compared(one)

        self.killer = connect(self.url)
        self.addCleanup(self.killer.close_all)
        with mock.patch.object(bringing, "_compared", lost), self.assertRaises(Unavailable):
            bring(self.database, folder)
        self.database.close_all()
        self.assertEqual(rows_of(self.database), before)


_MOST_SHARED = """
SELECT o.reference_number, m.weekdays, m.starts, m.ends, count(*)
FROM registrations r JOIN sections s ON s.id = r.section_id
JOIN registrations q ON q.student_term_id = r.student_term_id AND q.section_id <> r.section_id
JOIN sections o ON o.id = q.section_id JOIN meetings m ON m.section_id = o.id
WHERE s.reference_number = %s AND r.state = 'registered' AND q.state = 'registered'
    AND m.weekdays IN ('MW', 'TR')
GROUP BY 1, 2, 3, 4 ORDER BY 5 DESC, 1 LIMIT 1
"""
"""The class that most students of a section are registered for as well."""

_CLASHING = """
SELECT count(DISTINCT r.student_term_id)
FROM registrations r JOIN sections s ON s.id = r.section_id JOIN meetings own ON own.section_id = s.id
JOIN registrations q ON q.student_term_id = r.student_term_id AND q.section_id <> r.section_id
JOIN meetings m ON m.section_id = q.section_id
WHERE s.reference_number = %s AND r.state = 'registered' AND q.state = 'registered'
    AND %s < m.ends AND m.starts < %s AND m.weekdays ~ ('[' || %s || ']')
    AND m.first_day <= own.last_day AND own.first_day <= m.last_day
"""
"""How many of a section's students have another class within some hours of some weekdays."""

_DAYS = {"first_day": "2027-08-23", "last_day": "2027-12-10"}
