"""Collects what is wrong with a folder, in words that say how to fix it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from rapidfuzz import fuzz, process

from gremba.core.plain_text import plain

_SHOWN = 60
"""Signs of a wrong value that are repeated."""

_NEAR = 62
"""How alike a name must be, of 100, to be guessed."""

MOST_GUESSED_FROM = 20_000
"""Among more names than these the nearest is not looked for: each mistake would go through them all."""


class ValueMistake(ValueError):
    """A cell has an invalid value.

    Attributes:
        guess: what may have been meant; "" where nothing is near.
    """

    def __init__(self, problem: str, guess: str = "") -> None:
        super().__init__(problem)
        self.problem = problem
        self.guess = guess


@dataclass(frozen=True, slots=True)
class Mistake:
    """An error to fix.

    Attributes:
        table: of the folder, or the name of a file that is none.
        line: as a spreadsheet counts, the heading being 1; 0 where it is about the table.
        column: "" where it is about the row.
        value: what is there.
        guess: what may have been meant; "" where nothing is near.
    """

    table: str
    line: int
    column: str
    value: str
    problem: str
    guess: str = ""

    def __str__(self) -> str:
        where = [self.table]
        if self.line:
            where.append(f"line {self.line}")
        if self.column:
            where.append(f"{self.column} “{shown(self.value)}”" if self.value else self.column)
        told = f"{', '.join(where)}: {self.problem}"
        return f"{told}; {self.guess}?" if self.guess else f"{told}."


def shown(value: str) -> str:
    """A value as repeated to a person: short, on one line, without invisible characters."""
    text = plain(value[: _SHOWN + 1])
    return f"{text[:_SHOWN]}…" if len(value) > _SHOWN else text


def nearest(value: str, among: Iterable[str]) -> str:
    """The most similar value; "" if none is near or there are too many to compare."""
    names = list(among)
    if not value or len(value) > 200 or len(names) > MOST_GUESSED_FROM:
        return ""
    folded = {name.casefold(): name for name in names}
    exact = folded.get(value.casefold().strip())
    if exact is not None:
        return exact
    found = process.extractOne(value.casefold(), folded.keys(), scorer=fuzz.ratio, score_cutoff=_NEAR)
    return "" if found is None else folded[found[0]]
