"""Is the student prepared."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from gremba.core.catalogue import Section
from gremba.core.changes import Kind
from gremba.core.findings import Finding, GoTo, Place, Remedy, Severity, put
from gremba.core.requisites import (
    BEFORE,
    TOGETHER,
    CourseNeed,
    Evidence,
    PlacementNeed,
    Standing,
    State,
    courses_taken_together,
    describe,
    evaluate,
)
from gremba.core.rules.case import Case, Rule, Scope, Step, rule
from gremba.core.situation import Held, Lifts, Situation
from gremba.core.wording import counted, listed


def _needs(section: Section, step: Step) -> bool:
    return section.course.requisites is not None


def _scope(section: Section | None) -> Scope:
    """Other changes matter only where the same term counts, or the lecture may be among them."""
    fixed = section is not None and section.carries_credit and not section.course.looks_at_this_term
    return Scope.CHANGE if fixed else Scope.REQUEST


def _is_not_met(case: Case) -> bool:
    """Whether the requisites are not met, or met only provisionally; or a drop might undo others."""
    if case.step.does is Kind.DROP:
        return True
    evidence = _evidence(case)
    return evidence is not None and evidence.state is not State.MET


@rule("requisite.unmet", Severity.STOP, Kind.ADD, Kind.WAIT, scope=_scope, about=_needs,
      lifted_by=Lifts.REQUISITE, gate=_is_not_met)  # fmt: skip
def requisite_unmet(case: Case, me: Rule) -> Iterator[Finding]:
    """The course's requisites are not met by the record, nor by what is taken in the same term
    where that is allowed.

    Why: The course builds on them; students without them mostly do not pass it.

    Ways on: Take what is missing first, put it into the same cart where it may be taken
    together, or ask the instructor for consent.
    """
    evidence, nearest = _unmet(case)
    if evidence is None or _only_together(nearest) or _only_expired(case, nearest):
        return
    facts = listed(list(dict.fromkeys(leaf.fact for leaf in nearest)))
    need = describe(evidence.node)
    yield me.finding(
        f"{case.section.course.key} needs {need}; {facts}.",
        remedies=[*_ways_on(case, nearest), _BY_CONSENT],
        ask="the instructor",
        needs=need,
        missing=listed([leaf.need for leaf in nearest]),
    )


@rule("requisite.provisional", Severity.NOTE, Kind.ADD, Kind.WAIT, scope=_scope, about=_needs,
      lifted_by=Lifts.REQUISITE, gate=_is_not_met)  # fmt: skip
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


@rule("corequisite.missing", Severity.STOP, Kind.ADD, Kind.DROP, lifted_by=Lifts.REQUISITE,
      about=lambda section, step: step.does is Kind.DROP or section.course.looks_at_this_term,
      gate=_is_not_met)  # fmt: skip
def corequisite_missing(case: Case, me: Rule) -> Iterator[Finding]:
    """A course that must be taken in the same term is not: it is neither held nor in the
    request, or the request drops it from beside a course that needs it.

    Why: The two are taught hand in hand; each week of one builds on the other.

    Ways on: Put the other course into the same cart, or drop both.
    """
    if case.step.does is Kind.DROP:
        yield from _left_alone(case, me)
        return
    evidence, nearest = _unmet(case)
    if evidence is None or not _only_together(nearest):
        return
    others = listed([leaf.node.course for leaf in nearest if isinstance(leaf.node, CourseNeed)])
    yield me.finding(
        f"{case.section.course.key} is taken in the same term as {others}, which is neither in "
        "your week nor in your cart.",
        remedies=[*_ways_on(case, nearest), _BY_CONSENT],
        missing=others,
    )


def _left_alone(case: Case, me: Rule) -> Iterator[Finding]:
    dropped = case.section.course
    for held in case.end.kept:
        needs = courses_taken_together(held.section.course.requisites)
        if not needs or dropped.same_as.isdisjoint(needs) or not held.section.carries_credit:
            continue
        if any(not s.course.same_as.isdisjoint(dropped.same_as) for s in case.end.sections):
            continue
        number = held.section.reference_number
        yield me.finding(
            f"{held.section.name} {number}, which you keep, is taken in the same term as "
            f"{dropped.key}.",
            remedies=[Remedy(f"Drop {number} as well.", put(Kind.DROP, number))],
            other=number,
        )


@rule("placement.expired", Severity.STOP, Kind.ADD, Kind.WAIT, scope=_scope, about=_needs,
      lifted_by=Lifts.REQUISITE, gate=_is_not_met)  # fmt: skip
def placement_expired(case: Case, me: Rule) -> Iterator[Finding]:
    """A placement score that would be high enough is too old when the course begins.

    Why: What was known years ago may be forgotten.

    Ways on: Take the placement test again, or take the course it stands for.
    """
    evidence, nearest = _unmet(case)
    if evidence is None:
        return
    expired = [leaf for leaf in nearest if _is_expired(case, leaf)]
    for leaf in expired:
        yield me.finding(
            f"{case.section.course.key} needs {leaf.need}; {leaf.fact}.",
            remedies=[Remedy("Take the placement test again; the result counts the next day."),
                      _BY_CONSENT],
            ask="the testing office",
            needs=leaf.need,
        )  # fmt: skip


def _unmet(case: Case) -> tuple[Evidence | None, tuple[Evidence, ...]]:
    """The evidence if it is not met, and what is missing on the branch nearest to it."""
    evidence = _evidence(case)
    if evidence is None or evidence.state is not State.UNMET:
        return None, ()
    return evidence, evidence.nearest()


def _only_together(nearest: Sequence[Evidence]) -> bool:
    return all(isinstance(n.node, CourseNeed) and n.node.timing == TOGETHER for n in nearest)


def _only_expired(case: Case, nearest: Sequence[Evidence]) -> bool:
    return all(_is_expired(case, leaf) for leaf in nearest)


def _is_expired(case: Case, leaf: Evidence) -> bool:
    need = leaf.node
    return isinstance(need, PlacementNeed) and any(
        p.test == need.test and p.score >= need.least for p in case.situation.record.placements
    )


_BY_CONSENT = Remedy(
    "Or ask the instructor for consent if you are prepared in another way.", GoTo(Place.CONSENT)
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
        consent = case.step.is_lifted(Lifts.CONSENT)
        known = evaluate(
            course.requisites, _standing(case.situation, case.section, this_term, consent)
        )
        case.memo[key] = known
    return known


def requisite_evidence(
    situation: Situation, end: Iterable[Held], section: Section
) -> Evidence | None:
    """A section's requisites as a tree, for a student who would hold these sections.

    None where the course asks for nothing.
    """
    if section.course.requisites is None:
        return None
    this_term = frozenset(h.section.course.key for h in end if h.section is not section)
    return evaluate(section.course.requisites, _standing(situation, section, this_term, False))


def _standing(
    situation: Situation, section: Section, this_term: frozenset[str], consent: bool
) -> Standing:
    student = situation.student
    return Standing(
        record=situation.record,
        this_term=this_term,
        on=section.block.first,
        memberships={
            "program": student.program,
            "cohort": student.cohort,
            "campus": student.campus,
        },
        same_as=situation.catalogue.same_as,
        consent=consent,
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
            yield Remedy(text, put(Kind.ADD, number))
        elif offered:
            sections = counted(len(offered), "section", "sections")
            yield Remedy(f"Take {leaf.node.course} first: {sections} in {catalogue.name}.")
        else:
            yield Remedy(f"Take {leaf.node.course} first; {catalogue.name} does not offer it.")
