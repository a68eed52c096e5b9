"""Checks what is offered: requisites that can be met, linked sections that can be taken."""

from __future__ import annotations

from collections.abc import Iterator

from gremba.core.catalogue.requisite_cycles import find_cycles
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.catalogue.term_check.facts import TermFacts
from gremba.core.catalogue.term_check.line import Fault


def something_offered(term: TermCatalogue, _: TermFacts) -> Iterator[Fault]:
    """At least one section is offered."""
    if all(section.cancelled for section in term.sections):
        yield Fault("There is no section in this term that takes place.")


def requisites_reachable(term: TermCatalogue, _: TermFacts) -> Iterator[Fault]:
    """No courses require each other in a cycle."""
    own = {course.key: course.requisites for course in set(term.courses.values())}
    for circle in find_cycles(own):
        around = " → ".join((*circle, circle[0]))
        yield Fault(f"Nobody can ever take these, since each needs the next: {around}.")


def linked_sections_complete(term: TermCatalogue, facts: TermFacts) -> Iterator[Fault]:
    """Every section has a linked section of each kind that is offered at another hour, and linked sections
    together have as many seats."""
    for section in term.sections:
        if section.cancelled or not section.carries_credit:
            continue
        for component, linked_sections in term.linked_sections_of(section).items():
            yield from _linked_sections(section, component, linked_sections, facts)


def _linked_sections(
    section: Section, component: str, linked_sections: tuple[Section, ...], facts: TermFacts
) -> Iterator[Fault]:
    number = section.reference_number
    there = [one for one in linked_sections if not one.cancelled]
    if not there:
        yield Fault(f"{section.name} needs a {component}, and none of them takes place.", number)
        return
    fitting = [one for one in there if section.clash_with(one) is None]
    if not fitting:
        yield Fault(f"{section.name} needs a {component}, and each of them is at its own hours.", number)
        return
    limit = facts.seat_limits.get(section.pool, 0)
    seats = sum({one.pool: facts.seat_limits.get(one.pool, 0) for one in fitting}.values())
    if seats < limit:
        yield Fault(f"{section.name} has {limit} seats, its {component}s together {seats}.", number)
