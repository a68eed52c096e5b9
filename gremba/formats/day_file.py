"""A day's entries as CSV (RFC 4180), to and from the finance office."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from zoneinfo import ZoneInfo

from gremba.core.account.ledger import MOST_CENTS, DayEntry, EntryKind
from gremba.core.wording import amount
from gremba.formats.table_file import safe_cell

OUT = ("entry", "at", "student", "name", "kind", "account", "amount", "origin", "what", "reason")
IN = ("id", "student", "kind", "amount", "what", "reason")

MOST_SIGNS = 2_000_000
"""A file that is longer is not read."""

MOST_LINES = 5_000

KINDS = (EntryKind.PAYMENT, EntryKind.AID, EntryKind.SPONSOR, EntryKind.WAIVER, EntryKind.CORRECTION)
"""What the finance office may tell of."""

_AMOUNT = re.compile(r"-?[0-9]{1,9}\.[0-9]{2}", re.ASCII)
_ID = re.compile(r"[A-Za-z0-9._/-]{1,60}", re.ASCII)


@dataclass(frozen=True, slots=True)
class LineProblem:
    """An error in a line, numbered as in an editor."""

    line: int
    text: str


@dataclass(frozen=True, slots=True)
class OfficeLine:
    """An entry from the finance office."""

    line: int
    id: str
    student: str
    kind: EntryKind
    amount_cents: int
    label: str
    reason: str


def write_day(entries: Iterable[DayEntry], zone: ZoneInfo) -> bytes:
    """The entries as CSV with headings. The same entries make the same file."""
    text = io.StringIO(newline="")
    writer = csv.writer(text, lineterminator="\r\n")
    writer.writerow(OUT)
    for entry in entries:
        cells = (
            str(entry.id),
            entry.at.astimezone(zone).isoformat(timespec="seconds"),
            entry.username,
            entry.full_name,
            entry.kind,
            entry.account,
        )
        rest = (entry.origin, entry.label, entry.reason)
        sum_ = f"{entry.amount_cents / 100:.2f}"
        writer.writerow([*map(safe_cell, cells), sum_, *map(safe_cell, rest)])
    return b"\xef\xbb\xbf" + text.getvalue().encode()


def read_day(text: str) -> tuple[list[OfficeLine], list[LineProblem]]:
    """The entries of a finance office's file, and its errors."""
    lines: list[OfficeLine] = []
    problems: list[LineProblem] = []
    reader = csv.reader(io.StringIO(text.removeprefix("\ufeff"), newline=""), strict=True)
    columns: dict[str, int] | None = None
    seen: dict[str, int] = {}
    try:
        for cells in reader:
            number = reader.line_num
            if not any(cell.strip() for cell in cells):
                continue
            if columns is None:
                columns = {name.strip().casefold(): n for n, name in enumerate(cells)}
                missing = [name for name in IN[:4] if name not in columns]
                if missing:
                    told = ", ".join(missing)
                    problems.append(
                        LineProblem(number, f"The first line names the columns; missing: {told}.")
                    )
                    break
                continue
            values = {name: cells[n].strip() if n < len(cells) else "" for name, n in columns.items()}
            found, wrong = _line(number, values, seen)
            if wrong:
                problems.append(LineProblem(number, " ".join(wrong)))
            elif found is not None:
                lines.append(found)
            if len(lines) + len(problems) > MOST_LINES:
                problems.append(LineProblem(number, f"A file has at most {MOST_LINES:,} lines."))
                break
    except csv.Error:
        problems.append(LineProblem(reader.line_num, "From here on it cannot be read as a table file."))
    if columns is None and not problems:
        problems.append(LineProblem(1, f"The file is empty; its first line names {', '.join(IN)}."))
    return lines, problems


def _line(number: int, values: dict[str, str], seen: dict[str, int]) -> tuple[OfficeLine | None, list[str]]:
    wrong = []
    key, kind_text, sum_text = values["id"], values["kind"].casefold(), values["amount"]
    if not _ID.fullmatch(key):
        wrong.append("The id is missing, or is more than letters, digits and . _ / -.")
    elif key in seen:
        wrong.append(f"The id {key} stands in line {seen[key]} already.")
    else:
        seen[key] = number
    if not values["student"]:
        wrong.append("The student's user name is missing.")
    kind = next((known for known in KINDS if known == kind_text), None)
    if kind is None:
        wrong.append(f"The kind is one of {', '.join(KINDS)}.")
    cents = 0
    if not _AMOUNT.fullmatch(sum_text):
        wrong.append("Write the amount with a point and two digits behind it, and nothing else: 1240.00.")
    else:
        cents = int(sum_text.replace(".", ""))
        if cents == 0:
            wrong.append("The amount is nothing.")
        elif cents < 0 and kind is not EntryKind.CORRECTION:
            wrong.append("Only a correction may be below zero.")
        elif abs(cents) > MOST_CENTS:
            wrong.append(f"That is more than {amount(MOST_CENTS)}.")
    reason = values.get("reason", "")
    if kind in (EntryKind.WAIVER, EntryKind.CORRECTION) and not reason:
        wrong.append(f"A {kind} needs a reason.")
    if wrong or kind is None:
        return None, wrong
    label = values.get("what", "") or "told by the finance office"
    return OfficeLine(number, key, values["student"], kind, cents, label[:120], reason[:400]), []


def in_order(problems: Sequence[LineProblem]) -> list[LineProblem]:
    """By line."""
    return sorted(problems, key=lambda problem: problem.line)
