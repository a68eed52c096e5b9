"""Registrations as CSV."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from gremba.formats.table_file import safe_cell

COLUMNS = ("number", "section", "username", "name", "program", "credits", "grading", "registered at")


@dataclass(frozen=True, slots=True)
class RegistrationRow:
    """A current registration."""

    number: str
    section: str
    username: str
    full_name: str
    program: str
    credits: float
    grading: str
    registered_at: datetime


def registrations_file(rows: Iterable[RegistrationRow]) -> bytes:
    """The registrations as CSV with a byte order mark (see :mod:`gremba.formats.table_file`)."""
    stream = io.StringIO()
    writer = csv.writer(stream, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    for row in rows:
        texts = map(safe_cell, (row.number, row.section, row.username, row.full_name, row.program))
        writer.writerow(
            [*texts, f"{row.credits:g}", row.grading, row.registered_at.isoformat(timespec="seconds")]
        )
    return stream.getvalue().encode("utf-8-sig")
