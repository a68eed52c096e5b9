"""Columns as most tables have them: kinds of cells, and names of what is in other tables."""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum
from typing import Any

from gremba.core.exchange.definition import Column, NamedRow, ValueKind

CODE: dict[str, Any] = {
    "pattern": r"[a-z0-9][a-z0-9-]{0,39}",
    "pattern_words": "small letters, figures and hyphens",
}
NUMBER: dict[str, Any] = {"pattern": r"[0-9]{5}", "pattern_words": "five figures"}
USERNAME: dict[str, Any] = {
    "pattern": r"[a-z0-9][a-z0-9._-]{0,59}",
    "pattern_words": "small letters, figures, . _ and -",
}
SUBJECT: dict[str, Any] = {"pattern": r"[A-Z]{2,6}", "pattern_words": "two to six capital letters"}
COURSE: dict[str, Any] = {
    "pattern": r"[A-Z]{2,6} [0-9]{3}[A-Z]?",
    "pattern_words": "subject and number, as SOIL 110",
}


def text(name: str, meaning: str, example: str, **more: Any) -> Column:
    """A text column; an empty cell is an empty text."""
    return Column(name, ValueKind.TEXT, meaning, example, **({"if_empty": ""} | more))


def must(name: str, meaning: str, example: str, kind: ValueKind = ValueKind.TEXT, **more: Any) -> Column:
    """A column without empty cells."""
    return Column(name, kind, meaning, example, required=True, **more)


def may(name: str, kind: ValueKind, meaning: str, example: str, **more: Any) -> Column:
    """A column with optional cells."""
    return Column(name, kind, meaning, example, **more)


def choice(name: str, among: Iterable[StrEnum], meaning: str, **more: Any) -> Column:
    """A column of an enumeration."""
    words = tuple(one.value for one in among)
    return Column(name, ValueKind.CHOICE, meaning, words[0], among=words, **more)


def yes(name: str, meaning: str, *, if_empty: bool = False) -> Column:
    """A yes-or-no column; an empty cell has a default."""
    return Column(name, ValueKind.YES_NO, meaning, "no" if if_empty else "yes", if_empty=if_empty)


def day(name: str, meaning: str, example: str) -> Column:
    """A required date column."""
    return must(name, meaning, example, ValueKind.DAY)


def place(meaning: str) -> Column:
    """The position among several rows of one owner, which identifies a row when everything else changes."""
    return may("place", ValueKind.WHOLE, meaning, "1", if_empty=1, least=1, most=99)


def names(table: str, **columns: str) -> NamedRow:
    """A reference to a row by its columns: ``names("terms", code="term")``."""
    return NamedRow(table, columns)


TERM = must("term", "code of the term", "harvest-2027", **CODE)
SECTION = must("number", "reference number of the section", "30412", **NUMBER)
STUDENT = must("username", "user name of the student", "wren", **USERNAME)
OF_TERM = names("terms", code="term")
OF_SECTION = names("sections", term="term", number="number")
OF_STUDENT = names("students", username="username")
OF_STUDENT_TERM = names("student_terms", term="term", username="username")
