"""Is the student prepared."""

from __future__ import annotations

from collections.abc import Iterator

from gremba.core.changes import Kind
from gremba.core.findings import Finding, PutInCart, Remedy, Severity
from gremba.core.requisites import (
    BEFORE,
    CourseNeed,
    Evidence,
    Standing,
    State,
    course_needs,
    describe,
    evaluate,
)
from gremba.core.rules.case import Case, Rule, rule
from gremba.core.wording import counted, listed


@rule("requisite.unmet", Severity.STOP, Kind.ADD)
def requisite_unmet(case: Case, me: Rule) -> Iterator[Finding]:
    """The course's requisites are not met by the record, nor by what is taken in the same term
    where that is allowed.

    Why: The course builds on them; students without them mostly do not pass it.

    Ways on: Take what is missing first, put it into the same cart where it may be taken
    together, or ask the instructor for consent.
    """
    evidence = _evidence(case)
    if evidence is None or evidence.state is not State.UNMET:
        return
    nearest = evidence.nearest()
    facts = listed(list(dict.fromkeys(leaf.fact for leaf in nearest)))
    need = describe(evidence.node)
    yield me.finding(
        f"{case.section.course.key} needs {need}; {facts}.",
        remedies=_ways_on(case, nearest),
        ask="the instructor",
        needs=need,
        missing=listed([leaf.need for leaf in nearest]),
    )


@rule("requisite.provisional", Severity.NOTE, Kind.ADD)
def requisite_provisional(case: Case, me: Rule) -> Iterator[Finding]:
    """The requisites are met if courses still in progress end well.

    Why: Registration comes before the grades of the running term. Should one fall short, the
    section is taken back.

    Ways on: Nothing to do now; have another section in mind in case the grade falls short.
    """
    evidence = _evidence(case)
    if evidence is None or evidence.state is not State.PROVISIONAL:
        return
    leaves = evidence.provisional_leaves()
    courses = listed([leaf.need for leaf in leaves])
    yield me.finding(
        f"Counts on {courses}: {listed([leaf.fact for leaf in leaves])}.",
        rests_on_courses=courses,
    )


def _evidence(case: Case) -> Evidence | None:
    course = case.section.course
    if course.requisites is None or _asked_of_companion(case):
        return None
    end = case.end
    this_term: frozenset[str] = frozenset()
    if course.looks_at_this_term:
        this_term = frozenset(
            [h.section.course.key for h in end.kept]
            + [a.section.course.key for a in end.adds if a.section and a is not case.step]
        )
    key = (case.section.id, this_term)
    known = case.memo.get(key)
    if not isinstance(known, Evidence):
        known = evaluate(course.requisites, _standing(case, this_term))
        case.memo[key] = known
    return known


def _standing(case: Case, this_term: frozenset[str]) -> Standing:
    student = case.situation.student
    by_course = case.situation.catalogue.by_course
    same_as: dict[str, frozenset[str]] = {}
    for need in course_needs(case.section.course.requisites):
        offered = by_course.get(need.course)
        if offered:
            same_as[need.course] = offered[0].course.same_as
    return Standing(
        record=case.situation.record,
        this_term=this_term,
        on=case.section.block.first,
        memberships={
            "program": student.program,
            "cohort": student.cohort,
            "campus": student.campus,
        },
        same_as=same_as,
    )


def _asked_of_companion(case: Case) -> bool:
    """Whether the section only goes with one of its course that carries the requisites."""
    if case.section.carries_credit:
        return False
    course = case.section.course
    others = [h.section for h in case.end.kept] + [a.section for a in case.end.adds if a.section]
    return any(o.carries_credit and o.course is course for o in others)


def _ways_on(case: Case, nearest: tuple[Evidence, ...]) -> Iterator[Remedy]:
    catalogue = case.situation.catalogue
    for leaf in nearest:
        if not isinstance(leaf.node, CourseNeed):
            continue
        offered = [s for s in catalogue.by_course.get(leaf.node.course, ()) if not s.cancelled]
        if leaf.node.timing != BEFORE and offered:
            number = offered[0].reference_number
            text = f"Put {leaf.node.course} into the same cart, for example {number}."
            yield Remedy(text, PutInCart(Kind.ADD, number))
        elif offered:
            sections = counted(len(offered), "section", "sections")
            yield Remedy(f"Take {leaf.node.course} first: {sections} in {catalogue.name}.")
        else:
            yield Remedy(f"Take {leaf.node.course} first; {catalogue.name} does not offer it.")
    yield Remedy("Ask the instructor for consent if you are prepared in another way.")
