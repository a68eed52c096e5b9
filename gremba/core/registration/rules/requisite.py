"""Rules on prerequisites, corequisites and placement."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from gremba.core.catalogue.requisites import (
    BEFORE,
    TOGETHER,
    CourseNeed,
    Evidence,
    PlacementNeed,
    RequisiteContext,
    State,
    describe,
    evaluate,
)
from gremba.core.catalogue.term import Section
from gremba.core.registration.changes import Kind
from gremba.core.registration.findings import Finding, GoTo, Remedy, SeeChange, Severity, Target, put
from gremba.core.registration.rules.case import Case, Matter, Rule, Scope, Step, rule
from gremba.core.registration.rules.codes import RuleCode
from gremba.core.registration.rules.ways import put_beside
from gremba.core.registration.situation import Registration, Situation
from gremba.core.states import Waiver
from gremba.core.wording import counted, listed

_MATTERS = (Matter.NEEDS, Matter.COURSE)
"""A lab leaves the prerequisites to the lecture of its course."""


def _needs(section: Section) -> bool:
    return section.course.requisites is not None


def _scope(section: Section | None) -> Scope:
    """Other changes matter only if the same term counts or the lecture may be among them."""
    fixed = section is not None and section.carries_credit and not section.course.needs_this_term
    return Scope.CHANGE if fixed else Scope.REQUEST


def _is_not_met(case: Case) -> bool:
    """Whether the requisites are unmet or provisional, or a drop might undo others."""
    if case.step.does is Kind.DROP:
        return True
    evidence = _evidence(case)
    return evidence is not None and evidence.state is not State.MET


@rule(
    RuleCode.REQUISITE_UNMET,
    Severity.STOP,
    Kind.ADD,
    Kind.WAIT,
    scope=_scope,
    of_section=_needs,
    lifted_by=Waiver.REQUISITE,
    gate=_is_not_met,
    depends_on=_MATTERS,
)
def requisite_unmet(case: Case, me: Rule) -> Iterator[Finding]:
    """The course's requisites are not met by the record, nor by what is taken in the same term
    where that is allowed.

    Why: The course builds on them; students without them mostly do not pass it.

    Ways on: Take what is missing first, put it into the same cart where it may be taken
    together, or ask the instructor for consent.
    """
    evidence, nearest = _unmet(case)
    if evidence is None or _only_together(nearest) or _is_met_at_any_age(case):
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


@rule(
    RuleCode.REQUISITE_PROVISIONAL,
    Severity.NOTE,
    Kind.ADD,
    Kind.WAIT,
    scope=_scope,
    of_section=_needs,
    lifted_by=Waiver.REQUISITE,
    gate=_is_not_met,
)
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


def _drops_or_needs_this_term(step: Step) -> object:
    return step.does is Kind.DROP or (step.section and step.section.course.needs_this_term)


@rule(
    RuleCode.COREQUISITE_MISSING,
    Severity.STOP,
    Kind.ADD,
    Kind.WAIT,
    Kind.DROP,
    lifted_by=Waiver.REQUISITE,
    of_step=_drops_or_needs_this_term,
    implied=True,
    gate=_is_not_met,
    depends_on=_MATTERS,
)
def corequisite_missing(case: Case, me: Rule) -> Iterator[Finding]:
    """A course that must be taken in the same term is not: it is neither held nor in the
    request (nor, for a place, waited for); or the request gives up what a section that is kept
    needs in the same term, and nothing else it has meets the need.

    Why: The two are taught hand in hand; each week of one builds on the other.

    Ways on: Put the other course into the same cart, or drop both.
    """
    if case.step.does is Kind.DROP:
        yield from _left_alone(case, me)
        return
    evidence, nearest = _unmet(case)
    if evidence is None or not _only_together(nearest):
        return
    needed = [leaf.node.course for leaf in nearest if isinstance(leaf.node, CourseNeed)]
    others = listed(needed)
    in_cart = [
        step.name
        for step in case.wanted.steps
        if step.section is not None
        and step.does is not Kind.DROP
        and any(step.section.course.key in _numbers(case, course) for course in needed)
    ]
    where = "which would not be in your week"
    if in_cart:
        where += f": {listed(in_cart)} in your cart cannot be had as it stands"
    yield me.finding(
        f"{case.section.course.key} is taken in the same term as {others}, {where}.",
        remedies=[*_ways_on(case, nearest), _BY_CONSENT],
        ask="the instructor",
        missing=others,
    )


def _left_alone(case: Case, me: Rule) -> Iterator[Finding]:
    dropped = case.section.course
    for held in case.end.remaining:
        mine = held.section
        needed = mine.course.needs_this_term
        if not needed or not mine.carries_credit or mine.course.requisites is None:
            continue
        if not any(dropped.key in _numbers(case, course) for course in needed):
            continue
        then = _evaluate_held(case, mine, case.end.sections)
        now = _evaluate_held(case, mine, [h.section for h in case.situation.held])
        if then.state is not State.UNMET or now.state is State.UNMET:
            continue
        number = mine.reference_number
        name = f"{mine.name} {number}"
        way = Remedy(f"Drop {name} as well.", put(Kind.DROP, number))
        if case.wanted.drops_of(mine):
            way = Remedy(f"See what stops the drop of {name} in your cart first.", SeeChange(number))
        yield me.finding(
            f"{name}, which you keep, needs {describe(mine.course.requisites)}, and nothing else that "
            f"you have would do in the place of {dropped.key}.",
            remedies=[way],
            ask="the instructor",
            other=number,
        )


def _evaluate_held(case: Case, section: Section, beside: Iterable[Section]) -> Evidence:
    """The requisites of a registered section with these sections in the same term."""
    this_term = frozenset(s.course.key for s in beside if s is not section)
    key = (section.id, this_term)
    known = case.memo.get(key)
    if not isinstance(known, Evidence):
        requisites = section.course.requisites
        if requisites is None:
            raise LookupError("there are no requisites to evaluate")
        known = evaluate(requisites, _standing(case.situation, section, this_term, consent=False))
        case.memo[key] = known
    return known


def _numbers(case: Case, course: str) -> frozenset[str]:
    """All numbers of a course."""
    return case.situation.catalogue.same_as.get(course) or frozenset({course})


@rule(
    RuleCode.PLACEMENT_EXPIRED,
    Severity.STOP,
    Kind.ADD,
    Kind.WAIT,
    scope=_scope,
    of_section=_needs,
    lifted_by=Waiver.REQUISITE,
    gate=_is_not_met,
    depends_on=_MATTERS,
)
def placement_expired(case: Case, me: Rule) -> Iterator[Finding]:
    """The requisites would be met if a placement score counted that is too old when the course
    begins.

    Why: What was known years ago may be forgotten.

    Ways on: Take the placement test again, or take the course it stands for.
    """
    evidence, _ = _unmet(case)
    if evidence is None or not _is_met_at_any_age(case):
        return
    expired = [leaf for leaf in evidence.leaves() if _is_expired(case, leaf)]
    need = describe(evidence.node)
    yield me.finding(
        f"{case.section.course.key} needs {need}; {listed([leaf.fact for leaf in expired])}.",
        remedies=[
            Remedy("Take the placement test again; the result counts the next day."),
            *_ways_on(case, evidence.nearest()),
            _BY_CONSENT,
        ],
        ask="the testing office",
        needs=need,
    )


def _unmet(case: Case) -> tuple[Evidence | None, tuple[Evidence, ...]]:
    """The evidence if it is unmet, and what is missing on the closest branch."""
    evidence = _evidence(case)
    if evidence is None or evidence.state is not State.UNMET:
        return None, ()
    return evidence, evidence.nearest()


def _only_together(nearest: Sequence[Evidence]) -> bool:
    return all(isinstance(n.node, CourseNeed) and n.node.timing == TOGETHER for n in nearest)


def _is_met_at_any_age(case: Case) -> bool:
    """Whether only the age of placement scores is the obstacle."""
    course = case.section.course
    if course.requisites is None or not case.situation.record.placements:
        return False
    standing = _standing(case.situation, case.section, _this_term(case), _consents(case))
    standing.at_any_age = True
    return evaluate(course.requisites, standing).state is not State.UNMET


def _is_expired(case: Case, leaf: Evidence) -> bool:
    need = leaf.node
    return (
        isinstance(need, PlacementNeed)
        and leaf.state is State.UNMET
        and any(p.test == need.test and p.score >= need.least for p in case.situation.record.placements)
    )


_BY_CONSENT = Remedy(
    "Or ask the instructor for consent if you are prepared in another way.", GoTo(Target.CONSENT)
)


def _evidence(case: Case) -> Evidence | None:
    course = case.section.course
    if course.requisites is None or _asked_of_linked_section(case):
        return None
    this_term = _this_term(case)
    consent = _consents(case)
    key = (case.section.id, this_term, consent)
    known = case.memo.get(key)
    if not isinstance(known, Evidence):
        known = evaluate(course.requisites, _standing(case.situation, case.section, this_term, consent))
        case.memo[key] = known
    return known


def _consents(case: Case) -> bool:
    return case.step.is_lifted(Waiver.CONSENT)


def _this_term(case: Case) -> frozenset[str]:
    """The other courses of the term; for a waitlist entry those waited for as well, because the decision
    is made again when its seat comes."""
    if not case.section.course.needs_this_term:
        return frozenset()
    end = case.end
    own = [h.section.course.key for h in end.remaining]
    own += [a.section.course.key for a in end.adds if a.section and a is not case.step]
    if case.step.does is Kind.WAIT:
        own += [s.course.key for s in _waited_for(case)]
    return frozenset(own)


def requisite_evidence(
    situation: Situation, end: Iterable[Registration], section: Section
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
) -> RequisiteContext:
    student = situation.student
    return RequisiteContext(
        record=situation.record,
        this_term=this_term,
        on=section.session.first,
        memberships={
            "program": student.program,
            "cohort": student.cohort,
            "campus": student.campus,
        },
        same_as=situation.catalogue.same_as,
        credits_earned=situation.credits_earned,
        consent=consent,
    )


def _asked_of_linked_section(case: Case) -> bool:
    """Whether the section only belongs to one of its course that carries the requisites."""
    if case.section.carries_credit:
        return False
    course = case.section.course
    others = case.end.sections
    if case.step.does is Kind.WAIT:
        others = [*others, *_waited_for(case)]
    return any(o.carries_credit and o.course is course for o in others)


def _waited_for(case: Case) -> list[Section]:
    """The sections the student waits for, or would."""
    places = [p.section for p in case.situation.waitlist_entries]
    return places + [w.section for w in case.end.waits if w.section and w is not case.step]


def _ways_on(case: Case, nearest: Sequence[Evidence]) -> Iterator[Remedy]:
    catalogue = case.situation.catalogue
    yield from _put_together(case, nearest)
    for leaf in nearest:
        if not isinstance(leaf.node, CourseNeed):
            continue
        offered = _offered(case, leaf.node.course)
        if leaf.node.timing != BEFORE and offered:
            continue
        if offered:
            sections = counted(len(offered), "section", "sections")
            yield Remedy(f"Take {leaf.node.course} first: {sections} in {catalogue.name}.")
        else:
            yield Remedy(f"Take {leaf.node.course} first; {catalogue.name} does not offer it.")


def _put_together(case: Case, nearest: Sequence[Evidence]) -> Iterator[Remedy]:
    """The remedy of adding everything missing to the cart; a few sections to choose from if it is one
    course. Nothing if some of it must have been taken before."""
    options = [
        _offered(case, leaf.node.course)
        for leaf in nearest
        if isinstance(leaf.node, CourseNeed) and leaf.node.timing != BEFORE
    ]
    if len(options) != len(nearest) or not all(options):
        return
    if len(options) == 1:
        for section in options[0][:_FEW]:
            text = f"Put {section.course.key} into the same cart, for example {section.reference_number}."
            yield put_beside(case, section, text)
        return
    chosen = list(dict.fromkeys(sections[0] for sections in options))
    asked = {s.section for s in case.wanted.steps if s.does is not Kind.DROP}
    for section in chosen:
        if section in asked:
            yield put_beside(case, section, "")
            return
    names = listed([f"{s.course.key} {s.reference_number}" for s in chosen])
    yield Remedy(f"Put {names} into the same cart.", put(Kind.ADD, *(s.reference_number for s in chosen)))


_FEW = 3
"""Sections of a course that are offered."""


def _offered(case: Case, course: str) -> list[Section]:
    """The course's sections this term, under any number: first those in the cart, then those known to have
    a seat and no conflict."""
    catalogue = case.situation.catalogue
    found = [
        s
        for key in sorted(_numbers(case, course))
        for s in catalogue.by_course.get(key, ())
        if not s.cancelled and s.carries_credit
    ]
    in_cart = {s.section for s in case.wanted.steps if s.does is not Kind.DROP}

    def rank(section: Section) -> tuple[bool, bool]:
        figures = case.situation.seats.get(section.pool)
        is_full = figures is not None and not figures.left
        clashes = any(section.clash_with(s) is not None for s in [*case.end.sections, case.section])
        return section not in in_cart, is_full or clashes

    return sorted(found, key=rank)
