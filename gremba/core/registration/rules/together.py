"""Rules on sections that are taken together."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from gremba.core.catalogue.term import Section
from gremba.core.registration.changes import Kind
from gremba.core.registration.findings import Finding, Remedy, SeeChange, Severity, put, swap
from gremba.core.registration.rules.case import Case, Matter, Rule, rule
from gremba.core.registration.rules.codes import RuleCode
from gremba.core.registration.rules.ways import one_of_two, put_beside
from gremba.core.wording import counted, listed, times_text


def _has_linked_sections(section: Section) -> object:
    return section.linked_sections


@rule(
    RuleCode.LINKED_SECTION_MISSING,
    Severity.STOP,
    Kind.ADD,
    Kind.WAIT,
    Kind.DROP,
    of_section=_has_linked_sections,
    implied=True,
    depends_on=[Matter.COURSE],
)
def linked_section_missing(case: Case, me: Rule) -> Iterator[Finding]:
    """The course is taught in components, and one that goes with this section is neither held
    nor in the request; or the section dropped is one that a section kept goes with, and no other
    takes its place; or the section is named for a waitlist spot that the request does not take.

    Why: A lecture without its lab, or a lab without its lecture, is half a course.

    Ways on: Put one of those that fit your week into the same cart; they are offered here.
    """
    if case.step.does is Kind.DROP:
        yield from _left_without(case, me)
        return
    if case.step.does is Kind.WAIT:
        yield from _named_for_nothing(case, me)
        return
    mine = case.section
    have = {s.component for s in case.end.sections if s.course is mine.course}
    for component, options in case.situation.catalogue.linked_sections_of(mine).items():
        if component in have:
            continue
        open_ones = [o for o in options if not o.cancelled]
        fitting = [o for o in open_ones if _fits(case, o)]
        if fitting:
            ways = [
                put_beside(case, o, f"Add {component} {o.reference_number}, {times_text(o.meetings)}.")
                for o in fitting[:3]
            ]
        else:
            ways = [Remedy(f"No {component} fits your week as it would be; make room for one.")]
        fits = f"{len(fitting)} of {len(open_ones)} would fit"
        if open_ones and not any(_has_seat(case, o) for o in open_ones):
            ways = [Remedy(f"Look again when a {component} has a seat, or wait for one.")]
            fits = "it is full" if len(open_ones) == 1 else f"all {len(open_ones)} are full"
        yield me.finding(
            f"{mine.name} is taken with a {component} of its own, and none that goes with it would "
            f"be in your week ({fits}).",
            remedies=ways,
            component=component,
        )


def _named_for_nothing(case: Case, me: Rule) -> Iterator[Finding]:
    if not case.step.implied:
        return
    mine = case.section
    if any(
        w.section is not None and w.section.reference_number in mine.linked_sections for w in case.end.waits
    ):
        return
    yield me.finding(
        f"{mine.name} is taken only with a section of its own, and that cannot be waited for.",
        remedies=[
            Remedy(f"See what stops the wait for {w.name} in your cart first.", SeeChange(w.number))
            for w in case.wanted.steps
            if w.does is Kind.WAIT and not w.implied and w.number in mine.linked_sections
        ],
    )


def _left_without(case: Case, me: Rule) -> Iterator[Finding]:
    gone = case.section
    if case.held is None:
        return
    for held in case.end.remaining:
        remaining = held.section
        if gone.reference_number not in remaining.linked_sections:
            continue
        if any(s.course is remaining.course and s.component == gone.component for s in case.end.sections):
            continue
        number = remaining.reference_number
        yield me.finding(
            f"{remaining.name} {number}, which you keep, would be left without its {gone.component}.",
            remedies=[
                Remedy(
                    f"Swap it for another {gone.component}, or drop {remaining.name} {number} too.",
                    None if case.wanted.drops_of(remaining) else put(Kind.DROP, number),
                ),
            ],
            other=number,
        )


@rule(
    RuleCode.LINKED_SECTION_MISMATCH,
    Severity.STOP,
    Kind.ADD,
    of_section=_has_linked_sections,
    depends_on=[Matter.COURSE],
)
def linked_section_mismatch(case: Case, me: Rule) -> Iterator[Finding]:
    """The student would have the other component of the course, but in a section that does not
    go with this one.

    Why: Labs follow their own lecture's week; mixing them leaves gaps.

    Ways on: Exchange the other component for one that goes with this section.
    """
    mine = case.section
    held = {h.section.reference_number for h in case.end.remaining}
    for component, options in case.situation.catalogue.linked_sections_of(mine).items():
        others = [s for s in case.end.sections if s.course is mine.course and s.component == component]
        if not others or any(o.reference_number in mine.linked_sections for o in others):
            continue
        other = others[0]
        fitting = [o for o in options if not o.cancelled and _fits(case, o, apart_from=other)]
        ways = [
            Remedy(
                f"Take {component} {o.reference_number}, {times_text(o.meetings)}, in its place.",
                swap(o.reference_number, other.reference_number)
                if other.reference_number in held
                else put(Kind.ADD, o.reference_number),
            )
            for o in fitting[:3]
        ]
        yield me.finding(
            f"{other.name} {other.reference_number} does not go with this section.",
            remedies=ways or [Remedy(f"No {component} that goes with it fits your week.")],
            other=other.reference_number,
        )


def _has_seat(case: Case, section: Section) -> bool:
    """Whether a section has a seat, as far as known."""
    figures = case.situation.seats.get(section.pool)
    return figures is None or figures.left > 0


def _fits(case: Case, option: Section, apart_from: Section | None = None) -> bool:
    """Whether a linked section has a seat, as far as known, and no conflict."""
    return _has_seat(case, option) and not any(
        option.clash_with(s) is not None for s in [*case.end.sections, case.section] if s is not apart_from
    )


@rule(
    RuleCode.BUNDLE_INCOMPLETE,
    Severity.STOP,
    Kind.ADD,
    Kind.WAIT,
    Kind.DROP,
    of_section=lambda section: section.bundle is not None,
    implied=True,
    depends_on=[Matter.BUNDLE],
)
def bundle_incomplete(case: Case, me: Rule) -> Iterator[Finding]:
    """The section belongs to a bundle, and the others of it would not be taken, or kept, with it.
    So it cannot be waited for by itself either.

    Why: The sections of a bundle share their students; one alone would break the circle.

    Ways on: Put the others into the same cart, one press for all; or take a section outside the
    bundle.
    """
    mine = case.section
    bundle = [s for s in case.situation.catalogue.by_bundle.get(mine.bundle or "", ()) if s is not mine]
    have = {id(s) for s in case.end.sections}
    if case.step.does is not Kind.DROP:
        missing = [s for s in bundle if id(s) not in have]
        if missing:
            yield me.finding(
                f"It is taken only together with {_names(missing)} ({mine.bundle}).",
                remedies=[
                    *_the_others(case, missing),
                    Remedy("Or take a section of the course that is in no bundle."),
                ],
                bundle=mine.bundle or "",
            )
        return
    remaining = [h.section for h in case.end.remaining if any(h.section is s for s in bundle)]
    if remaining:
        yield me.finding(
            f"It was taken together with {_names(remaining)} ({mine.bundle}); they are given up "
            "together or not at all.",
            remedies=[
                Remedy(
                    f"Drop {counted(len(remaining), 'section', 'sections')} of the bundle as well.",
                    put(Kind.DROP, *(s.reference_number for s in remaining)),
                ),
            ],
            bundle=mine.bundle or "",
        )


def _the_others(case: Case, missing: Sequence[Section]) -> list[Remedy]:
    """The rest of a bundle to add, without those that are in the cart and were refused."""
    if case.step.does is Kind.WAIT:
        return []
    asked = {s.section for s in case.wanted.steps if s.does is Kind.ADD}
    refused = [s for s in missing if s in asked]
    new = [s.reference_number for s in missing if s not in asked]
    ways = []
    if refused:
        first = refused[0].reference_number
        ways.append(Remedy(f"See what stops {_names(refused)} in your cart first.", SeeChange(first)))
    if new:
        text = f"Add {counted(len(new), 'section', 'sections')} of the bundle."
        ways.append(Remedy(text, put(Kind.ADD, *new)))
    return ways


def _names(sections: Sequence[Section]) -> str:
    return listed([f"{s.name} {s.reference_number}" for s in sections])


_AGAINST = {
    Kind.ADD: frozenset({Kind.DROP, Kind.ADJUST}),
    Kind.WAIT: frozenset({Kind.DROP, Kind.ADJUST}),
    Kind.DROP: frozenset({Kind.DROP, Kind.ADD, Kind.WAIT, Kind.ADJUST}),
    Kind.ADJUST: frozenset(Kind),
}
"""For what a change does with a section, what another cannot do with it in the same request."""

_DOES = {Kind.ADD: "adds", Kind.WAIT: "waits for", Kind.DROP: "gives up", Kind.ADJUST: "adjusts"}


def _is_contested(case: Case) -> bool:
    return case.section.id in case.wanted.contested


@rule(
    RuleCode.TOGETHER_CONTRADICTION,
    Severity.STOP,
    *Kind,
    implied=True,
    gate=_is_contested,
    depends_on=[Matter.COURSE],
)
def contradiction(case: Case, me: Rule) -> Iterator[Finding]:
    """Two changes of one section speak against each other: one gives it up, and the other gives
    it up as well, adjusts it, adds it or waits for it; or both adjust it.

    Why: Only one of them can be meant, and which one is the student's to say.

    Ways on: Take one of the two out, or put the one that is meant further up.
    """
    against = _AGAINST[case.step.does]
    for other in case.end.steps:
        if other.section is case.section and other.index != case.step.index and other.does in against:
            yield me.finding(
                f"Another change in your cart {_DOES[other.does]} {case.section.name} "
                f"{case.section.reference_number}, and only one of the two can be.",
                remedies=one_of_two(case, other),
                rests_on=[other.index],
            )
            return


@rule(RuleCode.TOGETHER_UNFINISHED, Severity.NOTE, *Kind, known=None)
def unfinished(case: Case, me: Rule) -> Iterator[Finding]:
    """So many changes hang together that not every combination of them was tried. What went
    through is sound, and nothing refused could be added to it as it is; but another combination
    might keep a change further up. The decision reports it, since it follows from the others.

    Why: The number of combinations doubles with each change, and others are waiting.

    Ways on: Put fewer changes through at a time, the most wanted first.
    """
    return iter(())


@rule(RuleCode.TOGETHER_NEXT_CHOICE, Severity.NOTE, *Kind, known=None)
def next_choice(case: Case, me: Rule) -> Iterator[Finding]:
    """The section first wished for cannot be had, and one named as the next choice stands in its
    place. The decision reports it, since it follows from the others.

    Why: At the minute a window opens nobody has time to choose again.

    Ways on: None is needed. A student who would rather have nothing than the backup section removes it.
    """
    return iter(())


@rule(RuleCode.TOGETHER_STOPPED, Severity.STOP, *Kind, known=None)
def together_stopped(case: Case, me: Rule) -> Iterator[Finding]:
    """Nothing stops the change itself, but one it stands or falls with is stopped, or it would
    undo one that goes through. The decision reports it, since it follows from the others.

    Why: With "all or nothing", and where sections belong together, half is worse than none.

    Ways on: Look at the change that is stopped; choose "each change by itself" to put the rest
    through without it.
    """
    return iter(())
