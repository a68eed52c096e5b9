"""Which changes of a request stand or fall together."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations

from gremba.core.catalogue import Section, TermCatalogue
from gremba.core.changes import Kind, Mode, Request
from gremba.core.rules.case import Step


def group_steps(
    request: Request, steps: Sequence[Step], catalogue: TermCatalogue
) -> list[tuple[int, ...]]:
    """Tie changes into groups, in order of their first members.

    With ``all`` the request is one group. Otherwise adds are tied that are companions, parts of
    one bundle, or corequisites of each other.
    """
    if request.mode is Mode.ALL:
        return [tuple(range(len(steps)))] if steps else []
    leader = list(range(len(steps)))

    def find(index: int) -> int:
        while leader[index] != index:
            index = leader[index]
        return index

    adds = [s for s in steps if s.change.kind is Kind.ADD and s.section is not None]
    for one, other in combinations(adds, 2):
        if one.section and other.section and _tied(one.section, other.section, catalogue):
            low, high = sorted((find(one.index), find(other.index)))
            leader[high] = low
    groups: dict[int, list[int]] = {}
    for index in range(len(steps)):
        groups.setdefault(find(index), []).append(index)
    return [tuple(groups[first]) for first in sorted(groups)]


def _tied(one: Section, other: Section, catalogue: TermCatalogue) -> bool:
    if one.bundle is not None and one.bundle == other.bundle:
        return True
    if one.reference_number in other.companions or other.reference_number in one.companions:
        return True
    needs = catalogue.taken_together
    return other.course.key in needs.get(one.course.key, ()) and one.course.key in needs.get(
        other.course.key, ()
    )
