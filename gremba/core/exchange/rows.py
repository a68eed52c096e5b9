"""Reads the rows of a table cell by cell and collects every mistake, not only the first."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any
from zoneinfo import ZoneInfo

from gremba.core.exchange.definition import Column, ExchangeTable
from gremba.core.exchange.mistakes import Mistake, ValueMistake, nearest
from gremba.core.exchange.values import read_value
from gremba.core.plain_text import as_before_defusing

MOST_NOTED = 1_000
"""Mistakes that are told one by one; the rest are counted."""

_REMEMBERED = 20_000
"""Cells of a column whose value is remembered: most stand there again and again."""


@dataclass
class Mistakes:
    """The errors of a folder.

    Attributes:
        noted: the first of them.
        many: all, counted.
    """

    noted: list[Mistake] = field(default_factory=list)
    many: int = 0

    def note(self, mistake: Mistake) -> None:
        """Add an error."""
        self.many += 1
        if len(self.noted) < MOST_NOTED:
            self.noted.append(mistake)


def read_rows(
    table: ExchangeTable,
    rows: Iterable[tuple[int, Sequence[str]]],
    zone: ZoneInfo,
    mistakes: Mistakes,
    formula: type[str] | None = None,
) -> tuple[tuple[str, ...], Iterator[tuple[int, tuple[Any, ...]]]]:
    """Read a table.

    Args:
        rows: the line with the cells of each, the heading first.
        zone: of moments that name none.
        formula: what cells are that hold a formula.

    Returns:
        The columns that are there, and the rows: the line, and a value for each column of the table, None
        where it cannot be read. A row whose key cannot be read is left out; of others the key counts,
        so that what names them is no mistake as well. Mistakes are noted as they are read.
    """
    lines = iter(rows)
    line, heading = next(lines, (1, ()))
    places = _places(table, line, heading, mistakes)
    reader = _Reader(table, places, zone, mistakes, formula, len(heading))
    return tuple(places), reader.read(lines)


def _places(table: ExchangeTable, line: int, heading: Sequence[str], mistakes: Mistakes) -> dict[str, int]:
    """The position of each column. Key columns must be there; columns that only new rows need are checked
    if there are new rows."""
    known = [column.name for column in table.columns]
    places: dict[str, int] = {}
    for place, cell in enumerate(heading):
        name = cell.strip().lower().replace(" ", "_")
        if not name:
            continue
        if name not in known:
            guess = nearest(name, known)
            mistakes.note(Mistake(table.name, line, "", "", f"there is no column “{cell[:60]}”", guess))
        elif name in places:
            mistakes.note(Mistake(table.name, line, name, "", "stands twice in the heading"))
        else:
            places[name] = place
    for name in table.key:
        column = table.column(name)
        if column.required and column.name not in places:
            mistakes.note(Mistake(table.name, line, column.name, "", "is missing in the heading"))
    return places


class _Reader:
    def __init__(
        self,
        table: ExchangeTable,
        places: dict[str, int],
        zone: ZoneInfo,
        mistakes: Mistakes,
        formula: type[str] | None,
        width: int,
    ) -> None:
        self._table, self._zone, self._mistakes, self._formula = table, zone, mistakes, formula
        self._columns = [(column, places.get(column.name)) for column in table.columns]
        self._memory: list[dict[str, Any]] = [{} for _ in table.columns]
        names = [column.name for column in table.columns]
        self._keys = [names.index(key) for key in table.key]
        self._ordered = [(names.index(one), names.index(other), one, other) for one, other in table.ordered]
        self._width = width
        # A key that may be left out is what an empty cell of it means.
        self._is_readable = all(key in places or not table.column(key).required for key in table.key)

    def read(self, rows: Iterator[tuple[int, Sequence[str]]]) -> Iterator[tuple[int, tuple[Any, ...]]]:
        if not self._is_readable:
            return
        for line, cells in rows:
            values = self._values(line, cells)
            if all(values[key] is not None for key in self._keys):
                yield line, tuple(values)

    def _values(self, line: int, cells: Sequence[str]) -> list[Any]:
        if len(cells) > self._width and any(cell.strip() for cell in cells[self._width :]):
            self._note(line, "", "", ValueMistake("has more cells than the heading"))
        values: list[Any] = []
        for (column, place), memory in zip(self._columns, self._memory, strict=True):
            text = cells[place] if place is not None and place < len(cells) else ""
            if text in memory and type(text) is str:
                values.append(memory[text])
                continue
            if place is None:
                values.append(column.if_empty)
                continue
            try:
                value = self._value(column, text)
            except ValueMistake as problem:
                self._note(line, column.name, text, problem)
                values.append(None)
                continue
            if len(memory) < _REMEMBERED:
                memory[text] = value
            values.append(value)
        self._check_order(line, values)
        return values

    def _check_order(self, line: int, values: Sequence[Any]) -> None:
        for one, other, first, second in self._ordered:
            if values[one] is None or values[other] is None or _in_order(values, one, other):
                continue
            relation = "before" if _may_be_equal(values[one]) else "not after"
            disorder = ValueMistake(f"is {relation} {first}")
            self._note(line, second, str(values[other]), disorder)

    def _value(self, column: Column, text: str) -> Any:
        if self._formula is not None and isinstance(text, self._formula):
            raise ValueMistake("is a formula; put its value there")
        # What a table file defuses with an apostrophe means what stands behind it.
        return read_value(column, as_before_defusing(text), self._zone)

    def _note(self, line: int, column: str, value: str, problem: ValueMistake) -> None:
        self._mistakes.note(
            Mistake(self._table.name, line, column, value.strip(), problem.problem, problem.guess)
        )


def _in_order(values: Sequence[Any], one: int, other: int) -> bool:
    if _may_be_equal(values[one]):
        return bool(values[one] <= values[other])
    return bool(values[one] < values[other])


def _may_be_equal(value: Any) -> bool:
    """Dates and numbers may be equal; times and names may not."""
    return not isinstance(value, str) and not hasattr(value, "hour")
