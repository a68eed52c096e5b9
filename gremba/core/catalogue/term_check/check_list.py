"""The setup checklist of a term."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import islice

from gremba.core.catalogue.term import TermCatalogue
from gremba.core.catalogue.term_check.days import days_in_order, inside_sessions
from gremba.core.catalogue.term_check.facts import TermFacts
from gremba.core.catalogue.term_check.line import Check, Fault, Mend
from gremba.core.catalogue.term_check.offer import (
    linked_sections_complete,
    requisites_reachable,
    something_offered,
)
from gremba.core.catalogue.term_check.places import instructors_free, rooms_free, rooms_hold
from gremba.core.catalogue.term_check.students import (
    advisors_named,
    students_expected,
    tariff_set,
    windows_assigned,
)

CHECKS: tuple[Check, ...] = (
    Check("days", "Days and deadlines are in order", Mend.FOLDER, True, days_in_order),
    Check("offer", "Something is offered", Mend.FOLDER, True, something_offered),
    Check("sessions", "Every section meets inside its session", Mend.SECTIONS, False, inside_sessions),
    Check("rooms", "No room is used twice at once", Mend.SECTIONS, False, rooms_free),
    Check("instructors", "Nobody teaches in two places at once", Mend.SECTIONS, False, instructors_free),
    Check("capacity", "Every room holds the limit", Mend.SECTIONS, False, rooms_hold),
    Check("requisites", "No requisites go in a circle", Mend.FOLDER, False, requisites_reachable),
    Check("linked_sections", "Linked sections can be taken", Mend.SECTIONS, False, linked_sections_complete),
    Check("students", "Students are expected", Mend.FOLDER, True, students_expected),
    Check("windows", "Every student has a window", Mend.WINDOWS, True, windows_assigned),
    Check("advisors", "Every student has an advisor", Mend.FOLDER, False, advisors_named),
    Check("tariff", "The tariff is set", Mend.FOLDER, False, tariff_set),
)

MOST_TOLD = 50
"""Faults of a line that are told; of the rest it is said that there are more."""


@dataclass(frozen=True, slots=True)
class Checked:
    """The result of one check.

    Attributes:
        faults: the first of them; none where all is well.
        has_more: there are others.
    """

    check: Check
    faults: tuple[Fault, ...]
    has_more: bool = False

    @property
    def is_well(self) -> bool:
        """Whether nothing is wrong."""
        return not self.faults


def go_through(term: TermCatalogue, facts: TermFacts) -> tuple[Checked, ...]:
    """Run every check."""
    found = []
    for check in CHECKS:
        faults = tuple(islice(check.look(term, facts), MOST_TOLD + 1))
        found.append(Checked(check, faults[:MOST_TOLD], len(faults) > MOST_TOLD))
    return tuple(found)
