"""Selects the changes to accept: of all valid sets of groups, the first in the order of the list.

A set is valid if, judged in the end state it leads to, nothing in it is stopped. The first group
is in if any valid set holds it; then the second if any valid set holds both; and so on. A group
that is stopped in a set can be freed from it only by some that are named for it, so whether a
valid set holds certain groups is found by following what could free whom.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from gremba.core.bits import bits_of
from gremba.core.registration.deciding.effort import EXACT_GROUPS, MAX_QUESTIONS, MAX_SETS, Effort
from gremba.core.registration.deciding.interplay import Relations


@dataclass(slots=True)
class Selection:
    """What succeeds.

    Attributes:
        chosen: the groups, as a set of bits.
        unfinished: groups refused although not every set that holds them was tried.
    """

    chosen: int
    unfinished: int = 0


Stops = Callable[[int, int], Sequence[int]]
"""For a group, by its place, in the end state of a set: for each rule that stops it there, the groups
that could free it from that; empty if nothing stops it."""


def select(
    relations: Relations,
    stops: Stops,
    hopeless: int,
    effort: Effort | None = None,
    witness: int = 0,
) -> Selection:
    """Find the first of the valid sets.

    Args:
        stops: pure; asked at most once for each group and set of those that affect it.
        hopeless: groups that are stopped whatever the others do.
        witness: some valid set that is known already, the fuller the better.
    """
    search = _Search(relations, stops, effort or Effort())
    left = ((1 << len(relations.affected_by)) - 1) & ~hopeless
    left = search.without_lost(left, witness)
    chosen = unfinished = 0
    for component in _components(relations, left):
        found = search.first_valid(component, witness & component)
        chosen |= found.chosen
        unfinished |= found.unfinished
    return Selection(chosen, unfinished)


def _components(relations: Relations, groups: int) -> list[int]:
    """The groups by connected component."""
    near = {g: relations.affected_by[g] & groups for g in bits_of(groups)}
    for group in list(near):
        for other in bits_of(near[group]):
            near[other] |= 1 << group
    found = []
    while groups:
        component, reached = 0, groups & -groups
        while reached:
            component |= reached
            reached = 0
            for group in bits_of(component):
                reached |= near[group]
            reached &= ~component
        found.append(component)
        groups &= ~component
    return found


class _RanOut(Exception):
    """The limit of sets to try is reached."""


@dataclass(slots=True)
class _Search:
    relations: Relations
    stops: Stops
    effort: Effort
    _known: dict[tuple[int, int], Sequence[int]] = field(default_factory=dict)
    _tried: dict[int, list[int]] = field(default_factory=dict)
    """By the set, what :meth:`_look` has found."""
    _failed: set[int] = field(default_factory=set)
    _groups: int = 0
    _sets: int = 0
    """Sets that may still be tried for the group in question."""
    _questions: int = 0
    """Questions that may still be asked for it."""

    def without_lost(self, groups: int, witness: int) -> int:
        """The groups without those that are blocked alone by what none of the rest could lift."""
        while True:
            lost = 0
            for group in bits_of(groups & ~witness):
                if any(not savers & groups for savers in self._stops_of(group, 1 << group)):
                    lost |= 1 << group
            if not lost:
                return groups
            groups &= ~lost

    def first_valid(self, groups: int, witness: int) -> Selection:
        """The first valid set of connected groups, of which one valid set is known."""
        self._groups = groups
        self._tried.clear()
        self._failed.clear()
        sets, questions = MAX_SETS, MAX_QUESTIONS
        is_exact = groups.bit_count() <= EXACT_GROUPS
        if not is_exact:
            witness = max(witness, self._what_stands(groups), key=_in_order)
        chosen = unfinished = 0
        for group in bits_of(groups):
            one = 1 << group
            if not witness & one:
                if self.relations.excludes[group] & chosen:
                    continue
                # Where not everything can be tried, something is left for those further down.
                self._sets = sets if is_exact else (sets + 1) // 2
                self._questions = questions if is_exact else (questions + 1) // 2
                sets, questions = sets - self._sets, questions - self._questions
                try:
                    found = self._valid_with(chosen | one)
                except _RanOut:
                    unfinished |= one
                    continue
                finally:
                    sets, questions = sets + self._sets, questions + self._questions
                if found is None:
                    continue
                witness = found
            chosen |= one
        if not unfinished:
            return Selection(chosen)
        return self._fill_up(groups, chosen | witness, unfinished)

    def _what_stands(self, groups: int) -> int:
        """A valid set: blocked groups are removed until none is blocked."""
        while True:
            stopped = sum(1 << g for g in bits_of(groups) if self._stops_of(g, groups))
            if not stopped:
                return groups
            groups &= ~stopped

    def _fill_up(self, groups: int, chosen: int, unfinished: int) -> Selection:
        """After the search was cut short: adds what can be added as it is."""
        again = True
        while again:
            again = False
            for group in bits_of(groups & ~chosen):
                if not self._look(chosen | 1 << group):
                    chosen |= 1 << group
                    again = True
        return Selection(chosen, unfinished & ~chosen)

    def _valid_with(self, wanted: int) -> int | None:
        """A valid set with these groups; None if there is none.

        Raises:
            _RanOut: none was found in time.
        """
        waiting = [wanted]
        seen = {wanted}
        while waiting:
            trial = waiting.pop()
            if trial in self._failed:
                continue
            stops = self._stops_in(trial)
            if not stops:
                return trial
            # Whoever is freed must be freed by one of these, so one with few is looked at; the first
            # of them last, since the last put is the first tried.
            for saver in reversed(bits_of(min(stops, key=int.bit_count))):
                more = trial | 1 << saver
                if more not in seen and not self.relations.excludes[saver] & trial:
                    seen.add(more)
                    waiting.append(more)
        self._failed |= seen
        return None

    def _stops_in(self, trial: int) -> list[int]:
        found = self._tried.get(trial)
        if found is None:
            # The first set of a group is always looked at: without it nothing could be said.
            if trial.bit_count() > 1:
                if min(self._sets, self._questions, self.effort.sets, self.effort.questions) <= 0:
                    raise _RanOut
                self._sets -= 1
                self.effort.sets -= 1
            found = self._tried[trial] = self._look(trial)
        return found

    def _look(self, trial: int) -> list[int]:
        """For each block that groups meet in a set, the others that could lift it; stops early if one
        leaves no choice. Empty if the set is valid."""
        found = []
        # The last is mostly the one that is in question.
        for group in reversed(bits_of(trial)):
            for savers in self._stops_of(group, trial):
                savers &= self._groups & ~trial
                if savers.bit_count() < 2:
                    return [savers]
                found.append(savers)
        return found

    def _stops_of(self, group: int, trial: int) -> Sequence[int]:
        key = group, trial & (self.relations.affected_by[group] | 1 << group)
        known = self._known.get(key)
        if known is None:
            known = self._known[key] = self.stops(group, trial)
            self._questions -= 1
            self.effort.questions -= 1
        return known


def _in_order(groups: int) -> tuple[int, ...]:
    """Sort key by which the set that comes first in list order is last."""
    return tuple(-g for g in bits_of(groups))
