"""Checks students: somebody is eligible, has a window and an advisor, and the rates are set."""

from __future__ import annotations

from collections.abc import Iterator

from gremba.core.account.tariff import Tariff
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.catalogue.term_check.facts import StudentsWithout, TermFacts
from gremba.core.catalogue.term_check.line import Fault
from gremba.core.wording import counted


def students_expected(_: TermCatalogue, facts: TermFacts) -> Iterator[Fault]:
    """The term has students."""
    if not facts.students:
        yield Fault("No student is expected in this term.")


def windows_assigned(_: TermCatalogue, facts: TermFacts) -> Iterator[Fault]:
    """Every student has a window."""
    yield from _without("a window", facts.without_window, facts)


def advisors_named(_: TermCatalogue, facts: TermFacts) -> Iterator[Fault]:
    """Every student has an advisor."""
    yield from _without("an advisor", facts.without_advisor, facts)


def _without(what: str, found: StudentsWithout, facts: TermFacts) -> Iterator[Fault]:
    if not found.many:
        return
    if found.many == facts.students:
        yield Fault(f"None of the {facts.students:,} students has {what}.")
        return
    names = ", ".join(found.first)
    more = found.many - len(found.first)
    beyond = f" and {more:,} more" if more > 0 else ""
    have = "has" if found.many == 1 else "have"
    yield Fault(f"{counted(found.many, 'student', 'students')} {have} not {what}: {names}{beyond}.")


def tariff_set(term: TermCatalogue, _: TermFacts) -> Iterator[Fault]:
    """Tuition rates are set."""
    if term.policy.tariff == Tariff():
        yield Fault("There is no tariff: nobody would be charged for anything.")
