"""Finds which changes of a request can alter what the rules say about which others.

Only what stops a change matters here. Each rule names the matters that its answer depends on, and
here stands how far each matter reaches from one change to another; a rule that names none depends
on every other change. The search for what goes through asks the rules again for a group only where
something that can alter the answer has changed (:mod:`gremba.core.registration.deciding.selection`);
each relation may hold for more pairs than it need, never for fewer.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

from gremba.core.catalogue.term import Section
from gremba.core.registration.changes import Kind
from gremba.core.registration.rules.case import Matter, Step
from gremba.core.registration.situation import Situation
from gremba.core.states import Waiver


@dataclass(slots=True)
class Relations:
    """For each group, the related groups as a bit set.

    Attributes:
        affected_by: those that can alter whether it is stopped.
        saved_by: by matter, those of them that can free it, by going through, from a stop that
            depends on the matter; None for all of them, whatever it depends on.
        excludes: those with which it never goes through, whatever else does. Unlike the others,
            this may hold for fewer pairs than it could, never for more.
    """

    affected_by: list[int]
    saved_by: list[Mapping[Matter, int] | None]
    excludes: list[int]

    def savers(self, group: int, depends_on: frozenset[Matter] | None) -> int:
        """The groups that can lift a block by a rule with these matters; None for any."""
        saved_by = self.saved_by[group]
        if depends_on is None or saved_by is None:
            return ((1 << len(self.affected_by)) - 1) & ~(1 << group)
        found = 0
        for matter in depends_on:
            found |= saved_by.get(matter, 0)
        return found


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
    takes_along: bool = False
    raises: bool = False
    lowers: bool = False


@dataclass(slots=True)
class _Stakes:
    """What matters in the whole request.

    Attributes:
        load: the changes together could exceed the credit limit.
        leaving: the drops together could leave nothing of the term.
        spots: the waits together could be more than a student may have.
    """

    load: bool
    leaving: bool
    spots: bool


def find_relations(
    situation: Situation,
    groups: Sequence[Sequence[Step]],
    matters: Sequence[Sequence[frozenset[Matter] | None]],
) -> Relations:
    """The relations between the groups of a request.

    Args:
        groups: the steps of each, those included that a drop could imply.
        matters: for each of these steps what others can alter of its answer; None for anything.
    """
    prints = [_footprint(situation, steps) for steps in groups]
    stakes = _stakes(situation, [s for own in groups for s in own])
    everybody = (1 << len(prints)) - 1
    affected_by: list[int] = []
    saved_by: list[dict[Matter, int]] = []
    excludes: list[int] = []
    for place, (mine, known) in enumerate(zip(prints, matters, strict=True)):
        affected = everybody & ~(1 << place) if None in known else 0
        # Beside a rule that names nothing there are others that do.
        saved = dict.fromkeys(Matter if None in known else (m for own in known for m in own or ()), 0)
        excluded = 0
        for index, other in enumerate(prints):
            if other is mine:
                continue
            for matter in saved:
                alters, frees = _REACHES[matter](mine, other, stakes)
                affected |= bool(alters or frees) << index
                saved[matter] |= bool(frees) << index
            excluded |= _exclude_each_other(mine, other) << index
        affected_by.append(affected)
        saved_by.append(saved)
        excludes.append(excluded)
    _add_those_that_keep_linked_sections(prints, affected_by, saved_by)
    return Relations(affected_by, list(saved_by), excludes)


def everything_matters(many: int) -> Relations:
    """Relations of every group to every other: always right, and slow."""
    others = [((1 << many) - 1) & ~(1 << index) for index in range(many)]
    return Relations(others, [None] * many, [0] * many)


def _add_those_that_keep_linked_sections(
    prints: Sequence[_Footprint], affected_by: list[int], saved_by: Sequence[dict[Matter, int]]
) -> None:
    """What a drop takes along depends on the other changes of its course, so whatever depends on the drop
    depends on these as well."""
    for index, dropping in enumerate(prints):
        if not dropping.takes_along:
            continue
        same_course = sum(
            (other is not dropping and not other.courses.isdisjoint(dropping.courses)) << place
            for place, other in enumerate(prints)
        )
        for place in range(len(prints)):
            if affected_by[place] >> index & 1:
                affected_by[place] |= same_course & ~(1 << place)
                for matter in saved_by[place]:
                    saved_by[place][matter] |= same_course & ~(1 << place)


def _stakes(situation: Situation, steps: Sequence[Step]) -> _Stakes:
    policy = situation.catalogue.policy
    total = situation.credits + sum([s.raises for s in steps])
    dropped = {s.section.id for s in steps if s.does is Kind.DROP and s.section is not None}
    waits = sum(s.does is Kind.WAIT and not s.implied for s in steps)
    return _Stakes(
        total > situation.credit_limit,
        not policy.may_leave_by_dropping and len(dropped) >= len(situation.held),
        bool(waits) and len(situation.waitlist_entries) + waits > policy.most_waitlist_entries,
    )


def _footprint(situation: Situation, steps: Sequence[Step]) -> _Footprint:
    found = _Footprint()
    same_as = situation.catalogue.same_as
    for step in steps:
        section = step.section
        found.raises |= step.raises > 0
        if section is None:
            continue
        found.courses |= section.course.same_as
        found.has_parts |= bool(section.linked_sections) or not section.carries_credit
        if section.bundle is not None:
            found.bundles.add(section.bundle)
        if step.does is Kind.DROP:
            found.drops.append(section)
            found.takes_along |= step.implied
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
    """The registered sections that may require, in the same term, one that is dropped."""
    same_as = situation.catalogue.same_as
    for held in situation.held:
        needed: set[str] = set()
        for course in held.section.course.needs_this_term:
            needed |= same_as.get(course, frozenset({course}))
        if not needed.isdisjoint(dropped.course.same_as):
            found.dependants.add(held.section.id)
            found.needs |= needed


_Reach = Callable[[_Footprint, _Footprint, _Stakes], tuple[object, object]]


def _by_hours(mine: _Footprint, other: _Footprint, stakes: _Stakes) -> tuple[object, object]:
    return mine.hours_wanted & other.hours_added, mine.hours_wanted & other.hours_freed


def _by_seats(mine: _Footprint, other: _Footprint, stakes: _Stakes) -> tuple[object, object]:
    wanted = mine.pools_wanted
    return not wanted.isdisjoint(other.pools_wanted), not wanted.isdisjoint(other.pools_freed)


def _by_course(mine: _Footprint, other: _Footprint, stakes: _Stakes) -> tuple[object, object]:
    same = not mine.courses.isdisjoint(other.courses)
    return same, same and (other.drops or mine.has_parts)


def _by_bundle(mine: _Footprint, other: _Footprint, stakes: _Stakes) -> tuple[object, object]:
    return False, not mine.bundles.isdisjoint(other.bundles)


def _by_needs(mine: _Footprint, other: _Footprint, stakes: _Stakes) -> tuple[object, object]:
    depends = mine.dependants and any(s.id in mine.dependants for s in other.drops)
    return False, depends or not mine.needs.isdisjoint(other.courses_moved)


def _by_credits(mine: _Footprint, other: _Footprint, stakes: _Stakes) -> tuple[object, object]:
    matters = stakes.load and mine.raises
    return matters and other.raises, matters and other.lowers


def _by_leaving(mine: _Footprint, other: _Footprint, stakes: _Stakes) -> tuple[object, object]:
    matters = stakes.leaving and mine.drops
    return matters and other.drops, matters and other.adds


def _by_spots(mine: _Footprint, other: _Footprint, stakes: _Stakes) -> tuple[object, object]:
    matters = stakes.spots and mine.waits
    return matters and other.waits, matters and other.adds


_REACHES: dict[Matter, _Reach] = {
    Matter.HOURS: _by_hours,
    Matter.SEATS: _by_seats,
    Matter.COURSE: _by_course,
    Matter.BUNDLE: _by_bundle,
    Matter.NEEDS: _by_needs,
    Matter.CREDITS: _by_credits,
    Matter.LEAVING: _by_leaving,
    Matter.SPOTS: _by_spots,
}
"""For each matter: whether another group can alter the answer for mine, and whether it can free it."""


def _exclude_each_other(one: _Footprint, other: _Footprint) -> bool:
    """Whether both add what nobody can have together."""
    if any(a.stands_for_same(b) for a in one.adds for b in other.adds):
        return True
    return bool(one.hours_added & other.hours_added) and any(
        a.clash_with(b) is not None for a in one.bound_by_time for b in other.bound_by_time
    )
