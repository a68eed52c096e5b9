"""Expands the changes of a request into steps, implied ones included."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from typing import NamedTuple

from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.permission.codes import permission_code_fault, with_what_is_granted
from gremba.core.registration.changes import Change, Kind, Mode, Request
from gremba.core.registration.rules.case import Step, Wanted
from gremba.core.registration.situation import Registration, Situation

Group = tuple[int, ...]
"""Changes that stand or fall together, by their places in the request."""


class Tie(NamedTuple):
    """Why two changes are linked, and what to do if one is blocked.

    Attributes:
        why: the rest of a sentence.
        way_on: a sentence, with ``{names}`` for what is stopped; "" for none of its own.
    """

    why: str
    way_on: str


_ALL = Tie("you chose all or nothing", "Choose “each change by itself” to put the rest through.")
_BUNDLE = Tie("the sections of a bundle are taken or given up together", "")
_PARTS = Tie(
    "the components of a course are taken together",
    "Take another section in the place of {names}.",
)
_MUTUAL = Tie(
    "each is taken only in the same term as the other",
    "Take another section in the place of {names}.",
)
_INSTEAD = Tie(
    "one is given up only for the other",
    "To give the section up all the same, take the add out.",
)


def expand_changes(situation: Situation, request: Request, now: datetime) -> list[tuple[Step, ...]]:
    """The steps of each change, in order.

    A swap is an add and a drop. What a drop takes along depends on what goes through and is not
    among them: see :func:`drops_along`.
    """
    if all(c.kind is Kind.ADD for c in request.changes):
        return [
            (_add(situation, i, c, situation.catalogue.by_number.get(c.number), now),)
            for i, c in enumerate(request.changes)
        ]
    held = {h.section.reference_number: h for h in situation.held}
    expanded = [_own_steps(situation, held, i, c, now) for i, c in enumerate(request.changes)]
    _name_linked_sections(expanded)
    return expanded


def drops_along(
    held: Sequence[Registration], drops: Sequence[Step], adds: Sequence[Step]
) -> list[tuple[Step, Registration]]:
    """What drops take along: linked sections that no other drop names, and theirs; nothing if an add
    replaces the section by another of the same component.

    Args:
        drops: those that go through.
        adds: those that go through.

    Returns:
        Each registration with the drop that takes it along.
    """
    if not any(s.section is not None and s.section.linked_sections for s in drops):
        return []
    by_number = {h.section.reference_number: h for h in held}
    gone = {s.number for s in drops}
    along = []
    for step in drops:
        if step.section is None or step.number not in by_number or _replacement(step.section, adds):
            continue
        leaving = [step.section]
        for section in leaving:
            # In the order in which they were registered for.
            for number, other in by_number.items():
                if number in section.linked_sections and number not in gone:
                    gone.add(number)
                    leaving.append(other.section)
                    along.append((step, other))
    return along


def wanted_by(expanded: Iterable[Sequence[Step]]) -> Wanted:
    """The request as rules see it, whatever becomes of its changes.

    Args:
        expanded: the steps of each change, those included that it could imply.
    """
    steps = tuple(s for own in expanded for s in own)
    if all(s.does is Kind.ADD for s in steps):
        return Wanted(steps, frozenset())
    first: dict[int, int] = {}
    contested = set()
    for step in steps:
        if step.section is not None and first.setdefault(step.section.id, step.index) != step.index:
            contested.add(step.section.id)
    return Wanted(steps, frozenset(contested))


def _name_linked_sections(expanded: list[tuple[Step, ...]]) -> None:
    """Adds of sections linked to one waited for become part of its entry: they are taken when the seat
    comes."""
    waited = {
        number
        for steps in expanded
        for s in steps
        if s.does is Kind.WAIT and s.section is not None
        for number in s.section.linked_sections
    }
    for index, (first, *_) in enumerate(expanded):
        if first.does is Kind.ADD and first.change.kind is Kind.ADD and first.number in waited:
            expanded[index] = (replace(first, does=Kind.WAIT, implied=True, raises=0.0),)


def _own_steps(
    situation: Situation, held: Mapping[str, Registration], index: int, change: Change, now: datetime
) -> tuple[Step, ...]:
    section = situation.catalogue.by_number.get(change.number)
    if change.kind is Kind.ADD:
        return (_add(situation, index, change, section, now),)
    if change.kind is Kind.DROP:
        return (_drop(held, index, change, section),)
    if change.kind is Kind.WAIT:
        add = _add(situation, index, change, section, now)
        return (replace(add, does=Kind.WAIT, raises=0.0),)
    if change.kind is Kind.SWAP:
        given_up = situation.catalogue.by_number.get(change.in_exchange)
        return (
            _add(situation, index, change, section, now),
            _drop(held, index, change, given_up),
        )
    now_held = held.get(change.number)
    grading = change.grading or (now_held.grading if now_held else "")
    credits = now_held.credits if now_held else 0.0
    if section is not None and (change.credits is not None or change.grading is not None):
        credits = section.credits_for(
            change.credits if change.credits is not None else credits or None, grading
        )
    raises = max(0.0, credits - now_held.credits) if now_held else 0.0
    return (Step(index, change, Kind.ADJUST, section, credits, grading, raises=raises),)


def _add(situation: Situation, index: int, change: Change, section: Section | None, now: datetime) -> Step:
    if section is None:
        return Step(index, change, Kind.ADD, None, 0.0, "")
    grading = change.grading or section.course.gradings[0]
    permission_code = None
    if change.permission_code:
        found = situation.permission_codes.get(change.permission_code)
        if found is not None and permission_code_fault(found, section, situation, now) is None:
            permission_code = found
    if section.id in situation.grants:
        permission_code = with_what_is_granted(permission_code, section, situation, now)
    credits = section.credits_for(change.credits, grading)
    return Step(
        index, change, Kind.ADD, section, credits, grading, permission_code=permission_code, raises=credits
    )


def _drop(held: Mapping[str, Registration], index: int, change: Change, section: Section | None) -> Step:
    now_held = None if section is None else held.get(section.reference_number)
    if now_held is None:
        return Step(index, change, Kind.DROP, section, 0.0, "")
    return Step(index, change, Kind.DROP, section, now_held.credits, now_held.grading)


def _replacement(section: Section, adds: Sequence[Step]) -> list[Step]:
    """The adds that would replace it by another section of the same course and component."""
    return [a for a in adds if a.section and a.section is not section and a.section.stands_for_same(section)]


def groups_of(situation: Situation, request: Request, now: datetime) -> list[Group]:
    """The changes that belong together in either mode."""
    each = replace(request, mode=Mode.EACH)
    return group_changes(each, expand_changes(situation, each, now), situation.catalogue)


def group_changes(
    request: Request, expanded: Sequence[tuple[Step, ...]], catalogue: TermCatalogue
) -> list[Group]:
    """Group linked changes, in order of their first members.

    With ``all`` the request is one group. Otherwise adds are tied that are linked sections, parts of
    one bundle, or corequisites of each other; drops of one bundle or of linked sections; and a drop with
    the only add that puts another section of its course in its place. Adds of which only one can be
    had, such as two labs of one lecture, are never tied to one another.
    """
    if len(expanded) < 2:
        return [(i,) for i in range(len(expanded))]
    if request.mode.value == "all":
        return [tuple(range(len(expanded)))]
    ties = _ties(expanded, catalogue)
    if not ties:
        return [(i,) for i in range(len(expanded))]
    return _tied(len(expanded), ties)


def _tied(many: int, ties: Iterable[tuple[int, int, Tie]]) -> list[Group]:
    leader = list(range(many))

    def find(index: int) -> int:
        while leader[index] != index:
            index = leader[index]
        return index

    for one, other, _ in ties:
        low, high = sorted((find(one), find(other)))
        leader[high] = low
    groups: dict[int, list[int]] = {}
    for index in range(many):
        groups.setdefault(find(index), []).append(index)
    return [tuple(groups[first]) for first in sorted(groups)]


def why_together(
    request: Request,
    expanded: Sequence[tuple[Step, ...]],
    catalogue: TermCatalogue,
    group: Group,
) -> Tie:
    """Why the changes of a group are linked; the first of several reasons."""
    if request.mode is Mode.ALL:
        return _ALL
    return next(tie for one, _, tie in _ties(expanded, catalogue) if one in group)


def _ties(expanded: Sequence[tuple[Step, ...]], catalogue: TermCatalogue) -> list[tuple[int, int, Tie]]:
    needs = catalogue.taken_together
    if not any(_could_be_tied(s, needs) for own in expanded for s in own):
        return []
    steps = [s for own in expanded for s in own if s.section is not None and not s.implied]
    adds = [s for s in steps if s.does is Kind.ADD]
    drops = [s for s in steps if s.does is Kind.DROP]
    social = [s for s in adds if _could_be_tied(s, needs)]
    waits = [s for own in expanded for s in own if s.does is Kind.WAIT and s.section is not None]
    ties = [
        (one.index, other.index, _PARTS)
        for one in waits
        if one.section and not one.implied
        for other in waits
        if other.implied and other.number in one.section.linked_sections
    ]
    ties += [
        (one.index, other.index, tie)
        for index, one in enumerate(social)
        for other in social[index + 1 :]
        if one.section
        and other.section
        and (tie := _belong(one.section, other.section, catalogue)) is not None
    ]
    for index, one in enumerate(drops):
        if one.section is None:
            continue
        bundle = one.section.bundle
        ties += [
            (one.index, other.index, _BUNDLE if same_bundle else _PARTS)
            for other in drops[index + 1 :]
            if other.section
            and (
                (same_bundle := bundle is not None and other.section.bundle == bundle)
                or other.number in one.section.linked_sections
            )
        ]
        instead = _replacement(one.section, adds)
        if len(instead) == 1:
            ties.append((one.index, instead[0].index, _INSTEAD))
    return _without_rivals(expanded, ties)


def _without_rivals(
    expanded: Sequence[tuple[Step, ...]], ties: list[tuple[int, int, Tie]]
) -> list[tuple[int, int, Tie]]:
    """The ties without those to rival sections of the same course and component: the first that can serve
    does, and the rules find out which."""
    taken = [
        (s.index, s.section)
        for own in expanded
        for s in own
        if s.section is not None and (s.does is Kind.ADD or s.implied)
    ]
    rivals = {
        index
        for group in _tied(len(expanded), ties)
        for index, section in taken
        if index in group
        and any(
            other in group and other != index and section.stands_for_same(theirs) for other, theirs in taken
        )
    }
    if not rivals:
        return ties
    return [t for t in ties if t[2] is _INSTEAD or (t[0] not in rivals and t[1] not in rivals)]


def _could_be_tied(step: Step, needs: Mapping[str, frozenset[str]]) -> object:
    """Whether a step's section has linked sections, or it is more than an add."""
    section = step.section
    return step.does is not Kind.ADD or (
        section is not None
        and (section.bundle is not None or section.linked_sections or needs.get(section.course.key))
    )


def _belong(one: Section, other: Section, catalogue: TermCatalogue) -> Tie | None:
    if one.bundle is not None and one.bundle == other.bundle:
        return _BUNDLE
    if one.reference_number in other.linked_sections or other.reference_number in one.linked_sections:
        return _PARTS
    needs = catalogue.taken_together
    apart = needs.get(one.course.key, frozenset()).isdisjoint(other.course.same_as) or needs.get(
        other.course.key, frozenset()
    ).isdisjoint(one.course.same_as)
    return None if apart else _MUTUAL
