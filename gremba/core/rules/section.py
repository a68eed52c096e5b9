"""Is the section there to be taken, and is its course not already."""

from __future__ import annotations

from collections.abc import Iterator

from gremba.core.changes import Kind
from gremba.core.findings import Finding, PutInCart, Remedy, Severity
from gremba.core.rules.case import Case, Rule, Scope, rule
from gremba.core.wording import listed


@rule("section.unknown", Severity.STOP, Kind.ADD, Kind.DROP, scope=Scope.CHANGE, known=False)
def section_unknown(case: Case, me: Rule) -> Iterator[Finding]:
    """No section of any term has this reference number.

    Why: A mistyped number must never be taken for another section.

    Ways on: Compare the number with the list it came from.
    """
    number = case.step.change.number
    if number not in case.situation.catalogue.other_terms:
        yield me.finding(
            f"No section has the reference number {number}.",
            remedies=[Remedy("Compare it with your list; one digit may be off.")],
            number=number,
        )


@rule("section.other_term", Severity.STOP, Kind.ADD, Kind.DROP, scope=Scope.CHANGE,
      known=False)  # fmt: skip
def section_other_term(case: Case, me: Rule) -> Iterator[Finding]:
    """The reference number means a section of another term.

    Why: Numbers are unique only within a term, and the wrong term is a common mistake.

    Ways on: Change the term at the top, or look for the course in this one.
    """
    number, catalogue = case.step.change.number, case.situation.catalogue
    terms = catalogue.other_terms.get(number)
    if terms:
        where = listed(terms)
        yield me.finding(
            f"{number} is a section of {where}, not of {catalogue.name}.",
            remedies=[Remedy(f"Change the term to {terms[0]}, or look for the course's number "
                             f"in {catalogue.name}.")],
            number=number,
            term=where,
        )  # fmt: skip


@rule("section.cancelled", Severity.STOP, Kind.ADD, scope=Scope.CHANGE)
def section_cancelled(case: Case, me: Rule) -> Iterator[Finding]:
    """The section has been cancelled.

    Why: It will not be taught; lists written earlier may still carry its number.

    Ways on: Take another section of the course.
    """
    if case.section.cancelled:
        yield me.finding(
            f"{case.section.name} {case.section.reference_number} has been cancelled.",
            remedies=other_sections(case),
        )


@rule("course.held_already", Severity.STOP, Kind.ADD)
def course_held_already(case: Case, me: Rule) -> Iterator[Finding]:
    """The student is registered for the same course, or an equivalent one, in the same
    component already, and the request does not drop that section.

    Why: A course counts once a term; a second seat would be taken from somebody else.

    Ways on: Drop the section held in the same cart; it is given up only if the new one goes
    through with it.
    """
    held = case.held
    if held is not None:
        yield me.finding(f"You are registered for {case.section.name} "
                         f"{case.section.reference_number} already.")  # fmt: skip
        return
    for other in case.end.kept:
        if case.section.stands_for_same(other.section):
            name, number = other.section.name, other.section.reference_number
            yield me.finding(
                f"You are registered for {name} already, in section {number}.",
                remedies=[Remedy(f"Drop {number} in the same cart to move over.",
                                 PutInCart(Kind.DROP, number))],
                held=number,
            )  # fmt: skip


@rule("course.twice_in_cart", Severity.STOP, Kind.ADD)
def course_twice_in_cart(case: Case, me: Rule) -> Iterator[Finding]:
    """A change further up adds the same course, or an equivalent one, in the same component.

    Why: A course counts once a term. The one further up goes first.

    Ways on: Keep the one you want at the top; the other serves if that one cannot be had.
    """
    for other in case.earlier:
        section = other.section
        if section is not None and case.section.stands_for_same(section):
            yield me.finding(
                f"A course can be taken only once, and {section.name} "
                f"{section.reference_number} {case.goes_before(other)}.",
                remedies=[Remedy("Leave it as the second choice, or move it up to prefer it.")],
                rests_on=[other.index],
                other=section.reference_number,
            )


def other_sections(case: Case) -> list[Remedy]:
    """Up to three other sections of the course that do not clash with the week kept."""
    mine = case.section
    found = []
    for section in case.situation.catalogue.by_course.get(mine.course.key, ()):
        if section is mine or section.cancelled or section.component != mine.component:
            continue
        if any(section.week & held.section.week for held in case.end.kept):
            continue
        number = section.reference_number
        found.append(Remedy(f"Look at section {number} instead.", PutInCart(Kind.ADD, number)))
    return found[:3]
