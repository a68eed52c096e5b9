"""Requisites: a tree of conditions, and its evaluation with the evidence for each node.

A student's state meets a node, does not, or meets it provisionally (it rests on a course still
in progress). Sentences are made here too, since the screen shows the branch nearest to being
met in the same words as a refusal.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date
from enum import IntEnum
from functools import lru_cache
from typing import Any

from gremba.core.students.grades import PASS, TRANSFER, WITHDRAWN, GradeScale, with_article
from gremba.core.students.transcript import Attempt, Record
from gremba.core.wording import credits_text, listed

BEFORE = "before"
BEFORE_OR_TOGETHER = "before or together"
TOGETHER = "together"
TIMINGS = (BEFORE, BEFORE_OR_TOGETHER, TOGETHER)


@dataclass(frozen=True, slots=True)
class AllOf:
    """Every part must be met."""

    parts: tuple[Requisite, ...]


@dataclass(frozen=True, slots=True)
class CountOf:
    """At least ``least`` of the parts must be met; 1 means any of them."""

    least: int
    parts: tuple[Requisite, ...]


@dataclass(frozen=True, slots=True)
class CourseNeed:
    """A course with a minimum grade, taken before or in the same term."""

    course: str
    grade: str | None = None
    timing: str = BEFORE


@dataclass(frozen=True, slots=True)
class PlacementNeed:
    """A sufficient and recent placement score."""

    test: str
    least: int
    years: int | None = None


@dataclass(frozen=True, slots=True)
class CreditsNeed:
    """A number of credits earned."""

    least: float


@dataclass(frozen=True, slots=True)
class MemberNeed:
    """Membership in one of several programs, cohorts, or campuses.

    ``kind`` is "program", "cohort" or "campus".
    """

    kind: str
    any_of: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class ConsentNeed:
    """The instructor's consent, given as a permission code."""


Requisite = AllOf | CountOf | CourseNeed | PlacementNeed | CreditsNeed | MemberNeed | ConsentNeed


class State(IntEnum):
    """How far a node is met. A node takes the worst (all) or the best (any) state of its parts."""

    UNMET = 0
    PROVISIONAL = 1
    MET = 2


@dataclass(slots=True)
class Evidence:
    """A node with its state and the evidence from the record.

    Attributes:
        shown: the attempt that it rests on, or what else there is to say.
    """

    node: Requisite
    state: State
    shown: Attempt | str
    parts: tuple[Evidence, ...] = ()

    @property
    def need(self) -> str:
        """The node in words."""
        return describe(self.node)

    @property
    def fact(self) -> str:
        """The evidence in words."""
        return self.shown if isinstance(self.shown, str) else _shows(self.shown)

    def nearest(self) -> tuple[Evidence, ...]:
        """The leaves that would have to change, on the branch closest to being met."""
        if self.state is not State.UNMET:
            return ()
        if not self.parts:
            return (self,)
        open_parts = sorted((p.nearest() for p in self.parts if p.state is State.UNMET), key=len)
        if isinstance(self.node, CountOf):
            met = sum(p.state is not State.UNMET for p in self.parts)
            open_parts = open_parts[: self.node.least - met]
        return tuple(leaf for leaves in open_parts for leaf in leaves)

    def leaves(self) -> tuple[Evidence, ...]:
        """Every leaf below it."""
        return tuple(leaf for part in self.parts for leaf in part.leaves()) or (self,)

    def provisional_leaves(self) -> tuple[Evidence, ...]:
        """The leaves in progress that the node depends on."""
        if self.state is not State.PROVISIONAL:
            return ()
        if not self.parts:
            return (self,)
        return tuple(leaf for part in self.parts for leaf in part.provisional_leaves())


@dataclass(slots=True)
class RequisiteContext:
    """The facts that requisites look at.

    Attributes:
        record: courses before this term.
        this_term: courses the student would have this term.
        on: the date on which the course begins (age of placement scores).
        memberships: "program", "cohort", "campus" to the student's own.
        same_as: for a course, all keys that count as it.
        credits_earned: before this term.
        consent: whether the instructor's consent is at hand.
        at_any_age: placement scores count however old they are.
    """

    record: Record
    this_term: frozenset[str]
    on: date
    memberships: Mapping[str, str]
    same_as: Mapping[str, frozenset[str]]
    credits_earned: float = 0.0
    consent: bool = False
    at_any_age: bool = False


