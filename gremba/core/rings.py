"""Rings of waiting swaps: students who each wait for what the next one would give up. All of a
ring can be served in one step, though no seat is free.

Those who have waited longest go first: each in turn is looked for the shortest ring, and of those
the one that leads on over those who have waited longest. Whoever stands ahead of a member on a
waitlist loses nothing: the seat that the member gets comes free only because the ring is closed.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass


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


def find_rings(
    wishes: Sequence[Wish], serve: Callable[[Ring], Collection[int]], most: int = 1_000_000
) -> list[Ring]:
    """Rings that can be served together, no wish in two of them.

    Each look for a ring takes time that grows with the number of wishes, and after each one at least
    is out: served, stopped, or found to lie on none.

    Args:
        wishes: those who have waited longest first.
        serve: serves a ring, and gives the places of those who are stopped: they are left out from
            then on. None of them means that it was served.
        most: so many rings at the most are tried.
    """
    left = _Left(wishes)
    found: list[Ring] = []
    for wish in wishes:
        while wish.place in left.wishes and most > 0:
            ring = left.shortest_ring(wish)
            if ring is None:
                # Only fewer will be left, so it lies on none later either.
                left.take_out([wish.place])
                break
            most -= 1
            stopped = serve(ring)
            if not stopped:
                found.append(ring)
            left.take_out(stopped or [w.place for w in ring])
    return found


class _Left:
    """The wishes that may still lie on a ring: somebody left gives what each wants, and wants what it
    gives."""

    def __init__(self, wishes: Sequence[Wish]) -> None:
        self.wishes = {w.place: w for w in wishes if w.wants != w.gives}
        # By pool, those who want it and those who give it, in order of waiting.
        self._wanting: dict[int, dict[int, Wish]] = {}
        self._giving: dict[int, dict[int, Wish]] = {}
        for wish in self.wishes.values():
            self._wanting.setdefault(wish.wants, {})[wish.place] = wish
            self._giving.setdefault(wish.gives, {})[wish.place] = wish
        self.take_out([w.place for w in self.wishes.values() if not self._goes_on(w)])

    def _goes_on(self, wish: Wish) -> bool:
        return bool(self._giving.get(wish.wants) and self._wanting.get(wish.gives))

    def take_out(self, places: Collection[int]) -> None:
        """Take wishes out, and with them whoever cannot lie on a ring any more."""
        out = list(places)
        while out:
            wish = self.wishes.pop(out.pop(), None)
            if wish is None:
                continue
            wanting, giving = self._wanting[wish.wants], self._giving[wish.gives]
            del wanting[wish.place], giving[wish.place]
            if not giving:
                out += self._wanting.get(wish.gives, ())
            if not wanting:
                out += self._giving.get(wish.wants, ())

    def shortest_ring(self, first: Wish) -> Ring | None:
        """The shortest ring that a wish lies on; of several the one over those who wait longest."""
        came_by: dict[int, Wish] = {}
        """For a pool that is reached, who leads on to it."""
        reached = {first.wants}
        waiting = deque([first.wants])
        while waiting:
            pool = waiting.popleft()
            for wish in self._giving.get(pool, {}).values():
                if wish.wants == first.gives:
                    ring = [wish]
                    while ring[-1].gives != first.wants:
                        ring.append(came_by[ring[-1].gives])
                    return (first, *reversed(ring))
                if wish.wants not in reached:
                    reached.add(wish.wants)
                    came_by[wish.wants] = wish
                    waiting.append(wish.wants)
        return None
