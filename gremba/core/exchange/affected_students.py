"""Finds which students a change of sections affects: moved and canceled classes, and new time conflicts."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass

from gremba.core.catalogue.term import Section, TermCatalogue


@dataclass(frozen=True, slots=True)
class SectionChange:
    """A section before and after.

    Attributes:
        has_moved: it meets at other times or in another place.
        is_off: it takes place no more.
    """

    before: Section
    after: Section
    has_moved: bool
    is_off: bool


def changed_sections(before: TermCatalogue, after: TermCatalogue) -> list[SectionChange]:
    """Sections with changes that students notice, by reference number."""
    found = []
    for section in after.sections:
        was = before.by_number.get(section.reference_number)
        if was is None:
            continue
        has_moved = was.meetings != section.meetings and not section.cancelled
        is_off = section.cancelled and not was.cancelled
        if has_moved or is_off:
            found.append(SectionChange(was, section, has_moved, is_off))
    return sorted(found, key=lambda change: change.after.reference_number)


def linked_sections_left(term: TermCatalogue, taken_off: Collection[str]) -> list[Section]:
    """Offered linked sections of cancelled sections.

    Args:
        taken_off: reference numbers.
    """
    found: dict[str, Section] = {}
    for number in taken_off:
        section = term.by_number.get(number)
        for other in sorted(section.linked_sections) if section is not None else ():
            linked_section = term.by_number.get(other)
            if linked_section is not None and other not in taken_off and not linked_section.cancelled:
                found[other] = linked_section
    return [found[number] for number in sorted(found)]


def new_clashes(change: SectionChange, others: Iterable[Section], before: TermCatalogue) -> list[Section]:
    """A student's other sections that it conflicts with now and did not before.

    Args:
        others: as they are now.
        before: the term as it was.
    """
    found = []
    for other in others:
        if other.id == change.after.id or other.cancelled or not change.has_moved:
            continue
        was = before.by_number.get(other.reference_number)
        if change.after.clash_with(other) and not (was and change.before.clash_with(was)):
            found.append(other)
    return sorted(found, key=lambda section: section.reference_number)