def evaluate(node: Requisite, context: RequisiteContext) -> Evidence:
    """Evaluate a requisite; the result has the same tree."""
    match node:
        case AllOf(parts):
            found = tuple(evaluate(p, context) for p in parts)
            state = min((e.state for e in found), default=State.MET)
            return Evidence(node, state, "", found)
        case CountOf(least, parts):
            found = tuple(evaluate(p, context) for p in parts)
            best = sorted((e.state for e in found), reverse=True)
            state = best[least - 1] if least <= len(best) else State.UNMET
            return Evidence(node, State.MET if least <= 0 else state, "", found)
        case CourseNeed():
            return _evaluate_course(node, context)
        case PlacementNeed():
            return _evaluate_placement(node, context)
        case CreditsNeed(least):
            fact = f"you have earned {credits_text(context.credits_earned)}"
            return _leaf(node, context.credits_earned >= least, fact)
        case MemberNeed(kind, any_of):
            own = context.memberships.get(kind, "")
            fact = f"your {kind} is {own}" if own else f"you have no {kind}"
            return _leaf(node, own in any_of, fact)
        case ConsentNeed():
            fact = "you have given a consent code" if context.consent else "none given yet"
            return _leaf(node, context.consent, fact)


def _leaf(node: Requisite, met: bool, fact: str) -> Evidence:
    return Evidence(node, State.MET if met else State.UNMET, fact)


def _evaluate_course(node: CourseNeed, context: RequisiteContext) -> Evidence:
    keys = context.same_as.get(node.course) or frozenset({node.course})
    together = not keys.isdisjoint(context.this_term)
    if node.timing != BEFORE and together:
        return Evidence(node, State.MET, f"{node.course} is in the same term")
    if node.timing == TOGETHER:
        return Evidence(node, State.UNMET, f"{node.course} is not in your week")
    scale = context.record.scale
    by_course = context.record.by_course
    attempts = [a for key in keys for a in by_course.get(key, ())]
    graded = [a for a in attempts if a.grade is not None]
    passed = [a for a in graded if a.grade and scale.at_least(a.grade, node.grade)]
    if passed:
        best = min(passed, key=lambda a: scale.rank(a.grade or "") or 0)
        return Evidence(node, State.MET, best)
    running = [a for a in attempts if a.grade is None]
    if running:
        fact = f"{running[0].course} is in progress ({running[0].term})"
        return Evidence(node, State.PROVISIONAL, fact)
    if graded:
        worst = len(scale.letters)
        best = min(graded, key=lambda a: _rank_or(scale.rank(a.grade or ""), worst))
        return Evidence(node, State.UNMET, _falls_short(best, scale, node.grade))
    return Evidence(node, State.UNMET, f"your record has no {node.course}")


def _falls_short(attempt: Attempt, scale: GradeScale, least: str | None) -> Attempt | str:
    """The attempt, and for a pass or transfer with too few credits, those credits."""
    if attempt.grade not in (PASS, TRANSFER) or least is None:
        return attempt
    what = "a pass" if attempt.grade == PASS else "transfer credit"
    return (
        f"your record shows {what} in {attempt.course} ({attempt.term}), which counts as "
        f"{with_article(scale.pass_stands_for)} at most"
    )


def _rank_or(rank: int | None, otherwise: int) -> int:
    return otherwise if rank is None else rank


def _shows(attempt: Attempt) -> str:
    if attempt.grade == WITHDRAWN:
        return f"you withdrew from {attempt.course} ({attempt.term})"
    return f"your record shows {with_article(attempt.grade or '')} in {attempt.course} ({attempt.term})"


