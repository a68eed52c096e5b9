"""The best timetables in order, without sorting all.

Of all beginnings of a timetable the most promising is gone on with: the one whose measures can still
become the least. What each measure can still become is a bound that never promises too little, so a
timetable that comes up whole is the best of all that are left (best-first search with an admissible
bound, common practice).
"""

from __future__ import annotations

import heapq
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from gremba.core.fits.criteria import Measure
from gremba.core.fits.instance import Option
from gremba.core.fits.searching import Search, bits_of


@dataclass(frozen=True, slots=True)
class Chosen:
    """A timetable as options, one a slot, in the order of the search.

    Attributes:
        key: its measures.
        is_in_order: else the time was up, and a better one may come later.
    """

    options: tuple[int, ...]
    key: tuple[int, ...]
    is_in_order: bool = True


def best_first(search: Search, measures: Sequence[Measure]) -> Iterator[Chosen]:
    """Every timetable, the best first; of those as good the first in the order of slots and options."""
    if not all(search.masks):
        return
    options = search.instance.options
    heap: list[tuple[tuple[int, ...], tuple[int, ...], int, int]] = []

    def key_of(chosen: tuple[int, ...], possible: int, room: int) -> tuple[int, ...]:
        k = len(chosen)
        taken: list[Option] = [options[n] for n in chosen]
        key = []
        for measure in measures:
            value, possible = measure.bound(k, taken, possible, room)
            key.append(value)
        return tuple(key)

    def put(chosen: tuple[int, ...], possible: int, room: int) -> None:
        k = len(chosen)
        if search.exists(k, possible, room):
            heapq.heappush(heap, (key_of(chosen, possible, room), chosen, possible, room))

    put((), search.rests[0], search.room)
    last = len(search.masks)
    while heap:
        key, chosen, possible, room = heapq.heappop(heap)
        k = len(chosen)
        if k == last:
            yield Chosen(chosen, key, not search.steps.are_used_up)
            continue
        rest = possible & search.rests[k + 1]
        for n in bits_of(possible & search.masks[k]):
            put((*chosen, n), rest & search.goes_with[n], room - search.credits[n])
