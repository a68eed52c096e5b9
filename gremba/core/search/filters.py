"""What one looks for."""

from __future__ import annotations

import re
from dataclasses import dataclass, fields

SORTS = ("course", "time", "seats", "fit")
"""The orders of results: by course, earliest in the week first, most seats first, fitting first."""

SEATS = ("open", "waitlist")
"""Only with a seat left; or also those full whose waitlist has room."""

PARTS_OF_DAY = {"morning": (0, 12 * 60), "afternoon": (12 * 60, 17 * 60), "evening": (17 * 60, 24 * 60)}
"""By when classes start, in minutes since midnight."""

NO_TIMES = "none"
"""As a day: sections without set times."""

MOST_WORDS = 200
"""Characters of words that are looked for."""


@dataclass(frozen=True, slots=True)
class Filters:
    """Every one may be left out; those that are there must all be met.

    Where several values are given, one of them is enough. Days and parts of the day are those
    on which one has time: a section passes if it meets on no other.

    Attributes:
        words: of titles, descriptions, topics, notes, subjects and instructors' names; also
            subject and number, and reference numbers.
        number: course numbers or patterns such as ``1*``, ``14?``; ``142`` finds 142A too.
        day: weekday letters, and :data:`NO_TIMES`.
        time_from: minutes since midnight before which no class starts.
        time_to: minutes since midnight after which no class ends.
        credits: figures that the course's credits may be.
        level: the first digit of the course's number.
        counts: requirements that the course counts toward.
        seats: one of :data:`SEATS`, or "" for any.
        fits: only what fits the week.
        among: only sections with these reference numbers, such as those starred; None for any.
        sort: one of :data:`SORTS`.
    """

    words: str = ""
    subject: tuple[str, ...] = ()
    number: str = ""
    instructor: tuple[str, ...] = ()
    day: tuple[str, ...] = ()
    part: tuple[str, ...] = ()
    time_from: int | None = None
    time_to: int | None = None
    campus: tuple[str, ...] = ()
    delivery: tuple[str, ...] = ()
    component: tuple[str, ...] = ()
    block: tuple[str, ...] = ()
    credits: tuple[str, ...] = ()
    level: tuple[str, ...] = ()
    counts: tuple[str, ...] = ()
    seats: str = ""
    no_textbook_cost: bool = False
    fits: bool = False
    among: tuple[str, ...] | None = None
    sort: str = "course"

    def active(self) -> tuple[str, ...]:
        """The names of the filters that are set."""
        return tuple(f.name for f in fields(self) if f.name != "sort" and getattr(self, f.name) != f.default)


_NUMBER = re.compile(r"[0-9?*]{1,6}[A-Z]?")


def number_patterns(text: str) -> tuple[list[re.Pattern[str]], list[str]]:
    """The patterns in a text, and the pieces of it that are none.

    ``?`` stands for one digit and ``*`` for any that follow; a letter behind the number may be
    left out, but not another one written in its place.
    """
    patterns, others = [], []
    for piece in re.split(r"[\s,;]+", text.strip().upper()):
        if not piece:
            continue
        if not _NUMBER.fullmatch(piece):
            others.append(piece)
            continue
        body = re.escape(piece).replace(r"\?", "[0-9]").replace(r"\*", "[0-9]*")
        patterns.append(re.compile(body if piece[-1].isalpha() else f"{body}[A-Z]?"))
    return patterns, others
