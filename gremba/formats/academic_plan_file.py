"""Academic plans as CSV (RFC 4180) and JSON, both ways, with every mistake by line."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import orjson

from gremba.core.plain_text import as_before_defusing, defused
from gremba.core.students.academic_plan import LineMistake, PlanLine

COLUMNS = ("term", "courses", "count", "section", "note")

MOST_SIGNS = 300_000
"""A file that is longer is not read."""

_BETWEEN = "|"


@dataclass(frozen=True, slots=True)
class ReadLines:
    """The lines of a file.

    Attributes:
        numbers: where each line stands in the file.
        mistakes: what could not be read.
    """

    lines: tuple[PlanLine, ...]
    numbers: tuple[int, ...]
    mistakes: tuple[LineMistake, ...]

    def in_file(self, mistake: LineMistake) -> LineMistake:
        """An error with its position in the file."""
        known = mistake.line <= len(self.numbers)
        return LineMistake(self.numbers[mistake.line - 1] if known else mistake.line, mistake.text)


def write_table(lines: Sequence[PlanLine]) -> bytes:
    """The plan as CSV with headings."""
    text = io.StringIO(newline="")
    writer = csv.writer(text, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    for line in lines:
        cells = (line.term, f" {_BETWEEN} ".join(line.courses), str(line.count), line.section, line.note)
        writer.writerow([defused(cell) for cell in cells])
    return b"\xef\xbb\xbf" + text.getvalue().encode()


def read_table(text: str) -> ReadLines:
    """The lines of a CSV file, and its errors. Lines are numbered as in an editor, the headings being line
    1."""
    found: list[tuple[int, PlanLine]] = []
    mistakes: list[LineMistake] = []
    reader = csv.reader(io.StringIO(text.removeprefix("\ufeff"), newline=""))
    columns: dict[str, int] | None = None
    try:
        for cells in reader:
            if not any(cell.strip() for cell in cells):
                continue
            if columns is None:
                columns = {name.strip().casefold(): n for n, name in enumerate(cells)}
                missing = [name for name in ("term", "courses") if name not in columns]
                if missing:
                    told = " and ".join(f"“{name}”" for name in missing)
                    mistakes.append(
                        LineMistake(1, f"The first line names the columns; {told} is not among them.")
                    )
                    break
                continue
            texts = {name: cells[n] for name, n in columns.items() if n < len(cells)}
            line = _line({name: as_before_defusing(text.strip()) for name, text in texts.items()})
            if isinstance(line, str):
                mistakes.append(LineMistake(reader.line_num, line))
            else:
                found.append((reader.line_num, line))
    except csv.Error:
        mistakes.append(LineMistake(reader.line_num, "A quotation mark is opened and not closed."))
    if columns is None:
        mistakes.append(LineMistake(1, "There is nothing in it."))
    return _read(found, mistakes)


def _read(found: Sequence[tuple[int, PlanLine]], mistakes: Sequence[LineMistake]) -> ReadLines:
    return ReadLines(tuple(line for _, line in found), tuple(n for n, _ in found), tuple(mistakes))


def _line(cells: Mapping[str, str]) -> PlanLine | str:
    count = cells.get("count", "").strip() or "1"
    if not (count.isascii() and count.isdigit() and len(count) < 3):
        return f"“{count[:12]}” is no count; write 1 where one course is meant."
    return PlanLine(
        cells.get("term", "").strip(),
        tuple(dict.fromkeys(key.strip().upper() for key in cells["courses"].split(_BETWEEN) if key.strip())),
        int(count),
        cells.get("section", "").strip(),
        cells.get("note", "").strip(),
    )


def line_data(line: PlanLine) -> dict[str, Any]:
    """A line in its stored form."""
    return {
        "term": line.term,
        "courses": list(line.courses),
        "count": line.count,
        "section": line.section,
        "note": line.note,
    }


def line_of(data: Mapping[str, Any]) -> PlanLine:
    """A line from its stored form; see :func:`line_data`."""
    return PlanLine(data["term"], tuple(data["courses"]), data["count"], data["section"], data["note"])


def write_json(lines: Sequence[PlanLine]) -> bytes:
    """The plan as a JSON list of objects with the column names."""
    return orjson.dumps([line_data(line) for line in lines], option=orjson.OPT_INDENT_2)


def read_json(text: str) -> ReadLines:
    """The lines of a JSON list, and its errors, numbered by position."""
    try:
        data = orjson.loads(text)
    except orjson.JSONDecodeError as problem:
        return _read((), [LineMistake(problem.lineno, "It is not JSON from there on.")])
    if not isinstance(data, list):
        return _read((), [LineMistake(1, "It is a list of objects, each with “term” and “courses”.")])
    found: list[tuple[int, PlanLine]] = []
    mistakes: list[LineMistake] = []
    for number, one in enumerate(data, 1):
        line = _object(one)
        if isinstance(line, str):
            mistakes.append(LineMistake(number, line))
        else:
            found.append((number, line))
    return _read(found, mistakes)


def _object(data: Any) -> PlanLine | str:
    if not isinstance(data, dict):
        return "It is an object with “term” and “courses”."
    strange = sorted(str(name) for name in data if name not in COLUMNS)
    if strange:
        return f"There is no “{strange[0][:30]}” in a plan; there are {', '.join(COLUMNS)}."
    courses = data.get("courses", [])
    if isinstance(courses, str):
        courses = [courses]
    texts = [data.get(name, "") for name in ("term", "section", "note")]
    if not (isinstance(courses, list) and all(isinstance(c, str) for c in [*courses, *texts])):
        return "“courses” is a list of texts; “term”, “section” and “note” are texts."
    count = data.get("count", 1)
    if not isinstance(count, int) or isinstance(count, bool) or not 0 <= count < 100:
        return "“count” is a number; 1 where one course is meant."
    term, section, note = (text.strip() for text in texts)
    keys = tuple(dict.fromkeys(key.strip().upper() for key in courses if key.strip()))
    return PlanLine(term, keys, count, section, note)
