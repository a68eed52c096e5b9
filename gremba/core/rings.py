"""Rings of waiting swaps: students who each wait for what the next one would give up. All of a
ring can be served in one step, though no seat is free.

Those who have waited longest go first: each in turn is looked for a ring, and of several rings
the one that leads on over those who have waited longest. Whoever stands ahead of a member on a
waitlist loses nothing: the seat that the member gets comes free only because the ring is closed.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

TRIED = 200
"""Rings at most that are looked at for one who waits."""


@dataclass(frozen=True, slots=True)
class Wish:
    """A waiting swap.

    Attributes:
        place: id of the place.
        wants: the pool in which a seat is wanted.
        gives: the pool whose seat would be given up.
    """

    place: int
    wants: int
    gives: int


Ring = tuple[Wish, ...]


def find_rings(wishes: Sequence[Wish], agrees: Callable[[Ring], bool]) -> list[Ring]:
    """Rings that can be served together, no wish in two of them.

    Args:
        wishes: those who have waited longest first.
        agrees: whether every member's decision agrees; asked once for each ring tried.
    """
    served: set[int] = set()
    found: list[Ring] = []
    for wish in wishes:
        if wish.place in served:
            continue
        for tried, ring in enumerate(_rings_of(wish, wishes, served)):
            if tried == TRIED:
                break
            if agrees(ring):
                found.append(ring)
                served |= {w.place for w in ring}
                break
    return found


def _rings_of(first: Wish, wishes: Sequence[Wish], served: set[int]) -> Iterator[Ring]:
    """The rings that a wish is in; no pool comes twice in one."""
    givers: dict[int, list[Wish]] = {}
    for wish in wishes:
        if wish.place not in served and wish.wants != wish.gives:
            givers.setdefault(wish.gives, []).append(wish)

    def go_on(path: tuple[Wish, ...], pools: frozenset[int]) -> Iterator[Ring]:
        for wish in givers.get(path[-1].wants, ()):
            if wish.wants == first.gives and wish is not first:
                yield (*path, wish)
        for wish in givers.get(path[-1].wants, ()):
            if wish is not first and wish.wants not in pools:
                yield from go_on((*path, wish), pools | {wish.wants})

    if first.wants != first.gives:
        yield from go_on((first,), frozenset({first.wants, first.gives}))
