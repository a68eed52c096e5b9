"""Finds the smallest sets of demands that no timetable can meet together.

A set that can be had is enlarged as far as it can be; what it leaves out must be touched by every set
that cannot be had. So the smallest set that touches all that was left out so far is tried next: can it
be had, it is enlarged and more is known; can it not, there is no smaller one (the duality of minimal
unsatisfiable and minimal correction sets, common practice).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

from gremba.core.bits import bits_of
from gremba.core.timetables.instance import Element, ElementKind, Instance, tenths
from gremba.core.timetables.searching import Search, Steps

MOST_SETS = 3

MOST_WITH_LIMIT = 7
"""Of more wants than these there are very many smallest sets that are too many credits; then the limit is
looked at by itself."""

_MOST_ROUNDS = 400


def smallest_impossible(
    universe: int, is_possible: Callable[[int], bool], steps: Steps | None = None
) -> Iterator[int]:
    """The minimal impossible sets: smallest first, ties in order of their elements.

    Args:
        universe: all elements, as bits.
        is_possible: monotone: a part of what is possible is possible.
        steps: what may be spent.

    Raises:
        OutOfSteps: it is spent.
    """
    found: list[int] = []
    left_out: list[int] = []
    steps = steps or Steps()
    for _ in range(_MOST_ROUNDS):
        candidate = _smallest_touching(left_out, found, steps)
        if candidate is None:
            return
        if not is_possible(candidate):
            found.append(candidate)
            yield candidate
            continue
        for element in bits_of(universe & ~candidate):
            if is_possible(candidate | 1 << element):
                candidate |= 1 << element
        left_out.append(universe & ~candidate)


def _smallest_touching(sets: Sequence[int], beside: Sequence[int], steps: Steps) -> int | None:
    """The smallest set that intersects each of these and contains none of the others; None if there is
    none."""
    if not all(sets):
        return None
    if not sets:
        return None if 0 in beside else 0
    every = 0
    for one in sets:
        every |= one
    for size in range(1, every.bit_count() + 1):
        touching = sorted(_touching(sets, beside, 0, size, steps), key=bits_of)
        if touching:
            return touching[0]
    return None


def _touching(sets: Sequence[int], beside: Sequence[int], chosen: int, size: int, steps: Steps) -> set[int]:
    steps.left -= len(sets)
    if steps.are_used_up:
        raise OutOfSteps
    if any(not other & ~chosen for other in beside):
        return set()
    missed = next((one for one in sets if not one & chosen), None)
    if missed is None:
        return {chosen}
    if not size:
        return set()
    found: set[int] = set()
    for element in bits_of(missed):
        found |= _touching(sets, beside, chosen | 1 << element, size - 1, steps)
    return found


class Possible:
    """Whether parts of a question are possible.

    Args:
        steps: what may be spent; once it is used up, nothing more is known.
    """

    def __init__(self, instance: Instance, steps: Steps) -> None:
        self._instance = instance
        self.steps = steps
        self._known: dict[int, bool] = {}
        kinds = {kind: 0 for kind in ElementKind}
        for n, element in enumerate(instance.elements):
            kinds[element.kind] |= 1 << n
        self._kinds = kinds
        optional = sum(
            1 << n
            for n, e in enumerate(instance.elements)
            if e.kind in (ElementKind.WANT, ElementKind.NARROWING) and e.index in instance.optional
        )
        self.universe = instance.everything & ~optional

    @property
    def wants(self) -> int:
        """The number of required wants."""
        return (self.universe & self._kinds[ElementKind.WANT]).bit_count()

    @property
    def limit(self) -> int:
        """The credit limit, as a set."""
        return self._kinds[ElementKind.LIMIT]

    def too_many_credits(self) -> list[int]:
        """The smallest set of wants that exceeds the credit limit with everything registered, even at
        their least credits; none if all together do not. Of equally small sets, the one with most credits."""
        instance = self._instance
        least: list[tuple[int, int]] = []
        for n, element in enumerate(instance.elements):
            if element.kind is ElementKind.WANT and self.universe >> n & 1:
                credits = 0
                for slot in instance.slots_of([element.index]):
                    credits += min((o.credits for o in instance.options if o.slot == slot), default=0)
                least.append((-credits, n))
        room = instance.credits_limit - instance.credits_fixed
        chosen = self.limit | self._kinds[ElementKind.HELD]
        for credits, n in sorted(least):
            chosen |= 1 << n
            room += credits
            if room < 0:
                return [chosen]
        return []

    def search(self, elements: int, among: int | None = None) -> Search:
        """A search for timetables that meet exactly these requirements."""
        instance = self._instance
        wants = [e.index for e in self.of(elements) if e.kind is ElementKind.WANT]
        held = {e.name for e in self.of(elements) if e.kind is ElementKind.HELD}
        fixed = sum(tenths(h.credits) for h in instance.stays if h.section.course.key in held)
        return Search(
            instance,
            instance.slots_of(wants),
            elements,
            loosely=not elements & self._kinds[ElementKind.WAYS],
            limited=bool(elements & self._kinds[ElementKind.LIMIT]),
            among=among,
            room=instance.credits_limit - fixed,
            steps=self.steps,
        )

    def __call__(self, elements: int) -> bool:
        known = self._known.get(elements)
        if known is None:
            search = self.search(elements)
            overloaded = search.is_limited and search.room < search.least_to_come[0]
            known = all(search.masks) and not overloaded and search.exists()
            if self.steps.are_used_up:
                raise OutOfSteps
            self._known[elements] = known
        return known

    def of(self, elements: int) -> list[Element]:
        """Whether these are possible together."""
        return [self._instance.elements[n] for n in bits_of(elements)]


class OutOfSteps(Exception):
    """The limit of search steps is reached; what is known stays known."""


def impossible_sets(possible: Possible) -> tuple[list[tuple[Element, ...]], bool]:
    """The minimal impossible sets, and whether the search was complete."""
    found: list[int] = []
    universe = possible.universe
    if possible.wants > MOST_WITH_LIMIT:
        universe &= ~possible.limit
        found += possible.too_many_credits()
    try:
        for elements in smallest_impossible(universe, possible, possible.steps):
            found.append(elements)
            if len(found) == MOST_SETS:
                break
    except OutOfSteps:
        if not found:
            found += possible.too_many_credits()
        return [tuple(possible.of(elements)) for elements in found], False
    return [tuple(possible.of(elements)) for elements in found], True
