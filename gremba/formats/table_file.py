"""A schedule as CSV (RFC 4180).

It begins with a byte order mark, by which spreadsheet programs know that it is UTF-8. A cell that
such a program would run as a formula gets an apostrophe in front (as OWASP recommends, from
memory): what an instructor or a course is called never does anything.
"""

from __future__ import annotations

import csv
import io
import unicodedata
from collections.abc import Iterable

from gremba.core.catalogue.term import TermCatalogue
from gremba.core.plain_text import begins_formula
from gremba.core.registration.situation import Registration
from gremba.core.wording import times_text
from gremba.formats.decision_json import title_of

MEDIA_TYPE = "text/csv; charset=utf-8; header=present"

COLUMNS = (
    "reference number",
    "course",
    "title",
    "component",
    "credits",
    "grading",
    "times",
    "first day",
    "last day",
    "campus",
    "rooms",
    "delivery",
    "instructors",
)


def safe_cell(value: str) -> str:
    """The value, so that no spreadsheet takes it for a formula, even after spaces, line breaks, or
    invisible characters, or with a full-width sign."""
    value = "".join(c for c in value if c in "\n\t\r" or unicodedata.category(c) != "Cc")
    return f"'{value}" if begins_formula(value) else value


def table_file(term: TermCatalogue, held: Iterable[Registration]) -> bytes:
    """The registered sections as CSV."""
    text = io.StringIO(newline="")
    writer = csv.writer(text, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    for entry in held:
        section = entry.section
        campuses = sorted(section.campuses or {section.campus})
        cells = (
            section.reference_number,
            section.course.key,
            title_of(section),
            section.component,
            f"{entry.credits:g}",
            entry.grading,
            times_text(section.meetings),
            section.session.first.isoformat(),
            section.session.last.isoformat(),
            "; ".join(term.campus_names.get(c, c) for c in campuses),
            "; ".join(dict.fromkeys(m.room for m in section.meetings if m.room)),
            section.delivery,
            "; ".join(section.instructors) or "to be named",
        )
        writer.writerow([safe_cell(cell) for cell in cells])
    return text.getvalue().encode("utf-8-sig")
