"""A line of the setup checklist, and a fault in it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from enum import StrEnum

from gremba.core.catalogue.term import TermCatalogue
from gremba.core.catalogue.term_check.facts import TermFacts


class Mend(StrEnum):
    """Where a problem is fixed."""

    FOLDER = "folder"
    """By a folder that says it as it should be."""
    SECTIONS = "sections"
    WINDOWS = "windows"
    POLICIES = "policies"


@dataclass(frozen=True, slots=True)
class Fault:
    """A problem.

    Attributes:
        text: what, in a sentence.
        number: reference number of the section it is about, if it is about one.
    """

    text: str
    number: str = ""


Looks = Callable[[TermCatalogue, TermFacts], Iterator[Fault]]


@dataclass(frozen=True, slots=True)
class Check:
    """A line of the setup checklist.

    Attributes:
        key: stable name.
        title: what is so where nothing is at fault.
        mend: where it is put right.
        holds_up: opening a term with such a fault stops students.
        look: finds what is at fault.
    """

    key: str
    title: str
    mend: Mend
    holds_up: bool
    look: Looks
