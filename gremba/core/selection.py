"""What goes through: of all valid sets of groups, the one that is first in the order of the list.

A set is valid if, judged in the end state it leads to, nothing in it is stopped. The first group
is in if any valid set holds it; then the second if any valid set holds both; and so on. A group
that is stopped in a set can be freed from it only by some that are named for it, so whether a
valid set holds certain groups is found by following what could free whom.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from gremba.core.bits import bits_of
from gremba.core.interplay import Relations

EXACT = 10
"""So many groups may hang together for the search to be complete whatever they are."""

_ALL_OF_THEM = 1 << EXACT
"""Sets tried for up to :data:`EXACT` groups that hang together: all there are."""

_OF_MORE = 200
"""Sets tried where more of them do."""


@dataclass(slots=True)
class Effort:
    """What may be spent on trying, for one request or for several that belong together.

    Attributes:
        left: how many more sets may be tried beyond the first look at each group. At first it is
            enough for forty changes to be decided exactly, ten by ten.
        judged: how many more changes may be judged in requests that are only tried out: next
            choices, other sections. Enough for fifty trials with twelve changes each.
    """

    left: int = 4 * _ALL_OF_THEM
    judged: int = 640

    def may_try(self, changes: int) -> bool:
        """Whether a request of so many changes may be tried out as well; it is paid for."""
        if changes > self.judged:
            return False
        self.judged -= changes
        return True


@dataclass(slots=True)
class Selection:
    """What goes through.

    Attributes:
        chosen: the groups, as a set of bits.
        unfinished: groups refused although not every set that holds them was tried.
    """

    chosen: int
    unfinished: int = 0


Stopped = Callable[[int, int], bool]
"""Whether a group, by its place, is stopped in the end state of a set."""


def select(
    relations: Relations,
    is_stopped: Stopped,
    hopeless: int,
    effort: Effort | None = None,
    witness: int = 0,
) -> Selection:
    """Find the first of the valid sets.

    Args:
        is_stopped: pure; asked at most once for each group and set of those that affect it.
        hopeless: groups that are stopped whatever the others do.
        witness: some valid set that is known already, the fuller the better.
    """
    search = _Search(relations, is_stopped, effort or Effort())
    left = ((1 << len(relations.affected_by)) - 1) & ~hopeless
    left = search.without_lost(left, witness)
    chosen = unfinished = 0
    for component in _components(relations, left):
        found = search.first_valid(component, witness & component)
        chosen |= found.chosen
        unfinished |= found.unfinished
    return Selection(chosen, unfinished)


def _components(relations: Relations, groups: int) -> list[int]:
    """The groups apart that do not hang together."""
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
    """As many sets have been tried as may be."""


@dataclass(slots=True)
class _Search:
    relations: Relations
    is_stopped: Stopped
    effort: Effort
    _known: dict[tuple[int, int], bool] = field(default_factory=dict)
    _tried: dict[int, list[int]] = field(default_factory=dict)
    """By the set, what :meth:`_look` has found."""
    _failed: set[int] = field(default_factory=set)
    _groups: int = 0
    _most: int = _ALL_OF_THEM

    def without_lost(self, groups: int, witness: int) -> int:
        """The groups without those that are stopped alone and that none of the rest could free."""
        while True:
            lost = 0
            for group in bits_of(groups & ~witness):
                could = self.relations.saved_by[group] & groups
                if not could and self._stopped(group, 1 << group):
                    lost |= 1 << group
            if not lost:
                return groups
            groups &= ~lost

    def first_valid(self, groups: int, witness: int) -> Selection:
        """The first of the valid sets of groups that hang together, one of which is known."""
        self._groups = groups
        self._most = _ALL_OF_THEM if groups.bit_count() <= EXACT else _OF_MORE
        self._tried.clear()
        self._failed.clear()
        chosen = unfinished = 0
        for group in bits_of(groups):
            one = 1 << group
            if not witness & one:
                if self.relations.excludes[group] & chosen:
                    continue
                try:
                    found = self._valid_with(chosen | one)
                except _RanOut:
                    unfinished |= one
                    continue
                if found is None:
                    continue
                witness = found
            chosen |= one
        if not unfinished:
            return Selection(chosen)
        return self._fill_up(groups, chosen | witness, unfinished)

    def _fill_up(self, groups: int, chosen: int, unfinished: int) -> Selection:
        """Where the search was cut short: what can be added as it is, is added."""
        again = True
        while again:
            again = False
            for group in bits_of(groups & ~chosen):
                if not self._look(chosen | 1 << group):
                    chosen |= 1 << group
                    again = True
        return Selection(chosen, unfinished & ~chosen)

    def _valid_with(self, wanted: int) -> int | None:
        """A valid set that holds these groups; None if none does.

        Raises:
            _RanOut: none was found in time.
        """
        waiting = [wanted]
        seen = {wanted}
        while waiting:
            trial = waiting.pop()
            if trial in self._failed:
                continue
            stops = self._stops(trial)
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

    def _stops(self, trial: int) -> list[int]:
        found = self._tried.get(trial)
        if found is None:
            # The first set of a group is always looked at: without it nothing could be said.
            if trial.bit_count() > 1:
                if len(self._tried) >= self._most or self.effort.left <= 0:
                    raise _RanOut
                self.effort.left -= 1
            found = self._tried[trial] = self._look(trial)
        return found

    def _look(self, trial: int) -> list[int]:
        """For groups of a set that are stopped in it, those beside it that could free them; not
        for all where one is found that leaves no choice. Empty if the set is valid."""
        found = []
        # The last is mostly the one that is in question.
        for group in reversed(bits_of(trial)):
            if self._stopped(group, trial):
                savers = self.relations.saved_by[group] & self._groups & ~trial
                if savers.bit_count() < 2:
                    return [savers]
                found.append(savers)
        return found

    def _stopped(self, group: int, trial: int) -> bool:
        key = group, trial & (self.relations.affected_by[group] | 1 << group)
        known = self._known.get(key)
        if known is None:
            known = self._known[key] = self.is_stopped(group, trial)
        return known