def _evaluate_placement(node: PlacementNeed, context: RequisiteContext) -> Evidence:
    scores = [p for p in context.record.placements if p.test == node.test]
    if not scores:
        return _leaf(node, False, f"you have no score for {node.test}")
    years = None if context.at_any_age else node.years
    fresh = [p for p in scores if years is None or _age(p.taken_on, context.on) <= years]
    best = max(fresh, key=lambda p: p.score, default=None)
    if best is not None and best.score >= node.least:
        return _leaf(node, True, f"your score for {node.test} is {best.score}")
    facts = [] if best is None else [f"your score for {node.test} is {best.score}"]
    old = max((p for p in scores if p not in fresh), key=lambda p: p.score, default=None)
    if old is not None and (old.score >= node.least or best is None):
        which = f"that of {old.score}" if facts else f"your score for {node.test} is {old.score}, but it"
        facts.append(f"{which} is older than {node.years} years")
    return _leaf(node, False, ", and ".join(facts))


def _age(taken: date, on: date) -> float:
    """Age in full years; the current partial year counts as a fraction."""
    years = on.year - taken.year
    behind = (on.month, on.day) < (taken.month, taken.day)
    exact = (on.month, on.day) == (taken.month, taken.day)
    return years - behind + (0.0 if exact else 0.5)


@lru_cache(maxsize=20_000)
def describe(node: Requisite, inside: bool = False) -> str:
    """A requisite in words: ``SOIL 110 with C or better, and MATH 120``."""
    match node:
        case AllOf(parts):
            text = ", and ".join(describe(p, True) for p in parts)
        case CountOf(1, parts):
            text = ", or ".join(describe(p, True) for p in parts)
        case CountOf(least, parts):
            return f"{least} of: {'; '.join(describe(p, True) for p in parts)}"
        case CourseNeed(course, grade, timing):
            when = {BEFORE: "", TOGETHER: " in the same term"}.get(timing, " before or in the same term")
            return f"{course}{f' with {grade} or better' if grade else ''}{when}"
        case PlacementNeed(test, least, years):
            aged = f", not older than {years} years" if years else ""
            return f"{least} or more on the {test}{aged}"
        case CreditsNeed(least):
            return f"{credits_text(least)} earned"
        case MemberNeed(kind, any_of):
            return f"the {kind} {listed(any_of, 'or')}"
        case ConsentNeed():
            return "the instructor's consent"
    return f"({text})" if inside and len(node.parts) > 1 else text


def course_needs(node: Requisite | None) -> Iterable[CourseNeed]:
    """Every course a requisite names."""
    if isinstance(node, CourseNeed):
        yield node
    elif isinstance(node, AllOf | CountOf):
        for part in node.parts:
            yield from course_needs(part)


def courses_taken_together(node: Requisite | None) -> frozenset[str]:
    """The courses that must be taken in the same term in any case."""
    if isinstance(node, CourseNeed):
        return frozenset({node.course}) if node.timing == TOGETHER else frozenset()
    if isinstance(node, AllOf):
        return frozenset().union(*(courses_taken_together(p) for p in node.parts))
    return frozenset()


_NODES: dict[str, Any] = {
    "all": AllOf,
    "count": CountOf,
    "course": CourseNeed,
    "placement": PlacementNeed,
    "credits": CreditsNeed,
    "member": MemberNeed,
    "consent": ConsentNeed,
}
_NAMES = {kind: name for name, kind in _NODES.items()}


def to_data(node: Requisite) -> dict[str, Any]:
    """The tree as plain data, for storage."""
    data: dict[str, Any] = {"is": _NAMES[type(node)]}
    for name in type(node).__dataclass_fields__:
        value = getattr(node, name)
        data[name] = [to_data(p) for p in value] if name == "parts" else value
    return data


def from_data(data: Mapping[str, Any]) -> Requisite:
    """The tree from plain data.

    Raises:
        ValueError: the data names no known node, a timing is unknown or a part is missing.
    """
    kind = _NODES.get(data.get("is", ""))
    if kind is None:
        raise ValueError(f"{data.get('is')!r} is no kind of requisite")
    values = {name: value for name, value in data.items() if name != "is"}
    if "parts" in values:
        values["parts"] = tuple(from_data(p) for p in values["parts"])
    if "any_of" in values:
        values["any_of"] = tuple(values["any_of"])
    if values.get("timing", BEFORE) not in TIMINGS:
        raise ValueError(f"{values['timing']!r} is no timing; use one of {', '.join(TIMINGS)}")
    try:
        node: Requisite = kind(**values)
    except TypeError as problem:
        raise ValueError(f"a requisite of kind {data['is']!r} is incomplete: {problem}") from None
    return node
