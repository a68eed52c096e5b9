"""Searches an instance: counts its timetables, and finds whether there is any.

Options that can still be chosen are a set of bits. Choosing one leaves those that go with it, and what
can be had from what is left is remembered by that set; at the last slot the number is its population
count.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from gremba.core.bits import bits_of
from gremba.core.timetables.instance import Instance

MOST_COUNTED = 10_000_000
"""Above it, it is only said that there are more."""

MOST_STEPS = 1_000_000
"""Steps of one search at the most: about a second on the machines it was measured on. Counting takes one
for an option."""

_STEPS_TO_TRY = 10
"""To try whether the rest can be filled with an option takes about as long as so many steps of counting."""


@dataclass(slots=True)
class Steps:
    """The search steps left, shared by the searches of one answer."""

    left: int = MOST_STEPS

    @property
    def are_used_up(self) -> bool:
        """Whether something was left out because none were left."""
        return self.left < 0


@dataclass(frozen=True, slots=True)
class Number:
    """The number of timetables.

    Attributes:
        is_exact: else there are at least so many.
    """

    value: int
    is_exact: bool = True

    @property
    def is_beyond(self) -> bool:
        """Whether there are more than are counted."""
        return self.value > MOST_COUNTED


class Search:
    """Searches some slots of an instance under some of its requirements.

    Args:
        slots: places of the slots that are to be filled.
        active: the elements to be kept, as bits.
        loosely: tight ways between campuses are allowed.
        limited: the credit limit is kept.
        once: each timetable is met once only, although choices could be turned round; needed for
            counting and showing, and true only where all elements are kept.
        among: the options to be looked at, as bits; None for all.
        room: credits left for what is chosen, in tenths; None for what the instance leaves.
        steps: what may be spent.
    """

    def __init__(
        self,
        instance: Instance,
        slots: Sequence[int],
        active: int,
        *,
        loosely: bool = False,
        limited: bool = True,
        once: bool = False,
        among: int | None = None,
        room: int | None = None,
        steps: Steps | None = None,
    ) -> None:
        self.instance = instance
        self._of = slots, active, loosely, limited, once
        self.steps = steps or Steps()
        self.allowed = instance.allowed(active) if among is None else instance.allowed(active) & among
        self.slots = sorted(slots, key=lambda n: ((instance.slot_masks[n] & self.allowed).bit_count(), n))
        self.masks = [instance.slot_masks[n] & self.allowed for n in self.slots]
        self.rests = [0] * (len(self.masks) + 1)
        for k in range(len(self.masks) - 1, -1, -1):
            self.rests[k] = self.masks[k] | self.rests[k + 1]
        goes = instance.goes_loosely if loosely else instance.goes_with
        self.goes_with = [g & ~t for g, t in zip(goes, instance.twins, strict=True)] if once else goes
        self.credits = self._credits()
        self.room = instance.credits_limit - instance.credits_fixed if room is None else room
        least, most = self._least_and_most()
        self.is_limited = limited and most[0] > self.room
        self.least_to_come = least
        self._counts: list[dict[object, int]] = [{} for _ in self.masks]
        self._exists: list[dict[object, bool]] = [{} for _ in self.masks]

    def among(self, options: int) -> Search:
        """The same search among some of the options."""
        slots, active, loosely, limited, once = self._of
        return Search(
            self.instance,
            slots,
            active,
            loosely=loosely,
            limited=limited,
            once=once,
            among=options,
            room=self.room,
        )

    def going_with(self, goes_with: list[int]) -> Search:
        """The same search with other compatibilities between options; it shares the steps."""
        search = self.among(self.rests[0])
        search.goes_with = goes_with
        search.steps = self.steps
        return search

    def _credits(self) -> list[int]:
        """The credits of each option; a bundle counts only at the first of its slots, because all its
        sections are taken together or not at all."""
        credits = [o.credits for o in self.instance.options]
        first: dict[str, int] = {}
        for position, mask in enumerate(self.masks):
            for n in bits_of(mask):
                option = self.instance.options[n]
                if option.bundle is None or self.instance.is_of_choice(option.slot):
                    continue
                if first.setdefault(option.bundle, position) != position:
                    credits[n] = 0
        return credits

    def _least_and_most(self) -> tuple[list[int], list[int]]:
        """The least and the most credits that slots from each position on can add."""
        least, most = [0], [0]
        for mask in reversed(self.masks):
            of_slot = [self.credits[n] for n in bits_of(mask)] or [0]
            least.append(least[-1] + min(of_slot))
            most.append(most[-1] + max(of_slot))
        return least[::-1], most[::-1]

    def count(self, most: int = MOST_COUNTED) -> Number:
        """The number of timetables; counting stops soon after exceeding ``most``."""
        if not self.masks:
            return Number(1)
        if not all(self.masks):
            return Number(0)
        self._most = most
        if self.is_limited:
            value = self._count_limited(0, self.rests[0], self.room)
        else:
            value = self._count(0, self.rests[0])
        return Number(min(value, most + 1), value > most or not self.steps.are_used_up)

    def _count(self, k: int, possible: int) -> int:
        here = possible & self.masks[k]
        if k + 1 == len(self.masks):
            return here.bit_count()
        memo = self._counts[k]
        known = memo.get(possible)
        if known is not None:
            return known
        rest = possible & self.rests[k + 1]
        goes_with, then, most, is_last = (
            self.goes_with,
            self.masks[k + 1],
            self._most,
            k + 2 == len(self.masks),
        )
        steps = self.steps
        total = 0
        steps.left -= here.bit_count()
        while here:
            lowest = here & -here
            here ^= lowest
            left = rest & goes_with[lowest.bit_length() - 1]
            if left & then:
                total += left.bit_count() if is_last else self._count(k + 1, left)
                if total > most or steps.left < 0:
                    return total
        memo[possible] = total
        return total

    def _count_limited(self, k: int, possible: int, room: int) -> int:
        if k == len(self.masks):
            return 1
        key = possible, room
        memo = self._counts[k]
        known = memo.get(key)
        if known is not None:
            return known
        here = possible & self.masks[k]
        rest = possible & self.rests[k + 1]
        room -= self.least_to_come[k + 1]
        total = 0
        self.steps.left -= here.bit_count() * _STEPS_TO_TRY
        for n in bits_of(here):
            if self.credits[n] <= room:
                left = rest & self.goes_with[n]
                total += self._count_limited(k + 1, left, room - self.credits[n] + self.least_to_come[k + 1])
                if total > self._most or self.steps.left < 0:
                    return total
        memo[key] = total
        return total

    def exists(self, k: int = 0, possible: int | None = None, room: int | None = None) -> bool:
        """Whether slots from the k-th on can be filled from the possible options.

        Args:
            room: credits left, in tenths.
        """
        possible = self.rests[0] if possible is None else possible & self.rests[k]
        return self._can(k, possible, self.room if room is None else room)

    def _can(self, k: int, possible: int, room: int) -> bool:
        if self.is_limited and room < self.least_to_come[k]:
            return False
        if k == len(self.masks):
            return True
        for mask in self.masks[k:]:
            if not possible & mask:
                return False
        key: object = (possible, room) if self.is_limited else possible
        known = self._exists[k].get(key)
        if known is not None:
            return known
        rest = possible & self.rests[k + 1]
        found = False
        here = possible & self.masks[k]
        # Mostly the first will do: the others are not made a list of.
        while here:
            self.steps.left -= _STEPS_TO_TRY
            if self.steps.left < 0:
                return found
            n = (here & -here).bit_length() - 1
            here &= here - 1
            after = room - self.credits[n] if self.is_limited else room
            if self._can(k + 1, rest & self.goes_with[n], after):
                found = True
                break
        self._exists[k][key] = found
        return found

    def count_with(self, option: int) -> int:
        """The number of timetables with one option."""
        for mask in self.masks:
            if mask >> option & 1:
                rest = self.rests[0] & ~mask | 1 << option
                if self.is_limited:
                    return self._count_limited(0, rest, self.room)
                return self._count(0, rest)
        return 0
