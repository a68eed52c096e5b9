"""Rules on the section itself, and on taking its course again."""

from __future__ import annotations

from collections.abc import Iterator

from gremba.core.registration.changes import Kind
from gremba.core.registration.findings import Finding, GoTo, Remedy, Severity, Target
from gremba.core.registration.rules.case import Case, Matter, Rule, Scope, rule
from gremba.core.registration.rules.codes import RuleCode
from gremba.core.registration.rules.ways import give_up, one_of_two
from gremba.core.states import Waiver
from gremba.core.students.grades import AUDITED, WITHDRAWN
from gremba.core.students.transcript import Attempt
from gremba.core.wording import counted, listed


@rule(RuleCode.SECTION_UNKNOWN, Severity.STOP, *Kind, scope=Scope.CHANGE, known=False)
def section_unknown(case: Case, me: Rule) -> Iterator[Finding]:
    """No section of any term has this reference number.

    Why: A mistyped number must never be taken for another section.

    Ways on: Compare the number with the list it came from.
    """
    number = case.step.number
    if number not in case.situation.catalogue.other_terms:
        yield me.finding(
            f"No section has the reference number {number}.",
            remedies=[Remedy("Compare it with your list; one digit may be off.")],
            number=number,
        )


@rule(RuleCode.SECTION_OTHER_TERM, Severity.STOP, *Kind, scope=Scope.CHANGE, known=False)
def section_other_term(case: Case, me: Rule) -> Iterator[Finding]:
    """The reference number means a section of another term.

    Why: Numbers are unique only within a term, and the wrong term is a common mistake.

    Ways on: Change the term at the top, or look for the course in this one.
    """
    number, catalogue = case.step.number, case.situation.catalogue
    terms = catalogue.other_terms.get(number)
    if terms:
        where = listed(terms)
        yield me.finding(
            f"{number} is a section of {where}, not of {catalogue.name}.",
            remedies=[
                Remedy(f"Change the term to {terms[0]}, or look for the course's number in {catalogue.name}.")
            ],
            number=number,
            term=where,
        )


@rule(
    RuleCode.SECTION_CANCELLED,
    Severity.STOP,
    Kind.ADD,
    Kind.WAIT,
    scope=Scope.CHANGE,
    of_section=lambda section: section.cancelled,
)
def section_cancelled(case: Case, me: Rule) -> Iterator[Finding]:
    """The section has been cancelled.

    Why: It will not be taught; lists written earlier may still carry its number.

    Ways on: Take another section of the course.
    """
    if case.section.cancelled:
        yield me.finding(
            f"{case.section.name} {case.section.reference_number} has been cancelled.",
            remedies=[Remedy("Take another section of the course.")],
        )


def _has_same(case: Case) -> bool:
    """Whether the course or an equivalent is registered or added before, in any component."""
    same = case.section.course.same_as
    for held in case.end.remaining:
        if not same.isdisjoint(held.section.course.same_as):
            return True
    for other in case.earlier:
        if other.section is not None and not same.isdisjoint(other.section.course.same_as):
            return True
    return False


@rule(RuleCode.COURSE_HELD_ALREADY, Severity.STOP, Kind.ADD, gate=_has_same, depends_on=[Matter.COURSE])
def course_held_already(case: Case, me: Rule) -> Iterator[Finding]:
    """The student is registered for the same course, or an equivalent one, in the same
    component already, and the request does not drop that section.

    Why: A course counts once a term; a second seat would be taken from somebody else.

    Ways on: Drop the section held in the same cart; it is given up only if the new one goes
    through with it.
    """
    for other in case.end.remaining:
        name, number = other.section.name, other.section.reference_number
        if other.section is case.section:
            yield me.finding(f"You are registered for {name} {number} already.")
        elif case.section.stands_for_same(other.section):
            yield me.finding(
                f"You are registered for {name} already, in section {number}.",
                remedies=give_up(case, other.section),
                held=number,
            )


@rule(RuleCode.COURSE_TWICE_IN_CART, Severity.STOP, Kind.ADD, gate=_has_same, depends_on=[Matter.COURSE])
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
                remedies=one_of_two(case, other),
                rests_on=[other.index],
                other=section.reference_number,
            )


def _is_on_record(case: Case) -> bool:
    return not case.section.course.same_as.isdisjoint(case.situation.record.by_course)


@rule(
    RuleCode.REPEAT_COUNTS,
    Severity.NOTE,
    Kind.ADD,
    Kind.WAIT,
    scope=Scope.CHANGE,
    of_section=lambda section: section.carries_credit,
    gate=_is_on_record,
)
def repeat_counts(case: Case, me: Rule) -> Iterator[Finding]:
    """The student has begun the course before and may take it again; says which grade counts.

    Why: Students who repeat a course should know what becomes of the earlier grade. A W is not an attempt.

    Ways on: Nothing to do; take another course if the earlier grade is good enough.
    """
    attempts = _attempts(case)
    if not attempts or _refusal(case, attempts):
        return
    course = case.section.course
    ordinal = _ORDINALS.get(len(attempts) + 1, f"{len(attempts) + 1}th")
    before = listed([f"{a.grade} in {a.term}" if a.grade else f"in progress in {a.term}" for a in attempts])
    counts = {
        "last counts": "The grade you get now will count.",
        "for credit": "Every time earns its credits.",
    }.get(course.repeats, "The better grade will count.")
    yield me.finding(
        f"This is your {ordinal} attempt at {course.key} ({before}). {counts}",
        attempts=len(attempts) + 1,
    )


@rule(
    RuleCode.REPEAT_REFUSED,
    Severity.STOP,
    Kind.ADD,
    Kind.WAIT,
    scope=Scope.CHANGE,
    lifted_by=Waiver.REPEAT,
    of_section=lambda section: section.carries_credit,
    gate=_is_on_record,
)
def repeat_refused(case: Case, me: Rule) -> Iterator[Finding]:
    """The course has been passed and may not be repeated, or all its attempts are used up.

    Why: Seats in a course go first to those who have yet to pass it.

    Ways on: Choose another course that counts toward the same, or ask the instructor for
    consent to repeat it.
    """
    refusal = _refusal(case, _attempts(case))
    if refusal:
        yield me.finding(
            refusal,
            remedies=[
                Remedy("Choose another course that counts toward the same."),
                Remedy("Enter a permission code if you may repeat it.", GoTo(Target.CONSENT)),
            ],
            ask="the instructor",
        )


_ORDINALS = {2: "second", 3: "third", 4: "fourth", 5: "fifth"}


def _attempts(case: Case) -> list[Attempt]:
    course = case.section.course
    by_course = case.situation.record.by_course
    if course.by_topic:
        # Another topic is another course, and the record does not tell them apart.
        return []
    return [
        a for key in course.same_as for a in by_course.get(key, ()) if a.grade not in (WITHDRAWN, AUDITED)
    ]


def _refusal(case: Case, attempts: list[Attempt]) -> str:
    course = case.section.course
    scale = case.situation.record.scale
    passed = [a for a in attempts if scale.earns_credit(a.grade)]
    if passed and course.repeats == "never after a pass":
        return f"You passed {course.key} in {passed[0].term}, and it cannot be repeated."
    if course.attempts_allowed is not None and len(attempts) >= course.attempts_allowed:
        times = counted(course.attempts_allowed, "time", "times")
        return f"{course.key} may be begun {times}, and your record shows {len(attempts)}."
    return ""
