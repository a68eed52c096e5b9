"""Walks through timetables in order of quality without sorting all of them.

Of all beginnings of a timetable the most promising is gone on with: the one whose measures can still
become the least. What each measure can still become is a bound that never promises too little, so a
timetable that comes up whole is the best of all that are left (best-first search with an admissible
bound, common practice).
"""

from __future__ import annotations

import heapq
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from gremba.core.bits import bits_of
from gremba.core.timetables.measure import Measure
from gremba.core.timetables.searching import Search


@dataclass(frozen=True, slots=True)
class Chosen:
    """A timetable as options, one per slot, in the order of the search.

    Attributes:
        key: its measures.
        is_in_order: else the steps were used up, and there may be better ones.
    """

    options: tuple[int, ...]
    key: tuple[int, ...]
    is_in_order: bool = True


_STEPS_A_BEGINNING = 25
"""A beginning of a timetable costs about as much as so many steps of searching, and each of its measures
again."""

_STEPS_AFTERWARDS = 200_000
"""What may be spent besides where the steps are used up, on ending what has been begun."""


class _Beginning(NamedTuple):
    """A partial timetable; the most promising compares as the least.

    Attributes:
        is_looked_ahead: whether the key is as close as the measures can say.
    """

    key: tuple[int, ...]
    chosen: tuple[int, ...]
    possible: int
    room: int
    is_looked_ahead: bool


def best_first(search: Search, measures: Sequence[Measure]) -> Iterator[Chosen]:
    """Yields every timetable, best first; ties in the order of slots and options.

    Where the search's steps are used up, the most promising beginnings are ended as well as each can be
    at once, and then it ends.
    """
    if not all(search.masks):
        return
    last = len(search.masks)
    looks_ahead = any(measure.looks_ahead for measure in measures)
    heap = list(_first(search, measures))
    while heap and not search.steps.are_used_up:
        beginning = heapq.heappop(heap)
        if len(beginning.chosen) == last:
            yield Chosen(beginning.chosen, beginning.key)
            continue
        if looks_ahead and not beginning.is_looked_ahead:
            closer = _looked_ahead(search, measures, beginning)
            if closer.key > beginning.key:
                heapq.heappush(heap, closer)
                continue
        for longer in _longer(search, measures, beginning):
            heapq.heappush(heap, longer)
    if not heap:
        return
    search.steps.left = _STEPS_AFTERWARDS
    for beginning in sorted(heap):
        while len(beginning.chosen) < last:
            following = list(_longer(search, measures, beginning))
            if not following:
                search.steps.left = -1
                return
            beginning = min(following)
        yield Chosen(beginning.chosen, beginning.key, is_in_order=False)
    search.steps.left = -1


def _first(search: Search, measures: Sequence[Measure]) -> Iterator[_Beginning]:
    if search.exists():
        possible = search.rests[0]
        key = _key(search, measures, (), possible, search.room)
        yield _Beginning(key, (), possible, search.room, False)


def _longer(search: Search, measures: Sequence[Measure], beginning: _Beginning) -> Iterator[_Beginning]:
    """The beginnings with one more slot filled that can still be completed."""
    _, chosen, possible, room, _ = beginning
    k = len(chosen)
    rest = possible & search.rests[k + 1]
    for n in bits_of(possible & search.masks[k]):
        search.steps.left -= _STEPS_A_BEGINNING * (1 + len(measures))
        left, after = rest & search.goes_with[n], room - search.credits[n]
        if search.exists(k + 1, left, after):
            longer = (*chosen, n)
            yield _Beginning(_key(search, measures, longer, left, after), longer, left, after, False)


def _looked_ahead(search: Search, measures: Sequence[Measure], beginning: _Beginning) -> _Beginning:
    _, chosen, possible, room, _ = beginning
    key = _key(search, measures, chosen, possible, room, ahead=True)
    return beginning._replace(key=key, is_looked_ahead=True)


def _key(
    search: Search,
    measures: Sequence[Measure],
    chosen: tuple[int, ...],
    possible: int,
    room: int,
    *,
    ahead: bool = False,
) -> tuple[int, ...]:
    """The bound of each measure, given those before it."""
    options = search.instance.options
    taken = [options[n] for n in chosen]
    key = []
    for measure in measures:
        bound = measure.bound_ahead if ahead else measure.bound
        value, possible = bound(len(chosen), taken, possible, room)
        key.append(value)
    return tuple(key)
