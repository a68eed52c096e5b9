"""The parts a table of the exchange folder is defined by. Reading, checking, writing and docs/exchange.md all
follow from them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Any


class ValueKind(StrEnum):
    """The kinds of values in columns, in the words of docs/exchange.md."""

    TEXT = "text"
    WHOLE = "whole number"
    CREDITS = "credits"
    MONEY = "money"
    DAY = "day"
    TIME = "time of day"
    ZONE = "time zone"
    MOMENT = "moment"
    YES_NO = "yes or no"
    CHOICE = "one of"
    LIST = "several texts"
    REQUISITE = "requisite"
    FEES = "fees"
    REFUNDS = "refunds"
    GROUPS = "groups"
    DOCUMENT = "JSON"


@dataclass(frozen=True, slots=True)
class NamedRow:
    """A reference to a row of another table.

    Attributes:
        table: of the folder.
        columns: by the column of that table the one of this that holds it. Courses are named by
            subject and number in one, "course", which the table itself does not have.
    """

    table: str
    columns: Mapping[str, str]


@dataclass(frozen=True)
class Column:
    """A column.

    Attributes:
        meaning: what it says, for people.
        example: as it would be written in a cell.
        among: the words allowed, of a choice.
        pattern: what a text must look like, as a regular expression that matches all of it.
        pattern_words: the same in words.
        required: whether no cell of it may be empty.
        if_empty: what an empty cell means where one may be.
        least, most: bounds of a number.
    """

    name: str
    kind: ValueKind
    meaning: str
    example: str
    among: tuple[str, ...] = ()
    pattern: str = ""
    pattern_words: str = ""
    required: bool = False
    if_empty: Any = None
    least: float | None = None
    most: float | None = None


@dataclass(frozen=True)
class ExchangeTable:
    """A table.

    Attributes:
        key: columns by which a row is known again.
        targets: rows of other tables that a row names.
        ordered: pairs of columns of which the first may not be beyond the second.
    """

    name: str
    meaning: str
    columns: tuple[Column, ...]
    key: tuple[str, ...]
    targets: tuple[NamedRow, ...] = ()
    ordered: tuple[tuple[str, str], ...] = ()

    def column(self, name: str) -> Column:
        """The column with this name.

        Raises:
            KeyError: there is none.
        """
        for column in self.columns:
            if column.name == name:
                return column
        raise KeyError(name)
