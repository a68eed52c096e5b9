"""A statement as CSV (RFC 4180)."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable

from gremba.core.account.statement import Statement, StatementLine
from gremba.formats.table_file import safe_cell

COLUMNS = ("what for", "reference number", "title", "how it comes about", "told by", "charged", "paid")


def write_statement(statement: Statement, told_by: Callable[[StatementLine], str]) -> bytes:
    """The lines as CSV, followed by their sums.

    Args:
        told_by: where a line comes from, in words.
    """
    text = io.StringIO(newline="")
    writer = csv.writer(text, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    for line in statement.lines:
        dropped = f", dropped {line.dropped_on.isoformat()}" if line.dropped_on else ""
        cells = (line.what + dropped, line.number, line.title, line.how, told_by(line))
        writer.writerow([*map(safe_cell, cells), _sum(line.charged_cents), _sum(line.paid_cents)])
    sums = _sum(statement.charged_cents), _sum(statement.paid_cents)
    writer.writerow(["all", "", "", "", "", *sums])
    writer.writerow(["open", "", "", "", "", _sum(statement.balance_cents), ""])
    return b"\xef\xbb\xbf" + text.getvalue().encode()


def _sum(cents: int) -> str:
    return f"{cents / 100:.2f}"
