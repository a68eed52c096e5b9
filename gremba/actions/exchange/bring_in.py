"""Imports an exchange folder in one transaction. A trial run rolls all of it back."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from peewee import DataError, IntegrityError
from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.exchange.affected_students import (
    AffectedStudents,
    TermBefore,
    as_it_is,
    find_affected_students,
    notify_affected_students,
)
from gremba.core.exchange.definition import ExchangeTable, NamedRow
from gremba.core.exchange.mistakes import MOST_GUESSED_FROM, Mistake, ValueMistake, nearest
from gremba.core.exchange.rows import Mistakes, read_rows
from gremba.core.exchange.settings import check_setting
from gremba.core.exchange.tables import BY_NAME, is_by_term
from gremba.core.exchange.values import write_value
from gremba.formats.exchange.sheets import Formula, Sheet, UnreadableFile
from gremba.formats.exchange.source import Source
from gremba.store.database import connected
from gremba.store.exchange.odd_rows import odd_rows
from gremba.store.exchange.staging import (
    Staged,
    limit_statements,
    lock_exchange,
    names_kept,
    plan_for_sets,
)
from gremba.store.exchange.zone import college_zone, speak_in
from gremba.store.models import Term
from gremba.store.queries import write

MOST_SHOWN = 200
"""Rows of a table whose change is told one by one; the rest are counted."""

_MOST_GUESSES = 50
"""Names of one kind for which the nearest is looked up; each look goes through all that there are."""

_NOT_OF_TERMS = frozenset(
    {
        *("people", "students", "details", "records", "placements", "holds", "heads"),
        *("plans", "plan_lines"),
    }
)
"""Tables that no catalogue in memory is made of."""


@dataclass(frozen=True, slots=True)
class Progress:
    """How far an import is.

    Attributes:
        doing: what is done just now, and of which table.
        share: of all there is to do, 0 to 1.
    """

    doing: str
    share: float


Say = Callable[[Progress], None]

_READING = 0.6
"""The share of the whole that reading takes; the rest is checking and taking over."""

_OCTETS_OF_ROW = 40

MAX_SECONDS_A_STATEMENT = 600
"""Between two words of how far it has come."""


@dataclass(frozen=True, slots=True)
class ImportedChange:
    """A row with changed values.

    Attributes:
        key: its cells.
        cells: by column what is kept and what comes in its place, as they are written.
    """

    key: tuple[str, ...]
    cells: dict[str, tuple[str, str]]


@dataclass(frozen=True, slots=True)
class TableReport:
    """What a table of the folder changes.

    Attributes:
        rows: that it has.
        new, changed: counted; the first of those that change are told in `first_changed`.
        left_out: rows that are kept and not in the folder. They stay.
        terms: codes of the terms whose rows are new or changed, of a table by term.
    """

    name: str
    rows: int
    new: int
    changed: int
    left_out: int
    first_changed: tuple[ImportedChange, ...] = ()
    terms: frozenset[str] = field(default=frozenset(), repr=False)


@dataclass
class ImportReport:
    """What a folder would change, or its errors.

    Attributes:
        affected: the sections that students notice a change of, and whom it affects.
        strangers: files that are no table of the folder, and were not read.
        has_moved: it is another report than the one that was looked at.
        is_done: it was taken over.
        beside: rows that were changed beside those of the folder.
    """

    mistakes: Mistakes = field(default_factory=Mistakes)
    tables: list[TableReport] = field(default_factory=list)
    affected: AffectedStudents = AffectedStudents()
    strangers: tuple[str, ...] = ()
    has_moved: bool = False
    is_done: bool = False
    beside: int = 0

    def digest(self) -> str:
        """The same for two folders that make the same changes to the same data."""
        affected = [
            (one.change.after.id, one.change.is_off, one.change.after.meetings, one.registered, one.clashing)
            for one in self.affected.sections
        ]
        told = repr((self.tables, affected, self.affected.windows, self.affected.charged))
        return hashlib.sha256(told.encode()).hexdigest()

    @property
    def changes_nothing(self) -> bool:
        """Whether everything in it is already there."""
        return not self.beside and not any(table.new or table.changed for table in self.tables)


def bring_in(
    database: PooledPostgresqlDatabase,
    source: Source,
    now: datetime,
    *,
    is_trial: bool,
    say: Say = lambda _: None,
    expected: str = "",
    beside: Callable[[PooledPostgresqlDatabase], int] = lambda _: 0,
) -> ImportReport:
    """Read and check a folder, and import it unless there are errors. Affected students are told.

    Args:
        now: the time on the campus.
        say: told again and again how far it has come; what it raises ends the reading, and nothing is kept.
        is_trial: nothing is kept; what would be is told.
        expected: the digest of the report that was looked at before; where it would be another one now,
            nothing is kept either. Empty where nobody has looked.
        beside: what else is done in the same transaction, and how many rows of it there are.
    """
    report = ImportReport(strangers=source.strangers)
    with connected(database), database.atomic() as transaction:
        limit_statements(database, MAX_SECONDS_A_STATEMENT)
        lock_exchange(database)
        plan_for_sets(database)
        staged = _stage(database, source, report, say)
        _check(database, staged, report.mistakes)
        if report.mistakes.many == 0:
            before = _terms_touched(database, staged, now)
            if _merged(staged, report, say):
                report.beside = beside(database)
                if not is_trial and not report.changes_nothing:
                    # Before it is counted whom it affects: whoever registers from here on waits for the
                    # end, and is judged by what is new.
                    _have_read_again(database, report, staged)
                report.affected = find_affected_students(database, before, now)
                report.has_moved = bool(expected) and report.digest() != expected
                keeps = not is_trial and not report.has_moved
                if keeps and not report.changes_nothing:
                    notify_affected_students(database, report.affected, now)
                report.is_done = keeps
        if not report.is_done:
            transaction.rollback()
    return report


def _merged(staged: dict[str, Staged], report: ImportReport, say: Say) -> bool:
    """Merges the folder table by table; returns whether all could be."""
    all_rows = sum(one.rows for one in staged.values()) or 1
    rows = 0
    for one in staged.values():
        say(Progress(f"taking over {one.table.name}", _READING + (1 - _READING) * rows / all_rows))
        rows += one.rows
        try:
            report.tables.append(_compared(one))
            one.merge()
        except (IntegrityError, DataError) as problem:
            # What no check has foreseen, the tables refuse: its name says which rule of theirs it is.
            found = re.search(r'constraint "(\w+)"', str(problem))
            rule = f" ({found[1]})" if found else ""
            said = f"something in it cannot be kept beside what is there{rule}; look at its names and numbers"
            report.mistakes.note(Mistake(one.table.name, 0, "", "", said))
            return False
    return True


def _stage(
    database: PooledPostgresqlDatabase, source: Source, report: ImportReport, say: Say
) -> dict[str, Staged]:
    zone = college_zone(database)
    staged: dict[str, Staged] = {}
    size = sum(source.sizes.values()) or 1
    done = 0
    for sheet in source.sheets():
        table = BY_NAME[sheet.name]
        columns, rows = read_rows(table, _readable(sheet, report.mistakes), zone, report.mistakes, Formula)
        one = Staged(database, table, columns)
        own = source.sizes.get(sheet.name, 0)
        one.rows = one.fill(_counted(rows, sheet.name, done / size, own / size, own, say))
        done += own
        staged[sheet.name] = one
        if sheet.name == "terms":
            zone = _zone_of(one) or zone
    speak_in(database, zone)
    if not staged and report.mistakes.many == 0:
        names = ", ".join(list(BY_NAME)[:4])
        report.mistakes.note(
            Mistake("the folder", 0, "", "", f"there is no table in it; tables are called {names} and so on")
        )
    return staged


def _readable(sheet: Sheet, mistakes: Mistakes) -> Iterator[tuple[int, list[str]]]:
    try:
        yield from sheet.rows
    except UnreadableFile as problem:
        mistakes.note(Mistake(sheet.name, problem.line, "", "", str(problem)))


def _counted(
    rows: Iterator[Any], name: str, before: float, own: float, octets: int, say: Say
) -> Iterator[Any]:
    """Yields rows and reports progress.

    Args:
        before, own: the shares of all that is read of the tables before this one, and of this.
    """
    say(Progress(f"reading {name}", _READING * before))
    for many, row in enumerate(rows, 1):
        if many % 20_000 == 0:
            read = min(1.0, many * _OCTETS_OF_ROW / max(octets, 1))
            say(Progress(f"reading {name}: {many:,} rows", _READING * (before + own * read)))
        yield row


def _zone_of(terms: Staged) -> ZoneInfo | None:
    names = terms.values_of("zone", 1)
    try:
        return ZoneInfo(names[0]) if names else None
    except (ValueError, OSError, KeyError):
        return None


# ---------------------------------------------------------------------- what is wrong across rows


def _check(database: PooledPostgresqlDatabase, staged: dict[str, Staged], mistakes: Mistakes) -> None:
    for one in staged.values():
        for lines, key in one.twice():
            others = ", ".join(map(str, lines[1:6])) + (" …" if len(lines) > 6 else "")
            problem = f"the same {' and '.join(one.table.key)} stands in line {others} too"
            shown = " ".join(map(str, key))
            mistakes.note(Mistake(one.table.name, lines[0], one.table.key[-1], shown, problem))
        for target in one.table.targets:
            _check_target(database, one, target, staged, mistakes)
        if one.table.name == "policies":
            _check_policies(one, mistakes)
        lacking, lines = one.new_without()
        for line in lines:
            for needed in lacking:
                said = "is not in the heading, and this row is new"
                mistakes.note(Mistake(one.table.name, line, needed.name, "", said))
        for line, column, problem in odd_rows(database, one):
            mistakes.note(Mistake(one.table.name, line, column, "", problem))


def _check_policies(one: Staged, mistakes: Mistakes) -> None:
    """Checks settings: one that cannot be read would keep its term from loading."""
    for line, setting, value in one.rows_with("setting", "value"):
        try:
            check_setting(setting, value)
        except ValueMistake as problem:
            mistakes.note(Mistake("policies", line, "setting", setting, problem.problem, problem.guess))


def _check_target(
    database: PooledPostgresqlDatabase,
    one: Staged,
    target: NamedRow,
    staged: dict[str, Staged],
    mistakes: Mistakes,
) -> None:
    present = {column.name for column in one.columns}
    if not set(target.columns.values()) <= present:
        return
    missing = one.naming_nothing(target, staged.get(target.table))
    if not missing:
        return
    theirs, ours = list(target.columns.items())[-1]
    most = MOST_GUESSED_FROM + 1
    there = set(names_kept(database, target.table, theirs, most))
    if target.table in staged:
        there |= set(map(str, staged[target.table].values_of(theirs, most)))
    what = _what(BY_NAME[target.table])
    guesses: dict[str, str] = {}
    for line, named in missing:
        value = str(named[-1])
        if value not in guesses and len(guesses) < _MOST_GUESSES:
            guesses[value] = nearest(value, there)
        said = f"there is no such {what}"
        mistakes.note(Mistake(one.table.name, line, ours, value, said, guesses.get(value, "")))


def _what(table: ExchangeTable) -> str:
    return _SINGULAR.get(table.name, table.name.removesuffix("s").replace("_", " "))


_SINGULAR = {
    "campuses": "campus",
    "people": "person",
    "student_terms": "student in that term",
}


# ---------------------------------------------------------------------- what it brings


def _compared(one: Staged) -> TableReport:
    new, changed = one.count_new(), one.count_changed()
    return TableReport(
        one.table.name,
        one.rows,
        new,
        changed,
        one.count_left_out(),
        tuple(_change(one, *row) for row in one.first_changed(MOST_SHOWN)) if changed else (),
        one.terms_touched() if is_by_term(one.table) and (new or changed) else frozenset(),
    )


def _cells(one: Staged, names: tuple[str, ...], values: tuple[Any, ...]) -> tuple[str, ...]:
    return tuple(
        write_value(one.table.column(name), value) for name, value in zip(names, values, strict=True)
    )


def _change(one: Staged, line: int, before: tuple[Any, ...], after: tuple[Any, ...]) -> ImportedChange:
    names = tuple(column.name for column in one.columns)
    old, new = _cells(one, names, before), _cells(one, names, after)
    both = dict(zip(names, zip(old, new, strict=True), strict=True))
    return ImportedChange(
        tuple(both[name][1] for name in one.table.key),
        {name: cells for name, cells in both.items() if cells[0] != cells[1]},
    )


_AFFECTING = {"terms": "code"} | dict.fromkeys(
    ("tariff_rates", "tariff_fees", "sections", "meetings", "windows"), "term"
)
"""Tables whose changes students of a running term notice, and which column says the term."""


def _terms_touched(
    database: PooledPostgresqlDatabase, staged: dict[str, Staged], now: datetime
) -> dict[str, TermBefore]:
    """The terms with changes that students notice, as they are before the import."""
    codes = {
        code
        for name, column in _AFFECTING.items()
        if name in staged
        for code in staged[name].values_of(column, _MOST_TERMS)
    }
    # Of a term that is opened by a folder everybody is told theirs.
    with_windows = not staged.keys().isdisjoint({"windows", "terms"})
    return {code: as_it_is(database, code, now, with_windows=with_windows) for code in sorted(codes)}


_MOST_TERMS = 100


def _have_read_again(
    database: PooledPostgresqlDatabase, report: ImportReport, staged: dict[str, Staged]
) -> None:
    """Every process reloads the changed terms, and open pages follow."""
    changed = {table.name for table in report.tables if table.new or table.changed} - _NOT_OF_TERMS
    if not changed and not report.beside:
        return
    update = Term.update(catalogue_version=Term.catalogue_version + 1)
    # Of a new section other terms know that its number is one of this.
    everywhere = any(not is_by_term(BY_NAME[name]) for name in changed) or any(
        table.name == "sections" and table.new for table in report.tables
    )
    if not everywhere:
        codes = {code for table in report.tables if table.name in changed for code in table.terms}
        if report.beside:
            codes |= set(staged["sections"].values_of("term", _MOST_TERMS))
        update = update.where(Term.code.in_(sorted(codes)))
    write(database, update)
