"""Which changes of a request can alter what the rules say of which others.

Only what stops a change matters here. The search for what goes through asks the rules anew for a
group only where something that can alter the answer has changed (:mod:`gremba.core.selection`);
each relation may hold for more pairs than it need, never for fewer.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from gremba.core.catalogue import Section
from gremba.core.changes import Kind
from gremba.core.rules.case import Step
from gremba.core.situation import Situation
from gremba.core.states import Waiver


@dataclass(slots=True)
class Relations:
    """For each group, the others as a set of bits.

    Attributes:
        affected_by: those that can alter whether it is stopped.
        saved_by: those of them that can free it from a stop by going through.
        excludes: those with which it never goes through, whatever else does. Unlike the others,
            this may hold for fewer pairs than it could, never for more.
    """

    affected_by: list[int]
    saved_by: list[int]
    excludes: list[int]


@dataclass(slots=True)
class _Footprint:
    """What a group touches."""

    adds: list[Section] = field(default_factory=list)
    bound_by_time: list[Section] = field(default_factory=list)
    drops: list[Section] = field(default_factory=list)
    waits: list[Section] = field(default_factory=list)
    hours_wanted: int = 0
    hours_freed: int = 0
    hours_added: int = 0
    pools_wanted: set[int] = field(default_factory=set)
    pools_added: set[int] = field(default_factory=set)
    pools_freed: set[int] = field(default_factory=set)
    courses: set[str] = field(default_factory=set)
    courses_moved: set[str] = field(default_factory=set)
    bundles: set[str] = field(default_factory=set)
    needs: set[str] = field(default_factory=set)
    dependants: set[int] = field(default_factory=set)
    has_parts: bool = False
    raises: bool = False
    lowers: bool = False


def find_relations(situation: Situation, groups: Sequence[Sequence[Step]]) -> Relations:
    """The relations between the groups of a request.

    Args:
        groups: the steps of each.
    """
    prints = [_footprint(situation, steps) for steps in groups]
    steps = [s for own in groups for s in own]
    policy = situation.catalogue.policy
    total = situation.credits + sum([s.raises for s in steps])
    load_matters = total > situation.credit_limit
    dropped = {s.section.id for s in steps if s.does is Kind.DROP and s.section is not None}
    last_matters = not policy.may_leave_by_dropping and len(dropped) >= len(situation.held)
    waits = sum(s.does is Kind.WAIT for s in steps)
    entries_matter = bool(waits) and len(situation.waitlist_entries) + waits > policy.most_waitlist_entries
    affected_by, saved_by, excludes = [], [], []
    for mine in prints:
        affected = saved = excluded = 0
        for index, other in enumerate(prints):
            if other is mine:
                continue
            affects, saves = _relation(other, mine)
            excluded |= (affects and _exclude_each_other(mine, other)) << index
            if load_matters and mine.raises:
                affects |= other.raises or other.lowers
                saves |= other.lowers
            if last_matters and mine.drops:
                affects |= bool(other.drops or other.adds)
                saves |= bool(other.adds)
            if entries_matter and mine.waits:
                affects |= bool(other.waits or other.adds)
                saves |= bool(other.adds)
            affected |= (affects or saves) << index
            saved |= saves << index
        affected_by.append(affected)
        saved_by.append(saved)
        excludes.append(excluded)
    return Relations(affected_by, saved_by, excludes)


def _footprint(situation: Situation, steps: Sequence[Step]) -> _Footprint:
    found = _Footprint()
    same_as = situation.catalogue.same_as
    for step in steps:
        section = step.section
        found.raises |= step.raises > 0
        if section is None:
            continue
        found.courses |= section.course.same_as
        found.has_parts |= bool(section.companions) or not section.carries_credit
        if section.bundle is not None:
            found.bundles.add(section.bundle)
        if step.does is Kind.DROP:
            found.drops.append(section)
            found.hours_freed |= section.week
            found.pools_freed.add(section.pool)
            found.courses_moved |= section.course.same_as
            found.lowers |= step.credits > 0
            _note_dependants(found, situation, section)
            continue
        if step.does is Kind.ADJUST:
            found.lowers |= not step.raises
            continue
        found.hours_wanted |= section.week
        found.pools_wanted.add(section.pool)
        for course in section.course.needs_this_term:
            found.needs |= same_as.get(course, frozenset({course}))
        found.courses_moved |= section.course.same_as
        if step.does is Kind.WAIT:
            found.waits.append(section)
            given_up = situation.catalogue.by_number.get(step.change.in_exchange)
            if given_up is not None:
                found.courses |= given_up.course.same_as
        else:
            found.adds.append(section)
            if not step.is_lifted(Waiver.CONFLICT):
                found.bound_by_time.append(section)
            found.hours_added |= section.week
            found.pools_added.add(section.pool)
    return found


def _note_dependants(found: _Footprint, situation: Situation, dropped: Section) -> None:
    """The registered sections that may need, in the same term, one that is dropped."""
    same_as = situation.catalogue.same_as
    for held in situation.held:
        needed: set[str] = set()
        for course in held.section.course.needs_this_term:
            needed |= same_as.get(course, frozenset({course}))
        if not needed.isdisjoint(dropped.course.same_as):
            found.dependants.add(held.section.id)
            found.needs |= needed


def _relation(other: _Footprint, mine: _Footprint) -> tuple[bool, bool]:
    """Whether another group can alter whether this one is stopped, and whether it can free it."""
    same_course = not mine.courses.isdisjoint(other.courses)
    saves = bool(
        mine.hours_wanted & other.hours_freed
        or not mine.pools_wanted.isdisjoint(other.pools_freed)
        or (same_course and (other.drops or mine.has_parts))
        or not mine.bundles.isdisjoint(other.bundles)
        or not mine.needs.isdisjoint(other.courses_moved)
        or any(s.id in mine.dependants for s in other.drops)
    )
    affects = bool(
        same_course
        or mine.hours_wanted & other.hours_added
        or not mine.pools_wanted.isdisjoint(other.pools_wanted)
    )
    return affects, saves


def _exclude_each_other(one: _Footprint, other: _Footprint) -> bool:
    """Whether both add what nobody can have together."""
    if any(a.stands_for_same(b) for a in one.adds for b in other.adds):
        return True
    return bool(one.hours_added & other.hours_added) and any(
        a.clash_with(b) is not None for a in one.bound_by_time for b in other.bound_by_time
    )
